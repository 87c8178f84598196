"""What every turn is: settings that are data, and what they make of the clips that go in.

A **matrix turn** places the channels of its inputs on one time axis and multiplies each frame by a constant matrix
of shape (channels out, channels in), where the channels of all inputs, and of all outputs, are counted through:

    out[t, i] = Σ_j  matrix[i, j] · in_j[t − offsets[j]]        for 0 ≤ t < frames

A matrix with entries 0 and ±1 only and at most one entry a row is *exact*: integer samples go through as they are
(a flipped lowest value does not fit; it is counted and reported as clipped when the file is written).
"""

import math
from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, ClassVar, Final, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.pcm import Block
from wedge_turn.core.errors import TurnInputError

Matrix = NDArray[np.float64]


def listed(value: object) -> object:
    """A setting of several values as it is written in a shell: separated by commas."""
    return (tuple(value.split(",")) if value else ()) if isinstance(value, str) else value


Decibels = Annotated[float, Field(ge=-144, le=48, allow_inf_nan=False)]
DecibelList = Annotated[tuple[Decibels, ...], BeforeValidator(listed)]
# How mid and side are scaled: mid = k·(left + right).
Scale = Literal["half", "power"]
SCALES: Final[dict[Scale, float]] = {"half": 0.5, "power": math.sqrt(0.5)}


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
    """A clip that comes out: its name and form. How deep it is stored follows from the samples that go in."""

    name: str
    form: Form


@dataclass(frozen=True)
class Outcome:
    """What a turn makes of its inputs. `offsets` (one for each channel in) and `frames` are in samples."""

    outputs: tuple[Output, ...]
    matrix: Matrix
    offsets: tuple[int, ...]
    frames: int
    findings: tuple[Finding, ...] = ()
    # A window turn computes its results from samples around the stretch it is asked for: its matrix only says which
    # channels are heard in which, and `adds_up` is the matrix that makes the inputs of the results, where one does.
    computed: bool = False
    adds_up: Matrix | None = None

    @cached_property
    def exact(self) -> bool:
        """Whether integer samples go through unchanged but for their sign."""
        if self.computed:
            return False
        rows = ([gain for gain in row if gain] for row in self.matrix.tolist())
        return all(row in ([], [1.0], [-1.0]) for row in rows)

    @cached_property
    def way_back(self) -> Matrix | None:
        """The matrix, of shape (channels in, channels out), that makes the inputs again; None where none does.

        An exact matrix whose columns each reach one output is undone by its transpose, any other of two channels
        or more by its inverse, where that does not enlarge what rounding left by more than 40 dB.
        """
        if self.computed:
            return self.adds_up
        if self.exact:
            reached = np.count_nonzero(self.matrix, axis=0)
            return self.matrix.T.copy() if bool((reached == 1).all()) else None
        rows, columns = self.matrix.shape
        if rows != columns or len(set(self.offsets)) > 1:
            return None
        back = _inverse(self.matrix)
        return back if back is not None and float(np.abs(back).max()) <= 100 else None


def _inverse(matrix: Matrix) -> Matrix | None:
    """The inverse; of two rows by its adjugate, which is exact where the factors are powers of two."""
    if len(matrix) == 2:
        (a, b), (c, d) = matrix
        det = float(a * d - b * c)
        return np.array([[d, -b], [-c, a]]) / det if det else None
    try:
        return np.asarray(np.linalg.inv(matrix), np.float64)
    except np.linalg.LinAlgError:
        return None


@dataclass(frozen=True)
class Computation:
    """How a window turn computes: pages of frames at multiples of their size, in one or more parts that are clips of
    their own, and which part each result is.
    """

    page: Callable[[int], tuple[Block, ...]]
    results: tuple[int, ...]


class Turn(BaseModel, ABC):
    """Settings of one turn. Subclasses add `kind`, their settings, and what they do."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    kind: str
    takes: ClassVar[str]
    # Bits that a result is given beyond those that go in, so that the way back finds every sample again.
    room: ClassVar[int] = 0
    # Bits that a result is given at the least, so that what adds up does so below what can be heard.
    least_bits: ClassVar[int] = 0

    @abstractmethod
    def outcome(self, inputs: Sequence[ClipInfo]) -> Outcome:
        """What comes out. Raises TurnInputError where these inputs cannot go in."""

    def computation(self, read: Callable[[int, int], Block], clip: ClipInfo) -> Computation:
        """How a window turn computes from the samples of its one clip; matrix turns have none."""
        raise NotImplementedError(f"{self.kind} is a matrix turn")

    @abstractmethod
    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        """What is done, in plain words, with its figures."""

    @property
    def words(self) -> str:
        """What is done in the fewest words: the verb of the worksheet's line."""
        return self.kind

    def groups(self, names: Sequence[str], channels: Sequence[int]) -> list[tuple[int, ...]]:  # noqa: ARG002
        """Which of many clips, by their positions, go in together when this turn is applied to all of them."""
        return [(n,) for n in range(len(names))]


def only(kind: str, inputs: Sequence[ClipInfo]) -> ClipInfo:
    """The one clip of a turn that takes one."""
    if len(inputs) != 1:
        raise TurnInputError(f"{kind} takes one clip at a time; {len(inputs)} were given")
    return inputs[0]


def stereo(kind: str, inputs: Sequence[ClipInfo]) -> ClipInfo:
    """The one stereo clip of a turn that takes one."""
    clip = only(kind, inputs)
    if clip.form.channels != 2:
        raise TurnInputError(f"{kind} takes a stereo clip; {clip.name} has {_channels(clip.form.channels)}")
    return clip


def _channels(count: int) -> str:
    return "1 channel" if count == 1 else f"{count} channels"


def same_axis(clip: ClipInfo, matrix: Sequence[Sequence[float]] | Matrix, name: str | None = None) -> Outcome:
    """The outcome of a matrix on one clip that keeps its place in time, its length and its rate."""
    made = np.array(matrix, np.float64)
    channels = len(made)
    mask = clip.form.speaker_mask if channels == clip.form.channels else 0
    form = clip.form.model_copy(update={"channels": channels, "container": "WAV", "speaker_mask": mask})
    return Outcome((Output(name or clip.name, form),), made, (0,) * clip.form.channels, clip.form.frames)


def gain(decibels: float) -> float:
    """Decibels as a factor; exactly 1 for 0 dB."""
    return 1.0 if decibels == 0 else float(10 ** (decibels / 20))


def in_db(decibels: float) -> str:
    """Decibels as people read them."""
    return "0 dB" if decibels == 0 else f"{decibels:+.4g} dB".replace("-", "−")
