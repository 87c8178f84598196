"""The files that came into jobs."""

import threading
from collections import OrderedDict
from collections.abc import Collection
from typing import Any, Final

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from wedge_turn.core.errors import BadRequestError, ConflictError, NotFoundError
from wedge_turn.core.metadata import Recorded
from wedge_turn.core.naming import is_plain_text
from wedge_turn.store.database import Database
from wedge_turn.store.lookup import get_row
from wedge_turn.store.rows import Job, Source

CACHE_SIZE: Final = 32  # jobs


class Sources:
    """Rows of sources are remembered by job, because making five hundred of them takes a while; this process
    alone changes them.
    """

    def __init__(self, database: Database) -> None:
        self._database = database
        self._lock = threading.Lock()
        self._remembered: OrderedDict[str, list[Source]] = OrderedDict()

    def for_job(self, job_id: str) -> list[Source]:
        """The sources of a job in the order they came in."""
        with self._lock:
            if (remembered := self._remembered.get(job_id)) is not None:
                return list(remembered)
            with self._database.reading() as session:
                get_row(session, Job, job_id, "job")
                query = select(Source).where(Source.job_id == job_id).order_by(Source.created)
                rows = list(session.scalars(query))
            self._remembered[job_id] = rows
            while len(self._remembered) > CACHE_SIZE:
                self._remembered.popitem(last=False)
            return list(rows)

    def forget(self, job_id: str) -> None:
        """Read the sources of a job anew when they are asked for next."""
        with self._lock:
            self._remembered.pop(job_id, None)

    def get(self, job_id: str, source_id: str) -> Source:
        with self._database.reading() as session:
            return source_of(session, job_id, source_id)

    def find_identical(self, job_id: str, media: str, name: str, folder: str) -> Source | None:
        """The source of this content, name and folder that the job has already."""
        facts = Source.job_id == job_id, Source.media == media, Source.name == name, Source.folder == folder
        with self._database.reading() as session:
            return session.scalar(select(Source).where(*facts))

    def with_media(self, job_id: str, media: str) -> list[Source]:
        """The sources of a job that have this content, read without the others."""
        with self._database.reading() as session:
            return list(session.scalars(select(Source).where(Source.job_id == job_id, Source.media == media)))

    def add(self, source: Source) -> Source:
        """Raises NotFoundError where the job was deleted meanwhile."""
        with self._database.changing() as session:
            get_row(session, Job, source.job_id, "job")
            session.add(source)
        self.forget(source.job_id)
        return source

    def annotate(self, job_id: str, source_id: str, note: str, was: str | None = None) -> None:
        """Keep what the user wrote about a source, over what `was` there. Raises BadRequestError for what is no text,
        ConflictError where the note has become another meanwhile.
        """
        if not all(is_plain_text(line) for line in note.splitlines()):
            raise BadRequestError("A note holds text, without control characters")
        with self._database.changing() as session:
            source = source_of(session, job_id, source_id)
            if was is not None and source.note not in (was, note):
                raise ConflictError(
                    f"The note on {source.name} was changed in another window", "Yours is still in the field."
                )
            source.note = note
        self.forget(job_id)

    def without_metadata(self) -> list[Source]:
        """Sources of all jobs of which nobody has read what they say about themselves."""
        with self._database.reading() as session:
            return list(session.scalars(select(Source).where(Source.recorded.is_(None))))

    def put_recorded(self, source: Source, form: dict[str, Any], recorded: dict[str, Any]) -> None:
        """Keep what a source says about itself, and its form with it."""
        with self._database.changing() as session:
            row = source_of(session, source.job_id, source.id)
            row.form, row.recorded = form, recorded
        self.forget(source.job_id)

    def delete(self, job_id: str, source_id: str) -> str:
        """Remove a source; returns its media."""
        with self._database.changing() as session:
            source = source_of(session, job_id, source_id)
            session.delete(source)
        self.forget(job_id)
        return source.media

    def media_in_use(self, media: Collection[str] | None = None) -> set[str]:
        """The media that sources of any job use, of these or of all."""
        query = select(Source.media).distinct()
        with self._database.reading() as session:
            return set(session.scalars(query if media is None else query.where(Source.media.in_(media))))


def recorded_of(source: Source) -> Recorded:
    """What a source says about itself; nothing where it can't be read."""
    try:
        return Recorded.model_validate(source.recorded or {})
    except ValidationError:
        return Recorded()


def source_of(session: Session, job_id: str, source_id: str) -> Source:
    source = session.get(Source, source_id)
    if source is None or source.job_id != job_id:
        raise NotFoundError("There is no such file in this job")
    return source
