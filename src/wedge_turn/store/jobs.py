"""Jobs, and the counts that a list of them shows."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select

from wedge_turn.core.worksheet import Plan
from wedge_turn.store.database import Database
from wedge_turn.store.lookup import check_name, get_row
from wedge_turn.store.rows import Delivery, Job, Revision, Source, new_id


@dataclass(frozen=True)
class JobCounts:
    """A job in a list: how many files it has, and how many turns its worksheet."""

    id: str
    name: str
    created: datetime
    files: int
    turns: int


@dataclass(frozen=True)
class Deleted:
    """What was a job's alone: its deliveries, and its sources with the media they used."""

    deliveries: tuple[str, ...]
    media: frozenset[str]


class Jobs:
    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[Job]:
        """All jobs, the newest first."""
        with self._database.reading() as session:
            return list(session.scalars(select(Job).order_by(Job.created.desc())))

    def counts(self) -> list[JobCounts]:
        """All jobs with their counts, the newest first; one query for all of them."""
        files = select(Source.job_id, func.count().label("files")).group_by(Source.job_id).subquery()
        query = (
            select(Job, func.coalesce(files.c.files, 0), Revision.turns)
            .join(Revision, Revision.id == Job.head_id)
            .outerjoin(files, files.c.job_id == Job.id)
            .order_by(Job.created.desc())
        )
        with self._database.reading() as session:
            return [
                JobCounts(job.id, job.name, job.created, count, turns) for job, count, turns in session.execute(query)
            ]

    def get(self, job_id: str) -> Job:
        with self._database.reading() as session:
            return get_row(session, Job, job_id, "job")

    def create(self, name: str, sources: Sequence[Source] = (), plans: Sequence[tuple[Plan, str]] = ()) -> Job:
        """A job, all at once: with sources whose media are kept, and a revision for each plan with its label."""
        job_id, first = new_id(), new_id()
        job = Job(id=job_id, name=check_name(name), head_id=first)
        with self._database.changing() as session:
            # The job and its first revision point at each other: the job's key is checked when all is written.
            session.connection().exec_driver_sql("PRAGMA defer_foreign_keys=ON")
            session.add(job)
            session.flush()
            last: Revision | None = None
            for number, (plan, label) in enumerate([(Plan(), "Started"), *plans], 1):
                revision = Revision(
                    id=new_id() if last else first,
                    job_id=job_id,
                    parent_id=last.id if last else None,
                    number=number,
                    label=label,
                    plan=plan.model_dump(mode="json"),
                    turns=len(plan.steps),
                )
                session.add(revision)
                session.flush()
                if last:
                    last.redo_id = revision.id
                last = revision
                job.head_id = revision.id
            for source in sources:
                source.job_id = job_id
                session.add(source)
            return job

    def rename(self, job_id: str, name: str) -> Job:
        with self._database.changing() as session:
            job = get_row(session, Job, job_id, "job")
            job.name = check_name(name)
            return job

    def delete(self, job_id: str) -> Deleted:
        """Remove a job from the database; what it left on disk is the caller's to remove."""
        with self._database.changing() as session:
            job = get_row(session, Job, job_id, "job")
            media = frozenset(session.scalars(select(Source.media).where(Source.job_id == job_id)))
            deliveries = tuple(session.scalars(select(Delivery.id).where(Delivery.job_id == job_id)))
            session.connection().exec_driver_sql("PRAGMA defer_foreign_keys=ON")
            session.delete(job)
            return Deleted(deliveries, media)
