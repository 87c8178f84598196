"""Putting written files in their places: all of them or none, also where they replace others."""

import contextlib
import errno
import os
import shutil
import time
from collections.abc import Iterable, Mapping, Sequence, Set
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from wedge_turn.core.delivery.hashing import hash_file
from wedge_turn.core.errors import BadRequestError, ExistsError

STAGING: Final = ".wedge-turn-"  # what the hidden folder is called that files are written in
LEFT_AFTER: Final = 3600.0  # seconds
ATTEMPTS: Final = 20  # at removing a folder that a worker still writes into, which sees soon that it is gone


def replaceable(
    folder: Path, names: Iterable[str], sources: Sequence[Path], own: Mapping[str, str], *, overwrite: bool
) -> set[str]:
    """The names of files that stand in the place of these and may be replaced: all of them, or else those of `own`,
    whose hashes say that they are what was written there.

    Raises ExistsError where something is not to be replaced, BadRequestError where that is one of the sources.
    """
    found = set()
    for name in names:
        path = folder / name
        if not path.exists():
            continue
        if any(path.samefile(source) for source in sources):
            raise BadRequestError(f"{name} would overwrite its own source: choose another folder")
        if not path.is_file() or not (overwrite or name in own):
            raise ExistsError(f"{name} already exists")
        if not overwrite and hash_file(path) != own[name]:
            raise ExistsError(f"{name} has been changed since it was delivered there")
        found.add(name)
    return found


@dataclass(frozen=True)
class _Move:
    """A file that took its place, and where the one that was there before waits in case all is taken back."""

    target: Path
    replaced: Path | None

    def take_back(self) -> None:
        if self.replaced is None:
            self.target.unlink(missing_ok=True)
        else:
            self.replaced.replace(self.target)


def move_all(staging: Path, folder: Path, names: Sequence[str], replacing: Set[str]) -> None:
    """Move files to their places, replacing those of `replacing` alone; flush the folders to the disk.

    Raises ExistsError where a file came meanwhile, or OSError; then all is as it was.
    """
    done: list[_Move] = []
    made: list[Path] = []
    try:
        for name in names:
            target = folder / name
            made += _make_folders(target.parent)
            move = _move(staging, name, target, overwrite=name in replacing, number=len(done))
            done.append(move)
        for inside in {folder, *((folder / name).parent for name in names)}:
            _flush_folder(inside)
    except BaseException:
        for move in reversed(done):
            move.take_back()
        remove_empty(made)
        raise


def remove_empty(folders: Iterable[Path]) -> None:
    """Remove folders that were made, the innermost first; what somebody else has put there meanwhile stays."""
    with contextlib.suppress(OSError):
        for path in sorted(folders, key=lambda one: len(one.parts), reverse=True):
            path.rmdir()


def remove_leftovers(folder: Path) -> None:
    """Remove what a process left that was killed while it wrote into a folder, once nobody can be at it any more."""
    for path in folder.glob(f"{STAGING}*"):
        with contextlib.suppress(OSError):
            if time.time() - path.stat().st_mtime > LEFT_AFTER:
                shutil.rmtree(path)


def remove_staging(staging: Path) -> None:
    """Remove the hidden folder of a delivery that has ended."""
    for _ in range(ATTEMPTS):
        shutil.rmtree(staging, ignore_errors=True)
        if not staging.exists():
            break
        time.sleep(0.1)


def missing(folder: Path) -> list[Path]:
    """A folder and those around it that don't exist yet."""
    return [path for path in (folder, *folder.parents) if not path.exists()]


def _make_folders(folder: Path) -> list[Path]:
    made = missing(folder)
    folder.mkdir(parents=True, exist_ok=True)
    return made


def _move(staging: Path, name: str, target: Path, *, overwrite: bool, number: int) -> _Move:
    if not overwrite or not target.exists():
        _move_new(staging / name, target)
        return _Move(target, None)
    replaced = staging / f".replaced-{number}"
    target.replace(replaced)
    move = _Move(target, replaced)
    try:
        (staging / name).replace(target)
    except BaseException:
        move.take_back()
        raise
    return move


def _flush_folder(folder: Path) -> None:
    """Make the names of a folder's files last through a power cut, where the file system can."""
    fd = os.open(folder, os.O_RDONLY)
    try:
        with contextlib.suppress(OSError):
            os.fsync(fd)
    finally:
        os.close(fd)


def _move_new(source: Path, target: Path) -> None:
    """Move a file to a name that must be free."""
    try:
        target.hardlink_to(source)  # unlike a rename, never replaces a file that came meanwhile
    except FileExistsError as error:
        raise ExistsError(f"{target.name} already exists") from error
    except OSError as error:
        if error.errno not in (errno.EPERM, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK):
            raise
        # A file system without hard links, such as that of a memory card.
        if target.exists():
            raise ExistsError(f"{target.name} already exists") from error
        source.rename(target)
