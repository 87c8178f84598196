"""Jobs and the files that came into them."""

import shutil
from pathlib import Path

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from wedge_turn.core.plan import Plan
from wedge_turn.store.base import Base, checked_name, get_row
from wedge_turn.store.rows import Delivery, Job, Measured, Revision, Source, new_id
from wedge_turn.store.uploads import Arrived


class Jobs(Base):
    def __init__(self, folder: Path) -> None:
        super().__init__(folder)
        self._rows: dict[str, list[Source]] = {}

    def jobs(self) -> list[Job]:
        """All jobs, the newest first."""
        with self._sessions() as session:
            return list(session.scalars(select(Job).order_by(Job.created.desc())))

    def job(self, job_id: str) -> Job:
        with self._sessions() as session:
            return get_row(session, Job, job_id, "job")

    def create_job(self, name: str) -> Job:
        with self._changing() as session:
            job_id, first = new_id(), new_id()
            job = Job(id=job_id, name=checked_name(name), head_id=first)
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
            job = get_row(session, Job, job_id, "job")
            job.name = checked_name(name)
            return job

    def delete_job(self, job_id: str) -> None:
        """Remove a job with its deliveries, and the files that no other job has."""
        with self._changing() as session:
            job = get_row(session, Job, job_id, "job")
            media = set(session.scalars(select(Source.media).where(Source.job_id == job_id)))
            deliveries = list(session.scalars(select(Delivery.id).where(Delivery.job_id == job_id)))
            session.connection().exec_driver_sql("PRAGMA defer_foreign_keys=ON")
            session.delete(job)
            session.flush()
            unused = media - set(session.scalars(select(Source.media).where(Source.media.in_(media))))
            session.execute(delete(Measured).where(Measured.key.in_(unused)))
        self._rows.pop(job_id, None)
        for upload in self.media.uploads.all(job_id):
            self.media.uploads.remove(upload.id)
        for delivery in deliveries:
            shutil.rmtree(self.media.delivery(delivery), ignore_errors=True)
        for one in unused:
            self.media.forget(one)

    def sources(self, job_id: str) -> list[Source]:
        """The sources of a job in the order they came in."""
        with self._sessions() as session:
            get_row(session, Job, job_id, "job")
            return self._sources(session, job_id)

    def _sources(self, session: Session, job_id: str) -> list[Source]:
        """The same objects as long as no file comes or goes: making five hundred of them takes a while."""
        in_order = select(Source.id).where(Source.job_id == job_id).order_by(Source.created)
        ids = list(session.scalars(in_order))
        known = self._rows.get(job_id, [])
        if [source.id for source in known] != ids:
            known = self._rows[job_id] = list(session.scalars(in_order.with_only_columns(Source)))
            for source in known:
                session.expunge(source)  # they outlive the session, however it ends
        return known

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
