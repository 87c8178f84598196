"""Places along a clip, as settings give them: in seconds, or in samples as `480s`; in a shell as `1:02.5` too."""

import re
from typing import Annotated, Final, Literal

from pydantic import BeforeValidator, Field

# Behind hours there are at most 59 minutes, behind minutes at most 59 seconds.
_CLOCK: Final = re.compile(r"(?:(?:(\d{1,5}):)(?=[0-5]?\d:))?(\d{1,5}):([0-5]?\d(?:\.\d*)?)")


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
Place = Annotated[Seconds | Samples, BeforeValidator(_number)]
End = Annotated[Seconds | Samples | Literal["end"], BeforeValidator(_number)]


def parse_frame(place: float | str, rate: int) -> int:
    """The frame that lies nearest to a place."""
    return int(place[:-1]) if isinstance(place, str) else round(place * rate)
