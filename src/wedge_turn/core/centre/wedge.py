"""A wedge of the stereo field, in a band of frequencies, taken apart from the rest.

Short-time Fourier transform with a square-root Hann window for analysis and synthesis; frames at absolute multiples of
the hop. With A = |L|², B = |R|² and C = L·R*, each averaged over three frames,

    c = Re C · (2 − Re C/|C|) where Re C > 0, else Re C
    u = √((A + B − 2c) / (2(A + B)))       0 equal sides, 0.707 unrelated, 1 opposite
    g = max(0, 1 − 2q·(u/o)²)^q                o opening, q strength: 0.5 deep … 3 clean
    k = clip(0.6·(A − B)/(A + B) / (2u² + 0.02), −1, 1)
    M = ((1 − k)·L + (1 + k)·R)/2              what both make together: where they lean, of the quieter one
    centre = d·b(f)·g·(⅞·(L, R) + ⅛·(M, M))    d depth, b the band's edges
    sides = x − centre

so that sides + centre is the original. c lies between what agrees in phase, Re C, and what goes together in whatever
phase, |C|: a room turns the phase of a note differently in each ear. For a position other than the middle the plane is
turned so that the chosen direction becomes the middle, and turned back. Panning index and similarity: Avendano and Jot,
J. Audio Eng. Soc. 52 (2004); azimuth discrimination: Barry, Lawlor and Coyle, DAFx 2004 (both from memory). Drums are
told by medians along time and along frequency (Fitzgerald, DAFx 2010), and left where they are.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy.fft
from numpy.typing import NDArray

from wedge_turn.core.audio.pcm import Block
from wedge_turn.core.centre import kernels, learned
from wedge_turn.core.centre.bands import edges
from wedge_turn.core.centre.pages import PAGE
from wedge_turn.core.windows import hann

Read = Callable[[int, int], Block]
_SECONDS: Final = 0.0874  # 4096 samples at 44.1 and 48 kHz
OVERLAP: Final = 2  # hops in a window
MEDIAN: Final = 17  # frames, and lines
USUAL: Final = 1.5  # strength


@dataclass(frozen=True)
class Shape:
    """Which wedge: position −1 … 1, opening, strength q, depth 0 … 1, and the band in Hz."""

    position: float = 0.0
    opening: float = 1.0
    strength: float = 1.5
    depth: float = 1.0
    low: float = 180.0
    high: float = 10_000.0
    protect_drums: bool = False
    learned: bool = False  # told by the learned mask instead of the formula


def window_size(rate: int) -> int:
    """Samples of a frame: a power of two, the longer the higher the rate."""
    return int(2 ** round(math.log2(rate * _SECONDS)))


class Wedge:
    """Pages of sides and centre, both stereo."""

    def __init__(self, read: Read, rate: int, shape: Shape) -> None:
        self._read = read
        self._shape = shape
        self._size = window_size(rate)
        self._hop = self._size // OVERLAP
        self._window = np.sqrt(hann(self._size)).astype(np.float32)
        # Copies of the window's square a hop apart add up to OVERLAP / 2.
        self._synthesis = (self._window * np.float32(2 / OVERLAP)).astype(np.float32)
        self._band = edges(rate, self._size // 2 + 1, shape.low, shape.high)
        self._angle = shape.position * np.pi / 4
        self._step_hz = rate / self._size
        # Frames on either side of the page: one for the averages, more for the mask, most for the medians.
        self._margin = MEDIAN // 2 if shape.protect_drums else learned.MARGIN if shape.learned else 1

    def page(self, start: int) -> tuple[Block, Block]:
        """Frames [start, start + PAGE) of the sides and of the centre."""
        size, hop = self._size, self._hop
        # The frames that reach into the page, and those on either side.
        first = math.floor((start - size) / hop) + 1
        last = math.floor((start + PAGE - 1) / hop)
        count = last - first + 1
        begin = (first - self._margin) * hop
        heard = self._read(begin, (count + 2 * self._margin - 1) * hop + size)
        here = heard[start - begin : start - begin + PAGE]
        left, right = self._centre(self._turned(heard), count, start - first * hop)
        centre = np.empty((PAGE, 2))
        cos, sin = math.cos(self._angle), math.sin(self._angle)
        centre[:, 0] = left if sin == 0 else cos * left - sin * right
        centre[:, 1] = right if sin == 0 else sin * left + cos * right
        return here - centre, centre

    def _turned(self, heard: Block) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """Left and right of the plane turned so that the chosen direction stands in the middle."""
        if self._angle == 0:
            return heard[:, 0].astype(np.float32), heard[:, 1].astype(np.float32)
        cos, sin = math.cos(self._angle), math.sin(self._angle)
        left, right = heard[:, 0], heard[:, 1]
        return (cos * left + sin * right).astype(np.float32), (cos * right - sin * left).astype(np.float32)

    def _centre(
        self, turned: tuple[NDArray[np.float32], NDArray[np.float32]], count: int, first: int
    ) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        margin = self._margin
        frames = np.empty((count + 2 * margin, self._size), np.float32)
        spectra = []
        for channel in turned:
            kernels.windowed_frames(channel, self._hop, self._window, frames)
            spectra.append(scipy.fft.rfft(frames, axis=1))
        left, right = spectra
        both, lean, apart, across = (np.empty(left.shape, np.float32) for _ in range(4))
        kernels.energies(left, right, both, lean, apart, across)
        shape, here = self._shape, slice(margin, margin + count)
        if shape.learned:
            gains = self._told(both, lean, apart, across)[here]
            parts = [gains * left[here], gains * right[here]]
        else:
            near = slice(margin - 1, margin + count + 1)
            parts = [np.empty((count, left.shape[1]), np.complex64) for _ in range(2)]
            kernels.extract(
                left[near],
                right[near],
                both[near],
                lean[near],
                apart[near],
                across[near],
                self._band,
                shape.strength,
                shape.opening,
                shape.depth,
                parts[0],
                parts[1],
            )
        stays = 1 - struck(both)[here] if shape.protect_drums else None
        centres = []
        for part in parts:
            taken = part if stays is None else part * stays
            out = np.zeros(PAGE, np.float32)
            kernels.overlap_add(scipy.fft.irfft(taken, self._size, axis=1), self._hop, self._synthesis, first, out)
            centres.append(out.astype(np.float64))
        return centres[0], centres[1]

    def _told(
        self,
        both: NDArray[np.float32],
        lean: NDArray[np.float32],
        apart: NDArray[np.float32],
        across: NDArray[np.float32],
    ) -> NDArray[np.float32]:
        """The learned mask of all lines within the band, (frames, lines); strength and depth as in the formula."""
        shape, within = self._shape, np.flatnonzero(self._band)
        mask = np.zeros(both.shape, np.float32)
        if within.size:
            lines = slice(int(within[0]), int(within[-1]) + 1)
            near = slice(0, lines.stop + learned.REACH)
            seen = learned.features(
                both[:, near], lean[:, near], apart[:, near], across[:, near], shape.opening, self._step_hz
            )[:, :, lines]
            gains = learned.gains(seen, learned.load_layers()) ** np.float32(shape.strength / USUAL)
            mask[:, lines] = gains * self._band[lines] * np.float32(shape.depth)
        return mask


def struck(both: NDArray[np.float32]) -> NDArray[np.float32]:
    """How much of each line of each frame is a stroke, 0 … 1, by its energy, (frames, lines).

    A held note is a ridge along time, a stroke one along frequency; each is what a median along its own way leaves.
    """
    loud = np.sqrt(both)
    held = scipy.ndimage.median_filter(loud, (MEDIAN, 1)) ** 2
    hit = scipy.ndimage.median_filter(loud, (1, MEDIAN)) ** 2
    share: NDArray[np.float32] = (hit / (hit + held + np.float32(1e-20))).astype(np.float32)
    return share
