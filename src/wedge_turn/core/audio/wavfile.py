"""PCM WAV files as raw blocks: read any stretch, write from front to back.

A plain WAV is written while it fits into 32-bit sizes, RF64 beyond (EBU Tech 3306), BW64 where it is asked for (ITU-R
BS.2088). The format chunk is the extensible one for more than two channels, so that the speaker mask has a place.
"""

import os
import struct
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import replace
from functools import cached_property
from pathlib import Path
from types import TracebackType
from typing import Final, Self

import numpy as np

from wedge_turn.core.audio.descriptors import DESCRIPTORS, OpenFile
from wedge_turn.core.audio.pcm import Block, Raw, count_damaged, decode
from wedge_turn.core.audio.riff import EXTENSIBLE, IEEE_FLOAT, PCM, SUBFORMAT_TAIL, Chunk, read_chunk, read_layout
from wedge_turn.core.errors import ChangedError, NotAudioError, TruncatedError
from wedge_turn.core.form import ENCODINGS, Form
from wedge_turn.core.metadata import (
    LEFT_BEHIND,
    MAX_CARRIED,
    Carried,
    Recorded,
    Track,
    kind_of,
    list_track_names,
    read_recorded,
)

MAX_RIFF: Final = 0xFFFFFFFF


class WavFile:
    """A PCM WAV to read from. Reads need no position, so threads may share it."""

    def __init__(
        self,
        path: Path,
        name: str | None = None,
        *,
        being_written: bool = False,
        recorded: Recorded | None = None,
        restore: Callable[[], None] | None = None,
    ) -> None:
        """Open `path`; messages call it `name`. Raises the errors of `riff.read_layout`.

        `recorded` is what the file says about itself that this is a working copy of; else it is read from here.

        The descriptor is one of a shared cache, but for a file that is `being_written`, whose descriptor is kept.
        `restore` makes a file again that was removed or replaced while nobody read it, with the same content, or
        raises.
        """
        self.path = path
        self.name = name or path.name
        file = OpenFile(path)
        layout = read_layout(file.fd, self.name)
        if layout is None:
            raise NotAudioError(f"{self.name} is not a PCM WAV file")
        self._identity = file.identity
        self._held = file if being_written else None
        DESCRIPTORS.put(id(self), file)
        self.form = layout.form
        self.encoding = ENCODINGS[self.form.encoding]
        self.block_align = self.form.block_align
        self._layout = layout
        self._recorded = recorded
        self._restore = restore

    def _file(self) -> OpenFile:
        file = self._held or DESCRIPTORS.get(id(self))
        if file is None:
            file = self._open_again()
            DESCRIPTORS.put(id(self), file)
        return file

    def _open_again(self) -> OpenFile:
        with suppress(FileNotFoundError):
            file = OpenFile(self.path)
            if file.identity == self._identity:
                return file
        if self._restore is None:
            raise ChangedError(f"{self.name} was changed or removed while it was in use")
        self._restore()
        file = OpenFile(self.path)
        self._identity = file.identity
        return file

    def read_raw_into(self, out: Raw, start: int) -> None:
        """Fill `out` with whole frames from frame `start` on; all of it must lie within the file."""
        file = self._file()
        view = out.data
        at = self._layout.data_offset + start * self.block_align
        while view:
            got = os.preadv(file.fd, [view], at)
            if got == 0:
                raise TruncatedError(f"{self.name} was truncated while it was read")
            view, at = view[got:], at + got

    def read(self, start: int, frames: int) -> Block:
        """Samples as float64 (frames, channels); silence outside the file."""
        first, last = max(start, 0), min(start + frames, self.form.frames)
        if last <= first:
            return np.zeros((frames, self.form.channels))
        raw = np.empty((last - first) * self.block_align, np.uint8)
        self.read_raw_into(raw, first)
        inside = decode(raw, self.encoding, self.form.channels)
        if last - first == frames:
            return inside
        block = np.zeros((frames, self.form.channels))
        block[first - start : last - start] = inside
        return block

    def read_each(self, starts: Sequence[int], frames: int) -> Block:
        """Stretches of one length, all of them within the file, as float64 (stretches, frames, channels). Takes a
        fraction of the time that reading one after the other does.
        """
        raw = np.empty((len(starts), frames * self.block_align), np.uint8)
        file, first = self._file(), self._layout.data_offset
        for row, start in zip(raw, starts, strict=True):
            if os.preadv(file.fd, [row.data], first + start * self.block_align) < row.size:
                self.read_raw_into(row, start)
        return decode(raw.reshape(-1), self.encoding, self.form.channels).reshape(len(starts), frames, -1)

    @cached_property
    def damaged(self) -> int:
        """How many samples are NaN, infinite or beyond ±10^6; `read` gives silence for them. Reads the file once."""
        if not self.encoding.is_float:
            return 0
        count, frames = 0, 65_536
        for at in range(0, self.form.frames, frames):
            raw = np.empty(min(frames, self.form.frames - at) * self.block_align, np.uint8)
            self.read_raw_into(raw, at)
            count += count_damaged(raw, self.encoding)
        return count

    @property
    def chunks(self) -> tuple[Chunk, ...]:
        """Every chunk but the samples and the description of them, in the order of the file."""
        return self._layout.chunks

    @cached_property
    def kinds(self) -> tuple[bytes, ...]:
        """What the chunks are that go with the sound, too large ones too."""
        file = self._file()
        about = (chunk for chunk in self._layout.chunks if chunk.name not in LEFT_BEHIND)
        return tuple(kind_of(chunk.name, read_chunk(file.fd, replace(chunk, size=4))) for chunk in about)

    @cached_property
    def tracks(self) -> tuple[Track, ...]:
        """What the file says of its channels, one after the other."""
        names = list_track_names(self.carried())
        return tuple(names.get(n, Track()) for n in range(self.form.channels))

    @cached_property
    def recorded(self) -> Recorded:
        """What the file says about its recording."""
        return self._recorded or read_recorded(self.carried())

    def carried(self) -> Carried:
        """The chunks that go with the sound, in the order of the file."""
        file = self._file()
        return tuple((chunk.name, read_chunk(file.fd, chunk)) for chunk in self._layout.chunks if is_carried(chunk))

    def close(self) -> None:
        """Give the descriptor back; a later read would open the file again."""
        self._held = None
        DESCRIPTORS.drop(id(self))

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, tb: TracebackType | None) -> None:
        self.close()

    def __del__(self) -> None:
        DESCRIPTORS.drop(id(self))


