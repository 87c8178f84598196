"""Split: one clip of n channels becomes n mono clips, or clips of several channels each. Nothing else happens.

    out_i[t] = in[t, i]

Exact. Same length, rate, depth and start time. Results are called by the names that the file gives its channels, else
by their speakers, else by their numbers. Two channels without names are called by `endings`, or mid and side where the
name says that they are (`swell_ms`) and nobody says otherwise.
"""

import re
from collections.abc import Sequence
from itertools import accumulate, pairwise, takewhile
from typing import Annotated, ClassVar, Final, Literal

import numpy as np
from pydantic import BeforeValidator, Field

from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.form import Form, speaker_mask
from wedge_turn.core.naming import without_mid_side
from wedge_turn.core.turns.accepts import MAX_CHANNELS, Accepts
from wedge_turn.core.turns.base import Example, Turn, split_commas
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, Output

SIDES: Final = ("_L", "_R")
_NOT_IN_NAMES: Final = re.compile(r"[/\\:*?\"<>|\x00-\x1f]")
_SEPARATORS: Final = re.compile(r"[ ._-]+")
Ending = Annotated[str, Field(max_length=60, pattern=r"^[^\x00-\x1f\x7f]*$")]
Size = Annotated[int, Field(ge=1, le=MAX_CHANNELS)]


class Split(Turn):
    accepts: ClassVar = (Accepts(channels=(2, MAX_CHANNELS)),)
    example: ClassVar = Example({}, (2,))

    added_later: ClassVar = frozenset({"parts"})

    kind: Literal["split"] = "split"
    endings: Annotated[tuple[Ending, ...], BeforeValidator(split_commas)] = Field(
        default=SIDES, min_length=2, max_length=2, description="What is added to the names of left and right."
    )
    parts: Annotated[tuple[Size, ...], BeforeValidator(split_commas)] = Field(
        default=(),
        max_length=MAX_CHANNELS,
        description="How many channels each result takes, in order; none: one.",
    )

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        clip = inputs[0]
        channels = clip.form.channels
        if self.parts and sum(self.parts) != channels:
            raise TurnInputError(f"{clip.name} has {channels} channels; the parts take {sum(self.parts)}")
        return MatrixOutcome(
            outputs=tuple(Output(*result) for result in zip(self._names(clip), self._forms(clip), strict=True)),
            matrix=np.eye(channels),
            offsets=(0,) * channels,
            frames=clip.form.frames,
        )

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        if self.parts:
            sizes = ", ".join(map(str, self.parts))
            return f"Splits {inputs[0].name} to files of {sizes} channels, at their original levels."
        return f"Splits {inputs[0].name} to mono files, one for each channel, at their original levels."

    def _spans(self, clip: ClipInfo) -> list[tuple[int, int]]:
        """The channels of each result, from the first up to but not including the last."""
        return list(pairwise(accumulate(self.parts or (1,) * clip.form.channels, initial=0)))

    def _names(self, clip: ClipInfo) -> list[str]:
        rest = without_mid_side(clip.name) if clip.form.channels == 2 else None
        stereo = clip.form.channels == 2 and not self.parts
        if stereo and rest and self.endings == SIDES:
            return [f"{rest}_mid", f"{rest}_side"]
        spans = self._spans(clip)
        labels = [_label(clip.form.labels[first:last]) for first, last in spans]
        if all(labels) and len({label.casefold() for label in labels}) == len(labels) and self.endings == SIDES:
            return [f"{clip.name}_{label}" for label in labels]
        if stereo:
            return [(rest or clip.name) + ending for ending in self.endings]
        speakers = clip.form.speakers
        return [f"{clip.name}_{''.join(speakers[first:last]) or _numbers(first, last)}" for first, last in spans]

    def _forms(self, clip: ClipInfo) -> list[Form]:
        speakers = clip.form.speakers
        return [
            clip.form.model_copy(
                update={
                    "channels": last - first,
                    "speaker_mask": speaker_mask(speakers[first:last]),
                    "container": "WAV",
                }
            )
            for first, last in self._spans(clip)
        ]


def _label(labels: Sequence[str]) -> str:
    """What channels that stay together are called: the words that the names of all of them begin with."""
    together = "".join(labels)
    if len(labels) > 1:
        words = [_SEPARATORS.split(label) for label in labels]
        same = list(takewhile(lambda each: len(set(each)) == 1, zip(*words, strict=False)))
        together = " ".join(each[0] for each in same)
    return _NOT_IN_NAMES.sub("-", together).strip(" .")


def _numbers(first: int, last: int) -> str:
    return str(last) if last == first + 1 else f"{first + 1}-{last}"
