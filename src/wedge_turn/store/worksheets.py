"""The revisions of a job's worksheet. Plans are stored as JSON and brought up to date when they are read."""

from collections.abc import Collection
from contextlib import suppress
from typing import Any, Final

from pydantic import ValidationError
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from wedge_turn.core.errors import NothingToDoError, StaleError, UnreadableError
from wedge_turn.core.worksheet import Plan, read_plan
from wedge_turn.store.database import Database
from wedge_turn.store.deltas import pack, unpack
from wedge_turn.store.lookup import check_name, get_revision, get_row
from wedge_turn.store.rows import Delivery, Job, Revision, new_id

# Revisions that a moving slider replaced are kept this far back, for who still listens to one of them.
MAX_AMENDED: Final = 8
_NO_PLAN: Final = (ValidationError, KeyError, TypeError, ValueError, AttributeError)
_AT_ONCE: Final = 500  # SQLite takes only so many values in one query


class Worksheets:
    def __init__(self, database: Database) -> None:
        self._database = database

    def get(self, job_id: str, revision_id: str) -> Revision:
        with self._database.reading() as session:
            return get_revision(session, job_id, revision_id)

    def head(self, job_id: str) -> Revision:
        with self._database.reading() as session:
            return get_revision(session, job_id, get_row(session, Job, job_id, "job").head_id)

    def check_head(self, job_id: str, base: str) -> None:
        """Raises StaleError unless `base` is the head: somebody else changed the worksheet."""
        with self._database.reading() as session:
            _job_at(session, job_id, base)

    def all(self, job_id: str) -> list[Revision]:
        """All revisions of a job but those that were amended at once, the newest first."""
        with self._database.reading() as session:
            get_row(session, Job, job_id, "job")
            query = select(Revision).where(Revision.job_id == job_id, Revision.amended.is_(False))
            return list(session.scalars(query.order_by(Revision.number.desc())))

    def add(self, job_id: str, base: str, plan: Plan, label: str, amends: str | None = None) -> Revision:
        """Make a plan the new head. Where `amends` is the head, it takes that one's place: undo goes to before both.
        A head with a name, a delivery or a revision made on it keeps its place.

        Raises StaleError unless `base` is the head: somebody else changed the worksheet meanwhile.
        """
        with self._database.changing() as session:
            job = _job_at(session, job_id, base)
            head = get_revision(session, job_id, base)
            # Only a change of the same kind is continued, so that nobody else's revision is hidden by mistake.
            continues = amends == base and head.label == label and not _is_needed(session, head)
            parent = get_revision(session, job_id, head.parent_id) if continues and head.parent_id else None
            new = _added(session, job_id, base if parent is None else parent.id, plan, label)
            if parent is None:
                head.redo_id = new.id
            else:
                head.amended, parent.redo_id = True, new.id
            _make_head(job, new)
            session.flush()
            _forget_amended(session, job)
            return new

    def add_draft(self, job_id: str, base: str, plan: Plan, label: str) -> Revision:
        """A plan to try on `base`, hidden and soon forgotten unless the head goes to it.

        Raises StaleError where `base` is not the head.
        """
        with self._database.changing() as session:
            job = _job_at(session, job_id, base)
            draft = _added(session, job_id, base, plan, label)
            draft.amended = True
            session.flush()
            _forget_amended(session, job)
            return draft

    def undo(self, job_id: str, base: str) -> Revision:
        """Move the head from `base` to its parent. Raises NothingToDoError at the start, StaleError where `base` is not
        the head.
        """
        with self._database.changing() as session:
            job = _job_at(session, job_id, base)
            head = get_revision(session, job_id, base)
            if head.parent_id is None:
                raise NothingToDoError("There is nothing to undo")
            parent = get_revision(session, job_id, head.parent_id)
            parent.redo_id = head.id
            return _make_head(job, parent)

    def redo(self, job_id: str, base: str) -> Revision:
        """Move the head from `base` to where it was undone from. Raises NothingToDoError where it wasn't, StaleError
        unless `base` is the head.
        """
        with self._database.changing() as session:
            job = _job_at(session, job_id, base)
            head = get_revision(session, job_id, base)
            if head.redo_id is None:
                raise NothingToDoError("There is nothing to redo")
            return _make_head(job, get_revision(session, job_id, head.redo_id))

    def go_to(self, job_id: str, revision_id: str, base: str) -> Revision:
        """Make any revision the head; nothing is lost by it. Raises StaleError unless `base` is the head."""
        with self._database.changing() as session:
            job = _job_at(session, job_id, base)
            revision = get_revision(session, job_id, revision_id)
            if revision.amended and revision.parent_id == base:  # a draft that is taken
                get_revision(session, job_id, base).redo_id = revision.id
            return _make_head(job, revision)

    def name(self, job_id: str, revision_id: str, name: str | None) -> Revision:
        """Make a revision a checkpoint, or an ordinary one again."""
        with self._database.changing() as session:
            revision = get_revision(session, job_id, revision_id)
            revision.name = check_name(name) if name else None
            return revision

    def name_unnamed(self, job_id: str, revision_id: str, name: str) -> None:
        """Make a revision a checkpoint unless it is one."""
        with self._database.changing() as session:
            revision = get_revision(session, job_id, revision_id)
            revision.name = revision.name or check_name(name[:200])

    def ids(self, job_id: str) -> set[str]:
        """The ids of all revisions of a job, amended ones too."""
        with self._database.reading() as session:
            return set(session.scalars(select(Revision.id).where(Revision.job_id == job_id)))

    def plan(self, job_id: str, revision_id: str) -> Plan:
        """The worksheet of a revision. Raises NotFoundError, or UnreadableError where this version cannot read what is
        stored.
        """
        with self._database.reading() as session:
            revision = get_revision(session, job_id, revision_id)
            try:
                return read_plan(_complete_plan(session, revision.plan, revision.base_id))
            except _NO_PLAN as error:
                number = revision.number
                raise UnreadableError(f"Revision {number} of the worksheet cannot be read by this version") from error

    def plans(self, revisions: Collection[str]) -> list[Plan]:
        """The plans of these revisions, as far as they can be read."""
        every, plans = list(revisions), []
        with self._database.reading() as session:
            for at in range(0, len(every), _AT_ONCE):
                query = select(Revision.plan, Revision.base_id).where(Revision.id.in_(every[at : at + _AT_ONCE]))
                for stored, base_id in session.execute(query).all():
                    with suppress(*_NO_PLAN):
                        plans.append(read_plan(_complete_plan(session, stored, base_id)))
        return plans


