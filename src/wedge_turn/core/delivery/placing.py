"""Putting written files in their places: all of them or none, also where they replace others, and also where the
process is killed meanwhile.

    .wedge-turn-…/              the files as they were written and proved, and the manifest of the folder as it will be
    .wedge-turn-…/.unfinished   the names that are being moved, from before the first to after the last
    .wedge-turn-…/.replaced-3   the file that was there before, by a second name

A name that is replaced goes from the old file to the new one at once. Whoever next delivers into a folder where that
was broken off finishes it first.
"""

import contextlib
import errno
import json
import os
import shutil
from collections.abc import Iterable, Mapping, Sequence, Set
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from wedge_turn.core.audio import is_readable
from wedge_turn.core.delivery.hashing import hash_file
from wedge_turn.core.errors import BadRequestError, ExistsError
from wedge_turn.core.naming import is_inside
from wedge_turn.core.scratch import UNFINISHED, find_abandoned

_NO_LINKS: Final = (errno.EPERM, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK)


Facts = tuple[int, int, int]  # inode, size and time of change: while they are the same, so is the file


def check_replaceable(
    folder: Path,
    names: Iterable[str],
    sources: Sequence[Path],
    own: Mapping[str, str],
    checked: Mapping[str, Facts],
    *,
    overwrite: bool,
    damaged: bool,
) -> dict[str, Facts]:
    """The names of files that stand in the place of these and may be replaced: all of them, or else those of `own`,
    whose hashes say that they are what was written there, or which can't be read any more where `damaged` ones may be
    replaced. Those that were `checked` before are not looked into again.

    Raises ExistsError where something is not to be replaced, BadRequestError where that is one of the sources.
    """
    clashes = {}
    for name in names:
        path = folder / name
        if not path.exists():
            continue
        if any(path.samefile(source) for source in sources):
            raise BadRequestError(f"{name} would overwrite its own source", help="Choose another folder.")
        if not path.is_file() or not (overwrite or name in own):
            raise ExistsError(f"{name} already exists")
        status = path.stat()
        clashes[name] = facts = status.st_ino, status.st_size, status.st_mtime_ns
        if overwrite or checked.get(name) == facts or hash_file(path) == own[name]:
            continue
        if not damaged or is_readable(path):
            raise ExistsError(f"{name} has been changed since it was delivered there")
    return clashes


@dataclass(frozen=True)
class _Move:
    """A file that took its place, and the one that was there before, by its second name."""

    target: Path
    replaced: Path | None

    def roll_back(self) -> None:
        if self.replaced is None:
            self.target.unlink(missing_ok=True)
        else:
            self.replaced.replace(self.target)


def move_all(staging: Path, folder: Path, names: Sequence[str], replacing: Set[str]) -> None:
    """Move files to their places, replacing those of `replacing` alone; flush the folders to the disk.

    Raises ExistsError where a file came meanwhile, or OSError; then all is as it was.
    """
    moves: list[_Move] = []
    new_folders: list[Path] = []
    note = staging / UNFINISHED
    _write_note(note, {"names": list(names), "replacing": sorted(replacing & set(names))})
    try:
        for name in names:
            target = folder / name
            new_folders += _make_folders(target.parent)
            moves.append(_move(staging, name, target, replaces=name in replacing, number=len(moves)))
        _flush({folder, *((folder / name).parent for name in names)})
    except BaseException:
        for move in reversed(moves):
            move.roll_back()
        note.unlink()
        remove_empty(new_folders)
        raise
    note.unlink()


def finish_interrupted(folder: Path) -> None:
    """Let files take their places that were about to when a process was killed. To be called with the folder locked.

    Raises ExistsError where another file has come to one of their names since, BadRequestError where the note of their
    names can't be read, or OSError.
    """
    for staging in find_interrupted(folder):
        note = staging / UNFINISHED
        names, replacing = _read_note(note)
        for name in names:
            written, target = staging / name, folder / name
            if not written.exists() or (target.exists() and target.samefile(written)):
                continue  # in its place already
            if target.exists() and name not in replacing:
                raise ExistsError(
                    f"{name} already exists, and a delivery that was interrupted has a file of that name",
                    help=f"Move {name} elsewhere, or delete the hidden folder {staging.name}; then try again.",
                )
            _make_folders(target.parent)
            written.replace(target)
        _flush({folder, *((folder / name).parent for name in names)})
        note.unlink()
        shutil.rmtree(staging, ignore_errors=True)


def find_interrupted(folder: Path) -> list[Path]:
    """Hidden folders of deliveries that were broken off while their files took their places, the oldest first."""
    return [path for path in find_abandoned(folder) if (path / UNFINISHED).exists()]


def remove_empty(folders: Iterable[Path]) -> None:
    """Remove folders that were made, the innermost first; what somebody else has put there meanwhile stays."""
    with contextlib.suppress(OSError):
        for path in sorted(folders, key=lambda path: len(path.parts), reverse=True):
            path.rmdir()


def find_missing_folders(folder: Path) -> list[Path]:
    """A folder and those around it that don't exist yet."""
    return [path for path in (folder, *folder.parents) if not path.exists()]


def make_folder_within(base: Path, folder: Path) -> None:
    """Make a folder below `base`, but not `base`, which is gone once a delivery was stopped: FileNotFoundError then."""
    for part in folder.relative_to(base).parts:
        base /= part
        base.mkdir(exist_ok=True)


def _make_folders(folder: Path) -> list[Path]:
    new_folders = find_missing_folders(folder)
    folder.mkdir(parents=True, exist_ok=True)
    return new_folders


def _write_note(path: Path, note: object) -> None:
    """Note what is about to be moved, whole or not at all. It outlives the process, and need not outlive the machine:
    each name has its old or its new file without it.
    """
    new = path.with_suffix(".new")
    new.write_text(json.dumps(note), "utf-8")
    new.replace(path)


def _read_note(path: Path) -> tuple[list[str], set[str]]:
    """The names that were being moved, and those of them that replace files."""
    try:
        note = json.loads(path.read_bytes())
        names, replacing = [str(name) for name in note["names"]], set(note["replacing"])
    except (ValueError, KeyError, TypeError, RecursionError):
        names, replacing = [""], set()
    if not all(is_inside(name) for name in names):
        raise BadRequestError(
            f"What an interrupted delivery left in {path.parent.name} can't be read",
            help="Look into that hidden folder for your files, then delete it.",
        )
    return names, replacing


def _move(staging: Path, name: str, target: Path, *, replaces: bool, number: int) -> _Move:
    if not replaces or not target.exists():
        _move_new(staging / name, target)
        return _Move(target, None)
    replaced = staging / f".replaced-{number}"
    try:
        replaced.hardlink_to(target)
    except OSError as error:
        if error.errno not in _NO_LINKS:
            raise
        target.replace(replaced)  # on a file system without links the name is empty for a moment
    move = _Move(target, replaced)
    try:
        (staging / name).replace(target)
    except BaseException:
        move.roll_back()
        raise
    return move


def _flush(folders: Iterable[Path]) -> None:
    """Make the names of folders' files last through a power cut, where the file system can."""
    for folder in folders:
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
        if error.errno not in _NO_LINKS:
            raise
        # A file system without hard links, such as that of a memory card.
        if target.exists():
            raise ExistsError(f"{target.name} already exists") from error
        source.rename(target)
