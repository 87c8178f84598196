"""Writing clips into PCM WAV files from front to back, in constant memory.

Quantising is ours: rounding to nearest, with triangular dither where it is asked for; what does not fit is clipped and
counted. A finished file is flushed to the disk; that it holds what it should is proved afterwards, by others. Only what
can't be computed a second time, a centre, is compared while it is at hand.
"""

import errno
import os
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from xxhash import xxh3_128

from wedge_turn.core.audio import Block, build_header, build_trailer, encode
from wedge_turn.core.clips import Clip, join_channels
from wedge_turn.core.delivery.hashing import write_whole
from wedge_turn.core.delivery.mixing import IntegerMix
from wedge_turn.core.delivery.proof import ReadBack
from wedge_turn.core.delivery.rawblocks import Loader, RawBlocks, choose_block_frames
from wedge_turn.core.errors import ProofFailedError, naming_disk_errors
from wedge_turn.core.form import Encoding, Form
from wedge_turn.core.metadata import Carried, with_form, with_history
from wedge_turn.core.pages import PAGE
from wedge_turn.proof import Follower, Found, Rule

Watch = Callable[[int], None]  # is told how many samples more are done; may raise StoppedError


@dataclass(frozen=True)
class WrittenFile:
    """What became of a file: the hash of what was meant to be written, the clipped samples of each channel, and the
    highest magnitude among these. `read_back` is where the proof read it from. Of a file that was followed while it was
    written: the hash of its samples as they were compared, what comparing them has shown, and its loudest frames.
    """

    xxh128: str
    clipped: list[int]
    highest: float
    read_back: ReadBack | None = None
    followed: str = ""
    found: Found | None = None
    loudest: tuple[int, ...] = ()


@dataclass(frozen=True)
class ToWrite:
    """A clip on its way into a file. `exact` says that the encoding holds every sample as it is; `dither` is the seed
    of the noise, None where none is added. `sparing` leaves those samples without it that are held as they are. `done`
    is what its CodingHistory says was done, in ASCII without commas; nothing is added to it where that is empty.
    `followed` asks that it be compared while it is written.
    """

    clip: Clip
    encoding: Encoding
    path: Path
    exact: bool
    dither: int | None = None
    sparing: bool = False
    done: str = ""
    container: Literal["WAV", "BW64"] = "WAV"
    followed: bool = False

    @cached_property
    def carried(self) -> Carried:
        """The chunks that the file gets."""
        chunks = with_form(self.clip.carried(), self.form)
        return with_history(chunks, self.form, self.done) if self.done else chunks

    @cached_property
    def form(self) -> Form:
        return self.clip.form.model_copy(update={"encoding": self.encoding.name, "container": self.container})


def write_clips(group: Sequence[ToWrite], watch: Watch) -> list[WrittenFile]:
    """Write clips of one length side by side, so that what they share is read once. Raises ProofFailedError where one
    that is followed is not what it should be.
    """
    loader = Loader()
    with ExitStack() as stack:
        files = [_OpenFile(item, loader, stack) for item in group]
        length, channels = group[0].form.frames, sum(file.form.channels for file in files)
        ahead = _Ahead([file.item.clip for file in files if file.is_computed], stack)
        # No more than a page at a time of what is computed: the more is read at once, the fewer pages are kept ahead.
        step = min(choose_block_frames(channels), PAGE if ahead.clips else length)
        for at in range(0, length, step):
            frames = min(step, length - at)
            ahead.prepare(at)
            computed = _computed([file for file in files if file.needs_computing(at, frames)], at, frames)
            for file in files:
                file.write(at, frames, computed)
            watch(frames * channels)
        return [file.finish() for file in files]


