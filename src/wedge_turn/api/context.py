"""What every router works with, handed to it by FastAPI."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request

from wedge_turn.store import Store
from wedge_turn.tasks import Event, Events, Tasks, Workshop


@dataclass(frozen=True)
class Context:
    store: Store
    tasks: Tasks
    events: Events

    @property
    def workshop(self) -> Workshop:
        return self.tasks.workshop

    def changed(self, job_id: str) -> None:
        """Tell every window that a job is not what it was."""
        self.events.publish(Event("job-changed", job_id))


def _context(request: Request) -> Context:
    context: Context = request.app.state.context
    return context


Ctx = Annotated[Context, Depends(_context)]
