"""What is centre, taken apart from the rest by a mask of the spectrum: `wedge` or `voice` says which.

Short-time Fourier transform with a square-root Hann window for analysis and synthesis; frames at absolute multiples of
the hop. The sides are the original less the centre, so that both add up to it. For a position other than the middle the
plane is turned so that the chosen direction becomes the middle, and turned back.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy
from numpy.typing import NDArray

from wedge_turn.core.audio import Block
from wedge_turn.core.centre import kernels, wedge
from wedge_turn.core.centre import transients as strokes
from wedge_turn.core.centre.bands import shape_band
from wedge_turn.core.centre.spectra import OVERLAP, make_window, transform, turn_plane, window_size
from wedge_turn.core.centre.voice import network, recent
from wedge_turn.core.pages import PAGE, Page

Read = Callable[[int, int], Block]
Singles = NDArray[np.float32]
Spectra = NDArray[np.complex64]

# The network sees frames on either side of a page: long pages compute fewer of them twice.
VOICE_PAGE: Final = 4 * PAGE


@dataclass(frozen=True)
class Shape:
    """What is extracted: position −1 … 1, opening (of the wedge only), strength q, depth 0 … 1, and the band in Hz."""

    position: float = 0.0
    opening: float = 1.0
    strength: float = 1.5
    depth: float = 1.0
    low: float = 180.0
    high: float = 10_000.0
    protect_drums: bool = False
    voice: int = 0  # which version of the voice mask; 0 for the wedge


class Extraction:
    """Pages of sides and centre, both stereo."""

    def __init__(self, read: Read, rate: int, frames: int, shape: Shape) -> None:
        """`read` gives silence outside its `frames`."""
        self.size = VOICE_PAGE if shape.voice else PAGE
        self._voice_margin = network.find_margin(shape.voice) if shape.voice else 0
        self._read = read
        self._frames = frames
        self._shape = shape
        self._window_size = window_size(rate)
        self._hop = self._window_size // OVERLAP
        self._window = make_window(self._window_size)
        # Copies of the window's square a hop apart add up to OVERLAP / 2.
        self._synthesis = (self._window * np.float32(2 / OVERLAP)).astype(np.float32)
        self._band = shape_band(rate, self._window_size // 2 + 1, shape.low, shape.high)
        # Frames on either side of the page that its masks depend on.
        self._margin = max(self._voice_margin or wedge.MARGIN, strokes.MARGIN if shape.protect_drums else 0)

    def page(self, start: int) -> Page:
        """Frames [start, start + size) of the sides and of the centre."""
        hop = self._hop
        # The frames that reach into the page, and those on either side.
        first = math.floor((start - self._window_size) / hop) + 1
        last = math.floor((start + self.size - 1) / hop)
        count = last - first + 1
        begin = (first - self._margin) * hop
        around = self._read(begin, (count + 2 * self._margin - 1) * hop + self._window_size)
        page = around[start - begin : start - begin + self.size].copy()
        if self._shape.voice:
            if self._shape.voice not in network.KNOWS_BEGINNINGS:
                _mirror_start(around, begin, self._frames)
            _mirror_end(around, begin, self._frames)
        spectra = self._spectra(around, count + 2 * self._margin)
        del around
        parts = self._centre(*spectra, count, first, start)
        centre: Block = np.stack(parts, axis=1)
        if self._shape.position:
            left, right = (part.astype(np.float64) for part in parts)
            centre = np.stack(turn_plane(left, right, -self._shape.position), axis=1)
        page -= centre
        return page, centre

    def _spectra(self, around: Block, count: int) -> tuple[Spectra, Spectra]:
        """Left and right, (frames, lines) each, of the plane turned so that the chosen direction is the middle."""
        left, right = turn_plane(around[:, 0], around[:, 1], self._shape.position)
        return transform(left, count, self._window), transform(right, count, self._window)

    def _centre(self, left: Spectra, right: Spectra, count: int, first: int, start: int) -> tuple[Singles, Singles]:
        """The centre of both channels over the page from sample `start` on. `count` frames from number `first` on reach
        into it; frame 0 begins with the first sample.
        """
        inner = slice(self._margin, self._margin + count)
        parts = self._voice(left, right, inner, first) if self._shape.voice else self._wedge(left, right, inner)
        if self._shape.protect_drums:
            stays = 1 - strokes.separate_transients(kernels.measure_power(left, right))[inner]
            parts = parts[0] * stays, parts[1] * stays

        def synthesize(part: Spectra) -> Singles:
            out = np.zeros(self.size, np.float32)
            inverse = scipy.fft.irfft(part, self._window_size, axis=1)
            kernels.overlap_add(inverse, self._hop, self._synthesis, start - first * self._hop, out)
            return out

        return synthesize(parts[0]), synthesize(parts[1])

    def _wedge(self, left: Spectra, right: Spectra, inner: slice) -> tuple[Spectra, Spectra]:
        near = slice(inner.start - wedge.MARGIN, inner.stop + wedge.MARGIN)
        shape = self._shape
        return wedge.extract_centre(left[near], right[near], self._band, shape.strength, shape.opening, shape.depth)

    def _voice(self, left: Spectra, right: Spectra, inner: slice, first: int) -> tuple[Spectra, Spectra]:
        margin, version = self._voice_margin, self._shape.voice
        before = margin
        if version in network.KNOWS_BEGINNINGS:
            # No frame before those that reach into the signal.
            before = min(margin, first + OVERLAP - 1)
        near = slice(inner.start - before, inner.stop + margin)
        shares = recent.get_shares(left[near], right[near], version, before, margin)
        if self._shape.strength != wedge.DEFAULT_STRENGTH:
            shares **= np.float32(self._shape.strength / wedge.DEFAULT_STRENGTH)
        shares *= self._band * np.float32(self._shape.depth)
        return left[inner] * shares, right[inner] * shares


def _mirror_start(around: Block, begin: int, frames: int) -> None:
    """Fill what lies before a signal of so many frames with the signal mirrored. `around`, (n, 2), is from frame
    `begin` on.
    """
    before = min(-begin, frames, len(around) + begin)
    if before > 0:
        around[-begin - before : -begin] = around[-begin : -begin + before][::-1]


def _mirror_end(around: Block, begin: int, frames: int) -> None:
    """The same with what lies after it: silence there is a cut that a voice mask mistakes for an ending."""
    end = frames - begin
    after = min(len(around) - end, end)
    if after > 0:
        around[end : end + after] = around[end - after : end][::-1]
