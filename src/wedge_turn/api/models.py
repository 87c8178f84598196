"""What goes over the wire."""

from datetime import datetime
from typing import Any, Final, Literal, Self

from pydantic import BaseModel, Field, model_validator

from wedge_turn.core.centre import Forecast
from wedge_turn.core.delivery import Proof
from wedge_turn.core.findings import FileFinding, Remedy
from wedge_turn.core.form import MAX_RATE, MIN_RATE, DepthName
from wedge_turn.core.measure import Expectation, Measures
from wedge_turn.core.metadata import Recorded
from wedge_turn.core.naming import Kind
from wedge_turn.core.turns import AnyTurn
from wedge_turn.core.worksheet import Dismissal, Identity, Reason, Ref, ResultName, Stretch

BINARY: Final[dict[str, Any]] = {
    "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}
}
JPEG: Final[dict[str, Any]] = {"content": {"image/jpeg": {"schema": {"type": "string", "format": "binary"}}}}
ResultNames = tuple[ResultName, ...]


class JobSummary(BaseModel):
    id: str
    name: str
    created: datetime
    files: int
    turns: int


class ClipView(BaseModel):
    """A clip: `key` is the same for the same samples; `labels` are the names that the file gives its channels,
    `start_time` counts samples since midnight, `time_code` is the same at the file's `frame_rate`.
    """

    ref: Ref
    key: str
    name: str
    channels: int
    frames: int
    rate: int
    depth: DepthName
    container: str
    lossy: bool
    speakers: list[str]
    labels: list[str]
    start_time: int | None
    time_code: str | None
    frame_rate: str | None


class SourceView(ClipView):
    """A source; `file` is the name it came in with, `folder` where it was dropped from.

    `field` is the share of energy in equal sectors from −90° to +90°; `loudness` and `peak` are of the whole file.
    `same_as` are other sources with the same samples, `note` is what the user wrote about it,
    `recorded` what the file says about itself.
    `problem` says why the file cannot be used or judged; everything else goes on without it.
    """

    id: str
    file: str
    folder: str
    bytes: int
    archived: bool
    measured: bool
    loudness: float | None
    peak: float | None
    field: list[float]
    findings: list[FileFinding]
    same_as: list[Ref]
    note: str
    recorded: Recorded
    problem: str | None


class ChunkView(BaseModel):
    """A chunk of a file: its four letters and its size."""

    name: str
    bytes: int


class SourceDetails(BaseModel):
    """Everything known about a source."""

    source: SourceView
    measures: Measures
    chunks: list[ChunkView]


class DeliveredView(BaseModel):
    """When results of a line were last delivered, and whether their samples are no longer the same."""

    at: datetime
    changed: bool


class StepView(BaseModel):
    """A line of the worksheet.

    `carries` says for each channel of each output which input channels are in it, `matrix` how much of each. `over` is
    the range that it is limited to, which it can be where what comes out `takes_place` of what goes in. `begins_at` is
    the frame of its first input that comes first in its results. `waits_for` is the name of an input that is missing:
    until another is chosen the line has no results. `one_to_one` says that one clip goes in and one comes out.
    """

    id: str
    turn: AnyTurn
    verb: str
    sentence: str
    inputs: list[Ref]
    outputs: list[ClipView]
    carries: list[list[list[str]]]
    matrix: list[list[float]]
    exact: bool
    comes_back: bool
    findings: list[FileFinding]
    proof: Proof | None
    delivered: DeliveredView | None
    over: Stretch | None
    takes_place: bool
    one_to_one: bool
    begins_at: int
    waits_for: str | None
    bypassed: bool
    reason: str


class GroupView(BaseModel):
    """Sources that belong together, in channel order; `done` says whether a turn makes one clip of them already.

    `refused` says why they cannot become one as they are, `doubt` why they may not belong together after all.
    """

    kind: Kind
    name: str
    members: list[Ref]
    speakers: list[str]
    by_hand: bool
    turn: AnyTurn
    label: str
    done: bool
    refused: str | None
    doubt: str | None
    findings: list[FileFinding]


class UnclearView(BaseModel):
    """Sources that could belong together, and why nothing was guessed."""

    name: str
    members: list[Ref]
    reason: str


class SuggestionView(BaseModel):
    """A line that is safe to add unheard, what it goes by, its name, and why."""

    code: str
    label: str
    turn: AnyTurn
    inputs: list[Ref]
    names: list[str]
    reason: str


class QuestionView(BaseModel):
    """Something about a clip that has to be heard, and the line that would deal with it, where there is one."""

    ref: Ref
    code: str
    message: str
    inputs: list[Ref]
    remedy: Remedy | None


class PreparationView(BaseModel):
    """What a job's files need. `untouched` are sources that nothing is done with and nothing is asked about."""

    safe: list[SuggestionView]
    questions: list[QuestionView]
    untouched: list[Ref]


