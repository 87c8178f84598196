"""The inner loops over raw PCM, compiled once by Numba and kept in its cache.

Arrays are flat. Nothing here allocates or raises, and all of it lets other threads run. Numba refuses a read-only array
where a kernel writes to it. Indices are unsigned, because Numba otherwise checks every one for a negative one.

Three-byte samples lie across word borders, so the pairs of a stereo file are taken apart and put together
eight frames at a time in 64-bit words (little-endian), six words of stereo for three words of each channel:

    stereo   L0L0L0R0R0R0L1L1 L1R1R1R1L2L2L2R2 R2R2L3L3L3R3R3R3 | the same again for frames 4 to 7
    channel  L0L0L0L1L1L1L2L2 L2L3L3L3L4L4L4L5 L5L5L6L6L6L7L7L7
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.jit import kernel, shorten_switch_interval

Bytes = NDArray[np.uint8]
Words = NDArray[np.uint64]
_B1, _B2, _B3 = np.uint64(0xFF), np.uint64(0xFFFF), np.uint64(0xFFFFFF)
_8, _16, _24, _32, _40, _48, _56 = (np.uint64(n) for n in (8, 16, 24, 32, 40, 48, 56))
_0, _1, _2, _3, _4, _5, _6, _7 = (np.uint64(n) for n in range(8))


@kernel()
def deinterleave_s24(stereo: Words, left: Words, right: Words) -> None:
    """Take 24-bit stereo apart; each channel is half as long, all are whole groups of eight frames."""
    for group in range(np.uint64(left.size // 3)):
        i, o = group * _6, group * _3
        w0, w1, w2 = stereo[i], stereo[i + _1], stereo[i + _2]
        w3, w4, w5 = stereo[i + _3], stereo[i + _4], stereo[i + _5]
        a, b, c, d = w0 & _B3, (w0 >> _48) | (w1 & _B1) << _16, (w1 >> _32) & _B3, (w2 >> _16) & _B3
        e, f, g, h = w3 & _B3, (w3 >> _48) | (w4 & _B1) << _16, (w4 >> _32) & _B3, (w5 >> _16) & _B3
        left[o] = a | b << _24 | c << _48
        left[o + _1] = c >> _16 | d << _8 | e << _32 | f << _56
        left[o + _2] = f >> _8 | g << _16 | h << _40
        a, b, c, d = (w0 >> _24) & _B3, (w1 >> _8) & _B3, (w1 >> _56) | (w2 & _B2) << _8, w2 >> _40
        e, f, g, h = (w3 >> _24) & _B3, (w4 >> _8) & _B3, (w4 >> _56) | (w5 & _B2) << _8, w5 >> _40
        right[o] = a | b << _24 | c << _48
        right[o + _1] = c >> _16 | d << _8 | e << _32 | f << _56
        right[o + _2] = f >> _8 | g << _16 | h << _40


@kernel(inline="always")
def _stereo(left: Words, right: Words, group: Any) -> tuple[Any, Any, Any, Any, Any, Any]:
    """The six words of a group of eight frames whose channels these are."""
    i = group * _3
    x, y, z = left[i], left[i + _1], left[i + _2]
    p, q, r = right[i], right[i + _1], right[i + _2]
    return (
        (x & _B3) | (p & _B3) << _24 | ((x >> _24) & _B2) << _48,
        ((x >> _40) & _B1) | ((p >> _24) & _B3) << _8 | (x >> _48) << _32 | (y & _B1) << _48 | (p >> _48) << _56,
        (p >> _56) | (q & _B1) << _8 | ((y >> _8) & _B3) << _16 | ((q >> _8) & _B3) << _40,
        ((y >> _32) & _B3) | ((q >> _32) & _B3) << _24 | (y >> _56) << _48 | (z & _B1) << _56,
        ((z >> _8) & _B1) | (q >> _56) << _8 | (r & _B2) << _16 | ((z >> _16) & _B3) << _32 | ((r >> _16) & _B1) << _56,
        ((r >> _24) & _B2) | (z >> _40) << _16 | (r >> _40) << _40,
    )


@kernel()
def interleave_s24(left: Words, right: Words, stereo: Words) -> None:
    """Put 24-bit stereo together from its channels; the inverse of `sides_of_stereo_s24`."""
    for group in range(np.uint64(left.size // 3)):
        o = group * _6
        s, t, u, v, w, x = _stereo(left, right, group)
        stereo[o], stereo[o + _1], stereo[o + _2] = s, t, u
        stereo[o + _3], stereo[o + _4], stereo[o + _5] = v, w, x


@kernel()
def words_to_integers(words: Words, out: NDArray[Any], scale: Any) -> None:
    """24-bit integers eight at a time out of three words; at the top of 64 bits, their sign comes by itself."""
    for group in range(np.uint64(words.size // 3)):
        i, o = group * _3, group * np.uint64(8)
        w0, w1, w2 = words[i], words[i + _1], words[i + _2]
        out[o] = (np.int64(w0 << _40) >> 40) * scale
        out[o + _1] = (np.int64(w0 << _16) >> 40) * scale
        out[o + _2] = (np.int64((w0 >> _48 | w1 << _16) << _40) >> 40) * scale
        out[o + _3] = (np.int64(w1 << _32) >> 40) * scale
        out[o + _4] = (np.int64(w1 << _8) >> 40) * scale
        out[o + _5] = (np.int64((w1 >> _56 | w2 << _8) << _40) >> 40) * scale
        out[o + _6] = (np.int64(w2 << _24) >> 40) * scale
        out[o + _7] = (np.int64(w2) >> 40) * scale


@kernel()
def bytes_to_integers(raw: Bytes, first: int, out: NDArray[Any], scale: Any) -> None:
    """24-bit integers from the sample `first` on."""
    for i in range(np.uint64(first), np.uint64(out.size)):
        at = i * _3
        value = np.int32(raw[at]) << 8 | np.int32(raw[at + _1]) << 16 | np.int32(raw[at + _2]) << 24
        out[i] = (np.int32(value) >> 8) * scale


@kernel()
def encode_s24(values: NDArray[np.int32], raw: Bytes) -> None:
    """The low three bytes of each integer; `values` is flat, `raw` holds three bytes for each."""
    at = np.uint64(0)
    for i in range(np.uint64(values.size)):
        value = values[i]
        raw[at] = value & 0xFF
        raw[at + _1] = (value >> 8) & 0xFF
        raw[at + _2] = (value >> 16) & 0xFF
        at += _3


@kernel(inline="always")
def _triangular(seed: int, place: int) -> float:
    """Noise with a triangular density over ±1 for one place in a file: SplitMix64 of a counter (Steele, Lea and
    Flood, OOPSLA 2014), whose halves are two uniform numbers.
    """
    z = np.uint64(seed) + (np.uint64(place) + _1) * np.uint64(0x9E3779B97F4A7C15)
    z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    z ^= z >> np.uint64(31)
    halves = np.int64(z >> _32) - np.int64(z & np.uint64(0xFFFFFFFF))
    return halves * 2.0**-32


@kernel(inline="always")
def _to_step(value: float, dithered: bool, seed: int, place: int) -> Any:
    """A sample in steps of the encoding, rounded to nearest, ties to even: the one place where samples are rounded."""
    return np.rint(value + _triangular(seed, place) if dithered else value)


@kernel(inline="always")
def _clamped(value: float, low: float, high: float) -> Any:
    """Clamp without `min` and `max`: their rules for NaN prevent vectorisation."""
    value = low if value < low else value
    return np.int32(high if value > high else value)


@kernel()
def quantise(
    values: NDArray[np.float64],
    scale: float,
    dithered: bool,
    sparing: bool,
    seed: int,
    start: int,
    out: NDArray[np.int32],
    clipped: NDArray[np.int64],
) -> None:
    """Samples in steps of 1 / scale, with triangular noise where they are dithered, rounded to nearest and clipped to
    what fits; counts what was clipped, by channel. `start` is the first frame in its file. Sparing, those that are
    whole steps stay as they are.
    """
    channels, over = np.uint64(clipped.size), 0
    first = start * clipped.size
    for i in range(np.uint64(values.size)):
        value = values[i] * scale
        step = _to_step(value, dithered and not (sparing and np.rint(value) == value), seed, first + int(i))
        over += (step < -scale) | (step > scale - 1.0)
        out[i] = _clamped(step, -scale, scale - 1.0)
    if over:
        for i in range(np.uint64(values.size)):
            value = values[i] * scale
            step = _to_step(value, dithered and not (sparing and np.rint(value) == value), seed, first + int(i))
            clipped[i % channels] += (step < -scale) | (step > scale - 1.0)


@kernel()
def mix_integers(
    values: NDArray[np.int32],
    matrix: NDArray[np.float64],
    low: float,
    high: float,
    dithered: bool,
    seed: int,
    start: int,
    out: NDArray[np.int32],
    clipped: NDArray[np.int64],
) -> None:
    """Σ matrix[i, j]·values[t, j], dithered like `quantise`, rounded to nearest and clipped to low … high; counts what
    was clipped. Values are (frames, columns), `out` is (frames, rows), both flat. Two by two, which most turns are,
    goes without inner loops.
    """
    columns, rows = np.uint64(matrix.shape[1]), np.uint64(matrix.shape[0])
    first = start * matrix.shape[0]
    if columns == _2 and rows == _2:
        a, b, c, d = matrix[0, 0], matrix[0, 1], matrix[1, 0], matrix[1, 1]
        over, over_too = 0, 0
        for t in range(np.uint64(values.size) // _2):
            at = t * _2
            x, y = np.float64(values[at]), np.float64(values[at + _1])
            p = _to_step(a * x + b * y, dithered, seed, first + int(at))
            q = _to_step(c * x + d * y, dithered, seed, first + int(at) + 1)
            over += (p < low) | (p > high)
            over_too += (q < low) | (q > high)
            out[at], out[at + _1] = _clamped(p, low, high), _clamped(q, low, high)
        clipped[0] += over
        clipped[1] += over_too
        return
    for i in range(rows):
        over = 0
        for t in range(np.uint64(values.size) // columns):
            total = 0.0
            for j in range(columns):
                total += matrix[i, j] * values[t * columns + j]
            total = _to_step(total, dithered, seed, first + int(t * rows + i))
            over += (total < low) | (total > high)
            out[t * rows + i] = _clamped(total, low, high)
        clipped[i] += over


@kernel()
def _is_whole(matrix: NDArray[np.float64], high: float) -> bool:
    """Whether a mix of 24-bit integers needs no rounding and goes no higher than `high` unless one of them is the
    lowest, whose opposite there is not.
    """
    for i in range(matrix.shape[0]):
        gains = 0.0
        for j in range(matrix.shape[1]):
            if matrix[i, j] != np.rint(matrix[i, j]):
                return False
            gains += abs(matrix[i, j])
        if gains * (2.0**23 - 1) > high:
            return False
    return True


@kernel()
def _mix_whole(values: NDArray[np.int32], matrix: NDArray[np.float64], out: NDArray[np.int32]) -> bool:
    """Σ matrix[i, j]·values[t, j] of two columns in two rows in integers; whether `_is_whole` holds for all of them."""
    a, b, c, d = np.int32(matrix[0, 0]), np.int32(matrix[0, 1]), np.int32(matrix[1, 0]), np.int32(matrix[1, 1])
    lowest = np.int32(0)
    for t in range(np.uint64(values.size) // _2):
        i = t * _2
        x, y = values[i], values[i + _1]
        lowest = min(lowest, x, y)
        out[i], out[i + _1] = np.int32(a * x + b * y), np.int32(c * x + d * y)
    return bool(lowest > -(2**23))


@kernel()
def mix_s24(
    words: Words,
    matrix: NDArray[np.float64],
    low: float,
    high: float,
    dithered: bool,
    seed: int,
    start: int,
    tile: NDArray[np.int32],
    out: NDArray[np.int32],
    clipped: NDArray[np.int64],
) -> None:
    """What `mix_integers` makes of 24-bit frames as they lie; whole groups of eight frames.

    A tile at a time, which stays in the processor's nearest cache: room for whole groups of frames.
    """
    rows, columns = matrix.shape
    frames, step = out.size // rows, tile.size // columns
    is_whole = columns == 2 and rows == 2 and not dithered and _is_whole(matrix, high)
    for at in range(0, frames, step):
        stop = min(at + step, frames)
        values, mixed = tile[: (stop - at) * columns], out[at * rows : stop * rows]
        words_to_integers(words[at * 3 * columns // 8 : stop * 3 * columns // 8], values, 1)
        if not is_whole or not _mix_whole(values, matrix, mixed):
            mix_integers(values, matrix, low, high, dithered, seed, start + at, mixed, clipped)


def load_byte_kernels() -> None:
    """Compile the kernels that move bytes, or load them from Numba's cache."""
    words, channel = np.zeros(6, np.uint64), np.zeros(3, np.uint64)
    with shorten_switch_interval():
        deinterleave_s24(words, channel.copy(), channel.copy())
        interleave_s24(channel, channel, words)
        words_to_integers(words, np.zeros(16), 1.0)


def warm_up() -> None:
    """Compile every kernel for the types it is called with, so that nobody waits for it later."""
    load_byte_kernels()
    raw, words = np.zeros(48, np.uint8), np.zeros(6, np.uint64)
    words_to_integers(words, np.zeros(16, np.int32), 1)
    for out in (np.zeros(16), np.zeros(16, np.int32)):
        bytes_to_integers(raw, 0, out, 1.0 if out.dtype == np.float64 else 1)
    encode_s24(np.zeros(16, np.int32), raw)
    integers, clipped, seed = np.zeros(16, np.int32), np.zeros(2, np.int64), np.uint64(0)
    mix_integers(integers, np.eye(2), -1.0, 1.0, False, seed, 0, integers.copy(), clipped)  # type: ignore[arg-type]
    out = integers.copy()
    mix_s24(words, np.eye(2), -1.0, 1.0, False, seed, 0, integers, out, clipped)  # type: ignore[arg-type]
    quantise(np.zeros(4), 1.0, True, False, seed, 0, integers, clipped)  # type: ignore[arg-type]
