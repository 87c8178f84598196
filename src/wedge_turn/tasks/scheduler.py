"""One scheduler for all work that takes long, with three priorities: what is heard, what is delivered, what is looked
at.

Each priority has threads of its own, which on Linux leave the processor to those of a higher one, so that an hour's
delivery delays no sound and five hundred measurements delay no delivery. Within a priority, work that somebody waits
for goes before work in the background, and otherwise what came first goes first. Work that nobody waits for any more
when its turn comes is dropped.
"""

import heapq
import itertools
import logging
import os
import sys
import threading
from collections.abc import Callable, Hashable
from concurrent.futures import CancelledError, Future
from contextvars import ContextVar
from dataclasses import dataclass, field
from typing import Any, Final, Literal, ParamSpec, TypeVar

from wedge_turn.core.errors import StoppedError

Wanted = Callable[[], bool]
Priority = Literal["hear", "deliver", "look"]
NICENESS: Final[dict[Priority, int]] = {"hear": 0, "deliver": 5, "look": 10}
P = ParamSpec("P")
T = TypeVar("T")
log = logging.getLogger(__name__)

# Whether whoever asks for work in this context still waits for it. It is asked when the work's turn comes.
still_wanted: Final[ContextVar[Wanted]] = ContextVar("still_wanted", default=lambda: True)


@dataclass(order=True)
class _Work:
    background: bool
    number: int
    future: Future[Any] = field(compare=False)
    call: Callable[[], Any] = field(compare=False)
    wanted: Wanted = field(compare=False)


@dataclass
class _Shared:
    """Work that several wait for."""

    wanted: list[Wanted] = field(default_factory=list)
    future: Future[Any] = field(default_factory=Future)


class _Lane:
    """The threads of one priority and the work that waits for them."""

    def __init__(self, name: Priority, threads: int) -> None:
        self._name = name
        self._waiting: list[_Work] = []
        self._numbers = itertools.count()
        self._changed = threading.Condition()
        self._closed = False
        self._threads = [threading.Thread(target=self._work, name=f"{name}-{n}", daemon=True) for n in range(threads)]
        for thread in self._threads:
            thread.start()

    def submit(self, background: bool, call: Callable[[], T], is_wanted: Wanted = lambda: True) -> Future[T]:
        future: Future[T] = Future()
        with self._changed:
            if self._closed:
                future.cancel()
            else:
                heapq.heappush(self._waiting, _Work(background, next(self._numbers), future, call, is_wanted))
                self._changed.notify()
        return future

    @property
    def waiting(self) -> int:
        with self._changed:
            return len(self._waiting)

    def close(self) -> None:
        """Drop what waits, and wait for what is being done."""
        with self._changed:
            self._closed = True
            for work in self._waiting:
                work.future.cancel()
            self._waiting.clear()
            self._changed.notify_all()
        for thread in self._threads:
            thread.join()

    def _work(self) -> None:
        if sys.platform == "linux":  # where a thread has a niceness of its own
            os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICENESS[self._name])
        while (work := self._next()) is not None:
            if not work.wanted():
                work.future.cancel()
            if not work.future.set_running_or_notify_cancel():
                continue
            try:
                work.future.set_result(work.call())
            except BaseException as error:
                work.future.set_exception(error)
                if work.background:
                    log.exception("background work failed")

    def _next(self) -> _Work | None:
        with self._changed:
            while not self._waiting:
                if self._closed:
                    return None
                self._changed.wait()
            return heapq.heappop(self._waiting)


class Scheduler:
    def __init__(self) -> None:
        cores = os.cpu_count() or 2
        threads: dict[Priority, int] = {"hear": 2 * cores, "deliver": cores, "look": cores + 2}
        self._lock = threading.RLock()  # guards what follows
        self._shared: dict[Hashable, _Shared] = {}
        self._lanes = {name: _Lane(name, count) for name, count in threads.items()}

    def run(self, priority: Priority, work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """Do some work and wait for its result; raises what it raises, and StoppedError where it was dropped."""
        return _result(self._lanes[priority].submit(False, lambda: work(*args, **kwargs), still_wanted.get()))

    def share(self, priority: Priority, key: Hashable, work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """Like `run`, but who asks for work of this key while it waits or is done gets the same result, and takes no
        thread for it. It is dropped when none of them waits any more.
        """
        with self._lock:
            shared = self._shared.get(key)
            if shared is None:
                shared = self._shared[key] = _Shared()

                def is_wanted() -> bool:
                    with self._lock:
                        if any(waits() for waits in shared.wanted):
                            return True
                        self._shared.pop(key, None)  # who asks from here on has it done anew
                        return False

                shared.future = self._lanes[priority].submit(False, lambda: work(*args, **kwargs), is_wanted)
                shared.future.add_done_callback(lambda _: self._forget(key, shared))
            shared.wanted.append(still_wanted.get())
        result: T = _result(shared.future)
        return result

    def _forget(self, key: Hashable, shared: _Shared) -> None:
        with self._lock:
            if self._shared.get(key) is shared:
                del self._shared[key]

    def start(self, priority: Priority, work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> Future[T]:
        """Do some work in the background. After `close` it is cancelled at once."""
        return self._lanes[priority].submit(True, lambda: work(*args, **kwargs))

    def waiting(self, priority: Priority) -> int:
        """How much work of a priority has not been begun."""
        return self._lanes[priority].waiting

    def close(self) -> None:
        for lane in self._lanes.values():
            lane.close()


def _result(future: Future[T]) -> T:
    try:
        return future.result()
    except CancelledError as error:
        raise StoppedError("This was stopped: its client left, or the server is shutting down") from error