def _job_at(session: Session, job_id: str, base: str) -> Job:
    """A job whose head is `base`. Raises StaleError where it is another: somebody else changed the worksheet."""
    job = get_row(session, Job, job_id, "job")
    if job.head_id != base:
        raise StaleError("The worksheet was changed in another window")
    return job


def _complete_plan(session: Session, stored: dict[str, Any], base_id: str | None) -> dict[str, Any]:
    base = session.get(Revision, base_id) if base_id else None
    return stored if base_id is None else unpack(stored, base.plan if base else {})


def _added(session: Session, job_id: str, parent_id: str, plan: Plan, label: str) -> Revision:
    last = session.scalar(select(func.max(Revision.number)).where(Revision.job_id == job_id)) or 0
    parent = get_revision(session, job_id, parent_id)
    base = get_revision(session, job_id, parent.base_id) if parent.base_id else parent
    complete = plan.model_dump(mode="json")
    delta = pack(complete, base.plan)
    new = Revision(
        id=new_id(),
        job_id=job_id,
        parent_id=parent_id,
        number=last + 1,
        label=label,
        plan=delta or complete,
        base_id=base.id if delta else None,
        turns=len(plan.steps),
    )
    session.add(new)
    session.flush()
    return new


def _make_head(job: Job, revision: Revision) -> Revision:
    """The head is a revision like any other, whatever it was: an amended one would be forgotten under the job."""
    job.head_id, revision.amended = revision.id, False
    return revision


def _is_needed(session: Session, revision: Revision) -> bool:
    """Whether something hangs on a revision: a name, a delivery, or a revision that was made on it."""
    delivered = select(Delivery.id).where(Delivery.revision_id == revision.id)
    made_on_it = select(Revision.id).where(Revision.parent_id == revision.id, Revision.amended.is_(False))
    return bool(revision.name) or any(session.scalar(query.limit(1)) for query in (delivered, made_on_it))


def _forget_amended(session: Session, job: Job) -> None:
    """Remove amended revisions but the last few, those that were delivered, and those that others are made on or stored
    by.
    """
    amended = select(Revision.id).where(Revision.job_id == job.id, Revision.amended.is_(True), Revision.name.is_(None))
    newest = amended.order_by(Revision.number.desc()).limit(MAX_AMENDED)
    delivered = select(Delivery.revision_id).where(Delivery.job_id == job.id)
    parents = select(Revision.parent_id).where(Revision.job_id == job.id, Revision.parent_id.is_not(None))
    bases = select(Revision.base_id).where(Revision.job_id == job.id, Revision.base_id.is_not(None))
    old = amended.where(*(Revision.id.not_in(ids) for ids in (newest, delivered, parents, bases)))
    session.execute(delete(Revision).where(Revision.id.in_(old)))
