"""The files that came into jobs."""

from collections.abc import Collection

from sqlalchemy import select
from sqlalchemy.orm import Session

from wedge_turn.core.errors import NotFoundError
from wedge_turn.store.database import Database
from wedge_turn.store.lookup import get_row
from wedge_turn.store.rows import Job, Source


class Sources:
    def __init__(self, database: Database) -> None:
        self._database = database

    def of(self, job_id: str) -> list[Source]:
        """The sources of a job in the order they came in."""
        with self._database.reading() as session:
            get_row(session, Job, job_id, "job")
            return list(session.scalars(select(Source).where(Source.job_id == job_id).order_by(Source.created)))

    def ids(self, job_id: str) -> list[str]:
        """Their ids alone, in the same order."""
        with self._database.reading() as session:
            return list(session.scalars(select(Source.id).where(Source.job_id == job_id).order_by(Source.created)))

    def get(self, job_id: str, source_id: str) -> Source:
        with self._database.reading() as session:
            return source_of(session, job_id, source_id)

    def same_as(self, job_id: str, media: str, name: str, folder: str) -> Source | None:
        """The source of this content, name and folder that the job has already."""
        facts = Source.job_id == job_id, Source.media == media, Source.name == name, Source.folder == folder
        with self._database.reading() as session:
            return session.scalar(select(Source).where(*facts))

    def add(self, source: Source) -> Source:
        """Raises NotFoundError where the job was deleted meanwhile."""
        with self._database.changing() as session:
            get_row(session, Job, source.job_id, "job")
            session.add(source)
            return source

    def delete(self, job_id: str, source_id: str) -> str:
        """Remove a source; returns its media."""
        with self._database.changing() as session:
            source = source_of(session, job_id, source_id)
            session.delete(source)
            return source.media

    def media_in_use(self, media: Collection[str] | None = None) -> set[str]:
        """The media that sources of any job use, of these or of all."""
        query = select(Source.media).distinct()
        with self._database.reading() as session:
            return set(session.scalars(query if media is None else query.where(Source.media.in_(media))))


def source_of(session: Session, job_id: str, source_id: str) -> Source:
    source = session.get(Source, source_id)
    if source is None or source.job_id != job_id:
        raise NotFoundError("There is no such file in this job")
    return source
