"""Clips whose bytes can be had without decoding: every channel one source channel, unchanged, in the same
integer encoding, or silence.

This is how split and merge move PCM at about the speed of copying it. Float encodings are left to the engine, which
keeps samples that are not finite out of everything.
"""

from collections import defaultdict
from dataclasses import dataclass, field
from typing import Any, Final, Self, cast

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.audio import Raw, WavFile, kernels
from wedge_turn.core.clips import Clip
from wedge_turn.core.form import Encoding
from wedge_turn.core.jit import use_kernel
from wedge_turn.core.worksheet import Tap

# Small enough for the processor's cache, large enough that a block's overhead does not count.
_MAX_FRAMES: Final = 262_144
_MAX_BYTES: Final = 4 * 1024 * 1024
_SAMPLES: Final = {1: "u1", 2: "<u2", 4: "<u4"}


def choose_block_frames(channels: int) -> int:
    """Frames to go through at a time: whole groups of eight, for the kernels that work in words."""
    return max(8, min(_MAX_FRAMES, _MAX_BYTES // (4 * channels) // 8 * 8))


def _empty() -> Raw:
    return np.empty(0, np.uint8)


@dataclass(slots=True)
class _Cached:
    """What is in memory of one source: the stretch that was read last, and its channels."""

    first: int = 0
    last: int = 0
    stretch: Raw = field(default_factory=_empty)
    apart: tuple[int, int] | None = None  # the start and the frames that the channels are of
    left: Raw = field(default_factory=_empty)
    right: Raw = field(default_factory=_empty)


class Loader:
    """The last stretch read of each source, shared by clips that are gone through side by side.

    Splitting a file of 64 channels reads it once, not 64 times. Not for several threads.
    """

    def __init__(self) -> None:
        self._cached: defaultdict[int, _Cached] = defaultdict(_Cached)

    def load(self, source: WavFile, start: int, frames: int) -> Raw:
        """Bytes of a stretch, which must lie within the source; good until another of the same source is loaded."""
        cache, align, stop = self._cached[id(source)], source.block_align, start + frames
        if not (cache.first <= start and stop <= cache.last):
            cache.first = cache.last = 0  # until it is read
            cache.apart = None
            cache.stretch = _room(cache.stretch, frames * align)
            source.read_raw_into(cache.stretch[: frames * align], start)
            cache.first, cache.last = start, stop
        return cache.stretch[(start - cache.first) * align : (stop - cache.first) * align]

    def load_channels(self, source: WavFile, start: int, frames: int) -> tuple[Raw, Raw]:
        """Both channels of such a stretch of 24-bit stereo, in whole groups of eight frames; unpacked once."""
        cache, blocks, size = self._cached[id(source)], self.load(source, start, frames), 3 * frames
        if cache.apart != (start, frames):
            cache.left, cache.right = _room(cache.left, size), _room(cache.right, size)
            left, right = cache.left[:size], cache.right[:size]
            kernels.deinterleave_s24(blocks.view(np.uint64), left.view(np.uint64), right.view(np.uint64))
            cache.apart = start, frames
        return cache.left[:size], cache.right[:size]


class RawBlocks:
    """Interleaved bytes of a clip."""

    def __init__(
        self,
        taps: tuple[Tap[WavFile] | None, ...],
        whole_file: tuple[WavFile, int] | None,
        encoding: Encoding,
        loader: Loader,
    ) -> None:
        self.encoding = encoding
        self.block_align = len(taps) * encoding.width
        self._taps = taps
        self._loader = loader
        self._whole_file = whole_file
        self._buffer = _empty()
        self._in_use = [tap for tap in taps if tap is not None]
        # What every channel has: from this frame on, and up to that one.
        self._span = 0, 0
        if len(self._in_use) == len(taps):
            self._span = max(tap.start for tap in self._in_use), min(tap.stop for tap in self._in_use)
        channels = [tap.source.form.channels for tap in self._in_use]
        self._is_channel_of_stereo = channels == [2]
        self._is_mono_pair = channels == [1, 1] and self._in_use[0].source is not self._in_use[1].source

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
        whole_file = cast(tuple[WavFile, int] | None, clip.whole)
        return cls(tuple(single), whole_file, encoding, loader or Loader())

    def read(self, start: int, frames: int) -> Raw:
        """Bytes of a stretch, silence where the clip has none; good until something else is read or loaded."""
        source, offset = self._whole_file or (None, 0)
        if source is not None and start >= offset and start + frames <= offset + source.form.frames:
            return self._loader.load(source, start - offset, frames)
        if self._covers(start, frames):
            if self._is_channel_of_stereo and self._in_words(frames, 1):
                return self._read_channel(self._in_use[0], start, frames)
            if self._is_mono_pair and self._in_words(frames, 2):
                out = self._scratch(frames)
                left, right = (self._load(tap, start, frames).view(np.uint64) for tap in self._in_use)
                kernels.interleave_s24(left, right, out.view(np.uint64))
                return out
        return self._by_samples(start, frames)

    def _by_samples(self, start: int, frames: int) -> Raw:
        out = self._scratch(frames)
        if not self._covers(start, frames):
            out[:] = self.encoding.silence
        columns = _columns(out, self.encoding, len(self._taps))
        for i, tap in enumerate(self._taps):
            if tap is None:
                continue
            first, last = max(start, tap.start), min(start + frames, tap.stop)
            if last > first:
                _move(self._column(tap, first, last - first), columns[first - start : last - start, i])
        return out

    def _covers(self, start: int, frames: int) -> bool:
        """Whether every channel has the whole stretch."""
        return self._span[0] <= start and start + frames <= self._span[1]

    def _in_words(self, frames: int, channels: int) -> bool:
        """Whether kernels move so much of so many channels: where that is whole words of 24-bit samples."""
        return self.encoding.width == 3 and frames % 8 == 0 and use_kernel(3 * frames * channels)

    def _column(self, tap: Tap[WavFile], start: int, frames: int) -> NDArray[Any]:
        """The samples of a tap's channel, as they lie in its source."""
        loaded = self._load(tap, start, frames)
        column: NDArray[Any] = _columns(loaded, self.encoding, tap.source.form.channels)[:, tap.channel]
        return column

    def _read_channel(self, tap: Tap[WavFile], start: int, frames: int) -> Raw:
        return self._loader.load_channels(tap.source, start - tap.offset, frames)[tap.channel]

    def _scratch(self, frames: int) -> Raw:
        self._buffer = _room(self._buffer, frames * self.block_align)
        return self._buffer[: frames * self.block_align]

    def _load(self, tap: Tap[WavFile], start: int, frames: int) -> Raw:
        return self._loader.load(tap.source, start - tap.offset, frames)


def _room(buffer: Raw, size: int) -> Raw:
    """A buffer of at least this size: this one, where it is."""
    return buffer if buffer.size >= size else np.empty(size, np.uint8)


def _columns(raw: Raw, encoding: Encoding, channels: int) -> NDArray[Any]:
    """Samples as (frames, channels); those of three bytes, for which there is no type, as (frames, channels, 3)."""
    if encoding.width == 3:
        return raw.reshape(-1, channels, 3)
    return raw.view(_SAMPLES[encoding.width]).reshape(-1, channels)


def _move(column: NDArray[Any], to: NDArray[Any]) -> None:
    """Copy one channel. Of three bytes, all first ones go at once, and so on: twice as quick as three at a time."""
    if column.ndim == 1:
        to[:] = column
        return
    for byte in range(3):
        to[:, byte] = column[:, byte]
