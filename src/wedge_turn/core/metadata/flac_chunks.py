"""The chunks of a WAV inside a FLAC: each whole, with its header, in an APPLICATION block of id `riff`.

    fLaC, then blocks: 1 bit last, 7 bits kind, 24 bits length (big-endian); STREAMINFO (kind 0, 34 bytes) is the first

RFC 9639: section 8.1 has the block's header, 8.4 the APPLICATION block; `riff` is registered for RIFF chunks.
"""

import struct
from collections.abc import Iterator
from pathlib import Path
from typing import Final

from wedge_turn.core.metadata.chunks import LEFT_BEHIND, Carried

MARK: Final = b"fLaC"
AFTER_STREAMINFO: Final = 42  # bytes: the mark, a block's header, STREAMINFO
_APPLICATION: Final = 2
_ID: Final = b"riff"
_DESCRIBES: Final = LEFT_BEHIND | {b"RIFF", b"RF64", b"BW64"}
_MAX_LENGTH: Final = (1 << 24) - 1
_MAX_BLOCKS: Final = 10_000
_MAX_BYTES: Final = 1 << 26  # of all chunks: they are held in memory


def fits_in_flac(body: bytes) -> bool:
    """Whether a chunk with this body has room in one block."""
    return len(_ID) + 8 + len(body) + (len(body) & 1) <= _MAX_LENGTH


def make_flac_blocks(chunks: Carried) -> bytes:
    """The blocks that hold these chunks; to be put after STREAMINFO, with others behind them."""
    blocks = b""
    for name, body in chunks:
        if fits_in_flac(body):
            content = _ID + struct.pack("<4sI", name, len(body)) + body + bytes(len(body) & 1)
            blocks += struct.pack(">I", _APPLICATION << 24 | len(content)) + content
    return blocks


def read_flac_chunks(path: Path) -> Carried:
    """The chunks that a FLAC holds of a WAV and that go with its sound; none of another file."""
    return tuple(_chunks(path))


def _chunks(path: Path) -> Iterator[tuple[bytes, bytes]]:
    total = 0
    with path.open("rb") as file:
        if file.read(4) != MARK:
            return
        for _ in range(_MAX_BLOCKS):
            head = file.read(4)
            if len(head) < 4:
                return
            (word,) = struct.unpack(">I", head)
            kind, length = word >> 24 & 0x7F, word & _MAX_LENGTH
            if kind == _APPLICATION and length >= 12 and total + length <= _MAX_BYTES:
                content = file.read(length)
                total += length
                name, size = struct.unpack_from("<4sI", content.ljust(12, b"\0"), 4)
                if content[:4] == _ID and name not in _DESCRIBES and 12 + size <= len(content):
                    yield name, content[12 : 12 + size]
            else:
                file.seek(length, 1)
            if word >> 31:
                return
