"""Fold: a stereo clip becomes a mono file: one of its sides, their sum, or a blend.

    left    out = left                 right   out = right
    sum     out = k·(left + right)     k = ½ (average), 0.7071 (power), 1 (full)
    blend   out = (1 − b)·left + b·right

One side is exact. No law is hidden: with ½ what both sides share keeps its level and cannot clip, with 0.7071 what
the sides do not share keeps its energy, with 1 nothing is taken away and what both share is 6.02 dB louder
(arithmetic). What stands upside down in the other side cancels in a sum, by any law. It cannot be undone.
"""

import math
from collections.abc import Sequence
from typing import ClassVar, Final, Literal

from pydantic import Field

from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import Example, Turn
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, same_axis

Law = Literal["average", "power", "full"]
LAWS: Final[dict[Law, float]] = {"average": 0.5, "power": math.sqrt(0.5), "full": 1.0}
_WRITTEN: Final[dict[Law, str]] = {"average": "× ½", "power": "× 0.7071", "full": "× 1"}


class Fold(Turn):
    accepts: ClassVar = (Accepts(channels=(2, 2)),)
    example: ClassVar = Example({"take": "sum"}, (2,))

    kind: Literal["fold"] = "fold"
    take: Literal["left", "right", "sum", "blend"] = Field(default="sum", description="What becomes the mono file.")
    law: Law = Field(default="average", description="By how much a sum is multiplied: × ½, × 0.7071 or × 1.")
    blend: float = Field(default=0.5, ge=0, le=1, allow_inf_nan=False, description="The share of the right in a blend.")

    @property
    def words(self) -> str:
        match self.take:
            case "sum":
                return f"fold to the sum {_WRITTEN[self.law]}"
            case "blend":
                return f"fold to {100 - 100 * self.blend:g} : {100 * self.blend:g}"
            case _:
                return f"fold to {self.take}"

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        return same_axis(inputs[0], [self._row()])

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        name = inputs[0].name
        match self.take:
            case "sum":
                return f"Left and right of {name} are added and multiplied: {_WRITTEN[self.law]}. It cannot be undone."
            case "blend":
                share = 100 * self.blend
                return f"{100 - share:g} % of the left of {name} and {share:g} % of its right become one mono file."
            case _:
                return (
                    f"The {self.take} of {name} becomes a mono file, at the level it has; the other side is left out."
                )

    def _row(self) -> list[float]:
        match self.take:
            case "left":
                return [1, 0]
            case "right":
                return [0, 1]
            case "sum":
                return [LAWS[self.law]] * 2
            case "blend":
                return [1 - self.blend, self.blend]
