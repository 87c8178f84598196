"""Time code: hours, minutes, seconds and frames, as a picture counts time.

Drop-frame counting leaves out the numbers 0 and 1 (at 60 frames 0 to 3) of every minute that is not a tenth one, so
that 29.97 frames a second keep up with the clock (SMPTE ST 12-1; from memory).
"""

import re
from fractions import Fraction
from typing import Final

from pydantic import BaseModel, ConfigDict, Field

_RATE: Final = re.compile(r"([0-9]{1,6})(?:/([0-9]{1,6})|\.([0-9]{1,6}))?")
_CODE: Final = re.compile(r"([0-9]{1,2}):([0-9]{2}):([0-9]{2})([:;.])([0-9]{2,3})")
# Rates that are written rounded, and what they are.
_EXACT: Final = {n: Fraction(n * 1000, 1001) for n in (24, 30, 48, 60, 120)}
_NEAR: Final = 0.015
DAY: Final = 86_400  # seconds


class FrameRate(BaseModel):
    """Frames in a second, as a fraction, and whether numbers are dropped."""

    model_config = ConfigDict(frozen=True)

    frames: int = Field(ge=1, le=1_000_000)
    seconds: int = Field(ge=1, le=1_000_000)
    drop: bool = False

    @property
    def per_second(self) -> Fraction:
        return Fraction(self.frames, self.seconds)

    @property
    def text(self) -> str:
        """The rate as people say it: 25, 23.976, 29.97 drop-frame."""
        rate = f"{float(self.per_second):.3f}".rstrip("0").rstrip(".")
        return f"{rate} drop-frame" if self.drop else rate

    @property
    def nominal(self) -> int:
        """How many numbers a second of time code has."""
        return max(1, round(self.per_second))

    @property
    def can_drop_frames(self) -> bool:
        """Whether this rate is ever counted with numbers dropped."""
        return self.nominal % 30 == 0 and self.per_second != self.nominal


def parse_frame_rate(text: str) -> FrameRate | None:
    """A rate written as `25`, `30000/1001` or `29.97`; None for anything else."""
    found = _RATE.fullmatch(text.strip())
    if not found:
        return None
    if found[2]:
        rate = Fraction(int(found[1]), int(found[2])) if int(found[2]) else Fraction(0)
    else:
        rate = Fraction(f"{found[1]}.{found[3] or 0}")
        rate = next((exact for exact in _EXACT.values() if abs(exact - rate) < _NEAR and rate.denominator > 1), rate)
    if not 1 <= rate <= 1_000 or max(rate.numerator, rate.denominator) > 1_000_000:
        return None
    return FrameRate(frames=rate.numerator, seconds=rate.denominator)


def format_clock(samples: int, rate: int) -> str:
    """Samples since midnight as the time of day, 10:42:07.250."""
    milliseconds = round(1000 * samples / rate) % (1000 * DAY)
    seconds, rest = divmod(milliseconds, 1000)
    return f"{seconds // 3600:02}:{seconds // 60 % 60:02}:{seconds % 60:02}.{rest:03}"


def format_length(samples: int, rate: int) -> str:
    """A length: 2:14.300, or 1:02:14.300 from an hour on."""
    seconds, rest = divmod(round(1000 * samples / rate), 1000)
    hours, minutes = f"{seconds // 3600}:" if seconds >= 3600 else "", seconds // 60 % 60
    return f"{hours}{minutes:0{2 if hours else 1}}:{seconds % 60:02}.{rest:03}"


def format_time_code(samples: int, rate: int, frames: FrameRate) -> str:
    """The time code of a place, given in samples after midnight at `rate` samples a second."""
    number = int(Fraction(samples, rate) * frames.per_second)
    counted = frames.nominal
    if frames.drop:
        dropped = counted // 15
        minute, ten = 60 * counted - dropped, 600 * counted - 9 * dropped
        tens, rest = divmod(number, ten)
        number += 9 * dropped * tens + (dropped * ((rest - dropped) // minute) if rest >= dropped else 0)
    seconds, frame = divmod(number, counted)
    hours, minutes = seconds // 3600 % 24, seconds // 60 % 60
    return f"{hours:02}:{minutes:02}:{seconds % 60:02}{';' if frames.drop else ':'}{frame:02}"


def parse_time_code(code: str, rate: int, frames: FrameRate) -> int | None:
    """The place of a time code in samples after midnight; None where it is none."""
    found = _CODE.fullmatch(code.strip())
    if not found:
        return None
    hours, minutes, seconds, frame = (int(found[n]) for n in (1, 2, 3, 5))
    number = (hours * 3600 + minutes * 60 + seconds) * frames.nominal + frame
    if frames.can_drop_frames and found[4] == ";":
        all_minutes = hours * 60 + minutes
        number -= frames.nominal // 15 * (all_minutes - all_minutes // 10)
    return round(number / frames.per_second * rate)
