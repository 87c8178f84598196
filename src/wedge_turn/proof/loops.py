"""The inner loops, by NumPy while there is little to go through, compiled once it is worth loading Numba for it: that
takes about a second, and a hundred megabytes.
"""

import math
import mmap
import threading
from functools import cache
from types import ModuleType

import numpy as np
from numpy.typing import NDArray

from wedge_turn.proof.recipe import BITS, WIDTH
from wedge_turn.proof.wavs import Channel, make_channel

Floats = NDArray[np.float64]

# Samples of mixes that NumPy takes about a second longer for; comparing what was only moved takes it a third of that.
NUMBA_BREAK_EVEN_SAMPLES = 80_000_000
OF_A_MOVE = 0.3
_LOCK = threading.Lock()


class _Use:
    """The compiled loops once they are there, and how many samples were gone through without them."""

    compiled: ModuleType | None = None
    without = 0.0


def ready(samples: float) -> None:
    """Tell that so many samples of mixes will be gone through: loads the compiled loops where that pays."""
    with _LOCK:
        if _Use.compiled is None:
            _Use.without += samples
            if _Use.without > NUMBA_BREAK_EVEN_SAMPLES:
                from wedge_turn.proof import kernels

                _Use.compiled = kernels


class Room:
    """Memory for the arrays of one tile, used again for the next: what the system gives anew for every array costs more
    than what is computed in it. One for each thread.
    """

    def __init__(self) -> None:
        self._arrays: list[Floats] = []
        self._pages: list[mmap.mmap] = []
        self._next = self._next_page = 0

    def again(self) -> "Room":
        """All of it is free."""
        self._next = self._next_page = 0
        return self

    def pages(self, size: int) -> mmap.mmap:
        """Whole pages of memory for so many bytes, as reading past the cache asks for."""
        if self._next_page == len(self._pages) or len(self._pages[self._next_page]) < size:
            self._pages[self._next_page :] = [mmap.mmap(-1, size)]
        self._next_page += 1
        return self._pages[self._next_page - 1]

    def floats(self, *shape: int) -> Floats:
        size = math.prod(shape)
        if self._next == len(self._arrays) or self._arrays[self._next].size < size:
            self._arrays[self._next :] = [np.empty(size)]
        self._next += 1
        return self._arrays[self._next - 1][:size].reshape(shape)


def floats(channel: Channel, room: Room, out: Floats | None = None) -> Floats:
    """A channel in full scale, (frames,)."""
    if not channel.is_whole:
        if out is None:
            values: Floats = channel.values
            return values
        out[:] = channel.values
        return out
    out = room.floats(channel.values.size) if out is None else out
    if _Use.compiled is not None:
        _Use.compiled.lift(channel.values, channel.factor, out)
    else:
        np.multiply(_at_top(channel), 2.0**-31, out=out)
    return out


def _at_top(channel: Channel) -> NDArray[np.int32]:
    """Integers at the top of 32 bits."""
    top: NDArray[np.int32] = np.left_shift(channel.values.astype(np.int32), channel.factor.bit_length() - 1)
    return top


def same(first: Channel, second: Channel, room: Room) -> bool:
    """Whether two channels of integers are the same."""
    if _Use.compiled is not None:
        return bool(_Use.compiled.same(first.values, first.factor, second.values, second.factor))
    if first.factor != second.factor or first.values.dtype != second.values.dtype:
        return bool(np.array_equal(_at_top(first), _at_top(second)))
    size, kind = first.values.size, first.values.dtype
    # Samples of three bytes lie anywhere: NumPy copies them twice as quickly as it computes with them there.
    differs, other = (room.floats(size).view(kind)[:size] for _ in range(2))
    differs[:], other[:] = first.values, second.values
    differs ^= other
    return not int(np.bitwise_or.reduce(differs)) * first.factor & 0xFFFFFFFF


def mix(matrix: Floats, block: Floats, out: Floats) -> None:
    """Σ_j matrix[i, j]·block[j, t] into `out`, (rows, frames)."""
    if _Use.compiled is not None:
        _Use.compiled.mix(matrix, block, out)
        return
    for i, row in enumerate(matrix):
        np.multiply(block[0], row[0], out=out[i])
        for j in range(1, row.size):
            out[i] += row[j] * block[j]


def judge(
    value: Floats, written: Channel, bits: int, slack: float, dither: tuple[int, int, int] | None
) -> tuple[int, int, int, float] | None:
    """What the compiled `judge` finds, by `dither`'s seed, first place and step; None where there is little to go
    through, and the rules are applied by NumPy.
    """
    if _Use.compiled is None:
        return None
    arguments = value, written.values, written.factor, bits, slack
    if dither is None:
        verdict: tuple[int, int, int, float] = _Use.compiled.judge(*arguments)
        return verdict
    dithered: tuple[int, int, int, float] = _Use.compiled.judge_dithered(*arguments, *(np.uint64(n) for n in dither))
    return dithered


def triangular(seed: int, places: NDArray[np.uint64]) -> Floats:
    """Noise with a triangular density over ±1 at places of a file: SplitMix64 of a counter (Steele, Lea and Flood,
    OOPSLA 2014), whose halves are two uniform numbers.
    """
    with np.errstate(over="ignore"):
        z = np.uint64(seed) + (places + np.uint64(1)) * np.uint64(0x9E3779B97F4A7C15)
        z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    z ^= z >> np.uint64(31)
    halves = (z >> np.uint64(32)).astype(np.int64) - (z & np.uint64(0xFFFFFFFF)).astype(np.int64)
    noise: Floats = halves.astype(np.float64) * 2.0**-32
    return noise


@cache
def self_test() -> None:
    """Decoding against what Python's integers say, once, before anything is proved by it. Raises RuntimeError."""
    rng = np.random.default_rng(1)
    for encoding, bits in BITS.items():
        raw = rng.integers(0, 256, 3 * 17 * WIDTH[encoding] + 1, dtype=np.uint8)
        for n in range(3):
            got = floats(make_channel(raw, encoding, 3, n, 0, 17), Room()) * 2.0 ** (bits - 1)
            for t in range(17):
                at = (3 * t + n) * bits // 8
                value = int.from_bytes(raw[at : at + bits // 8].tobytes(), "little", signed=encoding != "u8")
                if got[t] != (value - 128 if encoding == "u8" else value):
                    raise RuntimeError(f"{encoding} is decoded wrong on this machine")
