"""The demo's job, made when somebody wants to see it."""

from fastapi import APIRouter

from wedge_turn.api.context import Ctx
from wedge_turn.demo import Making

router = APIRouter(prefix="/api", tags=["demo"])


@router.post("/demo", operation_id="makeDemo", status_code=202)
def make_demo(ctx: Ctx) -> Making:
    """Make the demo's job in the background, unless there is one."""
    return ctx.demo.start()


@router.get("/demo", operation_id="getDemo")
def get_demo(ctx: Ctx) -> Making:
    """How far the demo's job is."""
    return ctx.demo.making
