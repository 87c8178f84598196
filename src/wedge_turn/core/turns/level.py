"""Level: a gain for each channel.

    out_i[t] = 10^(g_i / 20) · in_i[t]

0 dB changes no sample. Undone by the opposite gains.
"""

from collections.abc import Sequence
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import DecibelList, Example, Turn, gain, in_db
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, same_axis


class Level(Turn):
    accepts: ClassVar = (Accepts(),)
    example: ClassVar = Example({"gains_db": (-1.5, 2)}, (2,))

    kind: Literal["level"] = "level"
    gains_db: DecibelList = Field(
        default=(0.0,),
        min_length=1,
        max_length=64,
        description="The gain of each channel in dB, or one for all of them.",
    )

    @property
    def words(self) -> str:
        return "level " + ", ".join(in_db(db) for db in self.gains_db)

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        clip = inputs[0]
        gains = self.gains_db * clip.form.channels if len(self.gains_db) == 1 else self.gains_db
        if len(gains) != clip.form.channels:
            raise TurnInputError(f"{clip.name} has {clip.form.channels} channels; level was given {len(gains)} gains")
        return same_axis(clip, np.diag([gain(db) for db in gains]))

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        if len(self.gains_db) == 1:
            return f"{inputs[0].name} is changed by {in_db(self.gains_db[0])}."
        changes = ", ".join(f"channel {n} by {in_db(db)}" for n, db in enumerate(self.gains_db, 1))
        return f"{inputs[0].name} is changed: {changes}."
