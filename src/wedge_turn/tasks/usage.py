"""Disk space used by each job, and clearing what can be made again."""

import shutil
from collections import Counter
from collections.abc import Iterable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from wedge_turn.store import Store
from wedge_turn.tasks.deliveries import DeliveryRunner
from wedge_turn.tasks.janitor import Janitor


@dataclass(frozen=True)
class JobDiskUsage:
    """What a job uses, in bytes; `freed` is what deleting it would free."""

    id: str
    name: str
    files: int
    working: int
    pictures: int
    deliveries: int
    freed: int


@dataclass(frozen=True)
class DiskUsage:
    """What all take together, in bytes, each file once, and what is free on the disk."""

    jobs: tuple[JobDiskUsage, ...]
    files: int
    working: int
    pictures: int
    deliveries: int
    database: int
    free: int


class Usage:
    def __init__(self, store: Store, janitor: Janitor, deliveries: DeliveryRunner) -> None:
        self._store = store
        self._janitor = janitor
        self._deliveries = deliveries

    def measure(self) -> DiskUsage:
        """Add up what is on the disk now."""
        folder = self._store.folder
        originals = _sizes(folder / "media", "*/*")
        working = {Path(name).stem: size for name, size in _sizes(folder / "working", "*/*.wav").items()}
        pictures = _sizes(folder / "pictures", "*/*")
        deliveries = {path.name: dict(_files(path)) for path in (folder / "deliveries").glob("*")}
        keys = self._janitor.keys_by_job()
        jobs = self._store.jobs.all()
        media = {job.id: {source.media for source in self._store.sources.for_job(job.id)} for job in jobs}
        users = Counter(medium for of_job in media.values() for medium in of_job)
        drawn = Counter(key for of_job in keys.values() for key in of_job)
        uses = []
        for job in jobs:
            own, its_keys = media[job.id], keys.get(job.id, frozenset())
            only = {medium for medium in own if users[medium] == 1}
            drawn_alone = {key for key in its_keys if drawn[key] == 1}
            written = _together(deliveries.get(delivery.id, {}) for delivery in self._store.deliveries.for_job(job.id))
            uses.append(
                JobDiskUsage(
                    job.id,
                    job.name,
                    _sum(originals, own),
                    _sum(working, own),
                    _sum(pictures, its_keys),
                    written,
                    _sum(originals, only) + _sum(working, only) + _sum(pictures, drawn_alone) + written,
                )
            )
        database = sum(path.stat().st_size for path in folder.glob("*.sqlite3*"))
        return DiskUsage(
            tuple(uses),
            sum(originals.values()),
            sum(working.values()),
            sum(pictures.values()),
            _together(deliveries.values()),
            database,
            shutil.disk_usage(folder).free,
        )

    def clear_derived(self, job_id: str) -> None:
        """Remove a job's working copies and pictures; they are made again when somebody looks or listens."""
        for source in self._store.sources.for_job(job_id):
            self._store.media.clear_working_copy(source.media)
        for key in self._janitor.keys_by_job().get(job_id, frozenset()):
            shutil.rmtree(self._store.media.pictures(key), ignore_errors=True)

    def clear_deliveries(self, job_id: str) -> None:
        """Delete a job's deliveries that are not under way, with their files."""
        for delivery in self._store.deliveries.for_job(job_id):
            if delivery.state not in ("waiting", "writing"):
                self._deliveries.delete(delivery.id)


def _sizes(root: Path, pattern: str) -> dict[str, int]:
    """Bytes of the files and folders below a folder, by their names."""
    return {path.name: _size(path) for path in root.glob(pattern)}


def _size(path: Path) -> int:
    return sum(size for _, size in _files(path))


def _files(path: Path) -> Iterator[tuple[int, int]]:
    """The inode and the bytes of a file, or of every file below a folder."""
    with suppress(FileNotFoundError):
        if path.is_dir():
            for entry in path.iterdir():
                yield from _files(entry)
        else:
            facts = path.stat()
            yield facts.st_ino, facts.st_size


def _together(folders: Iterable[dict[int, int]]) -> int:
    """Bytes of all files in these folders: one that a delivery has taken over from an earlier one counts once."""
    return sum({inode: size for folder in folders for inode, size in folder.items()}.values())


def _sum(sizes: dict[str, int], names: Iterable[str]) -> int:
    return sum(sizes.get(name, 0) for name in names)
