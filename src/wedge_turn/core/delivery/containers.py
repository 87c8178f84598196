"""The formats that files are delivered in: what each can hold, what of a source travels in it, and how it is written.

Every file is first written as a WAV or BW64 and proved. One in another format is encoded from that by libsndfile,
decoded again, and must hold the same samples; what has no place in it is named. FLAC: RFC 9639; it keeps the chunks of
a WAV beside its tags. AIFF: Apple, 1989; its sizes are 32 bits, and cue points become its markers.
"""

import os
import struct
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.audio import WavFile, integers_at_top
from wedge_turn.core.delivery.hashing import HashingWriter, InsertingWriter, read_stored
from wedge_turn.core.delivery.writing import WrittenFile
from wedge_turn.core.errors import ProofFailedError, naming_disk_errors
from wedge_turn.core.form import DepthName, Encoding, Form
from wedge_turn.core.metadata import (
    AFTER_STREAMINFO,
    TAGS,
    Carried,
    fits_in_flac,
    has_regions,
    info_entries,
    make_flac_blocks,
    make_mark_chunk,
    read_tags,
)

ContainerName = Literal["wav", "bw64", "flac", "aiff"]
BLOCK: Final = 65_536
_SUBTYPES: Final[dict[DepthName, str]] = {"8": "PCM_S8", "16": "PCM_16", "24": "PCM_24", "32": "PCM_32"}
_CHUNKS: Final = {
    b"bext": "the broadcast extension (bext)", b"iXML": "iXML", b"cue ": "cue points", b"smpl": "loops", b"ID3 ": "ID3",
    b"id3 ": "ID3", b"_PMX": "XMP", b"cart": "cart", b"axml": "axml",
    b"LIST adtl": "labels", b"LIST INFO": "tags",
}  # fmt: skip


@dataclass(frozen=True)
class Container:
    """A format besides WAV, and what it holds at most. Above `coarse` its sample rates are multiples of 10; `tags` are
    the libsndfile names of those that it has a place for; `keeps_chunks` says that those of a WAV go in as they are.
    """

    name: ContainerName
    title: str
    extension: str
    depths: frozenset[DepthName]
    channels: int
    rate: int
    coarse: int
    bytes: int
    tags: frozenset[str]
    media_type: str
    keeps_chunks: bool = False
    has_markers: bool = False  # as AIFF has: cue points become them

    @property
    def keeps_start_time(self) -> bool:
        """Whether a file says when it starts: that is in a chunk of a WAV."""
        return self.keeps_chunks

    def refusal(self, form: Form, encoding: Encoding) -> str | None:
        """Why a clip can't be delivered in this format; None where it can."""
        if encoding.depth not in self.depths:
            most = max(map(int, self.depths))
            what = "float" if encoding.is_float else f"{encoding.bits}-bit"
            return f"{self.title} holds integers of up to {most} bits, not {what} samples: choose a depth"
        if form.channels > self.channels:
            return f"{self.title} holds up to {self.channels} channels, not {form.channels}"
        if form.rate > self.rate:
            return f"{self.title} holds sample rates of up to {self.rate:,} Hz, not {form.rate:,}"
        if form.rate > self.coarse and form.rate % 10:
            return f"{self.title} holds sample rates above {self.coarse:,} Hz in steps of 10 Hz, not {form.rate:,}"
        if form.frames * form.channels * encoding.width > self.bytes:
            return f"{self.title} holds up to {self.bytes / 1e9:.1f} GB"
        return None

    def left_behind(self, form: Form, carried: Carried) -> list[str]:
        """What of a source has no place in this format, in words."""
        if self.keeps_chunks:
            return list(dict.fromkeys(chunk_title(name) for name, body in carried if not fits_in_flac(body)))
        lost = ["the start time"] if form.start_time is not None else []
        for name, body in carried:
            if name == b"LIST" and body[:4] == b"adtl":
                lost += ["the lengths of regions"] if has_regions(carried) else []
            elif name == b"LIST":
                kept_tags = self.tags & {TAGS[tag] for tag, _ in info_entries(body) if tag in TAGS}
                known_tags = {tag for tag, _ in info_entries(body)}
                lost += ["other LIST entries"] if len(kept_tags) < len(known_tags) or not known_tags else []
            elif name != b"cue " or not self.has_markers:
                lost.append(chunk_title(name))
        return list(dict.fromkeys(lost))

    def encode(self, wav: WavFile, carried: Carried, path: Path, watch: Callable[[int], None]) -> HashingWriter:
        """Write the samples of a WAV, and what of `carried` has a place, and flush it; what was meant to be written.

        Raises ProofFailedError or DiskFullError.
        """
        import soundfile

        form = wav.form
        with naming_disk_errors(path.name), path.open("xb", buffering=0) as file:
            recorder = HashingWriter(file.fileno())
            blocks = make_flac_blocks(carried) if self.keeps_chunks else b""
            try:
                with soundfile.SoundFile(
                    InsertingWriter(recorder, blocks, AFTER_STREAMINFO) if blocks else recorder,
                    "w",
                    form.rate,
                    form.channels,
                    _SUBTYPES[form.stored.depth],
                    format=self.title,
                ) as out:
                    for tag, text in read_tags(carried):
                        if tag in self.tags:
                            setattr(out, tag, text)
                    for block in _blocks(wav):
                        out.write(block)
                        watch(block.size)
            except (soundfile.SoundFileError, AssertionError) as error:
                raise recorder.error or ProofFailedError(f"{path.name} could not be encoded as {self.title}") from error
            if self.has_markers and (marks := make_mark_chunk(carried)):
                _append(recorder, marks)
            if recorder.error:
                raise recorder.error
            os.fsync(file.fileno())
        return recorder

    def check(self, wav: WavFile, path: Path, watch: Callable[[int], None]) -> None:
        """Decode a file and compare it with the WAV. Raises ProofFailedError where a sample differs."""
        import soundfile

        try:
            with path.open("rb") as file, soundfile.SoundFile(os.dup(file.fileno()), closefd=True) as sound:
                facts = sound.channels, sound.samplerate, sound.subtype
                if facts != (wav.form.channels, wav.form.rate, _SUBTYPES[wav.form.stored.depth]):
                    raise ProofFailedError(f"{path.name} has the wrong format after encoding")
                at = 0
                for block in _blocks(wav):
                    read_back = sound.read(len(block), dtype="int32", always_2d=True)
                    if not np.array_equal(read_back, block):
                        raise ProofFailedError(
                            f"{path.name} does not decode to what was encoded (frames {at:,} to {at + len(block):,})"
                        )
                    at += len(block)
                    watch(block.size)
                if len(sound.read(1, always_2d=True)):
                    raise ProofFailedError(f"{path.name} decodes to extra samples")
        except (soundfile.SoundFileError, AssertionError, RuntimeError) as error:
            raise ProofFailedError(f"{path.name} can't be decoded again") from error