class JobView(BaseModel):
    """A job as it stands at its head. `problem` says why its worksheet cannot be shown: it then has no lines."""

    id: str
    name: str
    head: str
    can_undo: bool
    can_redo: bool
    sources: list[SourceView]
    groups: list[GroupView]
    unclear: list[UnclearView]
    steps: list[StepView]
    preparation: PreparationView
    ends: list[Ref]
    problem: str | None


class RevisionView(BaseModel):
    id: str
    parent: str | None
    number: int
    label: str
    name: str | None
    created: datetime
    turns: int
    is_head: bool


class NewJob(BaseModel):
    name: str = Field(min_length=1, max_length=200)


class NewName(BaseModel):
    name: str | None = Field(max_length=200)


class NewNote(BaseModel):
    """`was` is the note that the new one was written over; null writes over any."""

    note: str = Field(max_length=4000)
    was: str | None = None


class NewCopies(BaseModel):
    """Files and lines of another job to copy into this one. Lines bring the files and the lines that they are made
    from.
    """

    base: str
    job: str
    revision: str
    sources: tuple[Identity, ...] = Field(default=(), max_length=10_000)
    steps: tuple[Identity, ...] = Field(default=(), max_length=2000)


class NewStep(BaseModel):
    """A turn to add, and those that follow on its result, each on that of the one before; `names` are those of the last
    results. Inputs at another sample rate than `rate`, where that is given, are resampled to it first.
    """

    turn: AnyTurn
    followed_by: tuple[AnyTurn, ...] = Field(default=(), max_length=8)
    inputs: tuple[Ref, ...] = Field(min_length=1, max_length=64)
    names: ResultNames = Field(default=(), max_length=64)
    over: Stretch | None = None
    reason: Reason = ""
    rate: int | None = Field(default=None, ge=MIN_RATE, le=MAX_RATE)


class NewSteps(BaseModel):
    """Turns to add all at once, undone together; `base` is the revision that they were chosen on.

    They can be put `before` a line, which takes their results then, or `after` one, whose results later lines take from
    them.
    """

    base: str
    steps: tuple[NewStep, ...] = Field(min_length=1, max_length=2000)
    before: Identity | None = None
    after: Identity | None = None

    @model_validator(mode="after")
    def _check_place(self) -> Self:
        if self.before and self.after:
            raise ValueError("a turn is put before one line or after one, not both")
        return self


class LineEdit(BaseModel):
    """What to do with lines of the worksheet. `to` is the number, counted from 0, that the first of the moved lines
    takes.
    """

    base: str
    do: Literal["remove", "move", "duplicate", "bypass", "enable"]
    steps: tuple[Identity, ...] = Field(min_length=1, max_length=2000)
    to: int = Field(default=0, ge=0)


class DismissRequest(BaseModel):
    """Findings of clips to dismiss, or to ask about again."""

    base: str
    findings: tuple[Dismissal, ...] = Field(min_length=1, max_length=10_000)
    dismissed: bool


class NewDraft(BaseModel):
    """A turn to try on `base` before it is added."""

    base: str
    step: NewStep


class ReplaceRequest(BaseModel):
    """Another source of the job to take the place of this one, in every line that uses it."""

    base: str
    by: Identity


class ArchiveRequest(BaseModel):
    """Sources to archive, or to restore."""

    base: str
    refs: tuple[Ref, ...] = Field(min_length=1, max_length=10_000)
    archived: bool


class NewPairing(BaseModel):
    """What is said by hand of sources that belong together by name: their channel order, or that they do not."""

    base: str
    members: tuple[Ref, ...] = Field(min_length=2, max_length=64)
    together: bool = True


class MeasuresView(BaseModel):
    """What was measured about a clip, what of it is worth knowing, and the gains that would make its channels equally
    loud.
    """

    measures: Measures
    findings: list[FileFinding]
    even_gains_db: list[float] | None


class ExpectationView(BaseModel):
    """What a centre turn will find in a clip, and what of it is worth knowing."""

    expectation: Expectation
    findings: list[FileFinding]


class ForecastView(BaseModel):
    """How well a voice should come out of a clip, and that in a sentence."""

    forecast: Forecast
    message: str


class UploadView(BaseModel):
    """A file that has not come whole: it goes on where it stopped when it is dropped again."""

    id: str
    name: str
    folder: str
    size: int
    offset: int


class StepChange(BaseModel):
    """What to change about a step; what is left out or null stays, but for `over`: with null all of the clip is turned.

    `amends` is the revision that this change continues, as a slider does that is still being moved: it is replaced.
    """

    base: str
    turn: AnyTurn | None = None
    inputs: tuple[Ref, ...] | None = Field(default=None, min_length=1, max_length=64)
    names: ResultNames | None = Field(default=None, max_length=64)
    over: Stretch | None = None
    amends: str | None = None
