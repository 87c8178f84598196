"""What every router works with, handed to it by FastAPI."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request

from wedge_turn.store import Store
from wedge_turn.tasks import Aside, Event, Events, Tasks


@dataclass(frozen=True)
class Context:
    store: Store
    tasks: Tasks
    events: Events
    aside: Aside

    def changed(self, job_id: str) -> None:
        """Tell every window that a job is not what it was."""
        self.events.tell(Event("job-changed", job_id))


def _context(request: Request) -> Context:
    context: Context = request.app.state.context
    return context


Ctx = Annotated[Context, Depends(_context)]
