"""Files on disk and the rows that name them: nothing that was acknowledged is lost, nothing unused stays, damage is
said.
"""

import os
import subprocess
import sys
import threading
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest

from support.helpers import take
from support.small_files import adding, files, flac, wav
from support.waiting import PATIENCE, until
from wedge_turn.core.audio import WavFile
from wedge_turn.core.errors import ChangedError, DataFolderError, MissingError, NotFoundError
from wedge_turn.core.worksheet import Plan, Sheet
from wedge_turn.store import Store
from wedge_turn.store.media import ImportedFile, Media
from wedge_turn.store.rows import Source
from wedge_turn.tasks import ClipService, Events, Tasks


def test_a_file_arriving_during_a_jobs_deletion_is_not_lost(store: Store, tmp_path: Path) -> None:
    """The same content in two jobs; the one is deleted at every moment of the other's arrival."""
    content, frames = wav(tmp_path), 3_000
    for _ in range(25):
        old, new = store.jobs.create("old"), store.jobs.create("new")
        take(store, old.id, content)
        barrier = threading.Barrier(2)

        def delete(job_id: str = old.id, barrier: threading.Barrier = barrier) -> None:
            barrier.wait()
            store.delete_job(job_id)

        thread = threading.Thread(target=delete)
        thread.start()
        barrier.wait()
        source = take(store, new.id, content)
        thread.join()
        assert store.media.open(source.media, source.name).form.frames == frames
        store.delete_job(new.id)
    assert files(tmp_path) == []


