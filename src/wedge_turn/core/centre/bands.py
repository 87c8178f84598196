"""Where between two frequencies something is done: edges for a spectrum, and a crossover for samples.

The edges of a spectrum's band are half an octave wide, sin² around each limit. The crossover is a linear-phase FIR
filter (windowed sinc, Kaiser, scipy.signal.firwin) of an odd length, whose complement is a delayed unit less it: what
lies within the band and what lies outside add up to the original, to the rounding of float64.
"""

import math
from typing import Final

import numpy as np
import scipy
from numpy.typing import NDArray

from wedge_turn.core.audio import Block

HALF_OCTAVE: Final = 2**0.25
# Taps for the slope of the lower limit: a transition of about a third of it, 60 dB down.
_SLOPE: Final = 0.33
_KAISER: Final = 5.65
MAX_TAPS: Final = 16_383
MIN_TAPS: Final = 255


def shape_band(rate: int, lines: int, low: float, high: float) -> NDArray[np.float32]:
    """The gain of each line of a spectrum up to half the rate: 1 within [low, high], 0 outside. 0 is no lower limit,
    half the rate or more no upper one.
    """
    hertz = np.arange(lines) * rate / 2 / (lines - 1)
    gains = np.ones(lines)
    if low > 0:
        gains *= _rise(hertz, low)
    if high < rate / 2:
        gains *= 1 - _rise(hertz, high)
    return gains.astype(np.float32)


def _rise(hertz: NDArray[np.float64], limit: float) -> NDArray[np.float64]:
    with np.errstate(divide="ignore"):
        place = np.log2(np.maximum(hertz, 1e-9) / limit * HALF_OCTAVE) / (2 * math.log2(HALF_OCTAVE))
    risen: NDArray[np.float64] = np.sin(np.clip(place, 0, 1) * np.pi / 2) ** 2
    return risen


def design_band_filter(rate: int, low: float, high: float) -> NDArray[np.float64]:
    """The taps that pass what lies between two limits; 0 is no lower limit, half the rate or more no upper one.

    A single tap of 1 where there is no limit at all.
    """
    within_low, within_high = low > 0, high < rate / 2
    if not within_low and not within_high:
        return np.ones(1)
    steepest = min(limit for limit, is_within in ((low, within_low), (high, within_high)) if is_within)
    taps = int(min(MAX_TAPS, max(MIN_TAPS, 4 * rate / (_SLOPE * steepest)))) | 1
    if within_low and within_high:
        response = scipy.signal.firwin(taps, [low, high], window=("kaiser", _KAISER), pass_zero=False, fs=rate)
    elif within_low:
        response = scipy.signal.firwin(taps, low, window=("kaiser", _KAISER), pass_zero=False, fs=rate)
    else:
        response = scipy.signal.firwin(taps, high, window=("kaiser", _KAISER), fs=rate)
    return np.asarray(response, np.float64)


def filter_channels(block: Block, taps: NDArray[np.float64], frames: int) -> Block:
    """`frames` frames of a block passed through linear-phase taps; the block has (taps − 1)/2 more on either side."""
    half = (len(taps) - 1) // 2
    if half == 0:
        return np.asarray(block[:frames] * taps[0])
    size = scipy.fft.next_fast_len(len(block) + len(taps) - 1, real=True)
    spectrum = scipy.fft.rfft(taps, size)[:, None] * scipy.fft.rfft(block, size, axis=0)
    return np.asarray(scipy.fft.irfft(spectrum, size, axis=0)[2 * half : 2 * half + frames])
