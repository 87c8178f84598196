"""Long work: run, progress, stop, go on after a restart."""

from wedge_turn.tasks.aside import Aside
from wedge_turn.tasks.events import Event, Events
from wedge_turn.tasks.tasks import Tasks

__all__ = ["Aside", "Event", "Events", "Tasks"]
