"""Hashes of files: of what the system has of one, and of what is on the disk."""

import errno
import hashlib
import mmap
import os
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from xxhash import xxh3_128

from wedge_turn.core.delivery.proof import ReadBack
from wedge_turn.core.errors import ProofFailedError, naming_disk_errors

_READ_BACK: Final = 1 << 20  # bytes at a time
_NO_DIRECT_READS: Final = (errno.EINVAL, errno.EOPNOTSUPP)  # of a file system that reads through the cache alone


def hash_file(path: Path) -> str:
    """XXH3 checksum of a file, 128 bits, in hexadecimal."""
    with path.open("rb", buffering=0) as file:
        digest: str = hashlib.file_digest(file, xxh3_128).hexdigest()
        return digest


@dataclass(frozen=True)
class FileHash:
    """What is in a flushed file: the hash of all of it, its first bytes, the hash of the rest, where it was read."""

    xxh128: str
    head: bytes
    rest: str
    read_back: ReadBack


def hash_stored(path: Path) -> tuple[str, ReadBack]:
    """The XXH3 checksum of a flushed file, read from the disk past the system's cache; where the file system does not
    allow that, from the cache.
    """
    stored = read_stored(path)
    return stored.xxh128, stored.read_back


def read_stored(path: Path, head: int = 0) -> FileHash:
    """The same in two parts: the first `head` bytes as they are, and a checksum of the others.

    Raises OSError where the disk can't give back what was written: that is never read from the cache instead.
    """
    try:
        return _read(os.open(path, os.O_RDONLY | os.O_DIRECT), head, "disk")
    except OSError as error:
        error.filename = str(path)
        if error.errno not in _NO_DIRECT_READS:
            raise
        return _read(os.open(path, os.O_RDONLY), head, "cache")


def _read(fd: int, head: int, where: ReadBack) -> FileHash:
    """Reads an open file, which is closed; into whole pages of memory, as reading past the cache asks for."""
    total, rest, first, at = xxh3_128(), xxh3_128(), b"", 0
    try:
        with mmap.mmap(-1, _READ_BACK) as pages, memoryview(pages) as buffer:
            while got := os.preadv(fd, [buffer], at):
                total.update(buffer[:got])
                if head:  # else the rest is all of it, which need not be hashed twice
                    if at == 0:
                        first = bytes(buffer[: min(head, got)])
                    rest.update(buffer[len(first) if at == 0 else 0 : got])
                at += got
                if got < _READ_BACK:
                    break
    finally:
        os.close(fd)
    return FileHash(total.hexdigest(), first, (rest if head else total).hexdigest(), where)


class HashingWriter:
    """A new file that a library writes into, going back to its first bytes at the end: knows what was meant to be
    written, whatever becomes of it.
    """

    HEAD: Final = 1 << 16  # bytes that may be written over

    def __init__(self, fd: int) -> None:
        self._fd = fd
        self._head = bytearray()
        self._rest = xxh3_128()
        self._at = self._size = 0
        self.error: OSError | None = None

    def write(self, data: bytes) -> int:
        """Takes all of it, or none and keeps why: a library in C can't be told by an exception."""
        try:
            write_whole(self._fd, data)
        except OSError as error:
            self.error = error
            return 0
        first = data[: max(0, self.HEAD - self._at)]
        self._head[self._at : self._at + len(first)] = first
        if len(first) < len(data):
            if self._at + len(first) != max(self._size, self.HEAD):
                self.error = OSError("what was written already was written over")
                return 0
            self._rest.update(data[len(first) :])
        self._at += len(data)
        self._size = max(self._size, self._at)
        return len(data)

    def seek(self, offset: int, whence: int = os.SEEK_SET) -> int:
        self._at = os.lseek(self._fd, offset, whence)
        return self._at

    def tell(self) -> int:
        return self._at

    def matches(self, stored: FileHash) -> bool:
        """Whether a file, read with HEAD bytes apart, holds what was meant to be written."""
        return stored.head == self._head and stored.rest == self._rest.hexdigest()


class InsertingWriter:
    """Stands between a library and a Recorder, and puts bytes of ours before what the library writes at byte `at`; the
    library doesn't know of them.
    """

    def __init__(self, recorder: HashingWriter, inserted: bytes, at: int) -> None:
        self._recorder, self._inserted, self._insert_at = recorder, inserted, at
        self._at = 0
        self._is_in = False

    def write(self, data: bytes) -> int:
        """Takes all of it, or none."""
        before = data[: max(0, self._insert_at - self._at)]
        after = data[len(before) :]
        if before:
            self._recorder.seek(self._at)
            self._recorder.write(before)
        if after:
            start = self._at + len(before)
            if not self._is_in:
                self._recorder.seek(start)
                self._recorder.write(self._inserted)
                self._is_in = True
            self._recorder.seek(start + len(self._inserted))
            self._recorder.write(after)
        if self._recorder.error:
            return 0
        self._at += len(data)
        return len(data)

    def seek(self, offset: int, whence: int = os.SEEK_SET) -> int:
        if whence == os.SEEK_END:
            offset += self._recorder.seek(0, os.SEEK_END) - (len(self._inserted) if self._is_in else 0)
        self._at = offset + (self._at if whence == os.SEEK_CUR else 0)
        return self._at

    def tell(self) -> int:
        return self._at


def write_whole(fd: int, data: bytes | memoryview) -> None:
    """Write all of it: the system may take less at a time."""
    left = memoryview(data)
    while left:
        left = left[os.write(fd, left) :]


def write_text(path: Path, text: str) -> None:
    """Write a text to the disk and read it back. Raises ProofFailedError where it is not what was written."""
    content = text.encode()
    with naming_disk_errors(path.name), path.open("wb", buffering=0) as file:
        write_whole(file.fileno(), content)
        os.fsync(file.fileno())
    if path.read_bytes() != content:
        raise ProofFailedError(f"{path.name} could not be read back as it was written")
