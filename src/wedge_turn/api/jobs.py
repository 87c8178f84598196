"""Jobs, the worksheet, and the revisions it went through."""

from typing import Annotated

from fastapi import APIRouter, Path, Response

from wedge_turn.api.context import Context, Ctx
from wedge_turn.api.schemas import (
    JobSummary,
    JobView,
    NewJob,
    NewName,
    NewPairing,
    NewSteps,
    Retiring,
    RevisionView,
    StepChange,
    job_view,
    revision_view,
)
from wedge_turn.core.errors import NotFoundError
from wedge_turn.core.plan import Pairing, Plan, Step, parse_ref
from wedge_turn.core.turns import ClipInfo
from wedge_turn.store.rows import Revision, new_id
from wedge_turn.tasks import Event

router = APIRouter(prefix="/api/jobs", tags=["jobs"])
JobId = Annotated[str, Path(max_length=64)]


def view(ctx: Context, job_id: str) -> JobView:
    """The job as it stands now."""
    job = ctx.store.job(job_id)
    head = ctx.store.revision(job_id, job.head_id)
    sources = ctx.store.sources(job_id)
    sheet = ctx.store.sheet(job_id, head.id)
    return job_view(job, head, sheet, sources, ctx.store.proofs(job_id), ctx.store.measures)


def _answer(view: JobView, status: int = 200) -> Response:
    """A job as JSON at once: FastAPI would check every one of its thousands of values again."""
    return Response(view.model_dump_json(), status, media_type="application/json")


def _moved(ctx: Context, job_id: str, status: int = 200) -> Response:
    ctx.changed(job_id)
    ctx.tasks.measure_all(job_id)
    return _answer(view(ctx, job_id), status)


@router.get("", operation_id="listJobs")
def list_jobs(ctx: Ctx) -> list[JobSummary]:
    """All jobs, the newest first."""
    return [
        JobSummary(
            id=job.id,
            name=job.name,
            created=job.created,
            files=len(ctx.store.sources(job.id)),
            turns=len(ctx.store.revision(job.id, job.head_id).plan["steps"]),
        )
        for job in ctx.store.jobs()
    ]


@router.post("", operation_id="createJob", status_code=201)
def create_job(ctx: Ctx, new: NewJob) -> JobView:
    """Start a job."""
    job = ctx.store.create_job(new.name)
    ctx.events.tell(Event("jobs-changed", job.id))
    return view(ctx, job.id)


@router.get("/{job_id}", operation_id="getJob", response_model=JobView)
def get_job(ctx: Ctx, job_id: JobId) -> Response:
    """A job: its sources, its worksheet, what can be delivered."""
    return _answer(view(ctx, job_id))


@router.patch("/{job_id}", operation_id="renameJob", response_model=JobView)
def rename_job(ctx: Ctx, job_id: JobId, new: NewJob) -> Response:
    """Give a job another name."""
    ctx.store.rename_job(job_id, new.name)
    ctx.events.tell(Event("jobs-changed", job_id))
    return _moved(ctx, job_id)


@router.delete("/{job_id}", operation_id="deleteJob", status_code=204)
def delete_job(ctx: Ctx, job_id: JobId) -> None:
    """Remove a job with its copies of the files and its deliveries."""
    for delivery in ctx.store.deliveries(job_id):
        ctx.tasks.stop_delivery(delivery.id)
    ctx.store.delete_job(job_id)
    ctx.events.tell(Event("jobs-changed", job_id))


@router.post("/{job_id}/steps", operation_id="addSteps", status_code=201, response_model=JobView)
def add_steps(ctx: Ctx, job_id: JobId, new: NewSteps) -> Response:
    """Add turns at the end of the worksheet, as one revision."""

    def change(plan: Plan, _: dict[str, ClipInfo]) -> tuple[Plan, str]:
        steps = [Step(id=new_id()[:12], turn=one.turn, inputs=one.inputs, names=one.names) for one in new.steps]
        words = list(dict.fromkeys(step.turn.words for step in steps))
        what = words[0] if len(words) == 1 else f"{len(words)} kinds of turns"
        return plan.adding(*steps), f"Added {what}" if len(steps) == 1 else f"Added {what} for {len(steps)}"

    ctx.store.change(job_id, new.base, change)
    return _moved(ctx, job_id, 201)


