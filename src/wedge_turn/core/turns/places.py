"""Places along a clip, as settings give them: in seconds, or in samples as `480s`."""

from typing import Annotated, Final, Literal

from pydantic import BeforeValidator, Field


def _number(value: object) -> object:
    """Seconds as they are written in a shell."""
    try:
        return float(value) if isinstance(value, str) else value
    except ValueError:
        return value


# Longer than any file is.
LONGEST: Final = 1e9
Seconds = Annotated[float, Field(ge=0, le=LONGEST, allow_inf_nan=False)]
Samples = Annotated[str, Field(pattern=r"^[0-9]{1,15}s$")]
Place = Annotated[Seconds | Samples, BeforeValidator(_number)]
End = Annotated[Seconds | Samples | Literal["end"], BeforeValidator(_number)]


def frame_at(place: float | str, rate: int) -> int:
    """The frame that lies nearest to a place."""
    return int(place[:-1]) if isinstance(place, str) else round(place * rate)
