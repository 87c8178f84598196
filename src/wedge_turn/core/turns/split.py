"""Split: one clip of n channels becomes n mono clips. Nothing else happens to them.

    out_i[t] = in[t, i]

Exact. Same length, rate, depth and start time. Two channels are called by `endings`, or mid and side where the name
says that they are (`swell_ms`) and nobody says otherwise; more by the names of their speakers where the file names
them, else by their numbers.
"""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Final, Literal

import numpy as np
from pydantic import BeforeValidator, Field

from wedge_turn.core.audio.form import SPEAKERS
from wedge_turn.core.sets import without_mid_side
from wedge_turn.core.turns.accepts import MOST_CHANNELS, Accepts
from wedge_turn.core.turns.base import Example, Turn, listed
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, Output

SIDES: Final = ("_L", "_R")


class Split(Turn):
    accepts: ClassVar = (Accepts(channels=(2, MOST_CHANNELS)),)
    example: ClassVar = Example({}, (2,))

    kind: Literal["split"] = "split"
    endings: Annotated[tuple[str, ...], BeforeValidator(listed)] = Field(
        default=SIDES, min_length=2, max_length=2, description="What is added to the names of left and right."
    )

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        whole = inputs[0]
        channels = whole.form.channels
        return MatrixOutcome(
            outputs=tuple(
                Output(
                    name,
                    whole.form.model_copy(update={"channels": 1, "speaker_mask": mask, "container": "WAV"}),
                )
                for name, mask in zip(self._names(whole), self._masks(whole), strict=True)
            ),
            matrix=np.eye(channels),
            offsets=(0,) * channels,
            frames=whole.form.frames,
        )

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        return f"Splits {inputs[0].name} to mono files, one for each channel, at their original levels."

    def _names(self, whole: ClipInfo) -> list[str]:
        if whole.form.channels > 2:
            names = whole.form.speakers or range(1, whole.form.channels + 1)
            return [f"{whole.name}_{speaker}" for speaker in names]
        rest = without_mid_side(whole.name)
        if rest and self.endings == SIDES:
            return [f"{rest}_mid", f"{rest}_side"]
        return [(rest or whole.name) + ending for ending in self.endings]

    @staticmethod
    def _masks(whole: ClipInfo) -> tuple[int, ...]:
        speakers = whole.form.speakers
        return tuple(1 << SPEAKERS.index(s) for s in speakers) if speakers else (0,) * whole.form.channels
