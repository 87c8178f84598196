"""Mixes of integer PCM without a detour by floating-point files: every matrix turn on the blocks that raw PCM comes in.

Samples are taken as integers, mixed in float64 — which holds every product and sum of them exactly where the matrix
asks for halves and quarters only — then dithered where that is asked for, rounded, and clipped to what is written.
About the speed of reading the bytes. Floats, and stretches at the edge of what a clip holds, are left to the engine.
"""

from dataclasses import dataclass
from typing import Any, Final, Self, cast

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.audio import Raw, WavFile, integers_s24, kernels
from wedge_turn.core.clips import Clip
from wedge_turn.core.delivery.rawblocks import Loader
from wedge_turn.core.form import Encoding

Integers = NDArray[np.int32]
MAX_COLUMNS: Final = 16
TILE: Final = 1_024
_INTEGERS: Final = ("s16", "s24", "s32")


@dataclass(frozen=True)
class Mix:
    """Bytes of a stretch, and how many samples did not fit, by channel."""

    raw: Raw
    clipped: NDArray[np.int64]


class IntegerMix:
    """A clip as integers of an encoding."""

    def __init__(self, clip: Clip, encoding: Encoding, inputs: tuple[tuple[WavFile, int], ...], loader: Loader) -> None:
        self._encoding = encoding
        self._channels = len(clip.channels)
        self._inputs = inputs
        self._loader = loader
        taps = [tap for channel in clip.channels for tap in channel]
        self._span = max(tap.start for tap in taps), min(tap.stop for tap in taps)
        columns = np.cumsum([0, *(source.form.channels for source, _ in inputs)])
        self._columns = int(columns[-1])
        at = {place: int(columns[n]) for n, place in enumerate(inputs)}
        self._matrix = np.zeros((self._channels, self._columns))
        for row, channel in enumerate(clip.channels):
            for tap in channel:
                column = at[cast(WavFile, tap.source), tap.offset] + tap.channel
                self._matrix[row, column] += tap.gain * 2.0 ** (encoding.bits - tap.source.encoding.bits)
        self._buffers: dict[str, NDArray[Any]] = {}
        self._limits = -(2.0 ** (encoding.bits - 1)), 2.0 ** (encoding.bits - 1) - 1

    @classmethod
    def of(cls, clip: Clip, encoding: Encoding, loader: Loader | None = None) -> Self | None:
        """The clip as integers of this encoding, or None where it or a source has none, or the sources are too many."""
        inputs: dict[tuple[WavFile, int], None] = {}
        for tap in (tap for channel in clip.channels for tap in channel):
            if not isinstance(tap.source, WavFile) or tap.source.encoding.name not in _INTEGERS:
                return None
            inputs[tap.source, tap.offset] = None
        channels = sum(source.form.channels for source, _ in inputs)
        if not inputs or encoding.name not in _INTEGERS or channels > MAX_COLUMNS:
            return None
        return cls(clip, encoding, tuple(inputs), loader or Loader())

    def covers(self, start: int, frames: int) -> bool:
        """Whether every tap has the whole stretch."""
        return self._span[0] <= start and start + frames <= self._span[1]

    def read(self, start: int, frames: int, dither: int | None = None) -> Mix:
        """A stretch that is covered; `dither` is the seed of triangular noise of ±1 step.

        The bytes are good until the next call.
        """
        clipped = np.zeros(self._channels, np.int64)
        seed: Any = np.uint64(0 if dither is None else dither)
        matrix, (low, high), dithered = self._matrix, self._limits, dither is not None
        raw = self._scratch("raw", frames * self._channels * self._encoding.width, np.uint8)
        deep = self._encoding.name == "s32"
        out = raw.view("<i4") if deep else self._scratch("mixed", frames * self._channels)
        if self._in_words(frames):
            words, tile = self._words(start, frames), self._tile()
            kernels.mix_s24(words, matrix, low, high, dithered, seed, start, tile, out, clipped)
        else:
            values = self._filled(start, frames)
            kernels.mix_integers(values, matrix, low, high, dithered, seed, start, out, clipped)
        if self._encoding.name == "s24":
            kernels.encode_s24(out, raw)
        elif self._encoding.name == "s16":
            raw.view("<i2")[:] = out
        return Mix(raw, clipped)

    def _filled(self, start: int, frames: int) -> Integers:
        """The integers that are mixed, flat; 32 bits of one source just as they were read."""
        source, offset = self._inputs[0]
        if len(self._inputs) == 1 and source.encoding.name == "s32":
            return self._loader.load(source, start - offset, frames).view("<i4")
        values: Integers = self._scratch("values", frames * self._columns)
        column = 0
        for source, offset in self._inputs:
            raw = self._loader.load(source, start - offset, frames)
            channels = source.form.channels
            alone = channels == self._columns
            if source.encoding.name == "s24":
                flat = values if alone else self._scratch("channels", frames * channels)
                integers_s24(raw, flat)
            else:
                flat = raw.view("<i2" if source.encoding.name == "s16" else "<i4")
            if flat is not values:
                values.reshape(frames, -1)[:, column : column + channels] = flat.reshape(frames, channels)
            column += channels
        return values

    def _scratch(self, what: str, size: int, kind: type = np.int32) -> NDArray[Any]:
        if what not in self._buffers or self._buffers[what].size < size:
            self._buffers[what] = np.empty(size, kind)
        return self._buffers[what][:size]

    def _in_words(self, frames: int) -> bool:
        """Whether what is mixed lies in one file of 24 bits, and here in whole words."""
        return len(self._inputs) == 1 and self._inputs[0][0].encoding.name == "s24" and frames % 8 == 0

    def _words(self, start: int, frames: int) -> NDArray[np.uint64]:
        source, offset = self._inputs[0]
        return self._loader.load(source, start - offset, frames).view(np.uint64)

    def _tile(self) -> Integers:
        """Room for as many frames as fit into the processor's nearest cache."""
        tile: Integers = self._scratch("tile", TILE * self._columns)
        return tile
