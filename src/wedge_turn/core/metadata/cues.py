"""What counts samples in a file's chunks, on a stretch of another start and length: cue points with the labels, notes
and regions that belong to them, loops of a sampler, timers of a traffic system, sync points of iXML.

    cue    count, then for each point: id, position, "data", 0, 0, sample offset
    LIST   "adtl", then labl and note (id of a point, text) and ltxt (id, length in samples, purpose, …)
    smpl   36 bytes, of which 28 to 31 count the loops, then for each: id, kind, first and last sample, fraction, times
    cart   684 bytes, then eight timers: four letters of its use, sample (AES46-2002; from memory)

[1] IBM and Microsoft, Multimedia Programming Interface and Data Specifications 1.0, August 1991: cue-points chunk,
    associated data list. All integers are 32 bit, little-endian.
"""

import struct
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Final

from wedge_turn.core.metadata.chunks import Carried
from wedge_turn.core.metadata.ixml import with_moved_sync_points
from wedge_turn.core.metadata.moves import Move

_POINT: Final = struct.Struct("<II4sIII")
_LOOP, _LOOPS_AT, _PERIOD_AT = struct.Struct("<6I"), 36, 8
_TIMER, _TIMERS_AT = struct.Struct("<4sI"), 684
# A place is held in 32 bits.
_HIGHEST: Final = 2**32 - 1
CUES: Final = frozenset({b"cue ", b"LIST adtl"})  # by `carried.kind_of`
_ABOUT_A_POINT: Final = frozenset({b"labl", b"note", b"ltxt"})


@dataclass(frozen=True)
class Point:
    """A cue point: its place in frames, and its name, empty where it has none."""

    place: int
    label: str = ""


def read_points(chunks: Carried) -> list[Point]:
    """The cue points among chunks, by their places."""
    places = {point: place for name, body in chunks if name == b"cue " for point, place in _points(body)}
    labels: dict[int, str] = {}
    for name, body in chunks:
        if name == b"LIST" and body[:4] == b"adtl":
            for part, content in _parts(body[4:]):
                if part == b"labl" and len(content) >= 4:
                    text = content[4:].split(b"\0")[0].decode("utf-8", "replace")
                    labels[int.from_bytes(content[:4], "little")] = text
    return sorted((Point(place, labels.get(point, "")) for point, place in places.items()), key=lambda one: one.place)


def has_regions(chunks: Carried) -> bool:
    """Whether any of the cue points has a length."""
    return any(
        part == b"ltxt" and len(content) >= 8 and any(content[4:8])
        for name, body in chunks
        if name == b"LIST" and body[:4] == b"adtl"
        for part, content in _parts(body[4:])
    )


def chunks_of(points: Sequence[Point]) -> Carried:
    """The chunks that hold these points; none where there are none."""
    if not points:
        return ()
    cue = [_POINT.pack(number, point.place, b"data", 0, 0, point.place) for number, point in enumerate(points, 1)]
    labels = [
        _part(b"labl", struct.pack("<I", number) + point.label.encode() + b"\0")
        for number, point in enumerate(points, 1)
        if point.label
    ]
    cues = (b"cue ", struct.pack("<I", len(points)) + b"".join(cue))
    return (cues, (b"LIST", b"adtl" + b"".join(labels))) if labels else (cues,)


def move_chunks(chunks: Carried, offset: int, frames: int, ratio: Fraction = Fraction(1)) -> Carried:
    """The chunks of a file whose samples come `offset` later (earlier where negative) in a file of so many frames, at
    `ratio` times its sample rate.

    Points outside it are left out, with what belongs to them, and so are loops that don't lie within it and timers
    outside; a region that goes beyond its end is cut there. Chunks that are not as [1] has them are left out: where
    their points would lie is not known.
    """
    move = Move(ratio, offset, frames)
    points = {point: move.place(place) for name, body in chunks if name == b"cue " for point, place in _points(body)}
    inside = {point: place for point, place in points.items() if 0 <= place <= min(frames, _HIGHEST)}
    moved_chunks: list[tuple[bytes, bytes]] = []
    for name, body in chunks:
        if name == b"cue ":
            if inside:
                moved_chunks.append((name, _cue(body, inside)))
        elif name == b"LIST" and body[:4] == b"adtl":
            about = b"".join(_about(body[4:], inside, move))
            if about:
                moved_chunks.append((name, b"adtl" + about))
        elif name == b"smpl":
            moved_chunks.append((name, _with_moved_loops(body, move)))
        elif name == b"cart":
            moved_chunks.append((name, _with_moved_timers(body, move)))
        elif name == b"iXML":
            moved_chunks.append((name, with_moved_sync_points(body, move)))
        else:
            moved_chunks.append((name, body))
    return tuple(moved_chunks)


