"""Pictures, measures and findings in the background, before somebody looks."""

import logging
import threading
from collections.abc import Callable, Mapping
from typing import Final

from wedge_turn.core.clips import Clip
from wedge_turn.core.errors import Error, NotFoundError
from wedge_turn.store import Store
from wedge_turn.store.rows import Source
from wedge_turn.tasks.clips import ClipService
from wedge_turn.tasks.events import Event, Events
from wedge_turn.tasks.scheduler import Scheduler

DEBOUNCE_SECONDS: Final = 0.3  # files come by the hundred, and a look at all of them for each would be many looks
log = logging.getLogger(__name__)


class Measuring:
    def __init__(self, store: Store, clips: ClipService, scheduler: Scheduler, events: Events) -> None:
        self._store = store
        self._clips = clips
        self._scheduler = scheduler
        self._events = events
        self._closing = threading.Event()
        self._lock = threading.Lock()  # guards what follows
        self._planned: dict[str, threading.Timer] = {}
        # The clips being measured, with the jobs that asked for the same one meanwhile.
        self._under_way: dict[str, dict[str, Callable[[], Clip]]] = {}

    def prepare_source(self, source: Source) -> None:
        """Draw a source that has just arrived and measure it, and what it makes with others."""
        self._scheduler.start("look", self._draw, source)
        self.measure_job(source.job_id)

    def measure_job(self, job_id: str) -> None:
        """Measure what nobody has measured yet, clip by clip, a moment later."""
        with self._lock:
            if job_id in self._planned or self._closing.is_set():
                return
            timer = self._planned[job_id] = threading.Timer(DEBOUNCE_SECONDS, self._run_planned, [job_id])
            timer.daemon = True
            timer.start()

    def measure_clips(self, job_id: str, clips: Mapping[str, Callable[[], Clip]]) -> None:
        """Measure clips, by their keys, that somebody asks about; windows are told as each is done."""
        for key, clip in clips.items():
            self._scheduler.start("look", self._measure, job_id, key, clip)

    def resume(self) -> None:
        """Measure in every job what the application was ended before, or another version measured."""
        for job in self._store.jobs.all():
            self._scheduler.start("look", self._measure_job, job.id)
            self._scheduler.start("look", self._draw_job, job.id)

    def close(self) -> None:
        self._closing.set()
        with self._lock:
            for timer in self._planned.values():
                timer.cancel()

    def _run_planned(self, job_id: str) -> None:
        with self._lock:
            self._planned.pop(job_id, None)
        self._scheduler.start("look", self._measure_job, job_id)

    def _draw(self, source: Source) -> None:
        try:
            clip = self._clips.clip_of(source)
            self._clips.pictures(source.media, clip)
        except Error as error:
            log.warning("no pictures of %s: %s", source.name, error.message)
            return
        self._measure(source.job_id, source.media, lambda: clip)

    def _draw_job(self, job_id: str) -> None:
        try:
            for source in self._clips.undrawn(job_id):
                self._scheduler.start("look", self._draw, source)
        except NotFoundError:
            return  # deleted meanwhile

    def _measure_job(self, job_id: str) -> None:
        try:
            for source, measures in self._clips.unjudged(job_id):
                self._clips.judge(source, measures)
            clips = self._clips.unmeasured(job_id)
        except NotFoundError:
            return  # deleted meanwhile
        for key, clip in clips:
            self._scheduler.start("look", self._measure, job_id, key, clip)

    def _measure(self, job_id: str, key: str, clip: Callable[[], Clip]) -> None:
        with self._lock:
            if self._closing.is_set():
                return
            if key in self._under_way:
                self._under_way[key][job_id] = clip
                return
            self._under_way[key] = {}
        try:
            measures = self._clips.measure(key, clip())
            for source in self._store.sources.with_media(job_id, key):
                self._clips.judge(source, measures)
            self._events.publish(Event("measured", job_id))
        except NotFoundError as error:
            log.info("not measured: %s", error.message)
        except Error as error:
            log.warning("not measured: %s", error.message)
        finally:
            with self._lock:
                asked_meanwhile = self._under_way.pop(key)
            # Their files may have come after this job's were looked at; the measures themselves are there by now.
            for job, same in asked_meanwhile.items():
                self._scheduler.start("look", self._measure, job, key, same)
