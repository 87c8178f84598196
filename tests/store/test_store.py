"""What is kept: revisions with undo and redo, media by content, migrations, and two who write at once."""

import sqlite3
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import create_engine

from support.helpers import kept_files, left_behind, noise, take, write_wav
from wedge_turn.core.errors import (
    BadRequestError,
    NotAudioError,
    NotFoundError,
    NothingToDoError,
    StaleError,
    TurnInputError,
)
from wedge_turn.core.turns import Split
from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref
from wedge_turn.store import Store
from wedge_turn.store.database import FILE
from wedge_turn.store.order import StoredOrder
from wedge_turn.store.rows import Row
from wedge_turn.tasks import ClipService


@pytest.fixture
def store(tmp_path: Path) -> Iterator[Store]:
    opened = Store(tmp_path / "data")
    yield opened
    opened.close()


def stereo(tmp_path: Path, seed: int = 1) -> bytes:
    return write_wav(tmp_path / "w.wav", noise(seed, 3_000, 2)).read_bytes()


def adding(step: Step):  # type: ignore[no-untyped-def]
    def change(sheet: Sheet) -> tuple[Plan, str]:
        return sheet.plan.with_step(step), f"added {step.id}"

    return change


def ids(store: Store, job_id: str) -> list[str]:
    return [step.id for step in store.worksheets.plan(job_id, store.worksheets.head(job_id).id).steps]


def test_undo_redo_and_an_edit_after_an_undo_lose_nothing(store: Store, tmp_path: Path) -> None:
    job = store.jobs.create("Lamp")
    source = take(store, job.id, stereo(tmp_path))

    def add(name: str) -> None:
        step = Step(id=name, turn=Split(), inputs=(source_ref(source.id),))
        ClipService(store).change(job.id, store.jobs.get(job.id).head_id, adding(step))

    for name in ("a", "b", "c"):
        add(name)
    store.worksheets.undo(job.id, store.worksheets.head(job.id).id)
    store.worksheets.undo(job.id, store.worksheets.head(job.id).id)
    assert ids(store, job.id) == ["a"]
    store.worksheets.redo(job.id, store.worksheets.head(job.id).id)
    assert ids(store, job.id) == ["a", "b"]
    abandoned = store.worksheets.all(job.id)[0]
    add("d")
    assert ids(store, job.id) == ["a", "b", "d"]
    with pytest.raises(NothingToDoError):
        store.worksheets.redo(job.id, store.worksheets.head(job.id).id)
    assert [r.number for r in store.worksheets.all(job.id)] == [5, 4, 3, 2, 1]
    store.worksheets.go_to(job.id, abandoned.id, store.worksheets.head(job.id).id)
    assert ids(store, job.id) == ["a", "b", "c"]
    store.worksheets.undo(job.id, store.worksheets.head(job.id).id)
    store.worksheets.redo(job.id, store.worksheets.head(job.id).id)
    assert ids(store, job.id) == ["a", "b", "c"]
    for _ in range(3):
        store.worksheets.undo(job.id, store.worksheets.head(job.id).id)
    with pytest.raises(NothingToDoError):
        store.worksheets.undo(job.id, store.worksheets.head(job.id).id)
    assert store.worksheets.name(job.id, abandoned.id, " before  dinner ").name == "before dinner"
    assert store.worksheets.name(job.id, abandoned.id, None).name is None


@pytest.mark.parametrize("with_delivery", [False, True])
def test_the_database_keeps_a_revision_that_something_hangs_on(
    store: Store, tmp_path: Path, *, with_delivery: bool
) -> None:
    """Whatever asks for it: the constraint itself, by a connection that shares nothing with the store."""
    job = store.jobs.create("Lamp")
    source = take(store, job.id, stereo(tmp_path))
    step = Step(id="a", turn=Split(), inputs=(source_ref(source.id),))
    head = ClipService(store).change(job.id, job.head_id, adding(step))
    wanted = head.id if with_delivery else job.head_id
    if with_delivery:
        store.deliveries.create(job.id, head.id, StoredOrder(refs=(source_ref(source.id),)))
        store.worksheets.undo(job.id, head.id)
    with sqlite3.connect(tmp_path / "data" / FILE) as connection:
        connection.execute("PRAGMA foreign_keys=ON")
        with pytest.raises(sqlite3.IntegrityError):
            connection.execute("DELETE FROM revision WHERE id = ?", (wanted,))
    store.delete_job(job.id)
    assert store.jobs.all() == []


