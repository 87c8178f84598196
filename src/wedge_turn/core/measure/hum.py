"""Channels that hold mains hum and nothing else: 50 or 60 Hz and harmonics of it.

Mains keeps its frequency within a fifth of a hertz (EN 50160: ±1 % in all, far less in a large grid), so a note of bass
is told from it: G1 is 49.0 Hz, B1 61.7 Hz. Looked at in pieces of some seconds, evenly over the signal, and called hum
where in each of them nearly all of the energy lies on the harmonics. That a channel holds hum alone is common practice
to look for, no source.
"""

from typing import Final

import numpy as np
import scipy
from numpy.typing import NDArray

from wedge_turn.core.audio import Block
from wedge_turn.core.windows import hann

MAINS: Final = (50, 60)  # Hz
OFF_BY: Final = 0.35  # Hz
HARMONICS: Final = 30
NEAR: Final = 4.0  # Hz around a harmonic: the window's main lobe
SHARE: Final = 0.9  # of the energy, in all pieces together
SHARE_OF_EACH: Final = 0.7
MAX_PIECES: Final = 12
PIECE_SECONDS: Final = 2.5
MIN_SECONDS: Final = 1.0
_RATE: Final = 6_000  # about: what lies above half of it is no hum


class Hum:
    """The low end of every channel, in pieces that lie evenly in the signal."""

    def __init__(self, rate: int, frames: int, channels: int, block: int) -> None:
        self.factor = max(1, rate // _RATE)
        self.rate = rate / self.factor
        self.block = block
        self.together = max(1, round(PIECE_SECONDS * rate / block))
        self.every = max(1, frames // (block * self.together) // MAX_PIECES)
        self.pieces: list[list[NDArray[np.float32]]] = [[] for _ in range(channels)]
        self.energy = np.zeros((0, channels))
        self._low: list[Block] = []
        self._squares = np.zeros(channels)

    def take(self, block: Block, start: int) -> None:
        """`start` is a multiple of the block's size."""
        piece, place = divmod(start // self.block, self.together)
        if piece % self.every:
            return
        # Each frame of the low end is the mean of some: what that lets through from above counts as no hum.
        even = block[: len(block) // self.factor * self.factor]
        self._low.append(even.reshape(-1, self.factor, block.shape[1]).mean(axis=1))
        self._squares += (even**2).sum(axis=0) / self.factor
        if place == self.together - 1:
            self._finish()

    def find(self) -> list[int | None]:
        """For each channel 50 or 60 where it holds hum of that frequency alone, else None."""
        self._finish()
        return [self._of(channel) for channel in range(len(self.pieces))]

    def _finish(self) -> None:
        """The spectrum of what is together so far; what is too short to tell one frequency from another is dropped."""
        low, squares = np.concatenate(self._low) if self._low else np.zeros((0, 1)), self._squares
        self._low, self._squares = [], np.zeros(len(self.pieces))
        if len(low) < MIN_SECONDS * self.rate:
            return
        window = hann(len(low))
        power = np.abs(scipy.fft.rfft(low * window[:, None], axis=0)) ** 2 * 2 / len(low)
        self.energy = np.vstack([self.energy, squares * (window**2).mean()])
        for channel, pieces in enumerate(self.pieces):
            pieces.append(power[:, channel].astype(np.float32))

    def _of(self, channel: int) -> int | None:
        pieces, energy = self.pieces[channel], self.energy[:, channel]
        sounding = [n for n, total in enumerate(energy) if total > energy.max(initial=0.0) * 1e-3]
        if not sounding:
            return None
        for mains in MAINS:
            on = np.array([_on_harmonics(pieces[n], mains, self.rate) for n in sounding])
            shares = on / np.maximum(energy[sounding], 1e-30)
            if on.sum() >= SHARE * energy[sounding].sum() and shares.min() >= SHARE_OF_EACH:
                return mains
        return None


def _on_harmonics(power: NDArray[np.float32], mains: int, rate: float) -> float:
    """The energy of a spectrum on the harmonics of a frequency near `mains`; 0 where its strongest is another."""
    hertz = np.arange(power.size) * rate / (2 * (power.size - 1))
    strongest = max(range(1, 4), key=lambda n: power[np.abs(hertz - n * mains) <= NEAR].max(initial=0.0))
    near = np.flatnonzero(np.abs(hertz - strongest * mains) <= NEAR)
    peak = int(near[np.argmax(power[near])])
    exact = _peak_between(power, peak) * hertz[1] / strongest
    if abs(exact - mains) > OFF_BY:
        return 0.0
    on = np.zeros(power.size, np.bool_)
    for n in range(1, HARMONICS + 1):
        on |= np.abs(hertz - n * exact) <= NEAR
    return float(power[on].sum())


def _peak_between(power: NDArray[np.float32], at: int) -> float:
    """The place of a peak, by a parabola through the logarithms of three lines."""
    if not 0 < at < power.size - 1:
        return float(at)
    below, top, above = np.log(np.maximum(power[at - 1 : at + 2].astype(np.float64), 1e-30))
    bend = below - 2 * top + above
    return at + (0.5 * float(below - above) / float(bend) if bend else 0.0)
