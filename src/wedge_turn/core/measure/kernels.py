"""The inner loops of pictures and measures, compiled once by Numba. Blocks are (frames, channels), C-contiguous."""

from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.jit import kernel

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]

# Columns of what `two_columns` adds up for each stretch.
ENERGY_A, ENERGY_B, WEIGHTED_A, WEIGHTED_B, SUM_A, SUM_B, MID_ENERGY, SIDE_ENERGY, PEAK_A, PEAK_B = range(10)
COLUMNS: Final = 10
# Taps of what interpolates between samples, and how many values it makes at a time.
TAPS: Final = 24
SEGMENT: Final = 64


@kernel()
def measure_bins(block: Floats, size: int, out: NDArray[np.float32]) -> None:
    """Minimum, maximum and sum of squares of each channel in bins of `size` frames, then Σ left·right of stereo.

    `out` is (bins, 3 · channels + 1); a last bin may be shorter.
    """
    frames, channels = block.shape
    for b in range(out.shape[0]):
        first, last = b * size, min((b + 1) * size, frames)
        for c in range(channels):
            low = high = block[first, c]
            total = 0.0
            for t in range(first, last):
                x = block[t, c]
                low = min(low, x)
                high = max(high, x)
                total += x * x
            out[b, 3 * c], out[b, 3 * c + 1], out[b, 3 * c + 2] = low, high, total
        cross = 0.0
        if channels == 2:
            for t in range(first, last):
                cross += block[t, 0] * block[t, 1]
        out[b, 3 * channels] = cross


@kernel(fastmath={"contract", "nnan", "ninf", "nsz"})
def two_columns(block: Floats, a: int, b: int, k: Floats, state: Floats, left: int, size: int, out: Floats) -> int:
    """Go through two channels side by side, which costs little more than one: recursions wait for themselves.

    Adds to rows of `out`, one for each stretch of `size` frames, of which the first has `left` frames to go: Σa²,
    Σb², the same of the K-weighted signals, Σa, Σb, Σ(a + b)², Σ(a − b)², and max|a|, max|b|. `k` holds the biquads
    of the weighting as b0 b1 b2 a1 a2 of the first and a1 a2 of the second, whose numerator is 1 −2 1; `state` (2, 4)
    is kept between blocks. Returns the rows that are complete.
    """
    frames = block.shape[0]
    b0, b1, b2, a1, a2, h1, h2 = k[0], k[1], k[2], k[3], k[4], k[5], k[6]
    p1, p2, p3, p4 = state[0, 0], state[0, 1], state[0, 2], state[0, 3]
    q1, q2, q3, q4 = state[1, 0], state[1, 1], state[1, 2], state[1, 3]
    row = 0
    at = 0
    while at < frames:
        last = min(frames, at + left)
        ea = eb = wa = wb = sa = sb = mid = side = 0.0
        ha, hb = out[row, PEAK_A], out[row, PEAK_B]
        for t in range(at, last):
            x, y = block[t, a], block[t, b]
            ea += x * x
            eb += y * y
            sa += x
            sb += y
            mid += (x + y) * (x + y)
            side += (x - y) * (x - y)
            ha = max(ha, abs(x))
            hb = max(hb, abs(y))
            u = b0 * x + p1
            v = b0 * y + q1
            p1 = b1 * x - a1 * u + p2
            q1 = b1 * y - a1 * v + q2
            p2 = b2 * x - a2 * u
            q2 = b2 * y - a2 * v
            z = u + p3
            w = v + q3
            p3 = -2.0 * u - h1 * z + p4
            q3 = -2.0 * v - h1 * w + q4
            p4 = u - h2 * z
            q4 = v - h2 * w
            wa += z * z
            wb += w * w
        out[row, ENERGY_A] += ea
        out[row, ENERGY_B] += eb
        out[row, WEIGHTED_A] += wa
        out[row, WEIGHTED_B] += wb
        out[row, SUM_A] += sa
        out[row, SUM_B] += sb
        out[row, MID_ENERGY] += mid
        out[row, SIDE_ENERGY] += side
        out[row, PEAK_A], out[row, PEAK_B] = ha, hb
        left -= last - at
        at = last
        if left == 0:
            row += 1
            left = size
    state[0, 0], state[0, 1], state[0, 2], state[0, 3] = p1, p2, p3, p4
    state[1, 0], state[1, 1], state[1, 2], state[1, 3] = q1, q2, q3, q4
    return row


