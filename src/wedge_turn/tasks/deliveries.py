"""Deliveries in the background: waiting → writing → done | failed | stopped.

One that was not finished when the application ended is started anew at the next start: nothing of it was in place yet.
"""

import logging
import threading
import time
from collections.abc import Iterator
from concurrent.futures import Executor
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Final

from pydantic import ValidationError

from wedge_turn.core.delivery import Copy, Manifest, Order, Origin, deliver
from wedge_turn.core.errors import (
    BadRequestError,
    Error,
    NotFoundError,
    StoppedError,
    UnreadableError,
    from_system,
)
from wedge_turn.core.naming import make_file_names
from wedge_turn.core.worksheet import parse_ref, source_ref
from wedge_turn.store import Store
from wedge_turn.store.order import order_of
from wedge_turn.store.rows import Delivery
from wedge_turn.tasks.clips import ClipService
from wedge_turn.tasks.cluster import connected
from wedge_turn.tasks.events import Event, Events
from wedge_turn.tasks.scheduler import Scheduler

PROGRESS_INTERVAL: Final = 0.1  # seconds between two events of progress
SETTLED_AFTER, SETTLED_SHARE = 2.0, 0.02  # seconds and share from which the pace says something
log = logging.getLogger(__name__)


@dataclass
class Running:
    """How far a delivery is: the share that is done, how many files are finished, of how many."""

    share: float = 0.0
    done: int = 0
    files: int = 0
    since: float = field(default_factory=time.monotonic)

    def finished(self, _name: str) -> None:
        self.done += 1

    @property
    def seconds_left(self) -> float | None:
        """At the pace so far; None while that says nothing yet."""
        spent = time.monotonic() - self.since
        if spent < SETTLED_AFTER or self.share < SETTLED_SHARE:
            return None
        return spent * (1 - self.share) / self.share


@dataclass(frozen=True)
class DeliveryFolder:
    """A folder that can be delivered to, by its name, and the names of the folders in it."""

    name: str
    folders: list[str]


def _is_offered(path: Path) -> bool:
    return path.is_dir() and not path.is_symlink() and not path.name.startswith((".", "~"))


