"""Align: channels are moved against each other by whole samples.

    out_i[t] = in_i[t − d_i + min d]

The earliest channel stays where it is and the others are moved later; the clip becomes longer by as much, so nothing
is lost. Exact.
"""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import BeforeValidator, Field

from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.turns.accepts import MOST_CHANNELS, Accepts
from wedge_turn.core.turns.base import Example, Turn, listed
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, Output

LONGEST_DELAY = 10_000_000


class Align(Turn):
    accepts: ClassVar = (Accepts(channels=(2, MOST_CHANNELS)),)
    example: ClassVar = Example({"delay": (0, 14)}, (2,))

    kind: Literal["align"] = "align"
    delay: Annotated[
        tuple[Annotated[int, Field(ge=-LONGEST_DELAY, le=LONGEST_DELAY)], ...], BeforeValidator(listed)
    ] = Field(default=(0, 0), min_length=2, max_length=64, description="How much later each channel goes, in samples.")

    @property
    def words(self) -> str:
        return "align by " + ", ".join(str(d) for d in self._later()) + " samples"

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        clip = inputs[0]
        if clip.form.channels != len(self.delay):
            raise TurnInputError(
                f"{clip.name} has {clip.form.channels} channels; align was given {len(self.delay)} delays"
            )
        offsets = self._later()
        form = clip.form.model_copy(update={"frames": clip.form.frames + max(offsets), "container": "WAV"})
        return MatrixOutcome((Output(clip.name, form),), np.eye(clip.form.channels), offsets, form.frames)

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        rate = inputs[0].form.rate
        moved = [
            f"channel {n} by {d:,} samples ({1000 * d / rate:.2f} ms)" for n, d in enumerate(self._later(), 1) if d
        ]
        return f"{inputs[0].name}: {' and '.join(moved)} later." if moved else f"{inputs[0].name} stays as it is."

    def _later(self) -> tuple[int, ...]:
        return tuple(d - min(self.delay) for d in self.delay)
