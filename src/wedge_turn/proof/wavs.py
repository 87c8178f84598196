"""The proof's own reader of WAV, RF64 and BW64: what a file says it is, and its samples.

Integers are not unpacked: a channel is a view of the bytes as they were read (`loops`). Chunk layout: Microsoft,
*Multimedia Programming Interface and Data Specifications 1.0* (RIFF); EBU Tech 3306 (RF64) and ITU-R BS.2088 (BW64).
"""

import os
import struct
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wedge_turn.proof.recipe import BITS, WIDTH

_ENCODINGS = {(1, 8): "u8", (1, 16): "s16", (1, 24): "s24", (1, 32): "s32", (3, 32): "f32", (3, 64): "f64"}
_UNKNOWN = 0xFFFFFFFF
_MOST_CHUNKS = 100_000
LIMIT = 1e6  # floats beyond it, and those that are no numbers, are silence


@dataclass(frozen=True)
class Facts:
    """What the header says. `payload` is where the samples start."""

    container: str
    channels: int
    rate: int
    encoding: str
    mask: int
    frames: int
    payload: int

    @property
    def align(self) -> int:
        """Bytes of one frame."""
        return self.channels * WIDTH[self.encoding]


def read_header(fd: int, *, whole: bool) -> Facts:
    """What an open file is. `whole` asks that every size in it fits the file, as in one that was delivered.

    Raises ValueError for what is not one format, one data chunk, and as many bytes as they say.
    """
    size = os.fstat(fd).st_size
    magic, riff_size, wave = struct.unpack("<4sI4s", _read(fd, 12, 0))
    if magic not in (b"RIFF", b"RF64", b"BW64") or wave != b"WAVE":
        raise ValueError("it is not a WAV file")
    at, wide, body, data = 12, None, None, None
    for _ in range(_MOST_CHUNKS):
        if at + 8 > size:
            break
        name, length = struct.unpack("<4sI", _read(fd, 8, at))
        if name == b"ds64":
            riff_size, wide = struct.unpack("<QQ", _read(fd, 16, at + 8))
        elif name == b"fmt " and body is None:
            body = _read(fd, min(length, 40), at + 8)
        elif name == b"data" and data is None:
            length = wide if wide is not None and length == _UNKNOWN else min(length, size - at - 8)
            data = at + 8, length
        elif name == b"data" and whole:
            raise ValueError("it has two data chunks")
        at += 8 + length + (length & 1)
        if not whole and data is not None and body is not None:
            break
    if data is None or body is None or len(body) < 16:
        raise ValueError("its format or its samples are missing")
    if whole and (at != size or riff_size != size - 8):
        raise ValueError("the sizes in its header are not those of the file")
    tag, channels, rate, per_second, align, bits = struct.unpack_from("<HHIIHH", body)
    mask = 0
    if tag == 0xFFFE and len(body) >= 40:
        mask, tag = struct.unpack_from("<IH", body, 20)
    stored = 8 * (align // channels) if channels else 0  # of fewer bits the others are zero
    encoding = _ENCODINGS.get((tag, bits if whole else stored), "")
    if not encoding or align * 8 != channels * stored:
        raise ValueError("its format does not agree with itself")
    if whole and (stored != bits or per_second != min(rate * align, _UNKNOWN) or data[1] % align):
        raise ValueError("its format does not agree with itself")
    container = "BW64" if magic == b"BW64" else "WAV"
    return Facts(container, channels, rate, encoding, mask, data[1] // align, data[0])


def _read(fd: int, size: int, at: int) -> bytes:
    got = os.pread(fd, size, at)
    if len(got) < size:
        raise ValueError("it ends within its header")
    return got


@dataclass(frozen=True)
class Channel:
    """One channel of a stretch. Integers as they lie, which `factor` brings to the top of 32 bits; or float64 in full
    scale. `slack` is how far computed values may be off because they were computed in another way, all of them or each.
    """

    values: NDArray[Any]
    factor: int = 1
    slack: float | NDArray[np.float64] = 0.0

    @property
    def most_slack(self) -> float:
        return float(np.max(self.slack, initial=0.0))

    @property
    def is_whole(self) -> bool:
        """Whether it is integers as they were read."""
        return self.values.dtype.kind == "i"


def make_channel(raw: NDArray[np.uint8], encoding: str, channels: int, n: int, start: int, frames: int) -> Channel:
    """A channel of `frames` frames from frame `start` of raw bytes on, behind which at least one more byte lies."""
    width = WIDTH[encoding]

    def lying(kind: str) -> NDArray[Any]:
        return np.ndarray((frames,), kind, raw, (start * channels + n) * width, (channels * width,))

    if encoding == "u8":
        return Channel(lying("u1").astype(np.int32) - 128, 1 << 24)
    if encoding in BITS:
        # Of 24 bits the fourth byte belongs to another sample: it falls out at the top of 32 bits.
        return Channel(lying("<i2" if encoding == "s16" else "<i4"), 1 << (32 - BITS[encoding]))
    values = lying("<f4" if encoding == "f32" else "<f8").astype(np.float64)
    values[~(np.abs(values) <= LIMIT)] = 0.0
    return Channel(values)


def is_finite(raw: NDArray[np.uint8], encoding: str) -> bool:
    """Whether every float of whole samples is a number within the limit: of a delivered file, all must be."""
    if encoding in BITS:
        return True
    return bool((np.abs(raw.view("<f4" if encoding == "f32" else "<f8")) <= LIMIT).all())
