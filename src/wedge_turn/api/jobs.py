"""Jobs, the worksheet, and the revisions it went through."""

from collections.abc import Sequence
from dataclasses import asdict
from typing import Annotated, Final

from fastapi import APIRouter, Path, Response

from wedge_turn.api.answers import respond_to_change, respond_with_job, view
from wedge_turn.api.context import Ctx
from wedge_turn.api.models import (
    ArchiveRequest,
    DismissRequest,
    JobSummary,
    JobView,
    LineEdit,
    NewCopies,
    NewDraft,
    NewJob,
    NewNote,
    NewPairing,
    NewStep,
    NewSteps,
    ReplaceRequest,
    StepChange,
)
from wedge_turn.core.errors import BadRequestError, NotFoundError
from wedge_turn.core.findings import describe_differences
from wedge_turn.core.worksheet import (
    Pairing,
    Plan,
    Sheet,
    Step,
    bypass_lines,
    duplicate_line,
    insert_line,
    move_line,
    parse_ref,
    remove_line,
    replace_source,
    resample_first,
    source_ref,
    step_ref,
)
from wedge_turn.store.rows import new_id
from wedge_turn.tasks import Event

router = APIRouter(prefix="/api/jobs", tags=["jobs"])
JobId = Annotated[str, Path(max_length=64)]
_LABELS: Final = {"names": "Renamed outputs of", "inputs": "Changed inputs of"}


@router.get("", operation_id="listJobs")
def list_jobs(ctx: Ctx) -> list[JobSummary]:
    """All jobs, the newest first."""
    return [JobSummary(**asdict(counts)) for counts in ctx.store.jobs.counts()]


@router.post("", operation_id="createJob", status_code=201)
def create_job(ctx: Ctx, new: NewJob) -> JobView:
    """Start a job."""
    job = ctx.store.jobs.create(new.name)
    ctx.events.publish(Event("jobs-changed", job.id))
    return view(ctx, job.id)


@router.get("/{job_id}", operation_id="getJob", response_model=JobView)
def get_job(ctx: Ctx, job_id: JobId) -> Response:
    """A job: its sources, its worksheet, what can be delivered."""
    return respond_with_job(view(ctx, job_id))


@router.patch("/{job_id}", operation_id="renameJob", response_model=JobView)
def rename_job(ctx: Ctx, job_id: JobId, new: NewJob) -> Response:
    """Give a job another name."""
    ctx.store.jobs.rename(job_id, new.name)
    ctx.events.publish(Event("jobs-changed", job_id))
    return respond_to_change(ctx, job_id)


@router.delete("/{job_id}", operation_id="deleteJob", status_code=204)
def delete_job(ctx: Ctx, job_id: JobId) -> None:
    """Remove a job with its copies of the files and its deliveries."""
    for delivery in ctx.store.deliveries.for_job(job_id):
        ctx.tasks.deliveries.stop(delivery.id)
    ctx.store.delete_job(job_id)
    ctx.tasks.janitor.sweep_soon()
    ctx.events.publish(Event("jobs-changed", job_id))


@router.post("/{job_id}/steps", operation_id="addSteps", status_code=201, response_model=JobView)
def add_steps(ctx: Ctx, job_id: JobId, new: NewSteps) -> Response:
    """Add turns to the worksheet, as one revision: at its end, or before or after a line."""

    def change(sheet: Sheet) -> tuple[Plan, str]:
        added = [_steps(sheet, new_step) for new_step in new.steps]
        resampling = [step for first, _ in added for step in first]
        steps = [step for _, own in added for step in own]
        if new.before or new.after:
            after = new.after
            for step in (*resampling, *steps):
                replaces = step not in resampling
                sheet = sheet.with_plan(insert_line(sheet, step, before=new.before, after=after, replaces=replaces))
                after = after and step.id
            return sheet.plan, f"Inserted {steps[0].words}"
        words = list(dict.fromkeys(step.words for step in steps))
        lines = "" if len(steps) == 1 else f" on {len(steps)} lines"
        label = f"Added {words[0]}{lines}" if len(words) == 1 else f"Added {len(steps)} turns"
        return sheet.plan.with_step(*resampling, *steps), label

    ctx.clips.change(job_id, new.base, change)
    return respond_to_change(ctx, job_id, 201)


@router.post("/{job_id}/drafts", operation_id="draftStep", status_code=201, response_model=JobView)
def draft_step(ctx: Ctx, job_id: JobId, new: NewDraft) -> Response:
    """The job with one more turn, to see and to hear before it is decided; the job stays as it is."""

    def change(sheet: Sheet) -> tuple[Plan, str]:
        resampling, steps = _steps(sheet, new.step)
        return sheet.plan.with_step(*resampling, *steps), f"Added {steps[0].words}"

    revision = ctx.clips.change(job_id, new.base, change, draft=True)
    return respond_with_job(view(ctx, job_id, revision.id), 201)


