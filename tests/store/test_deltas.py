"""Plans stored by what differs from an earlier one: the same plan comes back, and little is stored."""

import sqlite3
from pathlib import Path
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from support.helpers import noise, take, write_wav
from wedge_turn.core.turns import Swap, Width
from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref
from wedge_turn.store import Store
from wedge_turn.store.database import FILE
from wedge_turn.store.deltas import pack, unpack
from wedge_turn.tasks import ClipService

LINES = 300


def plan_of(widths: list[float]) -> dict[str, Any]:
    steps = tuple(Step(id=f"line-{n}", turn=Width(width=w), inputs=("source:song",)) for n, w in enumerate(widths))
    return Plan(steps=steps, archived=("source:old",)).model_dump(mode="json")


@settings(max_examples=60, deadline=None)
@given(st.permutations(range(40)), st.lists(st.integers(0, 39), max_size=4), st.integers(0, 40))
def test_what_is_packed_comes_back(order: list[int], changed: list[int], kept: int) -> None:
    base = plan_of([1.0] * 40)
    steps = [base["steps"][n] for n in (order if len(changed) > 2 else range(40))][:kept]
    steps = [{**step, "bypassed": True} if n in changed else step for n, step in enumerate(steps)]
    plan = {**base, "steps": steps, "archived": []}
    delta = pack(plan, base)
    if delta is not None:
        assert unpack(delta, base) == plan


def test_a_plan_that_has_little_in_common_is_stored_whole() -> None:
    base = plan_of([1.0] * 40)
    assert pack(plan_of([0.5] * 40), base) is None
    assert pack(plan_of([1.0] * 39 + [0.5]), base) is not None
    assert pack(plan_of([1.0] * 40), {**base, "version": 2}) is None


def test_a_moved_setting_of_three_hundred_lines_takes_less_than_5_kb(tmp_path: Path) -> None:
    store = Store(tmp_path / "data")
    try:
        job = store.jobs.create("Lamp")
        source = source_ref(take(store, job.id, write_wav(tmp_path / "w.wav", noise(1, 100, 2)).read_bytes()).id)
        clips = ClipService(store)
        many = [Step(id=f"line-{n}", turn=Swap(), inputs=(source,)) for n in range(LINES)]
        clips.change(job.id, job.head_id, lambda sheet: (sheet.plan.with_step(*many), "Added"))

        def move(to: float, *, amends: bool) -> None:
            def change(sheet: Sheet) -> tuple[Plan, str]:
                line = sheet.plan.step("line-7")
                return sheet.plan.with_replaced_step(line.model_copy(update={"turn": Width(width=to)})), "Changed"

            head = store.jobs.get(job.id).head_id
            clips.change(job.id, head, change, head if amends else None)

        def bytes_used() -> int:
            with sqlite3.connect(tmp_path / "data" / FILE) as connection:
                connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
                pages, free, size = (
                    connection.execute(f"PRAGMA {name}").fetchone()[0]
                    for name in ("page_count", "freelist_count", "page_size")
                )
            return int((pages - free) * size)

        move(0.5, amends=False)
        before = bytes_used()
        for n in range(40):
            move(0.6 + n / 100, amends=False)
        assert (bytes_used() - before) / 40 < 5_000
        for n in range(40):
            move(1.2 + n / 100, amends=n > 0)
        assert (bytes_used() - before) / 41 < 5_000
        # All of them are there, also those that others are stored by.
        for revision in store.worksheets.all(job.id):
            assert len(store.worksheets.plan(job.id, revision.id).steps) == revision.turns
        head = store.worksheets.plan(job.id, store.jobs.get(job.id).head_id)
        assert head.step("line-7").turn == Width(width=1.2 + 39 / 100)
        assert len(head.steps) == LINES
    finally:
        store.close()
