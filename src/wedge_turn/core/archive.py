"""A tree of folders prepared one after the other, or side by side, in constant memory; and gone on with later.

    wedge-turn-prepared.jsonl   a line for each folder that is done: its path, and a fingerprint of its files (names,
                                sizes, times of change), of the settings and of the version

A folder is skipped while its fingerprint is the same and its manifest lies where it was written.
"""

import json
import os
from collections import deque
from collections.abc import Iterator
from concurrent.futures import Executor, Future
from dataclasses import dataclass, field
from pathlib import Path
from typing import Final

from xxhash import xxh3_128

from wedge_turn import __version__
from wedge_turn.core.delivery.containers import ContainerName
from wedge_turn.core.delivery.manifest import MANIFEST, Progress
from wedge_turn.core.delivery.order import DepthChoice
from wedge_turn.core.errors import BadRequestError, NotFoundError
from wedge_turn.core.folder import Choice, FolderTask, PreparedFolder, prepare_one

JOURNAL: Final = "wedge-turn-prepared.jsonl"
AT_ONCE: Final = 8  # folders that are with an executor at a time, unless it has more workers


@dataclass(frozen=True)
class Tree:
    """A folder with all within it, where it goes, None where nothing is written, and how."""

    folder: Path
    out: Path | None = None
    choice: Choice = field(default_factory=Choice)
    depth: DepthChoice = "same"
    container: ContainerName = "wav"
    overwrite: bool = False
    resume: bool = False
    # Somebody may do a folder twice: where who had done it was lost before saying so.
    may_repeat: bool = False

    def __post_init__(self) -> None:
        if not self.folder.is_dir():
            raise NotFoundError(f"{self.folder.name or self.folder} is not a folder")
        if self.out is not None and self.out.resolve() == self.folder.resolve():
            raise BadRequestError("The prepared files can't go into the folder itself: choose another for --out")

    def tasks(self) -> Iterator[FolderTask]:
        """A task for each folder that has files; neither hidden ones nor what lies in `out`."""
        apart = self.out.resolve() if self.out else None
        for at, names, files in os.walk(self.folder):
            here = Path(at)
            names[:] = sorted(n for n in names if not n.startswith(".") and (here / n).resolve() != apart)
            if shown := tuple(sorted(here / name for name in files if not name.startswith("."))):
                within = here.relative_to(self.folder)
                to = self.out / within if self.out else None
                again = self.resume or self.may_repeat
                yield FolderTask(within, shown, to, self.choice, self.depth, self.container, self.overwrite, again)

    def fingerprint(self, task: FolderTask) -> str:
        """What decides what is made of a folder."""
        digest = xxh3_128()
        for path in task.paths:
            facts = path.stat()
            digest.update(os.fsencode(path.name) + f"\0{facts.st_size}\0{facts.st_mtime_ns}\0".encode())
        choice = sorted(self.choice.only), sorted(self.choice.skip)
        digest.update(f"{choice}{self.depth}{self.container}{__version__}".encode())
        return str(digest.hexdigest())


def prepare_tree(
    tree: Tree, executor: Executor | None = None, progress: Progress = lambda _: None, at_once: int = AT_ONCE
) -> Iterator[PreparedFolder]:
    """Prepare one folder after the other, or hand each to an executor; what became of them comes in their order.

    Raises ExistsError, DiskFullError, ProofFailedError or what `progress` raises, or what the executor does; folders
    that were given before stay.
    """
    total = sum(len(task.paths) for task in tree.tasks()) or 1
    journal = _Journal(tree.out) if tree.resume and tree.out else None
    done = 0
    waiting: deque[tuple[FolderTask, str, Future[PreparedFolder] | None]] = deque()

    def finish() -> PreparedFolder:
        nonlocal done
        task, fingerprint, future = waiting.popleft()
        if future is not None:
            prepared = future.result()
        elif journal and journal.has(task, fingerprint):
            prepared = PreparedFolder(task.at, unchanged=len(task.paths))
        else:
            prepared = prepare_one(task, lambda share: progress((done + share * len(task.paths)) / total))
        if journal:
            journal.note(task, fingerprint)
        done += len(task.paths)
        progress(done / total)
        return prepared

    try:
        for task in tree.tasks():
            fingerprint = tree.fingerprint(task) if journal else ""
            skipped = journal is not None and journal.has(task, fingerprint)
            handed = executor.submit(prepare_one, task) if executor and not skipped else None
            waiting.append((task, fingerprint, handed))
            if executor is None or len(waiting) >= at_once:
                yield finish()
        while waiting:
            yield finish()
    finally:
        for _, _, future in waiting:
            if future is not None:
                future.cancel()


class _Journal:
    """Which folders are done, in a file of the result."""

    def __init__(self, out: Path) -> None:
        out.mkdir(parents=True, exist_ok=True)
        self._out = out
        self._path = out / JOURNAL
        self._done: dict[str, str] = {}
        if self._path.exists():
            for line in self._path.read_text("utf-8").splitlines():
                try:
                    noted = json.loads(line)
                    self._done[noted["folder"]] = noted["fingerprint"]
                except (ValueError, KeyError, TypeError):
                    continue  # the line that was being written when a run was killed

    def has(self, task: FolderTask, fingerprint: str) -> bool:
        there = task.to is not None and (task.to / MANIFEST).is_file()
        return there and self._done.get(task.at.as_posix()) == fingerprint

    def note(self, task: FolderTask, fingerprint: str) -> None:
        if self._done.get(task.at.as_posix()) != fingerprint:
            self._done[task.at.as_posix()] = fingerprint
            with self._path.open("a", encoding="utf-8") as file:
                file.write(json.dumps({"folder": task.at.as_posix(), "fingerprint": fingerprint}) + "\n")
