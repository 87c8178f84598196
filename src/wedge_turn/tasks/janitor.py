"""Removes what nobody will ask for again, and looks whether what is kept is still what came in.

What a process that was killed left half done; pictures and measures of clips that no revision reaches; uploads that
nobody went on with for a week; files that no job has; and the pictures that were not looked at for longest once they
take more room than they may. A file's content is checked against its hash, so much of it in each round.
"""

import logging
import shutil
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Final

from wedge_turn.core.errors import Error
from wedge_turn.core.findings import find_clips_to_measure
from wedge_turn.core.worksheet import step_ref
from wedge_turn.store import Store
from wedge_turn.store.rows import Source
from wedge_turn.tasks.clips import sheet_of
from wedge_turn.tasks.events import Event, Events
from wedge_turn.tasks.scheduler import Scheduler

ROUND_SECONDS: Final = 3600.0
UNUSED_FOR: Final = 24 * 3600.0  # seconds that pictures of several clips side by side, which no key tells, are kept
PICTURE_BUDGET: Final = 4 * 2**30  # bytes
CHECKED_A_ROUND: Final = 4 * 2**30  # bytes
log = logging.getLogger(__name__)


class Janitor:
    def __init__(self, store: Store, scheduler: Scheduler, events: Events, budget: int = PICTURE_BUDGET) -> None:
        self._store = store
        self._scheduler = scheduler
        self._events = events
        self._budget = budget
        # What is half done and older was left by another process; clocks of file systems are some milliseconds behind.
        self._started = time.time() - 1
        self._checked: dict[str, float] = {}
        self._reached: dict[str, tuple[frozenset[str], frozenset[str]]] = {}  # revisions and their keys, by job
        self._timer: threading.Timer | None = None
        self._closing = threading.Event()
        self._at_work = threading.Lock()

    def start(self) -> None:
        """Clean up after the process before this one, then go round now and then."""
        self._scheduler.start("look", self._first_round)

    def sweep_soon(self) -> None:
        """Clean up after something was deleted."""
        self._scheduler.start("look", self.sweep, 0.0)

    def close(self) -> None:
        self._closing.set()
        if self._timer is not None:
            self._timer.cancel()

    def _first_round(self) -> None:
        self.sweep(0.0, half_done_before=self._started)
        self.check_media()
        self._plan()

    def _round(self) -> None:
        self.sweep(UNUSED_FOR)
        self.check_media()
        self._plan()

    def _plan(self) -> None:
        if not self._closing.is_set():
            self._timer = threading.Timer(ROUND_SECONDS, lambda: self._scheduler.start("look", self._round))
            self._timer.daemon = True
            self._timer.start()

    def sweep(self, unused_for: float = UNUSED_FOR, half_done_before: float | None = None) -> None:
        """Remove what is not needed: what was unused for so many seconds, or half done before a time (a day ago)."""
        with self._at_work:
            now = time.time()
            unused, half_done = now - unused_for, now - UNUSED_FOR if half_done_before is None else half_done_before
            folder = self._store.folder
            self._store.uploads.remove_old(half_done)
            self._store.forget_orphans()
            in_use = self._store.sources.media_in_use()
            for copy in (folder / "working").glob("*/*"):
                if copy.suffix == ".wav" and copy.stem not in in_use:
                    _remove(copy, now)
                elif copy.suffix != ".wav":
                    _remove(copy, half_done)
            for drawing in (folder / "pictures").glob("*/.drawing-*"):
                _remove(drawing, half_done)
            # Asked first: what is measured while this looks is of a file that just came.
            measured = self._store.measures.keys()
            reachable = {key for keys in self._reachable().values() for key in keys}
            for pictures in self._pictures():
                if pictures.name not in reachable:
                    _remove(pictures, unused)
            self._store.measures.forget(measured - reachable)
            deliveries = self._store.deliveries.ids()
            for written in (folder / "deliveries").iterdir():
                if written.name not in deliveries:
                    _remove(written, now)
            self._keep_budget()
            self._store.reserve.keep()

    def check_media(self) -> None:
        """Check the content of kept files against their hashes, those first that were not checked for longest."""
        left = CHECKED_A_ROUND
        sources = {source.media: source for job in self._store.jobs.all() for source in self._sources(job.id)}
        for media, source in sorted(sources.items(), key=lambda one: self._checked.get(one[0], 0.0)):
            if self._closing.is_set() or left <= 0:
                return
            left -= source.bytes
            self._checked[media] = time.monotonic()
            try:
                self._store.media.verify(media, source.name)
            except Error as error:
                log.warning(error.message)
                self._events.publish(Event("job-changed", source.job_id))

    def _sources(self, job_id: str) -> list[Source]:
        with suppress(Error):  # the job was deleted meanwhile
            return self._store.sources.for_job(job_id)
        return []

    def keys_by_job(self) -> dict[str, frozenset[str]]:
        """The keys of the clips that each job reaches: what its pictures are called."""
        with self._at_work:
            return self._reachable()

    def _reachable(self) -> dict[str, frozenset[str]]:
        """By job, the keys of all clips that a revision reaches, and of what groups of its sources would make.

        Revisions never change: only those that are new since the last round, and the heads, are worked out.
        """
        jobs = self._store.jobs.all()
        reached, self._reached = self._reached, {}
        for job in jobs:
            revisions = self._store.worksheets.ids(job.id)
            before, keys = reached.get(job.id, (frozenset(), frozenset()))
            if not before <= revisions:
                before, keys = frozenset(), frozenset()
            new = self._keys(job.id, (revisions - before) | {job.head_id})
            self._reached[job.id] = frozenset(revisions), keys | new
        return {job_id: keys for job_id, (_, keys) in self._reached.items()}

    def _keys(self, job_id: str, revisions: set[str]) -> set[str]:
        sources = self._sources(job_id)
        ids, folders = [source.id for source in sources], [source.folder for source in sources]
        keys = {source.media for source in sources}
        for plan in self._store.worksheets.plans(revisions):
            with suppress(Error):  # one that cannot be worked out reaches nothing
                sheet = sheet_of(plan, sources)
                keys.update(find_clips_to_measure(sheet, ids, folders))
                outcomes = sheet.outcomes.items()
                keys.update(sheet.key(step_ref(step, n)) for step, o in outcomes for n in range(len(o.outputs)))
        return keys

    def _pictures(self) -> Iterator[Path]:
        return (path for path in (self._store.folder / "pictures").glob("*/*") if not path.name.startswith("."))

    def _keep_budget(self) -> None:
        sizes = [(path.stat().st_mtime, path, _size(path)) for path in self._pictures() if path.exists()]
        total = sum(size for _, _, size in sizes)
        for _, path, size in sorted(sizes, key=lambda one: one[0]):
            if total <= self._budget:
                return
            shutil.rmtree(path, ignore_errors=True)
            total -= size


def _remove(path: Path, before: float) -> None:
    """Remove a file or folder that was last changed before a time."""
    with suppress(FileNotFoundError):
        if path.stat().st_mtime > before:
            return
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink()


def _size(folder: Path) -> int:
    with suppress(FileNotFoundError):
        return sum(path.stat().st_size for path in folder.iterdir())
    return 0
