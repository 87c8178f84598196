"""What every router works with, handed to it by FastAPI."""

import asyncio
from collections.abc import AsyncIterator
from dataclasses import dataclass, field
from typing import Annotated, Final

from fastapi import Depends, Request

from wedge_turn.api.tries import LoginThrottle
from wedge_turn.core.recent import LruCache
from wedge_turn.demo import DemoMaker
from wedge_turn.store import Store
from wedge_turn.tasks import ClipService, Event, Events, Tasks, still_wanted

MAX_FILE_BYTES: Final = 2**43
MAX_FINISHED: Final = 1_000  # uploads
HASHED_AT_ONCE: Final = 2  # passwords; each takes 64 MiB of memory


@dataclass(frozen=True)
class Context:
    """`finished` has, for uploads that just ended, their size and the id of their source: a client that lost
    the last answer asks again. `guarded` says that a password is needed, `largest_file` how many bytes a file may have
    that is added.
    """

    store: Store
    tasks: Tasks
    events: Events
    demo: DemoMaker
    guarded: bool = False
    largest_file: int = MAX_FILE_BYTES
    tries: LoginThrottle = field(default_factory=LoginThrottle)
    finished: LruCache[str, tuple[str, str]] = field(default_factory=lambda: LruCache(MAX_FINISHED))
    hashing: asyncio.Semaphore = field(default_factory=lambda: asyncio.Semaphore(HASHED_AT_ONCE))

    @property
    def clips(self) -> ClipService:
        return self.tasks.clips

    def changed(self, job_id: str, head: str = "") -> None:
        """Tell every window that a job is not what it was. With a head, its worksheet is all that has changed."""
        self.events.publish(Event("job-changed", job_id, {"head": head} if head else {}))


def _context(request: Request) -> Context:
    context: Context = request.app.state.context
    return context


Ctx = Annotated[Context, Depends(_context)]


async def drop_when_client_leaves(request: Request) -> AsyncIterator[None]:
    """What this request asks of the scheduler is dropped if its client has left before its turn comes."""
    left = asyncio.Event()

    async def listen() -> None:
        while (await request.receive())["type"] != "http.disconnect":
            pass
        left.set()

    listening = asyncio.create_task(listen())
    still_wanted.set(lambda: not left.is_set())
    try:
        yield
    finally:
        listening.cancel()
