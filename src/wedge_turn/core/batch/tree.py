"""A tree of folders prepared one after the other, or side by side, in constant memory; and gone on with later.

    wedge-turn-prepared.jsonl   a line for each folder that is done: its path, a fingerprint of its files (names, sizes,
                                times of change), of the settings and of what computes, and one of what was written

A folder is skipped while both fingerprints are the same, or what was written still has its hashes.
"""

import json
import os
from collections import deque
from collections.abc import Iterable, Iterator
from concurrent.futures import Executor, Future
from dataclasses import dataclass, field
from pathlib import Path
from typing import Final

from xxhash import xxh3_128

from wedge_turn.core.audio import is_readable
from wedge_turn.core.batch.folder import Choice, FolderTask, PreparedFolder, prepare_one
from wedge_turn.core.delivery import FILES_REVISION, ContainerName, DepthChoice, Progress, read_manifest, verify
from wedge_turn.core.errors import BadRequestError, Error, ExistsError, NotFoundError
from wedge_turn.core.findings import FINDINGS_VERSION
from wedge_turn.core.measure import SURVEY_VERSION
from wedge_turn.core.turns import TURNS

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
    # To take what can be read of incomplete files.
    salvage: bool = False

    def __post_init__(self) -> None:
        if not self.folder.is_dir():
            raise NotFoundError(f"{self.folder.name or self.folder} is not a folder")
        if self.out is not None and self.out.resolve() == self.folder.resolve():
            raise BadRequestError(
                "The prepared files can't go into the folder itself", help="Choose another folder for --out."
            )

    def tasks(self) -> Iterator[FolderTask]:
        """A task for each folder that has files; neither hidden ones nor what lies in `out`."""
        apart = self.out.resolve() if self.out else None
        for at, names, files in os.walk(self.folder):
            folder = Path(at)
            names[:] = sorted(n for n in names if not n.startswith(".") and (folder / n).resolve() != apart)
            if paths := tuple(sorted(folder / name for name in files if not name.startswith("."))):
                within = folder.relative_to(self.folder)
                to = self.out / within if self.out else None
                again = self.resume or self.may_repeat
                yield FolderTask(
                    within, paths, to, self.choice, self.depth, self.container, self.overwrite, again, self.salvage
                )

    def fingerprint(self, task: FolderTask) -> str:
        """What decides what is made of a folder."""
        choice = sorted(self.choice.only), sorted(self.choice.skip)
        turns = sorted((kind, turn.revision) for kind, turn in TURNS.items())
        computes = SURVEY_VERSION, FINDINGS_VERSION, FILES_REVISION, turns
        return _fingerprint(task.paths, f"{choice}{self.depth}{self.container}{self.salvage or ''}{computes}")


def _fingerprint(paths: Iterable[Path], settings: str = "") -> str:
    """Of names, sizes and times of change, and of settings; a file that can't be looked at counts as that."""
    digest = xxh3_128()
    for path in paths:
        try:
            facts = path.stat()
            fingerprint = f"{facts.st_size}\0{facts.st_mtime_ns}"
        except OSError as error:
            fingerprint = f"{error.errno}"
        digest.update(os.fsencode(path.name) + f"\0{fingerprint}\0".encode())
    digest.update(settings.encode())
    return str(digest.hexdigest())


def prepare_tree(
    tree: Tree, executor: Executor | None = None, progress: Progress = lambda _: None, at_once: int = AT_ONCE
) -> Iterator[PreparedFolder]:
    """Prepare one folder after the other, or hand each to an executor; what became of them comes in their order.

    Raises ExistsError, DiskFullError, ProofFailedError or what `progress` raises, or what the executor does; folders
    that were given before stay. A run that goes on with an earlier one passes by a folder in which something stands
    that it must not replace.
    """
    total = sum(len(task.paths) for task in tree.tasks()) or 1
    journal = _Journal(tree.out) if tree.resume and tree.out else None
    done = 0
    waiting: deque[tuple[FolderTask, str, Future[PreparedFolder] | None]] = deque()

    def finish() -> PreparedFolder:
        nonlocal done
        task, fingerprint, future = waiting.popleft()
        try:
            if future is not None:
                prepared = future.result()
            elif journal and journal.has(task, fingerprint):
                prepared = PreparedFolder(task.at, unchanged=len(task.paths))
            else:
                prepared = prepare_one(task, lambda share: progress((done + share * len(task.paths)) / total))
        except ExistsError as error:
            if journal is None:
                raise
            prepared = PreparedFolder(task.at, refused=((tree.folder / task.at, error.message),))
        else:
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
        self._path = out / JOURNAL
        self._done: dict[str, tuple[str, str]] = {}
        if self._path.exists():
            for line in self._path.read_text("utf-8").splitlines():
                try:
                    noted = json.loads(line)
                    self._done[noted["folder"]] = noted["fingerprint"], noted.get("written", "")
                except (ValueError, KeyError, TypeError, AttributeError):
                    continue  # the line that was being written when a run was killed

    def has(self, task: FolderTask, fingerprint: str) -> bool:
        """Whether a folder is done: from these files, and what was made of them is still there as it was written."""
        known, written = self._done.get(task.at.as_posix(), ("", ""))
        if task.to is None or known != fingerprint:
            return False
        return (bool(written) and written == _written(task.to)) or _is_whole(task.to)

    def note(self, task: FolderTask, fingerprint: str) -> None:
        noted = fingerprint, _written(task.to) if task.to else ""
        if self._done.get(task.at.as_posix()) != noted:
            self._done[task.at.as_posix()] = noted
            line = {"folder": task.at.as_posix(), "fingerprint": noted[0], "written": noted[1]}
            with self._path.open("a", encoding="utf-8") as file:
                file.write(json.dumps(line) + "\n")


def _is_whole(folder: Path) -> bool:
    """Whether nothing of a delivery is gone or damaged. What somebody has edited since is theirs."""
    try:
        wrong = verify(folder)
    except Error:
        return False
    return all(
        problem.code == "changed" and all(is_readable(folder / name) for name in problem.files) for problem in wrong
    )


def _written(folder: Path) -> str:
    """A fingerprint of the files that a delivery's manifest names; empty without one."""
    try:
        return _fingerprint(folder / file.name for file in read_manifest(folder).files)
    except Error:
        return ""
