"""Deliveries and pictures in the background, on as many threads as there are cores (the kernels let go of the GIL).

A delivery is waiting → writing → done | failed | stopped. One that was not finished when the application
ended is started anew at the next start: nothing of it was in place yet.
"""

import logging
import os
import shutil
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from typing import Final

from wedge_turn.core.delivery import Order, deliver
from wedge_turn.core.engine import Clip
from wedge_turn.core.errors import NotFoundError, StoppedError, WedgeTurnError
from wedge_turn.core.manifest import Manifest
from wedge_turn.store import Store
from wedge_turn.store.rows import Source
from wedge_turn.tasks.events import Event, Events

LOOK_AFTER: Final = 0.3  # seconds
TELL_EVERY: Final = 0.1  # seconds between two tellings of progress
log = logging.getLogger(__name__)


class Tasks:
    def __init__(self, store: Store, events: Events) -> None:
        self._store = store
        self._events = events
        self._pool = ThreadPoolExecutor(max_workers=os.cpu_count() or 2, thread_name_prefix="task")
        self._stopping: dict[str, threading.Event] = {}
        self._progress: dict[str, float] = {}
        self._closing = threading.Event()
        self._planned: dict[str, threading.Timer] = {}
        self._measuring: set[str] = set()
        self._lock = threading.Lock()

    def resume(self) -> None:
        """Start again what was not finished."""
        for job in self._store.jobs():
            self.measure_all(job.id)
        for delivery in self._store.unfinished_deliveries():
            self.start_delivery(delivery.id)

    def close(self) -> None:
        """Stop everything; unfinished deliveries go on at the next start."""
        with self._lock:
            self._closing.set()
        self._pool.shutdown(cancel_futures=True)

    def start_delivery(self, delivery_id: str) -> None:
        self._stopping[delivery_id] = threading.Event()
        self._pool.submit(self._deliver, delivery_id)

    def stop_delivery(self, delivery_id: str) -> None:
        """Stop a delivery; one that is finished stays as it is."""
        if stopping := self._stopping.get(delivery_id):
            stopping.set()

    def progress(self, delivery_id: str) -> float:
        """The share of a running delivery that is done, 0 to 1."""
        return self._progress.get(delivery_id, 0.0)

    def look_at(self, source: Source) -> None:
        """Draw a source that has just arrived and measure what there is to measure, before somebody looks."""
        self._pool.submit(self._look_at, source)
        self.measure_all(source.job_id)

    def _look_at(self, source: Source) -> None:
        try:
            clip = self._store.clip_of(source)
            self._store.pictures(source.media, clip)
        except Exception:
            # The pictures are drawn when somebody asks for them, and what is wrong is said then.
            log.exception("pictures could not be drawn in advance")
            return
        if self._claimed(source.media):
            self._measure(source.job_id, source.media, clip)

    def measure_all(self, job_id: str) -> None:
        """Measure what nobody has measured yet, clip by clip, as many at once as there are threads.

        A moment later, because files come by the hundred, and a look at all of them for each would be many looks.
        """
        with self._lock:
            if job_id in self._planned or self._closing.is_set():
                return
            timer = self._planned[job_id] = threading.Timer(LOOK_AFTER, self._soon, [job_id])
            timer.daemon = True
            timer.start()

    def _soon(self, job_id: str) -> None:
        with self._lock:
            self._planned.pop(job_id, None)
            if not self._closing.is_set():
                self._pool.submit(self._plan_measuring, job_id)

    def _plan_measuring(self, job_id: str) -> None:
        try:
            found = self._store.unmeasured(job_id)
        except NotFoundError:
            return  # deleted meanwhile
        for key, clip in found:
            if self._claimed(key):
                self._pool.submit(self._measure, job_id, key, clip)

    def _claimed(self, key: str) -> bool:
        """Whether a clip is now ours to measure, and no other thread's."""
        with self._lock:
            if self._closing.is_set() or key in self._measuring:
                return False
            self._measuring.add(key)
            return True

    def _measure(self, job_id: str, key: str, clip: Clip) -> None:
        try:
            if not self._closing.is_set():
                self._store.measure(key, clip)
                self._events.tell(Event("measured", job_id))
        except Exception:
            log.exception("a clip could not be measured")
        finally:
            with self._lock:
                self._measuring.discard(key)

    def _deliver(self, delivery_id: str) -> None:
        stopping = self._stopping[delivery_id]
        try:
            delivery = self._store.delivery(delivery_id)
        except WedgeTurnError:
            return  # deleted while it waited
        job_id = delivery.job_id
        told = 0.0

        def progress(share: float) -> None:
            nonlocal told
            if stopping.is_set() or self._closing.is_set():
                raise StoppedError("The delivery was stopped")
            self._progress[delivery_id] = share
            if time.monotonic() - told >= TELL_EVERY:
                told = time.monotonic()
                self._tell(job_id, delivery_id, "writing", share)

        folder = self._store.media.delivery(delivery_id)
        try:
            progress(0.0)
            self._store.set_delivery(delivery_id, "writing")
            shutil.rmtree(folder, ignore_errors=True)
            engine = self._store.engine(job_id, delivery.revision_id)
            order = Order(
                tuple(delivery.order["refs"]), depth=delivery.order["depth"], dither=delivery.order.get("dither", True)
            )
            manifest = deliver(engine, order, folder, progress)
            self._settle(job_id, delivery_id, "done", manifest=manifest)
        except StoppedError:
            if not self._closing.is_set():
                self._settle(job_id, delivery_id, "stopped")
        except WedgeTurnError as error:
            self._fail(job_id, delivery_id, error)
        except Exception:
            log.exception("a delivery failed")
            self._fail(job_id, delivery_id, WedgeTurnError("The delivery failed for a reason that is in the log"))
        finally:
            self._stopping.pop(delivery_id, None)
            self._progress.pop(delivery_id, None)

    def _fail(self, job_id: str, delivery_id: str, error: WedgeTurnError) -> None:
        told = {"code": error.code, "message": error.message, "help": error.help}
        self._settle(job_id, delivery_id, "failed", error=told)

    def _settle(
        self,
        job_id: str,
        delivery_id: str,
        state: str,
        manifest: Manifest | None = None,
        error: dict[str, str] | None = None,
    ) -> None:
        try:
            self._store.set_delivery(delivery_id, state, manifest, error)
        except NotFoundError:  # deleted meanwhile, alone or with its job: nobody will ask for its files
            shutil.rmtree(self._store.media.delivery(delivery_id), ignore_errors=True)
            return
        self._tell(job_id, delivery_id, state, 1.0 if state == "done" else 0.0)

    def _tell(self, job_id: str, delivery_id: str, state: str, progress: float) -> None:
        self._events.tell(Event("delivery", job_id, {"delivery": delivery_id, "state": state, "progress": progress}))
