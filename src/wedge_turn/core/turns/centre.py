"""Centre: the centre of the stereo field is removed, or kept, or separated from the sides as a clip of its own.

    wedge         a sector of the field in a band of frequencies, separated from the rest; both results are stereo
    learned       the same with a mask learned from made mixes, which leaves more of drums and bass; slower
    difference    the classic way: one channel minus the other; what both share is gone, bass and drums included,
                  unless they are kept outside the band (`lows`: both channels in stereo, or one of them in mono)

What was removed and what was kept add up to the original. Reverb and doubled voices stay, because they differ between
the channels. How each is computed: `wedge_turn.core.centre`.
"""

from collections.abc import Callable, Sequence
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import BeforeValidator, Field

from wedge_turn.core.audio.pcm import Block
from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import Computation, Example, Turn
from wedge_turn.core.turns.outcome import ClipInfo, Output, WindowOutcome

Low = Annotated[float, Field(ge=0, le=20_000, allow_inf_nan=False)]
High = Annotated[float, Field(ge=20, le=400_000, allow_inf_nan=False)]
WEDGE_BAND = (180.0, 10_000.0)


def _none(value: object) -> object:
    return None if value == "" else value


class Centre(Turn):
    accepts: ClassVar = (Accepts(channels=(2, 2)),)
    example: ClassVar = Example({"keep": "both"}, (2,))
    min_bits: ClassVar[int] = 24

    kind: Literal["centre"] = "centre"
    keep: Literal["sides", "centre", "both"] = Field(default="sides", description="Which of the two are made.")
    method: Literal["wedge", "difference", "learned"] = Field(
        default="wedge", description="How the centre is separated from the rest."
    )
    low_hz: Annotated[Low | None, BeforeValidator(_none)] = Field(
        default=None,
        description="Below this nothing is cut, 0 for no limit; by default 180, none for a difference.",
    )
    high_hz: Annotated[High | Literal["max"] | None, BeforeValidator(_none)] = Field(
        default=None,
        description="Above this nothing is cut, `max` for no limit; by default 10000, none for a difference.",
    )
    lows: Literal["both", "left", "right"] = Field(
        default="both", description="Whose sound is kept outside the band, in a difference."
    )
    position: float = Field(
        default=0.0, ge=-1, le=1, allow_inf_nan=False, description="Where the wedge points: −1 left, 1 right."
    )
    opening: float = Field(default=1.0, ge=0.1, le=4, allow_inf_nan=False, description="How wide the wedge is.")
    strength: float = Field(default=1.5, ge=0.25, le=6, allow_inf_nan=False, description="0.5 cuts deep, 3 cuts clean.")
    depth: float = Field(
        default=1.0, ge=0, le=1, allow_inf_nan=False, description="The share that is removed; less leaves a guide."
    )
    protect_drums: bool = Field(default=False, description="Keep drum hits out of the centre.")

    @property
    def words(self) -> str:
        done = {"sides": "remove the centre", "centre": "keep the centre", "both": "separate centre and sides"}[
            self.keep
        ]
        return done + {"wedge": "", "difference": " by difference", "learned": ", learned"}[self.method]

    def _outcome(self, inputs: Sequence[ClipInfo]) -> WindowOutcome:
        clip = inputs[0]
        low, high = self.band(clip.form.rate)
        if low >= high:
            raise TurnInputError(f"{clip.name}: nothing lies between {low:g} Hz and {high:g} Hz")
        count = self._side_channels(clip)
        channels_of_results = {"sides": (count,), "centre": (2,), "both": (count, 2)}[self.keep]
        names = {"sides": ("_sides",), "centre": ("_centre",), "both": ("_sides", "_centre")}[self.keep]
        outputs = tuple(
            Output(clip.name + ending, clip.form.model_copy(update={"channels": channels, "container": "WAV"}))
            for channels, ending in zip(channels_of_results, names, strict=True)
        )
        back = None
        if self.keep == "both":
            sides = np.eye(2) if count == 2 else np.ones((2, 1))
            back = np.hstack([sides, np.eye(2)])
        return WindowOutcome(outputs, np.ones((sum(channels_of_results), 2)), clip.form.frames, back)

    def computation(self, read: Callable[[int, int], Block], clip: ClipInfo) -> Computation:
        # SciPy takes a second to import, which only those wait for who hear or write a centre.
        from wedge_turn.core.centre.difference import Difference
        from wedge_turn.core.centre.wedge import Shape, Wedge

        rate, count = clip.form.rate, self._side_channels(clip)
        low, high = self.band(rate)
        if self.method == "difference":
            method: Difference | Wedge = Difference(read, rate, low, high, self.lows, count)
        else:
            learned = self.method == "learned"
            shape = Shape(
                self.position, self.opening, self.strength, self.depth, low, high, self.protect_drums, learned
            )
            method = Wedge(read, rate, shape)
        return Computation(method.page, {"sides": (0,), "centre": (1,), "both": (0, 1)}[self.keep])

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        clip = inputs[0]
        low, high = self.band(clip.form.rate)
        parts = [f"from {_hertz(low)}" if low > 0 else "", f"to {_hertz(high)}" if high < clip.form.rate / 2 else ""]
        band = " ".join(part for part in parts if part) or "at all frequencies"
        what = {
            "wedge": "what is inside the wedge",
            "difference": "what left and right share",
            "learned": "the lead vocal, as a learned mask finds it inside the wedge",
        }[self.method]
        match self.keep:
            case "sides":
                return f"Removes {what} from {clip.name}, {band}."
            case "centre":
                return f"Keeps only {what} of {clip.name}, {band}."
            case _:
                return f"Separates {what} from the rest of {clip.name}, {band}."

    def band(self, rate: int) -> tuple[float, float]:
        """The limits in Hz: 0 and half the rate where there are none."""
        given = (0.0, rate / 2) if self.method == "difference" else WEDGE_BAND
        low = given[0] if self.low_hz is None else self.low_hz
        high = given[1] if self.high_hz is None else rate / 2 if self.high_hz == "max" else self.high_hz
        return low, min(high, rate / 2)

    def _side_channels(self, clip: ClipInfo) -> int:
        """One channel where they are a bare difference, else two."""
        rate = clip.form.rate
        low, high = self.band(rate)
        keeps_outside = self.lows == "both" and (low > 0 or high < rate / 2)
        return 1 if self.method == "difference" and not keeps_outside else 2


def _hertz(value: float) -> str:
    return f"{value:g} Hz" if value < 1000 else f"{value / 1000:g} kHz"