def is_carried(chunk: Chunk) -> bool:
    """Whether a chunk goes with the sound."""
    return chunk.name not in LEFT_BEHIND and chunk.size <= MAX_CARRIED


def build_header(form: Form, carried: Carried = (), *, roomy: bool = False) -> bytes:
    """Everything before the samples of a file of this form: a WAV, RF64 where it is too large for that, or BW64 where
    its container says so, whose sizes are always those of 64 bits.

    `roomy` keeps a place for the 64-bit sizes even where they are not needed (EBU Tech 3306), so that the
    header of a file whose length is not yet known can be written over later.
    """
    before = b"".join(_chunk(name, body) for name, body in carried)
    data_size = form.frames * form.block_align
    fmt = _chunk(b"fmt ", _format_body(form))
    if form.stored.is_float:
        fmt += _chunk(b"fact", struct.pack("<I", min(form.frames, MAX_RIFF)))
    place = _chunk(b"JUNK", bytes(28)) if roomy else b""
    rest = len(fmt) + len(before) + 8 + data_size + (data_size & 1)
    wide = b"BW64" if form.container == "BW64" else b"RF64"
    if wide == b"RF64" and 12 + len(place) + rest <= MAX_RIFF:
        head = struct.pack("<4sI4s", b"RIFF", 4 + len(place) + rest, b"WAVE") + place
        return head + fmt + before + struct.pack("<4sI", b"data", data_size)
    ds64 = _chunk(b"ds64", struct.pack("<QQQI", 4 + 36 + rest, data_size, form.frames, 0))
    head = struct.pack("<4sI4s", wide, MAX_RIFF, b"WAVE") + ds64
    return head + fmt + before + struct.pack("<4sI", b"data", MAX_RIFF)


def build_trailer(form: Form) -> bytes:
    """The padding that makes the data chunk even."""
    return b"\0" * (form.frames * form.block_align & 1)


def _format_body(form: Form) -> bytes:
    tag = IEEE_FLOAT if form.stored.is_float else PCM
    bits = 8 * form.stored.width
    extensible = form.channels > 2
    body = struct.pack(
        "<HHIIHH",
        EXTENSIBLE if extensible else tag,
        form.channels,
        form.rate,
        min(form.rate * form.block_align, MAX_RIFF),
        form.block_align,
        bits,
    )
    if extensible:
        return body + struct.pack("<HHIH", 22, bits, form.speaker_mask, tag) + SUBFORMAT_TAIL
    return body + (struct.pack("<H", 0) if form.stored.is_float else b"")


def _chunk(name: bytes, body: bytes) -> bytes:
    return struct.pack("<4sI", name, len(body)) + body + b"\0" * (len(body) & 1)


def file_size(form: Form) -> int:
    """Bytes of a file of this form that carries no other chunks."""
    return len(build_header(form)) + form.frames * form.block_align + len(build_trailer(form))
