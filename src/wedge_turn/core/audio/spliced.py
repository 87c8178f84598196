"""A file on disk read with other bytes in some places, and without others, so that what is broken of it can be passed
over. Nothing is copied.
"""

import io
from bisect import bisect_right
from collections.abc import Mapping, Sequence
from itertools import accumulate
from pathlib import Path
from typing import Any

# Bytes of its own, or where a stretch of the file starts and how long it is.
Part = bytes | tuple[int, int]


class SplicedFile(io.RawIOBase):
    """Parts of a file and bytes, one after the other. Close it, or use it in a `with` statement."""

    def __init__(self, path: Path, parts: Sequence[Part]) -> None:
        self._file = path.open("rb", buffering=0)
        self._parts = [part for part in parts if _size(part)]
        self._starts = [0, *accumulate(map(_size, self._parts))]
        self._at = 0

    @classmethod
    def patching(cls, path: Path, patches: Mapping[int, bytes]) -> "SplicedFile":
        """A whole file with other bytes at some offsets, which don't overlap."""
        parts: list[Part] = []
        at = 0
        for place, patch in sorted(patches.items()):
            parts += [(at, place - at), patch]
            at = place + len(patch)
        return cls(path, [*parts, (at, max(0, path.stat().st_size - at))])

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def tell(self) -> int:
        return self._at

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        base = {io.SEEK_SET: 0, io.SEEK_CUR: self._at, io.SEEK_END: self._starts[-1]}[whence]
        self._at = max(0, base + offset)
        return self._at

    def readinto(self, buffer: Any) -> int:
        """As many bytes as there are room for, up to the end: decoders take fewer for the end of the file."""
        view, got = memoryview(buffer).cast("B"), 0
        while got < len(view) and (count := self._read_within(view[got:])):
            got += count
        return got

    def _read_within(self, view: memoryview) -> int:
        """Up to the end of the part that the position is in."""
        n = bisect_right(self._starts, self._at) - 1
        if n >= len(self._parts):
            return 0
        part, inside = self._parts[n], self._at - self._starts[n]
        count = min(len(view), self._starts[n + 1] - self._at)
        if isinstance(part, bytes):
            view[:count] = part[inside : inside + count]
        else:
            self._file.seek(part[0] + inside)
            count = self._file.readinto(view[:count]) or 0
        self._at += count
        return count

    def close(self) -> None:
        self._file.close()
        super().close()


def _size(part: Part) -> int:
    return len(part) if isinstance(part, bytes) else part[1]
