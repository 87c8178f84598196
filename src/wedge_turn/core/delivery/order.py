"""What to deliver and how: depths, dither, the range of time, and the names of the files."""

from dataclasses import dataclass
from typing import Final, Literal

import numpy as np

from wedge_turn.core.audio.encoding import BY_DEPTH, Encoding
from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.pcm import rails, step
from wedge_turn.core.delivery.copies import Copy
from wedge_turn.core.engine import Clip, Engine
from wedge_turn.core.naming import safe_file_names, split_name
from wedge_turn.core.turns import Trim

DepthChoice = Literal["same", "16", "24", "32", "float"]
_FIRST_BLOCK: Final = 4_096
_BLOCK: Final = 65_536


@dataclass(frozen=True)
class Order:
    """References to clips, and how to write them. Dither is added only where a depth does not hold the samples; `range`
    is what each clip is trimmed to, the whole of it where there is none. `copies` are files that go along as they are.
    """

    refs: tuple[str, ...]
    depth: DepthChoice = "same"
    dither: bool = True
    range: Trim | None = None
    overwrite: bool = False
    copies: tuple[Copy, ...] = ()


def file_names(engine: Engine, order: Order) -> list[str]:
    """The names the files of an order will have, in the order of its references, then of its copies."""
    names = [engine.sheet.info(ref).name for ref in order.refs]
    return safe_file_names([*((name, ".wav") for name in names), *(split_name(copy.name) for copy in order.copies)])


def output_encoding(form: Form, depth: DepthChoice) -> Encoding:
    """The encoding a clip is written in: its own, or the one asked for."""
    return form.stored if depth == "same" else BY_DEPTH[depth]


def holds_exactly(clip: Clip, encoding: Encoding) -> bool:
    """Whether an encoding holds every sample of a clip as it is: because its turns need no more bits, or because its
    samples happen to fit, as 24-bit samples in a float file do. Reads the clip up to the first sample that does not.
    """
    if clip.fits(encoding):
        return True
    if encoding.is_float:
        return False
    low, high = rails(encoding)
    at, frames = 0, _FIRST_BLOCK
    while at < clip.form.frames:
        block = clip.read(at, min(frames, clip.form.frames - at))
        steps = block / step(encoding)
        if (steps != np.rint(steps)).any() or block.min() < low or block.max() > high:
            return False
        at, frames = at + frames, _BLOCK
    return True