def _with_moved_loops(body: bytes, move: Move) -> bytes:
    """A smpl chunk with its loops, as far as they lie within the file, and the time from sample to sample; what follows
    the loops is the sampler's own.
    """
    if len(body) < _LOOPS_AT:
        return body
    nanoseconds, count = (struct.unpack_from("<I", body, at)[0] for at in (_PERIOD_AT, 28))
    end = _LOOPS_AT + min(count, (len(body) - _LOOPS_AT) // _LOOP.size) * _LOOP.size
    loops = []
    for at in range(_LOOPS_AT, end, _LOOP.size):
        number, kind, first, last, *rest = _LOOP.unpack_from(body, at)
        first, last = move.place(first), move.place(last)
        if 0 <= first <= last < min(move.frames, _HIGHEST):
            loops.append(_LOOP.pack(number, kind, first, last, *rest))
    head = bytearray(body[:_LOOPS_AT])
    struct.pack_into("<I", head, _PERIOD_AT, min(round(nanoseconds / move.ratio), _HIGHEST))
    struct.pack_into("<I", head, 28, len(loops))
    return bytes(head) + b"".join(loops) + body[end:]


def _with_moved_timers(body: bytes, move: Move) -> bytes:
    """A cart chunk with its timers; one that lies outside the file is empty, as one that was never set."""
    new = bytearray(body)
    for at in range(_TIMERS_AT, _TIMERS_AT + 8 * _TIMER.size, _TIMER.size):
        if at + _TIMER.size > len(body):
            break
        use, place = _TIMER.unpack_from(body, at)
        if any(use):
            place = move.place(place)
            inside = 0 <= place <= min(move.frames, _HIGHEST)
            _TIMER.pack_into(new, at, use if inside else b"", place if inside else 0)
    return bytes(new)


def _points(body: bytes) -> Iterator[tuple[int, int]]:
    """The id and the sample offset of each cue point."""
    for at in range(4, len(body) - _POINT.size + 1, _POINT.size):
        point, _, chunk, _, _, place = _POINT.unpack_from(body, at)
        if chunk == b"data":
            yield point, place


def _cue(body: bytes, places: dict[int, int]) -> bytes:
    points = []
    for at in range(4, len(body) - _POINT.size + 1, _POINT.size):
        point, position, chunk, start, block, place = _POINT.unpack_from(body, at)
        if point in places:
            # The position in a playlist is that of the sample where there is no playlist.
            position = places[point] if position == place else position
            points.append(_POINT.pack(point, position, chunk, start, block, places[point]))
    return struct.pack("<I", len(points)) + b"".join(points)


def _about(body: bytes, places: dict[int, int], move: Move) -> Iterator[bytes]:
    """What is said about the points that are kept, and what is about none."""
    for name, content in _parts(body):
        if name not in _ABOUT_A_POINT:
            yield _part(name, content)
        elif len(content) >= 4 and (point := int.from_bytes(content[:4], "little")) in places:
            cut = _cut(content, move, places[point]) if name == b"ltxt" and len(content) >= 8 else content
            yield _part(name, cut)


def _cut(region: bytes, move: Move, place: int) -> bytes:
    length = round(struct.unpack_from("<I", region, 4)[0] * move.ratio)
    return region[:4] + struct.pack("<I", min(length, move.frames - place, _HIGHEST)) + region[8:]


def _parts(body: bytes) -> Iterator[tuple[bytes, bytes]]:
    at = 0
    while at + 8 <= len(body):
        size = int.from_bytes(body[at + 4 : at + 8], "little")
        yield body[at : at + 4], body[at + 8 : at + 8 + size]
        at += 8 + size + size % 2


def _part(name: bytes, content: bytes) -> bytes:
    return name + struct.pack("<I", len(content)) + content + bytes(len(content) % 2)