FLAC: Final = Container(
    "flac", "FLAC", ".flac", frozenset({"8", "16", "24"}), 8, 655_350, 65_535, 2**62, frozenset(TAGS.values()),
    "audio/flac", keeps_chunks=True,
)  # fmt: skip
AIFF: Final = Container(
    "aiff", "AIFF", ".aiff", frozenset(_SUBTYPES), 64, 768_000, 768_000, 2**32 - 2**16,
    frozenset({"title", "artist", "comment", "copyright"}), "audio/aiff",
    has_markers=True,
)  # fmt: skip
BY_NAME: Final[dict[ContainerName, Container | None]] = {"wav": None, "bw64": None, "flac": FLAC, "aiff": AIFF}
MEDIA_TYPES: Final = {".wav": "audio/wav"} | {one.extension: one.media_type for one in BY_NAME.values() if one}


def chunk_title(name: bytes) -> str:
    """What a chunk is called in words, by its name or its kind."""
    return _CHUNKS.get(name, f"the chunk {name.decode('latin-1').strip()}")


def _append(recorder: HashingWriter, chunk: bytes) -> None:
    """Add a chunk to the end of an AIFF, and its length to that of the form."""
    size = recorder.seek(0, os.SEEK_END)
    padding = bytes(size & 1)
    recorder.write(padding + chunk)
    recorder.seek(4)
    recorder.write(struct.pack(">I", size + len(padding) + len(chunk) - 8))


def get_extension(name: ContainerName) -> str:
    container = BY_NAME[name]
    return ".wav" if container is None else container.extension


def keeps_start_time(name: ContainerName) -> bool:
    """Whether files of this format say when they start."""
    container = BY_NAME[name]
    return container is None or container.keeps_start_time


def find_container(suffix: str) -> ContainerName | None:
    """The format that a file's ending stands for, in any case, None where there is none."""
    suffix = {".aif": ".aiff"}.get(suffix.lower(), suffix.lower())
    return next((name for name in BY_NAME if get_extension(name) == suffix), None)


def encode_file(
    container: Container,
    wav_path: Path,
    written: WrittenFile,
    carried: Carried,
    path: Path,
    watch: Callable[[int], None],
) -> WrittenFile:
    """What became of a proved WAV in another format: written, decoded again, flushed and read back from the disk."""
    with WavFile(wav_path, path.name, being_written=True) as wav:
        expected = container.encode(wav, carried, path, watch)
        container.check(wav, path, watch)
    stored = read_stored(path, HashingWriter.HEAD)
    if not expected.matches(stored):
        raise ProofFailedError(f"{path.name} could not be read back as it was written")
    return replace(written, xxh128=stored.xxh128, read_back=stored.read_back)


def _blocks(wav: WavFile) -> Iterator[NDArray[np.int32]]:
    """The samples as libsndfile takes and gives them: integers at the top of 32 bits."""
    for start in range(0, wav.form.frames, BLOCK):
        raw = np.empty(min(BLOCK, wav.form.frames - start) * wav.block_align, np.uint8)
        wav.read_raw_into(raw, start)
        yield integers_at_top(raw, wav.encoding).reshape(-1, wav.form.channels)
