"""Hidden folders of our own among other people's files, and locks on folders that several processes write into.

Who works in a hidden folder holds a lock on a file in it. So one whose process was killed is told from one in use, by
whoever comes next and clears it away.
"""

import contextlib
import fcntl
import os
import shutil
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Final

PREFIX: Final = ".wedge-turn-"
# A hidden folder that holds a file of this name is never cleared away: what it holds may be the only copy.
UNFINISHED: Final = ".unfinished"
_IN_USE: Final = ".in-use"
_LOCK: Final = ".wedge-turn-lock"
FRESH_FOR: Final = 60.0  # seconds in which a new folder may not be held yet
RETRY_EVERY: Final = 0.1  # seconds
ATTEMPTS: Final = 20  # at removing a folder that a worker still writes into, which sees soon that it is gone


@contextmanager
def scratch_folder(parent: Path | None = None) -> Iterator[Path]:
    """A hidden folder within `parent`, by default the system's folder for temporary files, held while the context lasts
    and gone afterwards, unless it is `UNFINISHED`. What killed processes left beside it is cleared away.
    """
    remove_abandoned(parent or Path(tempfile.gettempdir()))
    folder = Path(tempfile.mkdtemp(prefix=PREFIX, dir=parent))
    try:
        held = os.open(folder / _IN_USE, os.O_RDWR | os.O_CREAT)
        try:
            with contextlib.suppress(OSError):  # a file system without locks: nobody clears it away
                _try_lock(held)
            yield folder
        finally:
            os.close(held)
    finally:
        if not (folder / UNFINISHED).exists():
            _remove(folder)


def find_abandoned(parent: Path) -> list[Path]:
    """Hidden folders within a folder that nobody holds any more, the oldest first."""
    found: list[tuple[float, Path]] = []
    for path in parent.glob(f"{PREFIX}*"):
        with contextlib.suppress(OSError):  # whoever used it removes it now
            if path.is_dir() and not path.is_symlink() and not _is_held(path):
                found.append((path.stat().st_mtime, path))
    return [path for _, path in sorted(found)]


def remove_abandoned(parent: Path) -> None:
    """Clear away what killed processes left within a folder, but for what may be the only copy of a file."""
    for path in find_abandoned(parent):
        with contextlib.suppress(OSError):
            old = time.time() - path.stat().st_mtime > FRESH_FOR
            # Earlier versions moved files that were replaced to such names, without another copy.
            keeps = (path / UNFINISHED).exists() or any(path.glob(".replaced-*"))
            if old and not keeps:
                shutil.rmtree(path)


@contextmanager
def lock_folder(folder: Path, waiting: Callable[[], object] = lambda: None) -> Iterator[None]:
    """Nobody else is within this context for the same folder, in any process. `waiting` is called while somebody is,
    and may raise.

    The folder itself is locked; on file systems that lock files only, a hidden file in it. Where there are no locks at
    all, nobody waits.
    """
    with contextlib.ExitStack() as stack:
        for path, flags in ((folder, os.O_RDONLY), (folder / _LOCK, os.O_RDWR | os.O_CREAT)):
            try:
                fd = os.open(path, flags)
                stack.callback(os.close, fd)
                is_mine = _try_lock(fd)
            except OSError:
                continue
            while not is_mine:
                waiting()
                time.sleep(RETRY_EVERY)
                is_mine = _try_lock(fd)
            # Explicitly, as a process that was forked meanwhile has the file open, too.
            stack.callback(fcntl.flock, fd, fcntl.LOCK_UN)
            break
        yield


def _try_lock(fd: int) -> bool:
    """Lock an open file; False where somebody else has. Raises OSError where the file system has no locks for it."""
    try:
        fcntl.flock(fd, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    return True


def _is_held(folder: Path) -> bool:
    try:
        fd = os.open(folder / _IN_USE, os.O_RDWR)
    except FileNotFoundError:
        return False
    except OSError:
        return True  # somebody else's
    try:
        return not _try_lock(fd)
    except OSError:
        return True
    finally:
        os.close(fd)


def _remove(folder: Path) -> None:
    for _ in range(ATTEMPTS):
        shutil.rmtree(folder, ignore_errors=True)
        if not folder.exists():
            break
        time.sleep(RETRY_EVERY)
