"""What happened, told to whoever listens. Listeners are called from any thread and must not block."""

import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal

Kind = Literal["job-changed", "jobs-changed", "measured", "delivery"]


@dataclass(frozen=True)
class Event:
    kind: Kind
    job_id: str
    data: dict[str, Any] = field(default_factory=dict)


class Events:
    def __init__(self) -> None:
        self._listeners: list[Callable[[Event], None]] = []
        self._lock = threading.Lock()

    def listen(self, listener: Callable[[Event], None]) -> Callable[[], None]:
        """Call `listener` for every event from now on; returns how to stop that."""
        with self._lock:
            self._listeners.append(listener)

        def stop() -> None:
            with self._lock:
                self._listeners.remove(listener)

        return stop

    def tell(self, event: Event) -> None:
        with self._lock:
            listeners = list(self._listeners)
        for listener in listeners:
            listener(event)
