"""The data folder belongs to one process at a time."""

import fcntl
import os
from pathlib import Path
from typing import IO, Final

from wedge_turn.core.errors import DataFolderError
from wedge_turn.store.database import FILE

LOCK: Final = "in-use"


class FolderLock:
    """Held as long as the store is open; the system lets go of it when the process ends, however it ends."""

    def __init__(self, folder: Path) -> None:
        """Take the folder. Raises DataFolderError naming the process that has it."""
        self._file: IO[str] = (folder / LOCK).open("a+", encoding="utf-8")
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            self._file.seek(0)
            holder = self._file.read().strip() or "another process"
            self._file.close()
            raise DataFolderError(f"The data folder {folder.name} is in use by {holder}") from None
        self._file.seek(0)
        self._file.truncate()
        self._file.write(f"process {os.getpid()}")
        self._file.flush()

    def release(self) -> None:
        self._file.close()


def check_complete(folder: Path) -> None:
    """Refuse to start anew beside files that a lost database knew. Raises DataFolderError."""
    database = folder / FILE
    if database.exists() and database.stat().st_size > 0:
        return
    files = sum(1 for path in (folder / "media").glob("*/*") if path.is_file())
    if files:
        holds = (
            "1 kept file and no {} that knows it" if files == 1 else f"{files:,} kept files and no {{}} that knows them"
        )
        raise DataFolderError(f"{folder.name} holds {holds.format(FILE)}: put the database back")
