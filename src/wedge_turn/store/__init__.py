"""What is kept between sessions: jobs, sources and revisions in SQLite, sound by its content beside it."""

from wedge_turn.store.store import Store

__all__ = ["Store"]
