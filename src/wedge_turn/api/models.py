"""What goes over the wire, and how the core's values become it."""

from collections import defaultdict
from collections.abc import Callable, Sequence
from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from wedge_turn.core.audio.encoding import DepthName
from wedge_turn.core.delivery import DepthChoice
from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.findings import Noted, findings_of, pair_findings
from wedge_turn.core.groups import Group, groups_of, merges_of
from wedge_turn.core.manifest import Manifest
from wedge_turn.core.measure.map import Expectation
from wedge_turn.core.measure.survey import Measures
from wedge_turn.core.plan import Ref, Sheet, Step, source_ref, step_ref
from wedge_turn.core.proof import Proof
from wedge_turn.core.sets import Kind
from wedge_turn.core.turns import AnyTurn, Finding
from wedge_turn.store.rows import Delivery, Job, Revision, Source

DeliveryState = Literal["waiting", "writing", "done", "failed", "stopped"]


class JobSummary(BaseModel):
    id: str
    name: str
    created: datetime
    files: int
    turns: int


class ClipView(BaseModel):
    """A clip: `key` is the same for the same samples; `start_time` counts samples since midnight."""

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
    start_time: int | None


class SourceView(ClipView):
    """A source; `file` is the name it came in with, `folder` where it was dropped from.

    `field` is the share of energy in equal sectors from −90° to +90°; `loudness` and `peak` are of the whole file.
    """

    id: str
    file: str
    folder: str
    bytes: int
    retired: bool
    measured: bool
    loudness: float | None
    peak: float | None
    field: list[float]
    findings: list[Noted]


class ChunkView(BaseModel):
    """A chunk of a file: its four letters and its size."""

    name: str
    bytes: int


class SourceDetails(BaseModel):
    """Everything known about a source."""

    source: SourceView
    measures: Measures
    chunks: list[ChunkView]


class StepView(BaseModel):
    """A line of the worksheet.

    `carries` says for each channel of each output which input channels are in it, `matrix` how much of each.
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
    findings: list[Noted]
    proof: Proof | None


class GroupView(BaseModel):
    """Sources that belong together, in channel order; `done` says whether a turn makes one clip of them already.

    `refused` says why they cannot become one as they are.
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
    findings: list[Noted]


class UnclearView(BaseModel):
    """Sources that could belong together, and why nothing was guessed."""

    name: str
    members: list[Ref]
    reason: str


class JobView(BaseModel):
    """A job as it stands at its head."""

    id: str
    name: str
    head: str
    can_undo: bool
    can_redo: bool
    sources: list[SourceView]
    groups: list[GroupView]
    unclear: list[UnclearView]
    steps: list[StepView]
    ends: list[Ref]


class RevisionView(BaseModel):
    id: str
    parent: str | None
    number: int
    label: str
    name: str | None
    created: datetime
    turns: int
    is_head: bool


class DeliveryView(BaseModel):
    id: str
    revision: str
    state: DeliveryState
    progress: float
    created: datetime
    refs: list[Ref]
    depth: DepthChoice
    manifest: Manifest | None
    error: dict[str, str] | None


class PlannedFile(BaseModel):
    """A file that a delivery would write."""

    ref: Ref
    file: str
    depth: DepthName
    bytes: int
    dithered: bool


class NewJob(BaseModel):
    name: str = Field(min_length=1, max_length=200)


class NewName(BaseModel):
    name: str | None = Field(max_length=200)


class NewStep(BaseModel):
    """A turn to add."""

    turn: AnyTurn
    inputs: tuple[Ref, ...] = Field(min_length=1, max_length=64)
    names: tuple[str, ...] = ()


class NewSteps(BaseModel):
    """Turns to add all at once, undone together; `base` is the revision that they were chosen on."""

    base: str
    steps: tuple[NewStep, ...] = Field(min_length=1, max_length=2000)


class Retiring(BaseModel):
    """Sources to put aside, or to bring back."""

    base: str
    refs: tuple[Ref, ...] = Field(min_length=1, max_length=10_000)
    retired: bool


class NewPairing(BaseModel):
    """What is said by hand of sources that belong together by name: their channel order, or that they do not."""

    base: str
    members: tuple[Ref, ...] = Field(min_length=2, max_length=64)
    together: bool = True


class MeasuresView(BaseModel):
    """What was measured about a clip, and what of it is worth knowing."""

    measures: Measures
    findings: list[Noted]


class ExpectationView(BaseModel):
    """What a centre turn will find in a clip, and what of it is worth knowing."""

    expectation: Expectation
    findings: list[Noted]


class UploadView(BaseModel):
    """A file that has not come whole: it goes on where it stopped when it is dropped again."""

    id: str
    name: str
    folder: str
    size: int
    offset: int


class StepChange(BaseModel):
    """What to change about a step; what is left out stays.

    `amends` is the revision that this change continues, as a slider does that is still being moved: it is replaced.
    """

    base: str
    turn: AnyTurn | None = None
    inputs: tuple[Ref, ...] | None = None
    names: tuple[str, ...] | None = None
    amends: str | None = None


class NewDelivery(BaseModel):
    """What to deliver; all results that no later turn uses where `refs` is empty."""

    revision: str
    refs: tuple[Ref, ...] = ()
    depth: DepthChoice = "same"
    dither: bool = True


def clip_view(sheet: Sheet, ref: str) -> dict[str, Any]:
    info = sheet.info(ref)
    form = info.form
    return {
        "ref": ref,
        "key": sheet.key(ref),
        "name": info.name,
        "channels": form.channels,
        "frames": form.frames,
        "rate": form.rate,
        "depth": form.stored.depth,
        "container": form.container,
        "lossy": form.lossy,
        "speakers": list(form.speakers),
        "start_time": form.start_time,
    }


