"""What happened, for whoever subscribes. Subscribers are called from any thread and must not block."""

import logging
import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal

Kind = Literal["job-changed", "jobs-changed", "recipes-changed", "measured", "delivery", "signed-out", "ending"]
log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Event:
    kind: Kind
    job_id: str
    data: dict[str, Any] = field(default_factory=dict)


class Events:
    def __init__(self) -> None:
        self._subscribers: list[Callable[[Event], None]] = []
        self._lock = threading.Lock()

    def subscribe(self, subscriber: Callable[[Event], None]) -> Callable[[], None]:
        """Call `subscriber` for every event from now on; returns how to stop that."""
        with self._lock:
            self._subscribers.append(subscriber)

        def unsubscribe() -> None:
            with self._lock:
                self._subscribers.remove(subscriber)

        return unsubscribe

    def publish(self, event: Event) -> None:
        """Tell every subscriber; one that fails keeps nobody else from it, least of all who published."""
        with self._lock:
            subscribers = list(self._subscribers)
        for subscriber in subscribers:
            try:
                subscriber(event)
            except Exception:
                log.exception("a subscriber failed")
