"""What goes over the wire, and how the core's values become it."""

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from wedge_turn.core.audio.encoding import DepthName
from wedge_turn.core.delivery import DepthChoice
from wedge_turn.core.manifest import Manifest
from wedge_turn.core.naming import pairs_among
from wedge_turn.core.plan import Ref, Sheet, Step, source_ref, step_ref
from wedge_turn.core.proof import Proof
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
    speakers: list[str]
    start_time: int | None


class SourceView(ClipView):
    """A source; `file` is the name it came in with."""

    id: str
    file: str
    bytes: int


class StepView(BaseModel):
    """A line of the worksheet. `carries` says for each channel of each output which input channels are in it."""

    id: str
    turn: AnyTurn
    verb: str
    sentence: str
    inputs: list[Ref]
    outputs: list[ClipView]
    carries: list[list[list[str]]]
    exact: bool
    comes_back: bool
    findings: list[Finding]
    proof: Proof | None


class PairView(BaseModel):
    """Two sources that belong together by name; `merged` says whether a turn merges them already."""

    name: str
    left: Ref
    right: Ref
    merged: bool


class JobView(BaseModel):
    """A job as it stands at its head."""

    id: str
    name: str
    head: str
    can_undo: bool
    can_redo: bool
    sources: list[SourceView]
    pairs: list[PairView]
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


class NewJob(BaseModel):
    name: str = Field(min_length=1, max_length=200)


class NewName(BaseModel):
    name: str | None = Field(max_length=200)


class NewStep(BaseModel):
    """A turn to add; `base` is the revision that it was chosen on."""

    base: str
    turn: AnyTurn
    inputs: tuple[Ref, ...] = Field(min_length=1, max_length=64)


class StepChange(BaseModel):
    """What to change about a step; what is left out stays."""

    base: str
    turn: AnyTurn | None = None
    inputs: tuple[Ref, ...] | None = None
    names: tuple[str, ...] | None = None


class NewDelivery(BaseModel):
    """What to deliver; all results that no later turn uses where `refs` is empty."""

    revision: str
    refs: tuple[Ref, ...] = ()
    depth: DepthChoice = "same"


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
        "speakers": list(form.speakers),
        "start_time": form.start_time,
    }


def source_view(sheet: Sheet, source: Source) -> SourceView:
    return SourceView(**clip_view(sheet, source_ref(source.id)), id=source.id, file=source.name, bytes=source.bytes)


def step_view(sheet: Sheet, step: Step, proofs: dict[str, dict[str, Any]]) -> StepView:
    outcome = sheet.outcomes[step.id]
    infos = sheet.inputs(step)
    refs = [step_ref(step.id, n) for n in range(len(outcome.outputs))]
    channels = [
        info.name if info.form.channels == 1 else f"{info.name} {channel + 1}"
        for info in infos
        for channel in range(info.form.channels)
    ]
    rows = iter(outcome.matrix)
    carries = [
        [[channels[j] for j in next(rows).nonzero()[0]] for _ in range(output.form.channels)]
        for output in outcome.outputs
    ]
    proof = proofs.get("|".join(sheet.key(ref) for ref in refs))
    return StepView(
        id=step.id,
        turn=step.turn,
        verb=step.turn.verb,
        sentence=step.turn.sentence(infos),
        inputs=list(step.inputs),
        outputs=[ClipView(**clip_view(sheet, ref)) for ref in refs],
        carries=carries,
        exact=outcome.exact,
        comes_back=outcome.way_back is not None,
        findings=list(outcome.findings),
        proof=Proof.model_validate(proof) if proof else None,
    )


def job_view(
    job: Job, head: Revision, sheet: Sheet, sources: list[Source], proofs: dict[str, dict[str, Any]]
) -> JobView:
    return JobView(
        id=job.id,
        name=job.name,
        head=head.id,
        can_undo=head.parent_id is not None,
        can_redo=head.redo_id is not None,
        sources=[source_view(sheet, source) for source in sources],
        pairs=_pairs(sheet, sources),
        steps=[step_view(sheet, step, proofs) for step in sheet.plan.steps],
        ends=sheet.ends(),
    )


def _pairs(sheet: Sheet, sources: list[Source]) -> list[PairView]:
    refs = [ref for ref in map(source_ref, (s.id for s in sources)) if sheet.info(ref).form.channels == 1]
    merged = {frozenset(step.inputs) for step in sheet.plan.steps if step.turn.kind == "merge"}
    return [
        PairView(name=name, left=refs[left], right=refs[right], merged=frozenset((refs[left], refs[right])) in merged)
        for name, (left, right) in pairs_among([sheet.info(ref).name for ref in refs])
    ]


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
