"""Trim: a stretch of a clip, to the sample.

    out[t] = in[t + start]        for 0 ≤ t < end − start

Exact. The start time moves by as much, and so do cue points and what belongs to them; those outside are left out.

In recorded time, start and end are times of day: of each clip what was recorded between them is kept, so that files
which began at different times are trimmed alike. An end before the start is on the next day.
"""

from collections.abc import Sequence
from typing import ClassVar, Literal, Self

import numpy as np
from pydantic import Field

from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.form import DAY, Form, format_clock
from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import Example, Turn
from wedge_turn.core.turns.outcome import ClipInfo, Finding, MatrixOutcome, Output
from wedge_turn.core.turns.places import End, Place, locate, replace_time_code


class Trim(Turn):
    accepts: ClassVar = (Accepts(),)
    example: ClassVar = Example({"start": "100s", "end": "1203s"}, (2,))

    kind: Literal["trim"] = "trim"
    start: Place = Field(default=0.0, description="Where it starts, in seconds, in samples as `480s`, or in time code.")
    end: End = Field(default="end", description="Where it ends, in seconds, in samples as `96000s`, or in time code.")
    time: Literal["file", "recorded"] = Field(
        default="file", description="What start and end are counted from: the start of the file, or midnight."
    )

    @property
    def words(self) -> str:
        return "trim"

    def without_time_code(self, form: Form) -> Self:
        of_day = self.time == "recorded"
        ends = {name: replace_time_code(getattr(self, name), form, of_day=of_day) for name in ("start", "end")}
        return self.model_copy(update=ends)

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        (clip,) = inputs
        start, end, beyond = self._range(clip)
        time = clip.form.start_time
        changes = {
            "frames": end - start,
            "start_time": None if time is None else time + start,
            "container": "WAV",
        }
        form = clip.form.model_copy(update=changes)
        channels = clip.form.channels
        # Times are typed to a millisecond: the end of a file seldom lies on one.
        findings = (self._find_beyond(clip, beyond),) if 1000 * beyond >= clip.form.rate else ()
        return MatrixOutcome((Output(clip.name, form),), np.eye(channels), (-start,) * channels, form.frames, findings)

    def _find_beyond(self, clip: ClipInfo, beyond: int) -> Finding:
        """A range that goes on for so many frames after the clip has ended."""
        rate, frames = clip.form.rate, clip.form.frames
        recorded = self.time == "recorded"
        place = format_clock((clip.form.start_time or 0) + frames, rate) if recorded else f"{frames / rate:.3f} s"
        message = f"{clip.name} ends at {place}, {beyond / rate:.3f} s before the range does."
        return Finding(code="range-past-end", message=message, measured={"samples": beyond})

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        (clip,) = inputs
        start, end, _ = self._range(clip)
        rate, frames = clip.form.rate, clip.form.frames
        length = f"{end - start:,} of {frames:,} samples"
        if self.time == "recorded" and clip.form.start_time is not None:
            since = clip.form.start_time
            return (
                f"Keeps {clip.name} from {format_clock(since + start, rate)} to {format_clock(since + end, rate)} in"
                f" recorded time: {length}."
            )
        return f"Keeps {clip.name} from {start / rate:.3f} s to {end / rate:.3f} s: {length}."

    def _range(self, clip: ClipInfo) -> tuple[int, int, int]:
        """Start and end in frames of the clip, and by how many the range goes on after it. Raises TurnInputError where
        nothing lies between start and end.
        """
        rate, frames, of_day = clip.form.rate, clip.form.frames, self.time == "recorded"
        start = locate(self.start, clip.form, of_day=of_day)
        end = None if self.end == "end" else locate(self.end, clip.form, of_day=of_day)
        if of_day and end is not None and end < start < DAY * rate:
            end += DAY * rate
        if end is not None and end <= start:
            raise TurnInputError("the range ends before it starts", help="Give it an end after its start.")
        if of_day:
            return self._recorded(clip, start, end)
        last = frames if end is None else end
        end = min(last, frames)
        if start >= end:
            raise TurnInputError(
                f"{clip.name} is {frames / rate:.3f} s long ({frames:,} samples): the range starts at"
                f" {start / rate:.3f} s",
                help="Choose a range that begins within it.",
            )
        return start, end, last - end

    def _recorded(self, clip: ClipInfo, start: int, end: int | None) -> tuple[int, int, int]:
        """What was recorded between two times of day, given in samples since midnight. A recording that began the day
        before, or went on past midnight, has them a day later or earlier.
        """
        rate, frames, since = clip.form.rate, clip.form.frames, clip.form.start_time
        if since is None:
            raise TurnInputError(f"{clip.name} has no timestamp")
        for day in (0,) if end is None else (0, DAY * rate, -DAY * rate):
            first = max(0, start - since + day)
            wanted = frames if end is None else end - since + day
            last = min(frames, wanted)
            if first < last:
                return first, last, wanted - last
        raise TurnInputError(
            f"{clip.name} was recorded from {format_clock(since, rate)} to {format_clock(since + frames, rate)}: none"
            " of it is in the range"
        )
