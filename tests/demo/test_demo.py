"""The demo: its job, what a second start leaves alone, and that its sounds are worth hearing."""

import shutil
from collections.abc import Iterator
from multiprocessing import active_children
from pathlib import Path

import numpy as np
import pytest

from support.helpers import read_ints
from support.waiting import until
from wedge_turn.demo import DemoMaker, ensure_demo_job, sounds
from wedge_turn.demo.files import RECORDINGS
from wedge_turn.store import Store
from wedge_turn.tasks import ClipService


@pytest.fixture
def store(demo_data: Path, tmp_path: Path) -> Iterator[Store]:
    opened = Store(shutil.copytree(demo_data, tmp_path / "data"))
    yield opened
    opened.close()


def test_the_job_holds_its_files_and_two_lines(store: Store) -> None:
    (job,) = store.jobs.all()
    assert job.name == "Kettle Island Light"
    names = {source.name.rpartition(".")[0] for source in store.sources.for_job(job.id)}
    assert names == {name for recording in RECORDINGS for name in recording.names}
    plan = store.worksheets.plan(job.id, store.worksheets.head(job.id).id)
    assert [step.turn.kind for step in plan.steps] == ["merge", "split"]
    sheet = ClipService(store).sheet(job.id, job.head_id)
    assert [sheet.info(ref).name for ref in sheet.list_ends()] == ["lamp-bell", "gull-pass_L", "gull-pass_R"]
    # 19:42:10 in samples at 48 kHz, as a recorder would leave it in bext (EBU Tech 3285).
    assert sheet.info("step:bell:0").form.start_time == (19 * 3600 + 42 * 60 + 10) * 48_000


def test_what_is_being_made_is_given_up_when_the_server_stops(tmp_path: Path) -> None:
    store = Store(tmp_path / "data")
    maker = DemoMaker(store, lambda _: None)
    assert maker.start().state == "making"
    workers = until(active_children)
    maker.close()
    assert (maker.making.state, store.jobs.all()) == ("none", [])
    assert not any(worker.is_alive() for worker in workers)
    store.close()


def test_a_second_start_keeps_the_users_changes(store: Store) -> None:
    (job,) = store.jobs.all()
    store.worksheets.undo(job.id, store.worksheets.head(job.id).id)
    before = store.jobs.get(job.id).head_id
    ensure_demo_job(store)
    assert [j.id for j in store.jobs.all()] == [job.id]
    assert store.jobs.get(job.id).head_id == before


@pytest.mark.parametrize("make", [sounds.lamp_bell, sounds.tower_stairs, sounds.gull_pass, sounds.evening_song])
def test_sounds_are_loud_enough_fit_and_last(make) -> None:  # type: ignore[no-untyped-def]
    left, right = make(22_050)
    assert 15 <= left.size / 22_050 <= 40
    assert left.size == right.size
    for side in (left, right):
        peak = np.abs(side).max()
        assert 0.25 < peak < 1
        assert np.sqrt((side**2).mean()) > 0.005
        assert abs(side.mean()) < 0.01


def test_the_gull_moves_from_left_to_right() -> None:
    left, right = sounds.gull_pass(22_050)
    thirds = [slice(n * left.size // 3, (n + 1) * left.size // 3) for n in range(3)]
    balance = [float(np.log10((right[t] ** 2).sum() / (left[t] ** 2).sum())) for t in thirds]
    assert balance[0] < -0.5 < 0.5 < balance[2]
    assert balance == sorted(balance)


def test_the_song_has_a_centre_and_sides() -> None:
    left, right = sounds.evening_song(22_050)
    r = (left @ right) / np.sqrt((left @ left) * (right @ right))
    assert 0.4 < r < 0.95


def test_files_carry_their_metadata(demo_files: dict[str, Path]) -> None:
    assert read_ints(demo_files["lamp-bell_L"]).shape == (20 * 48_000, 1)
    assert read_ints(demo_files["evening-song"], 16).shape == (32 * 44_100, 2)
