"""Making the demo's job while the application runs."""

import logging
import threading
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

from wedge_turn.demo.job import ensure_demo_job
from wedge_turn.store import Store

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Making:
    """How far the demo's job is: `progress` from 0 to 1, and its id once it is there."""

    state: Literal["none", "making", "ready", "failed"] = "none"
    progress: float = 0
    job: str | None = None


class _ClosedError(Exception):
    pass


class DemoMaker:
    """Makes the demo's job in the background, once at a time. `on_ready` is told its id."""

    def __init__(self, store: Store, on_ready: Callable[[str], None]) -> None:
        self._store = store
        self._on_ready = on_ready
        self._lock = threading.Lock()
        self._making = Making()
        self._thread: threading.Thread | None = None
        self._closed = False

    @property
    def making(self) -> Making:
        return self._making

    def start(self) -> Making:
        """Begin to make it, unless that is under way. A job that was deleted since is made again."""
        with self._lock:
            if self._making.state != "making":
                self._making = Making("making")
                self._thread = threading.Thread(target=self._make, name="demo", daemon=True)
                self._thread.start()
            return self._making

    def close(self) -> None:
        """Give up what is being made, and wait until nothing writes into the store any more."""
        with self._lock:
            self._closed, thread = True, self._thread
        if thread is not None:
            thread.join()

    def _make(self) -> None:
        try:
            job = ensure_demo_job(self._store, on_progress=self._advance)
            self._on_ready(job)
            self._making = Making("ready", 1, job)
        except _ClosedError:
            self._making = Making()
        except Exception:
            log.exception("the demo's job could not be made")
            self._making = Making("failed")

    def _advance(self, progress: float) -> None:
        if self._closed:
            raise _ClosedError
        self._making = replace(self._making, progress=progress)
