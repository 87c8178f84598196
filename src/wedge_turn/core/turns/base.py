"""What every turn is: settings that are data, and what they make of the clips that go in.

A **matrix turn** places its inputs on one time axis and multiplies each frame by a constant matrix of
shape (channels out, channels in), where the channels of all inputs, and of all outputs, are counted through:

    out[t, i] = Σ_j  matrix[i, j] · in_j[t − offset of j's clip]        for 0 ≤ t < frames

A matrix with entries 0 and ±1 only and at most one entry a row is *exact*: integer samples go through as they are.
"""

from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from wedge_turn.core.audio.form import Form


class Finding(BaseModel):
    """Something measured that the user should know. `measured` holds the figures of the message."""

    model_config = ConfigDict(frozen=True)

    code: str
    message: str
    measured: dict[str, float | int | str] = {}


@dataclass(frozen=True)
class ClipInfo:
    """What a turn is told about a clip that goes in."""

    name: str
    form: Form


@dataclass(frozen=True)
class Output:
    """A clip that comes out: its name and form."""

    name: str
    form: Form


@dataclass(frozen=True)
class Outcome:
    """What a matrix turn makes of its inputs. `offsets` (one for each input) and `frames` are in samples."""

    outputs: tuple[Output, ...]
    matrix: NDArray[np.float64]
    offsets: tuple[int, ...]
    frames: int
    findings: tuple[Finding, ...] = ()

    @property
    def exact(self) -> bool:
        """Whether integer samples go through unchanged."""
        entries = np.abs(self.matrix)
        return bool(np.isin(entries, (0.0, 1.0)).all() and (np.count_nonzero(entries, axis=1) <= 1).all())

    @property
    def way_back(self) -> NDArray[np.float64] | None:
        """The matrix, of shape (channels in, channels out), that makes the inputs again; None where none does.

        An exact matrix whose columns each reach an output is undone by its transpose.
        """
        reached = np.count_nonzero(self.matrix, axis=0)
        return self.matrix.T.copy() if self.exact and bool((reached == 1).all()) else None


class Turn(BaseModel, ABC):
    """Settings of one turn. Subclasses add `kind`, their settings, and what they do."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    kind: str
    verb: ClassVar[str]
    takes: ClassVar[str]

    @abstractmethod
    def outcome(self, inputs: Sequence[ClipInfo]) -> Outcome:
        """What comes out. Raises TurnInputError where these inputs cannot go in."""

    def groups(self, names: Sequence[str]) -> list[tuple[int, ...]]:
        """Which of many clips, by their positions, go in together when this turn is applied to all of them."""
        return [tuple(range(len(names)))]

    @abstractmethod
    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        """What is done, in plain words, with its figures."""
