"""Writing a working copy: a PCM WAV whose length is not known before its last block."""

import os
from collections.abc import Iterable
from pathlib import Path
from typing import Final

from wedge_turn.core.audio.pcm import Block, encode
from wedge_turn.core.audio.wavfile import build_header, build_trailer
from wedge_turn.core.form import Form
from wedge_turn.core.metadata import Carried

BLOCK: Final = 65_536  # frames
_COPIED: Final = 1 << 20  # bytes at a time


def copy_frames(fd: int, offset: int, target: Path, form: Form, chunks: Carried) -> None:
    """Write the frames of an open file from an offset on, as many as the form says, as a WAV with these chunks."""
    left = form.frames * form.block_align
    with target.open("wb") as out:
        out.write(build_header(form, chunks))
        while left:
            raw = os.pread(fd, min(left, _COPIED), offset)
            if not raw:
                raise EOFError
            out.write(raw)
            left, offset = left - len(raw), offset + len(raw)
        out.write(build_trailer(form))


def write_working_copy(target: Path, form: Form, chunks: Carried, blocks: Iterable[Block]) -> int:
    """Write blocks of float64 (frames, channels) as a WAV of this form with these chunks; return how many frames."""
    frames = 0
    with target.open("wb") as out:
        out.write(build_header(form, chunks, roomy=True))
        for block in blocks:
            raw, _ = encode(block, form.stored)
            out.write(raw.data)
            frames += len(block)
        stored_form = form.model_copy(update={"frames": frames})
        out.write(build_trailer(stored_form))
        out.seek(0)
        out.write(build_header(stored_form, chunks, roomy=True))
    return frames
