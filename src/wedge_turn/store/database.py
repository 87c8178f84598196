"""Opening the database: SQLite in WAL mode with foreign keys, brought up to date by Alembic."""

from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event


def open_database(path: Path) -> Engine:
    """An engine on the database at `path`, made or migrated as needed."""
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 30, "check_same_thread": False})
    event.listen(engine, "connect", _prepare)
    event.listen(engine, "begin", lambda connection: connection.exec_driver_sql("BEGIN IMMEDIATE"))
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.connect() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
        connection.commit()
    return engine


def _prepare(connection: Any, _: Any) -> None:
    # Transactions are begun by us: the driver would wait with BEGIN until the first write, and two tabs that
    # both read before they write would then fail instead of waiting for each other.
    connection.isolation_level = None
    for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=NORMAL", "busy_timeout=30000"):
        connection.execute(f"PRAGMA {pragma}")
