"""A turn over a stretch of its clip only: outside of it is what went in, to the bit.

    out[t] = in[t] + e(t) · (turned[t] − in[t])

e is 1 within the stretch and 0 outside; over the fades at its ends, which lie within it, it is a raised cosine. At the
start and the end of the clip there is nothing to fade from.
"""

from collections.abc import Callable, Sequence
from typing import Self

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from wedge_turn.core.audio import Block
from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.form import Form
from wedge_turn.core.pages import PAGE
from wedge_turn.core.turns import ClipInfo, End, Outcome, Place, WindowOutcome, locate, replace_time_code
from wedge_turn.core.windows import raised_cosine

Read = Callable[[int, int], Block]


class Stretch(BaseModel):
    """From where to where a turn is done, and how long its fades at either end are."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    start: Place = Field(default=0.0, description="In seconds, in samples as `480s`, or in time code.")
    end: End = Field(default="end", description="In seconds, in samples as `96000s`, in time code, or `end`.")
    fade_ms: float = Field(default=10.0, ge=0, le=10_000, allow_inf_nan=False)

    def span(self, form: Form) -> tuple[int, int]:
        """Its first frame, and the first after it."""
        start = locate(self.start, form)
        return start, form.frames if self.end == "end" else min(locate(self.end, form), form.frames)

    def without_time_code(self, form: Form) -> Self:
        """The same stretch of a clip of this form, with samples for time code."""
        return self.model_copy(
            update={"start": replace_time_code(self.start, form), "end": replace_time_code(self.end, form)}
        )

    def sentence(self, form: Form) -> str:
        start, end = self.span(form)
        return f"Only from {start / form.rate:.3f} s to {end / form.rate:.3f} s, with {self.fade_ms:g} ms fades."


def limit_to_range(stretch: Stretch, kind: str, inputs: Sequence[ClipInfo], outcome: Outcome) -> WindowOutcome:
    """The outcome of a turn that is done over a stretch only.

    Raises TurnInputError where what comes out does not take the place of what goes in, or nothing lies in the stretch.
    """
    first, form = inputs[0], inputs[0].form
    if not can_replace_input(inputs, outcome):
        raise TurnInputError(
            f"{kind} can't be limited to a range: its result differs in length, rate or channels from what goes in"
        )
    start, end = stretch.span(form)
    if start >= form.frames:
        raise TurnInputError(f"{first.name} ends at {form.frames / form.rate:.3f} s: this line's range is beyond that")
    if start >= end:
        raise TurnInputError("this line's range ends before it starts")
    return WindowOutcome(
        outcome.outputs, np.eye(form.channels), form.frames, findings=outcome.findings, keeps_samples=True
    )


def can_replace_input(inputs: Sequence[ClipInfo], outcome: Outcome) -> bool:
    """Whether what comes out can take the place of what goes in: one clip, as long, with as many channels."""
    form, made = inputs[0].form, outcome.outputs[0].form
    same = (made.channels, made.rate, outcome.frames) == (form.channels, form.rate, form.frames) and not any(
        outcome.offsets
    )
    return same and len(inputs) == 1 and len(outcome.outputs) == 1


class RangeCrossfade:
    """Pages of a clip that is turned over a stretch. Both are read as (frames, channels)."""

    def __init__(self, original: Read, turned: Read, stretch: Stretch, form: Form) -> None:
        self._original, self._turned = original, turned
        self._span = start, end = stretch.span(form)
        fade = min(round(stretch.fade_ms * form.rate / 1000), (end - start) // 2)
        self._fades = 0 if start == 0 else fade, 0 if end == form.frames else fade

    def page(self, start: int) -> tuple[Block]:
        out = self._original(start, PAGE)
        first, last = max(self._span[0], start), min(self._span[1], start + PAGE)
        if first < last:
            turned = self._turned(first, last - first)
            part = out[first - start : last - start]
            part += self._envelope(first, last)[:, None] * (turned - part)
            # in + 1·(turned − in) is not turned to the bit.
            inside = slice(
                *np.clip([self._span[0] + self._fades[0], self._span[1] - self._fades[1]], first, last) - first
            )
            part[inside] = turned[inside]
        return (out,)

    def _envelope(self, first: int, last: int) -> NDArray[np.float64]:
        """e(t) of frames within the stretch, (last − first,)."""
        t = np.arange(first, last)
        gains = np.ones(last - first)
        for fade, into in ((self._fades[0], t - self._span[0]), (self._fades[1], self._span[1] - 1 - t)):
            near = into < fade
            gains[near] *= raised_cosine(into[near], fade)
        return gains
