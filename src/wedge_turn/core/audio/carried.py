"""The chunks that travel with the sound from a source into what is made of it.

Everything travels but what describes the old samples or their layout. In bext (EBU Tech 3285) the
TimeReference is set to where the new file starts, and the loudness values of version 2 are marked as
unknown (0x7FFF) when they were set, because they were measured on another set of channels.
"""

import struct
from typing import Final

LEFT_BEHIND: Final = frozenset(
    {b"fmt ", b"data", b"fact", b"ds64", b"JUNK", b"junk", b"PAD ", b"FLLR", b"PEAK", b"levl", b"chna"}
)
# Chunks are held in memory while a file is written; a picture or a note is never larger than this.
MAX_CARRIED: Final = 16 * 1024 * 1024
_TIME_AT, _VERSION_AT, _LOUDNESS_AT = 338, 346, 412

Carried = tuple[tuple[bytes, bytes], ...]


def with_start_time(chunks: Carried, start_time: int | None) -> Carried:
    """The chunks with bext made true for a file that starts at `start_time` samples since midnight.

    Where no start time is known, bext is left behind: it cannot be written without one, and another would be false.
    """
    if start_time is None:
        return tuple((name, body) for name, body in chunks if name != b"bext")
    return tuple((name, _bext(body, start_time) if name == b"bext" else body) for name, body in chunks)


def _bext(body: bytes, start_time: int) -> bytes:
    if len(body) < _VERSION_AT + 2:
        return body
    new = bytearray(body)
    struct.pack_into("<Q", new, _TIME_AT, start_time)
    (version,) = struct.unpack_from("<H", new, _VERSION_AT)
    loudness = slice(_LOUDNESS_AT, _LOUDNESS_AT + 10)
    if version >= 2 and len(new) >= loudness.stop and any(new[loudness]):
        new[loudness] = struct.pack("<5h", *(5 * [0x7FFF]))
    return bytes(new)
