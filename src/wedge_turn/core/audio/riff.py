"""The chunks of a WAV, RF64 or BW64 file, read without trusting any of its sizes.

RF64/BW64 keep the true size of the data chunk in `ds64` (EBU Tech 3306, ITU-R BS.2088); their 32-bit field
says 0xFFFFFFFF. Chunks are padded to even lengths.
"""

import os
import struct
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from wedge_turn.core.errors import BadHeaderError, NoFramesError, NotAudioError, TruncatedError
from wedge_turn.core.form import BrokenOff, EncodingName, Form, check_limits
from wedge_turn.core.metadata import read_facts

MAX_CHUNKS: Final = 10_000
_RECORDING_CHUNKS: Final = frozenset({b"bext", b"iXML"})  # chunks that say when and how a file was recorded
_MAX_CHUNK: Final = 1 << 20  # bytes
UNKNOWN_SIZE: Final = 0xFFFFFFFF
_NEVER_FINISHED: Final = frozenset({0, UNKNOWN_SIZE, 0xFFFFFFFFFFFFFFFF})
PCM, IEEE_FLOAT, EXTENSIBLE = 0x0001, 0x0003, 0xFFFE
# The last 14 bytes of the sub-format of WAVEFORMATEXTENSIBLE; the first two are the format tag.
SUBFORMAT_TAIL: Final = bytes.fromhex("000000001000800000aa00389b71")

_ENCODINGS: Final[dict[tuple[int, int], EncodingName]] = {
    (PCM, 1): "u8",
    (PCM, 2): "s16",
    (PCM, 3): "s24",
    (PCM, 4): "s32",
    (IEEE_FLOAT, 4): "f32",
    (IEEE_FLOAT, 8): "f64",
}


@dataclass(frozen=True)
class Chunk:
    """One chunk as it lies in the file: its four letters and where its body is."""

    name: bytes
    offset: int
    size: int


@dataclass(frozen=True)
class WavLayout:
    """Where the samples of a PCM WAV lie, what they are, and every other chunk."""

    form: Form
    data_offset: int
    chunks: tuple[Chunk, ...]


def is_riff(head: bytes) -> bool:
    """Whether the first twelve bytes are those of a little-endian WAV."""
    return head[:4] in (b"RIFF", b"RF64", b"BW64") and head[8:12] == b"WAVE"


def read_layout(fd: int, name: str, *, salvage: bool = False) -> WavLayout | None:
    """The layout of an open WAV file, or None where its encoding is none that raw blocks can carry. To `salvage` is to
    take the frames that are there where there should be more, which its form then tells of.

    Raises TruncatedError, NoFramesError, BadHeaderError or LimitError; `name` is what messages call the file.
    """
    size = os.fstat(fd).st_size
    if not is_riff(os.pread(fd, 12, 0)):
        raise NotAudioError(f"{name} is not a WAV file")
    chunks = _walk(fd, size, name)
    fmt = _only(chunks, b"fmt ", name)
    data = _only(chunks, b"data", name)
    if fmt.offset > data.offset:
        raise BadHeaderError(f"{name} has its data chunk before its format chunk")
    body = os.pread(fd, min(fmt.size, 64), fmt.offset)
    if len(body) < 16:
        raise BadHeaderError(f"{name} has a format chunk of {len(body)} bytes; at least 16 are needed")
    tag, channels, rate, _, align, bits = struct.unpack_from("<HHIIHH", body)
    mask = 0
    if tag == EXTENSIBLE and len(body) >= 40 and body[26:40] == SUBFORMAT_TAIL:
        mask, tag = struct.unpack_from("<IH", body, 20)
    check_limits(name, channels, rate)
    width = (bits + 7) // 8
    encoding = _ENCODINGS.get((tag, width))
    if encoding is None or align != channels * width:
        return None
    present = max(0, size - data.offset) // align
    unfinished = data.size in _NEVER_FINISHED and not _is_empty(chunks, data, size)
    if not present or (data.size < align and not unfinished):
        raise NoFramesError(f"{name} contains no samples")
    broken_off = None
    if unfinished or _count_frames(data.size, align) > present:
        broken_off = BrokenOff(frames=present, claimed=None if unfinished else _count_frames(data.size, align))
        if not salvage:
            raise TruncatedError(broken_off.explain(name), broken_off.describe(rate))
        chunks = [chunk for chunk in chunks if chunk.offset <= data.offset]  # behind it, samples look like chunks
    form = Form(
        channels=channels,
        frames=present if broken_off else data.size // align,
        rate=rate,
        encoding=encoding,
        speaker_mask=mask & 0x3FFFF,
        broken_off=broken_off,
    )
    stated = tuple(
        (c.name, os.pread(fd, c.size, c.offset)) for c in chunks if c.name in _RECORDING_CHUNKS and c.size <= _MAX_CHUNK
    )
    form = form.model_copy(update=read_facts(stated, channels, rate)) if stated else form
    return WavLayout(form, data.offset, tuple(c for c in chunks if c not in (fmt, data)))


def _count_frames(size: int, align: int) -> int:
    """How many frames a data chunk should hold, one that is cut counted; a byte more is only what makes it even."""
    return (size + align - 1) // align if size % align > 1 else size // align


def _is_empty(chunks: Sequence[Chunk], data: Chunk, size: int) -> bool:
    """Whether other chunks follow on a data chunk of no bytes, up to the end of the file: then it has no samples."""
    if data.size:
        return False
    last = chunks[-1]
    end = last.offset + last.size
    return end + (last.size & 1) >= size >= end and all(chunk.name.isalnum() for chunk in chunks[chunks.index(data) :])


def read_chunk(fd: int, chunk: Chunk) -> bytes:
    return os.pread(fd, chunk.size, chunk.offset)


def _walk(fd: int, size: int, name: str) -> list[Chunk]:
    chunks: list[Chunk] = []
    large: dict[bytes, int] = {}
    at = 12
    while at + 8 <= size and len(chunks) < MAX_CHUNKS:
        letters, claimed = struct.unpack("<4sI", os.pread(fd, 8, at))
        if letters == b"ds64":
            large = _ds64(os.pread(fd, min(claimed, 28 + 12 * 64), at + 8), name)
        elif claimed == UNKNOWN_SIZE:
            claimed = large.get(letters, claimed)
        chunk = Chunk(letters, at + 8, claimed)
        fits = chunk.offset + chunk.size <= size
        if fits or letters == b"data":
            chunks.append(chunk)
        at = chunk.offset + claimed + (claimed & 1)
    return chunks


def _ds64(body: bytes, name: str) -> dict[bytes, int]:
    if len(body) < 28:
        raise BadHeaderError(f"{name} has a ds64 chunk of {len(body)} bytes; at least 28 are needed")
    _, data_size, _, entries = struct.unpack_from("<QQQI", body)
    table = (struct.unpack_from("<4sQ", body, 28 + 12 * i) for i in range(min(entries, (len(body) - 28) // 12)))
    return {**dict(table), b"data": data_size}


def _only(chunks: list[Chunk], letters: bytes, name: str) -> Chunk:
    named = [c for c in chunks if c.name == letters]
    kind = letters.decode().strip()
    if not named:
        raise BadHeaderError(f"{name} has no {kind} chunk, without which a WAV can't be read")
    if len(named) > 1:
        raise BadHeaderError(f"{name} has {len(named)} {kind} chunks, and only one of them can be the right one")
    return named[0]
