"""The worksheet of a job: every revision that it went through, and each worked out."""

from collections import OrderedDict
from collections.abc import Callable, Iterable, Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any, Final

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from wedge_turn.core.audio.form import Form
from wedge_turn.core.errors import NotFoundError, NothingToDoError, StaleError
from wedge_turn.core.naming import stem
from wedge_turn.core.plan import Plan, Sheet
from wedge_turn.core.turns import ClipInfo
from wedge_turn.store.base import checked_name, get_row
from wedge_turn.store.jobs import Jobs
from wedge_turn.store.rows import Job, Revision, Source, new_id

MOST_SHEETS: Final = 12
SheetKey = tuple[str, frozenset[str]]


class Worksheets(Jobs):
    def __init__(self, folder: Path) -> None:
        super().__init__(folder)
        self._sheets: OrderedDict[SheetKey, Sheet] = OrderedDict()

    def revision(self, job_id: str, revision_id: str) -> Revision:
        with self._sessions() as session:
            return revision_of(session, job_id, revision_id)

    def revisions(self, job_id: str) -> list[Revision]:
        """All revisions of a job but those that were amended at once, the newest first."""
        with self._sessions() as session:
            get_row(session, Job, job_id, "job")
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
            job = get_row(session, Job, job_id, "job")
            if job.head_id != base:
                raise StaleError("The worksheet was changed in another window")
            head = revision_of(session, job_id, base)
            sources = self._sources(session, job_id)
            plan, label = change(Plan.model_validate(head.plan), _infos(sources))
            new_revision = new_id()
            # A plan that cannot be worked out is never kept.
            self._worked_out((new_revision, frozenset(source.id for source in sources)), plan, sources)
            parent = revision_of(session, job_id, head.parent_id) if amends == base and head.parent_id else None
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
            job = get_row(session, Job, job_id, "job")
            head = revision_of(session, job_id, job.head_id)
            if head.parent_id is None:
                raise NothingToDoError("There is nothing to undo")
            parent = revision_of(session, job_id, head.parent_id)
            parent.redo_id, job.head_id = head.id, parent.id
            return parent

    def redo(self, job_id: str) -> Revision:
        """Move the head to where it was undone from. Raises NothingToDoError where it wasn't."""
        with self._changing() as session:
            job = get_row(session, Job, job_id, "job")
            head = revision_of(session, job_id, job.head_id)
            if head.redo_id is None:
                raise NothingToDoError("There is nothing to redo")
            job.head_id = head.redo_id
            return revision_of(session, job_id, head.redo_id)

    def go_to(self, job_id: str, revision_id: str) -> Revision:
        """Make any revision the head; nothing is lost by it."""
        with self._changing() as session:
            job = get_row(session, Job, job_id, "job")
            revision = revision_of(session, job_id, revision_id)
            job.head_id = revision.id
            return revision

    def name_revision(self, job_id: str, revision_id: str, name: str | None) -> Revision:
        """Make a revision a checkpoint, or an ordinary one again."""
        with self._changing() as session:
            revision = revision_of(session, job_id, revision_id)
            revision.name = checked_name(name) if name else None
            return revision

    def sheet(self, job_id: str, revision_id: str) -> Sheet:
        """The worksheet of a revision, worked out."""
        with self._sessions() as session:
            key = (revision_id, frozenset(session.scalars(select(Source.id).where(Source.job_id == job_id))))
            if (known := self._sheets.get(key)) is not None:
                return known
            sources = self._sources(session, job_id)
            plan = Plan.model_validate(revision_of(session, job_id, revision_id).plan)
        return self._worked_out(key, plan, sources)

    def _worked_out(self, key: SheetKey, plan: Plan, sources: Sequence[Source]) -> Sheet:
        """A sheet, kept for the next who asks: neither a revision nor a source ever changes."""
        sheet = Sheet(plan, _infos(sources), {source.id: source.media for source in sources})
        with self._lock:
            self._sheets[key] = sheet
            while len(self._sheets) > MOST_SHEETS:
                self._sheets.popitem(last=False)
        return sheet


def revision_of(session: Session, job_id: str, revision_id: str) -> Revision:
    revision = get_row(session, Revision, revision_id, "revision")
    if revision.job_id != job_id:
        raise NotFoundError("There is no such revision in this job")
    return revision


def _infos(sources: Iterable[Source]) -> dict[str, ClipInfo]:
    return {source.id: ClipInfo(stem(source.name), _form(**source.form)) for source in sources}


@lru_cache(maxsize=10_000)
def _form(**facts: Any) -> Form:
    """A form as it was kept; hundreds of files often share one."""
    return Form.model_validate(facts)
