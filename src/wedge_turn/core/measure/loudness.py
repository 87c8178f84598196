"""Loudness and true peak by ITU-R BS.1770-5 and EBU R 128, from what one pass over a signal adds up.

Loudness (Annex 1): K-weighted mean squares over blocks of 400 ms that overlap by three quarters, weighted by channel
(1 in front, 1.41 behind and beside, none for LFE), gated at −70 LUFS and at 10 LU below what then remains.

    L = −0.691 + 10·log10( Σ_channels G · mean square )

The weighting's coefficients stand in the recommendation for 48 kHz alone. For other rates they are made from the two
analogue filters that the same numbers come from, by the bilinear transform (values from memory: 1681.97 Hz, +4.0 dB,
Q 0.7072; 38.135 Hz, Q 0.5003; they give the recommendation's table at 48 kHz to all its digits).

True peak (Annex 2): the largest magnitude after interpolation to at least 192 kHz, here by Kaiser-windowed sinc
filters of 24 taps that err by less than 0.05 dB up to 0.41 of the rate.
"""

import math
from typing import Final

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.measure.kernels import TAPS, Floats, Singles

OFFSET: Final = -0.691
ABSOLUTE_GATE: Final = -70.0
RELATIVE_GATE: Final = -10.0
STEPS_A_BLOCK: Final = 4  # stretches of 100 ms in a block of 400 ms
_LOUDER: Final = frozenset({"SL", "SR", "BL", "BR"})
_KAISER: Final = 5.0


def k_weighting(rate: int) -> Floats:
    """The two biquads: b0 b1 b2 a1 a2 of the shelf, a1 a2 of the high-pass, whose numerator is 1 −2 1."""
    decibels, quality, corner = 3.999843853973347, 0.7071752369554196, 1681.974450955533
    k = math.tan(math.pi * corner / rate)
    high = 10 ** (decibels / 20)
    between = high**0.4996667741545416
    a0 = 1 + k / quality + k * k
    shelf = [
        (high + between * k / quality + k * k) / a0,
        2 * (k * k - high) / a0,
        (high - between * k / quality + k * k) / a0,
        2 * (k * k - 1) / a0,
        (1 - k / quality + k * k) / a0,
    ]
    quality, corner = 0.5003270373238773, 38.13547087602444
    k = math.tan(math.pi * corner / rate)
    a0 = 1 + k / quality + k * k
    return np.array([*shelf, 2 * (k * k - 1) / a0, (1 - k / quality + k * k) / a0])


def channel_weights(channels: int, speakers: tuple[str, ...]) -> Floats:
    """G of each channel; 1 for all where the file names no speakers."""
    if not speakers:
        return np.ones(channels)
    return np.array([0.0 if s == "LFE" else 1.41 if s in _LOUDER else 1.0 for s in speakers])


def integrate_loudness(steps: Floats, weights: Floats) -> float | None:
    """Integrated loudness in LUFS from mean squares over 100 ms each, (stretches, channels); None if all is gated.

    A signal shorter than a block is taken as one block.
    """
    if len(steps) == 0:
        return None
    size = min(STEPS_A_BLOCK, len(steps))
    sums = np.cumsum(np.vstack([np.zeros(steps.shape[1]), steps]), axis=0)
    blocks = ((sums[size:] - sums[:-size]) / size) @ weights
    blocks = blocks[to_lufs(blocks) > ABSOLUTE_GATE]
    if blocks.size == 0:
        return None
    gate = float(to_lufs(blocks.mean())) + RELATIVE_GATE
    return float(to_lufs(blocks[to_lufs(blocks) > gate].mean()))


def to_lufs(mean_square: NDArray[np.float64] | float) -> NDArray[np.float64]:
    """A K-weighted mean square, summed over the channels, as loudness."""
    with np.errstate(divide="ignore"):
        loud: NDArray[np.float64] = OFFSET + 10 * np.log10(np.maximum(mean_square, 0.0))
    return loud


def interpolators(rate: int) -> Singles:
    """Filters for the points between two samples, (points, taps); none from 192 kHz on: samples lie close enough."""
    factor = 4 if rate < 96_000 else 2 if rate < 192_000 else 1
    places = np.arange(-TAPS // 2 + 1, TAPS // 2 + 1)
    rows = []
    for point in range(1, factor):
        t = places - point / factor
        window = np.i0(_KAISER * np.sqrt(1 - (t / (TAPS / 2)) ** 2)) / np.i0(_KAISER)
        row = np.sinc(t) * window
        rows.append(row / row.sum())
    return np.array(rows, np.float32).reshape(-1, TAPS)
