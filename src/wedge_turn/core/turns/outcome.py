"""What goes into a turn and what it makes of it, as far as that is known without a sample.

A **matrix turn** places the channels of its inputs on one time axis and multiplies each frame by a constant matrix
of shape (channels out, channels in), where the channels of all inputs, and of all outputs, are counted through:

    out[t, i] = Σ_j  matrix[i, j] · in_j[t − offsets[j]]        for 0 ≤ t < frames

A matrix with entries 0 and ±1 only and at most one entry a row is *exact*: integer samples go through as they are
(an inverted lowest value does not fit; it is counted and reported as clipped when the file is written).

A **window turn** computes its results from samples around the stretch it is asked for.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from wedge_turn.core.form import Form

Matrix = NDArray[np.float64]


class Finding(BaseModel):
    """Something measured that the user should know. `measured` holds the figures of the message."""

    model_config = ConfigDict(frozen=True)

    code: str
    message: str
    measured: dict[str, float | int | str] = {}


@dataclass(frozen=True)
class ClipInfo:
    """What a turn knows of a clip that goes in."""

    name: str
    form: Form


@dataclass(frozen=True)
class Output:
    """A clip that comes out: its name and form. How deep it is stored follows from the samples that go in."""

    name: str
    form: Form


@dataclass(frozen=True)
class MatrixOutcome:
    """What a matrix turn makes of its inputs. `offsets` (one for each channel in) and `frames` are in samples."""

    outputs: tuple[Output, ...]
    matrix: Matrix
    offsets: tuple[int, ...]
    frames: int
    findings: tuple[Finding, ...] = ()

    @cached_property
    def exact(self) -> bool:
        """Whether integer samples go through unchanged but for their sign."""
        rows = ([gain for gain in row if gain] for row in self.matrix.tolist())
        return all(row in ([], [1.0], [-1.0]) for row in rows)

    @cached_property
    def inverse(self) -> Matrix | None:
        """The matrix, of shape (channels in, channels out), that makes the inputs again; None where none does.

        An exact matrix whose columns each reach one output is undone by its transpose, any other of two channels
        or more by its inverse, where that does not enlarge what rounding left by more than 40 dB.
        """
        if self.exact:
            reached = np.count_nonzero(self.matrix, axis=0)
            return self.matrix.T.copy() if bool((reached == 1).all()) else None
        rows, columns = self.matrix.shape
        if rows != columns or len(set(self.offsets)) > 1:
            return None
        back = _inverse(self.matrix)
        return back if back is not None and float(np.abs(back).max()) <= 100 else None


@dataclass(frozen=True)
class WindowOutcome:
    """What a window turn makes of its one input. `matrix` says which channels are heard in which, and `inverse` is the
    matrix, of shape (channels in, channels out), by which the results add up to the input, where they do.
    `keeps_samples` says that most samples are those that went in: they are not dithered with those that are not;
    `exact` that integers are not rounded.
    """

    outputs: tuple[Output, ...]
    matrix: Matrix
    frames: int
    inverse: Matrix | None = None
    findings: tuple[Finding, ...] = ()
    keeps_samples: bool = False
    exact: bool = False

    @property
    def offsets(self) -> tuple[int, ...]:
        """Its channels keep their place in time."""
        return (0,) * len(self.matrix[0])


Outcome = MatrixOutcome | WindowOutcome


def label_outputs(outcome: Outcome, inputs: Sequence[ClipInfo]) -> Outcome:
    """The outcome with the names of channels: of one that holds a single channel of the inputs, that one's."""
    given = [label for clip in inputs for label in clip.form.labels or ("",) * clip.form.channels]
    if not any(given):
        return outcome
    rows = iter(outcome.matrix.tolist())

    def of(output: Output) -> Output:
        holds = [[n for n, gain in enumerate(next(rows)) if gain] for _ in range(output.form.channels)]
        labels = tuple(given[channel[0]] if len(channel) == 1 else "" for channel in holds)
        return replace(output, form=output.form.model_copy(update={"labels": labels if any(labels) else ()}))

    return replace(outcome, outputs=tuple(of(output) for output in outcome.outputs))


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


def matrix_outcome(
    clip: ClipInfo, matrix: Sequence[Sequence[float]] | Matrix, name: str | None = None
) -> MatrixOutcome:
    """The outcome of a matrix on one clip that keeps its place in time, its length and its rate."""
    weights = np.array(matrix, np.float64)
    channels = len(weights)
    mask = clip.form.speaker_mask if channels == clip.form.channels else 0
    form = clip.form.model_copy(update={"channels": channels, "container": "WAV", "speaker_mask": mask})
    return MatrixOutcome((Output(name or clip.name, form),), weights, (0,) * clip.form.channels, clip.form.frames)
