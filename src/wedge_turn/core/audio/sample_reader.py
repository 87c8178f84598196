"""Reading with libsndfile from front to back, as far as a file can be read, and behind the damage where that is a FLAC.

The file is opened by descriptor, so that its content and not its name decides, and no message holds its path.
"""

import os
from collections.abc import Iterator, Mapping
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.audio.flac_frames import FlacFrame, find_frames, open_from_frame
from wedge_turn.core.audio.pcm import Block
from wedge_turn.core.audio.spliced import SplicedFile
from wedge_turn.core.audio.working_copy import BLOCK
from wedge_turn.core.errors import Error, NotAudioError
from wedge_turn.core.form import Encoding, Form

if TYPE_CHECKING:
    import soundfile


class SoundDecoder:
    """Opens a file for decoding, as often as needed; `patches` replace bytes of its header that are wrong."""

    def __init__(self, path: Path, name: str, patches: Mapping[int, bytes]) -> None:
        self.path, self.name, self._patches = path, name, patches

    @contextmanager
    def open(self, after: FlacFrame | None = None) -> Iterator["soundfile.SoundFile"]:
        """From its start, or from a frame of a FLAC on. Raises NotAudioError."""
        import soundfile  # only where it is needed: loading it takes longer than reading a WAV

        with ExitStack() as stack:
            try:
                if after is not None:
                    sound = _front_to_back(stack.enter_context(open_from_frame(self.path, after)))
                elif self._patches:
                    sound = _front_to_back(stack.enter_context(SplicedFile.patching(self.path, self._patches)))
                else:
                    sound = _from_descriptor(stack.enter_context(self.path.open("rb")))
            except (soundfile.LibsndfileError, TypeError, OSError) as error:
                raise NotAudioError(f"{self.name} is not a readable audio file") from error
            yield stack.enter_context(sound)


def _from_descriptor(file: BinaryIO) -> "soundfile.SoundFile":
    import soundfile

    sound = _front_to_back(os.dup(file.fileno()), closefd=True)
    if soundfile.SoundFile.seekable(sound):
        # An Opus is at its pre-skip when it is opened, and at its first sample only when it is sent there.
        sound.seek(0)
    return sound


def _front_to_back(file: Any, **options: bool) -> "soundfile.SoundFile":
    """A SoundFile that is read from front to back: it never seeks, which a stream of unknown length cannot."""
    import soundfile

    class FrontToBack(soundfile.SoundFile):  # type: ignore[misc]  # soundfile has no types
        def seekable(self) -> bool:
            return False

    return FrontToBack(file, **options)


class SampleReader:
    """The samples of a file, as far as they can be read. Behind a gap in the middle a FLAC goes on, with silence as
    long as its frames say; other files end there. `problem` says where the first of them was lost, and `silent` is how
    many frames are silence.
    """

    def __init__(self, decoder: SoundDecoder, form: Form) -> None:
        self._decoder, self._form = decoder, form
        self.silent = 0
        self.problem = self._reason = ""

    def read(self, sound: "soundfile.SoundFile") -> Iterator[Block]:
        """Blocks of float64 (frames, channels): integers stand at the top of 32 bits."""
        done = 0  # frames
        after: FlacFrame | None = None
        with ExitStack() as stack:
            while True:
                for block in self._blocks(sound):
                    yield block
                    done += len(block)
                if not self._reason:
                    return
                why = self._reason
                # Only single frames lead right up to what is lost.
                with self._decoder.open(after) as again:
                    _skip(again, done - (after.sample if after else 0), self._form.stored)
                    singly = list(self._blocks(again, 1))
                if singly:
                    yield np.concatenate(singly)
                    done += len(singly)
                self.problem = self.problem or f"{self._decoder.name} cannot be read past frame {done:,}: {why}"
                stack.close()
                after = self._find_next(done)
                if after is None:
                    return
                for at in range(done, after.sample, BLOCK):
                    yield np.zeros((min(BLOCK, after.sample - at), self._form.channels))
                self.silent += after.sample - done
                done = after.sample
                sound = stack.enter_context(self._decoder.open(after))

    def _blocks(self, sound: "soundfile.SoundFile", size: int = BLOCK) -> Iterator[Block]:
        """Up to the end, or to the first block that can't be read: `_reason` then says why."""
        self._reason = ""
        while True:
            try:
                block = _read(sound, size, self._form.stored)
            except (RuntimeError, AssertionError) as error:
                self._reason = (
                    getattr(error, "error_string", "its data is damaged").removeprefix("Error : ").strip(" .\n")
                )
                return
            if len(block) == 0:
                return
            yield block

    def _find_next(self, done: int) -> FlacFrame | None:
        """The next frame of a FLAC that can be read."""
        if self._form.container != "FLAC":
            return None
        for frame in find_frames(self._decoder.path, done):
            try:
                with self._decoder.open(frame) as sound:
                    if len(_read(sound, 1, self._form.stored)):
                        return frame
            except (Error, RuntimeError, AssertionError):
                continue
        return None


def _skip(sound: "soundfile.SoundFile", frames: int, stored: Encoding) -> None:
    for at in range(0, frames, BLOCK):
        _read(sound, min(BLOCK, frames - at), stored)


def _read(sound: "soundfile.SoundFile", frames: int, stored: Encoding) -> Block:
    block: NDArray[Any] = sound.read(frames, dtype="float64" if stored.is_float else "int32", always_2d=True)
    return block if stored.is_float else block / 2.0**31
