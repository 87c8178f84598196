"""What is kept: revisions with undo and redo, media by content, migrations, and two who write at once."""

import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy import create_engine, inspect

from helpers import left_behind, noise, write_wav
from wedge_turn.core.errors import (
    BadRequestError,
    NotAudioError,
    NotFoundError,
    NothingToDoError,
    StaleError,
    TurnInputError,
)
from wedge_turn.core.plan import Plan, Step, source_ref
from wedge_turn.core.turns import ClipInfo, Split
from wedge_turn.store import Store
from wedge_turn.store.rows import Row, Source


@pytest.fixture
def store(tmp_path: Path) -> Iterator[Store]:
    opened = Store(tmp_path / "data")
    yield opened
    opened.close()


def take(store: Store, job_id: str, content: bytes, name: str = "w.wav") -> Source:
    with store.media.arriving(name) as arriving:
        arriving.write(content)
        return store.add_source(job_id, arriving)


def stereo(tmp_path: Path, seed: int = 1) -> bytes:
    return write_wav(tmp_path / "w.wav", noise(seed, 3_000, 2)).read_bytes()


def adding(step: Step):  # type: ignore[no-untyped-def]
    def change(plan: Plan, _: dict[str, ClipInfo]) -> tuple[Plan, str]:
        return plan.adding(step), f"added {step.id}"

    return change


def ids(store: Store, job_id: str) -> list[str]:
    head = store.revision(job_id, store.job(job_id).head_id)
    return [step.id for step in Plan.model_validate(head.plan).steps]


def test_undo_redo_and_an_edit_after_an_undo_lose_nothing(store: Store, tmp_path: Path) -> None:
    job = store.create_job("Lamp")
    source = take(store, job.id, stereo(tmp_path))

    def add(name: str) -> None:
        step = Step(id=name, turn=Split(), inputs=(source_ref(source.id),))
        store.change(job.id, store.job(job.id).head_id, adding(step))

    for name in ("a", "b", "c"):
        add(name)
    store.undo(job.id)
    store.undo(job.id)
    assert ids(store, job.id) == ["a"]
    store.redo(job.id)
    assert ids(store, job.id) == ["a", "b"]
    abandoned = store.revisions(job.id)[0]
    add("d")
    assert ids(store, job.id) == ["a", "b", "d"]
    with pytest.raises(NothingToDoError):
        store.redo(job.id)
    assert [r.number for r in store.revisions(job.id)] == [5, 4, 3, 2, 1]
    store.go_to(job.id, abandoned.id)
    assert ids(store, job.id) == ["a", "b", "c"]
    store.undo(job.id)
    store.redo(job.id)
    assert ids(store, job.id) == ["a", "b", "c"]
    for _ in range(3):
        store.undo(job.id)
    with pytest.raises(NothingToDoError):
        store.undo(job.id)
    assert store.name_revision(job.id, abandoned.id, " before  dinner ").name == "before dinner"
    assert store.name_revision(job.id, abandoned.id, None).name is None


def test_of_two_who_change_at_once_one_is_told(store: Store, tmp_path: Path) -> None:
    job = store.create_job("Lamp")
    source = take(store, job.id, stereo(tmp_path))
    barrier = threading.Barrier(4)
    outcomes: list[str] = []

    def change(name: str) -> None:
        barrier.wait()
        try:
            store.change(job.id, job.head_id, adding(Step(id=name, turn=Split(), inputs=(source_ref(source.id),))))
            outcomes.append("done")
        except StaleError:
            outcomes.append("stale")

    threads = [threading.Thread(target=change, args=(f"s{n}",)) for n in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(outcomes) == ["done", "stale", "stale", "stale"]
    assert len(ids(store, job.id)) == 1


def test_a_plan_that_cannot_be_worked_out_is_not_kept(store: Store, tmp_path: Path) -> None:
    job = store.create_job("Lamp")
    mono = take(store, job.id, write_wav(tmp_path / "m.wav", noise(1, 10, 1)).read_bytes())
    for ref, error in ((source_ref(mono.id), TurnInputError), ("source:gone", NotFoundError)):
        with pytest.raises(error):
            store.change(job.id, job.head_id, adding(Step(id="x", turn=Split(), inputs=(ref,))))
    assert store.job(job.id).head_id == job.head_id


def test_media_are_kept_once_and_go_with_their_last_job(store: Store, tmp_path: Path) -> None:
    content = stereo(tmp_path)
    first, second = store.create_job("a"), store.create_job("b")
    one, two = take(store, first.id, content), take(store, second.id, content, "same.wav")
    assert one.media == two.media
    assert len(left_behind(tmp_path / "data" / "media")) == 1
    engine = store.engine(first.id, first.head_id)
    ref = source_ref(one.id)
    store.pictures(engine.sheet.key(ref), engine.clip(ref))
    store.delete_job(first.id)
    assert len(left_behind(tmp_path / "data" / "media")) == 1
    store.delete_job(second.id)
    for folder in ("media", "pictures", "arriving", "working"):
        assert left_behind(tmp_path / "data" / folder) == []
    assert store.jobs() == []
    with pytest.raises(NotFoundError):
        store.sources(first.id)


def test_what_is_refused_or_broken_off_leaves_nothing(store: Store, tmp_path: Path) -> None:
    job = store.create_job("Lamp")
    with pytest.raises(NotAudioError):
        take(store, job.id, b"no audio at all")
    with store.media.arriving("w.wav") as arriving:
        arriving.write(stereo(tmp_path)[:500])
    assert store.sources(job.id) == []
    assert [f for f in left_behind(tmp_path / "data") if "sqlite3" not in f] == []


def test_everything_is_there_after_opening_again(store: Store, tmp_path: Path) -> None:
    job = store.create_job("Lamp")
    source = take(store, job.id, stereo(tmp_path))
    delivery = store.create_delivery(job.id, job.head_id, {"refs": [source_ref(source.id)], "depth": "same"})
    store.set_delivery(delivery.id, "writing")
    store.close()
    again = Store(tmp_path / "data")
    assert [j.name for j in again.jobs()] == ["Lamp"]
    assert again.engine(job.id, job.head_id).clip(source_ref(source.id)).form.frames == 3_000
    assert [d.id for d in again.unfinished_deliveries()] == [delivery.id]
    assert again.jobs()[0].created.utcoffset() is not None
    again.close()


def test_migrations_make_what_the_rows_say(store: Store, tmp_path: Path) -> None:
    made = inspect(create_engine(f"sqlite:///{tmp_path}/data/wedge-turn.sqlite3"))
    for table in Row.metadata.sorted_tables:
        assert {c["name"] for c in made.get_columns(table.name)} == {c.name for c in table.columns}
    store.job(store.create_job("x").id)


@pytest.mark.parametrize("name", ["", "  ", "x" * 201])
def test_names_of_jobs_have_limits(store: Store, name: str) -> None:
    with pytest.raises(BadRequestError):
        store.create_job(name)