@kernel()
def binary_places(values: Floats, places: int, most: int) -> int:
    """The fewest binary places behind the point, `places` or more, that hold each of these samples exactly; `most`
    where that is not enough. `values` is flat.
    """
    scale = 2.0**places
    for i in range(values.size):
        while values[i] * scale != np.rint(values[i] * scale):
            places += 1
            scale *= 2.0
            if places == most:
                return places
    return places


@kernel()
def full_scale_runs(block: Floats, c: int, low: float, high: float, least: int, run: NDArray[np.int64]) -> None:
    """Count runs of at least `least` samples at or beyond full scale. `run` is: the sign and the length of the run
    that is going on, runs so far, samples in them; it is kept between blocks.
    """
    sign, length = run[0], run[1]
    for t in range(block.shape[0]):
        x = block[t, c]
        state = 1 if x >= high else (-1 if x <= low else 0)
        if state != 0 and state == sign:
            length += 1
        else:
            sign, length = state, 1 if state != 0 else 0
        if length == least:
            run[2] += 1
            run[3] += least
        elif length > least:
            run[3] += 1
    run[0], run[1] = sign, length


@kernel()
def column_after(tail: Singles, block: Floats, c: int, out: Singles) -> None:
    """One channel of a block behind the end of what came before it; `tail` becomes the new end."""
    before = np.uint64(tail.size)
    for i in range(before):
        out[i] = tail[i]
    for t in range(np.uint64(block.shape[0])):
        out[before + t] = block[t, c]
    for i in range(before):
        tail[i] = out[np.uint64(block.shape[0]) + i]


_0, _1, _2, _3, _4, _5, _6, _7, _8, _16, _24 = (np.uint64(n) for n in (*range(9), 16, TAPS))


@kernel(inline="always", fastmath={"contract", "reassoc", "nnan", "ninf", "nsz"})
def _eight_taps(x: Singles, at: Any, taps: Singles, k: Any, count: Any, out: Singles) -> None:
    """Add eight taps of an interpolator from `k` on over a segment, which keeps the processor's vectors full."""
    f0, f1, f2, f3 = taps[k], taps[k + _1], taps[k + _2], taps[k + _3]
    f4, f5, f6, f7 = taps[k + _4], taps[k + _5], taps[k + _6], taps[k + _7]
    for i in range(count):
        j = at + k + i
        out[i] += (
            f0 * x[j] + f1 * x[j + _1] + f2 * x[j + _2] + f3 * x[j + _3]
            + f4 * x[j + _4] + f5 * x[j + _5] + f6 * x[j + _6] + f7 * x[j + _7]
        )  # fmt: skip


@kernel(inline="always")
def _largest(values: Singles, first: Any, stop: Any) -> Any:
    """The largest magnitude among values, found by their bits: without a sign these are ordered as the numbers are, and
    of integers LLVM compares several at once.
    """
    bits = np.int32(0)
    for i in range(first, stop):
        bits = max(bits, np.float32(abs(values[i])).view(np.int32))
    return np.int32(bits).view(np.float32)


@kernel(fastmath={"contract", "reassoc", "nnan", "ninf", "nsz"})
def highest_between(
    x: Singles, phases: Singles, outer: Singles, reach: float, highest: float, between: Singles
) -> float:
    """The largest magnitude between samples, as interpolated by each row of `phases`, or `highest` if that is larger.

    `x` begins with TAPS − 1 samples of before, `phases` is (points, TAPS). No interpolated value exceeds `reach`
    times the largest sample it is made of, so that stretches that cannot exceed the maximum so far are passed over;
    of the others the eight taps in the middle are added up first, and the rest only where it could matter: `outer` is
    how much that can be, for a largest sample of 1. `made` is room for a segment.
    """
    count = np.uint64(x.size) - _24 + _1
    at = _0
    while at < count:
        part = min(count - at, np.uint64(SEGMENT))
        loudest = _largest(x, at, at + part + _24 - _1)
        if loudest * reach > highest:
            for p in range(np.uint64(phases.shape[0])):
                between[:] = np.float32(0.0)
                _eight_taps(x, at, phases[p], _8, part, between)
                if _largest(between, _0, part) + outer[p] * loudest <= highest:
                    continue
                _eight_taps(x, at, phases[p], _0, part, between)
                _eight_taps(x, at, phases[p], _16, part, between)
                highest = max(highest, np.float64(_largest(between, _0, part)))
        at += part
    return highest


