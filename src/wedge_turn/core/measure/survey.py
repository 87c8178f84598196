"""Everything that is measured about a signal, in one pass and constant memory (but 40 bytes a channel and 100 ms).

Levels are relative to full scale. RMS follows AES17: a full-scale sine reads 0 dBFS, 3.01 dB above the root of its
mean square; the crest factor is peak over that root itself. Of two channels, with a mean over all frames,

    correlation      r = ⟨l·r⟩ / √(⟨l²⟩⟨r²⟩)           Pearson's about zero mean
    balance          ⟨l²⟩ over ⟨r²⟩ in dB                positive where left is louder
    mono-fold loss   ⟨l² + r²⟩/2 over ⟨((l + r)/2)²⟩     0 dB of equal sides, 3.01 dB of unrelated ones
    side to mid      ⟨(l − r)²⟩ over ⟨(l + r)²⟩
    difference       ⟨(l − r)²⟩/2 over ⟨l² + r²⟩/2       how far down the L/R difference is
    fold             RMS of k·(l + r) for each law of summing
"""

import math
from collections.abc import Callable
from typing import Final

import numpy as np
from numpy.typing import NDArray
from xxhash import xxh3_128

from wedge_turn.core.audio import Block
from wedge_turn.core.clips import Signal
from wedge_turn.core.measure import kernels
from wedge_turn.core.measure.bandwidth import Spectrum
from wedge_turn.core.measure.cross_spectra import BLOCK, CrossSpectra
from wedge_turn.core.measure.hum import Hum
from wedge_turn.core.measure.kernels import (
    COLUMNS,
    ENERGY_A,
    MID_ENERGY,
    PEAK_A,
    PEAK_B,
    SEGMENT,
    SIDE_ENERGY,
    SUM_A,
    TAPS,
    WEIGHTED_A,
    Floats,
)
from wedge_turn.core.measure.level_steps import find_level_steps
from wedge_turn.core.measure.loudness import channel_weights, integrate_loudness, interpolators, k_weighting
from wedge_turn.core.measure.measures import ChannelLevels, Measures, StereoMeasures
from wedge_turn.core.measure.polarity_change import PolarityChange, find_polarity_change
from wedge_turn.core.turns import LAWS

# Goes up with every change of what is measured: measures of another version are made again.
SURVEY_VERSION: Final = 7
MAX_BITS: Final = 32
USUAL_SHARE: Final = 0.95  # of the stretches of 100 ms are no louder than what is called usual
CLIPPED_RUN: Final = 4  # samples in a row at full scale: fewer are what a normalised peak of bass looks like
AES17: Final = 20 * math.log10(math.sqrt(2))


def measure_signal(signal: Signal, watch: Callable[[int], None] = lambda _: None, damaged: int = 0) -> Measures:
    """Measure a signal. `watch` is told how many frames more are done; `damaged` is passed on."""
    pass_over = _Accumulator(signal)
    for at in range(0, signal.form.frames, BLOCK):
        frames = min(BLOCK, signal.form.frames - at)
        pass_over.take(np.ascontiguousarray(signal.read(at, frames)), at)
        watch(frames)
    return pass_over.measures(damaged)


