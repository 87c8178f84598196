"""What a file was promised to carry from its source, read by this package alone.

    cue    count, then for each point: id, position, "data", 0, 0, sample offset (IBM and Microsoft, 1991)
    bext   256 bytes of description, 82 of originator, reference and date, then TimeReference in 64 bits, version, and
           64 bytes of UMID (EBU Tech 3285)

Chunks that don't count samples and don't describe the file must be there as they were. What tells of the start, and cue
points, must be where the sound is.
"""

import os
import struct
from collections.abc import Iterator

from wedge_turn.proof.recipe import Promise

# Of the file itself: every file has its own.
_OF_THE_FILE = frozenset(
    {b"fmt ", b"data", b"fact", b"ds64", b"JUNK", b"junk", b"PAD ", b"FLLR", b"PEAK", b"levl", b"chna"}
)
_COUNTED = frozenset({b"bext", b"iXML", b"cue ", b"smpl", b"cart"})
_MOST = 1 << 20  # bytes of a chunk that is compared
_TIME_AT = 338


def find_broken_promise(written: int, source: int, promise: Promise, frames: int) -> str | None:
    """What an open file doesn't carry that it should, as the end of a sentence; None where all of it is there."""
    written_chunks, source_chunks = list(_chunks(written)), list(_chunks(source))
    for name, body in source_chunks:
        as_it_was = name not in _OF_THE_FILE | _COUNTED and not (name == b"LIST" and body[:4] == b"adtl")
        if as_it_was and (name, body) not in written_chunks:
            return f"doesn't carry the chunk {name.decode('latin-1').strip()} of its source as it was"
    times = [body for name, body in written_chunks if name == b"bext" and len(body) > 346]
    starts = [struct.unpack_from("<Q", body, _TIME_AT)[0] for body in times]
    if promise.start_time is not None and starts and starts != [promise.start_time]:
        return f"says that it starts at {starts[0]:,} samples, not at {promise.start_time:,}"
    if promise.start_time is None and starts:
        return "says when it starts, though that isn't known"
    for name, body in source_chunks:
        if name == b"bext" and starts and len(body) > 346:
            ours = times[0]
            if ours[256:_TIME_AT] != body[256:_TIME_AT] or ours[348:412] != body[348:412]:
                return "doesn't carry the bext of its source as it was"
    moved = {(point, at + promise.offset) for point, at in _points(source_chunks) if 0 <= at + promise.offset < frames}
    if moved != set(_points(written_chunks)):
        return "has its cue points in other places than the sound that they mark"
    return None


def _chunks(fd: int) -> Iterator[tuple[bytes, bytes]]:
    """The chunks of an open WAV that aren't too large, in order."""
    size, at, wide = os.fstat(fd).st_size, 12, None
    while at + 8 <= size:
        name, length = struct.unpack("<4sI", os.pread(fd, 8, at))
        if name == b"ds64":
            wide = struct.unpack("<Q", os.pread(fd, 8, at + 16))[0]
        if name == b"data":
            length = wide if wide is not None and length == 0xFFFFFFFF else min(length, size - at - 8)
        elif length <= _MOST and at + 8 + length <= size:
            yield name, os.pread(fd, length, at + 8)
        at += 8 + length + (length & 1)


def _points(chunks: list[tuple[bytes, bytes]]) -> Iterator[tuple[int, int]]:
    """Cue points, by their ids, with their places in frames."""
    for name, body in chunks:
        if name == b"cue " and len(body) >= 4:
            for n in range(min(struct.unpack_from("<I", body)[0], (len(body) - 4) // 24)):
                point, _, _, _, _, place = struct.unpack_from("<II4sIII", body, 4 + 24 * n)
                yield point, place