def test_a_deletion_waits_until_a_file_has_its_row(
    store: Store, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    old, new = store.jobs.create("old"), store.jobs.create("new")
    take(store, old.id, wav(tmp_path))
    placed, go_on, real = threading.Event(), threading.Event(), Media.place

    def slow(self: Media, taken: ImportedFile) -> None:
        real(self, taken)
        placed.set()
        assert go_on.wait(PATIENCE)

    monkeypatch.setattr(Media, "place", slow)
    sources: list[Source] = []
    taking = threading.Thread(target=lambda: sources.append(take(store, new.id, wav(tmp_path))))
    taking.start()
    assert placed.wait(PATIENCE)
    deleting = threading.Thread(target=store.delete_job, args=(old.id,))
    deleting.start()
    assert deleting.is_alive()
    go_on.set()
    taking.join()
    deleting.join()
    assert store.media.problem(sources[0].media, "w.wav") is None


def test_a_file_for_a_deleted_job_is_discarded(store: Store, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    job, real = store.jobs.create("Lamp"), Media.import_file

    def deleted_meanwhile(self: Media, arrived: object) -> ImportedFile:
        store.delete_job(job.id)
        return real(self, arrived)  # type: ignore[arg-type]

    monkeypatch.setattr(Media, "import_file", deleted_meanwhile)
    with pytest.raises(NotFoundError):
        take(store, job.id, wav(tmp_path))
    assert files(tmp_path) == []


def test_the_same_file_uploaded_concurrently_is_one_source(store: Store, tmp_path: Path) -> None:
    job, content = store.jobs.create("Lamp"), wav(tmp_path)
    threads = [threading.Thread(target=take, args=(store, job.id, content)) for _ in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(store.sources.for_job(job.id)) == 1


HOLD = """
import sys
from pathlib import Path
from wedge_turn.store import Store
store = Store(Path(sys.argv[1]))
print("held", flush=True)
sys.stdin.read()
"""


def test_a_data_folder_belongs_to_one_process(tmp_path: Path) -> None:
    with subprocess.Popen(
        [sys.executable, "-c", HOLD, str(tmp_path / "data")], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    ) as other:
        assert other.stdout is not None
        assert other.stdout.readline() == "held\n"
        with pytest.raises(DataFolderError, match=rf"in use by process {other.pid}"):
            Store(tmp_path / "data")
        other.kill()
    Store(tmp_path / "data").close()  # the system let go of it


@pytest.mark.parametrize("content", [wav, flac])
def test_a_missing_file_is_reported_and_restored_by_adding_it_again(
    store: Store, tmp_path: Path, content: Callable[..., bytes]
) -> None:
    job = store.jobs.create("Lamp")
    source, other = take(store, job.id, content(tmp_path)), take(store, job.id, content(tmp_path, 2), "other.wav")
    store.media.original(source.media).unlink()
    problem = store.media.problem(source.media, "w.wav")
    assert problem == "w.wav is missing from the data folder"
    assert store.media.problem(other.media, "other.wav") is None
    with pytest.raises(MissingError):
        ClipService(store).clip_of(source)
    assert take(store, job.id, content(tmp_path)).id == source.id
    assert ClipService(store).clip_of(source).read(0, 3_000).any()


@pytest.mark.parametrize("keep_time", [False, True])
def test_changed_bytes_of_a_stored_file_are_noticed(store: Store, tmp_path: Path, keep_time: bool) -> None:
    """By size and time when it is opened; with the old time put back, by the hash before it is delivered."""
    job = store.jobs.create("Lamp")
    source = take(store, job.id, wav(tmp_path))
    path = store.media.original(source.media)
    before, content = path.stat(), bytearray(path.read_bytes())
    content[5_000:6_000] = bytes(1_000)
    path.write_bytes(content)
    if keep_time:
        os.utime(path, ns=(before.st_atime_ns, before.st_mtime_ns))
    with pytest.raises(ChangedError, match=r"w\.wav has changed"):
        store.media.verify(source.media, "w.wav")
    assert store.media.problem(source.media, "w.wav") is not None
    with pytest.raises(ChangedError):
        ClipService(store).clip_of(source)


def test_a_file_that_was_only_touched_is_still_itself(store: Store, tmp_path: Path) -> None:
    job = store.jobs.create("Lamp")
    source = take(store, job.id, wav(tmp_path))
    os.utime(store.media.original(source.media))
    assert store.media.problem(source.media, "w.wav") is None


@pytest.mark.parametrize("spoil", [Path.unlink, lambda path: path.write_bytes(path.read_bytes()[:-900] + bytes(900))])
def test_a_lost_working_copy_is_decoded_again(store: Store, tmp_path: Path, spoil) -> None:  # type: ignore[no-untyped-def]
    job = store.jobs.create("Lamp")
    source = take(store, job.id, flac(tmp_path), "w.flac")
    before = ClipService(store).clip_of(source).read(0, 3_000)
    (copy,) = (tmp_path / "data" / "working").glob("*/*.wav")
    spoil(copy)
    store.media.verify(source.media, "w.flac")
    assert np.array_equal(ClipService(store).clip_of(source).read(0, 3_000), before)


def test_a_working_copy_that_is_cleared_is_made_again_for_who_goes_on_reading(store: Store, tmp_path: Path) -> None:
    job, clips = store.jobs.create("Lamp"), ClipService(store)
    source = take(store, job.id, flac(tmp_path), "w.flac")
    reader, other = clips.clip_of(source), WavFile(store.media.open(source.media, "w.flac").path)
    before = reader.read(0, 3_000)
    for _ in range(2):
        store.media.clear_working_copy(source.media)
        assert list((tmp_path / "data" / "working").glob("*/*.wav")) == []
        assert np.array_equal(reader.read(0, 3_000), before)
    other.close()
    with pytest.raises(ChangedError):  # it has no way to tell that the other file is the same
        other.read(0, 10)


def test_cut_pictures_are_drawn_again(store: Store, tmp_path: Path) -> None:
    job = store.jobs.create("Lamp")
    clips, source = ClipService(store), take(store, job.id, wav(tmp_path, frames=90_000))
    clip = clips.clip_of(source)
    whole = clips.from_pictures(source.media, clip, lambda folder: (folder / "0").read_bytes())

    def read(folder: Path) -> bytes:
        content = (folder / "0").read_bytes()
        if len(content) < len(whole):
            raise ValueError("cut")
        return content

    os.truncate(store.media.pictures(source.media) / "0", 5)
    assert clips.from_pictures(source.media, clip, read) == whole


def test_a_source_is_deleted_for_good_and_its_lines_wait(store: Store, tmp_path: Path) -> None:
    job, clips = store.jobs.create("Lamp"), ClipService(store)
    source, other = take(store, job.id, wav(tmp_path)), take(store, job.id, wav(tmp_path, 2), "other.wav")
    used = clips.change(job.id, job.head_id, adding(source))
    clips.delete_source(job.id, source.id, used.id)
    assert [one.id for one in store.sources.for_job(job.id)] == [other.id]
    assert files(tmp_path) == [f"media/{other.media[:2]}/{other.media}"]
    head = clips.sheet(job.id, store.jobs.get(job.id).head_id)
    assert (head.waiting, head.list_ends()) == ({"s": "w"}, [])
    # So do those of revisions that used it.
    assert clips.sheet(job.id, used.id).waiting == {"s": "a deleted file"}


def test_reads_wait_for_neither_reads_nor_writes(store: Store) -> None:
    """A read that is under way, and a change that is, hold up no other read."""
    job = store.jobs.create("Lamp")
    with store._database.reading() as reading, store._database.changing() as changing:
        from wedge_turn.store.rows import Job

        assert reading.get(Job, job.id) is not None
        changed = changing.get(Job, job.id)
        assert changed is not None
        changed.name = "Changed"
        changing.flush()
        done = threading.Event()

        def read() -> None:
            store.jobs.get(job.id)
            done.set()

        threading.Thread(target=read, daemon=True).start()
        assert done.wait(5)


def test_amended_revisions_do_not_pile_up(store: Store, tmp_path: Path) -> None:
    job, clips = store.jobs.create("Lamp"), ClipService(store)
    source = take(store, job.id, wav(tmp_path))
    head = clips.change(job.id, job.head_id, adding(source)).id

    def again(sheet: Sheet) -> tuple[Plan, str]:
        return sheet.plan, "Changed what swap makes"

    head = clips.change(job.id, head, again).id
    for _ in range(40):
        head = clips.change(job.id, head, again, amends=head).id
    shown = [revision.number for revision in store.worksheets.all(job.id)]
    assert len(shown) == 3
    assert len(store.worksheets.ids(job.id)) <= 3 + 8
    assert store.worksheets.undo(job.id, store.worksheets.head(job.id).id).number == 2
    # A change of another kind is never taken for one that goes on.
    before = store.jobs.get(job.id).head_id
    other = clips.change(job.id, before, lambda sheet: (sheet.plan, "Other"), amends=before)
    assert other.parent_id == before


def test_a_complete_upload_survives_a_crash(store: Store, tmp_path: Path) -> None:
    job, content = store.jobs.create("Lamp"), wav(tmp_path)
    upload = store.uploads.create(job.id, "w.wav", "day 1", len(content))
    with store.uploads.writing(upload, 0) as fd:
        os.write(fd, content)
    broken = store.uploads.create(job.id, "x.wav", "", 11)
    with store.uploads.writing(broken, 0) as fd:
        os.write(fd, b"not a sound")
    half = store.uploads.create(job.id, "half.wav", "", len(content))
    tasks = Tasks(store, Events())
    tasks.resume()
    until(lambda: [(s.name, s.folder) for s in store.sources.for_job(job.id)] == [("w.wav", "day 1")])
    until(lambda: [one.id for one, _ in store.uploads.all()] == [half.id])
    tasks.close()
