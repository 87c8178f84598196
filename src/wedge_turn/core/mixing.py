"""Mixes of integer PCM without a detour by floating-point files: every matrix turn on the blocks that raw PCM comes in.

Samples are taken as integers, mixed in float64 — which holds every product and sum of them exactly where the matrix
asks for halves and quarters only — then dithered where that is asked for, rounded, and clipped to what is written.
About the speed of reading the bytes. Floats, and stretches at the edge of what a clip holds, are left to the engine.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Final, Self, cast

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.audio.encoding import Encoding
from wedge_turn.core.audio.loops import loops
from wedge_turn.core.audio.pcm import Raw, integers_s24
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.engine import Clip
from wedge_turn.core.rawblocks import Loader

Integers = NDArray[np.int32]
MOST_COLUMNS: Final = 16
PIECE: Final = 65_536
TILE: Final = 1_024
_INTEGERS: Final = ("s16", "s24", "s32")


@dataclass(frozen=True)
class Mixed:
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
        self._values = np.empty((PIECE, self._columns), np.int32)
        self._mixed = np.empty((PIECE, self._channels), np.int32)
        self._raw: Raw = np.empty(0, np.uint8)
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
        if not inputs or encoding.name not in _INTEGERS or channels > MOST_COLUMNS:
            return None
        return cls(clip, encoding, tuple(inputs), loader or Loader())

    def covers(self, start: int, frames: int) -> bool:
        """Whether every tap has the whole stretch."""
        return self._span[0] <= start and start + frames <= self._span[1]

    def read(self, start: int, frames: int, dither: int | None = None) -> Mixed:
        """A stretch that is covered; `dither` is the seed of triangular noise of ±1 step.

        The bytes are good until the next call.
        """
        clipped = np.zeros(self._channels, np.int64)
        seed: Any = np.uint64(0 if dither is None else dither)
        matrix, (low, high), dithered = self._matrix, self._limits, dither is not None
        align = self._channels * self._encoding.width
        if self._raw.size < frames * align:
            self._raw = np.empty(frames * align, np.uint8)
        raw = self._raw[: frames * align]
        if self._in_words(frames):
            words, tiles = self._words(start, frames), _tiles(self._values, self._mixed)
            loops.mix_s24(words, matrix, low, high, dithered, seed, start, *tiles, raw, clipped)
            return Mixed(raw, clipped)
        for at, values in self._pieces(start, frames):
            mixed = self._mixed[: len(values)]
            loops.mix_integers(values, matrix, low, high, dithered, seed, at, mixed, clipped)
            self._put(mixed, raw[(at - start) * align : (at - start + len(values)) * align])
        return Mixed(raw, clipped)

    def apart_from(self, other: "IntegerMix", start: int, frames: int) -> tuple[int, float]:
        """How many samples are not what another clip of this encoding holds, and how far off they are at most, as a
        share of full scale. The other is only rearranged, so that this is rearranged the other way and nothing else
        computed; nothing is clipped.
        """
        matrix = other._matrix.T @ self._matrix
        scale = -self._limits[0]
        if self._in_words(frames) and other._in_words(frames):
            words, wanted = self._words(start, frames), other._words(start, frames)
            different, largest = loops.apart_from_mix_s24(words, matrix, wanted, *_tiles(self._values, other._values))
            return different, largest / scale
        different, largest = 0, 0.0
        for (_, values), (_, expected) in zip(self._pieces(start, frames), other._pieces(start, frames), strict=True):
            found = loops.apart_from_mix(values, matrix, expected)
            different, largest = different + found[0], max(largest, found[1])
        return different, largest / scale

    @property
    def is_rearranged(self) -> bool:
        """Whether the clip is its sources, in another order or upside down at the most."""
        places = np.abs(self._matrix)
        ones = (places == 1).sum(axis=0), (places == 1).sum(axis=1)
        return places.sum() == len(places) == self._columns and all((count == 1).all() for count in ones)

    def _pieces(self, start: int, frames: int) -> Iterator[tuple[int, Integers]]:
        """What is mixed, (frames, columns), in pieces small enough to stay in the processor's cache."""
        for source, offset in self._inputs:
            self._loader.load(source, start - offset, frames)
        for at in range(start, start + frames, PIECE):
            yield at, self._filled(at, min(PIECE, start + frames - at))

    def _filled(self, start: int, frames: int) -> Integers:
        """The integers that are mixed; 32 bits of one source just as they were read."""
        source, offset = self._inputs[0]
        if len(self._inputs) == 1 and source.encoding.name == "s32":
            return self._loader.load(source, start - offset, frames).view("<i4").reshape(frames, self._columns)
        values = self._values[:frames]
        self._fill(values, start, frames)
        return values

    def _fill(self, values: Integers, start: int, frames: int) -> None:
        column = 0
        for source, offset in self._inputs:
            raw = self._loader.load(source, start - offset, frames)
            channels = source.form.channels
            alone = channels == self._columns
            if source.encoding.name == "s24":
                flat = values.reshape(-1) if alone else np.empty(frames * channels, np.int32)
                integers_s24(raw, flat)
            else:
                flat = raw.view("<i2" if source.encoding.name == "s16" else "<i4")
            if not alone or source.encoding.name != "s24":
                values[:, column : column + channels] = flat.reshape(frames, channels)
            column += channels

    def _in_words(self, frames: int) -> bool:
        """Whether 24 bits are made of one source of 24 bits, in whole words."""
        source, _ = self._inputs[0]
        alone = len(self._inputs) == 1 and source.encoding.name == self._encoding.name == "s24"
        return alone and frames % 8 == 0

    def _words(self, start: int, frames: int) -> NDArray[np.uint64]:
        source, offset = self._inputs[0]
        return self._loader.load(source, start - offset, frames).view(np.uint64)

    def _put(self, values: Integers, raw: Raw) -> None:
        """Integers of the encoding's own bits as its bytes."""
        if self._encoding.name == "s24":
            loops.encode_s24(values.reshape(-1), raw)
        else:
            raw.view("<i2" if self._encoding.name == "s16" else "<i4")[:] = values.reshape(-1)


def _tiles(one: Integers, two: Integers) -> tuple[Integers, Integers, Integers, Integers]:
    """The beginnings of both, each as rows and flat: as many frames as fit into the nearest cache."""
    one, two = one[:TILE], two[:TILE]
    return one, one.reshape(-1), two, two.reshape(-1)
