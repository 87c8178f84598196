"""Encode: left and right become mid (what both share) and side (what sets them apart), on one clip.

    half    mid = (left + right) / 2     side = (left − right) / 2
    power   mid = (left + right) / √2    side = (left − right) / √2

`half` keeps the level of what stands in the centre and cannot clip; a half step of the last bit appears, so the
result is stored one bit deeper, and decode gives every sample back. `power` keeps the energy. Exact return in
integers by one more bit: compare RFC 9639 (FLAC), channel decorrelation, where the bit that mid loses is side's lowest.
"""

from collections.abc import Sequence
from typing import ClassVar, Literal

from pydantic import Field

from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import SCALES, Example, Scale, Turn
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, matrix_outcome


class Encode(Turn):
    accepts: ClassVar = (Accepts(channels=(2, 2)),)
    example: ClassVar = Example({}, (2,))
    extra_bits: ClassVar[int] = 1

    kind: Literal["encode"] = "encode"
    scale: Scale = Field(default="half", description="`half` keeps the level of the centre, `power` the energy.")

    @property
    def words(self) -> str:
        return "encode to mid/side"

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        clip = inputs[0]
        k = SCALES[self.scale]
        return matrix_outcome(clip, [[k, k], [k, -k]], f"{clip.name}_ms")

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        law = "(L ± R) / 2" if self.scale == "half" else "(L ± R) / √2"
        return f"Encodes {inputs[0].name} to mid on channel 1 and side on channel 2: {law}."
