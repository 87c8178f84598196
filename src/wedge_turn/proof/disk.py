"""Bytes of a file from the disk, past the system's cache where the file system allows it, hashed on the way."""

import errno
import mmap
import os
from pathlib import Path
from typing import Literal, Self

import numpy as np
from numpy.typing import NDArray
from xxhash import xxh3_128

PAGE = 4096  # what reading past the cache is aligned to
_THROUGH_THE_CACHE = (errno.EINVAL, errno.EOPNOTSUPP)  # of a file system that reads through the cache alone


class OnDisk:
    """A file with descriptors of its own. With `apart` its samples have a hash of their own besides.

    Raises OSError where the disk can't give back what is in the file: that is never read from the cache instead.
    """

    def __init__(self, path: Path, *, apart: bool = False) -> None:
        self.path = path
        self.plain = os.open(path, os.O_RDONLY)
        self.where: Literal["disk", "cache"] = "disk"
        try:
            self._fd = os.open(path, os.O_RDONLY | os.O_DIRECT)
        except OSError as error:
            if error.errno not in _THROUGH_THE_CACHE:
                os.close(self.plain)
                raise
            self._fd, self.where = os.dup(self.plain), "cache"
        self._hash, self._samples = xxh3_128(), xxh3_128() if apart else None
        self._hashed = 0

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        os.close(self._fd)
        os.close(self.plain)

    def read(self, start: int, size: int, into: mmap.mmap) -> NDArray[np.uint8]:
        """Bytes [start, start + size), and one more that is anything; good until the same memory is read into again."""
        first = start // PAGE * PAGE
        want, got = start + size - first, 0
        view = memoryview(into)
        while got < want:
            room = -(-(want - got) // PAGE) * PAGE
            try:
                n = os.preadv(self._fd, [view[got : got + room]], first + got)
            except OSError as error:
                if error.errno not in _THROUGH_THE_CACHE or self.where == "cache":
                    error.filename = str(self.path)
                    raise
                os.dup2(self.plain, self._fd)
                self.where = "cache"
                continue
            if n <= 0 or (n < PAGE and got + n < want):
                raise EOFError(f"{self.path.name} ends too early")
            got += n
            if got < want:
                got -= got % PAGE  # from whole pages on, whatever the system gave
        return np.frombuffer(view, np.uint8)[start - first : start - first + size + 1]

    def hash_samples(self, start: int, data: NDArray[np.uint8]) -> None:
        """Take samples into the hashes, which must be the next ones; what is before them is read here."""
        if start > self._hashed:
            self._hash.update(os.pread(self.plain, start - self._hashed, self._hashed))
        self._hash.update(data.data)
        if self._samples is not None:
            self._samples.update(data.data)
        self._hashed = start + data.size

    @property
    def samples_digest(self) -> str:
        return self._samples.hexdigest() if self._samples else ""

    def digest(self) -> str:
        """The hash of the whole file, once its samples were read."""
        while rest := os.pread(self.plain, 1 << 20, self._hashed):
            self._hash.update(rest)
            self._hashed += len(rest)
        return self._hash.hexdigest()
