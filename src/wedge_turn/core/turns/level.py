"""Level: a gain for each channel, and hushes: stretches of time in which one channel is lowered or muted.

    out_i[t] = 10^(g_i / 20) · hush_i(t) · in_i[t]

0 dB changes no sample, and where no hush is hush_i(t) is exactly 1: outside of them a channel at 0 dB keeps its
samples. Fades are raised cosines within the stretch (`wedge_turn.core.turns.hush`). Without hushes it is undone by the
opposite gains.

In a shell `hush=2:1.50-3.25:-inf;1:4-5:-12:20` mutes channel 2 from 1.5 s to 3.25 s, and lowers channel 1 from 4 s to
5 s by 12 dB with fades of 20 ms.
"""

from collections.abc import Callable, Sequence
from typing import ClassVar, Literal, Self

import numpy as np
from pydantic import Field

from wedge_turn.core.audio import Block
from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.form import Form
from wedge_turn.core.pages import PAGE
from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import Computation, DecibelList, Example, Turn, format_db, gain
from wedge_turn.core.turns.hush import MAX_HUSHES, HushList, HushProcessor
from wedge_turn.core.turns.outcome import ClipInfo, Finding, Outcome, WindowOutcome, matrix_outcome


class Level(Turn):
    accepts: ClassVar = (Accepts(),)
    example: ClassVar = Example({"gains_db": (0, 2), "hush": "1:100s-900s:-12:2;1:1200s-1300s:-inf:1"}, (2,))

    kind: Literal["level"] = "level"
    gains_db: DecibelList = Field(
        default=(0.0,),
        min_length=1,
        max_length=64,
        description="The gain of each channel in dB, or one for all of them.",
    )

    hush: HushList = Field(
        default=(),
        max_length=MAX_HUSHES,
        description="Ranges in which a channel is lowered or muted: channel, from and to, dB, fades in ms.",
    )

    @property
    def words(self) -> str:
        level = "level " + ", ".join(format_db(db) for db in self.gains_db)
        if not self.hush:
            return level
        return _counted(len(self.hush)) if not any(self.gains_db) else f"{level}, {_counted(len(self.hush))}"

    def without_time_code(self, form: Form) -> Self:
        return self.model_copy(update={"hush": tuple(hush.without_time_code(form) for hush in self.hush)})

    def _outcome(self, inputs: Sequence[ClipInfo]) -> Outcome:
        clip = inputs[0]
        outcome = matrix_outcome(clip, np.diag(self._gains(clip)))
        if not self.hush:
            return outcome
        rate, frames, channels = clip.form.rate, clip.form.frames, clip.form.channels
        spans = [hush.span(clip.form) for hush in self.hush]
        for n, (hush, (start, end)) in enumerate(zip(self.hush, spans, strict=True), 1):
            if hush.channel > channels:
                raise TurnInputError(f"hush {n} is on channel {hush.channel}; {clip.name} has {channels}")
            if start >= end:
                raise TurnInputError(f"hush {n} ends before it starts")
        beyond = sum(start >= frames for start, _ in spans)
        # Times are typed to a millisecond: the end of a file seldom lies on one.
        longer = sum(start < frames and 1000 * (end - frames) >= rate for start, end in spans)
        findings = (
            *((_beyond(clip, beyond, "start", "after the end"),) if beyond else ()),
            *((_beyond(clip, longer, "last", "past the end"),) if longer else ()),
        )
        return WindowOutcome(outcome.outputs, np.eye(channels), frames, findings=findings, keeps_samples=True)

    def computation(self, read: Callable[[int, int], Block], clip: ClipInfo) -> Computation:
        hushed = HushProcessor(self._gains(clip), self.hush, clip.form)
        return Computation(lambda start: (hushed.apply(read(start, PAGE), start),), (0,))

    def _gains(self, clip: ClipInfo) -> list[float]:
        """The gain of each channel as a factor. Raises TurnInputError where as many were not given."""
        channels = clip.form.channels
        gains = self.gains_db * channels if len(self.gains_db) == 1 else self.gains_db
        if len(gains) != channels:
            raise TurnInputError(f"{clip.name} has {channels} channels; level was given {len(gains)} gains")
        return [gain(db) for db in gains]

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        clip = inputs[0]
        if len(self.gains_db) == 1:
            sentence = f"Changes the level of {clip.name} by {format_db(self.gains_db[0])}"
        else:
            changes = ", ".join(f"channel {n} by {format_db(db)}" for n, db in enumerate(self.gains_db, 1))
            sentence = f"Changes the level of {clip.name}: {changes}"
        if not self.hush:
            return f"{sentence}."
        lowered = []
        for channel in sorted({hush.channel for hush in self.hush}):
            own = [hush.span(clip.form) for hush in self.hush if hush.channel == channel]
            seconds = sum(end - start for start, end in own) / clip.form.rate
            lowered.append(f"{_counted(len(own))} on channel {channel} ({seconds:.3f} s)")
        hushes = " and ".join(lowered)
        return f"{sentence}, with {hushes}." if any(self.gains_db) else f"Lowers {clip.name}: {hushes}."


def _beyond(clip: ClipInfo, hushes: int, verb: str, where: str) -> Finding:
    verb = f"{verb}s" if hushes == 1 else verb
    seconds = clip.form.frames / clip.form.rate
    return Finding(
        code="hush-beyond",
        message=f"{_counted(hushes)} {verb} {where} of {clip.name}, at {seconds:.3f} s.",
        measured={"hushes": hushes},
    )


def _counted(hushes: int) -> str:
    return "1 hush" if hushes == 1 else f"{hushes:,} hushes"
