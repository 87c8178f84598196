"""Taking a file in: deciding by its content what it is, and giving back PCM that can be read anywhere.

A PCM WAV is used as it is. Everything else gets a working copy; the form shown stays that of the original.
"""

import logging
import os
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from wedge_turn.core.audio.movie_import import decode_movie_to_wav
from wedge_turn.core.audio.movies import HEAD, movie_kind
from wedge_turn.core.audio.riff import is_riff, read_chunk, read_layout
from wedge_turn.core.audio.soundfile_import import decode_to_wav
from wedge_turn.core.audio.wavfile import WavFile, is_carried
from wedge_turn.core.audio.working_copy import copy_frames
from wedge_turn.core.errors import (
    BadHeaderError,
    Error,
    NotAudioError,
    NotFoundError,
    from_system,
    naming_disk_errors,
    naming_file,
)
from wedge_turn.core.form import Form
from wedge_turn.core.metadata import Recorded, read_recorded
from wedge_turn.core.naming import check_given_name
from wedge_turn.core.scratch import scratch_folder

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Accepted:
    """What a file is, what it says about itself, and the PCM WAV that holds its samples: itself or a working copy."""

    form: Form
    recorded: Recorded
    pcm: Path


EMPTY: Final = "Copy or export it again."


def import_file(path: Path, name: str, working_copy: Callable[[], Path], *, salvage: bool = False) -> Accepted:
    """Decide what a file is, and decode it where it is no PCM WAV.

    `working_copy` says where one goes and is asked only if one is needed; a failed one is removed. To `salvage` is to
    take what can be read of an incomplete file, whose form then says so.
    Raises NotAudioError, BrokenAudioError, LimitError or DiskFullError; messages call the file `name`. Whatever else a
    reader stumbles over in it, or a library below it, is a damaged header.
    """
    try:
        return _import(path, name, working_copy, salvage=salvage)
    except (Error, OSError, MemoryError):
        raise
    except Exception as error:
        log.exception("%s could not be read", name)
        raise BadHeaderError(f"{name} cannot be read: what its header says makes no sense") from error


def _import(path: Path, name: str, working_copy: Callable[[], Path], *, salvage: bool) -> Accepted:
    fd = os.open(path, os.O_RDONLY)
    try:
        head = os.pread(fd, HEAD, 0)
        if not head:
            raise NotAudioError(f"{name} is empty: 0 bytes", help=EMPTY)
        layout = read_layout(fd, name, salvage=salvage) if is_riff(head) else None
        if layout is not None and layout.form.broken_off is not None:
            with _removing_failed(working_copy()) as copy, naming_disk_errors(name):
                kept = tuple((c.name, read_chunk(fd, c)) for c in layout.chunks if is_carried(c))
                copy_frames(fd, layout.data_offset, copy, layout.form, kept)
                return Accepted(layout.form, read_recorded(kept), copy)
    finally:
        os.close(fd)
    if layout is not None:
        with WavFile(path, name) as file:
            return Accepted(file.form, file.recorded, path)
    with _removing_failed(working_copy()) as copy:
        kind = movie_kind(head)
        if kind:
            return Accepted(*decode_movie_to_wav(path, copy, name, kind), copy)
        return Accepted(*decode_to_wav(path, copy, name, salvage=salvage), copy)


@contextmanager
def _removing_failed(copy: Path) -> Iterator[Path]:
    try:
        yield copy
    except BaseException:
        copy.unlink(missing_ok=True)
        raise


@contextmanager
def open_files(
    paths: Sequence[Path], within: Path | None = None, *, salvage: bool = False
) -> Iterator[list[tuple[Form, WavFile]]]:
    """The forms of files on disk, and PCM to read them from, while the context lasts.

    Working copies go into a hidden folder that is gone afterwards, `within` another where one is given. To `salvage` is
    to take what can be read of incomplete files. Raises NotFoundError, or what `import_file` raises.
    """
    with scratch_folder(within) as folder, ExitStack() as open_files:
        files: list[tuple[Form, WavFile]] = []
        for n, path in enumerate(paths):
            form, file = _open(path, folder / str(n), salvage=salvage)
            open_files.callback(file.close)
            files.append((form, file))
        yield files


def is_readable(path: Path) -> bool:
    """Whether a file is sound that can be read from its start to its end."""
    try:
        with open_files([path]):
            return True
    except (Error, OSError):
        return False


@contextmanager
def open_readable(
    paths: Sequence[Path], *, salvage: bool = False
) -> Iterator[tuple[list[tuple[Path, Form, WavFile]], list[tuple[Path, Error]]]]:
    """Files on disk as `opened` gives them, and those that can't be taken, each with why. Decodes on all cores."""
    with scratch_folder() as folder, ExitStack() as open_files:

        def opening(n: int) -> tuple[Form, WavFile] | Error:
            try:
                return _open(paths[n], folder / str(n), salvage=salvage)
            except Error as error:
                return error
            except OSError as error:
                return from_system(error, paths[n].name)

        files: list[tuple[Path, Form, WavFile]] = []
        refused: list[tuple[Path, Error]] = []
        with ThreadPoolExecutor() as pool:
            for path, result in zip(paths, pool.map(opening, range(len(paths))), strict=True):
                if isinstance(result, Error):
                    refused.append((path, result))
                else:
                    open_files.callback(result[1].close)
                    files.append((path, *result))
        yield files, refused


def _open(path: Path, working_copy: Path, *, salvage: bool) -> tuple[Form, WavFile]:
    name = check_given_name(path.name)
    with naming_file(name):
        if not path.is_file():
            raise NotFoundError(f"{name} does not exist or is not a file")
        accepted = import_file(path, name, lambda: working_copy, salvage=salvage)
    return accepted.form, WavFile(accepted.pcm, name, recorded=accepted.recorded)
