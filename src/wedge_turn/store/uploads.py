"""Files on their way in that may break off and go on later, also after a restart.

Each is two files below `arriving/`: what has come so far, and a note of what it will be. What has come is the truth
about the offset. One that nobody goes on with for a week is removed by the janitor.
"""

import hashlib
import json
import os
import re
import threading
import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Final

from blake3 import blake3

from wedge_turn.core.errors import ConflictError, DiskFullError, Error, NotFoundError, naming_disk_errors
from wedge_turn.store.rows import new_id

EXPIRES_AFTER: Final = 7 * 24 * 3600  # seconds
_ID: Final = re.compile(r"[0-9a-f]{32}")


@dataclass(frozen=True)
class Upload:
    """What a file on its way will be: its job, its name, the folder it was dropped from, and its size in bytes, None
    where that is known only when it ends. `salvage` says to take what can be read of it if it is incomplete.
    """

    id: str
    job: str
    name: str
    folder: str
    size: int | None
    salvage: bool = False


@dataclass(frozen=True)
class Arrived:
    """A file that has arrived, on disk; keeping it moves it away."""

    path: Path
    name: str
    folder: str = ""
    salvage: bool = False

    @property
    def size(self) -> int:
        return self.path.stat().st_size

    @property
    def hash(self) -> str:
        return hash_of(self.path)


def hash_of(path: Path) -> str:
    """The BLAKE3 hash of a file, in hexadecimal. Read in blocks: mapped as a whole it would count as memory as a
    whole.
    """
    with path.open("rb", buffering=0) as file:
        digest: str = hashlib.file_digest(file, blake3).hexdigest()  # type: ignore[arg-type]  # has no `name`
        return digest


class Uploads:
    def __init__(self, folder: Path) -> None:
        """Uploads below `folder`, which is made."""
        folder.mkdir(parents=True, exist_ok=True)
        self._folder = folder
        self._busy: set[str] = set()
        self._lock = threading.Lock()

    def create(self, job: str, name: str, folder: str, size: int | None, *, salvage: bool = False) -> Upload:
        upload = Upload(new_id(), job, name, folder, size, salvage)
        with naming_disk_errors(name):
            self._data(upload.id).touch(exist_ok=False)
            self._note(upload.id).write_text(json.dumps(asdict(upload)), "utf-8")
        return upload

    def receive(self, job: str, name: str, chunks: Iterable[bytes], folder: str = "") -> Upload:
        """A whole file at once, ready to be taken in."""
        upload = self.create(job, name, folder, None)
        try:
            with self.writing(upload, 0) as fd:
                for chunk in chunks:
                    append(fd, chunk, name)
        except BaseException:
            self.remove(upload.id)
            raise
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

    def all(self, job: str | None = None) -> list[tuple[Upload, int]]:
        """Uploads that were not taken in yet, with the bytes that have come, the oldest first."""
        uploads = []
        for note in self._folder.glob("*.json"):
            with suppress(NotFoundError, FileNotFoundError):  # taken in or given up meanwhile
                upload = self.get(note.stem)
                if job in (None, upload.job):
                    uploads.append((note.stat().st_mtime, upload, self.offset(upload)))
        return [(upload, offset) for _, upload, offset in sorted(uploads, key=lambda one: one[0])]

    def is_busy(self, upload_id: str) -> bool:
        """Whether somebody is sending or taking it in at this moment."""
        with self._lock:
            return upload_id in self._busy

    def remove_old(self, half_done_before: float) -> None:
        """Remove uploads that nobody went on with for a week, and files that are no upload's and older than a time:
        younger ones may belong to an upload that has just begun.
        """
        ids = {upload.id for upload, _ in self.all()}
        for path in self._folder.iterdir():
            upload_id = path.name.removesuffix(".json")
            with suppress(FileNotFoundError):
                last_use = time.time() - EXPIRES_AFTER if upload_id in ids else half_done_before
                expired = path.stat().st_mtime < last_use
                if path.is_file() and expired and not self.is_busy(upload_id):
                    path.unlink()

    @contextmanager
    def writing(self, upload: Upload, offset: int) -> Iterator[int]:
        """The open file, at its end; one writer at a time. Raises ConflictError where `offset` is not the end."""
        with self._lock:
            if upload.id in self._busy:
                raise ConflictError(f"{upload.name} is already being uploaded")
            self._busy.add(upload.id)
        try:
            if self.offset(upload) != offset:
                raise ConflictError(f"{upload.name}: {self.offset(upload):,} bytes have arrived, not {offset:,}")
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
        """The complete file, to be kept. The upload is over when that is done, or when the file was refused; where it
        failed for another reason it stays, to be taken in later.
        """
        try:
            yield Arrived(self._data(upload.id), upload.name, upload.folder, upload.salvage)
        except DiskFullError:
            raise
        except Error:
            self.remove(upload.id)
            raise
        self.remove(upload.id)

    def remove(self, upload_id: str) -> None:
        self._note(upload_id).unlink(missing_ok=True)
        self._data(upload_id).unlink(missing_ok=True)

    def _data(self, upload_id: str) -> Path:
        if not _ID.fullmatch(upload_id):
            raise NotFoundError("There is no such upload: drop the file again")
        return self._folder / upload_id

    def _note(self, upload_id: str) -> Path:
        return self._data(upload_id).with_suffix(".json")


def append(fd: int, data: bytes, name: str) -> None:
    """Add bytes to an open file. Raises DiskFullError naming the file."""
    with naming_disk_errors(name):
        left = memoryview(data)
        while left:
            left = left[os.write(fd, left) :]
