"""What the janitor removes, and what it leaves alone."""

import os
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from support.helpers import take
from support.small_files import adding, files, flac, wav
from support.waiting import until
from wedge_turn.store import Store
from wedge_turn.tasks import Event, Events, Tasks
from wedge_turn.tasks.janitor import Janitor


class Cleaning:
    def __init__(self, store: Store) -> None:
        self.events: list[Event] = []
        events = Events()
        events.subscribe(self.events.append)
        self.tasks = Tasks(store, events)
        self.janitor = Janitor(store, self.tasks.scheduler, events, budget=2**20)


@pytest.fixture
def cleaning(store: Store) -> Iterator[Cleaning]:
    janitors = Cleaning(store)
    yield janitors
    janitors.tasks.close()


def test_leftovers_of_a_killed_process_are_removed(store: Store, cleaning: Cleaning, tmp_path: Path) -> None:
    source = take(store, store.jobs.create("Lamp").id, flac(tmp_path), "w.flac")
    remaining = files(tmp_path)
    data = tmp_path / "data"
    for name in (
        "media/ab/" + "ab" * 32,
        "working/ab/abcd.0123",
        "working/ab/" + "cd" * 32 + ".wav",
        "arriving/" + "0" * 32,
    ):
        (data / name).parent.mkdir(parents=True, exist_ok=True)
        (data / name).write_bytes(b"half")
    (data / "pictures" / "ab" / ".drawing-x").mkdir(parents=True)
    (data / "deliveries" / "nobody's").mkdir(parents=True)
    (data / "media" / "notes.txt").write_text("somebody's own file")
    cleaning.janitor.sweep(0.0, half_done_before=time.time() + 1)
    assert files(tmp_path) == sorted([*remaining, "media/notes.txt"])
    assert not (data / "deliveries" / "nobody's").exists()
    assert store.media.problem(source.media, "w.flac") is None


def test_pictures_being_drawn_are_not_removed(store: Store, cleaning: Cleaning) -> None:
    drawing = store.folder / "pictures" / "ab" / ".drawing-now"
    drawing.mkdir(parents=True)
    (drawing / "0").write_bytes(b"half")
    old = store.folder / "pictures" / "ab" / ".drawing-before"
    old.mkdir()
    os.utime(old, (time.time() - 60, time.time() - 60))
    cleaning.janitor.start()
    until(lambda: not old.exists())
    assert drawing.exists()


def test_pictures_and_measures_go_with_the_last_revision_that_reaches_them(
    store: Store, cleaning: Cleaning, tmp_path: Path
) -> None:
    job, clips = store.jobs.create("Lamp"), cleaning.tasks.clips
    source = take(store, job.id, wav(tmp_path))
    head = clips.change(job.id, job.head_id, adding(source)).id
    engine = clips.engine(job.id, head)
    keys = [source.media, engine.sheet.key("step:s:0"), "side by side"]
    for key in keys:
        clips.pictures(key, clips.clip_of(source))
        clips.measure(key, clips.clip_of(source))
    store.worksheets.undo(job.id, store.worksheets.head(job.id).id)
    cleaning.janitor.sweep(0.0)  # redo still reaches it
    assert [store.media.pictures(key).exists() for key in keys] == [True, True, False]
    assert store.measures.keys() == set(keys[:2])
    store.delete_job(job.id)
    cleaning.janitor.sweep(0.0)
    assert files(tmp_path) == []
    assert store.measures.keys() == set()


def test_pictures_keep_within_their_budget(store: Store, cleaning: Cleaning, tmp_path: Path) -> None:
    """The ones that were not looked at for longest go first."""
    job, clips = store.jobs.create("Lamp"), cleaning.tasks.clips
    sources = [take(store, job.id, wav(tmp_path, seed), f"{seed}.wav") for seed in range(3)]
    for age, source in enumerate(sources):
        folder = clips.pictures(source.media, clips.clip_of(source))
        (folder / "0").write_bytes(bytes(600_000))
        moment = time.time() - 100 * (3 - age)
        os.utime(folder, (moment, moment))
    cleaning.janitor.sweep()
    assert [store.media.pictures(source.media).exists() for source in sources] == [False, False, True]


def test_an_upload_that_has_just_begun_is_not_removed(store: Store, cleaning: Cleaning) -> None:
    """Its file is there a moment before what is known of it."""
    begun = store.folder / "arriving" / ("1" * 32)
    begun.touch()
    cleaning.janitor.sweep(0.0, half_done_before=time.time() - 60)
    assert begun.exists()


def test_abandoned_uploads_are_removed_after_a_week(store: Store, cleaning: Cleaning) -> None:
    job = store.jobs.create("Lamp")
    old, new = (store.uploads.create(job.id, name, "", 10) for name in ("old.wav", "new.wav"))
    eight_days_ago = time.time() - 8 * 24 * 3600
    for path in (store.folder / "arriving").glob(f"{old.id}*"):
        os.utime(path, (eight_days_ago, eight_days_ago))
    cleaning.janitor.sweep()
    assert [upload.id for upload, _ in store.uploads.all()] == [new.id]


def test_the_janitor_finds_files_that_were_changed(store: Store, cleaning: Cleaning, tmp_path: Path) -> None:
    job = store.jobs.create("Lamp")
    source = take(store, job.id, wav(tmp_path))
    path = store.media.original(source.media)
    before, content = path.stat(), bytearray(path.read_bytes())
    content[900] ^= 1
    path.write_bytes(content)
    os.utime(path, ns=(before.st_atime_ns, before.st_mtime_ns))
    assert store.media.problem(source.media, "w.wav") is None  # neither size nor time tell
    cleaning.janitor.check_media()
    assert store.media.problem(source.media, "w.wav") is not None
    assert [event.kind for event in cleaning.events] == ["job-changed"]
