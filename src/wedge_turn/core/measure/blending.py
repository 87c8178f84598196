"""How two microphones on one source add up in mono, by band, and the polarity and delay that suit them best.

With the powers P₁, P₂ and the cross-power C = Σ R·L* of a band, and shares a of the left and b of the right, the right
later by d and its polarity s = ±1,

    level = (a²P₁ + b²P₂ + 2·a·b·s·Re(C·e^(−jωd))) / (a²P₁ + b²P₂)

in dB: +3 where both are the same and as loud, 0 where they have nothing in common, −∞ where they cancel (arithmetic).
The best sum lines up all that both microphones hear, at the delay and polarity of the whole band (`lateness`): one
that suits the low end alone would comb everything above. Only where the whole band has no sure delay does the low end
decide: the loudest sum from 30 to 250 Hz, with the right at most 5 ms earlier or later; of delays that give as much to
a tenth of a dB, the shortest.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy
from numpy.typing import NDArray

from wedge_turn.core.audio import Block
from wedge_turn.core.measure.lateness import Lateness
from wedge_turn.core.windows import choose_window_size, hann, space_evenly

WINDOW_SECONDS: Final = 0.7
MAX_WINDOWS: Final = 40
OCTAVES: Final = (63, 125, 250, 500, 1_000, 2_000, 4_000, 8_000)  # Hz, the middles
LOW_END: Final = (30.0, 250.0)  # Hz
REACH: Final = 0.005  # seconds
FINER: Final = 4  # delays tried to a sample
AS_GOOD: Final = 0.1  # dB
WHOLE_WITHIN: Final = 0.2  # samples
MIN_DB: Final = -60.0

Read = Callable[[int, int], Block]
Real = NDArray[np.float64]
Complex = NDArray[np.complex128]


@dataclass(frozen=True)
class BandLevel:
    """How a band adds up, in dB; None where the band is silent."""

    hertz: int
    level_db: float | None


@dataclass(frozen=True)
class BestSum:
    """The polarity and delay of the right, in samples, and by how many dB the low end is then louder than as it is set.
    `confidence` is that of the delay of the whole band; None where the low end alone decided.
    """

    flip: bool
    delay: float
    gain_db: float
    confidence: float | None


@dataclass(frozen=True)
class Blending:
    """How a blend adds up as it is set: its correlation, its bands, and what would be best; None where it is silent."""

    correlation: float | None
    bands: tuple[BandLevel, ...]
    best: BestSum | None


def measure_blending(
    read: Read, frames: int, rate: int, share: float, delay: float, *, flip: bool, late: Lateness
) -> Blending:
    """Of the two channels that `read` gives, with this share of the right, which goes later by `delay` samples. `late`
    is how late the right is as it was recorded.
    """
    powers, cross, hertz = _spectra(read, frames, rate)
    weighted = (powers[0] * (1 - share) ** 2, powers[1] * share**2, cross * share * (1 - share))
    turns = np.asarray(-2j * np.pi * hertz / rate, np.complex128)
    set_cross = (-1 if flip else 1) * (weighted[2] * np.exp(turns * delay)).real
    total = weighted[0] + weighted[1]
    bands = tuple(
        BandLevel(middle, _level(set_cross[part].sum(), total[part].sum()))
        for middle in OCTAVES
        if middle < rate / 2 / math.sqrt(2)
        for part in [(hertz >= middle / math.sqrt(2)) & (hertz < middle * math.sqrt(2))]
    )
    both = math.sqrt(float(weighted[0].sum() * weighted[1].sum()))
    correlation = round(float(set_cross.sum()) / both, 3) if both > 0 else None
    low = (hertz >= LOW_END[0]) & (hertz <= LOW_END[1])
    best = _best(_LowEnd(weighted[2][low], total[low], turns[low], set_cross[low]), rate, late)
    return Blending(correlation, bands, best)


def _spectra(read: Read, frames: int, rate: int) -> tuple[Real, Complex, Real]:
    """Powers (2, lines), cross-power (lines,) and frequencies (lines,), over windows spread evenly over the clip."""
    size = choose_window_size(WINDOW_SECONDS, rate, frames)
    powers, cross = np.zeros((2, size // 2 + 1)), np.zeros(size // 2 + 1, np.complex128)
    window = hann(size)[:, None]
    for start in space_evenly(frames, size, MAX_WINDOWS):
        padded = np.zeros((size, 2))
        count = min(size, frames - start)
        padded[:count] = read(start, count)
        left, right = scipy.fft.rfft(padded * window, axis=0).T
        powers += np.abs([left, right]) ** 2
        cross += right * np.conj(left)
    return powers, cross, np.arange(size // 2 + 1) * rate / size


def _level(cross: float, powers: float) -> float | None:
    if powers <= 0:
        return None
    return round(max(MIN_DB, float(_decibels(np.array(2 * cross / powers)))), 1)


@dataclass(frozen=True)
class _LowEnd:
    """The lines of the low end: what both channels share, what each has by itself, by how much a delay of one sample
    turns them, and what is shared as it is set.
    """

    cross: Complex
    apart: Real
    turns: Complex
    now: Real

    def levels(self, delays: Real) -> Real:
        """The level of the sum in dB, (2, delays): as it is, and with the right inverted."""
        sums = (np.exp(np.outer(delays, self.turns)) @ self.cross).real
        return _decibels(2 * np.stack([sums, -sums]) / self.apart.sum())


def _best(low: _LowEnd, rate: int, late: Lateness) -> BestSum | None:
    if low.apart.sum() <= 0:
        return None
    present = float(_decibels(np.array(2 * low.now.sum() / low.apart.sum())))
    if late.samples is not None:
        delay = -_to_a_quarter(late.samples)
        level = low.levels(np.array([delay]))[int(late.inverted), 0]
        return BestSum(late.inverted, delay, round(float(level) - present, 1), late.confidence)
    reach = round(REACH * rate * FINER)
    delays = np.arange(-reach, reach + 1) / FINER
    levels = low.levels(delays)
    as_good = np.argwhere(levels >= levels.max() - AS_GOOD)
    polarity, at = min(as_good.tolist(), key=lambda place: (abs(delays[place[1]]), place[0]))
    return BestSum(bool(polarity), float(delays[at]), round(float(levels[polarity, at]) - present, 1), None)


def _to_a_quarter(samples: float) -> float:
    """A delay as it is set: to the whole sample where that is as good, since such a delay changes no sample."""
    whole_samples = round(samples)
    return float(whole_samples if abs(samples - whole_samples) <= WHOLE_WITHIN else round(samples * FINER) / FINER)


def _decibels(more: Real) -> Real:
    return 10 * np.log10(np.maximum(1e-12, 1 + more))
