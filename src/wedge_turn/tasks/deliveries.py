"""Deliveries in the background: waiting → writing → done | failed | stopped.

One that was not finished when the application ended is started anew at the next start: nothing of it was in place yet.
"""

import logging
import threading
import time
from typing import Final

from pydantic import ValidationError

from wedge_turn.core.delivery.copies import Copy
from wedge_turn.core.delivery.deliver import deliver
from wedge_turn.core.delivery.manifest import Manifest
from wedge_turn.core.delivery.order import Order
from wedge_turn.core.errors import NotFoundError, StoppedError, UnreadableError, WedgeTurnError, of_system
from wedge_turn.core.plan import source_ref
from wedge_turn.store import Store
from wedge_turn.store.order import order_of
from wedge_turn.store.rows import Delivery
from wedge_turn.tasks.events import Event, Events
from wedge_turn.tasks.scheduler import Scheduler
from wedge_turn.tasks.workshop import Workshop

PROGRESS_INTERVAL: Final = 0.1  # seconds between two events of progress
log = logging.getLogger(__name__)


class DeliveryRunner:
    def __init__(self, store: Store, workshop: Workshop, scheduler: Scheduler, events: Events) -> None:
        self._store = store
        self._workshop = workshop
        self._scheduler = scheduler
        self._events = events
        self._stopping: dict[str, threading.Event] = {}
        self._progress: dict[str, float] = {}
        self._closing = threading.Event()

    def start(self, delivery_id: str) -> None:
        self._stopping[delivery_id] = threading.Event()
        self._scheduler.start("deliver", self._run, delivery_id)

    def stop(self, delivery_id: str) -> None:
        """Stop a delivery; one that is finished is unchanged."""
        if stopping := self._stopping.get(delivery_id):
            stopping.set()

    def delete(self, delivery_id: str) -> None:
        """Stop a delivery and remove its files. Raises NotFoundError."""
        self.stop(delivery_id)
        job_id = self._store.deliveries.get(delivery_id).job_id
        self._store.deliveries.delete(delivery_id)
        self._store.media.remove_delivery(delivery_id)
        told = {"delivery": delivery_id, "state": "deleted", "progress": 0.0}
        self._events.publish(Event("delivery", job_id, told))

    def progress(self, delivery_id: str) -> float:
        """The share of a running delivery that is done, 0 to 1."""
        return self._progress.get(delivery_id, 0.0)

    def resume(self) -> None:
        """Start again what was not finished."""
        for delivery in self._store.deliveries.unfinished():
            self.start(delivery.id)

    def close(self) -> None:
        """Break off what is running; it goes on at the next start."""
        self._closing.set()

    def _run(self, delivery_id: str) -> None:
        try:
            delivery = self._store.deliveries.get(delivery_id)
            self._deliver(delivery)
        except NotFoundError:
            pass  # deleted while it waited, alone or with its job
        finally:
            self._stopping.pop(delivery_id, None)
            self._progress.pop(delivery_id, None)

    def _deliver(self, delivery: Delivery) -> None:
        folder = self._store.media.delivery(delivery.id)
        try:
            self._report(delivery, 0.0)
            self._store.deliveries.set_state(delivery.id, "writing")
            self._store.media.remove_delivery(delivery.id)
            manifest = self._written(delivery)
            self._settle(delivery, "done", manifest=manifest)
        except StoppedError:
            self._store.media.remove_delivery(delivery.id)
            if not self._closing.is_set():
                self._settle(delivery, "stopped")
        except NotFoundError as error:
            if self._is_deleted(delivery):
                self._store.media.remove_delivery(delivery.id)
            else:
                self._settle(delivery, "failed", error=error)
        except WedgeTurnError as error:
            self._settle(delivery, "failed", error=error)
        except Exception as error:
            log.exception("delivery %s failed", delivery.id)
            self._settle(delivery, "failed", error=of_system(error, folder.name))

    def _written(self, delivery: Delivery) -> Manifest:
        """Check the sources by their hashes, then write and prove the files."""
        try:
            order = order_of(delivery.order)
        except ValidationError as error:
            raise UnreadableError("This order was stored by another version and can't be read") from error
        engine = self._workshop.engine(delivery.job_id, delivery.revision_id)
        used = engine.sheet.origins(order.refs)
        rest = engine.sheet.unused_sources() if order.rest else []
        copies = []
        for source in self._store.sources.of(delivery.job_id):
            if source.id in rest:
                form = engine.sheet.info(source_ref(source.id)).form
                copies.append(Copy(self._store.media.original(source.media), source.name, form))
            if source.id in used or source.id in rest:
                self._report(delivery, 0.0)
                self._store.media.verify(source.media, source.name)
        last = 0.0

        def progress(share: float) -> None:
            nonlocal last
            self._check_stopped(delivery)
            self._progress[delivery.id] = share
            if time.monotonic() - last >= PROGRESS_INTERVAL:
                last = time.monotonic()
                self._publish(delivery, "writing", share)

        wanted = Order(
            order.refs,
            order.depth,
            dither=order.dither,
            range=order.range,
            copies=tuple(copies),
            container=order.container,
            naming=order.naming,
            job=self._store.jobs.get(delivery.job_id).name,
        )
        return deliver(engine, wanted, self._store.media.delivery(delivery.id), progress)

    def _report(self, delivery: Delivery, share: float) -> None:
        self._check_stopped(delivery)
        self._progress[delivery.id] = share
        self._publish(delivery, "writing", share)

    def _check_stopped(self, delivery: Delivery) -> None:
        stopping = self._stopping.get(delivery.id)
        if self._closing.is_set() or (stopping is not None and stopping.is_set()):
            raise StoppedError("The delivery was stopped")

    def _is_deleted(self, delivery: Delivery) -> bool:
        try:
            self._store.deliveries.get(delivery.id)
        except NotFoundError:
            return True
        return False

    def _settle(
        self, delivery: Delivery, state: str, manifest: Manifest | None = None, error: WedgeTurnError | None = None
    ) -> None:
        problem = {"code": error.code, "message": error.message, "help": error.help} if error else None
        try:
            self._store.deliveries.set_state(delivery.id, state, manifest, problem)
        except NotFoundError:  # deleted meanwhile: nobody will ask for its files
            self._store.media.remove_delivery(delivery.id)
            return
        self._publish(delivery, state, 1.0 if state == "done" else 0.0)

    def _publish(self, delivery: Delivery, state: str, progress: float) -> None:
        data = {"delivery": delivery.id, "state": state, "progress": progress}
        self._events.publish(Event("delivery", delivery.job_id, data))
