"""Files on their way in that may break off and go on later, also after a restart.

Each is two files below `arriving/`: what has come so far, and a note of what it will be. What has come is the truth
about the offset. One that nobody goes on with for a week is removed at the next start.
"""

import hashlib
import json
import os
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Final

from blake3 import blake3

from wedge_turn.core.errors import ConflictError, NotFoundError, naming_disk_errors
from wedge_turn.store.rows import new_id

KEPT_FOR: Final = 7 * 24 * 3600


@dataclass(frozen=True)
class Upload:
    """What a file on its way will be: its job, its name, the folder it was dropped from, its size in bytes."""

    id: str
    job: str
    name: str
    folder: str
    size: int


class Arrived:
    """A file that has arrived, on disk; `keep` of the media moves it away, and what is left of it is then removed."""

    def __init__(self, path: Path, name: str, folder: str = "") -> None:
        self.path = path
        self.name = name
        self.folder = folder
        self.size = path.stat().st_size

    @property
    def hash(self) -> str:
        """Read in blocks: a file mapped as a whole would count as memory as a whole."""
        with self.path.open("rb", buffering=0) as file:
            digest: str = hashlib.file_digest(file, blake3).hexdigest()  # type: ignore[arg-type]  # has no `name`
            return digest


class Uploads:
    def __init__(self, folder: Path) -> None:
        """Uploads below `folder`, which is made; what is not theirs in it, or too old, is removed."""
        folder.mkdir(parents=True, exist_ok=True)
        self._folder = folder
        self._busy: set[str] = set()
        self._lock = threading.Lock()
        kept = {upload.id for upload in self.all() if time.time() - self._data(upload.id).stat().st_mtime < KEPT_FOR}
        for path in folder.iterdir():
            if path.name.removesuffix(".json") not in kept:
                path.unlink(missing_ok=True)

    def create(self, job: str, name: str, folder: str, size: int) -> Upload:
        upload = Upload(new_id(), job, name, folder, size)
        with naming_disk_errors(name):
            self._data(upload.id).touch(exist_ok=False)
            self._note(upload.id).write_text(json.dumps(asdict(upload)), "utf-8")
        return upload

    def get(self, upload_id: str) -> Upload:
        try:
            return Upload(**json.loads(self._note(upload_id).read_text("utf-8")))
        except (FileNotFoundError, ValueError, TypeError):
            raise NotFoundError("There is no such upload: drop the file again") from None

    def offset(self, upload: Upload) -> int:
        """How many bytes have come."""
        try:
            return self._data(upload.id).stat().st_size
        except FileNotFoundError:
            raise NotFoundError("There is no such upload: drop the file again") from None

    def all(self, job: str | None = None) -> list[Upload]:
        """Uploads that are not complete, the oldest first."""
        notes = sorted(self._folder.glob("*.json"), key=lambda path: path.stat().st_mtime)
        found = []
        for note in notes:
            try:
                upload = self.get(note.stem)
                self.offset(upload)
            except NotFoundError:
                continue
            if job in (None, upload.job):
                found.append(upload)
        return found

    @contextmanager
    def writing(self, upload: Upload, offset: int) -> Iterator[int]:
        """The open file, at its end; one writer at a time. Raises ConflictError where `offset` is not the end."""
        with self._lock:
            if upload.id in self._busy:
                raise ConflictError(f"{upload.name} is being sent already")
            self._busy.add(upload.id)
        try:
            if self.offset(upload) != offset:
                raise ConflictError(f"{upload.name}: {self.offset(upload):,} bytes have come, not {offset:,}")
            fd = os.open(self._data(upload.id), os.O_WRONLY | os.O_APPEND)
            try:
                yield fd
            finally:
                os.close(fd)
        finally:
            with self._lock:
                self._busy.discard(upload.id)

    @contextmanager
    def arrived(self, upload: Upload) -> Iterator[Arrived]:
        """The complete file, to be kept; whatever happens, the upload is over afterwards."""
        try:
            yield Arrived(self._data(upload.id), upload.name, upload.folder)
        finally:
            self.remove(upload.id)

    def remove(self, upload_id: str) -> None:
        self._note(upload_id).unlink(missing_ok=True)
        self._data(upload_id).unlink(missing_ok=True)

    def _data(self, upload_id: str) -> Path:
        return self._folder / upload_id

    def _note(self, upload_id: str) -> Path:
        return self._folder / f"{upload_id}.json"


def append(fd: int, data: bytes, name: str) -> None:
    """Add bytes to an open file. Raises DiskFullError naming the file."""
    with naming_disk_errors(name):
        left = memoryview(data)
        while left:
            left = left[os.write(fd, left) :]
