"""The application: routers, errors, the event stream, and the built web."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any, Final

from fastapi import FastAPI
from fastapi.routing import APIRouter
from fastapi.sse import EventSourceResponse, ServerSentEvent
from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from wedge_turn import __version__
from wedge_turn.api import clips, deliveries, errors, jobs, uploads, why
from wedge_turn.api.context import Context, Ctx
from wedge_turn.store import Store
from wedge_turn.tasks import Aside, Event, Events, Tasks

WEBAPP: Final = Path(__file__).parent.parent / "webapp"
general = APIRouter(prefix="/api", tags=["general"])
ROUTERS: Final = (jobs.router, clips.router, uploads.router, deliveries.router, why.router, general)


@general.get("/health", operation_id="getHealth")
def get_health() -> dict[str, str]:
    """Whether the application is there, and which version."""
    return {"status": "ok", "version": __version__}


@general.get("/events", operation_id="getEvents", response_class=EventSourceResponse)
async def get_events(ctx: Ctx) -> AsyncIterator[ServerSentEvent]:
    """What happens, as it happens: one stream for each window."""
    loop = asyncio.get_running_loop()
    queue: asyncio.Queue[Event] = asyncio.Queue()

    def put(event: Event) -> None:
        loop.call_soon_threadsafe(queue.put_nowait, event)

    stop = ctx.events.listen(put)
    try:
        yield ServerSentEvent(event="hello", data={})
        while True:
            event = await queue.get()
            yield ServerSentEvent(event=event.kind, data={"job": event.job_id, **event.data})
    finally:
        stop()


@general.api_route("/{rest:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False)
def unknown(rest: str) -> None:
    """Keep unknown paths below /api from being answered with the page."""
    raise HTTPException(404, f"There is no /api/{rest}")


def create_app(store: Store) -> FastAPI:
    """The application on an open store, which it closes when it ends."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        events = Events()
        tasks, aside = Tasks(store, events), Aside()
        app.state.context = Context(store, tasks, events, aside)
        tasks.resume()
        yield
        await asyncio.to_thread(tasks.close)
        await asyncio.to_thread(aside.close)
        store.close()

    app = FastAPI(title="Wedge Turn", version=__version__, lifespan=lifespan, openapi_url="/api/openapi.json")
    errors.install(app)
    app.add_middleware(Guard)
    for router in ROUTERS:
        app.include_router(router, responses={"4XX": {"model": errors.Problem}})
    if WEBAPP.is_dir():
        app.frontend("/", directory=WEBAPP, fallback="index.html")
    return app


class Guard:
    """Refuse changes that another site's page asks for; say what browsers may keep. Bodies pass untouched."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        origin = headers.get("origin")
        if scope["method"] != "GET" and origin and origin.split("://")[-1] != headers.get("host"):
            refusal = errors.answer(403, "other-site", "Another site's page cannot change anything here", "")
            await refusal(scope, receive, send)
            return
        path: str = scope["path"]

        async def send_on(message: Message) -> None:
            if message["type"] == "http.response.start" and not path.startswith("/api/"):
                kept = path.startswith("/assets/")
                value = "public, max-age=31536000, immutable" if kept else "no-cache"
                MutableHeaders(scope=message)["Cache-Control"] = value
            await send(message)

        await self._app(scope, receive, send_on)


def openapi() -> dict[str, Any]:
    """The OpenAPI document, without opening any data."""
    app = FastAPI(title="Wedge Turn", version=__version__)
    for router in ROUTERS:
        app.include_router(router, responses={"4XX": {"model": errors.Problem}})
    return app.openapi()
