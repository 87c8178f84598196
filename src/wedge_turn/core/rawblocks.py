"""Clips whose bytes can be had without decoding: every channel one source channel, unchanged, in the same
integer encoding, or silence.

This is how split and merge move PCM at about the speed of copying it. Float encodings are left to the
engine, which keeps samples that are not finite out of everything.
"""

from typing import Final, Self, cast

import numpy as np

from wedge_turn.core.audio.encoding import Encoding
from wedge_turn.core.audio.kernels import (
    copy_strided,
    copy_strided_s24,
    side_of_stereo_s24,
    stereo_of_sides_s24,
)
from wedge_turn.core.audio.pcm import Raw
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.engine import Clip
from wedge_turn.core.linear import Tap

# Small enough for the processor's cache, large enough that a block's overhead does not count.
_MOST_FRAMES: Final = 131_072
_MOST_BYTES: Final = 4 * 1024 * 1024
_ELEMENTS: Final = {1: np.uint8, 2: np.uint16, 4: np.uint32}


def block_frames(channels: int) -> int:
    """Frames to go through at a time: whole groups of eight, for the kernels that work in words."""
    return max(8, min(_MOST_FRAMES, _MOST_BYTES // (4 * channels) // 8 * 8))


class Loader:
    """The last stretch read of each source, shared by clips that are gone through side by side.

    Splitting a file of 64 channels reads it once, not 64 times. Not for several threads.
    """

    def __init__(self) -> None:
        self._buffers: dict[int, Raw] = {}
        self._held: dict[int, tuple[int, int]] = {}

    def load(self, source: WavFile, start: int, frames: int) -> Raw:
        key, size = id(source), frames * source.form.block_align
        buffer = self._buffers.get(key)
        if buffer is None or buffer.size < size:
            buffer = self._buffers[key] = np.empty(size, np.uint8)
            self._held.pop(key, None)
        if self._held.get(key) != (start, frames):
            source.read_raw_into(buffer[:size], start)
            self._held[key] = (start, frames)
        return buffer[:size]


class RawBlocks:
    """Interleaved bytes of a clip."""

    def __init__(self, taps: tuple[Tap[WavFile] | None, ...], encoding: Encoding, loader: Loader) -> None:
        self.encoding = encoding
        self.block_align = len(taps) * encoding.width
        self._taps = taps
        self._loader = loader
        self._whole = _all_of_one_source(taps)

    @classmethod
    def of(cls, clip: Clip, encoding: Encoding, loader: Loader | None = None) -> Self | None:
        """The clip as raw bytes of this encoding, or None where samples would have to be computed."""
        if encoding.is_float or any(len(taps) > 1 for taps in clip.channels):
            return None
        single: list[Tap[WavFile] | None] = []
        for taps in clip.channels:
            tap = taps[0] if taps else None
            if tap is None:
                single.append(None)
            elif isinstance(tap.source, WavFile) and tap.gain == 1.0 and tap.source.encoding is encoding:
                single.append(cast(Tap[WavFile], tap))
            else:
                return None
        return cls(tuple(single), encoding, loader or Loader())

    def read_into(self, out: Raw, start: int) -> None:
        """Fill `out` with whole frames from frame `start` on; silence where the clip has none."""
        frames = out.size // self.block_align
        whole = self._whole
        if whole is not None and start + whole[1] >= 0 and start + frames + whole[1] <= whole[0].form.frames:
            whole[0].read_raw_into(out, start + whole[1])
        elif not self._by_words(out, start, frames):
            self._by_samples(out, start, frames)

    def _by_words(self, out: Raw, start: int, frames: int) -> bool:
        """24-bit stereo, where the whole stretch is there: one side of it, or both put together."""
        if self.encoding.width != 3 or frames % 8 or len(self._taps) > 2:
            return False
        inside = [tap for tap in self._taps if tap is not None and tap.start <= start and start + frames <= tap.stop]
        if len(inside) != len(self._taps):
            return False
        shape = tuple(tap.source.form.channels for tap in inside)
        words = out.view(np.uint64)
        if shape == (2,):
            side_of_stereo_s24(self._load(inside[0], start, frames).view(np.uint64), inside[0].channel == 1, words)
        elif shape == (1, 1) and inside[0].source is not inside[1].source:
            left, right = (self._load(tap, start, frames).view(np.uint64) for tap in inside)
            stereo_of_sides_s24(left, right, words)
        else:
            return False
        return True

    def _by_samples(self, out: Raw, start: int, frames: int) -> None:
        out[:] = self.encoding.silence
        width = self.encoding.width
        element = _ELEMENTS.get(width, np.uint8)
        copy = copy_strided_s24 if width == 3 else copy_strided
        for i, tap in enumerate(self._taps):
            if tap is None:
                continue
            first, last = max(start, tap.start), min(start + frames, tap.stop)
            if last > first:
                loaded = self._load(tap, first, last - first)
                place = (first - start) * len(self._taps) + i
                channels = tap.source.form.channels
                copy(
                    loaded.view(element),
                    channels,
                    tap.channel,
                    out.view(element),
                    len(self._taps),
                    place,
                    last - first,
                )

    def _load(self, tap: Tap[WavFile], start: int, frames: int) -> Raw:
        return self._loader.load(tap.source, start - tap.offset, frames)


def _all_of_one_source(taps: tuple[Tap[WavFile] | None, ...]) -> tuple[WavFile, int] | None:
    """The source whose frames, moved by so many, these taps are, channel for channel; else None."""
    first = taps[0]
    if first is None or first.source.form.channels != len(taps):
        return None
    for i, tap in enumerate(taps):
        if tap is None or tap.source is not first.source or tap.channel != i or tap.offset != first.offset:
            return None
        # Read past a window the source would be heard where there should be silence.
        if tap.start != tap.offset or tap.stop != tap.offset + tap.source.form.frames:
            return None
    return first.source, -first.offset
