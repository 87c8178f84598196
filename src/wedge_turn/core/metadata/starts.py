"""Start times of Wave64 and CAF files, as chunks of a WAV.

Wave64   chunks named by 16 bytes, which for those of a WAV begin with their four letters (Sony; from memory)
CAF      `mark`: the kind of time code, and markers, each with its frame and its time code (Apple, "Core Audio
         Format Specification"; from memory)
"""

import math
import struct
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO, Final

from wedge_turn.core.form import FrameRate, parse_time_code
from wedge_turn.core.metadata.chunks import Carried, make_bext
from wedge_turn.core.metadata.claims import CAF_HEADS, W64_HEADS, number_within, walk_chunks
from wedge_turn.core.metadata.ixml import make_ixml, with_ixml_facts

_W64_RIFF: Final = b"riff" + bytes.fromhex("2e91cf11a5d628db04c10000")
_W64_TAIL: Final = bytes.fromhex("f3acd3118cd100c04f8edb8a")
_W64_SAYS: Final = {b"bext": b"bext", b"iXML": b"iXML", b"ixml": b"iXML"}
_MAX_CHUNK: Final = 1 << 20  # bytes of a chunk
# Kinds of time code in CAF: frames, seconds, and whether numbers are dropped.
_CAF_RATES: Final = {
    1: (24, 1, False), 2: (25, 1, False), 3: (30_000, 1001, True), 4: (30, 1, False), 5: (30_000, 1001, False),
    6: (30_000, 1001, True), 7: (60, 1, False), 8: (60_000, 1001, False), 9: (60_000, 1001, True),
    10: (60_000, 1001, True), 11: (50, 1, False), 12: (24_000, 1001, False),
}  # fmt: skip
_MARKER: Final = struct.Struct(">IdIbbbbII")


def read_starts(source: Path, rate: int) -> Carried:
    """What a Wave64 or CAF says of its start, as chunks; nothing of other files."""
    with source.open("rb") as file:
        head = file.read(40)
        if head[:16] == _W64_RIFF:
            return tuple(_w64_chunks(file))
        if head[:4] == b"caff":
            return tuple(_caf_start(file, rate))
    return ()


def _w64_chunks(file: BinaryIO) -> Iterator[tuple[bytes, bytes]]:
    for chunk in walk_chunks(file, 40, W64_HEADS):
        if chunk.name[4:] == _W64_TAIL and chunk.name[:4] in _W64_SAYS and chunk.size <= _MAX_CHUNK:
            yield _W64_SAYS[chunk.name[:4]], chunk.read(file)


def _caf_start(file: BinaryIO, rate: int) -> Iterator[tuple[bytes, bytes]]:
    marks = (chunk for chunk in walk_chunks(file, 8, CAF_HEADS) if chunk.name == b"mark" and chunk.size <= _MAX_CHUNK)
    if (mark := next(marks, None)) is not None:
        yield from _of_markers(mark.read(file), rate)


def _of_markers(body: bytes, rate: int) -> Iterator[tuple[bytes, bytes]]:
    if len(body) < 8:
        return
    kind, count = struct.unpack_from(">II", body)
    if kind not in _CAF_RATES:
        return
    frames, seconds, drop = _CAF_RATES[kind]
    frame_rate = FrameRate(frames=frames, seconds=seconds, drop=drop)
    for n in range(min(count, (len(body) - 8) // _MARKER.size)):
        _, place, _, hour, minute, second, frame, within, _ = _MARKER.unpack_from(body, 8 + n * _MARKER.size)
        if min(hour, minute, second, frame) < 0 or not math.isfinite(place) or number_within(int(place), 2**53) is None:
            continue
        code = f"{hour:02}:{minute:02}:{second:02}{';' if drop else ':'}{frame:02}"
        start = parse_time_code(code, rate, frame_rate)
        if start is not None and start + within >= place:
            yield b"bext", make_bext(start + within - int(place))
            yield b"iXML", with_ixml_facts(make_ixml(()), {}, frame_rate)
            return
