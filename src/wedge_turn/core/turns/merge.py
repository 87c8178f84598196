"""Merge: mono clips become one clip of as many channels, each at the level it came in.

    out[t, i] = in_i[t − offset_i]

Exact. Left goes fully left and right fully right; no pan law. The deepest encoding among the inputs is kept,
and the smallest one that holds every input exactly where they differ. Inputs of different rates are refused:
changing a rate would change every sample.
"""

from collections.abc import Sequence
from typing import ClassVar, Final, Literal

import numpy as np
from pydantic import Field

from wedge_turn.core.audio.encoding import holding_all
from wedge_turn.core.audio.form import Form
from wedge_turn.core.errors import RateDiffersError, SideUnknownError, TurnInputError
from wedge_turn.core.naming import left_right, pairs_among, shared
from wedge_turn.core.turns.base import ClipInfo, Finding, Outcome, Output, Turn

STEREO_MASK: Final = 0x3  # FL and FR of WAVEFORMATEXTENSIBLE


class Merge(Turn):
    verb: ClassVar[str] = "merge"
    takes: ClassVar[str] = "two mono clips"

    kind: Literal["merge"] = "merge"
    order: Literal["by-name", "given"] = Field(
        default="by-name", description="Whether the names say which is left, or the order of the inputs."
    )
    line_up: Literal["recorded", "file"] = Field(
        default="recorded", description="Line up by the start times in the files, or by the files' starts."
    )
    length: Literal["pad", "trim"] = Field(
        default="pad", description="Where lengths differ: add silence, or keep only what both have."
    )
    layout: Literal["stereo"] = Field(default="stereo", description="The layout of the result.")

    def outcome(self, inputs: Sequence[ClipInfo]) -> Outcome:
        self._check(inputs)
        picked = self._left_right(inputs)
        starts, lined_up = self._starts(inputs)
        ends = [start + clip.form.frames for start, clip in zip(starts, inputs, strict=True)]
        first, last = (min(starts), max(ends)) if self.length == "pad" else (max(starts), min(ends))
        left = inputs[picked[0]].form
        matrix = np.zeros((2, 2))
        matrix[0, picked[0]] = matrix[1, picked[1]] = 1.0
        form = Form(
            channels=2,
            frames=last - first,
            rate=left.rate,
            encoding=holding_all([clip.form.stored for clip in inputs]).name,
            speaker_mask=STEREO_MASK,
            start_time=first if lined_up else left.start_time,
        )
        return Outcome(
            outputs=(Output(shared([inputs[i].name for i in picked]), form),),
            matrix=matrix,
            offsets=tuple(start - first for start in starts),
            frames=form.frames,
            findings=(
                *self._about_sides(inputs, picked),
                *self._about_depth(inputs, form),
                *self._about_time(inputs, lined_up, last - first),
            ),
        )

    def groups(self, names: Sequence[str]) -> list[tuple[int, ...]]:
        """More than two are merged pair by pair as their names say. Raises SideUnknownError where one is left over."""
        if len(names) <= 2 or self.order == "given":
            return super().groups(names)
        pairs = [members for _, members in pairs_among(list(names))]
        alone = set(range(len(names))) - {n for members in pairs for n in members}
        if alone:
            raise SideUnknownError(f"no other name makes a pair with {names[min(alone)]}")
        return list(pairs)

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        picked = self._left_right(inputs)
        left, right = (inputs[i].name for i in picked)
        return f"{left} goes fully left and {right} fully right, each at the level it has."

    def _check(self, inputs: Sequence[ClipInfo]) -> None:
        if len(inputs) != 2:
            raise TurnInputError(f"merge into stereo takes two mono clips; {len(inputs)} were given")
        for clip in inputs:
            if clip.form.channels != 1:
                raise TurnInputError(
                    f"merge takes mono clips; {clip.name} has {clip.form.channels} channels: split it first"
                )
        a, b = inputs
        if a.form.rate != b.form.rate:
            raise RateDiffersError(
                f"{a.name} is at {a.form.rate:,} Hz and {b.name} at {b.form.rate:,} Hz: "
                "they cannot be merged as they are"
            )

    def _left_right(self, inputs: Sequence[ClipInfo]) -> tuple[int, int]:
        if self.order == "given":
            return (0, 1)
        told = left_right(inputs[0].name, inputs[1].name)
        if told is None:
            raise SideUnknownError(f"the names {inputs[0].name} and {inputs[1].name} don't say which is left")
        return told

    def _starts(self, inputs: Sequence[ClipInfo]) -> tuple[list[int], bool]:
        """Where each input starts, and whether that is samples since midnight (else since the files' start)."""
        recorded = [clip.form.start_time for clip in inputs]
        if self.line_up == "recorded":
            known = [time for time in recorded if time is not None]
            if len(known) == len(inputs):
                ends = [time + clip.form.frames for time, clip in zip(known, inputs, strict=True)]
                if max(known) < min(ends):
                    return known, True
        return [0] * len(inputs), False

    def _about_sides(self, inputs: Sequence[ClipInfo], picked: tuple[int, int]) -> list[Finding]:
        told = left_right(inputs[0].name, inputs[1].name)
        if told == picked:
            return []
        left, right = (inputs[i].name for i in picked)
        if told is None:
            message = f"The names don't say which is left: {left} was taken as left and {right} as right."
            return [Finding(code="side-unknown", message=message)]
        message = f"The names say the opposite: {left} was taken as left and {right} as right."
        return [Finding(code="side-against-name", message=message)]

    def _about_depth(self, inputs: Sequence[ClipInfo], form: Form) -> list[Finding]:
        depths = [clip.form.stored.depth for clip in inputs]
        if len(set(depths)) == 1:
            return []
        message = (
            f"{inputs[0].name} has depth {depths[0]} and {inputs[1].name} {depths[1]}: "
            f"the result has depth {form.stored.depth}, which holds both exactly."
        )
        return [Finding(code="depth-differs", message=message, measured={"depth": form.stored.depth})]

    def _about_time(self, inputs: Sequence[ClipInfo], lined_up: bool, frames: int) -> list[Finding]:
        a, b = inputs
        findings = []
        if a.form.frames != b.form.frames:
            by = abs(a.form.frames - b.form.frames)
            shorter = min(inputs, key=lambda clip: clip.form.frames).name
            done = "silence is added" if self.length == "pad" else f"only what both have is kept, {frames:,} samples"
            message = f"{shorter} is {by:,} samples ({by / a.form.rate:.3f} s) shorter: {done}."
            findings.append(Finding(code="length-differs", message=message, measured={"samples": by}))
        if a.form.start_time is not None and b.form.start_time is not None and a.form.start_time != b.form.start_time:
            by = abs(a.form.start_time - b.form.start_time)
            later = max(inputs, key=lambda clip: clip.form.start_time or 0).name
            done = "lined up by the recorded start times" if lined_up else "lined up by the starts of the files"
            message = f"{later} was started {by:,} samples ({by / a.form.rate:.3f} s) later: {done}."
            findings.append(Finding(code="start-differs", message=message, measured={"samples": by}))
        return findings
