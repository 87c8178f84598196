"""Waiting for what comes by itself, for as long as a busy machine may take."""

import time
from collections.abc import Callable
from typing import TypeVar

PATIENCE = 60  # seconds
T = TypeVar("T")


def until(probe: Callable[[], T | None]) -> T:
    """The first answer of `probe` that holds."""
    given_up = time.monotonic() + PATIENCE
    while not (value := probe()):
        assert time.monotonic() < given_up, value
        time.sleep(0.02)
    return value
