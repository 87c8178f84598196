"""Spectra of two channels together: their delay, coherence, directions, and correlation by band.

Delay: the lag of the highest peak of the generalised cross-correlation with phase transform (Knapp and Carter, IEEE
TASSP 24, 1976), averaged over frames and read in half samples; its confidence is the height of that peak, 1 for one
delayed sound alone, and a trough says that one of the two is inverted.
Spectra are taken over at most `MOST_FRAMES` frames, evenly over the signal.
"""

import math
from itertools import pairwise
from typing import Final

import numpy as np
import scipy

from wedge_turn.core.audio import Block
from wedge_turn.core.measure import kernels
from wedge_turn.core.measure.measures import BandCorrelation, Delay
from wedge_turn.core.windows import hann

BLOCK: Final = 65_536  # frames of a block that is taken in
MAX_FRAMES: Final = 600
SECTORS: Final = 36
MAX_DELAY: Final = 0.05  # seconds: sound goes 17 m
_FRAME_SECONDS: Final = 0.17
_LOWEST: Final = 60.0  # Hz: below, channels agree whatever the microphones did
BANDS: Final = (20, 120, 250, 500, 1_000, 2_000, 4_000, 8_000, 16_000)  # Hz, the edges


class CrossSpectra:
    """Cross-spectra of two channels, over frames that lie evenly in the signal."""

    def __init__(self, rate: int, frames: int) -> None:
        self.rate = rate
        self.size = min(BLOCK, 2 ** max(8, round(math.log2(rate * _FRAME_SECONDS))))
        self.every = max(1, math.ceil(frames / self.size / MAX_FRAMES))
        self.every_direction = min(8, max(1, frames // self.size // self.every // 200))
        self.window = hann(self.size).astype(np.float32)
        self.first = max(1, math.ceil(_LOWEST * self.size / rate))
        bins = self.size // 2 + 1
        self.powers = np.zeros((2, bins))
        self.cross = np.zeros(bins, np.complex128)
        self.whitened = np.zeros(bins, np.complex128)
        self.field = np.zeros(SECTORS)
        self.count = 0

    def take(self, block: Block, start: int) -> None:
        """`start` is a multiple of BLOCK, which holds whole frames."""
        first = start // self.size
        chosen = [n for n in range(len(block) // self.size) if (first + n) % self.every == 0]
        if not chosen and start == 0 and len(block) < self.size:
            block = np.vstack([block, np.zeros((self.size - len(block), 2))])  # shorter than one frame
            chosen = [0]
        sounding = [f for n in chosen if (f := block[n * self.size : (n + 1) * self.size]).any()]
        if not sounding:
            return
        sides = [np.stack([frame[:, side] for frame in sounding]).astype(np.float32) for side in (0, 1)]
        left, right = (scipy.fft.rfft(side * self.window, axis=1) for side in sides)
        kernels.cross_spectrum(left, right, self.powers, self.cross, self.whitened)
        left, right = (np.ascontiguousarray(side[:: self.every_direction]) for side in (left, right))
        kernels.directions(left, right, self.first, self.field)
        self.count += len(sounding)

    def delay(self) -> Delay:
        """The lag of channel 2 behind channel 1."""
        if not self.whitened.any():
            return Delay(samples=0, inverted=False, confidence=0, runner_up=0)
        whitened = self.whitened / self.count
        # What lies far below the loudest is noise of the room or of the last bit, and says nothing.
        power = self.powers.sum(axis=0)
        audible = power > power[self.first :].max() * 1e-6
        audible[: self.first] = False
        audible[int(0.45 * self.size) :] = False
        whitened = np.where(audible, whitened, 0)
        # L·R* of a right side d samples late turns by +d: its transform has the peak at lag −d. In half samples.
        lags = scipy.fft.irfft(np.conj(whitened), 2 * self.size) * self.size / max(1, int(audible.sum()))
        reach = 2 * min(self.size // 2 - 1, int(MAX_DELAY * self.rate))
        near = np.concatenate([lags[-reach:], lags[: reach + 1]])
        best = int(np.argmax(np.abs(near)))
        away = np.abs(np.arange(near.size) - best) > 2 * max(3, self.rate // 8_000)
        return Delay(
            samples=(best - reach) / 2,
            inverted=bool(near[best] < 0),
            confidence=round(float(abs(near[best])), 4),
            runner_up=round(float(np.abs(near[away]).max(initial=0.0)), 4),
        )

    def bands(self) -> list[BandCorrelation]:
        """The correlation of the bands in which both channels sound."""
        hertz = np.arange(self.cross.size) * self.rate / self.size
        bands, total = [], float(self.powers.sum())
        for low, high in pairwise(BANDS):
            inside = (hertz >= low) & (hertz < high)
            left, right = self.powers[:, inside].sum(axis=1).tolist()
            if left * right > 0:
                together = float(self.cross[inside].real.sum()) / math.sqrt(left * right)
                level = 10 * math.log10((left + right) / total)
                bands.append(
                    BandCorrelation(low_hz=low, high_hz=high, correlation=round(together, 3), level_db=round(level, 1))
                )
        return bands

    def coherence(self) -> float:
        """|Σ L·R*|² / (Σ|L|² Σ|R|²) of each bin, averaged with the bins' energy as weight."""
        product = self.powers[0] * self.powers[1]
        if not product.any():
            return 0.0
        each = np.divide(np.abs(self.cross) ** 2, product, out=np.zeros_like(product), where=product > 0)
        return float(np.average(each, weights=self.powers.sum(axis=0)))
