"""Disk space used in the data folder, and clearing it."""

from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel

from wedge_turn.api.context import Ctx
from wedge_turn.api.jobs import JobId
from wedge_turn.tasks.usage import DiskUsage

router = APIRouter(prefix="/api", tags=["storage"])


class ClearRequest(BaseModel):
    """What to clear of a job. Working copies and pictures are derived from its files, and made again when they are
    needed; deliveries are not.
    """

    what: Literal["derived", "deliveries"]


@router.get("/storage", operation_id="getStorage")
def get_storage(ctx: Ctx) -> DiskUsage:
    """Disk space by job."""
    return ctx.tasks.usage.measure()


@router.post("/jobs/{job_id}/clear", operation_id="clearJob")
def clear_job(ctx: Ctx, job_id: JobId, clearing: ClearRequest) -> DiskUsage:
    """Clear what can be made again, or what was delivered; files and worksheets stay."""
    ctx.store.jobs.get(job_id)
    match clearing.what:
        case "derived":
            ctx.tasks.usage.clear_derived(job_id)
        case "deliveries":
            ctx.tasks.usage.clear_deliveries(job_id)
    ctx.changed(job_id)
    return ctx.tasks.usage.measure()
