"""Cue points of a WAV as the markers of an AIFF, and back.

    MARK   count, then for each marker: id (above 0), position in frames, name (a byte of length, text; even in all)

Apple, "Audio Interchange File Format: AIFF", version 1.3, January 1989. All integers are big-endian: 16 bits, positions
32. In a WAV the points are a cue chunk, their names `labl` in a LIST chunk of type adtl (see `cues`).
"""

import struct
from pathlib import Path
from typing import Final

from wedge_turn.core.metadata.chunks import Carried
from wedge_turn.core.metadata.claims import AIFF_HEADS, walk_chunks
from wedge_turn.core.metadata.cues import Point, chunks_of, read_points

_MAX_MARKS: Final = 32_767
_MAX_NAME: Final = 255
_MAX_BYTES: Final = 1 << 22


def make_mark_chunk(chunks: Carried) -> bytes:
    """The MARK chunk with the cue points among chunks, in their order; nothing where there are none."""
    body, count = b"", 0
    for number, point in enumerate(read_points(chunks)[:_MAX_MARKS], 1):
        name = point.label.encode("mac-roman", "replace")[:_MAX_NAME]
        text = bytes([len(name)]) + name
        body += struct.pack(">hI", number, point.place) + text + bytes(len(text) & 1)
        count = number
    if not count:
        return b""
    body = struct.pack(">H", count) + body
    return struct.pack(">4sI", b"MARK", len(body)) + body


def read_markers(path: Path) -> Carried:
    """The markers of an AIFF as chunks of a WAV; none of another file, or of one whose markers can't be read."""
    with path.open("rb") as file:
        head = file.read(12)
        if head[:4] != b"FORM" or head[8:12] not in (b"AIFF", b"AIFC"):
            return ()
        for chunk in walk_chunks(file, 12, AIFF_HEADS):
            if chunk.name == b"MARK" and chunk.size <= _MAX_BYTES:
                try:
                    return chunks_of(_points(chunk.read(file)))
                except (struct.error, IndexError):
                    return ()
    return ()


def _points(body: bytes) -> list[Point]:
    (count,) = struct.unpack_from(">H", body)
    points, at = [], 2
    for _ in range(count):
        _, place = struct.unpack_from(">hI", body, at)
        length = body[at + 6]
        points.append(Point(place, body[at + 7 : at + 7 + length].decode("mac-roman")))
        at += 7 + length + (length + 1 & 1)
    return points
