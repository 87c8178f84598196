"""Deliveries in the background: told, stopped, failed by name, and gone on with after a restart."""

import os
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest

from support.helpers import kept_files, left_behind, noise, read_ints, take, write_wav
from support.waiting import PATIENCE, until
from wedge_turn.core.clips import Signal
from wedge_turn.core.measure import Measures, measure_signal
from wedge_turn.core.turns import Split
from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref
from wedge_turn.store import Store
from wedge_turn.store.order import StoredOrder
from wedge_turn.store.rows import Delivery, Source
from wedge_turn.tasks import Event, Events, Tasks

FRAMES = 3_000_000


class Bench:
    """A store with one job whose only line splits a file, and tasks on it."""

    def __init__(self, folder: Path) -> None:
        self.store = Store(folder / "data")
        self.job = self.store.jobs.create("Lamp")
        source = take(self.store, self.job.id, write_wav(folder / "w.wav", noise(1, FRAMES, 2)).read_bytes())

        def change(sheet: Sheet) -> tuple[Plan, str]:
            return sheet.plan.with_step(Step(id="s", turn=Split(), inputs=(source_ref(source.id),))), "split"

        self.media = source.media
        self.events = Events()
        self.tasks = Tasks(self.store, self.events)
        self.revision = self.tasks.clips.change(self.job.id, self.job.head_id, change)

    def order(self) -> Delivery:
        return self.store.deliveries.create(self.job.id, self.revision.id, StoredOrder(refs=("step:s:0", "step:s:1")))

    def settled(self, delivery: Delivery) -> Delivery:
        until(lambda: self.store.deliveries.get(delivery.id).state not in ("waiting", "writing"))
        return self.store.deliveries.get(delivery.id)


@pytest.fixture
def bench(tmp_path: Path) -> Iterator[Bench]:
    workplace = Bench(tmp_path)
    yield workplace
    workplace.tasks.close()
    workplace.store.close()


def first_progress(events: Events, act: Callable[[str], None]) -> threading.Event:
    """Act on a delivery when its first progress is told."""
    acted = threading.Event()

    def listen(event: Event) -> None:
        if event.data.get("state") == "writing" and not acted.is_set():
            acted.set()
            act(event.data["delivery"])

    events.subscribe(listen)
    return acted


def test_progress_is_reported_to_the_end(bench: Bench) -> None:
    events: list[Event] = []
    bench.events.subscribe(events.append)
    delivery = bench.order()
    bench.tasks.deliveries.start(delivery.id)
    done = bench.settled(delivery)
    assert done.state == "done"
    bench.tasks.close()
    assert [e.data["state"] for e in events][-1] == "done"
    shares = [e.data["progress"] for e in events]
    assert shares == sorted(shares)
    folder = bench.store.media.delivery(delivery.id)
    written = len(list(folder.glob("*.wav")))
    last = events[-1].data
    assert (last["progress"], last["files_done"], last["files"]) == (1.0, written, written)
    assert np.array_equal(read_ints(folder / "w_L.wav")[:, 0], noise(1, FRAMES, 2)[:, 0])
    assert bench.store.deliveries.proofs(bench.job.id)


def test_a_stop_leaves_no_files(bench: Bench) -> None:
    acted = first_progress(bench.events, bench.tasks.deliveries.stop)
    delivery = bench.order()
    bench.tasks.deliveries.start(delivery.id)
    assert bench.settled(delivery).state == "stopped"
    assert acted.is_set()
    assert left_behind(bench.store.media.delivery(delivery.id).parent) == []


def test_a_delivery_deleted_while_it_is_written_leaves_no_files(bench: Bench) -> None:
    acted = first_progress(bench.events, bench.store.deliveries.delete)
    delivery = bench.order()
    bench.tasks.deliveries.start(delivery.id)
    assert acted.wait(PATIENCE)
    bench.tasks.close()
    assert bench.store.deliveries.for_job(bench.job.id) == []
    assert left_behind(bench.store.media.delivery(delivery.id).parent) == []


def test_unfinished_work_resumes_after_a_restart(bench: Bench) -> None:
    closing = threading.Event()

    def close(_: str) -> None:
        bench.tasks.deliveries.close()
        closing.set()

    first_progress(bench.events, close)
    delivery = bench.order()
    bench.tasks.deliveries.start(delivery.id)
    assert closing.wait(PATIENCE)
    bench.tasks.close()
    assert bench.store.deliveries.get(delivery.id).state == "writing"
    again = Tasks(bench.store, Events())
    again.resume()
    assert bench.settled(delivery).state == "done"
    again.close()


