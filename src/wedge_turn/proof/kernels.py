"""The proof's own inner loops, compiled. They take samples as they lie in a file, without unpacking them first: 24 bits
as 32-bit integers at every third byte, whose fourth byte, which belongs to another sample, falls out where they are
multiplied to the top of 32 bits.

They share neither code nor layout with what writes: that moves 64-bit words and makes arrays of (frames, channels).
No linear algebra: a library of it would start threads for every few thousand samples.
"""

from collections.abc import Callable
from typing import Any, ParamSpec, TypeVar, cast

import numba
import numpy as np
from numpy.typing import NDArray

P = ParamSpec("P")
R = TypeVar("R")


def _compiled(function: Callable[P, R]) -> Callable[P, R]:
    # Without `nnan`: what is no number must stay none, and be found.
    compile_it = numba.njit(nogil=True, cache=True, fastmath={"reassoc", "contract", "nsz"})
    return cast("Callable[P, R]", compile_it(function))


@_compiled
def same(first: NDArray[Any], lift_first: int, second: NDArray[Any], lift_second: int) -> bool:
    """Whether two channels of integers are the same at the top of 32 bits."""
    differs = np.int32(0)
    for i in range(np.uint64(first.size)):
        differs |= np.int32(first[i] * lift_first) ^ np.int32(second[i] * lift_second)
    return bool(differs == 0)


@_compiled
def lift(lying: NDArray[Any], factor: int, out: NDArray[np.float64]) -> None:
    """Integers as float64 in full scale."""
    for i in range(np.uint64(out.size)):
        out[i] = np.float64(np.int32(lying[i] * factor)) * 2.0**-31


@_compiled
def mix(matrix: NDArray[np.float64], block: NDArray[np.float64], out: NDArray[np.float64]) -> None:
    """Σ_j matrix[i, j]·block[j, t], added up in the order of j; (rows, frames)."""
    for i in range(matrix.shape[0]):
        first = matrix[i, 0]
        for t in range(np.uint64(block.shape[1])):
            out[i, t] = first * block[0, t]
        for j in range(1, matrix.shape[1]):
            gain = matrix[i, j]
            for t in range(np.uint64(block.shape[1])):
                out[i, t] += gain * block[j, t]


@_compiled
def _triangular(seed: Any, place: Any) -> float:
    """The noise that stands in the manifest by its seed: SplitMix64 of a counter (Steele, Lea and Flood, OOPSLA 2014),
    whose halves are two uniform numbers.
    """
    z = seed + (place + np.uint64(1)) * np.uint64(0x9E3779B97F4A7C15)
    z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    z ^= z >> np.uint64(31)
    return float(np.float64(np.int64(z >> np.uint64(32)) - np.int64(z & np.uint64(0xFFFFFFFF))) * 2.0**-32)


@_compiled
def judge(
    value: NDArray[np.float64], written: NDArray[Any], factor: int, bits: int, slack: float
) -> tuple[int, int, int, float]:
    """Written integers against the values they stand for, in steps of the file's depth: how many are farther off than
    rounding explains, how many are not just the value, how many values are near a rail or beyond, and the largest
    difference.
    """
    scale, down = 2.0 ** (bits - 1), 2.0 ** (bits - 32)
    rail, allowed = scale - 3.0, 0.5 + slack
    bad, different, near, worst = 0, 0, 0, 0.0
    for i in range(np.uint64(value.size)):
        y = value[i] * scale
        off = abs(np.float64(np.int32(written[i] * factor)) * down - y)
        bad += not off <= allowed
        different += not off <= slack
        near += not abs(y) <= rail
        worst = off if off > worst else worst
    return bad, different, near, worst


@_compiled
def judge_dithered(
    value: NDArray[np.float64],
    written: NDArray[Any],
    factor: int,
    bits: int,
    slack: float,
    seed: Any,
    first: Any,
    every: Any,
) -> tuple[int, int, int, float]:
    """The same of integers that noise was added to before they were rounded. `first` is the place of the first sample
    in its file, `every` the channels between two of them.
    """
    scale, down = 2.0 ** (bits - 1), 2.0 ** (bits - 32)
    rail, allowed = scale - 3.0, 0.5 + slack
    bad, different, near, worst = 0, 0, 0, 0.0
    for i in range(np.uint64(value.size)):
        y = value[i] * scale
        error = np.float64(np.int32(written[i] * factor)) * down - y
        noise = _triangular(seed, first + np.uint64(i) * every)
        off = abs(error)
        bad += not abs(error - noise) <= allowed
        different += not off <= slack
        near += not abs(y) <= rail
        worst = off if off > worst else worst
    return bad, different, near, worst


def warm_up() -> None:
    """Compile every loop for the types it is called with, so that nobody waits for it later."""
    block, seed = np.zeros((1, 2)), np.uint64(0)
    for kind, step in (("<i4", 6), ("<i4", 3), ("<i4", 4), ("<i4", 8), ("<i2", 2), ("<i2", 4)):
        lying = np.ndarray((2,), kind, bytearray(32), 0, (step,))
        lift(lying, 256, np.zeros(2))
        same(lying, 256, lying, 256)
        judge(np.zeros(2), lying, 256, 24, 0.0)
        judge_dithered(np.zeros(2), lying, 256, 24, 0.0, seed, seed, seed)
    mix(np.ones((1, 1)), block, block.copy())
