"""Which files are left to PyAV (FFmpeg's libraries), and opening them: movies, M4A, AAC and WavPack.

They need the extra `media`. The container is decided by content, and FFmpeg is told which it is, so that a file is
never read as anything that refers to other files.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Final, NamedTuple

from wedge_turn.core.errors import MediaExtraMissingError, NotAudioError

if TYPE_CHECKING:
    from av.container import InputContainer

HEAD: Final = 64  # bytes that decide
_MP4_BRANDS: Final = {b"qt  ": "MOV", b"M4A ": "M4A", b"M4B ": "M4A"}
_OLD_MOVIES: Final = (b"moov", b"mdat", b"wide")  # QuickTime without a brand


class MovieKind(NamedTuple):
    """What a file is called, and the demuxer of FFmpeg that reads it."""

    name: str
    demuxer: str


def movie_kind(head: bytes) -> MovieKind | None:
    """What the first bytes of a file say; None where it is none of these."""
    if head[4:8] == b"ftyp":
        return MovieKind(_MP4_BRANDS.get(head[8:12], "MP4"), "mov")
    if head[4:8] in _OLD_MOVIES:
        return MovieKind("MOV", "mov")
    if head[:4] == b"\x1a\x45\xdf\xa3":
        return MovieKind("WebM" if b"webm" in head else "MKV", "matroska")
    if head[:4] == b"wvpk":
        return MovieKind("WavPack", "wv")
    # ADTS: twelve bits of ones, and layer 0, which MP3 never has (ISO/IEC 13818-7).
    if len(head) > 1 and head[0] == 0xFF and head[1] & 0xF6 == 0xF0:
        return MovieKind("AAC", "aac")
    return None


def detect_movie_kind(path: Path) -> MovieKind | None:
    with path.open("rb") as file:
        return movie_kind(file.read(HEAD))


@contextmanager
def open_movie(path: Path, kind: MovieKind, name: str) -> "Iterator[InputContainer]":
    """A file opened with PyAV. Raises MediaExtraMissingError or NotAudioError, both naming `name`."""
    try:
        import av
    except ImportError:
        raise MediaExtraMissingError(f"{name} is {kind.name}, which this installation doesn't read") from None
    av.logging.set_level(av.logging.PANIC)  # what is wrong with a file is said by its error
    try:
        container = av.open(f"file:{path.absolute()}", format=kind.demuxer, metadata_errors="replace")
    except (av.error.FFmpegError, ValueError) as error:
        raise NotAudioError(f"{name} is not a readable {kind.name} file") from error
    with container:
        yield container
