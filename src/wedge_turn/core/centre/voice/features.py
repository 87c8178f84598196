"""What the voice mask sees of a stereo spectrum: figures of level and likeness that don't depend on gain or on which
channel is which.

With A = |L|², B = |R|², c = Re L·R*, d = Im L·R*, t = A + B:

    likeness    2c/t                          1 equal, 0 unrelated, −1 opposite
    coherence   2|L·R*|/t                     the same, whatever the phase
    lean        |A − B|/t                     0 in the middle, 1 in one channel
    side/mid    ln((t − 2c)/(t + 2c))/4       within ±2.5

Logarithms are a polynomial of degree six on the mantissa (least squares on Chebyshev points), which vectorises and is
within 2·10⁻⁵ of the true one.
"""

from typing import Final

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.centre.voice.bands import BANDS, EDGES
from wedge_turn.core.jit import kernel

Singles = NDArray[np.float32]
Spectra = NDArray[np.complex64]

OF_A_BAND: Final = 9
OF_A_LINE: Final = 9
REACH: Final = 6  # frames on either side that a frame's features see

_f4 = np.float32
_i4 = np.int32
_MANTISSA = np.linspace(1, 2, 4_001)
_FIT = np.polynomial.chebyshev.Chebyshev.fit(_MANTISSA, np.log(_MANTISSA), 6)
_C0, _C1, _C2, _C3, _C4, _C5, _C6 = (_f4(c) for c in _FIT.convert(kind=np.polynomial.Polynomial).coef)
_LN2 = _f4(np.log(2))
_TINY = _f4(1e-9)
_FLAGS = {"contract", "nnan", "ninf", "nsz", "arcp", "reassoc"}


@kernel(fastmath=_FLAGS, inline="always")
def _log(x):  # type: ignore[no-untyped-def]
    bits = _f4(x).view(_i4)
    exponent = _f4(_i4(bits >> _i4(23)) - _i4(127))
    m = _i4((bits & _i4(0x7FFFFF)) | _i4(0x3F800000)).view(_f4)
    return exponent * _LN2 + (_C0 + m * (_C1 + m * (_C2 + m * (_C3 + m * (_C4 + m * (_C5 + m * _C6))))))


@kernel(fastmath=_FLAGS, inline="always")
def _clip(x, most):  # type: ignore[no-untyped-def]
    return min(max(x, -most), most)


@kernel(fastmath=_FLAGS, inline="always")
def _side_over_mid(t, c):  # type: ignore[no-untyped-def]
    twice = _f4(2) * c
    return _clip(_log(max(t - twice, _TINY) / max(t + twice, _TINY)) * _f4(0.25), _f4(2.5))


@kernel(fastmath=_FLAGS)
def _energies(left, right, edges, of_lines, of_bands, total, level):  # type: ignore[no-untyped-def]
    """A, B, c, d of lines (frames, 4, lines) and bands (frames, 4, bands); A + B of lines; the mean over bands."""
    for f in range(left.shape[0]):
        for k in range(left.shape[1]):
            lr, li, rr, ri = left[f, k].real, left[f, k].imag, right[f, k].real, right[f, k].imag
            of_lines[f, 0, k] = lr * lr + li * li
            of_lines[f, 1, k] = rr * rr + ri * ri
            of_lines[f, 2, k] = lr * rr + li * ri
            of_lines[f, 3, k] = li * rr - lr * ri
            total[f, k] = of_lines[f, 0, k] + of_lines[f, 1, k]
        for m in range(4):
            for b in range(edges.size - 1):
                band = _f4(0)
                for k in range(edges[b], edges[b + 1]):
                    band += of_lines[f, m, k]
                of_bands[f, m, b] = band
        mean = _f4(0)
        for b in range(edges.size - 1):
            mean += of_bands[f, 0, b] + of_bands[f, 1, b]
        level[f] = mean / _f4(edges.size - 1)


@kernel(fastmath=_FLAGS)
def _surroundings(total, level, level_13, total_7, total_15):  # type: ignore[no-untyped-def]
    """Means over 13 frames of the level, over 7 frames of each line, and over 15 lines around it."""
    frames, lines = total.shape
    for f in range(frames):
        mean = _f4(0)
        for near in range(max(0, f - 6), min(frames, f + 7)):
            mean += level[near]
        level_13[f] = mean / _f4(13) + _f4(1e-7)
        total_7[f, :] = 0
        for near in range(max(0, f - 3), min(frames, f + 4)):
            for k in range(lines):
                total_7[f, k] += total[near, k] * _f4(1 / 7)
        running = 0.0
        for k in range(7):
            running += total[f, k]
        for k in range(lines):
            if k + 7 < lines:
                running += total[f, k + 7]
            if k >= 8:
                running -= total[f, k - 8]
            total_15[f, k] = max(running, 0.0) / 15


