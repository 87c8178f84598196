"""Hushes: stretches of time in which one channel is lowered or muted.

Within a stretch of n frames with fades of f frames the gain falls from 1 to g and comes back, by a raised cosine, a
fade's frames being k = 0 … f − 1:

    gain(k) = g + (1 − g) · (1 + cos(π (k + ½) / f)) / 2        at the start, mirrored at the end

Both fades lie within the stretch, and meet in its middle where it is shorter than the two. Outside the gain is exactly
1. Where hushes of a channel overlap the lowest of their gains holds, whatever their order.
"""

import re
from collections.abc import Sequence
from typing import Annotated, Final, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from wedge_turn.core.form import Form
from wedge_turn.core.turns.places import TIME_CODE, Place, locate, replace_time_code
from wedge_turn.core.windows import raised_cosine

MAX_HUSHES: Final = 4_096
# Seconds behind minutes have two digits here: a gain, which is never above zero, is told from them.
_PLACE: Final = rf"(?:{TIME_CODE}|\d+(?::[0-5]\d){{1,2}}(?:\.\d*)?|\d+(?:\.\d*)?s?)"
_HUSH: Final = re.compile(
    rf"(?P<channel>\d+):(?P<start>{_PLACE})-(?P<end>{_PLACE})"
    r"(?::(?P<gain_db>[-−][^\s:]+|mute|0(?:\.0*)?)(?::(?P<fade_ms>[\d.]+))?)?"
)
# `;` or `,`. A hush begins with its channel and the start of it; behind a time code's `;` stand frames.
_SEPARATOR: Final = re.compile(rf"[;,](?=\s*(?:$|\d+:{_PLACE}-))")
FADE_MS: Final = 10.0


def _muted(value: object) -> object:
    """Decibels as they are written in a shell; −∞ dB is mute."""
    if value in ("-inf", "−inf", float("-inf")):
        return "mute"
    try:
        db = float(value) if isinstance(value, str) else value
    except ValueError:
        return value
    if isinstance(db, int | float) and db > 0:
        raise ValueError("a hush lowers, so its level can't be above 0 dB")
    return db


Lowered = Annotated[float, Field(ge=-144, le=0, allow_inf_nan=False)]


class Hush(BaseModel):
    """A stretch of one channel, by how much it is lowered, and how long each of its fades is."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    channel: int = Field(ge=1, le=64, description="Counted from 1.")
    start: Place = Field(description="In seconds, in samples as `480s`, or in time code.")
    end: Place = Field(description="In seconds, in samples as `96000s`, or in time code.")
    gain_db: Annotated[Lowered | Literal["mute"], BeforeValidator(_muted)] = "mute"
    fade_ms: Annotated[float, Field(ge=0, le=10_000, allow_inf_nan=False)] = FADE_MS

    @property
    def gain(self) -> float:
        return 0.0 if self.gain_db == "mute" else float(10 ** (self.gain_db / 20))

    def __str__(self) -> str:
        """As it is written in a shell."""
        fade = "" if self.fade_ms == FADE_MS else f":{self.fade_ms:g}"
        level = self.gain_db if self.gain_db == "mute" else f"{self.gain_db:g}"
        return f"{self.channel}:{_write(self.start)}-{_write(self.end)}:{level}{fade}"

    def without_time_code(self, form: Form) -> Self:
        """The same hush of a clip of this form, with samples for time code."""
        return self.model_copy(
            update={"start": replace_time_code(self.start, form), "end": replace_time_code(self.end, form)}
        )

    def span(self, form: Form) -> tuple[int, int]:
        """Its first frame in a clip of this form, and the first after it."""
        return locate(self.start, form), locate(self.end, form)


def _write(place: float | str) -> str:
    return place if isinstance(place, str) else f"{place:.10g}"


def format_hushes(value: object) -> object:
    """Hushes as they are written in a shell, `2:1.50-3.25:-inf;1:1:04-1:05.5:-12:20`: the channel, from and to, the
    gain in dB and the fades in milliseconds; the last two may be left out. A comma parts them too, which a shell leaves
    alone.
    """
    if not isinstance(value, str):
        return value
    return tuple(parse_hushes(text.strip()) for text in _SEPARATOR.split(value) if text.strip())


def parse_hushes(text: str) -> dict[str, object]:
    parts = _HUSH.fullmatch(text)
    if parts is None:
        raise ValueError(
            f"“{text}” isn't a hush: write its channel, from and to, and its level, as in 2:1.50-3.25:-inf"
        )
    if parts["gain_db"] is None and (seconds := _level_or_seconds(parts["start"], parts["end"])):
        raise ValueError(
            f"“{text}” can be read in two ways: write 0:{float(parts['start']):05.2f} for its start if it ends at"
            f" {parts['end']}, or a level below 0 dB, such as -{seconds}"
        )
    return {name: value for name, value in parts.groupdict().items() if value is not None}


def _level_or_seconds(start: str, end: str) -> str:
    """What of an end in minutes and seconds may be meant as a level, as in `2-4:12`: the start says no minutes, and the
    minutes would do as an end in seconds.
    """
    minutes, colon, seconds = end.partition(":")
    plain = re.fullmatch(r"\d+(?:\.\d*)?", start)
    return seconds if colon and plain and ":" not in seconds and float(start) < float(minutes) else ""


HushList = Annotated[tuple[Hush, ...], BeforeValidator(format_hushes)]


class Envelope:
    """The gain of one channel along time, from its hushes."""

    def __init__(self, hushes: Sequence[Hush], form: Form) -> None:
        self._rate = form.rate
        self._hushes = [(hush, *hush.span(form)) for hush in hushes]

    def over(self, start: int, frames: int) -> NDArray[np.float64] | None:
        """The gain of each of these frames, (frames,); None where all of it is 1."""
        stop = start + frames
        met = [(hush, a, b) for hush, a, b in self._hushes if a < stop and b > start]
        if not met:
            return None
        gains = np.ones(frames)
        for hush, a, b in met:
            first, last = max(a, start), min(b, stop)
            part = gains[first - start : last - start]
            np.minimum(part, _envelope(hush, b - a, self._rate, first - a, last - a), out=part)
        return gains


def _envelope(hush: Hush, length: int, rate: int, first: int, last: int) -> NDArray[np.float64]:
    """The gain within a stretch of `length` frames, from its frame `first` to `last`, (last − first,)."""
    fade = min(round(hush.fade_ms * rate / 1000), length // 2)
    k = np.arange(first, last)
    from_edge = np.minimum(k, length - 1 - k)
    gains = np.full(last - first, hush.gain)
    if fade:
        near = from_edge < fade
        gains[near] += (1 - hush.gain) * (1 - raised_cosine(from_edge[near], fade))
    return gains


class HushProcessor:
    """How a clip with hushes is computed: each channel by its gain and its envelope."""

    def __init__(self, gains: Sequence[float], hushes: Sequence[Hush], form: Form) -> None:
        """`gains` are of all channels, as factors."""
        self._gains = gains
        by_channel = [[hush for hush in hushes if hush.channel == n] for n in range(1, len(gains) + 1)]
        self._envelopes = [Envelope(own, form) for own in by_channel]

    def apply(self, block: NDArray[np.float64], start: int) -> NDArray[np.float64]:
        """A block (frames, channels) that begins at frame `start`."""
        out = np.array(block)
        for n, (gain, envelope) in enumerate(zip(self._gains, self._envelopes, strict=True)):
            moving = envelope.over(start, len(out))
            if gain != 1.0:
                out[:, n] *= gain
            if moving is not None:
                out[:, n] *= moving
        return out
