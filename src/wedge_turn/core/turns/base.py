"""What every turn is: settings that are data, what it accepts, and what it makes of it."""

import math
from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Final, Literal, Self

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from wedge_turn.core.audio import Block
from wedge_turn.core.form import Form
from wedge_turn.core.pages import PAGE, Page
from wedge_turn.core.turns.accepts import Accepts, check
from wedge_turn.core.turns.outcome import ClipInfo, Outcome, label_outputs


def split_commas(value: object) -> object:
    """A setting of several values as it is written in a shell: separated by commas."""
    return (tuple(value.split(",")) if value else ()) if isinstance(value, str) else value


Decibels = Annotated[float, Field(ge=-144, le=48, allow_inf_nan=False)]
DecibelList = Annotated[tuple[Decibels, ...], BeforeValidator(split_commas)]
# How mid and side are scaled: mid = k·(left + right).
Scale = Literal["half", "power"]
SCALES: Final[dict[Scale, float]] = {"half": 0.5, "power": math.sqrt(0.5)}


@dataclass(frozen=True)
class Computation:
    """How a window turn computes: pages of `size` frames at multiples of it, in one or more parts that are clips of
    their own, and which part each result is.
    """

    page: Callable[[int], Page]
    results: tuple[int, ...]
    size: int = PAGE


@dataclass(frozen=True)
class Example:
    """Settings under which a turn does something, and how many channels each of its inputs has."""

    settings: Mapping[str, Any]
    channels: tuple[int, ...]


class Turn(BaseModel, ABC):
    """Settings of one turn. Subclasses add `kind`, their settings, what they accept, and what they do."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    kind: str
    accepts: ClassVar[tuple[Accepts, ...]]
    # What the laws of all turns are tested on.
    example: ClassVar[Example]
    # Bits that a result is given beyond those that go in, so the inverse is lossless.
    extra_bits: ClassVar[int] = 0
    # Bits that a result is given at the least, so that what adds up does so below what can be heard.
    min_bits: ClassVar[int] = 0

    # Goes up whenever the same settings give other samples: what was measured, drawn or delivered before is then made
    # anew.
    revision: ClassVar[int] = 1
    # Settings that this turn didn't always have: where they are at their defaults, keys are made without them, so that
    # what was measured and delivered before is known again.
    added_later: ClassVar[frozenset[str]] = frozenset()

    def outcome(self, inputs: Sequence[ClipInfo]) -> Outcome:
        """What comes out. Raises TurnInputError or RateDiffersError where these inputs cannot go in."""
        check(self.kind, self.accepts, inputs)
        return label_outputs(self._outcome(inputs), inputs)

    @abstractmethod
    def _outcome(self, inputs: Sequence[ClipInfo]) -> Outcome:
        """What comes out of clips that are accepted. Raises TurnInputError where the settings don't fit them."""

    def computation(self, read: Callable[[int, int], Block], clip: ClipInfo) -> Computation:
        """How a window turn computes from the samples of its one clip; matrix turns have none."""
        raise NotImplementedError(f"{self.kind} is a matrix turn")

    @abstractmethod
    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        """What is done, in plain words, with its figures."""

    def without_time_code(self, form: Form) -> Self:  # noqa: ARG002
        """The same turn on a clip of this form, with samples for places that are given in time code."""
        return self

    @property
    def words(self) -> str:
        """What is done in the fewest words: the verb of the worksheet's line."""
        return self.kind

    def groups(self, names: Sequence[str], channels: Sequence[int]) -> list[tuple[int, ...]]:  # noqa: ARG002
        """Which of many clips, by their positions, go in together when this turn is applied to all of them."""
        return [(n,) for n in range(len(names))]


def gain(decibels: float) -> float:
    """Decibels as a factor; exactly 1 for 0 dB."""
    return 1.0 if decibels == 0 else float(10 ** (decibels / 20))


def format_db(decibels: float) -> str:
    """Decibels as people read them."""
    return "0 dB" if decibels == 0 else f"{decibels:+.4g} dB".replace("-", "−")