@router.post("/{job_id}/archive", operation_id="archiveSources", response_model=JobView)
def archive_sources(ctx: Ctx, job_id: JobId, new: ArchiveRequest) -> Response:
    """Archive sources, which are kept and not shown, or restore them."""

    def change(sheet: Sheet) -> tuple[Plan, str]:
        names = _names_of_sources(sheet, new.refs)
        label = f"{'Archived' if new.archived else 'Restored'} {names[0] if len(names) == 1 else f'{len(names)} files'}"
        return sheet.plan.with_archived(new.refs, archived=new.archived), label

    revision = ctx.clips.change(job_id, new.base, change)
    if new.archived:
        ctx.store.worksheets.name_unnamed(job_id, new.base, f"Before: {revision.label}")
    return respond_to_change(ctx, job_id)


@router.post("/{job_id}/pairings", operation_id="pairSources", response_model=JobView)
def pair_sources(ctx: Ctx, job_id: JobId, new: NewPairing) -> Response:
    """Swap the members of a group, unpair them, or pair them again."""

    def change(sheet: Sheet) -> tuple[Plan, str]:
        label = f"{'Paired' if new.together else 'Unpaired'} {' and '.join(_names_of_sources(sheet, new.members))}"
        return sheet.plan.with_pairing(Pairing(members=new.members, together=new.together)), label

    ctx.clips.change(job_id, new.base, change)
    return respond_to_change(ctx, job_id)


def _names_of_sources(sheet: Sheet, refs: Sequence[str]) -> list[str]:
    for ref in refs:
        kind, key, _ = parse_ref(ref)
        if kind != "source" or key not in sheet.sources:
            raise NotFoundError("There is no such source in this job")
    return [sheet.info(ref).name for ref in refs]


def _steps(sheet: Sheet, new: NewStep) -> tuple[list[Step], list[Step]]:
    """The lines that resample what goes into a new line, and that line with those that follow on its result. Raises
    NotFoundError for inputs that the worksheet doesn't have.
    """
    sheet.check(new.inputs)
    resampling, inputs = list[Step](), new.inputs
    if new.rate is not None:
        ids = (new_id()[:12] for _ in new.inputs)
        resampling, inputs = resample_first(inputs, [sheet.info(ref) for ref in inputs], new.rate, ids)
    steps: list[Step] = []
    for turn in (new.turn, *new.followed_by):
        steps.append(Step(id=new_id()[:12], turn=turn, inputs=inputs, over=new.over, reason=new.reason))
        inputs = (step_ref(steps[-1].id, 0),)
    return resampling, [*steps[:-1], steps[-1].model_copy(update={"names": new.names})]


@router.delete("/{job_id}/sources/{source_id}", operation_id="deleteSource", response_model=JobView)
def delete_source(ctx: Ctx, job_id: JobId, source_id: str, base: str) -> Response:
    """Delete a file and its copy in the data folder. Lines of the worksheet that use it wait for another."""
    revision = ctx.clips.delete_source(job_id, source_id, base)
    ctx.store.worksheets.name_unnamed(job_id, base, f"Before: {revision.label}")
    ctx.tasks.janitor.sweep_soon()
    return respond_to_change(ctx, job_id)


@router.patch("/{job_id}/sources/{source_id}", operation_id="annotateSource", response_model=JobView)
def annotate_source(ctx: Ctx, job_id: JobId, source_id: str, new: NewNote) -> Response:
    """Keep a note on a file; 409 where another window has changed it since."""
    ctx.store.sources.annotate(job_id, source_id, new.note, new.was)
    ctx.changed(job_id)
    return respond_with_job(view(ctx, job_id))


@router.post("/{job_id}/copies", operation_id="copyFrom", status_code=201, response_model=JobView)
def copy_from(ctx: Ctx, job_id: JobId, new: NewCopies) -> Response:
    """Copy files and lines of another job into this one; the files are kept once for both."""
    ctx.clips.copy_from(job_id, new.base, (new.job, new.revision), new.sources, new.steps)
    ctx.changed(job_id)
    return respond_to_change(ctx, job_id, 201)


