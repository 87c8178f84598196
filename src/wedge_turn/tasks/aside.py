"""What is seen is computed aside: what is heard, and the browser that plays it, go before it."""

import os
import sys
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Final, ParamSpec, TypeVar

THREADS: Final = 8
NICE: Final = 10
P = ParamSpec("P")
T = TypeVar("T")


class Aside:
    """Threads of a lower priority, where the system has such: on Linux each thread has its own."""

    def __init__(self) -> None:
        self._pool = ThreadPoolExecutor(THREADS, "aside", initializer=_step_back)

    def do(self, work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """Do some work, and wait for what comes of it; raises what it raises."""
        return self._pool.submit(work, *args, **kwargs).result()

    def close(self) -> None:
        self._pool.shutdown(cancel_futures=True)


def _step_back() -> None:
    if sys.platform == "linux":
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICE)
