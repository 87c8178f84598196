"""Decode: mid and side become left and right. Both copies of the side always move together.

    half    left = mid + g·side            right = mid − g·side
    power   left = (mid + g·side) / √2     right = (mid − g·side) / √2

g is the level of the side. With g = 1 it undoes encode, and `half` needs no more bits than go in. An inverted
side swaps left and right. Geometry of the microphones: Streicher and Dooley, J. Audio Eng. Soc. 33 (1985).
"""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.form import speaker_mask
from wedge_turn.core.naming import common_name, find_set, find_sets, without_mid_side
from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import SCALES, Example, Scale, Turn, format_db, gain
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, Output, matrix_outcome
from wedge_turn.core.turns.timeline import line_up


class Decode(Turn):
    accepts: ClassVar = (Accepts(channels=(2, 2)), Accepts(2, 2, (1, 1)))
    example: ClassVar = Example({"side_db": -3}, (1, 1))

    kind: Literal["decode"] = "decode"
    scale: Scale = Field(default="half", description="The scale it was encoded with; `half` for microphones.")
    side_db: Annotated[float, Field(ge=-60, le=12, allow_inf_nan=False)] | Literal["off"] = Field(
        default=0.0, description="How much side, in dB; `off` for none."
    )
    exchange: bool = Field(default=False, description="Swaps mid and side.")
    flip_side: bool = Field(default=False, description="Inverts the side: left and right are swapped.")

    @property
    def words(self) -> str:
        return "decode" if self.side_db == 0 else f"decode, side {self._amount()}"

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        k = 1.0 if self.scale == "half" else SCALES["power"]
        side = 0.0 if self.side_db == "off" else k * gain(self.side_db) * (-1 if self.flip_side else 1)
        mid_at, side_at = self._places(inputs)
        matrix = [[0.0, 0.0], [0.0, 0.0]]
        for row, sign in ((0, 1.0), (1, -1.0)):
            matrix[row][mid_at] = k
            matrix[row][side_at] = sign * side
        clip = inputs[0]
        decoded = ClipInfo(
            self._name(inputs), clip.form.model_copy(update={"channels": 2, "speaker_mask": speaker_mask(("FL", "FR"))})
        )
        outcome = matrix_outcome(decoded, matrix)
        if len(inputs) == 1:
            return outcome
        timeline = line_up(inputs, "recorded", "pad", mid_at)
        if not timeline.overlaps:
            a, b = inputs
            raise TurnInputError(f"{a.name} and {b.name} were recorded at different times and do not overlap")
        changes = {"frames": timeline.frames, "start_time": timeline.start_time}
        output = Output(outcome.outputs[0].name, outcome.outputs[0].form.model_copy(update=changes))
        return MatrixOutcome((output,), outcome.matrix, timeline.offsets, timeline.frames, timeline.findings)

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        places = self._places(inputs)
        if len(inputs) == 2:
            mid, side = (inputs[n].name for n in places)
        else:
            mid, side = f"channel {places[0] + 1} of {inputs[0].name}", f"channel {places[1] + 1}"
        inverted = ", inverted" if self.flip_side else ""
        if self.side_db == "off":
            return f"Puts {mid} (mid) on left and right; the side is left out."
        return f"Decodes {mid} (mid) and {side} (side{inverted}{self._at()}): left is mid + side, right is mid − side."

    def groups(self, names: Sequence[str], channels: Sequence[int]) -> list[tuple[int, ...]]:
        """Clips of two channels each by itself; mono clips in pairs of mid and side as their names say."""
        mono = [n for n, count in enumerate(channels) if count == 1]
        if len(mono) <= 2:
            pairs = [tuple(mono)] if mono else []
        else:
            sets, _ = find_sets([names[n] for n in mono])
            pairs = [tuple(mono[i] for i in match.members) for match in sets if len(match.members) == 2]
            alone = set(mono) - {n for pair in pairs for n in pair}
            if alone:
                raise TurnInputError(f"no other name makes mid and side with {names[min(alone)]}")
        return [*pairs, *((n,) for n in range(len(names)) if n not in mono)]

    def _places(self, inputs: Sequence[ClipInfo]) -> tuple[int, int]:
        """Where mid and side are among the channels that go in."""
        name_set = find_set([clip.name for clip in inputs]) if len(inputs) == 2 else None
        mid, side = name_set.members if name_set is not None and name_set.kind == "mid-side" else (0, 1)
        return (side, mid) if self.exchange else (mid, side)

    def _name(self, inputs: Sequence[ClipInfo]) -> str:
        if len(inputs) == 2:
            return common_name([clip.name for clip in inputs])
        return without_mid_side(inputs[0].name) or inputs[0].name

    def _at(self) -> str:
        return "" if self.side_db == 0 else f", {self._amount()}"

    def _amount(self) -> str:
        return "off" if self.side_db == "off" else format_db(self.side_db)
