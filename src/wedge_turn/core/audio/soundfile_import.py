"""Working copies: any other format that libsndfile reads, decoded once into a PCM WAV.

Tags become a LIST chunk of it, an AIFF's markers cue points, and what a FLAC keeps of a WAV chunks again; all of it
travels from there. Frames are counted by reading until nothing comes, because a header's count is only a claim. The
file is opened by descriptor, so that its content and not its name decides, and no message holds its path.
"""

import io
import os
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO, Final

from numpy.typing import NDArray

from wedge_turn.core.audio.pcm import Block
from wedge_turn.core.audio.working_copy import BLOCK, write_working_copy
from wedge_turn.core.errors import BadHeaderError, BrokenAudioError, NoFramesError, NotAudioError, naming_disk_errors
from wedge_turn.core.form import Encoding, EncodingName, Form, check_limits
from wedge_turn.core.metadata import (
    TAGS,
    Recorded,
    read_facts,
    read_flac_chunks,
    read_markers,
    read_recorded,
    read_starts,
    with_tags,
)

if TYPE_CHECKING:
    import soundfile

_FLAC_HEAD: Final = 26  # bytes up to the end of the number of frames in STREAMINFO
# Formats that libsndfile tells by their first bytes; the others it guesses from a name or from anything.
KNOWN: Final = {
    "AIFF": "AIFF", "AU": "AU", "AVR": "AVR", "CAF": "CAF", "FLAC": "FLAC", "IRCAM": "IRCAM", "MP3": "MP3",
    "NIST": "NIST", "OGG": "Ogg", "RF64": "RF64", "SVX": "IFF", "VOC": "VOC", "W64": "W64", "WAV": "WAV",
    "WAVEX": "WAV",
}  # fmt: skip
_CONTAINERS: Final = {"VORBIS": "Ogg Vorbis", "OPUS": "Opus"}
_INTEGER: Final[dict[str, EncodingName]] = {
    "PCM_S8": "s16", "PCM_U8": "u8", "PCM_16": "s16", "PCM_24": "s24", "PCM_32": "s32", "ULAW": "s16",
    "ALAW": "s16", "ALAC_16": "s16", "ALAC_20": "s24", "ALAC_24": "s24", "ALAC_32": "s32",
}  # fmt: skip


def decode_to_wav(source: Path, target: Path, name: str) -> tuple[Form, Recorded]:
    """Write a PCM WAV with the samples of `source` to `target`; return its form with the original container, and what
    the file says about itself.

    Integer formats keep their integers; floats and lossy formats become 32-bit float, 64-bit stays. A lossy
    format has no depth: its form says 24 bit, which is what is made of it unless the user chooses another.
    Raises NotAudioError, NoFramesError, BrokenAudioError (BadHeaderError), LimitError or DiskFullError naming `name`.
    """
    import soundfile  # only where it is needed: loading it takes longer than reading a WAV

    claimed = _flac_frames(source)
    with source.open("rb") if claimed is None else _UncountedFlac(source) as opened:
        try:
            sound = _reader(opened)
        except (soundfile.LibsndfileError, TypeError, OSError) as error:
            raise NotAudioError(f"{name} is not a readable audio file") from error
        with sound:
            if sound.format not in KNOWN:
                raise NotAudioError(f"{name} is not a readable audio file")
            check_limits(name, sound.channels, sound.samplerate)
            encoding: EncodingName = _INTEGER.get(sound.subtype, "f64" if sound.subtype == "DOUBLE" else "f32")
            form = Form(
                channels=sound.channels,
                frames=0,
                rate=sound.samplerate,
                encoding=encoding,
                container=_CONTAINERS.get(sound.subtype, KNOWN[sound.format]),
            )
            with naming_disk_errors(name):
                kept = with_tags(
                    read_flac_chunks(source) + read_markers(source) + read_starts(source, form.rate),
                    {tag: getattr(sound, tag) for tag in TAGS.values()},
                )
                frames = write_working_copy(target, form, kept, _blocks(sound, form.stored, name))
                said = read_recorded(kept).model_copy(update={"encoder": sound.software})
    if claimed and frames != claimed:
        raise BadHeaderError(f"{name} should have {claimed:,} frames but has {frames:,}")
    if frames == 0:
        raise NoFramesError(f"{name} contains no samples")
    facts = read_facts(kept, form.channels, form.rate) | {"frames": frames}
    if form.lossy:
        facts["encoding"] = "s24"
    return form.model_copy(update=facts), said


def _flac_frames(source: Path) -> int | None:
    """The number of frames in a FLAC's STREAMINFO (RFC 9639), 0 where it says none; None for anything else."""
    with source.open("rb") as file:
        head = file.read(_FLAC_HEAD)
    if len(head) < _FLAC_HEAD or head[:4] != b"fLaC":
        return None
    return int.from_bytes(head[18:26], "big") & (1 << 36) - 1


def _reader(file: BinaryIO | io.FileIO) -> "soundfile.SoundFile":
    """A SoundFile that is read from front to back: it never seeks, which a stream of unknown length cannot."""
    import soundfile

    class FrontToBack(soundfile.SoundFile):  # type: ignore[misc]  # soundfile has no types
        def seekable(self) -> bool:
            return False

    if isinstance(file, _UncountedFlac):
        return FrontToBack(file)
    sound = FrontToBack(os.dup(file.fileno()), closefd=True)
    if soundfile.SoundFile.seekable(sound):
        # An Opus is at its pre-skip when it is opened, and at its first sample only when it is sent there.
        sound.seek(0)
    return sound


class _UncountedFlac(io.FileIO):
    """A FLAC whose STREAMINFO says no number of frames, so that libsndfile reads all there are."""

    def readinto(self, buffer: Any) -> int:
        at = self.tell()
        count = super().readinto(buffer) or 0
        view = memoryview(buffer).cast("B")
        for place in range(21, 26):  # the low half of the first byte, and all of the others
            if at <= place < at + count:
                view[place - at] = view[place - at] & 0xF0 if place == 21 else 0
        return count


def _blocks(sound: "soundfile.SoundFile", stored: Encoding, name: str) -> Iterator[Block]:
    """The samples as float64: integers stand at the top of 32 bits."""
    frames = 0
    while True:
        try:
            block: NDArray[Any] = sound.read(BLOCK, dtype="float64" if stored.is_float else "int32", always_2d=True)
        except (RuntimeError, AssertionError) as error:
            reason = getattr(error, "error_string", "its data is damaged").strip()
            raise BrokenAudioError(f"{name} cannot be read past frame {frames:,}: {reason}") from error
        if len(block) == 0:
            return
        yield block if stored.is_float else block / 2.0**31
        frames += len(block)
