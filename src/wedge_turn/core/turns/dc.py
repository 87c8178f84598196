"""DC: a constant offset is removed from each channel.

    out_i[t] = in_i[t] − offset_i / 100

Of integers the offset is a whole number of steps of their depth, so that no sample is rounded: adding it again gives
the samples that went in. What the offset is, `inspect` measures.
"""

from collections.abc import Callable, Sequence
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import BeforeValidator, Field

from wedge_turn.core.audio import Block
from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.pages import PAGE
from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import Computation, Example, Turn, split_commas
from wedge_turn.core.turns.outcome import ClipInfo, WindowOutcome, matrix_outcome

Percent = Annotated[float, Field(ge=-100, le=100, allow_inf_nan=False)]


class DC(Turn):
    accepts: ClassVar = (Accepts(),)
    example: ClassVar = Example({"offset": (5.0, -0.125)}, (2,))

    kind: Literal["dc"] = "dc"
    offset: Annotated[tuple[Percent, ...], BeforeValidator(split_commas)] = Field(
        default=(0.0,),
        min_length=1,
        max_length=64,
        description="The offset of each channel in % of full scale, or one for all of them.",
    )

    @property
    def words(self) -> str:
        return "remove DC"

    def _outcome(self, inputs: Sequence[ClipInfo]) -> WindowOutcome:
        (clip,) = inputs
        self._offsets(clip)
        channels = clip.form.channels
        outputs = matrix_outcome(clip, np.eye(channels)).outputs
        exact = not clip.form.stored.is_float
        return WindowOutcome(outputs, np.eye(channels), clip.form.frames, keeps_samples=True, exact=exact)

    def computation(self, read: Callable[[int, int], Block], clip: ClipInfo) -> Computation:
        offsets = np.array(self._offsets(clip))
        return Computation(lambda start: (read(start, PAGE) - offsets,), (0,))

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        (clip,) = inputs
        if len(self.offset) == 1:
            return f"Removes an offset of {_percent(self.offset[0])} from {clip.name}."
        each = ", ".join(f"{_percent(offset)} from channel {n}" for n, offset in enumerate(self.offset, 1) if offset)
        return f"Removes the offset of {clip.name}: {each or 'none'}."

    def _offsets(self, clip: ClipInfo) -> list[float]:
        """The offset of each channel in full scale. Raises TurnInputError where as many were not given."""
        channels, stored = clip.form.channels, clip.form.stored
        offsets = self.offset * channels if len(self.offset) == 1 else self.offset
        if len(offsets) != channels:
            raise TurnInputError(f"{clip.name} has {channels} channels; dc was given {len(offsets)} offsets")
        if stored.is_float:
            return [percent / 100 for percent in offsets]
        steps = 2.0 ** (stored.bits - 1)
        return [round(percent / 100 * steps) / steps for percent in offsets]


def _percent(offset: float) -> str:
    return f"{offset:+.4g} %".replace("-", "−")
