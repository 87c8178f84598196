"""How often a password may be tried."""

import threading
import time
from collections.abc import Callable
from typing import Final

from wedge_turn.core.errors import TooManyTriesError

TRIES: Final = 5  # wrong passwords from one address within WINDOW
ALL_TRIES: Final = 50  # and from all of them
WINDOW: Final = 60.0  # seconds


class Tries:
    """Wrong passwords of the last minute, by the address that they came from."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._lock = threading.Lock()
        self._wrong: list[tuple[float, str]] = []

    def check(self, address: str) -> None:
        """Raises TooManyTriesError where there have been too many."""
        with self._lock:
            since = self._clock() - WINDOW
            self._wrong = [(at, who) for at, who in self._wrong if at > since]
            own = sum(who == address for _, who in self._wrong)
            if own >= TRIES or len(self._wrong) >= ALL_TRIES:
                raise TooManyTriesError("Too many wrong passwords")

    def was_wrong(self, address: str) -> None:
        with self._lock:
            self._wrong.append((self._clock(), address))
