"""A job as it is answered to whoever asked or changed it."""

from fastapi import Response

from wedge_turn.api.context import Context
from wedge_turn.api.models import JobView
from wedge_turn.api.views import job_view


def view(ctx: Context, job_id: str, revision_id: str | None = None) -> JobView:
    """The job as it stands now, or as a revision has it."""
    job = ctx.store.jobs.get(job_id)
    head = ctx.store.worksheets.get(job_id, revision_id) if revision_id else ctx.store.worksheets.head(job_id)
    worked_out = ctx.clips.sheet_or_reason(job_id, head.id)
    sources = ctx.store.sources.for_job(job_id)
    return job_view(
        job,
        head,
        worked_out.sheet,
        worked_out.problem,
        sources,
        ctx.store.deliveries.proofs(job_id),
        ctx.store.deliveries.delivered(job_id),
        ctx.store.measures.judgements([source.id for source in sources]),
        ctx.store.measures.get,
        lambda source: ctx.store.media.problem(source.media, source.name),
    )


def respond_with_job(view: JobView, status: int = 200) -> Response:
    """A job as JSON at once: FastAPI would check every one of its thousands of values again."""
    return Response(view.model_dump_json(), status, media_type="application/json")


def respond_to_change(ctx: Context, job_id: str, status: int = 200) -> Response:
    """What a job has become, told to every window with its head, so that the one that changed it need not ask."""
    current = view(ctx, job_id)
    ctx.changed(job_id, current.head)
    ctx.tasks.measuring.measure_job(job_id)
    return respond_with_job(current, status)
