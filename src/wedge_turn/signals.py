"""Blocks signals while processes are started: an interrupted start would hang the pool."""

import signal
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def block_signals(*signals: signal.Signals) -> Iterator[None]:
    """Let these signals wait; a process that is started meanwhile never hears them."""
    before = signal.pthread_sigmask(signal.SIG_BLOCK, signals)
    try:
        yield
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, before)
