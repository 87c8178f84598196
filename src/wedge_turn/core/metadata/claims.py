"""Numbers that a file says of itself, which may be anything: each is checked here, where it is read."""

import os
import struct
from collections.abc import Iterator
from dataclasses import dataclass
from typing import BinaryIO, Final

# Days that a start time may lie after midnight: a recording goes on, a number without meaning is far larger.
_MAX_DAYS: Final = 10
_MAX_CHUNKS: Final = 10_000


@dataclass(frozen=True)
class ClaimedChunk:
    """A chunk as its header has it, all of which lies within the file: its name, and where its body is."""

    name: bytes
    offset: int
    size: int

    def read(self, file: BinaryIO) -> bytes:
        file.seek(self.offset)
        return file.read(self.size)


@dataclass(frozen=True)
class ChunkHeads:
    """How a format writes the heads of its chunks: as `layout` of a name and a size, which counts the head as well
    where it is `inclusive`; bodies end at multiples of `padding`.
    """

    layout: struct.Struct
    padding: int
    inclusive: bool = False


AIFF_HEADS: Final = ChunkHeads(struct.Struct(">4sI"), 2)
CAF_HEADS: Final = ChunkHeads(struct.Struct(">4sq"), 1)
W64_HEADS: Final = ChunkHeads(struct.Struct("<16sQ"), 8, inclusive=True)


def walk_chunks(file: BinaryIO, start: int, heads: ChunkHeads) -> Iterator[ClaimedChunk]:
    """The chunks of a file from byte `start` on, up to the first that isn't whole."""
    end, at, head_size = file.seek(0, os.SEEK_END), start, heads.layout.size
    for _ in range(_MAX_CHUNKS):
        if at + head_size > end:
            return
        file.seek(at)
        name, claimed = heads.layout.unpack(file.read(head_size))
        size = number_within(claimed - head_size if heads.inclusive else claimed, end - at - head_size)
        if size is None:
            return
        yield ClaimedChunk(name, at + head_size, size)
        at += head_size + -(-size // heads.padding) * heads.padding


def number_within(claimed: int, most: int) -> int | None:
    """A size, a count or a place from 0 to `most`; None for any other."""
    return claimed if 0 <= claimed <= most else None


def number_in(text: str, most: int) -> int | None:
    """A whole number from 0 to `most` that is written in digits; None for any other text."""
    text = text.strip()
    digits = text.isascii() and text.isdigit() and len(text) <= len(str(most)) + 8  # zeros before it
    return number_within(int(text), most) if digits else None


def start_within(samples: int | None, rate: int) -> int | None:
    """Samples after midnight that can be a start time; None where they can't."""
    return None if samples is None else number_within(samples, _MAX_DAYS * 24 * 3600 * rate)
