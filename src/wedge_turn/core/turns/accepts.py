"""What a turn accepts, as data: its refusals, its documentation and what the web offers all follow from it."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from wedge_turn.core.errors import RateDiffersError, TurnInputError
from wedge_turn.core.turns.outcome import ClipInfo

MAX_CHANNELS: Final = 64


@dataclass(frozen=True)
class Accepts:
    """From `least` to `most` clips of one rate (None for as many as there are), each with `channels` from one number to
    another; `alike` where all have the same number of channels.
    """

    least: int = 1
    most: int | None = 1
    channels: tuple[int, int] = (1, MAX_CHANNELS)
    alike: bool = False

    @property
    def words(self) -> str:
        """As in *one stereo clip*, or *at least 2 clips with the same number of channels*."""
        kind = {(1, 1): "mono ", (2, 2): "stereo "}.get(self.channels, "")
        many = self.most != 1
        number = "one" if not many else "two" if self.least == self.most == 2 else f"at least {self.least}"
        at_least = f" with at least {self.channels[0]} channels" if not kind and self.channels[0] > 1 else ""
        alike = " with the same number of channels" if self.alike else ""
        return f"{number} {kind}clip{'s' if many else ''}{at_least}{alike}"

    def takes(self, channels: Sequence[int]) -> bool:
        """Whether clips with these numbers of channels can go in together."""
        least, most = self.channels
        return (
            self.least <= len(channels) <= (self.most or len(channels))
            and all(least <= count <= most for count in channels)
            and not (self.alike and len(set(channels)) > 1)
        )


def check(kind: str, accepts: Sequence[Accepts], inputs: Sequence[ClipInfo]) -> None:
    """Raises TurnInputError or RateDiffersError where these clips can't go in, with what would."""
    if not accepts_channels(accepts, [clip.form.channels for clip in inputs]):
        raise TurnInputError(f"{kind} takes {describe_accepted(accepts)}; {_describe_given(inputs)}")
    if len({clip.form.rate for clip in inputs}) > 1:
        rates = " and ".join(f"{clip.name} is at {clip.form.rate:,} Hz" for clip in inputs)
        raise RateDiffersError(f"{rates}: {kind} takes clips of one rate")


def accepts_channels(accepts: Sequence[Accepts], channels: Sequence[int]) -> bool:
    """Whether clips with these numbers of channels can go in together."""
    return any(option.takes(channels) for option in accepts)


def describe_accepted(accepts: Sequence[Accepts]) -> str:
    """All that a turn accepts."""
    return ", or ".join(option.words for option in accepts)


def _describe_given(inputs: Sequence[ClipInfo]) -> str:
    if not 1 <= len(inputs) <= 4:
        return f"{len(inputs)} were given"
    channels = [clip.form.channels for clip in inputs]
    if len(inputs) == 1:
        return f"{inputs[0].name} has {channels[0]} channel{'' if channels[0] == 1 else 's'}"
    counts = ["is mono" if n == 1 else "is stereo" if n == 2 else f"has {n} channels" for n in channels]
    listed = " and ".join(f"{clip.name} {count}" for clip, count in zip(inputs, counts, strict=True))
    return f"{len(inputs)} were given: {listed}"
