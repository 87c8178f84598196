"""The one door to everything that is kept. Every method is one transaction; rows leave it detached and complete."""

import shutil
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import replace
from pathlib import Path
from typing import Any, Final, TypeVar

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session, sessionmaker

from wedge_turn.core.audio.form import Form
from wedge_turn.core.centre.pages import Pages
from wedge_turn.core.engine import Clip, Engine, clip_of
from wedge_turn.core.errors import BadRequestError, NotFoundError, NothingToDoError, StaleError, TurnInputError
from wedge_turn.core.groups import groups_of, merges_of
from wedge_turn.core.manifest import Manifest
from wedge_turn.core.measure.pictures import draw
from wedge_turn.core.measure.survey import Measures, survey
from wedge_turn.core.naming import stem
from wedge_turn.core.plan import Plan, Sheet, source_ref
from wedge_turn.core.turns import ClipInfo, Merge
from wedge_turn.store.database import open_database
from wedge_turn.store.media import Media
from wedge_turn.store.rows import Delivery, Job, Measured, Revision, Row, Source, new_id
from wedge_turn.store.uploads import Arrived

LONGEST_NAME: Final = 200
MOST_SHEETS: Final = 12
MOST_COMPUTED: Final = 4
SheetKey = tuple[str, frozenset[str]]
T = TypeVar("T", bound=Row)


