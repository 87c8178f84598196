"""Writing a working copy: a PCM WAV whose length is not known before its last block."""

from collections.abc import Iterable
from pathlib import Path
from typing import Final

from wedge_turn.core.audio.pcm import Block, encode
from wedge_turn.core.audio.wavfile import build_header, build_trailer
from wedge_turn.core.form import Form
from wedge_turn.core.metadata import Carried

BLOCK: Final = 65_536  # frames


def write_working_copy(target: Path, form: Form, kept: Carried, blocks: Iterable[Block]) -> int:
    """Write blocks of float64 (frames, channels) as a WAV of this form with these chunks; return how many frames."""
    frames = 0
    with target.open("wb") as out:
        out.write(build_header(form, kept, roomy=True))
        for block in blocks:
            raw, _ = encode(block, form.stored)
            out.write(raw.data)
            frames += len(block)
        done = form.model_copy(update={"frames": frames})
        out.write(build_trailer(done))
        out.seek(0)
        out.write(build_header(done, kept, roomy=True))
    return frames
