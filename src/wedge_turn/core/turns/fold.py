"""Fold: a stereo clip becomes a mono file: one of its channels, their sum, or a blend.

    left    out = left                 right   out = right
    sum     out = k·(left + right)     k = ½ (average), 0.7071 (power), 1 (full)
    blend   out = (1 − b)·left + b·right

In a sum or a blend the right can be inverted first, and delayed by samples or fractions of one (advanced, where
negative): of two microphones on one source, one is often inverted or late. A fraction of a sample is a windowed sinc
(`wedge_turn.core.turns.shifting`); the file becomes longer by the delay.

One channel is exact. No law is hidden: with ½ the centre keeps its level and can't clip, with 0.7071 uncorrelated
channels keep their energy, with 1 nothing is turned down and the centre becomes 6.02 dB louder (arithmetic). What is
out of polarity cancels in a sum, by any law; the original can't be recovered from it.
"""

import math
from collections.abc import Callable, Sequence
from typing import ClassVar, Final, Literal

from pydantic import Field

from wedge_turn.core.audio import Block
from wedge_turn.core.pages import PAGE
from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import Computation, Example, Turn
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, Outcome, Output, WindowOutcome, matrix_outcome
from wedge_turn.core.turns.shifting import FractionalShift, Samples, format_samples

Law = Literal["average", "power", "full"]
LAWS: Final[dict[Law, float]] = {"average": 0.5, "power": math.sqrt(0.5), "full": 1.0}
_WRITTEN: Final[dict[Law, str]] = {"average": "× ½", "power": "× 0.7071", "full": "× 1"}


class Fold(Turn):
    accepts: ClassVar = (Accepts(channels=(2, 2)),)
    example: ClassVar = Example({"take": "sum"}, (2,))

    kind: Literal["fold"] = "fold"
    take: Literal["left", "right", "sum", "blend"] = Field(default="sum", description="What becomes the mono file.")
    law: Law = Field(default="average", description="By how much a sum is multiplied: × ½, × 0.7071 or × 1.")
    flip_right: bool = Field(default=False, description="The right is inverted, in a sum or a blend.")
    delay: Samples = Field(default=0, description="By how many samples the right goes later, in a sum or a blend.")
    blend: float = Field(default=0.5, ge=0, le=1, allow_inf_nan=False, description="The share of the right in a blend.")

    @property
    def words(self) -> str:
        match self.take:
            case "sum":
                return f"fold to mono, {_WRITTEN[self.law]}"
            case "blend":
                return f"fold to mono, {100 - 100 * self.blend:g} : {100 * self.blend:g}"
            case _:
                return f"fold to {self.take}"

    def _outcome(self, inputs: Sequence[ClipInfo]) -> Outcome:
        clip, later = inputs[0], self._later()
        outcome = matrix_outcome(clip, [self._row()])
        if not any(later):
            return outcome
        frames = clip.form.frames + math.ceil(max(later))
        output = Output(clip.name, outcome.outputs[0].form.model_copy(update={"frames": frames}))
        whole_frames = tuple(int(by) for by in later)
        if whole_frames == later:
            return MatrixOutcome((output,), outcome.matrix, whole_frames, frames)
        return WindowOutcome((output,), outcome.matrix, frames)

    def computation(self, read: Callable[[int, int], Block], clip: ClipInfo) -> Computation:  # noqa: ARG002
        shifted, (left, right) = FractionalShift(read, self._later()), self._row()

        def page(start: int) -> tuple[Block]:
            both = shifted.read(start, PAGE)
            return (left * both[:, :1] + right * both[:, 1:],)

        return Computation(page, (0,))

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        name = inputs[0].name
        match self.take:
            case "sum":
                moved, law = self._moved(), _WRITTEN[self.law]
                return f"Sums left and right of {name} to mono, {law}.{moved} The original can't be recovered from it."
            case "blend":
                share, moved = 100 * self.blend, self._moved()
                return f"Blends {100 - share:g} % of the left and {share:g} % of the right of {name} to mono.{moved}"
            case _:
                return f"Keeps the {self.take} channel of {name} as a mono file, at its original level."

    @property
    def _mixes(self) -> bool:
        return self.take in ("sum", "blend")

    def _later(self) -> tuple[float, float]:
        """By how many samples left and right go later."""
        delay = self.delay if self._mixes else 0
        return max(0, -delay), max(0, delay)

    def _moved(self) -> str:
        """What is done to the right before, as a sentence."""
        by = f"{format_samples(abs(self.delay))} {'sample' if abs(self.delay) == 1 else 'samples'}"
        changes = ["inverted"] if self.flip_right else []
        changes += [f"{'delayed' if self.delay > 0 else 'advanced'} by {by}"] if self.delay else []
        return f" The right is {' and '.join(changes)} first." if changes else ""

    def _row(self) -> list[float]:
        polarity = -1 if self.flip_right else 1
        match self.take:
            case "left":
                return [1, 0]
            case "right":
                return [0, 1]
            case "sum":
                return [LAWS[self.law], polarity * LAWS[self.law]]
            case "blend":
                return [1 - self.blend, polarity * self.blend]
