"""Resample: a clip at another sample rate.

    out(k / rate) = in(k / rate)        for 0 ≤ k < ⌈frames · rate / rate of the clip⌉

by the band-limited interpolation of libsoxr at its very high quality [1]: linear phase, flat to within 0.01 dB up to
0.91 of half the lower rate; what lies above half of it is lowered by 160 dB and more. Level and place in time stay as
they are: start time, cue points and all else that counts samples move along, to the nearest sample.

Every sample is new, so the result is not exact; integer files become at least 24-bit. A clip that is at the rate
already is left as it is.

[1] R. Sykes, The SoX Resampler library, https://sourceforge.net/p/soxr
"""

from collections.abc import Callable, Sequence
from fractions import Fraction
from math import ceil
from typing import Annotated, ClassVar, Final, Literal

import numpy as np
from pydantic import BeforeValidator, Field

from wedge_turn.core.audio import Block
from wedge_turn.core.form import MAX_RATE, MIN_RATE
from wedge_turn.core.pages import PAGE
from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import Computation, Example, Turn
from wedge_turn.core.turns.outcome import ClipInfo, Finding, Outcome, Output, WindowOutcome, matrix_outcome

# As far as the filter reaches on either side, and more than that, in samples of the lower rate.
CONTEXT: Final = 1_024


def _parse_rate(value: object) -> object:
    """A rate as it is written in a shell: `48000`, or `44.1k`."""
    if isinstance(value, str) and value.lower().endswith("k"):
        try:
            return Fraction(value[:-1]) * 1000
        except ValueError:
            return value
    return value


Rate = Annotated[int, Field(ge=MIN_RATE, le=MAX_RATE), BeforeValidator(_parse_rate)]


class Resample(Turn):
    accepts: ClassVar = (Accepts(),)
    example: ClassVar = Example({"rate": 44_100}, (2,))
    min_bits: ClassVar[int] = 24

    kind: Literal["resample"] = "resample"
    rate: Rate = Field(default=48_000, description="The new sample rate in Hz, or in kHz as `44.1k`.")

    @property
    def words(self) -> str:
        return f"resample to {self.rate / 1000:g} kHz"

    def _outcome(self, inputs: Sequence[ClipInfo]) -> Outcome:
        (clip,) = inputs
        same = matrix_outcome(clip, np.eye(clip.form.channels))
        if clip.form.rate == self.rate:
            return same
        ratio = Fraction(self.rate, clip.form.rate)
        start = None if clip.form.start_time is None else clip.form.start_time * ratio
        form = same.outputs[0].form.model_copy(
            update={
                "rate": self.rate,
                "frames": ceil(clip.form.frames * ratio),
                "start_time": None if start is None else round(start),
            }
        )
        findings = (self._find_start_between(clip, start),) if start is not None and start.denominator > 1 else ()
        return WindowOutcome((Output(clip.name, form),), same.matrix, form.frames, findings=findings)

    def _find_start_between(self, clip: ClipInfo, start: Fraction) -> Finding:
        """A start time that lies between two samples of the new rate."""
        by = float(round(start) - start)
        return Finding(
            code="start-rounded",
            message=f"{clip.name} starts between two samples at {self.rate / 1000:g} kHz: its start time is rounded by"
            f" {abs(by):.2f} of a sample.",
            measured={"samples": round(by, 3)},
        )

    def computation(self, read: Callable[[int, int], Block], clip: ClipInfo) -> Computation:
        from soxr import resample

        ratio = Fraction(self.rate, clip.form.rate)
        up, down = ratio.numerator, ratio.denominator
        # Pages begin where a sample of either rate lies, and so does what is read around them: `up` of the new rate are
        # `down` of the old.
        periods, around = ceil(PAGE / up), ceil(CONTEXT / min(up, down))

        def page(start: int) -> tuple[Block]:
            first = start // up - around
            block = read(first * down, (periods + 2 * around) * down)
            resampled: Block = resample(block, clip.form.rate, self.rate, "VHQ")
            return (resampled[around * up : (around + periods) * up],)

        return Computation(page, (0,), periods * up)

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        (clip,) = inputs
        if clip.form.rate == self.rate:
            return f"{clip.name} is at {self.rate:,} Hz already: unchanged."
        return f"Resamples {clip.name} from {clip.form.rate:,} Hz to {self.rate:,} Hz."
