"""Centre: the centre of the stereo field is removed, or kept, or separated from the sides as a clip of its own.

    voice         a lead voice in the middle, by a small network taught on songs with known parts; drums, bass and
                  other instruments in the middle stay with the sides
    wedge         everything in the middle: a sector of the field in a band of frequencies
    difference    one channel minus the other: what both share is gone, bass and drums included, unless they are kept
                  outside the band (`lows`: both channels in stereo, or one of them in mono)

The results of `voice` and `wedge` are stereo; the centre of a difference is (L + R)/2, mono.

What was removed and what was kept add up to the original, of a difference as L = centre + sides/2 and R = centre −
sides/2. Reverb and doubled voices stay, because they differ between
the channels. How each is computed: `wedge_turn.core.centre`.
"""

from collections.abc import Callable, Sequence
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import BeforeValidator, Field, model_validator

from wedge_turn.core.audio import Block
from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import Computation, Example, Turn
from wedge_turn.core.turns.outcome import ClipInfo, Finding, Output, WindowOutcome

Low = Annotated[float, Field(ge=0, le=20_000, allow_inf_nan=False)]
High = Annotated[float, Field(ge=20, le=400_000, allow_inf_nan=False)]
WEDGE_BAND = (180.0, 10_000.0)
FIRST_VERSION, LATEST_VERSION = 2, 4  # of the voice network
CentreMethod = Literal["voice", "wedge", "difference"]
Replaced = Literal["", "learned"]
_REPLACED = Finding(
    code="method-replaced",
    message="This line was made with the learned mask. The voice method, which replaces it, computes it now.",
)


def _none(value: object) -> object:
    return None if value == "" else value


