"""The database: SQLite in WAL mode with foreign keys, brought up to date by Alembic.

A transaction that only reads takes no lock, so readers never wait for each other or for who writes. One that changes
something takes the write lock at its start: two that both read before they write then wait for each other instead of
failing.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.util.exc import CommandError
from sqlalchemy import URL, Connection, Engine, create_engine, event
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session, sessionmaker

from wedge_turn.core.errors import DataFolderError

FILE = "wedge-turn.sqlite3"


class Database:
    def __init__(self, path: Path) -> None:
        """Open the database at `path`, made or migrated as needed. Raises DataFolderError where that cannot be done."""
        url = URL.create("sqlite", database=str(path))
        self._engine = create_engine(url, connect_args={"timeout": 30, "check_same_thread": False})
        event.listen(self._engine, "connect", _prepare)
        event.listen(self._engine, "begin", _begin)
        try:
            _migrate(self._engine)
        except (CommandError, DatabaseError) as error:
            self.close()
            raise DataFolderError(f"{FILE} in {path.parent.name} {_reason(error)}") from error
        self._reading = sessionmaker(self._engine, expire_on_commit=False)
        self._changing = sessionmaker(self._engine.execution_options(changes=True), expire_on_commit=False)

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session on one state of the database."""
        with self._reading() as session:
            yield session

    @contextmanager
    def changing(self) -> Iterator[Session]:
        """A session that is committed at the end, or rolled back by an exception."""
        with self._changing.begin() as session:
            yield session

    def close(self) -> None:
        self._engine.dispose()


def _migrate(engine: Engine) -> None:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations").replace("%", "%%"))
    with engine.execution_options(changes=True).connect() as connection:
        driver: Any = connection.connection.driver_connection
        # A table that is made anew is dropped first: rows of others that refer to it must not go with it. SQLite turns
        # this on and off between transactions alone.
        driver.execute("PRAGMA foreign_keys=OFF")
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
        connection.commit()
        driver.execute("PRAGMA foreign_keys=ON")


def _reason(error: Exception) -> str:
    """Why the database cannot be used, in words."""
    text = str(getattr(error, "orig", error))
    if isinstance(error, CommandError) and "locate revision" in text:
        return "was written by a later version of Wedge Turn"
    if "not a database" in text or "malformed" in text:
        return "is damaged"
    if "locked" in text:
        return "is locked by another program"
    if "readonly" in text or "unable to open" in text:
        return "cannot be written to"
    return f"cannot be used ({text.splitlines()[0]})"


def _prepare(connection: Any, _: Any) -> None:
    # Transactions are begun by us: the driver would wait with BEGIN until the first write.
    connection.isolation_level = None
    for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=NORMAL", "busy_timeout=30000"):
        connection.execute(f"PRAGMA {pragma}")


def _begin(connection: Connection) -> None:
    changes = connection.get_execution_options().get("changes")
    connection.exec_driver_sql("BEGIN IMMEDIATE" if changes else "BEGIN")
