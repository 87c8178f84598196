"""Trim: a stretch of a clip, to the sample.

    out[t] = in[t + start]        for 0 ≤ t < end − start

Exact. The start time moves by as much, and so do cue points and what belongs to them; those outside are left out.
"""

from collections.abc import Sequence
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import Example, Turn
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, Output
from wedge_turn.core.turns.places import End, Place, frame_at


class Trim(Turn):
    accepts: ClassVar = (Accepts(),)
    example: ClassVar = Example({"start": "100s", "end": "1203s"}, (2,))

    kind: Literal["trim"] = "trim"
    start: Place = Field(default=0.0, description="Where it starts, in seconds, or in samples as `480s`.")
    end: End = Field(default="end", description="Where it ends, in seconds, or in samples as `96000s`.")

    @property
    def words(self) -> str:
        return "trim"

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        (clip,) = inputs
        start, end = self._range(clip)
        time = clip.form.start_time
        changes = {
            "frames": end - start,
            "start_time": None if time is None else time + start,
            "container": "WAV",
        }
        form = clip.form.model_copy(update=changes)
        channels = clip.form.channels
        return MatrixOutcome((Output(clip.name, form),), np.eye(channels), (-start,) * channels, form.frames)

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        (clip,) = inputs
        start, end = self._range(clip)
        rate = clip.form.rate
        return (
            f"{clip.name} is kept from {start / rate:.3f} s to {end / rate:.3f} s: {end - start:,} of"
            f" {clip.form.frames:,} samples."
        )

    def _range(self, clip: ClipInfo) -> tuple[int, int]:
        """In frames of the clip. Raises TurnInputError where nothing lies between start and end."""
        rate, frames = clip.form.rate, clip.form.frames
        start = frame_at(self.start, rate)
        end = frames if self.end == "end" else min(frame_at(self.end, rate), frames)
        if start >= end:
            raise TurnInputError(
                f"{clip.name} has {frames:,} samples ({frames / rate:.3f} s): nothing of it lies between"
                f" {start / rate:.3f} s and {end / rate:.3f} s"
            )
        return start, end