class _Accumulator:
    """What is added up while a signal goes by."""

    def __init__(self, signal: Signal) -> None:
        form = signal.form
        self.form = form
        self.channels = form.channels
        # Two channels at a time; an odd last one goes with itself.
        self.pairs = [(c, min(c + 1, self.channels - 1)) for c in range(0, self.channels, 2)]
        self.step = max(1, round(form.rate / 10))
        self.left = self.step
        self.weighting = k_weighting(form.rate)
        self.states = [np.zeros((2, 4)) for _ in self.pairs]
        # Of each pair, a row for each stretch of 100 ms; `done` of them are complete.
        self.rows = [np.zeros((form.frames // self.step + 2, COLUMNS)) for _ in self.pairs]
        self.done = 0
        stored = form.stored
        steps = 2.0 ** (stored.bits - 1)
        self.full_scale = (-1.0, 1.0) if stored.is_float else (-1.0, (steps - 1) / steps)
        self.runs = np.zeros((self.channels, 4), np.int64)
        self.phases = interpolators(form.rate)
        self.outer = np.abs(np.delete(self.phases, np.s_[8:16], axis=1)).sum(axis=1)
        self.reach = float(np.abs(self.phases).sum(axis=1).max(initial=1.0))
        self.tails = np.zeros((self.channels, TAPS - 1), np.float32)
        self.wave = np.empty(SEGMENT, np.float32)
        self.between = np.zeros(self.channels)
        self.peaks = np.zeros(self.channels)
        self.spectra = CrossSpectra(form.rate, form.frames) if self.channels == 2 else None
        self.spectrum = Spectrum(form.rate, form.frames)
        self.hum = Hum(form.rate, form.frames, self.channels, BLOCK)
        # Binary places behind the point that the samples need; looked for until there are as many as can be.
        self.places = 0
        self.samples = xxh3_128()
        self.most_places = MAX_BITS if stored.is_float else stored.bits - 1

    def take(self, block: Block, start: int) -> None:
        self.samples.update(block.data)
        if self.places < self.most_places:
            self.places = kernels.binary_places(block.reshape(-1), self.places, self.most_places)
        done = 0
        for n, (a, b) in enumerate(self.pairs):
            rows = self.rows[n][self.done :]
            done = kernels.two_columns(block, a, b, self.weighting, self.states[n], self.left, self.step, rows)
            for c, column in ((a, PEAK_A), (b, PEAK_B)):
                self.peaks[c] = max(self.peaks[c], float(rows[: done + 1, column].max()))
        self.done += done
        self.left = self.step - (self.step - self.left + len(block)) % self.step
        low, high = self.full_scale
        behind = np.empty(len(block) + TAPS - 1, np.float32)
        for c in range(self.channels):
            if self.peaks[c] >= high:
                kernels.full_scale_runs(block, c, low, high, CLIPPED_RUN, self.runs[c])
            if len(self.phases):
                kernels.column_after(self.tails[c], block, c, behind)
                highest = max(self.between[c], self.peaks[c])
                self.between[c] = kernels.highest_between(
                    behind, self.phases, self.outer, self.reach, highest, self.wave
                )
        self.spectrum.take(block, start)
        self.hum.take(block, start)
        if self.spectra is not None:
            self.spectra.take(block, start)

    def measures(self, damaged: int) -> Measures:
        parts = [rows[: self.done + 1] for rows in self.rows]
        lengths = np.full(len(parts[0]), float(self.step))
        lengths[-1] = self.form.frames - (len(lengths) - 1) * self.step
        energy, weighted, sums, peaks = (self._by_channel(parts, n) for n in (ENERGY_A, WEIGHTED_A, SUM_A, PEAK_A))
        frames = self.form.frames
        squares = energy.sum(axis=0) / frames
        whole_steps = lengths >= self.step if len(lengths) > 4 else lengths > 0
        usual = np.quantile(energy[whole_steps] / lengths[whole_steps, None], USUAL_SHARE, axis=0)
        loud = weighted[whole_steps] / lengths[whole_steps, None]
        means = sums.sum(axis=0) / frames
        steady = _steady(sums[whole_steps] / lengths[whole_steps, None])
        ends = np.zeros(self.channels)
        if len(self.phases):
            # What lies between the last samples and the silence behind them.
            silence = np.zeros((TAPS, self.channels))
            column = np.empty(2 * TAPS - 1, np.float32)
            for c in range(self.channels):
                kernels.column_after(self.tails[c], silence, c, column)
                ends[c] = kernels.highest_between(
                    column, self.phases, self.outer, self.reach, self.between[c], self.wave
                )
        highest = np.maximum(np.maximum(ends, self.between), self.peaks)
        alone, hum = np.ones(1), self.hum.find()
        channels = [
            _levels(
                self.peaks[c],
                highest[c],
                squares[c],
                integrate_loudness(loud[:, [c]], alone),
                means[c],
                steady[c],
                self.runs[c],
                peaks[:, c].argmax() * self.step / self.form.rate,
                usual[c],
                hum[c],
            )
            for c in range(self.channels)
        ]
        levels = _levels(
            self.peaks.max(),
            highest.max(),
            float(squares.mean()),
            integrate_loudness(loud, channel_weights(self.channels, self.form.speakers)),
            float(means[np.argmax(np.abs(means))]),
            float(steady[np.argmax(np.abs(steady))]),
            self.runs.sum(axis=0),
            peaks.max(axis=1).argmax() * self.step / self.form.rate,
            float(usual.max()),
            None,
        )
        sides = None
        if self.spectra is not None:
            pair = parts[0]
            mid, side = pair[:, MID_ENERGY].sum() / frames, pair[:, SIDE_ENERGY].sum() / frames
            cross, step = (pair[:, MID_ENERGY] - pair[:, SIDE_ENERGY]) / 4, self.step / self.form.rate
            change = find_polarity_change(cross, energy[:, 0], energy[:, 1], step)
            sides = _sides(squares, mid, side, energy[whole_steps], self.spectra, change)
        return Measures(
            whole=levels,
            channels=channels,
            sides=sides,
            damaged=damaged,
            bits_used=self._bits_used(),
            sharp_end=self.spectrum.sharp_end(),
            level_steps=find_level_steps(
                (energy[whole_steps] / lengths[whole_steps, None]).mean(axis=1), self.step / self.form.rate
            ),
            samples=self.samples.hexdigest(),
        )

    def _bits_used(self) -> int | None:
        """The sign, what reaches above full scale, and the places behind the point."""
        above = max(0, math.frexp(float(self.peaks.max()))[1]) if self.peaks.max() > 1 else 0
        bits = 1 + above + self.places
        return bits if bits <= MAX_BITS else None

    def _by_channel(self, parts: list[Floats], first: int) -> Floats:
        columns = np.empty((len(parts[0]), self.channels))
        for (a, b), part in zip(self.pairs, parts, strict=True):
            columns[:, a], columns[:, b] = part[:, first], part[:, first + 1]
        return columns


def _sides(
    squares: Floats, mid: float, side: float, energy: Floats, spectra: CrossSpectra, change: PolarityChange | None
) -> StereoMeasures:
    left, right = float(squares[0]), float(squares[1])
    both, cross = left + right, (mid - side) / 4
    field = spectra.field / spectra.field.sum() if spectra.field.any() else spectra.field
    return StereoMeasures(
        identical=side == 0,
        correlation=_rounded(max(-1.0, min(1.0, cross / math.sqrt(left * right))), 4) if left * right > 0 else None,
        balance_db=_ratio(left, right),
        mono_fold_loss_db=_ratio(both / 2, mid / 4),
        side_to_mid_db=_ratio(side, mid),
        difference_db=_ratio(side / 2, both / 2),
        coherence=round(spectra.coherence(), 4),
        envelope_correlation=_envelopes(energy),
        delay=spectra.delay(),
        bands=spectra.bands(),
        field=[round(float(share), 5) for share in field],
        fold_dbfs={law: _square_dbfs(factor**2 * mid) for law, factor in LAWS.items()},
        polarity_change=change,
    )


def _steady(means: Floats) -> Floats:
    """The median of the means of many stretches, (stretches, channels), where it outweighs their spread; else 0.

    A note of bass makes the means of short stretches large as well, but not all alike.
    """
    if len(means) < 10:
        return np.zeros(means.shape[1])
    low, middle, high = np.quantile(means, [0.1, 0.5, 0.9], axis=0)
    settled: Floats = np.where(high - low < np.abs(middle), middle, 0.0)
    return settled


def _envelopes(energy: Floats) -> float | None:
    """Correlation of the levels of two channels along time, in dB over stretches of 100 ms in which either sounds."""
    loudest = energy.max(initial=0.0)
    audible = energy[energy.max(axis=1) > loudest * 1e-5] if loudest > 0 else energy[:0]
    if len(audible) < 10:
        return None
    levels = 10 * np.log10(np.maximum(audible, loudest * 1e-6))
    if (levels.std(axis=0) < 1e-9).any():
        return None
    return _rounded(float(np.corrcoef(levels.T)[0, 1]), 4)


def _levels(
    peak: float,
    true_peak: float,
    square: float,
    loudness: float | None,
    dc: float,
    steady_dc: float,
    runs: NDArray[np.int64],
    peak_seconds: float,
    usual: float,
    hum_hz: int | None,
) -> ChannelLevels:
    return ChannelLevels(
        peak_dbfs=_decibels(peak),
        true_peak_dbtp=_decibels(true_peak),
        rms_dbfs=_square_dbfs(square),
        loudness_lufs=None if loudness is None else _rounded(loudness),
        crest_db=None if square <= 0 else _rounded(20 * math.log10(peak) - 10 * math.log10(square)),
        dc=float(f"{dc:.3g}"),
        steady_dc=float(f"{steady_dc:.6g}"),
        clipped_runs=int(runs[2]),
        clipped_samples=int(runs[3]),
        peak_seconds=round(float(peak_seconds), 1) if peak > 0 else None,
        usual_dbfs=_square_dbfs(float(usual)),
        hum_hz=hum_hz,
    )


def _square_dbfs(square: float) -> float | None:
    """A mean square as RMS in dBFS by AES17."""
    return _rounded(10 * math.log10(square) + AES17) if square > 0 else None


def _decibels(factor: float) -> float | None:
    return _rounded(20 * math.log10(factor)) if factor > 0 else None


def _ratio(above: float, below: float) -> float | None:
    return _rounded(10 * math.log10(above / below)) if above > 0 and below > 0 else None


def _rounded(value: float, places: int = 3) -> float:
    return round(float(value), places) + 0.0  # never −0