class Centre(Turn):
    accepts: ClassVar = (Accepts(channels=(2, 2)),)
    example: ClassVar = Example({"keep": "both"}, (2,))
    min_bits: ClassVar[int] = 24
    revision: ClassVar[int] = 2  # the voice network was taught anew

    kind: Literal["centre"] = "centre"
    keep: Literal["sides", "centre", "both"] = Field(default="sides", description="Which of the two are made.")
    method: CentreMethod = Field(
        default="voice",
        description="What is separated: a voice, everything in the middle, or what both channels share.",
    )
    version: int = Field(
        default=LATEST_VERSION,
        ge=FIRST_VERSION,
        le=LATEST_VERSION,
        description="Which version of the voice method computes it; lines keep the one that they were made with.",
    )
    replaces: Replaced = Field(
        default="", description="Set on lines that were made with a method that has been replaced."
    )
    low_hz: Annotated[Low | None, BeforeValidator(_none)] = Field(
        default=None,
        description="Below this nothing is cut, 0 for no limit; by default 180 for the wedge, else none.",
    )
    high_hz: Annotated[High | Literal["max"] | None, BeforeValidator(_none)] = Field(
        default=None,
        description="Above this nothing is cut, `max` for no limit; by default 10000 for the wedge, else none.",
    )
    lows: Literal["both", "left", "right"] = Field(
        default="both", description="Whose sound is kept outside the band, in a difference."
    )
    position: float = Field(
        default=0.0, ge=-1, le=1, allow_inf_nan=False, description="Where the wedge points: −1 left, 1 right."
    )
    opening: float = Field(
        default=1.0, ge=0.1, le=4, allow_inf_nan=False, description="How wide the wedge is; 1 for a voice."
    )
    strength: float = Field(
        default=1.5, ge=0.25, le=6, allow_inf_nan=False, description="0.5 takes more, 3 takes less."
    )
    depth: float = Field(
        default=1.0, ge=0, le=1, allow_inf_nan=False, description="The share that is removed; less leaves a guide."
    )
    protect_drums: bool = Field(default=False, description="Keep drum hits out of the centre.")

    @model_validator(mode="before")
    @classmethod
    def _read_older(cls, values: object) -> object:
        """Settings that were stored for the learned mask, which had a width: the voice method computes them now; and
        those for the voice method from before it had versions.
        """
        if not isinstance(values, dict):
            return values
        if values.get("method") == "learned":
            return {**values, "method": "voice", "opening": 1.0, "replaces": "learned"}
        # Lines are stored with all their settings; before there were two versions, without this one.
        if "replaces" in values and values.get("method") == "voice" and "version" not in values:
            return {**values, "version": FIRST_VERSION}
        return values

    @property
    def words(self) -> str:
        what = "voice" if self.method == "voice" else "centre"
        actions = {"sides": f"remove the {what}", "centre": f"keep the {what}", "both": f"separate {what} and sides"}
        return actions[self.keep] + (" by difference" if self.method == "difference" else "")

    def _outcome(self, inputs: Sequence[ClipInfo]) -> WindowOutcome:
        clip = inputs[0]
        low, high = self.band(clip.form.rate)
        if low >= high:
            raise TurnInputError(f"{clip.name}: nothing lies between {low:g} Hz and {high:g} Hz")
        if self.method == "voice" and self.opening != 1:
            raise TurnInputError("only the wedge has a width: leave opening at 1, or choose method=wedge")
        count = self._side_channels(clip)
        in_a_band = count == 2 or self.lows != "both"
        if self.method == "difference" and self.keep != "sides" and in_a_band:
            raise TurnInputError(
                "a difference within a band has no centre: leave out its limits and lows, or choose method=wedge"
            )
        of_centre = 1 if self.method == "difference" else 2
        channels_of_results = {"sides": (count,), "centre": (of_centre,), "both": (count, of_centre)}[self.keep]
        names = {"sides": ("_sides",), "centre": ("_centre",), "both": ("_sides", "_centre")}[self.keep]
        outputs = tuple(
            Output(clip.name + ending, clip.form.model_copy(update={"channels": channels, "container": "WAV"}))
            for channels, ending in zip(channels_of_results, names, strict=True)
        )
        back = None
        if self.keep == "both":
            back = np.hstack([np.eye(2), np.eye(2)]) if of_centre == 2 else np.array([[0.5, 1.0], [-0.5, 1.0]])
        findings = [_REPLACED] if self.replaces else []
        if self.method == "voice" and self.version < LATEST_VERSION:
            message = (
                f"This line was made with version {self.version} of the voice method, which still computes it. Version "
                f"{LATEST_VERSION} is newer."
            )
            findings.append(Finding(code="older-voice", message=message, measured={"version": self.version}))
        spread = np.ones((sum(channels_of_results), 2))
        return WindowOutcome(outputs, spread, clip.form.frames, back, findings=tuple(findings))

    def computation(self, read: Callable[[int, int], Block], clip: ClipInfo) -> Computation:
        # SciPy takes a second to import, which only those wait for who hear or write a centre.
        from wedge_turn.core.centre import Difference, Extraction, Shape

        rate, count = clip.form.rate, self._side_channels(clip)
        low, high = self.band(rate)
        if self.method == "difference":
            method: Difference | Extraction = Difference(read, rate, low, high, self.lows, count)
        else:
            shape = Shape(
                position=self.position,
                opening=self.opening,
                strength=self.strength,
                depth=self.depth,
                low=low,
                high=high,
                protect_drums=self.protect_drums,
                voice=self.version if self.method == "voice" else 0,
            )
            method = Extraction(read, rate, clip.form.frames, shape)
        parts = {"sides": (0,), "centre": (1,), "both": (0, 1)}[self.keep]
        return Computation(method.page, parts, method.size)

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        clip = inputs[0]
        low, high = self.band(clip.form.rate)
        parts = [f"from {_hertz(low)}" if low > 0 else "", f"to {_hertz(high)}" if high < clip.form.rate / 2 else ""]
        band = " ".join(part for part in parts if part)
        band = f", {band}" if band else "" if self.method == "voice" else ", at all frequencies"
        what = {
            "wedge": "what is inside the wedge",
            "difference": "what left and right share",
            "voice": "the voice in the middle" if self.position == 0 else "the voice where the position points",
        }[self.method]
        match self.keep:
            case "sides":
                return f"Removes {what} from {clip.name}{band}."
            case "centre":
                return f"Keeps only {what} of {clip.name}{band}."
            case _:
                return f"Separates {what} from the rest of {clip.name}{band}."

    def band(self, rate: int) -> tuple[float, float]:
        """The limits in Hz: 0 and half the rate where there are none."""
        default = WEDGE_BAND if self.method == "wedge" else (0.0, rate / 2)
        low = default[0] if self.low_hz is None else self.low_hz
        high = default[1] if self.high_hz is None else rate / 2 if self.high_hz == "max" else self.high_hz
        return low, min(high, rate / 2)

    def _side_channels(self, clip: ClipInfo) -> int:
        """One channel where they are a bare difference, else two."""
        rate = clip.form.rate
        low, high = self.band(rate)
        keeps_outside = self.lows == "both" and (low > 0 or high < rate / 2)
        return 1 if self.method == "difference" and not keeps_outside else 2


def _hertz(value: float) -> str:
    return f"{value:g} Hz" if value < 1000 else f"{value / 1000:g} kHz"
