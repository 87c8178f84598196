"""Width: encode, change the side, decode, in one step.

    left'  = mid + w·side     right' = mid − w·side     with mid = (left + right)/2 and side = (left − right)/2

0 is mono on both channels, 1 changes nothing, 2 is twice the side. The mid keeps its level.
"""

from collections.abc import Sequence
from typing import ClassVar, Literal

from pydantic import Field

from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import Example, Turn
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, matrix_outcome


class Width(Turn):
    accepts: ClassVar = (Accepts(channels=(2, 2)),)
    example: ClassVar = Example({"width": 1.3}, (2,))

    kind: Literal["width"] = "width"
    width: float = Field(
        default=1.0, ge=0, le=4, allow_inf_nan=False, description="0 mono, 1 as it is, 2 twice the side."
    )

    @property
    def words(self) -> str:
        return f"width × {self.width:g}"

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        own, opposite = (1 + self.width) / 2, (1 - self.width) / 2
        return matrix_outcome(inputs[0], [[own, opposite], [opposite, own]])

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        return f"Multiplies the side of {inputs[0].name} by {self.width:g}; the mid keeps its level."
