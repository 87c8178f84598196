"""Clips whose bytes can be had without decoding: every channel one source channel, unchanged, in the same
integer encoding, or silence.

This is how split and merge move PCM at about the speed of copying it, and how what was written is compared. Float
encodings are left to the engine, which keeps samples that are not finite out of everything.
"""

from collections.abc import Sequence
from typing import Any, Final, Self, cast

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.audio import kernels
from wedge_turn.core.audio.encoding import Encoding
from wedge_turn.core.audio.pcm import Raw
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.engine import Clip
from wedge_turn.core.linear import Tap

# Small enough for the processor's cache, large enough that a block's overhead does not count.
_MOST_FRAMES: Final = 131_072
_MOST_BYTES: Final = 4 * 1024 * 1024
_SAMPLES: Final = {1: "u1", 2: "<u2", 4: "<u4"}


def block_frames(channels: int) -> int:
    """Frames to go through at a time: whole groups of eight, for the kernels that work in words."""
    return max(8, min(_MOST_FRAMES, _MOST_BYTES // (4 * channels) // 8 * 8))


class Loader:
    """The last stretch read of each source, shared by clips that are gone through side by side.

    Splitting a file of 64 channels reads it once, not 64 times. Not for several threads.
    """

    def __init__(self) -> None:
        self._buffers: dict[tuple[int, str], Raw] = {}
        self._held: dict[int, tuple[int, int]] = {}
        self._channel_offsets: dict[int, tuple[int, int]] = {}
        self._given: dict[int, tuple[int, int, Raw]] = {}

    def give(self, source: WavFile, start: int, raw: Raw) -> None:
        """Bytes that are in a file from frame `start` on, so that they need not be read. They are good until others are
        given; whoever gives them sees to it that the file holds them.
        """
        self._given[id(source)] = start, start + raw.size // source.block_align, raw

    def load(self, source: WavFile, start: int, frames: int) -> Raw:
        """Bytes of a stretch, which must lie within the source; good until another of the same source is loaded."""
        key, align = id(source), source.block_align
        first, last, given = self._given.get(key, (0, 0, None))
        if given is not None and first <= start <= start + frames <= last:
            return given[(start - first) * align : (start + frames - first) * align]
        first, last = self._held.get(key, (0, 0))
        if not first <= start <= start + frames <= last:
            self._held.pop(key, None)
            self._channel_offsets.pop(key, None)
            source.read_raw_into(self._scratch(source, "whole", frames * align), start)
            first, last = self._held[key] = start, start + frames
        return self._buffers[key, "whole"][(start - first) * align : (start + frames - first) * align]

    def sides(self, source: WavFile, start: int, frames: int) -> tuple[Raw, Raw]:
        """Both channels of such a stretch of 24-bit stereo, in whole groups of eight frames; unpacked once."""
        whole = self.load(source, start, frames)
        left, right = (self._scratch(source, side, 3 * frames) for side in ("left", "right"))
        if self._channel_offsets.get(id(source)) != (start, frames):
            kernels.sides_of_stereo_s24(*(raw.view(np.uint64) for raw in (whole, left, right)))
            self._channel_offsets[id(source)] = start, frames
        return left, right

    def _scratch(self, source: WavFile, what: str, size: int) -> Raw:
        buffer = self._buffers.get((id(source), what))
        if buffer is None or buffer.size < size:
            buffer = self._buffers[id(source), what] = np.empty(size, np.uint8)
        return buffer[:size]


class RawBlocks:
    """Interleaved bytes of a clip."""

    def __init__(
        self,
        taps: tuple[Tap[WavFile] | None, ...],
        whole: tuple[WavFile, int] | None,
        encoding: Encoding,
        loader: Loader,
    ) -> None:
        self.encoding = encoding
        self.block_align = len(taps) * encoding.width
        self._taps = taps
        self._loader = loader
        self._whole = whole
        self._buffer: Raw = np.empty(0, np.uint8)

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
        whole = cast(tuple[WavFile, int] | None, clip.whole)
        return cls(tuple(single), whole, encoding, loader or Loader())

    def read(self, start: int, frames: int) -> Raw:
        """Bytes of a stretch, silence where the clip has none; good until something else is read or loaded."""
        source, offset = self._whole or (None, 0)
        if source is not None and start >= offset and start + frames <= offset + source.form.frames:
            return self._loader.load(source, start - offset, frames)
        inside = self._inside(start, frames)
        if len(inside) == len(self._taps) and _in_words(inside, frames):
            if [tap.source.form.channels for tap in inside] == [2]:
                return self._side(inside[0], start, frames)
            if _are_sides(inside):
                out = self._scratch(frames)
                left, right = (self._load(tap, start, frames).view(np.uint64) for tap in inside)
                kernels.stereo_of_sides_s24(left, right, out.view(np.uint64))
                return out
        return self._by_samples(start, frames)

    def _by_samples(self, start: int, frames: int) -> Raw:
        out = self._scratch(frames)
        if len(self._inside(start, frames)) < len(self._taps):
            out[:] = self.encoding.silence
        columns = _columns(out, self.encoding, len(self._taps))
        for i, tap in enumerate(self._taps):
            if tap is None:
                continue
            first, last = max(start, tap.start), min(start + frames, tap.stop)
            if last > first:
                _move(self._column(tap, first, last - first), columns[first - start : last - start, i])
        return out

    def same_as(self, other: "RawBlocks", start: int, frames: int) -> bool:
        """Whether both hold the same bytes from frame `start` on; both of one encoding and as many channels."""
        ours, theirs = self._inside(start, frames), other._inside(start, frames)
        if not len(ours) == len(theirs) == len(self._taps):
            return _equal(self.read(start, frames).copy(), other.read(start, frames))
        if self._whole is not None and other._whole is not None:
            return _equal(self._load(ours[0], start, frames), other._load(theirs[0], start, frames))
        for whole, stereo, parts in ((other, theirs, ours), (self, ours, theirs)):
            if whole._whole is not None and _are_sides(parts) and _in_words((stereo[0], *parts), frames):
                left, right = (self._load(tap, start, frames).view(np.uint64) for tap in parts)
                return kernels.is_stereo_of_sides_s24(left, right, self._load(stereo[0], start, frames).view(np.uint64))
        return all(self._same_channel(tap, other, its, start, frames) for tap, its in zip(ours, theirs, strict=True))

    def _same_channel(self, tap: Tap[WavFile], other: "RawBlocks", its: Tap[WavFile], start: int, frames: int) -> bool:
        channels = tap.source.form.channels, its.source.form.channels
        if sorted(channels) == [1, 2] and _in_words((tap, its), frames):
            if channels[0] == 2:
                return _equal(self._side(tap, start, frames), other._load(its, start, frames))
            return _equal(self._load(tap, start, frames), other._side(its, start, frames))
        column = _packed(self._column(tap, start, frames))  # before another stretch is loaded
        return _equal(column, _packed(other._column(its, start, frames)))

    def _inside(self, start: int, frames: int) -> list[Tap[WavFile]]:
        """The taps that have the whole stretch."""
        return [tap for tap in self._taps if tap is not None and tap.start <= start and start + frames <= tap.stop]

    def _column(self, tap: Tap[WavFile], start: int, frames: int) -> NDArray[Any]:
        """The samples of a tap's channel, as they lie in its source."""
        loaded = self._load(tap, start, frames)
        column: NDArray[Any] = _columns(loaded, self.encoding, tap.source.form.channels)[:, tap.channel]
        return column

    def _side(self, tap: Tap[WavFile], start: int, frames: int) -> Raw:
        return self._loader.sides(tap.source, start - tap.offset, frames)[tap.channel]

    def _scratch(self, frames: int) -> Raw:
        if self._buffer.size < frames * self.block_align:
            self._buffer = np.empty(frames * self.block_align, np.uint8)
        return self._buffer[: frames * self.block_align]

    def _load(self, tap: Tap[WavFile], start: int, frames: int) -> Raw:
        return self._loader.load(tap.source, start - tap.offset, frames)


def _are_sides(taps: Sequence[Tap[WavFile]]) -> bool:
    """Whether two channels come from a file each."""
    return [tap.source.form.channels for tap in taps] == [1, 1] and taps[0].source is not taps[1].source


def _in_words(taps: Sequence[Tap[WavFile]], frames: int) -> bool:
    """Whether a stretch of these is whole words of 24-bit samples, which the kernels move."""
    return frames % 8 == 0 and all(tap.source.encoding.width == 3 for tap in taps)


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


def _packed(column: NDArray[Any]) -> Raw:
    """The bytes of one channel, side by side."""
    if not column.flags.c_contiguous:
        spread, column = column, np.empty(column.shape, column.dtype)
        _move(spread, column)
    return column.reshape(-1).view(np.uint8)


def _equal(first: Raw, second: Raw) -> bool:
    whole = first.size // 8 * 8  # by words, which is eight times as quick
    return np.array_equal(first[:whole].view(np.uint64), second[:whole].view(np.uint64)) and np.array_equal(
        first[whole:], second[whole:]
    )
