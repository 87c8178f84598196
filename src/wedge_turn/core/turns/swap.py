"""Swap: left and right of a stereo clip change places, in one step.

    left' = right,  right' = left

Exact, and its own inverse.
"""

from collections.abc import Sequence
from typing import ClassVar, Literal

from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import Example, Turn
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, matrix_outcome


class Swap(Turn):
    accepts: ClassVar = (Accepts(channels=(2, 2)),)
    example: ClassVar = Example({}, (2,))

    kind: Literal["swap"] = "swap"

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        return matrix_outcome(inputs[0], [[0, 1], [1, 0]])

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        return f"Swaps left and right of {inputs[0].name}; nothing else changes."
