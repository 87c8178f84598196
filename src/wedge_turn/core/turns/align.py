"""Align: channels are delayed, each by its own number of samples or fractions of one.

    out_i[t] = in_i[t − d_i + min d]

The earliest channel stays where it is and the others are moved later; the clip becomes longer by as much, so nothing
is lost. Whole samples are exact. A fraction of a sample is a windowed sinc with an error of at most −120 dB up to 0.9
of half the sample rate (`wedge_turn.core.turns.shifting`); channels beside it that move by whole samples stay exact.
"""

import math
from collections.abc import Callable, Sequence
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import BeforeValidator, Field

from wedge_turn.core.audio import Block
from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.pages import PAGE
from wedge_turn.core.turns.accepts import MAX_CHANNELS, Accepts
from wedge_turn.core.turns.base import Computation, Example, Turn, split_commas
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, Outcome, Output, WindowOutcome
from wedge_turn.core.turns.shifting import FractionalShift, Samples, format_samples, int_if_integral


class Align(Turn):
    accepts: ClassVar = (Accepts(channels=(2, MAX_CHANNELS)),)
    example: ClassVar = Example({"delay": (0, 14)}, (2,))

    kind: Literal["align"] = "align"
    delay: Annotated[tuple[Samples, ...], BeforeValidator(split_commas)] = Field(
        default=(0, 0),
        min_length=2,
        max_length=64,
        description="How much later each channel goes, in samples, fractions too.",
    )

    @property
    def words(self) -> str:
        return "align by " + ", ".join(format_samples(d) for d in self._later()) + " samples"

    def _outcome(self, inputs: Sequence[ClipInfo]) -> Outcome:
        clip = inputs[0]
        if clip.form.channels != len(self.delay):
            raise TurnInputError(
                f"{clip.name} has {clip.form.channels} channels; align was given {len(self.delay)} delays"
            )
        offsets = self._later()
        frames = clip.form.frames + math.ceil(max(offsets))
        form = clip.form.model_copy(update={"frames": frames, "container": "WAV"})
        outputs, matrix = (Output(clip.name, form),), np.eye(clip.form.channels)
        whole_frames = tuple(int(offset) for offset in offsets)
        if whole_frames == offsets:
            return MatrixOutcome(outputs, matrix, whole_frames, frames)
        return WindowOutcome(outputs, matrix, frames, keeps_samples=True)

    def computation(self, read: Callable[[int, int], Block], clip: ClipInfo) -> Computation:  # noqa: ARG002
        shifted = FractionalShift(read, self._later())
        return Computation(lambda start: (shifted.read(start, PAGE),), (0,))

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        rate = inputs[0].form.rate
        moved = [
            f"channel {n} by {format_samples(d)} {'sample' if d == 1 else 'samples'} ({1000 * d / rate:.2f} ms)"
            for n, d in enumerate(self._later(), 1)
            if d
        ]
        return f"Delays {inputs[0].name}: {', '.join(moved)}." if moved else f"{inputs[0].name} is unchanged."

    def _later(self) -> tuple[float, ...]:
        """By how many samples each channel is moved; to a millionth, so that differences of fractions are clean."""
        return tuple(int_if_integral(round(d - min(self.delay), 6)) for d in self.delay)
