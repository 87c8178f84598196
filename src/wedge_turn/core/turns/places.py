"""Places along a clip, as settings give them: in seconds, in samples as `480s`, or in time code as `01:00:00:12`; in a
shell as `1:02.5` too.

Time code is that of the recording: its frame rate is the clip's, or stands behind it as in `01:00:00:12@25`; `;` before
the frames drops numbers (`wedge_turn.core.form.timecode`).
"""

import re
from typing import Annotated, Final, Literal

from pydantic import BeforeValidator, Field

from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.form import DAY, Form, format_clock, parse_frame_rate, parse_time_code

# Behind hours there are at most 59 minutes, behind minutes at most 59 seconds.
_CLOCK: Final = re.compile(r"(?:(?:(\d{1,5}):)(?=[0-5]?\d:))?(\d{1,5}):([0-5]?\d(?:\.\d*)?)")
TIME_CODE: Final = r"[0-9]{1,2}:[0-5][0-9]:[0-5][0-9][:;][0-9]{2,3}(?:@[0-9]{1,6}(?:[./][0-9]{1,6})?)?"


def _number(value: object) -> object:
    """Seconds as they are written in a shell: `62.5`, `1:02.5`, or `10:42:00`."""
    if not isinstance(value, str):
        return value
    if clock := _CLOCK.fullmatch(value):
        hours, minutes, seconds = clock.groups(default="0")
        return 3600 * int(hours) + 60 * int(minutes) + float(seconds)
    try:
        return float(value)
    except ValueError:
        return value


# Longer than any file is.
MAX_TEXT: Final = 1e9
Seconds = Annotated[float, Field(ge=0, le=MAX_TEXT, allow_inf_nan=False)]
Samples = Annotated[str, Field(pattern=r"^[0-9]{1,15}s$")]
TimeCode = Annotated[str, Field(pattern=rf"^{TIME_CODE}$")]
Place = Annotated[Seconds | Samples | TimeCode, BeforeValidator(_number)]
End = Annotated[Seconds | Samples | TimeCode | Literal["end"], BeforeValidator(_number)]


def locate(place: float | str, form: Form, *, of_day: bool = False) -> int:
    """The frame of a clip that lies nearest to a place; `of_day` counts from midnight and not from the clip's start.

    Raises TurnInputError for a time code without a frame rate, that no clock of that rate shows, or that lies before
    the clip.
    """
    if not isinstance(place, str):
        return round(place * form.rate)
    if place.endswith("s"):
        return int(place[:-1])
    if form.start_time is None and not of_day:
        raise TurnInputError(
            f"{place} is a time code, and when this clip was recorded is not known: give seconds from its start"
        )
    since_midnight = _count_from_midnight(place, form)
    if of_day or form.start_time is None:
        return since_midnight
    # A recording that went on past midnight has it on the next day.
    frame = since_midnight - form.start_time % (DAY * form.rate)
    later = frame + DAY * form.rate
    frame = later if frame < 0 and later < form.frames else frame
    if frame < 0:
        start = format_clock(form.start_time, form.rate)
        raise TurnInputError(f"{place} lies before the start of the clip, which was recorded from {start} on")
    return frame


def replace_time_code(place: float | str, form: Form, *, of_day: bool = False) -> float | str:
    """A place in a clip of this form in samples, where it is given in time code."""
    return f"{locate(place, form, of_day=of_day)}s" if isinstance(place, str) and ":" in place else place


def _count_from_midnight(place: str, form: Form) -> int:
    code, _, rate_text = place.partition("@")
    frame_rate = parse_frame_rate(rate_text) if rate_text else form.frame_rate
    if frame_rate is None:
        raise TurnInputError(f"the frame rate of {place} is not known: write it behind, as in {code}@25")
    # Of a recording whose numbers are dropped, they are dropped however its time code is written.
    drops = frame_rate.can_drop_frames and (";" in code or frame_rate.drop)
    hours, minutes, seconds, frame = map(int, re.split("[:;]", code))
    dropped = frame_rate.nominal // 15 if drops and minutes % 10 and not seconds else 0
    if hours > 23 or not dropped <= frame < frame_rate.nominal:
        raise TurnInputError(f"{code} is not a time code at {frame_rate.text} frames a second")
    written = f"{code[:-3] if code[-3] in ':;' else code[:-4]}{';' if drops else ':'}{frame:02}"
    samples = parse_time_code(written, form.rate, frame_rate)
    assert samples is not None
    return samples