class Store:
    def __init__(self, folder: Path) -> None:
        """Open the data in `folder`, making or migrating it as needed."""
        folder.mkdir(parents=True, exist_ok=True)
        self.media = Media(folder)
        self._engine = open_database(folder / "wedge-turn.sqlite3")
        self._sessions = sessionmaker(self._engine, expire_on_commit=False)
        self._drawing: dict[str, threading.Lock] = {}
        self._pages: OrderedDict[str, Pages] = OrderedDict()
        self._sheets: OrderedDict[SheetKey, Sheet] = OrderedDict()
        self._measures: dict[str, Measures] = {}  # a kilobyte each
        self._lock = threading.Lock()

    def close(self) -> None:
        self._engine.dispose()

    # Jobs

    def jobs(self) -> list[Job]:
        """All jobs, the newest first."""
        with self._sessions() as session:
            return list(session.scalars(select(Job).order_by(Job.created.desc())))

    def job(self, job_id: str) -> Job:
        with self._sessions() as session:
            return _get(session, Job, job_id, "job")

    def create_job(self, name: str) -> Job:
        with self._changing() as session:
            job_id, first = new_id(), new_id()
            job = Job(id=job_id, name=_checked_name(name), head_id=first)
            # The job and its first revision point at each other: the job's key is checked when all is written.
            session.connection().exec_driver_sql("PRAGMA defer_foreign_keys=ON")
            session.add(job)
            session.flush()
            session.add(
                Revision(id=first, job_id=job_id, number=1, label="Started", plan=Plan().model_dump(mode="json"))
            )
            return job

    def rename_job(self, job_id: str, name: str) -> Job:
        with self._changing() as session:
            job = _get(session, Job, job_id, "job")
            job.name = _checked_name(name)
            return job

    def delete_job(self, job_id: str) -> None:
        """Remove a job with its deliveries, and the files that no other job has."""
        with self._changing() as session:
            job = _get(session, Job, job_id, "job")
            media = set(session.scalars(select(Source.media).where(Source.job_id == job_id)))
            deliveries = list(session.scalars(select(Delivery.id).where(Delivery.job_id == job_id)))
            session.connection().exec_driver_sql("PRAGMA defer_foreign_keys=ON")
            session.delete(job)
            session.flush()
            unused = media - set(session.scalars(select(Source.media).where(Source.media.in_(media))))
            session.execute(delete(Measured).where(Measured.key.in_(unused)))
        for upload in self.media.uploads.all(job_id):
            self.media.uploads.remove(upload.id)
        for delivery in deliveries:
            shutil.rmtree(self.media.delivery(delivery), ignore_errors=True)
        for one in unused:
            self.media.forget(one)

    # Sources

    def sources(self, job_id: str) -> list[Source]:
        """The sources of a job in the order they came in."""
        with self._sessions() as session:
            _get(session, Job, job_id, "job")
            return list(session.scalars(select(Source).where(Source.job_id == job_id).order_by(Source.created)))

    def add_source(self, job_id: str, arrived: Arrived) -> Source:
        """Keep a file that has arrived and add it to the job. Raises what `take_in` raises.

        A file of the same name, folder and content that is there already is given back as it is.
        """
        self.job(job_id)
        media, size = arrived.hash, arrived.size
        same = (
            Source.job_id == job_id,
            Source.media == media,
            Source.name == arrived.name,
            Source.folder == arrived.folder,
        )
        with self._sessions() as session:
            if (there := session.scalar(select(Source).where(*same))) is not None:
                return there
        form = self.media.keep(arrived, media)
        with self._changing() as session:
            source = Source(
                job_id=job_id,
                name=arrived.name,
                folder=arrived.folder,
                media=media,
                bytes=size,
                form=form.model_dump(mode="json"),
            )
            session.add(source)
            return source

    # The worksheet and its revisions

    def revision(self, job_id: str, revision_id: str) -> Revision:
        with self._sessions() as session:
            return _revision(session, job_id, revision_id)

    def revisions(self, job_id: str) -> list[Revision]:
        """All revisions of a job but those that were amended at once, the newest first."""
        with self._sessions() as session:
            _get(session, Job, job_id, "job")
            query = select(Revision).where(Revision.job_id == job_id, Revision.amended.is_(False))
            query = query.order_by(Revision.number.desc())
            return list(session.scalars(query))

    def change(
        self,
        job_id: str,
        base: str,
        change: Callable[[Plan, dict[str, ClipInfo]], tuple[Plan, str]],
        amends: str | None = None,
    ) -> Revision:
        """Make a new revision from the head. `change` is given its plan and the sources; it returns plan and label.

        Where `amends` is the head, the new revision takes its place: undo then goes to what was before both.

        Raises StaleError unless `base` is the head: somebody else changed the worksheet meanwhile.
        """
        with self._changing() as session:
            job = _get(session, Job, job_id, "job")
            if job.head_id != base:
                raise StaleError("The worksheet was changed in another window")
            head = _revision(session, job_id, base)
            sources = list(session.scalars(select(Source).where(Source.job_id == job_id)))
            plan, label = change(Plan.model_validate(head.plan), _infos(sources))
            new_revision = new_id()
            # A plan that cannot be worked out is never kept.
            self._worked_out((new_revision, frozenset(source.id for source in sources)), plan, sources)
            parent = _revision(session, job_id, head.parent_id) if amends == base and head.parent_id else None
            last = session.scalar(select(func.max(Revision.number)).where(Revision.job_id == job_id)) or 0
            new = Revision(
                id=new_revision,
                job_id=job_id,
                parent_id=base if parent is None else parent.id,
                number=last + 1,
                label=label,
                plan=plan.model_dump(mode="json"),
            )
            session.add(new)
            session.flush()
            if parent is None:
                head.redo_id = new.id
            else:
                head.amended, parent.redo_id = True, new.id
            job.head_id = new.id
            return new

    def undo(self, job_id: str) -> Revision:
        """Move the head to its parent. Raises NothingToDoError at the start."""
        with self._changing() as session:
            job = _get(session, Job, job_id, "job")
            head = _revision(session, job_id, job.head_id)
            if head.parent_id is None:
                raise NothingToDoError("There is nothing to undo")
            parent = _revision(session, job_id, head.parent_id)
            parent.redo_id, job.head_id = head.id, parent.id
            return parent

    def redo(self, job_id: str) -> Revision:
        """Move the head to where it was undone from. Raises NothingToDoError where it wasn't."""
        with self._changing() as session:
            job = _get(session, Job, job_id, "job")
            head = _revision(session, job_id, job.head_id)
            if head.redo_id is None:
                raise NothingToDoError("There is nothing to redo")
            job.head_id = head.redo_id
            return _revision(session, job_id, head.redo_id)

    def go_to(self, job_id: str, revision_id: str) -> Revision:
        """Make any revision the head; nothing is lost by it."""
        with self._changing() as session:
            job = _get(session, Job, job_id, "job")
            revision = _revision(session, job_id, revision_id)
            job.head_id = revision.id
            return revision

    def name_revision(self, job_id: str, revision_id: str, name: str | None) -> Revision:
        """Make a revision a checkpoint, or an ordinary one again."""
        with self._changing() as session:
            revision = _revision(session, job_id, revision_id)
            revision.name = _checked_name(name) if name else None
            return revision

    # Clips

    def sheet(self, job_id: str, revision_id: str) -> Sheet:
        """The worksheet of a revision, worked out."""
        with self._sessions() as session:
            key = (revision_id, frozenset(session.scalars(select(Source.id).where(Source.job_id == job_id))))
            if (known := self._sheets.get(key)) is not None:
                return known
            sources = list(session.scalars(select(Source).where(Source.job_id == job_id)))
            plan = Plan.model_validate(_revision(session, job_id, revision_id).plan)
        return self._worked_out(key, plan, sources)

    def _worked_out(self, key: SheetKey, plan: Plan, sources: Sequence[Source]) -> Sheet:
        """A sheet, kept for the next who asks: neither a revision nor a source ever changes."""
        sheet = Sheet(plan, _infos(sources), {source.id: source.media for source in sources})
        with self._lock:
            self._sheets[key] = sheet
            while len(self._sheets) > MOST_SHEETS:
                self._sheets.popitem(last=False)
        return sheet

    def engine(self, job_id: str, revision_id: str) -> Engine:
        """An engine for the clips of a revision."""
        with self._sessions() as session:
            query = select(Source.id, Source.media, Source.name).where(Source.job_id == job_id)
            media = {source: (media, name) for source, media, name in session.execute(query)}
        sheet = self.sheet(job_id, revision_id)
        return Engine(sheet, lambda source: self.media.pcm(*media[source]), self._kept_pages)

    def _kept_pages(self, key: str, make: Callable[[], Pages]) -> Pages:
        """Pages of what window turns make, kept while they are listened to; twelve megabytes each at the most."""
        with self._lock:
            if key not in self._pages:
                self._pages[key] = make()
            self._pages.move_to_end(key)
            while len(self._pages) > MOST_COMPUTED:
                self._pages.popitem(last=False)
            return self._pages[key]

    def pictures(self, key: str, clip: Clip) -> Path:
        """The folder of a clip's pictures, drawn now if they aren't yet; two who ask draw once."""
        folder = self.media.pictures(key)
        if not folder.exists():
            with self._lock:
                lock = self._drawing.setdefault(key, threading.Lock())
            with lock:
                if not folder.exists():
                    draw(clip, folder)
            with self._lock:
                self._drawing.pop(key, None)
        return folder

    def measures(self, keys: Iterable[str]) -> dict[str, Measures]:
        """What was measured about clips, by their keys; those that were not yet are left out."""
        wanted = list(dict.fromkeys(keys))
        missing = [key for key in wanted if key not in self._measures]
        with self._sessions() as session:
            for at in range(0, len(missing), 500):  # SQLite takes only so many at once
                query = select(Measured).where(Measured.key.in_(missing[at : at + 500]))
                for row in session.scalars(query):
                    self._measures[row.key] = Measures.model_validate(row.measures)
        return {key: self._measures[key] for key in wanted if key in self._measures}

    def measure(self, key: str, clip: Clip) -> Measures:
        """What there is to measure about a clip, measured now if it hasn't been yet."""
        if found := self.measures([key]):
            return found[key]
        measured = survey(clip, not_finite=sum(source.count_not_finite() for source in clip.sources))
        with self._changing() as session:
            session.merge(Measured(key=key, measures=measured.model_dump(mode="json")))
        self._measures[key] = measured
        return measured

    def clip_of(self, source: Source) -> Clip:
        """A source as a clip, without its job; its key is the hash of its bytes."""
        form = Form.model_validate(source.form)
        return replace(clip_of(self.media.pcm(source.media, source.name)), form=form)

    def unmeasured(self, job_id: str) -> list[tuple[str, Clip]]:
        """Clips of a job that should be measured, with their keys: its sources first, then what groups would make."""
        revision = self.job(job_id).head_id
        engine = self.engine(job_id, revision)
        sheet = engine.sheet
        sources = self.sources(job_id)
        wanted: dict[str, tuple[Merge | None, tuple[str, ...]]] = {}
        for source in sources:
            ref = source_ref(source.id)
            wanted.setdefault(sheet.key(ref), (None, (ref,)))
        groups, _ = groups_of(sheet, [s.id for s in sources], [s.folder for s in sources])
        for turn, inputs in merges_of(sheet, groups):
            with suppress(TurnInputError):
                turn.outcome([sheet.info(ref) for ref in inputs])
                wanted.setdefault(sheet.key_made(turn, inputs, 0), (turn, inputs))
        known = self.measures(wanted)
        return [
            (key, engine.made(turn, refs) if turn else engine.clip(refs[0]))
            for key, (turn, refs) in wanted.items()
            if key not in known
        ]

    # Deliveries

    def deliveries(self, job_id: str) -> list[Delivery]:
        """The deliveries of a job, the newest first."""
        with self._sessions() as session:
            _get(session, Job, job_id, "job")
            return list(
                session.scalars(select(Delivery).where(Delivery.job_id == job_id).order_by(Delivery.created.desc()))
            )

    def unfinished_deliveries(self) -> list[Delivery]:
        """Deliveries that were waiting or being written when the application ended."""
        with self._sessions() as session:
            return list(session.scalars(select(Delivery).where(Delivery.state.in_(("waiting", "writing")))))

    def delivery(self, delivery_id: str) -> Delivery:
        with self._sessions() as session:
            return _get(session, Delivery, delivery_id, "delivery")

    def create_delivery(self, job_id: str, revision_id: str, order: dict[str, Any]) -> Delivery:
        with self._changing() as session:
            _revision(session, job_id, revision_id)
            delivery = Delivery(job_id=job_id, revision_id=revision_id, state="waiting", order=order)
            session.add(delivery)
            return delivery

    def set_delivery(
        self, delivery_id: str, state: str, manifest: Manifest | None = None, error: dict[str, str] | None = None
    ) -> Delivery:
        with self._changing() as session:
            delivery = _get(session, Delivery, delivery_id, "delivery")
            delivery.state = state
            delivery.manifest = manifest.model_dump(mode="json") if manifest else None
            delivery.error = error
            return delivery

    def delete_delivery(self, delivery_id: str) -> None:
        with self._changing() as session:
            session.delete(_get(session, Delivery, delivery_id, "delivery"))
        shutil.rmtree(self.media.delivery(delivery_id), ignore_errors=True)

    def proofs(self, job_id: str) -> dict[str, dict[str, Any]]:
        """Every proof of a job by the key of what it proves, the newest where there are several."""
        found: dict[str, dict[str, Any]] = {}
        for delivery in reversed(self.deliveries(job_id)):
            for proof in (delivery.manifest or {}).get("proofs", []):
                found[proof["key"]] = proof["proof"]
        return found

    @contextmanager
    def _changing(self) -> Iterator[Session]:
        with self._sessions.begin() as session:
            yield session


def _get(session: Session, kind: type[T], key: str, called: str) -> T:
    row = session.get(kind, key)
    if row is None:
        raise NotFoundError(f"There is no such {called}")
    return row


def _revision(session: Session, job_id: str, revision_id: str) -> Revision:
    revision = _get(session, Revision, revision_id, "revision")
    if revision.job_id != job_id:
        raise NotFoundError("There is no such revision in this job")
    return revision


def _infos(sources: Any) -> dict[str, ClipInfo]:
    return {source.id: ClipInfo(stem(source.name), Form.model_validate(source.form)) for source in sources}


def _checked_name(name: str) -> str:
    clean = " ".join(name.split())
    if not 1 <= len(clean) <= LONGEST_NAME:
        raise BadRequestError(f"A name has 1 to {LONGEST_NAME} characters")
    return clean
