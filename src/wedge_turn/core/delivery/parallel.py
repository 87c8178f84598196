"""Pieces of work done on all cores; the first that fails stops the others."""

import os
import threading
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import Final, TypeVar

from wedge_turn.core.errors import StoppedError

T = TypeVar("T")
# What is written at once shares the disk and the memory: more workers than this gain nothing.
WORKERS: Final = min(4, os.cpu_count() or 1)


class Watched:
    """Counts samples that several threads are done with, and tells the share of them; raises once one has failed."""

    def __init__(self, total: int, progress: Callable[[float], None]) -> None:
        self._total, self._progress, self._done = total or 1, progress, 0
        self._lock = threading.Lock()
        self.failed = threading.Event()

    def __call__(self, samples: int) -> None:
        """Raises StoppedError after a failure elsewhere, or what the progress raises."""
        with self._lock:
            if self.failed.is_set():
                raise StoppedError("Another file could not be written")
            self._done += samples
            self._progress(min(self._done / self._total, 1.0))


def run_in_parallel(work: Sequence[Callable[[], T]], watched: Watched | None = None) -> list[T]:
    """What each piece of work gives, in order. Raises what the first to fail has raised, when none goes on any more."""
    if WORKERS == 1 or len(work) < 2:
        return [piece() for piece in work]
    watched = watched or Watched(1, lambda _: None)
    failures: list[BaseException] = []

    def guarded(piece: Callable[[], T]) -> T:
        try:
            return piece()
        except BaseException as error:
            if not watched.failed.is_set():
                failures.append(error)
                watched.failed.set()
            raise

    with ThreadPoolExecutor(WORKERS) as pool:
        futures = [pool.submit(guarded, piece) for piece in work]
        try:
            results = [future.result() for future in futures]
        except BaseException as error:
            watched.failed.set()
            pool.shutdown(cancel_futures=True)
            raise (failures[0] if failures else error) from None
    return results