@router.post("/{job_id}/sources/{source_id}/replace", operation_id="replaceSource", response_model=JobView)
def replace_in_job(ctx: Ctx, job_id: JobId, source_id: str, new: ReplaceRequest) -> Response:
    """Let another file take the place of this one, which is archived. Lines that it doesn't fit wait for another."""

    def change(sheet: Sheet) -> tuple[Plan, str]:
        refs = source_ref(source_id), source_ref(new.by)
        old_name, new_name = _names_of_sources(sheet, refs)
        old, by = refs
        measures = ctx.store.measures.get([sheet.key(ref) for ref in refs])
        different = describe_differences(
            sheet.info(old).form, sheet.info(by).form, measures.get(sheet.key(old)), measures.get(sheet.key(by))
        )
        changed = ", ".join(different) or "nothing measured differs"
        return replace_source(sheet, source_id, new.by), f"Replaced {old_name} by {new_name}: {changed}"

    if new.by == source_id:
        raise BadRequestError("A file can't replace itself", help="Choose another one.")
    revision = ctx.clips.change(job_id, new.base, change)
    ctx.store.worksheets.name_unnamed(job_id, new.base, f"Before: {revision.label}")
    return respond_to_change(ctx, job_id)


@router.patch("/{job_id}/steps/{step_id}", operation_id="changeStep", response_model=JobView)
def change_step(ctx: Ctx, job_id: JobId, step_id: str, new: StepChange) -> Response:
    """Change the settings, inputs or result names of a turn; everything below follows."""
    named = new.model_dump(exclude_unset=True, exclude={"base", "amends"})
    changes = {name: value for name, value in named.items() if value is not None or name == "over"}

    def change(sheet: Sheet) -> tuple[Plan, str]:
        old = sheet.plan.step(step_id)
        sheet.check(ref for ref in new.inputs or () if ref not in old.inputs)
        changed = Step.model_validate({**old.model_dump(), **changes})
        label = _LABELS.get(next(iter(changes)), "Changed settings of") if len(changes) == 1 else "Changed settings of"
        return sheet.plan.with_replaced_step(changed), f"{label} {old.turn.kind}"

    ctx.clips.change(job_id, new.base, change, amends=new.amends, edited=step_id)
    return respond_to_change(ctx, job_id)


@router.post("/{job_id}/lines", operation_id="editLines", response_model=JobView)
def edit_lines(ctx: Ctx, job_id: JobId, new: LineEdit) -> Response:
    """Remove, move, duplicate or bypass lines of the worksheet, as one revision."""

    def change(sheet: Sheet) -> tuple[Plan, str]:
        ids = list(dict.fromkeys(new.steps))
        words = [sheet.plan.step(key).turn.words for key in ids]
        what = words[0] if len(words) == 1 else f"{len(words)} turns"
        match new.do:
            case "remove":
                return remove_line(sheet, ids), f"Removed {what}"
            case "move":
                return move_line(sheet, ids, new.to), f"Moved {what}"
            case "duplicate":
                return duplicate_line(sheet, {key: new_id()[:12] for key in ids}), f"Duplicated {what}"
            case "bypass" | "enable":
                bypassed = new.do == "bypass"
                return bypass_lines(sheet, ids, bypassed=bypassed), f"{'Bypassed' if bypassed else 'Enabled'} {what}"

    ctx.clips.change(job_id, new.base, change)
    return respond_to_change(ctx, job_id)


@router.post("/{job_id}/dismissals", operation_id="dismissFindings", response_model=JobView)
def dismiss_findings(ctx: Ctx, job_id: JobId, new: DismissRequest) -> Response:
    """Dismiss findings of clips, which are then not asked about, or ask about them again."""

    def change(sheet: Sheet) -> tuple[Plan, str]:
        sheet.check(finding.ref for finding in new.findings)
        names = list(dict.fromkeys(sheet.info(finding.ref).name for finding in new.findings))
        what = f"a finding of {names[0]}" if len(new.findings) == 1 else f"{len(new.findings)} findings"
        label = f"Dismissed {what}" if new.dismissed else f"Asked again about {what}"
        return sheet.plan.with_dismissals(new.findings, dismissed=new.dismissed), label

    ctx.clips.change(job_id, new.base, change)
    return respond_to_change(ctx, job_id)


@router.post("/{job_id}/undo", operation_id="undo", response_model=JobView)
def undo(ctx: Ctx, job_id: JobId, base: str) -> Response:
    """Go one revision back from `base`."""
    ctx.store.worksheets.undo(job_id, base)
    return respond_to_change(ctx, job_id)


@router.post("/{job_id}/redo", operation_id="redo", response_model=JobView)
def redo(ctx: Ctx, job_id: JobId, base: str) -> Response:
    """Go forward again after an undo that led to `base`."""
    ctx.store.worksheets.redo(job_id, base)
    return respond_to_change(ctx, job_id)
