"""File descriptors that are opened when somebody reads and closed when too many are open.

A job of a thousand files needs no thousand descriptors, and a file that is replaced behind our back while its
descriptor is closed is noticed: it must still have the device, inode, size and modification time it had at first.
Thread-safe: a reader holds its `OpenFile` while it reads, and the last holder closes it.
"""

import os
import threading
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import Final

MAX_OPEN: Final = 128


class OpenFile:
    """A descriptor for reading, closed when nobody holds the object any more."""

    def __init__(self, path: Path) -> None:
        self.fd = -1
        self.fd = os.open(path, os.O_RDONLY)
        facts = os.fstat(self.fd)
        self.identity = facts.st_dev, facts.st_ino, facts.st_size, facts.st_mtime_ns

    def __del__(self, close: Callable[[int], None] = os.close) -> None:  # at the end of the process `os` may be gone
        if self.fd >= 0:
            close(self.fd)


class DescriptorCache:
    """The open files used last, at most `limit` of them, by any key."""

    def __init__(self, limit: int = MAX_OPEN) -> None:
        self._limit = limit
        self._files: OrderedDict[int, OpenFile] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: int) -> OpenFile | None:
        with self._lock:
            file = self._files.get(key)
            if file is not None:
                self._files.move_to_end(key)
            return file

    def put(self, key: int, file: OpenFile) -> None:
        with self._lock:
            self._files[key] = file
            self._files.move_to_end(key)
            while len(self._files) > self._limit:
                self._files.popitem(last=False)

    def drop(self, key: int) -> None:
        with self._lock:
            self._files.pop(key, None)


DESCRIPTORS: Final = DescriptorCache()
