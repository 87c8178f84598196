"""Swap: the sides of a stereo clip change places, in one step.

    left' = right,  right' = left

Exact, and its own inverse.
"""

from collections.abc import Sequence
from typing import ClassVar, Literal

from wedge_turn.core.turns.base import ClipInfo, Outcome, Turn, same_axis, stereo


class Swap(Turn):
    takes: ClassVar[str] = "one stereo clip"

    kind: Literal["swap"] = "swap"

    def outcome(self, inputs: Sequence[ClipInfo]) -> Outcome:
        return same_axis(stereo("swap", inputs), [[0, 1], [1, 0]])

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        return f"Left and right of {inputs[0].name} change places; nothing else happens to them."
