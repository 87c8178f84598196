"""Polarity: chosen channels are inverted.

    out_i[t] = −in_i[t]  for the chosen channels

Exact, and its own inverse. The lowest integer value has no counterpart: inverted, it becomes the highest value,
and is counted and reported as clipped.
"""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import AfterValidator, BeforeValidator, Field

from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import Example, Turn, split_commas
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, matrix_outcome

Word = Literal["left", "right", "both"]


def _numbers(value: object) -> object:
    if isinstance(value, str) and value not in ("left", "right", "both"):
        return split_commas(value)
    return value


def _counted(value: "Word | tuple[int, ...]") -> "Word | tuple[int, ...]":
    return value if isinstance(value, str) else tuple(sorted(set(value)))


Channels = Annotated[
    Word | Annotated[tuple[Annotated[int, Field(ge=1, le=64)], ...], Field(min_length=1)],
    BeforeValidator(_numbers),
    AfterValidator(_counted),
]


class Polarity(Turn):
    accepts: ClassVar = (Accepts(),)
    example: ClassVar = Example({"channels": "both"}, (2,))

    kind: Literal["polarity"] = "polarity"
    channels: Channels = Field(
        default="left",
        description="Which channels are inverted: `left`, `right`, `both`, or numbers from 1 on, as `1,3`.",
    )

    @property
    def words(self) -> str:
        return f"invert {self._channel_names()}"

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        clip = inputs[0]
        signs = np.ones(clip.form.channels)
        signs[[n - 1 for n in self._chosen(clip)]] = -1.0
        return matrix_outcome(clip, np.diag(signs))

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        channels = f"the {self.channels} channel" if self.channels in ("left", "right") else self._channel_names()
        return f"Inverts the polarity of {channels} of {inputs[0].name}."

    def _chosen(self, clip: ClipInfo) -> tuple[int, ...]:
        count = clip.form.channels
        if isinstance(self.channels, tuple):
            chosen = self.channels
        elif self.channels == "both" or count == 1:
            chosen = tuple(range(1, count + 1))
        else:
            chosen = (1,) if self.channels == "left" else (2,)
        if max(chosen) > count:
            raise TurnInputError(f"{clip.name} has {count} channels; there is no channel {max(chosen)} to invert")
        return chosen

    def _channel_names(self) -> str:
        if isinstance(self.channels, str):
            return "both channels" if self.channels == "both" else self.channels
        return "channel " + ", ".join(map(str, self.channels))
