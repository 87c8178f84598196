"""How late the other channels of a clip are behind the first, for an align to mend.

The generalised cross-correlation with phase transform [1] of each channel with the first, averaged over windows of
some three seconds; between its lags it is read as the sinc that it is made of. `confidence` is the height of its peak,
1 for one delayed sound alone. Where it is low, or another one is nearly as high, no delay is given: it would be
a guess.

Recorders whose clocks differ drift apart: the delay is a line along time, which is laid through those of the single
windows (the median of their slopes [2]) and given in parts per million. Then no single delay lines up all of the clip.

[1] C. H. Knapp and G. C. Carter, The generalized correlation method for estimation of time delay, IEEE Transactions on
Acoustics, Speech, and Signal Processing 24 (4), 1976.
[2] P. K. Sen, Estimates of the regression coefficient based on Kendall's tau, Journal of the American Statistical
Association 63, 1968.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy
from numpy.typing import NDArray

from wedge_turn.core.audio import Block
from wedge_turn.core.windows import choose_window_size, hann, space_evenly

WINDOW_SECONDS: Final = 2.7
MAX_WINDOWS: Final = 24  # evenly over the clip
REACH: Final = 1.0  # seconds
SURE: Final = 0.2
OVER_NEXT: Final = 1.5
FINER: Final = 32  # places to a sample
ROUGHLY: Final = 4  # of single windows
CURVE: Final = 240  # lags of the curve on either side of its peak
MIN_DRIFT: Final = 0.5  # samples from start to end; less is no more than the measure is good to
MIN_WINDOWS_FOR_DRIFT: Final = 4  # windows
OFF_LINE: Final = 1.0  # samples, by the median
OVER_SPREAD: Final = 4.0  # times as far as the windows are off the line
HEARD_BELOW: Final = 1e-6  # of the loudest line's power, what lies lower is noise of the room or the last bit
MIN_HZ: Final = 50.0  # Hz
MAX_HZ: Final = 0.9  # of half the rate

Read = Callable[[int, int], Block]
Spectrum = NDArray[np.complex128]


@dataclass(frozen=True)
class Drift:
    """A delay that grows along the clip: in parts per million, and in samples at its start and its end."""

    ppm: float
    at_start: float
    at_end: float


@dataclass(frozen=True)
class Lateness:
    """How late a channel, counted from 1, is behind the first, in samples; None where no delay is sure, or it drifts.

    `curve` is the correlation by whole samples, from `curve_start` on. `inverted` says that its peak is a trough.
    """

    channel: int
    samples: float | None
    confidence: float
    runner_up: float
    inverted: bool
    drift: Drift | None
    curve_start: int
    curve: tuple[float, ...]


def measure_delays(read: Read, frames: int, channels: int, rate: int) -> list[Lateness]:
    """Of every channel but the first. `read` gives (frames, channels)."""
    size = choose_window_size(WINDOW_SECONDS, rate, frames)
    together = [_Cross(size, rate) for _ in range(channels)]
    places: list[list[tuple[int, float]]] = [[] for _ in range(channels)]
    window = hann(size)[:, None]
    for start in space_evenly(frames, size, MAX_WINDOWS):
        padded = np.zeros((size, channels))
        padded[: min(size, frames - start)] = read(start, min(size, frames - start))
        spectra = scipy.fft.rfft(padded * window, axis=0)
        for channel in range(1, channels):
            single = _Cross(size, rate)
            single.add(spectra[:, 0], spectra[:, channel])
            together[channel].include(single)
            if (peak := _peak(single)).sure:
                places[channel].append((start + size // 2, single.peak_near(peak.lag, ROUGHLY)))
    return [_of(n + 1, together[n], _drift(places[n], frames)) for n in range(1, channels)]


def _drift(places: list[tuple[int, float]], frames: int) -> Drift | None:
    """From the delays of single windows, each with the frame of its middle; None where they are no line that grows."""
    if len(places) < MIN_WINDOWS_FOR_DRIFT:
        return None
    at, late = np.array(places).T
    earlier, later = np.triu_indices(len(at), 1)
    slope = float(np.median((late[later] - late[earlier]) / (at[later] - at[earlier])))
    first = float(np.median(late - slope * at))
    off = float(np.median(np.abs(late - first - slope * at)))
    if off > OFF_LINE or abs(slope * frames) < max(MIN_DRIFT, OVER_SPREAD * off):
        return None
    return Drift(round(1e6 * slope, 2), round(first, 2), round(first + slope * frames, 2))


class _Cross:
    """The whitened cross-spectrum of two channels over windows."""

    def __init__(self, size: int, rate: int) -> None:
        self.size = size
        self.reach = min(size // 2 - 1, round(REACH * rate))
        self._whitened: Spectrum = np.zeros(size // 2 + 1, np.complex128)
        self._power = np.zeros(size // 2 + 1)
        self._first, self._last = round(MIN_HZ * size / rate), round(MAX_HZ * size / 2)
        self._windows = 0

    def add(self, first: Spectrum, other: Spectrum) -> None:
        cross = other * np.conj(first)
        magnitude = np.abs(cross)
        if not magnitude.any():
            return
        self._whitened += np.divide(cross, magnitude, out=np.zeros_like(cross), where=magnitude > 0)
        self._power += magnitude
        self._windows += 1

    @property
    def spectrum(self) -> tuple[Spectrum, int]:
        """The lines that are heard, averaged, and how many they are."""
        band = self._power[self._first : self._last]
        audible = np.zeros(self._power.size, np.bool_)
        audible[self._first : self._last] = band > band.max(initial=0.0) * HEARD_BELOW
        lines = self._whitened / max(1, self._windows)
        lines[~audible] = 0
        return lines, int(audible.sum())

    def include(self, other: "_Cross") -> None:
        """Add the windows of another."""
        self._whitened += other._whitened
        self._power += other._power
        self._windows += other._windows

    def lags(self) -> NDArray[np.float64]:
        """The correlation from −reach to +reach in half samples, ±1 at the most. By whole samples a delay that ends in
        a half would have a third of its peak between two of them.
        """
        spectrum, weight = self.spectrum
        correlation = scipy.fft.irfft(spectrum, 2 * self.size) * self.size / max(1, weight)
        near: NDArray[np.float64] = np.concatenate([correlation[-2 * self.reach :], correlation[: 2 * self.reach + 1]])
        return near

    def peak_near(self, lag: float, finer: int = FINER) -> float:
        """Where the correlation is highest within a sample of a lag, read at so many places to a sample and by a
        parabola between them.
        """
        spectrum, _ = self.spectrum
        lines = np.flatnonzero(spectrum)
        at = lag + np.arange(-finer, finer + 1) / finer
        turns = np.exp(2j * np.pi / self.size * np.outer(at, lines))
        values = np.abs((turns @ spectrum[lines]).real)
        best = int(np.clip(np.argmax(values), 1, len(at) - 2))
        below, top, above = values[best - 1 : best + 2]
        bend = below - 2 * top + above
        return float(at[best] + (0.5 * (below - above) / bend if bend else 0.0) / finer)


def _of(channel: int, cross: _Cross, drift: Drift | None) -> Lateness:
    best = _peak(cross)
    low = int(np.clip(round(best.lag) - CURVE + cross.reach, 0, max(0, 2 * (cross.reach - CURVE))))
    return Lateness(
        channel=channel,
        samples=round(cross.peak_near(best.lag), 3) if best.sure and drift is None else None,
        confidence=round(best.height, 3),
        runner_up=round(best.runner_up, 3),
        inverted=best.inverted,
        drift=drift,
        curve_start=low - cross.reach,
        curve=tuple(round(float(value), 4) for value in cross.lags()[::2][low : low + 2 * CURVE + 1]),
    )


@dataclass(frozen=True)
class _Peak:
    lag: float
    height: float
    runner_up: float
    inverted: bool

    @property
    def sure(self) -> bool:
        return self.height >= SURE and self.height >= OVER_NEXT * self.runner_up


def _peak(cross: _Cross) -> _Peak:
    lags = cross.lags()
    best = int(np.argmax(np.abs(lags)))
    away = np.abs(np.arange(lags.size) - best) > 2 * max(3, cross.size // 32_768)
    return _Peak(
        best / 2 - cross.reach,
        float(abs(lags[best])),
        float(np.abs(lags[away]).max(initial=0.0)),
        bool(lags[best] < 0),
    )
