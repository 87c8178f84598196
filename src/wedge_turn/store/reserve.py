"""Room on the disk that is kept for deleting: a database notes what it deletes before it is smaller."""

import os
import shutil
from contextlib import suppress
from pathlib import Path
from typing import Final

NAME: Final = "reserve"
SIZE: Final = 4 * 2**20  # bytes
ENOUGH: Final = 16 * SIZE  # free on a disk that a reserve is taken from


class Reserve:
    def __init__(self, folder: Path) -> None:
        self._path = folder / NAME
        self.keep()

    def keep(self) -> None:
        """Take the room, unless it is taken or the disk has too little."""
        with suppress(OSError):
            if not self._path.exists() and shutil.disk_usage(self._path.parent).free >= ENOUGH:
                self._path.write_bytes(os.urandom(SIZE))  # which no file system makes smaller

    def give_up(self) -> None:
        """Leave the room to what deletes, where there is no other."""
        if shutil.disk_usage(self._path.parent).free < SIZE:
            self._path.unlink(missing_ok=True)
