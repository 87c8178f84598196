"""What every part of the store works with: the database, the media, and rows that must be there."""

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Final, TypeVar

from sqlalchemy.orm import Session, sessionmaker

from wedge_turn.core.errors import BadRequestError, NotFoundError
from wedge_turn.store.database import open_database
from wedge_turn.store.media import Media
from wedge_turn.store.rows import Row

LONGEST_NAME: Final = 200
T = TypeVar("T", bound=Row)


class Base:
    def __init__(self, folder: Path) -> None:
        """Open the data in `folder`, making or migrating it as needed."""
        folder.mkdir(parents=True, exist_ok=True)
        self.media = Media(folder)
        self._database = open_database(folder / "wedge-turn.sqlite3")
        self._sessions = sessionmaker(self._database, expire_on_commit=False)
        self._lock = threading.Lock()

    def close(self) -> None:
        self._database.dispose()

    @contextmanager
    def _changing(self) -> Iterator[Session]:
        with self._sessions.begin() as session:
            yield session


def get_row(session: Session, kind: type[T], key: str, called: str) -> T:
    row = session.get(kind, key)
    if row is None:
        raise NotFoundError(f"There is no such {called}")
    return row


def checked_name(name: str) -> str:
    clean = " ".join(name.split())
    if not 1 <= len(clean) <= LONGEST_NAME:
        raise BadRequestError(f"A name has 1 to {LONGEST_NAME} characters")
    return clean