def test_the_second_of_two_concurrent_changes_is_refused(store: Store, tmp_path: Path) -> None:
    job = store.jobs.create("Lamp")
    source = take(store, job.id, stereo(tmp_path))
    barrier = threading.Barrier(4)
    outcomes: list[str] = []

    def change(name: str) -> None:
        barrier.wait()
        try:
            ClipService(store).change(
                job.id, job.head_id, adding(Step(id=name, turn=Split(), inputs=(source_ref(source.id),)))
            )
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


def test_an_invalid_plan_is_not_stored(store: Store, tmp_path: Path) -> None:
    job = store.jobs.create("Lamp")
    mono = take(store, job.id, write_wav(tmp_path / "m.wav", noise(1, 10, 1)).read_bytes())
    with pytest.raises(TurnInputError):
        ClipService(store).change(
            job.id, job.head_id, adding(Step(id="x", turn=Split(), inputs=(source_ref(mono.id),)))
        )
    assert store.jobs.get(job.id).head_id == job.head_id


def test_media_are_stored_once_and_deleted_with_their_last_job(store: Store, tmp_path: Path) -> None:
    content = stereo(tmp_path)
    first, second = store.jobs.create("a"), store.jobs.create("b")
    one, two = take(store, first.id, content), take(store, second.id, content, "same.wav")
    assert one.media == two.media
    assert len(left_behind(tmp_path / "data" / "media")) == 1
    clips = ClipService(store)
    clips.pictures(one.media, clips.clip_of(one))
    store.delete_job(first.id)
    assert len(left_behind(tmp_path / "data" / "media")) == 1
    store.delete_job(second.id)
    for folder in ("media", "pictures", "arriving", "working"):
        assert left_behind(tmp_path / "data" / folder) == []
    assert store.jobs.all() == []
    with pytest.raises(NotFoundError):
        store.sources.for_job(first.id)


def test_a_refused_or_interrupted_intake_leaves_nothing_behind(store: Store, tmp_path: Path) -> None:
    job = store.jobs.create("Lamp")
    with pytest.raises(NotAudioError):
        take(store, job.id, b"no audio at all")

    def broken_off() -> Iterator[bytes]:
        yield stereo(tmp_path)[:500]
        raise ConnectionError

    with pytest.raises(ConnectionError):
        store.uploads.receive(job.id, "w.wav", broken_off())
    assert store.sources.for_job(job.id) == []
    assert kept_files(tmp_path / "data") == []


def test_everything_is_there_after_opening_again(store: Store, tmp_path: Path) -> None:
    job = store.jobs.create("Lamp")
    source = take(store, job.id, stereo(tmp_path))
    delivery = store.deliveries.create(job.id, job.head_id, StoredOrder(refs=(source_ref(source.id),)))
    store.deliveries.set_state(delivery.id, "writing")
    store.close()
    again = Store(tmp_path / "data")
    assert [j.name for j in again.jobs.all()] == ["Lamp"]
    assert ClipService(again).engine(job.id, job.head_id).clip(source_ref(source.id)).form.frames == 3_000
    assert [d.id for d in again.deliveries.unfinished()] == [delivery.id]
    assert again.jobs.all()[0].created.utcoffset() is not None
    again.close()


@pytest.mark.usefixtures("store")
def test_migrations_match_the_models(tmp_path: Path) -> None:
    """Tables, columns, their types, which may be empty, indexes and foreign keys, compared by Alembic."""
    with create_engine(f"sqlite:///{tmp_path}/data/wedge-turn.sqlite3").connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": True})
        assert compare_metadata(context, Row.metadata) == []


@pytest.mark.parametrize("name", ["", "  ", "x" * 201])
def test_names_of_jobs_have_limits(store: Store, name: str) -> None:
    with pytest.raises(BadRequestError):
        store.jobs.create(name)