@kernel(fastmath=True)
def cross_spectrum(
    left: NDArray[np.complex64],
    right: NDArray[np.complex64],
    powers: Floats,
    cross: NDArray[np.complex128],
    whitened: NDArray[np.complex128],
) -> None:
    """Add frames of two spectra, (frames, bins): |L|² and |R|² into `powers` (2, bins), L·R* into `cross`, and
    L·R*/|L·R*| into `whitened`: the phase transform of Knapp and Carter (1976).
    """
    for f in range(left.shape[0]):
        for j in range(left.shape[1]):
            lr, li, rr, ri = left[f, j].real, left[f, j].imag, right[f, j].real, right[f, j].imag
            re, im = lr * rr + li * ri, li * rr - lr * ri
            powers[0, j] += lr * lr + li * li
            powers[1, j] += rr * rr + ri * ri
            cross[j] += complex(re, im)
            size = re * re + im * im
            if size > 1e-24:
                scale = np.float32(1.0) / np.sqrt(size)
                whitened[j] += complex(re * scale, im * scale)


@kernel()
def directions(left: NDArray[np.complex64], right: NDArray[np.complex64], first: int, field: Floats) -> None:
    """Add the energy of each bin from `first` on to where it points: the main axis of its two channels in the plane,

        φ = ½·atan2(|L|² − |R|², 2·Re(L·R*))      +45° left, 0° mid, −45° right, ±90° side

    `field` has equal sectors from −90° to +90°.
    """
    count = field.size
    for f in range(left.shape[0]):
        for j in range(first, left.shape[1]):
            lr, li, rr, ri = left[f, j].real, left[f, j].imag, right[f, j].real, right[f, j].imag
            a, b = lr * lr + li * li, rr * rr + ri * ri
            angle = 0.5 * np.arctan2(a - b, 2.0 * (lr * rr + li * ri))
            place = int((angle / np.pi + 0.5) * count)
            if 0 <= place < count:  # never outside the field, not even where an angle is NaN
                field[place] += a + b
            elif place == count:
                field[count - 1] += a + b


@kernel()
def paint_map(
    left: NDArray[np.complex64], right: NDArray[np.complex64], row_of: NDArray[np.int64], energy: Floats
) -> None:
    """Add the energy of each line to its row and direction; `energy` is (rows, directions), from left to right."""
    columns = energy.shape[1]
    for f in range(left.shape[0]):
        for j in range(left.shape[1]):
            row = row_of[j]
            if row < 0:
                continue
            lr, li, rr, ri = left[f, j].real, left[f, j].imag, right[f, j].real, right[f, j].imag
            a, b = lr * lr + li * li, rr * rr + ri * ri
            angle = 0.5 * np.arctan2(a - b, 2.0 * (lr * rr + li * ri))
            if not np.isnan(angle):
                place = 0.5 - min(0.5, max(-0.5, angle / (np.pi / 2)))
                energy[row, min(columns - 1, int(place * columns))] += a + b


def warm_up() -> None:
    """Compile everything for the types it is called with."""
    block = np.zeros((4, 2))
    measure_bins(block, 2, np.zeros((2, 7), np.float32))
    two_columns(block, 0, 1, np.zeros(7), np.zeros((2, 4)), 4, 4, np.zeros((3, COLUMNS)))
    binary_places(block.reshape(-1), 0, 23)
    full_scale_runs(block, 0, -1.0, 1.0, 3, np.zeros(4, np.int64))
    column_after(np.zeros(2, np.float32), block, 0, np.zeros(6, np.float32))
    outer, wave, between = (np.zeros(n, np.float32) for n in (3, TAPS, SEGMENT))
    highest_between(wave, np.zeros((3, TAPS), np.float32), outer, 2.0, 0.0, between)
    spectrum = np.zeros((1, 4), np.complex64)
    cross_spectrum(spectrum, spectrum, np.zeros((2, 4)), np.zeros(4, np.complex128), np.zeros(4, np.complex128))
    directions(spectrum, spectrum, 1, np.zeros(36))
    paint_map(spectrum, spectrum, np.zeros(4, np.int64), np.zeros((2, 3)))