def test_a_missing_source_fails_the_delivery_by_name(bench: Bench) -> None:
    bench.store.media.forget(bench.media)
    delivery = bench.order()
    bench.tasks.deliveries.start(delivery.id)
    failed = bench.settled(delivery)
    assert failed.state == "failed"
    assert failed.error is not None
    assert "w.wav" in failed.error["message"]
    assert str(bench.store.media.delivery("")) not in failed.error["message"]


def test_a_file_is_measured_once_for_all_requests(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    """Its pictures are drawn and its job looked over at the same time, and somebody opens its details meanwhile."""
    measured: list[int] = []

    def slow(signal: Signal, watch: Callable[[int], None] = lambda _: None, damaged: int = 0) -> Measures:
        measured.append(signal.form.frames)
        time.sleep(1)
        return measure_signal(signal, watch, damaged)

    monkeypatch.setattr("wedge_turn.tasks.clips.measure_signal", slow)
    (source,) = bench.store.sources.for_job(bench.job.id)
    bench.tasks.measuring.prepare_source(source)
    until(lambda: measured)
    asked = bench.tasks.clips.measure(source.media, bench.tasks.clips.clip_of(source))
    bench.tasks.close()
    assert measured.count(FRAMES) == 1
    assert asked.whole.peak_dbfs == 0.0


def test_the_same_file_in_two_jobs_is_judged_in_both(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    """It comes into the second while it is being measured for the first."""
    surveying, go_on, drawn = threading.Event(), threading.Event(), threading.Event()

    def slow(signal: Signal, watch: Callable[[int], None] = lambda _: None, damaged: int = 0) -> Measures:
        surveying.set()
        assert go_on.wait(PATIENCE)
        return measure_signal(signal, watch, damaged)

    monkeypatch.setattr("wedge_turn.tasks.clips.measure_signal", slow)
    monkeypatch.setattr("wedge_turn.tasks.measuring.DEBOUNCE_SECONDS", 0.01)
    (source,) = bench.store.sources.for_job(bench.job.id)
    bench.tasks.measuring.prepare_source(source)
    assert surveying.wait(PATIENCE)
    content = bench.store.media.original(source.media).read_bytes()
    copy = take(bench.store, bench.store.jobs.create("Bell").id, content)
    monkeypatch.setattr(bench.tasks.clips, "pictures", lambda *_given: drawn.set())
    bench.tasks.measuring.prepare_source(copy)
    assert drawn.wait(PATIENCE)
    time.sleep(0.3)  # until the second job has asked for the measures too
    go_on.set()
    until(lambda: len(bench.store.measures.judgements([source.id, copy.id])) == 2)


def test_an_internal_error_is_logged_and_reported_without_details(
    bench: Bench, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def broken(*_given: object, **_how: object) -> None:
        raise RuntimeError("at 0x7f00")

    monkeypatch.setattr("wedge_turn.tasks.deliveries.deliver", broken)
    delivery = bench.order()
    bench.tasks.deliveries.start(delivery.id)
    failed = bench.settled(delivery)
    assert failed.state == "failed"
    assert failed.error is not None
    assert "0x7f00" not in str(failed.error)
    assert "0x7f00" in caplog.text


def test_an_unmeasurable_file_stops_no_other(bench: Bench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def picky(signal: Signal, watch: Callable[[int], None] = lambda _: None, damaged: int = 0) -> Measures:
        if signal.form.frames == FRAMES:
            raise RuntimeError("too long")
        return measure_signal(signal, watch, damaged)

    monkeypatch.setattr("wedge_turn.tasks.clips.measure_signal", picky)
    short = take(
        bench.store, bench.job.id, write_wav(tmp_path / "short.wav", noise(2, 900, 2)).read_bytes(), "short.wav"
    )
    told: list[Event] = []
    bench.events.subscribe(told.append)
    for source in bench.store.sources.for_job(bench.job.id):
        bench.tasks.measuring.prepare_source(source)
    until(lambda: [event for event in told if event.kind == "measured"])
    bench.tasks.close()
    assert set(bench.store.measures.get([short.media, bench.media])) == {short.media}


def test_a_delivery_that_was_deleted_while_it_waited_is_not_written(bench: Bench) -> None:
    delivery = bench.order()
    bench.store.deliveries.delete(delivery.id)
    bench.tasks.deliveries.start(delivery.id)
    bench.tasks.close()
    assert left_behind(bench.store.media.delivery(delivery.id).parent) == []


def test_a_source_whose_bytes_were_changed_is_never_delivered(bench: Bench) -> None:
    """With its old size and time, so that only the hash tells, which is checked before a proof rests on it."""
    path = bench.store.media.original(bench.media)
    before, content = path.stat(), bytearray(path.read_bytes())
    content[5_000:10_000] = bytes(5_000)
    path.write_bytes(content)
    os.utime(path, ns=(before.st_atime_ns, before.st_mtime_ns))
    delivery = bench.order()
    bench.tasks.deliveries.start(delivery.id)
    failed = bench.settled(delivery)
    assert failed.error is not None
    assert (failed.state, failed.error["code"]) == ("failed", "changed")
    assert "w.wav" in failed.error["message"]


def test_a_missing_file_stops_no_other_measurement(bench: Bench, tmp_path: Path) -> None:
    names = ("a.wav", "b.wav", "c.wav")
    sources = [
        take(bench.store, bench.job.id, write_wav(tmp_path / name, noise(seed, 900, 2)).read_bytes(), name)
        for seed, name in enumerate(names)
    ]
    bench.store.media.original(sources[0].media).unlink()
    bench.tasks.measuring.resume()
    wanted = {source.media for source in sources[1:]} | {bench.media}
    until(lambda: set(bench.store.measures.get([*wanted, sources[0].media])) == wanted)


def test_a_delivery_does_not_wait_for_measurements(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    """However many of them there are before it."""
    go_on = threading.Event()

    def held_up(signal: Signal, watch: Callable[[int], None] = lambda _: None, damaged: int = 0) -> Measures:
        go_on.wait(PATIENCE)
        return measure_signal(signal, watch, damaged)

    monkeypatch.setattr("wedge_turn.tasks.clips.measure_signal", held_up)
    clip = bench.tasks.clips.clip_of(bench.store.sources.for_job(bench.job.id)[0])
    for _ in range(30):
        bench.tasks.scheduler.start("look", held_up, clip)
    delivery = bench.order()
    bench.tasks.deliveries.start(delivery.id)
    assert bench.settled(delivery).state == "done"
    go_on.set()


def test_a_subscriber_that_fails_breaks_no_delivery(bench: Bench, caplog: pytest.LogCaptureFixture) -> None:
    def broken(_: Event) -> None:
        raise RuntimeError("its window is closed")

    bench.events.subscribe(broken)
    delivery = bench.order()
    bench.tasks.deliveries.start(delivery.id)
    assert bench.settled(delivery).state == "done"
    assert "its window is closed" in caplog.text


def test_a_job_that_is_deleted_while_it_is_measured_leaves_nothing(bench: Bench) -> None:
    (source,) = bench.store.sources.for_job(bench.job.id)
    bench.tasks.measuring.prepare_source(source)
    bench.store.delete_job(bench.job.id)
    bench.tasks.janitor.sweep_soon()
    bench.tasks.scheduler.run("look", time.sleep, 0)
    bench.tasks.close()
    bench.tasks.janitor.sweep(0.0, half_done_before=time.time() + 1)
    left = kept_files(bench.store.folder)
    assert left == []


def test_a_file_that_comes_while_the_janitor_looks_stays_measured(
    bench: Bench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    measures, janitor = bench.store.measures, bench.tasks.janitor
    content = (tmp_path / "w.wav").read_bytes()
    look, came = janitor._reachable, list[Source]()

    def come_meanwhile() -> dict[str, frozenset[str]]:
        reachable = look()
        came.append(take(bench.store, bench.store.jobs.create("Rope").id, content[:-3] + b"abc"))
        bench.tasks.measuring.prepare_source(came[0])
        until(lambda: measures.get([came[0].media]))
        return reachable

    monkeypatch.setattr(janitor, "_reachable", come_meanwhile)
    janitor.sweep(0.0)
    assert came[0].media in measures.keys()  # noqa: SIM118


def test_after_closing_nothing_new_is_begun_and_nothing_fails(bench: Bench) -> None:
    (source,) = bench.store.sources.for_job(bench.job.id)
    bench.tasks.close()
    bench.tasks.measuring.prepare_source(source)
    bench.tasks.deliveries.start(bench.order().id)
