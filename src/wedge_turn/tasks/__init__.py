"""Long work: what is heard, delivered and looked at, in that order; going on after a restart; cleaning up."""

import logging
from pathlib import Path

from wedge_turn.core.errors import Error, NotFoundError
from wedge_turn.store import Store
from wedge_turn.store.rows import Source
from wedge_turn.store.uploads import Upload
from wedge_turn.tasks.clips import ClipService
from wedge_turn.tasks.deliveries import DeliveryRunner
from wedge_turn.tasks.events import Event, Events
from wedge_turn.tasks.janitor import Janitor
from wedge_turn.tasks.measuring import Measuring
from wedge_turn.tasks.readiness import Preloader
from wedge_turn.tasks.scheduler import Scheduler, still_wanted
from wedge_turn.tasks.usage import Usage

__all__ = ["ClipService", "Event", "Events", "Scheduler", "Tasks", "still_wanted"]
log = logging.getLogger(__name__)


class Tasks:
    """All that works on a store, and the scheduler that it works with."""

    def __init__(
        self, store: Store, events: Events, deliver_to: Path | None = None, cluster: str | None = None
    ) -> None:
        self._store = store
        self._events = events
        self.scheduler = Scheduler()
        self.clips = ClipService(store)
        self.measuring = Measuring(store, self.clips, self.scheduler, events)
        self.deliveries = DeliveryRunner(store, self.clips, self.scheduler, events, deliver_to, cluster)
        self.janitor = Janitor(store, self.scheduler, events)
        self.readiness = Preloader()
        self.usage = Usage(store, self.janitor, self.deliveries)

    def resume(self) -> None:
        """Go on where the application ended: take in what had arrived, deliver, measure, clean up."""
        self._store.read_older_sources()
        for upload, offset in self._store.uploads.all():
            if upload.size == offset:
                self.scheduler.start("look", self._take_in_left_over, upload)
        self.deliveries.resume()
        self.measuring.resume()
        self.janitor.start()

    def close(self) -> None:
        """Stop everything; unfinished deliveries go on at the next start."""
        self.measuring.close()
        self.janitor.close()
        self.deliveries.close()
        self.scheduler.close()

    def take_in(self, upload: Upload) -> Source:
        """Take in a file that has come whole. Raises what `Store.add_source` raises."""
        with self._store.uploads.arrived(upload) as arrived:
            source = self._store.add_source(upload.job, arrived)
        self.measuring.prepare_source(source)
        log.info("file %s added to job %s, %d bytes", source.id, source.job_id, source.bytes)
        self._events.publish(Event("job-changed", upload.job))
        return source

    def _take_in_left_over(self, upload: Upload) -> None:
        try:
            self.take_in(upload)
        except NotFoundError:
            return  # its job is gone, or somebody else took it in
        except Error as error:
            log.warning("%s could not be added: %s", upload.name, error.message)
