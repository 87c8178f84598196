"""The pictures of a stretch that are judged by eye: spectrum, field, and correlation by frequency band.

Spectra are averages of windowed frames (Welch's method, square of a Hann window with a gain of 1 for a sine), at
most `MOST_FRAMES` of them, evenly over the stretch. A full-scale sine reads 0 dBFS.
Bands are thirds of an octave (IEC 61260-1, base ten); correlation is Pearson's about zero mean, per band

    r = Re Σ L·R* / √(Σ|L|² Σ|R|²)
"""

import math
from typing import Final

import numpy as np
import scipy
from pydantic import BaseModel, ConfigDict

from wedge_turn.core.clips import Signal
from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.measure import kernels
from wedge_turn.core.measure.kernels import Floats
from wedge_turn.core.windows import hann

MAX_FRAMES: Final = 48
MAX_WINDOW: Final = 16_384
MIN_WINDOW: Final = 1_024
SECTORS: Final = 72
FLOOR: Final = -180.0
LOWEST_BAND: Final = 25.0


class Band(BaseModel):
    """A third of an octave around `hz`; None where a channel is silent in it."""

    model_config = ConfigDict(frozen=True)

    hz: float
    correlation: float | None
    level_db: float


class Analysis(BaseModel):
    """Spectra hold one level for each multiple of `step_hz`; `field` the share of energy in sectors from −90° to +90°.

    Left, right, mid and side of a stereo clip; of a mono clip left alone.
    """

    model_config = ConfigDict(frozen=True)

    step_hz: float
    left: list[float]
    right: list[float]
    mid: list[float]
    side: list[float]
    field: list[float]
    bands: list[Band]
    correlation: float | None


def analyse(signal: Signal, start: int, frames: int) -> Analysis:
    """Analyse frames [start, start + frames) of a signal of one or two channels.

    Raises BadRequestError for other channels, or for a stretch outside the signal.
    """
    form = signal.form
    if form.channels > 2:
        raise BadRequestError(f"Spectra are of one or two channels; {form.channels} were chosen")
    if start < 0 or frames < 1 or start + frames > form.frames:
        raise BadRequestError(f"Frames {start:,} to {start + frames:,} do not lie within {form.frames:,}")
    size = min(MAX_WINDOW, max(MIN_WINDOW, 2 ** int(math.log2(frames))))
    window = hann(size)
    count = min(MAX_FRAMES, max(1, 2 * (frames // size) - 1))
    starts = np.unique(np.linspace(start, max(start, start + frames - size), count).astype(np.int64))
    blocks = np.stack([signal.read(int(at), size) for at in starts])
    spectra = scipy.fft.rfft(blocks * window[None, :, None], axis=1) * (2 / window.sum())
    powers = np.mean(np.abs(spectra) ** 2, axis=0)
    step = form.rate / size
    if form.channels == 1:
        return Analysis(step_hz=step, left=_levels(powers[:, 0]), right=[], mid=[], side=[], field=[], bands=[],
                        correlation=None)  # fmt: skip
    left, right = (np.ascontiguousarray(spectra[:, :, side].astype(np.complex64)) for side in (0, 1))
    lines = size // 2 + 1
    summed, cross = np.zeros((2, lines)), np.zeros(lines, np.complex128)
    kernels.cross_spectrum(left, right, summed, cross, np.zeros(lines, np.complex128))
    field = np.zeros(SECTORS)
    kernels.directions(left, right, 1, field)
    total = field.sum()
    middle = np.mean(np.abs((spectra[:, :, 0] + spectra[:, :, 1]) / 2) ** 2, axis=0)
    side_power = np.mean(np.abs((spectra[:, :, 0] - spectra[:, :, 1]) / 2) ** 2, axis=0)
    return Analysis(
        step_hz=step,
        left=_levels(powers[:, 0]),
        right=_levels(powers[:, 1]),
        mid=_levels(middle),
        side=_levels(side_power),
        field=[round(float(share / total), 5) for share in field] if total > 0 else [0.0] * SECTORS,
        bands=_bands(summed, cross.real, step, form.rate),
        correlation=_correlation(summed[:, 1:].sum(axis=1), float(cross.real[1:].sum())),
    )


def _bands(powers: Floats, cross: Floats, step: float, rate: int) -> list[Band]:
    """Thirds of an octave that hold a line of the spectrum at least."""
    bands = []
    frequencies = np.arange(powers.shape[1]) * step
    for n in range(-16, 20):
        centre = 1000 * 10 ** (n / 10)
        low, high = centre * 10**-0.05, centre * 10**0.05
        inside = (frequencies >= low) & (frequencies < high)
        if centre < LOWEST_BAND * 0.99 or low > rate / 2 or not inside.any():
            continue
        both = powers[:, inside].sum(axis=1)
        level = _level(float(both.sum()) / powers.shape[1])
        bands.append(
            Band(hz=round(centre, 1), correlation=_correlation(both, float(cross[inside].sum())), level_db=level)
        )
    return bands


def _correlation(powers: Floats, cross: float) -> float | None:
    both = float(powers[0] * powers[1])
    return round(max(-1.0, min(1.0, cross / math.sqrt(both))), 3) if both > 1e-30 else None


def _levels(powers: Floats) -> list[float]:
    decibels = 10 * np.log10(np.maximum(powers, 10 ** (FLOOR / 10)))
    return [round(float(level), 1) for level in decibels]


def _level(power: float) -> float:
    return round(10 * math.log10(max(power, 10 ** (FLOOR / 10))), 1)
