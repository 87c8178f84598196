"""Rows that must be there, and names that may be given."""

from typing import Final, TypeVar

from sqlalchemy.orm import Session

from wedge_turn.core.errors import BadRequestError, NotFoundError
from wedge_turn.core.naming import is_plain_text
from wedge_turn.store.rows import Revision, Row

MAX_NAME: Final = 200
T = TypeVar("T", bound=Row)


def get_row(session: Session, kind: type[T], key: str, label: str) -> T:
    """A row by its key. Raises NotFoundError that calls it `label`."""
    row = session.get(kind, key)
    if row is None:
        raise NotFoundError(f"There is no such {label}")
    return row


def get_revision(session: Session, job_id: str, revision_id: str) -> Revision:
    """Raises NotFoundError where the job has no such revision."""
    revision = get_row(session, Revision, revision_id, "revision")
    if revision.job_id != job_id:
        raise NotFoundError("There is no such revision in this job")
    return revision


def check_name(name: str) -> str:
    """A name without superfluous space. Raises BadRequestError for an empty or overlong one, or one that is no text."""
    clean = " ".join(name.split())
    if not 1 <= len(clean) <= MAX_NAME or not is_plain_text(clean):
        raise BadRequestError(f"A name has 1 to {MAX_NAME} characters")
    return clean
