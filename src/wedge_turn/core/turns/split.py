"""Split: one clip of n channels becomes n mono clips. Nothing else happens to them.

    out_i[t] = in[t, i]

Exact. Same length, rate, depth and start time. Two channels are called by `endings`; more by the names of
their speakers where the file names them, else by their numbers.
"""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import BeforeValidator, Field

from wedge_turn.core.audio.form import SPEAKERS
from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.turns.base import ClipInfo, Outcome, Output, Turn, listed, only


class Split(Turn):
    takes: ClassVar[str] = "one clip of two channels or more"

    kind: Literal["split"] = "split"
    endings: Annotated[tuple[str, ...], BeforeValidator(listed)] = Field(
        default=("_L", "_R"), min_length=2, max_length=2, description="What is added to the names of left and right."
    )

    def outcome(self, inputs: Sequence[ClipInfo]) -> Outcome:
        whole = only("split", inputs)
        channels = whole.form.channels
        if channels < 2:
            raise TurnInputError(f"{whole.name} is mono already: there is nothing to split")
        return Outcome(
            outputs=tuple(
                Output(
                    whole.name + ending,
                    whole.form.model_copy(update={"channels": 1, "speaker_mask": mask, "container": "WAV"}),
                )
                for ending, mask in zip(self._endings(whole), self._masks(whole), strict=True)
            ),
            matrix=np.eye(channels),
            offsets=(0,) * channels,
            frames=whole.form.frames,
        )

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        return f"Each channel of {inputs[0].name} becomes a mono file of its own, at the level it has."

    def _endings(self, whole: ClipInfo) -> tuple[str, ...]:
        if whole.form.channels == 2:
            return self.endings
        named = whole.form.speakers or tuple(str(n + 1) for n in range(whole.form.channels))
        return tuple(f"_{name}" for name in named)

    @staticmethod
    def _masks(whole: ClipInfo) -> tuple[int, ...]:
        speakers = whole.form.speakers
        return tuple(1 << SPEAKERS.index(s) for s in speakers) if speakers else (0,) * whole.form.channels
