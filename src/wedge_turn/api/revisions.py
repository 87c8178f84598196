"""The revisions that a worksheet went through: compared, restored whole or line by line, named."""

from fastapi import APIRouter, Response
from pydantic import BaseModel

from wedge_turn.api.answers import respond_to_change, respond_with_job, view
from wedge_turn.api.context import Ctx
from wedge_turn.api.jobs import JobId
from wedge_turn.api.models import JobView, NewName, RevisionView
from wedge_turn.api.views import revision_view
from wedge_turn.core.worksheet import Change, Plan, Sheet, append_earlier_line, list_changes, restore_line
from wedge_turn.store.rows import Revision, new_id

router = APIRouter(prefix="/api/jobs", tags=["revisions"])


class ChangeView(BaseModel):
    """What differs between two revisions, in a sentence; the line it is about, and whether that made something then and
    now.
    """

    sentence: str
    step: str | None
    made_then: bool
    made_now: bool


@router.get("/{job_id}/revisions", operation_id="listRevisions")
def list_revisions(ctx: Ctx, job_id: JobId) -> list[RevisionView]:
    """Every revision of the worksheet, the newest first."""
    head = ctx.store.jobs.get(job_id).head_id
    return [revision_view(revision, head) for revision in ctx.store.worksheets.all(job_id)]


@router.get("/{job_id}/revisions/{revision_id}/plan", operation_id="getPlan")
def get_plan(ctx: Ctx, job_id: JobId, revision_id: str) -> Plan:
    """The worksheet of a revision as data."""
    return ctx.store.worksheets.plan(job_id, revision_id)


@router.get("/{job_id}/revisions/{revision_id}/changes", operation_id="getChanges")
def get_changes(ctx: Ctx, job_id: JobId, revision_id: str, since: str | None = None) -> list[ChangeView]:
    """What a revision changed, in sentences: against the one before it, or against any other."""
    before = since or ctx.store.worksheets.get(job_id, revision_id).parent_id
    if before is None:
        return []
    sheet_before, sheet_after = ctx.clips.sheet(job_id, before), ctx.clips.sheet(job_id, revision_id)

    def view_of(change: Change) -> ChangeView:
        made_then, made_now = (change.step in sheet.outcomes for sheet in (sheet_before, sheet_after))
        return ChangeView(sentence=change.sentence, step=change.step, made_then=made_then, made_now=made_now)

    return [view_of(change) for change in list_changes(sheet_before, sheet_after)]


@router.post("/{job_id}/revisions/{revision_id}/restore", operation_id="restoreRevision", response_model=JobView)
def restore_revision(ctx: Ctx, job_id: JobId, revision_id: str, base: str) -> Response:
    """Go from `base` to any revision; nothing is lost by it."""
    ctx.store.worksheets.go_to(job_id, revision_id, base)
    return respond_to_change(ctx, job_id)


@router.patch("/{job_id}/revisions/{revision_id}", operation_id="nameRevision")
def name_revision(ctx: Ctx, job_id: JobId, revision_id: str, new: NewName) -> RevisionView:
    """Make a revision a checkpoint by naming it, or an ordinary one again."""
    revision: Revision = ctx.store.worksheets.name(job_id, revision_id, new.name)
    ctx.changed(job_id)
    return revision_view(revision, ctx.store.jobs.get(job_id).head_id)


@router.post(
    "/{job_id}/revisions/{revision_id}/lines/{step_id}/restore", operation_id="restoreLine", response_model=JobView
)
def restore_in_job(ctx: Ctx, job_id: JobId, revision_id: str, step_id: str, base: str) -> Response:
    """One line of the worksheet as a revision has it; everything else stays."""
    earlier = ctx.clips.sheet(job_id, revision_id)
    number = ctx.store.worksheets.get(job_id, revision_id).number

    def change(sheet: Sheet) -> tuple[Plan, str]:
        words = earlier.plan.step(step_id).words
        return restore_line(sheet, earlier, step_id), f"Restored {words} from version {number}"

    ctx.clips.change(job_id, base, change)
    return respond_to_change(ctx, job_id)


@router.post(
    "/{job_id}/revisions/{revision_id}/lines/{step_id}/beside",
    operation_id="hearLine",
    status_code=201,
    response_model=JobView,
)
def hear_line(ctx: Ctx, job_id: JobId, revision_id: str, step_id: str, base: str) -> Response:
    """The job with a line as a revision has it at its end, to be heard against what it is now; the job stays as it
    is.
    """
    earlier = ctx.clips.sheet(job_id, revision_id)
    draft = ctx.clips.change(
        job_id,
        base,
        lambda sheet: (append_earlier_line(sheet, earlier, step_id, lambda: new_id()[:12]), "An earlier line"),
        draft=True,
    )
    return respond_with_job(view(ctx, job_id, draft.id), 201)
