"""How often a password may be tried."""

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from wedge_turn.core.errors import TooManyTriesError

TRIES: Final = 5  # wrong passwords from one address within WINDOW
MAX_ATTEMPTS: Final = 50  # and from all addresses that have never said the right one
WINDOW: Final = 60.0  # seconds


@dataclass(frozen=True, eq=False)
class Attempt:
    address: str
    at: float


class LoginThrottle:
    """Passwords that were tried in the last minute and are not known to be right, by the address they came from."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._lock = threading.Lock()
        self._counted: list[Attempt] = []
        self._known: set[str] = set()

    def begin(self, address: str) -> Attempt:
        """Count a password before it is looked at, so that many at once are no more than one after the other. Raises
        TooManyTriesError. An address that has said the right password is not kept out by others.
        """
        now = self._clock()
        with self._lock:
            self._counted = [attempt for attempt in self._counted if attempt.at > now - WINDOW]
            own = sum(attempt.address == address for attempt in self._counted)
            of_strangers = sum(attempt.address not in self._known for attempt in self._counted)
            if own >= TRIES or (of_strangers >= MAX_ATTEMPTS and address not in self._known):
                raise TooManyTriesError("Too many wrong passwords")
            self._counted.append(Attempt(address, now))
            return self._counted[-1]

    def was_right(self, attempt: Attempt) -> None:
        with self._lock:
            self._known.add(attempt.address)
            if attempt in self._counted:
                self._counted.remove(attempt)
