"""Merge: mono clips become one clip of as many channels, each at the level it came in.

    out[t, i] = in_i[t − offset_i]

Exact. Left goes fully left and right fully right; no pan law. What the channels are is told by the names, or by the
order the clips are given in, which is then that of the layout's speakers; the file's speaker mask says the same.
Inputs of different rates are refused: one of them has to be resampled first.
"""

from collections.abc import Sequence
from typing import ClassVar, Final, Literal

import numpy as np
from pydantic import Field

from wedge_turn.core.errors import ChannelUnknownError, TurnInputError
from wedge_turn.core.form import Form, common_encoding, depth_text, speaker_mask
from wedge_turn.core.naming import LAYOUTS, LayoutName, common_name, find_layout, find_set, find_sets
from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import Example, Turn
from wedge_turn.core.turns.outcome import ClipInfo, Finding, MatrixOutcome, Output
from wedge_turn.core.turns.timeline import line_up

_BY_COUNT: Final[dict[int, LayoutName]] = {2: "stereo", 4: "quad", 5: "5.0", 6: "5.1", 8: "7.1"}


class Merge(Turn):
    accepts: ClassVar = (Accepts(2, None, (1, 1)),)
    example: ClassVar = Example({"order": "given"}, (1, 1))

    kind: Literal["merge"] = "merge"
    order: Literal["by-name", "given"] = Field(
        default="by-name", description="Whether the names say which channel each is, or the order of the inputs."
    )
    line_up: Literal["recorded", "file"] = Field(
        default="recorded", description="Align by the timestamps in the files, or at the files' starts."
    )
    length: Literal["pad", "trim"] = Field(
        default="pad", description="Where lengths differ: pad with silence, or trim to the shortest."
    )
    layout: LayoutName | Literal["auto", "discrete"] = Field(
        default="auto", description="The layout of the result; `auto` goes by the number, `discrete` names no speakers."
    )

    @property
    def words(self) -> str:
        return "merge" if self.layout in ("auto", "stereo") else f"merge to {self.layout}"

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        self._check(inputs)
        picked, speakers = self._channels(inputs)
        timeline = line_up(inputs, self.line_up, self.length, picked[0])
        matrix = np.zeros((len(inputs), len(inputs)))
        for row, column in enumerate(picked):
            matrix[row, column] = 1.0
        form = Form(
            channels=len(inputs),
            frames=timeline.frames,
            rate=inputs[0].form.rate,
            encoding=common_encoding([clip.form.stored for clip in inputs]).name,
            speaker_mask=speaker_mask(speakers),
            start_time=timeline.start_time,
            frame_rate=next((clip.form.frame_rate for clip in inputs if clip.form.frame_rate), None),
        )
        return MatrixOutcome(
            outputs=(Output(common_name([inputs[i].name for i in picked]), form),),
            matrix=matrix,
            offsets=timeline.offsets,
            frames=form.frames,
            findings=(
                *self._about_order(inputs, picked),
                *self._about_depth(inputs, form),
                *timeline.findings,
            ),
        )

    def groups(self, names: Sequence[str], channels: Sequence[int]) -> list[tuple[int, ...]]:  # noqa: ARG002
        """Many are merged set by set as their names say. Raises SideUnknownError where one is left over."""
        everything = [tuple(range(len(names)))]
        if len(names) <= 2 or self.order == "given" or find_set(names) is not None:
            return everything
        sets, _ = find_sets(names)
        # Of many files, numbers are takes: only names that say a channel put them together.
        sets = [match for match in sets if match.speakers and not match.by_number]
        if not sets:
            return everything
        alone = set(range(len(names))) - {n for match in sets for n in match.members}
        if alone:
            raise ChannelUnknownError(f"no other name says that it makes a pair with {names[min(alone)]}")
        return [match.members for match in sets]

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        picked, speakers = self._channels(inputs)
        names = [inputs[i].name for i in picked]
        if speakers == ("FL", "FR"):
            return f"Merges {names[0]} (fully left) and {names[1]} (fully right) at their original levels."
        names_of_channels = speakers or tuple(f"channel {n}" for n in range(1, len(names) + 1))
        goes = ", ".join(f"{name} ({where})" for name, where in zip(names, names_of_channels, strict=True))
        return f"Merges {goes} at their original levels."

    def _check(self, inputs: Sequence[ClipInfo]) -> None:
        layout = self._layout(inputs)
        wanted_count = len(inputs) if layout == "discrete" else len(LAYOUTS[layout][0])
        if len(inputs) != wanted_count:
            raise TurnInputError(f"merge into {layout} takes {wanted_count} mono clips; {len(inputs)} were given")

    def _layout(self, inputs: Sequence[ClipInfo]) -> LayoutName | Literal["discrete"]:
        if self.layout != "auto":
            return self.layout
        name_set = find_set([clip.name for clip in inputs])
        named = find_layout(name_set.speakers) if name_set else None
        if named is not None:
            return named
        return "stereo" if len(inputs) < 2 else _BY_COUNT.get(len(inputs), "discrete")

    def _channels(self, inputs: Sequence[ClipInfo]) -> tuple[tuple[int, ...], tuple[str, ...]]:
        """Which input each channel is, and the speaker of each channel."""
        layout = self._layout(inputs)
        in_order = tuple(range(len(inputs)))
        name_set = find_set([clip.name for clip in inputs])
        fits = name_set is not None and find_layout(name_set.speakers) == layout
        speakers = () if layout == "discrete" else name_set.speakers if name_set and fits else LAYOUTS[layout][0]
        if self.order == "given" or layout == "discrete":
            return in_order, speakers
        if name_set is None or not fits:
            names = " and ".join(clip.name for clip in inputs)
            which = "which is left" if layout == "stereo" else f"which speaker of {layout} each is"
            raise ChannelUnknownError(f"the names {names} don't say {which}")
        return name_set.members, speakers

    def _about_order(self, inputs: Sequence[ClipInfo], picked: tuple[int, ...]) -> list[Finding]:
        name_set = find_set([clip.name for clip in inputs])
        names = [inputs[i].name for i in picked]
        if self.layout == "discrete":
            return []
        if name_set is not None and name_set.by_number and len(inputs) == 2:
            message = f"By their numbers {names[0]} was taken as left and {names[1]} as right."
            return [Finding(code="side-by-number", message=message)]
        if name_set is not None and name_set.members == picked:
            return []
        if len(inputs) > 2:
            message = f"The names don't say the order: the channels are {', '.join(names)}, as they were given."
            return [Finding(code="side-unknown", message=message)]
        left, right = names
        if name_set is None or name_set.kind != "stereo-pair":
            message = f"The names don't say which is left: {left} was taken as left and {right} as right."
            return [Finding(code="side-unknown", message=message)]
        message = f"The names say the opposite: {left} was taken as left and {right} as right."
        return [Finding(code="side-against-name", message=message)]

    def _about_depth(self, inputs: Sequence[ClipInfo], form: Form) -> list[Finding]:
        depths = [clip.form.stored.depth for clip in inputs]
        if len(set(depths)) == 1:
            return []
        have = " and ".join(f"{clip.name} is {depth_text(depth)}" for clip, depth in zip(inputs, depths, strict=True))
        message = f"{have}: the result is {depth_text(form.stored.depth)}, which holds all of them exactly."
        return [Finding(code="depth-differs", message=message, measured={"depth": form.stored.depth})]
