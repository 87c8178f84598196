"""Sum: clips of one layout are added, each with its gain and sign.

    out[t, i] = Σ_k  ±g_k · in_k[t, i]

Nothing is scaled down: the result is as loud as what is added. Two equal clips of which one is inverted cancel.
"""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import BeforeValidator, Field

from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.naming import common_name
from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import DecibelList, Example, Turn, format_db, gain, split_commas
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, Output
from wedge_turn.core.turns.timeline import line_up


class Sum(Turn):
    accepts: ClassVar = (Accepts(2, None, alike=True),)
    example: ClassVar = Example({"gains_db": (-3, -6)}, (2, 2))

    kind: Literal["sum"] = "sum"
    gains_db: DecibelList = Field(
        default=(), description="The gain of each input in dB, as `0,-3`; 0 where none is given."
    )
    flip: Annotated[tuple[Annotated[int, Field(ge=1, le=64)], ...], BeforeValidator(split_commas)] = Field(
        default=(), description="Which inputs are inverted, by their numbers from 1 on, as `2`."
    )

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        self._check(inputs)
        first = inputs[0].form
        blocks = [np.eye(first.channels) * factor for factor in self._factors(len(inputs))]
        timeline = line_up(inputs, "file", "pad")
        changes = {"frames": timeline.frames, "start_time": timeline.start_time, "container": "WAV"}
        form = first.model_copy(update=changes)
        return MatrixOutcome(
            (Output(common_name([clip.name for clip in inputs]), form),),
            np.hstack(blocks),
            (0,) * (first.channels * len(inputs)),
            timeline.frames,
            timeline.findings,
        )

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        parts = []
        for n, (clip, decibels) in enumerate(zip(inputs, self._gains(len(inputs)), strict=True), 1):
            at = f" at {format_db(decibels)}" if decibels else ""
            parts.append(f"{clip.name}{at}{' inverted' if n in self.flip else ''}")
        return f"Sums {' + '.join(parts)}, aligned at the file starts, without scaling."

    def groups(self, names: Sequence[str], channels: Sequence[int]) -> list[tuple[int, ...]]:  # noqa: ARG002
        return [tuple(range(len(names)))]

    def _check(self, inputs: Sequence[ClipInfo]) -> None:
        if len(self.gains_db) > len(inputs) or max(self.flip, default=0) > len(inputs):
            raise TurnInputError(f"sum was given {len(inputs)} clips and settings for more")

    def _gains(self, count: int) -> tuple[float, ...]:
        return (*self.gains_db, *(0.0,) * (count - len(self.gains_db)))

    def _factors(self, count: int) -> list[float]:
        return [gain(db) * (-1 if n in self.flip else 1) for n, db in enumerate(self._gains(count), 1)]
