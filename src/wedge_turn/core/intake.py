"""Taking a file in: deciding by its content what it is, and giving back PCM that can be read anywhere.

A PCM WAV is used as it is. Everything else gets a working copy; the form shown stays that of the original.
"""

import os
import tempfile
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from wedge_turn.core.audio.decoded import decode_to_wav
from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.riff import is_riff, read_layout
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.errors import NotAudioError, NotFoundError
from wedge_turn.core.naming import check_given_name


def take_in(path: Path, name: str, working_copy: Callable[[], Path]) -> tuple[Form, Path]:
    """The form of a file, and the PCM WAV that holds its samples: `path` itself or a working copy.

    `working_copy` says where one goes and is asked only if one is needed; a failed one is removed.
    Raises NotAudioError, BrokenAudioError, LimitError or DiskFullError; messages call the file `name`.
    """
    fd = os.open(path, os.O_RDONLY)
    try:
        head = os.pread(fd, 12, 0)
        if not head:
            raise NotAudioError(f"{name} is empty: 0 bytes")
        layout = read_layout(fd, name) if is_riff(head) else None
    finally:
        os.close(fd)
    if layout is not None:
        return layout.form, path
    copy = working_copy()
    try:
        return decode_to_wav(path, copy, name), copy
    except BaseException:
        copy.unlink(missing_ok=True)
        raise


@contextmanager
def opened(paths: Sequence[Path]) -> Iterator[list[tuple[Form, WavFile]]]:
    """The forms of files on disk, and PCM to read them from, while the context lasts.

    Working copies go into a temporary folder that is gone afterwards. Raises NotFoundError, or what `take_in` raises.
    """
    with tempfile.TemporaryDirectory(prefix="wedge-turn-") as folder:
        files: list[tuple[Form, WavFile]] = []
        try:
            for n, path in enumerate(paths):
                name = check_given_name(path.name)
                if not path.is_file():
                    raise NotFoundError(f"{name} does not exist or is not a file")
                form, pcm = take_in(path, name, lambda n=n: Path(folder, str(n)))  # type: ignore[misc]
                files.append((form, WavFile(pcm, name)))
            yield files
        finally:
            for _, file in files:
                file.close()
