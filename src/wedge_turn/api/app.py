"""The application: routers, errors, the event stream, and the built web."""

import asyncio
import shutil
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any, Final, Literal

from fastapi import FastAPI, Request
from fastapi.responses import HTMLResponse
from fastapi.routing import APIRoute, APIRouter
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import BaseModel
from starlette.exceptions import HTTPException
from starlette.routing import BaseRoute, Match

from wedge_turn import __version__
from wedge_turn.api import (
    access,
    clips,
    deliveries,
    demo,
    errors,
    jobs,
    recipes,
    reference,
    revisions,
    storage,
    uploads,
    why,
)
from wedge_turn.api.context import MAX_FILE_BYTES, Context, Ctx
from wedge_turn.api.doors import RequestGuard, is_local, list_hosts
from wedge_turn.demo import DemoMaker
from wedge_turn.store import Store
from wedge_turn.tasks import Event, Events, Tasks
from wedge_turn.tasks.scheduler import NICENESS, Priority

METHODS: Final = ["GET", "POST", "PUT", "PATCH", "DELETE", "HEAD", "OPTIONS"]
WEBAPP: Final = Path(__file__).parent.parent / "webapp"
general = APIRouter(prefix="/api", tags=["general"])
ROUTERS: Final = (
    jobs.router, revisions.router, clips.router, uploads.router, deliveries.router, recipes.router, storage.router,
    access.router, why.router, demo.router, general,
)  # fmt: skip


class HealthView(BaseModel):
    """How the application is. `free` is the room on the disk of its data in bytes, `waiting` how much work of each
    priority has not been begun; neither is told to who has not signed in.
    """

    status: Literal["ok"] = "ok"
    version: str = __version__
    free: int | None = None
    waiting: dict[Priority, int] | None = None


@general.get("/health", operation_id="getHealth")
def get_health(ctx: Ctx, request: Request) -> HealthView:
    """Whether the application is there, which version, and how busy."""
    if ctx.guarded and not access.is_signed_in(ctx, request):
        return HealthView()
    free = shutil.disk_usage(ctx.store.folder).free
    return HealthView(free=free, waiting={name: ctx.tasks.scheduler.waiting(name) for name in NICENESS})


@general.get("/events", operation_id="getEvents", response_class=EventSourceResponse)
async def get_events(ctx: Ctx, request: Request) -> AsyncIterator[ServerSentEvent]:
    """What happens, as it happens: one stream for each window, until it signs out."""
    ctx.tasks.readiness.start()
    loop = asyncio.get_running_loop()
    queue: asyncio.Queue[Event] = asyncio.Queue()

    def send(event: Event) -> None:
        loop.call_soon_threadsafe(queue.put_nowait, event)

    stop = ctx.events.subscribe(send)
    try:
        yield ServerSentEvent(event="hello", data={})
        while (event := await queue.get()).kind != "ending":
            if ctx.guarded and not access.is_signed_in(ctx, request):
                yield ServerSentEvent(event="signed-out", data={})
                return
            if event.kind == "signed-out":  # another browser
                continue
            yield ServerSentEvent(event=event.kind, data={"job": event.job_id, **event.data})
    finally:
        stop()


@general.get("/docs", include_in_schema=False)
def get_docs(request: Request) -> HTMLResponse:
    """What can be asked for, as a page."""
    return HTMLResponse(reference.render_page(request.app.openapi()))


@general.api_route("/{rest:path}", methods=METHODS, include_in_schema=False)
def unknown(rest: str, request: Request) -> None:
    """Keep unknown paths below /api from being answered with the page."""
    allowed = sorted(
        {method for router in ROUTERS for route in router.routes for method in _methods_at(route, request)}
    )
    if allowed:
        raise HTTPException(405, f"/api/{rest} takes {', '.join(allowed)}", {"Allow": ", ".join(allowed)})
    raise HTTPException(404, f"There is no /api/{rest}")


def _methods_at(route: BaseRoute, request: Request) -> set[str]:
    """The methods that a route other than the last takes at this path."""
    if not isinstance(route, APIRoute) or route.endpoint is unknown:
        return set()
    match, _ = route.matches(request.scope)
    return set(route.methods or ()) if match is not Match.NONE else set()


def create_app(
    store: Store,
    host: str = "127.0.0.1",
    deliver_to: Path | None = None,
    *,
    guarded: bool = False,
    largest_file: int = MAX_FILE_BYTES,
    cluster: str | None = None,
    demo: bool = False,
) -> FastAPI:
    """The application on an open store, which it closes when it ends. It answers to the names of `host` alone, and
    delivers into folders of `deliver_to` where that is given. A `guarded` one asks for the store's password;
    `largest_file` is how many bytes a file may have that is added; the workers of a `cluster` write deliveries; the job
    of the `demo` is made in the background where there is none.
    """

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        events = Events()
        tasks = Tasks(store, events, deliver_to, cluster)

        def show_demo(job: str) -> None:
            tasks.measuring.measure_job(job)
            events.publish(Event("jobs-changed", job))

        maker = DemoMaker(store, show_demo)
        app.state.context = Context(store, tasks, events, maker, guarded, largest_file)
        tasks.resume()
        if demo:
            maker.start()
        yield
        await asyncio.to_thread(maker.close)
        await asyncio.to_thread(tasks.close)
        store.close()

    app = _with_routes(lifespan)
    errors.install(app)
    app.add_middleware(
        RequestGuard,
        hosts=list_hosts(host),
        any_address=not is_local(host),
        is_signed_in=store.access.is_signed_in if guarded else None,
    )
    if WEBAPP.is_dir():
        app.frontend("/", directory=WEBAPP, fallback="index.html")
    return app


def _with_routes(lifespan: Any = None) -> FastAPI:
    app = FastAPI(
        title="Wedge Turn", version=__version__, lifespan=lifespan, openapi_url="/api/openapi.json",
        docs_url=None, redoc_url=None,
    )  # fmt: skip
    for router in ROUTERS:
        app.include_router(router, responses={"4XX": {"model": errors.Problem}})
    return app


def openapi() -> dict[str, Any]:
    """The OpenAPI document, without opening any data."""
    return _with_routes().openapi()