def source_view(sheet: Sheet, source: Source, known: dict[str, Measures]) -> SourceView:
    ref = source_ref(source.id)
    info = sheet.info(ref)
    measures = known.get(sheet.key(ref))
    return SourceView(
        **clip_view(sheet, ref),
        id=source.id,
        file=source.name,
        folder=source.folder,
        bytes=source.bytes,
        retired=ref in sheet.plan.retired,
        measured=measures is not None,
        loudness=measures.whole.loudness_lufs if measures else None,
        peak=measures.whole.peak_dbfs if measures else None,
        field=measures.sides.field if measures and measures.sides else [],
        findings=findings_of(info.name, info.form, measures) if measures else [],
    )


def group_view(sheet: Sheet, group: Group, users: Sequence[Step], known: dict[str, Measures]) -> GroupView:
    """`users` are the steps that take the first member of the group."""
    turn, infos = group.turn, [sheet.info(ref) for ref in group.members]
    same = frozenset(group.members)
    done = any(step.turn.kind == turn.kind and frozenset(step.inputs) == same for step in users)
    found: list[Noted] = []
    refused = None
    try:
        # What is done already says what there is to say on its line of the worksheet.
        outcome = None if done else turn.outcome(infos)
    except TurnInputError as error:
        outcome, refused = None, error.message
        found = [Noted(code=error.code, label=error.code.replace("-", " "), message=error.message)]
    if outcome is not None:
        found = [_noted(finding) for finding in outcome.findings]
        measures = known.get(sheet.key_made(turn, group.members, 0))
        if group.kind == "sides" and measures is not None:
            found += pair_findings([info.name for info in infos], outcome.outputs[0].form, measures)
    return GroupView(
        kind=group.kind,
        name=group.name,
        members=list(group.members),
        speakers=list(group.speakers),
        by_hand=group.by_hand,
        turn=turn,
        label=turn.kind,
        done=done,
        refused=refused,
        findings=found,
    )


def _noted(finding: Finding) -> Noted:
    return Noted(**finding.model_dump(), label=finding.code.replace("-", " "))


def step_view(sheet: Sheet, step: Step, proofs: dict[str, dict[str, Any]], known: dict[str, Measures]) -> StepView:
    outcome = sheet.outcomes[step.id]
    infos = sheet.inputs(step)
    refs = [step_ref(step.id, n) for n in range(len(outcome.outputs))]
    channels = [
        info.name if info.form.channels == 1 else f"{info.name} {channel + 1}"
        for info in infos
        for channel in range(info.form.channels)
    ]
    matrix = outcome.matrix.tolist()
    rows = iter(matrix)
    carries = [
        [[name for name, gain in zip(channels, next(rows), strict=True) if gain] for _ in range(output.form.channels)]
        for output in outcome.outputs
    ]
    found = [_noted(finding) for finding in outcome.findings]
    measures = known.get(sheet.key(refs[0]))
    if step.turn.kind == "merge" and len(infos) == 2 and measures is not None:
        left, right = carries[0][0][0], carries[0][1][0]
        found += pair_findings([left, right], outcome.outputs[0].form, measures)
    proof = proofs.get("|".join(sheet.key(ref) for ref in refs))
    return StepView(
        id=step.id,
        turn=step.turn,
        verb=step.turn.words,
        sentence=step.turn.sentence(infos),
        inputs=list(step.inputs),
        outputs=[ClipView(**clip_view(sheet, ref)) for ref in refs],
        carries=carries,
        matrix=matrix,
        exact=outcome.exact,
        comes_back=outcome.way_back is not None,
        findings=found,
        proof=Proof.model_validate(proof) if proof else None,
    )


def job_view(
    job: Job,
    head: Revision,
    sheet: Sheet,
    sources: list[Source],
    proofs: dict[str, dict[str, Any]],
    measures: Callable[[list[str]], dict[str, Measures]],
) -> JobView:
    groups, unclear = groups_of(sheet, [s.id for s in sources], [s.folder for s in sources])
    keys = [sheet.key(source_ref(source.id)) for source in sources]
    keys += [sheet.key_made(turn, inputs, 0) for turn, inputs in merges_of(sheet, groups)]
    known = measures(keys)
    users: dict[str, list[Step]] = defaultdict(list)
    for step in sheet.plan.steps:
        for ref in step.inputs:
            users[ref].append(step)
    return JobView(
        id=job.id,
        name=job.name,
        head=head.id,
        can_undo=head.parent_id is not None,
        can_redo=head.redo_id is not None,
        sources=[source_view(sheet, source, known) for source in sources],
        groups=[group_view(sheet, group, users[group.members[0]], known) for group in groups],
        unclear=[UnclearView(name=u.name, members=list(u.members), reason=u.reason) for u in unclear],
        steps=[step_view(sheet, step, proofs, known) for step in sheet.plan.steps],
        ends=sheet.ends(),
    )


def revision_view(revision: Revision, head: str) -> RevisionView:
    return RevisionView(
        id=revision.id,
        parent=revision.parent_id,
        number=revision.number,
        label=revision.label,
        name=revision.name,
        created=revision.created,
        turns=len(revision.plan["steps"]),
        is_head=revision.id == head,
    )


def delivery_view(delivery: Delivery, progress: float) -> DeliveryView:
    return DeliveryView(
        id=delivery.id,
        revision=delivery.revision_id,
        state=delivery.state,
        progress=1.0 if delivery.state == "done" else progress,
        created=delivery.created,
        refs=delivery.order["refs"],
        depth=delivery.order["depth"],
        manifest=Manifest.model_validate(delivery.manifest) if delivery.manifest else None,
        error=delivery.error,
    )