class _Ahead:
    """Computes what comes next on every core while this is written: pages that are computed are kept for a while."""

    def __init__(self, clips: Sequence[Clip], stack: ExitStack) -> None:
        self.clips = clips[:1]  # the results of one turn share their pages
        self._asked = 0
        self._pool = stack.enter_context(ThreadPoolExecutor()) if clips else None

    def prepare(self, start: int) -> None:
        """As many pages as are kept, from the one in which this frame lies on, unless they have been asked for."""
        for clip in self.clips:
            end = min(clip.end_ahead(start), clip.form.frames)
            for at in range(max(start, self._asked) // PAGE * PAGE, end, PAGE):
                if self._pool is not None:
                    self._pool.submit(clip.read, at, 1)
            self._asked = max(self._asked, -(-end // PAGE) * PAGE)


class _OpenFile:
    """One file being written from front to back."""

    def __init__(self, item: ToWrite, loader: Loader, stack: ExitStack) -> None:
        self.form = item.form
        self.item = item
        self._name = item.path.name
        self.raw = RawBlocks.of(item.clip, item.encoding, loader)
        self._mix = None if self.raw else IntegerMix.of(item.clip, item.encoding, loader)
        self._clipped = np.zeros(self.form.channels, np.int64)
        self._highest = 0.0
        self._hash = xxh3_128()
        self._file = stack.enter_context(item.path.open("xb", buffering=0))
        head = build_header(self.form, item.carried)
        body = self.form.frames * self.form.block_align + len(build_trailer(self.form))
        with naming_disk_errors(self._name):
            # The whole place at once: a disk that is too small says so now, and what is written can be read meanwhile.
            _replace(self._file.fileno(), len(head) + body)
        self._put(head)
        self._follower: Follower | None = None
        if item.followed:
            try:
                self._follower = Follower(item.path, Rule(item.encoding.name, item.dither, item.sparing))
            except ValueError as error:  # a header that is not what was written
                raise ProofFailedError(f"{self._name} could not be read back as it was written") from error
            stack.callback(self._follower.close)

    @property
    def is_computed(self) -> bool:
        """Whether window turns compute what is written."""
        return self.item.clip.is_computed

    def needs_computing(self, start: int, frames: int) -> bool:
        """Whether a stretch can be had neither as raw bytes nor as a mix of integers."""
        return self.raw is None and not (self._mix and self._mix.covers(start, frames))

    def write(self, start: int, frames: int, computed: Iterator[Block]) -> None:
        """Write frames as raw bytes, or mixed as integers, or else the next of the blocks computed for them."""
        if self.raw is not None:
            block = self.raw.read(start, frames)
        elif self._mix is not None and self._mix.covers(start, frames):
            mixed = self._mix.read(start, frames, self.item.dither)
            self._count(mixed.clipped, start, frames)
            block = mixed.raw
        else:
            samples = next(computed)
            item = self.item
            block, clipped = encode(samples, item.encoding, item.dither, start, sparing=item.sparing)
            self._count(clipped, start, frames)
        self._put(block.data)
        if self._follower is not None:
            wrong = self._follower.compare(start, samples)
            if wrong >= 0:
                raise ProofFailedError(f"{self._name} does not match what was computed for it (frame {wrong:,})")

    def _count(self, clipped: NDArray[np.int64], start: int, frames: int) -> None:
        """Add up what did not fit, and look by how much: what clips is rare, and worth computing again."""
        if clipped.any():
            self._clipped += clipped
            self._highest = max(self._highest, float(np.abs(self.item.clip.mixed(start, frames)).max()))

    def finish(self) -> WrittenFile:
        """Flush the file to the disk."""
        self._put(build_trailer(self.form))
        with naming_disk_errors(self._name):
            os.fsync(self._file.fileno())
        written = WrittenFile(self._hash.hexdigest(), [int(n) for n in self._clipped], self._highest)
        if self._follower is None:
            return written
        found = Found()
        for channel in self._follower.found:
            found.join(channel)
        return replace(written, followed=self._follower.digest, found=found, loudest=(self._follower.loudest[1],))

    def _put(self, data: bytes | memoryview) -> None:
        with naming_disk_errors(self._name):
            self._hash.update(data)
            write_whole(self._file.fileno(), data)


def _computed(files: list[_OpenFile], start: int, frames: int) -> Iterator[Block]:
    """The blocks of these files, computed together, so that each source is decoded once; pages are kept anyway."""
    if all(file.is_computed for file in files):
        for file in files:
            yield file.item.clip.mixed(start, frames)
    else:
        block = join_channels([file.item.clip for file in files]).mixed(start, frames)
        channels = np.cumsum([file.form.channels for file in files])[:-1]
        for part in np.split(block, channels, axis=1):
            yield np.ascontiguousarray(part)


def _replace(fd: int, size: int) -> None:
    """Give a new file its size, and the room for it where the file system can promise that."""
    try:
        os.posix_fallocate(fd, 0, size)
    except OSError as error:
        if error.errno not in (errno.EINVAL, errno.EOPNOTSUPP):
            raise
        os.ftruncate(fd, size)