@router.post("/{job_id}/retire", operation_id="retireSources", response_model=JobView)
def retire_sources(ctx: Ctx, job_id: JobId, new: Retiring) -> Response:
    """Put sources aside, where they are kept and not seen, or bring them back."""

    def change(plan: Plan, sources: dict[str, ClipInfo]) -> tuple[Plan, str]:
        for ref in new.refs:
            if parse_ref(ref)[1] not in sources:
                raise NotFoundError("There is no such source in this job")
        what = sources[parse_ref(new.refs[0])[1]].name if len(new.refs) == 1 else f"{len(new.refs)} files"
        return plan.retiring(new.refs, retired=new.retired), f"{'Retired' if new.retired else 'Brought back'} {what}"

    ctx.store.change(job_id, new.base, change)
    return _moved(ctx, job_id)


@router.post("/{job_id}/pairings", operation_id="pairSources", response_model=JobView)
def pair_sources(ctx: Ctx, job_id: JobId, new: NewPairing) -> Response:
    """Exchange the members of a group, take them apart, or put them together again."""

    def change(plan: Plan, sources: dict[str, ClipInfo]) -> tuple[Plan, str]:
        names = [sources[key].name for key in (parse_ref(ref)[1] for ref in new.members) if key in sources]
        if len(names) != len(new.members):
            raise NotFoundError("There is no such source in this job")
        done = "Put together" if new.together else "Took apart"
        return plan.pairing(Pairing(members=new.members, together=new.together)), f"{done} {' and '.join(names)}"

    ctx.store.change(job_id, new.base, change)
    return _moved(ctx, job_id)


@router.patch("/{job_id}/steps/{step_id}", operation_id="changeStep", response_model=JobView)
def change_step(ctx: Ctx, job_id: JobId, step_id: str, new: StepChange) -> Response:
    """Change the settings, inputs or result names of a turn; everything below follows."""
    given = new.model_dump(exclude_unset=True, exclude={"base", "amends"})

    def change(plan: Plan, _: dict[str, ClipInfo]) -> tuple[Plan, str]:
        old = plan.step(step_id)
        changed = Step.model_validate({**old.model_dump(), **given})
        label = "Renamed what" if set(given) == {"names"} else "Changed what"
        return plan.replacing(changed), f"{label} {old.turn.kind} makes"

    ctx.store.change(job_id, new.base, change, amends=new.amends)
    return _moved(ctx, job_id)


@router.delete("/{job_id}/steps/{step_id}", operation_id="removeStep", response_model=JobView)
def remove_step(ctx: Ctx, job_id: JobId, step_id: str, base: str) -> Response:
    """Take a turn out of the worksheet."""

    def change(plan: Plan, _: dict[str, ClipInfo]) -> tuple[Plan, str]:
        return plan.without(step_id), f"Took out {plan.step(step_id).turn.words}"

    ctx.store.change(job_id, base, change)
    return _moved(ctx, job_id)


@router.post("/{job_id}/undo", operation_id="undo", response_model=JobView)
def undo(ctx: Ctx, job_id: JobId) -> Response:
    """Go one revision back."""
    ctx.store.undo(job_id)
    return _moved(ctx, job_id)


@router.post("/{job_id}/redo", operation_id="redo", response_model=JobView)
def redo(ctx: Ctx, job_id: JobId) -> Response:
    """Go forward again after an undo."""
    ctx.store.redo(job_id)
    return _moved(ctx, job_id)


@router.get("/{job_id}/revisions", operation_id="listRevisions")
def list_revisions(ctx: Ctx, job_id: JobId) -> list[RevisionView]:
    """Every revision of the worksheet, the newest first."""
    head = ctx.store.job(job_id).head_id
    return [revision_view(revision, head) for revision in ctx.store.revisions(job_id)]


@router.get("/{job_id}/revisions/{revision_id}/plan", operation_id="getPlan")
def get_plan(ctx: Ctx, job_id: JobId, revision_id: str) -> Plan:
    """The worksheet of a revision as data."""
    return Plan.model_validate(ctx.store.revision(job_id, revision_id).plan)


@router.post("/{job_id}/revisions/{revision_id}/restore", operation_id="restoreRevision", response_model=JobView)
def restore_revision(ctx: Ctx, job_id: JobId, revision_id: str) -> Response:
    """Go to any revision; nothing is lost by it."""
    ctx.store.go_to(job_id, revision_id)
    return _moved(ctx, job_id)


@router.patch("/{job_id}/revisions/{revision_id}", operation_id="nameRevision")
def name_revision(ctx: Ctx, job_id: JobId, revision_id: str, new: NewName) -> RevisionView:
    """Make a revision a checkpoint by naming it, or an ordinary one again."""
    revision: Revision = ctx.store.name_revision(job_id, revision_id, new.name)
    ctx.changed(job_id)
    return revision_view(revision, ctx.store.job(job_id).head_id)
