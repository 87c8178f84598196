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


@dataclass(frozen=True)
class Mixed:
    """Integers of a stretch, (frames, channels), and how many samples did not fit, by channel."""

    values: Integers
    clipped: NDArray[np.int64]


class IntegerMix:
    """A clip as integers of so many bits."""

    def __init__(self, clip: Clip, bits: int, inputs: tuple[tuple[WavFile, int], ...], loader: Loader) -> None:
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
                self._matrix[row, column] += tap.gain * 2.0 ** (bits - tap.source.encoding.bits)
        self._values = np.empty((PIECE, self._columns), np.int32)
        self._mixed = np.empty((0, self._channels), np.int32)
        self._limits = -(2.0 ** (bits - 1)), 2.0 ** (bits - 1) - 1

    @classmethod
    def of(cls, clip: Clip, bits: int, loader: Loader | None = None) -> Self | None:
        """The clip as integers of `bits` bits, or None where its sources are no integers or too many."""
        inputs: dict[tuple[WavFile, int], None] = {}
        for tap in (tap for channel in clip.channels for tap in channel):
            if not isinstance(tap.source, WavFile) or tap.source.encoding.name not in ("s16", "s24", "s32"):
                return None
            inputs[tap.source, tap.offset] = None
        if not inputs or bits > 32 or sum(source.form.channels for source, _ in inputs) > MOST_COLUMNS:
            return None
        return cls(clip, bits, tuple(inputs), loader or Loader())

    def covers(self, start: int, frames: int) -> bool:
        """Whether every tap has the whole stretch."""
        return self._span[0] <= start and start + frames <= self._span[1]

    def read(self, start: int, frames: int, dither: int | None = None) -> Mixed:
        """Integers of a stretch that is covered; `dither` is the seed of triangular noise of ±1 step.

        The array is used again by the next call.
        """
        if self._mixed.shape[0] < frames:
            self._mixed = np.empty((frames, self._channels), np.int32)
        mixed = self._mixed[:frames]
        clipped = np.zeros(self._channels, np.int64)
        low, high = self._limits
        seed: Any = np.uint64(0 if dither is None else dither)
        for at, values in self._pieces(start, frames):
            piece = mixed[at - start : at - start + len(values)]
            loops.mix_integers(values, self._matrix, low, high, dither is not None, seed, at, piece, clipped)
        return Mixed(mixed, clipped)

    def apart_from(self, other: "IntegerMix", start: int, frames: int) -> tuple[int, float]:
        """How many samples are not what another clip of as many bits holds, and how far off they are at most, as a
        share of full scale. The other is only rearranged, so that this is rearranged the other way and nothing else
        computed; nothing is clipped.
        """
        matrix = other._matrix.T @ self._matrix
        different, largest = 0, 0.0
        for (_, values), (_, expected) in zip(self._pieces(start, frames), other._pieces(start, frames), strict=True):
            found = loops.apart_from_mix(values, matrix, expected)
            different, largest = different + found[0], max(largest, found[1])
        return different, largest / -self._limits[0]

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


def bytes_of(values: Integers, encoding: Encoding) -> Raw:
    """Integers of an encoding's own bits as its bytes; 16, 24 and 32 bits."""
    flat = values.reshape(-1)
    match encoding.name:
        case "s16":
            return flat.astype("<i2").view(np.uint8)
        case "s24":
            raw = np.empty(flat.size * 3, np.uint8)
            loops.encode_s24(flat, raw)
            return raw
        case _:
            return flat.view(np.uint8)