class DeliveryRunner:
    def __init__(
        self,
        store: Store,
        clips: ClipService,
        scheduler: Scheduler,
        events: Events,
        root: Path | None = None,
        cluster: str | None = None,
    ) -> None:
        """`root` is the folder on this machine whose folders may be delivered to; `cluster` the address of one whose
        workers write deliveries.
        """
        self._root = root
        self._cluster = cluster
        self._store = store
        self._clips = clips
        self._scheduler = scheduler
        self._events = events
        self._stopping: dict[str, threading.Event] = {}
        self._running: dict[str, Running] = {}
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
        self._store.reserve.give_up()
        self._store.deliveries.delete(delivery_id)
        self._store.media.remove_delivery(delivery_id)  # what went to a folder of the user's stays there
        about: dict[str, object] = {"delivery": delivery_id, "state": "deleted"}
        self._events.publish(Event("delivery", job_id, about))

    def running(self, delivery_id: str) -> Running:
        """How far a delivery is; at its beginning where it isn't under way."""
        return self._running.get(delivery_id) or Running()

    def folder(self, delivery: Delivery, to: str | None) -> Path:
        """Where the files of a delivery are. Raises BadRequestError for a folder that this server doesn't offer."""
        return self._store.media.delivery(delivery.id) if to is None else self.folder_called(to)

    def folder_called(self, to: str) -> Path:
        """A folder of the user's that this server offers, made or not. Raises BadRequestError."""
        if self._root is None:
            raise BadRequestError("This server has no folder to deliver to", help="Start it with --deliver-to.")
        if make_file_names([(to, "")]) != [to] or to.startswith((".", "~")):
            raise BadRequestError(f"A folder can't be called “{to}”", help="Use letters, digits, spaces and hyphens.")
        folder = self._root / to
        if folder.is_symlink():
            raise BadRequestError(f"{to} is a link to another folder", help="Choose another name.")
        return folder

    def offered(self) -> DeliveryFolder | None:
        """The folder on this machine that can be delivered to, and the folders in it; None without one."""
        if self._root is None:
            return None
        inside = self._root.iterdir() if self._root.is_dir() else ()
        return DeliveryFolder(self._root.name, sorted(p.name for p in inside if _is_offered(p)))

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
            self._running.pop(delivery_id, None)

    def _deliver(self, delivery: Delivery) -> None:
        try:
            self._running[delivery.id] = Running()
            self._report(delivery)
            self._store.deliveries.set_state(delivery.id, "writing")
            self._store.media.remove_delivery(delivery.id)
            manifest = self._written(delivery)
            self._finish(delivery, "done", manifest=manifest)
        except StoppedError:
            self._store.media.remove_delivery(delivery.id)
            if not self._closing.is_set():
                self._finish(delivery, "stopped")
        except NotFoundError as error:
            if self._is_deleted(delivery):
                self._store.media.remove_delivery(delivery.id)
            else:
                self._finish(delivery, "failed", error=error)
        except Error as error:
            self._finish(delivery, "failed", error=error)
        except Exception as error:
            log.exception("delivery %s failed", delivery.id)
            self._finish(delivery, "failed", error=from_system(error, "the delivery"))

    def _written(self, delivery: Delivery) -> Manifest:
        """Check the sources by their hashes, then write and prove the files."""
        try:
            order = order_of(delivery.order)
        except ValidationError as error:
            raise UnreadableError("This order was stored by another version and can't be read") from error
        engine = self._clips.engine(delivery.job_id, delivery.revision_id)
        running = self._running[delivery.id]
        used = engine.sheet.origins(order.refs)
        rest = engine.sheet.unused_sources() if order.rest else [parse_ref(ref)[1] for ref in order.copies]
        copies, origins = [], {}
        for source in self._store.sources.for_job(delivery.job_id):
            origins[source.id] = Origin(source.name, source.folder, f"blake3:{source.media}")
            if source.id in rest:
                form = engine.sheet.info(source_ref(source.id)).form
                copies.append(Copy(self._store.media.original(source.media), source.name, form, source.folder))
            if source.id in used or source.id in rest:
                self._report(delivery)
                self._store.media.verify(source.media, source.name)
        last = 0.0

        def progress(share: float) -> None:
            nonlocal last
            self._check_stopped(delivery)
            running.share = share
            if time.monotonic() - last >= PROGRESS_INTERVAL:
                last = time.monotonic()
                self._publish(delivery, "writing", self.running(delivery.id))

        wanted = Order(
            order.refs,
            order.depth,
            dither=order.dither,
            range=order.range,
            copies=tuple(copies),
            container=order.container,
            naming=order.naming,
            job=self._store.jobs.get(delivery.job_id).name,
            folders=order.folders,
            origins=origins,
            replaces_own=order.to is not None,
        )
        running.files = len(wanted.refs) + len(wanted.copies)
        folder = self.folder(delivery, order.to)
        earlier = self._earlier(delivery, folder, order.to)
        with self._workers(folder) as executor:
            return deliver(
                engine,
                wanted,
                folder,
                progress,
                earlier=earlier,
                finished=running.finished,
                executor=executor,
                may_link=order.to is None,  # both in the data folder, where nobody edits them
            )

    @contextmanager
    def _workers(self, folder: Path) -> Iterator[Executor | None]:
        """The workers of the cluster, where there is one. Raises BadRequestError where they can't do it."""
        if self._cluster is None:
            yield None
        else:
            with connected(self._cluster, [self._store.folder.absolute()], folder.absolute()) as executor:
                yield executor

    def _earlier(self, delivery: Delivery, folder: Path, to: str | None) -> Path | None:
        """Where files may lie that would be written again as they are."""
        if to is not None:
            return folder
        last = self._store.deliveries.last_done(delivery.job_id)
        return self._store.media.delivery(last.id) if last else None

    def _report(self, delivery: Delivery) -> None:
        self._check_stopped(delivery)
        self._publish(delivery, "writing", self.running(delivery.id))

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

    def _finish(
        self, delivery: Delivery, state: str, manifest: Manifest | None = None, error: Error | None = None
    ) -> None:
        problem = {"code": error.code, "message": error.message, "help": error.help} if error else None
        try:
            self._store.deliveries.set_state(delivery.id, state, manifest, problem)
        except NotFoundError:  # deleted meanwhile: nobody will ask for its files
            self._store.media.remove_delivery(delivery.id)
            return
        running = self._running.pop(delivery.id, None) or Running()
        if manifest:
            running = Running(1.0, len(manifest.files), len(manifest.files))
        files = f", {len(manifest.files)} files" if manifest else f": {error.code}" if error else ""
        log.info("delivery %s %s%s", delivery.id, state, files)
        self._publish(delivery, state, running)

    def _publish(self, delivery: Delivery, state: str, running: Running) -> None:
        data = {
            "delivery": delivery.id,
            "state": state,
            "progress": running.share,
            "files_done": running.done,
            "files": running.files,
            "seconds_left": running.seconds_left,
        }
        self._events.publish(Event("delivery", delivery.job_id, data))