@kernel(fastmath=_FLAGS)
def _three_frames(energies, f, out):  # type: ignore[no-untyped-def]
    """The sums of frame f and the frames beside it, (4, lines or bands)."""
    out[:] = 0
    for near in range(max(0, f - 1), min(energies.shape[0], f + 2)):
        for m in range(out.shape[0]):
            for k in range(out.shape[1]):
                out[m, k] += energies[near, m, k]


@kernel(fastmath=_FLAGS)
def _of_bands(energies, level, out):  # type: ignore[no-untyped-def]
    frames, _, bands = energies.shape
    one, two = _f4(1), _f4(2)
    near = np.empty((4, bands), np.float32)
    for f in range(frames):
        _three_frames(energies, f, near)
        for b in range(bands):
            a_, b_, c, d = energies[f, 0, b], energies[f, 1, b], energies[f, 2, b], energies[f, 3, b]
            t = a_ + b_ + _TINY
            out[f, b, 0] = _log(t / level[f] + _f4(1e-5)) * _f4(1 / 3)
            out[f, b, 1] = two * c / t
            out[f, b, 2] = min(two * np.sqrt(c * c + d * d) / t, one)
            out[f, b, 3] = abs(a_ - b_) / t
            out[f, b, 4] = two * abs(d) / t
            out[f, b, 5] = _side_over_mid(t, c)
            t = near[0, b] + near[1, b] + _TINY
            out[f, b, 6] = two * near[2, b] / t
            out[f, b, 7] = _side_over_mid(t, near[2, b])
            out[f, b, 8] = two * _f4(b) / _f4(bands) - one


@kernel(fastmath=_FLAGS)
def _of_lines(energies, total_7, total_15, out):  # type: ignore[no-untyped-def]
    frames, _, lines = energies.shape
    one, two = _f4(1), _f4(2)
    near = np.empty((4, lines), np.float32)  # of three frames
    wide = np.empty((3, lines), np.float32)  # of three frames and three lines
    for f in range(frames):
        _three_frames(energies, f, near)
        for m in range(3):
            wide[m, 0] = near[m, 0] + near[m, 1]
            wide[m, lines - 1] = near[m, lines - 2] + near[m, lines - 1]
            for k in range(1, lines - 1):
                wide[m, k] = near[m, k - 1] + near[m, k] + near[m, k + 1]
        for k in range(lines):
            t, c = energies[f, 0, k] + energies[f, 1, k] + _TINY, energies[f, 2, k]
            out[f, 0, k] = two * c / t
            out[f, 1, k] = _side_over_mid(t, c)
            out[f, 7, k] = _clip(_log(t / (total_15[f, k] + _TINY)) * _f4(1 / 3), _f4(3))
            out[f, 8, k] = _clip(_log(t / (total_7[f, k] + _TINY)) * _f4(0.5), _f4(3))
        for k in range(lines):
            a_, b_, c, d = near[0, k], near[1, k], near[2, k], near[3, k]
            t = a_ + b_ + _TINY
            out[f, 2, k] = two * c / t
            out[f, 3, k] = min(two * np.sqrt(c * c + d * d) / t, one)
            out[f, 4, k] = abs(a_ - b_) / t
            out[f, 5, k] = _side_over_mid(t, c)
            out[f, 6, k] = _side_over_mid(wide[0, k] + wide[1, k] + _TINY, wide[2, k])


def compute_features(left: Spectra, right: Spectra) -> tuple[Singles, Singles]:
    """The features of bands, (frames, BANDS, OF_A_BAND), and of lines, (frames, OF_A_LINE, lines), of the spectra of
    both channels, (frames, lines) each. Beyond the first and last frame they see silence: REACH frames on either side
    are not what they would be in a longer signal.

    Of a band: ln(t / mean over all bands and 13 frames)/3, likeness, coherence, lean, 2|d|/t, side/mid; likeness and
    side/mid of sums over 3 frames; its place, −1 … 1. Of a line: likeness, side/mid; of sums over 3 frames likeness,
    coherence, lean, side/mid; side/mid of 3 frames × 3 lines; ln(t / mean over 15 lines)/3; ln(t / mean over 7
    frames)/2.
    """
    frames, lines = left.shape
    of_lines, of_bands = np.empty((frames, 4, lines), np.float32), np.empty((frames, 4, BANDS), np.float32)
    total, total_7, total_15 = (np.empty((frames, lines), np.float32) for _ in range(3))
    level, level_13 = np.empty(frames, np.float32), np.empty(frames, np.float32)
    _energies(left, right, EDGES, of_lines, of_bands, total, level)
    _surroundings(total, level, level_13, total_7, total_15)
    bands_seen = np.empty((frames, BANDS, OF_A_BAND), np.float32)
    lines_seen = np.empty((frames, OF_A_LINE, lines), np.float32)
    _of_bands(of_bands, level_13, bands_seen)
    _of_lines(of_lines, total_7, total_15, lines_seen)
    return bands_seen, lines_seen
