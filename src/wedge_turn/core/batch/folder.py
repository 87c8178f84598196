"""One folder prepared: what is safe is done and proved, everything else goes along as it came.

A folder is a job of its own: files that belong together lie in one, memory and open files are those of one, and each is
delivered whole or not at all. `archive` goes through a tree of them.
"""

import os
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Final

from wedge_turn.core.audio import WavFile, open_readable
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import (
    ContainerName,
    Copy,
    DeliveredFile,
    DepthChoice,
    ManifestFinding,
    Order,
    Origin,
    Progress,
    Proof,
    deliver,
)
from wedge_turn.core.errors import BadRequestError, NoSoundError, NotAudioError, WedgeTurnError
from wedge_turn.core.findings import (
    CODES,
    Preparation,
    Question,
    Suggestion,
    describe,
    evaluate_clip,
    list_clips_to_measure,
    prepare,
)
from wedge_turn.core.form import Form
from wedge_turn.core.measure import Measures, measure_signal
from wedge_turn.core.naming import check_given_name, is_named_as_sound, stem
from wedge_turn.core.turns import TURNS, AnyTurn, ClipInfo, Merge
from wedge_turn.core.worksheet import Plan, Sheet, source_ref

# One more than there are cores: while one waits for the disk, another goes on. More of them stand in each other's way.
MEASURED_AT_ONCE: Final = (os.cpu_count() or 1) + 1


@dataclass(frozen=True)
class Choice:
    """What of a folder's suggestions is wanted, by code or by turn: all but `skip`, or `only` these."""

    only: frozenset[str] = frozenset()
    skip: frozenset[str] = frozenset()

    def __post_init__(self) -> None:
        known = {*CODES, *TURNS}
        if unknown := sorted((self.only | self.skip) - known):
            raise BadRequestError(
                f"There is no finding or turn called {unknown[0]}; there are {', '.join(sorted(known))}"
            )

    def takes(self, code: str, turn: AnyTurn | None) -> bool:
        words = {code} if turn is None else {code, turn.kind}
        return not words & self.skip and (not self.only or bool(words & self.only))


@dataclass(frozen=True)
class PreparedFile:
    """A file of the result. `lines` say what was done, none for a copy of `sources`."""

    path: Path
    file: DeliveredFile
    sources: tuple[Path, ...]
    lines: tuple[str, ...]
    proof: Proof | None


@dataclass(frozen=True)
class AskedQuestion:
    """A question about files, by their paths."""

    paths: tuple[Path, ...]
    question: Question


@dataclass(frozen=True)
class FilePlan:
    """A line that is added, with the files it takes and what it makes."""

    paths: tuple[Path, ...]
    suggestion: Suggestion
    results: tuple[str, ...]


@dataclass(frozen=True)
class PreparedFolder:
    """What became of one folder, by its path within the whole one. An earlier run prepared the `unchanged` files;
    `left_out` are notes, pictures and whatever else is no sound and doesn't say so.
    """

    folder: Path
    lines: tuple[FilePlan, ...] = ()
    files: tuple[PreparedFile, ...] = ()
    copied: tuple[Path, ...] = ()
    questions: tuple[AskedQuestion, ...] = ()
    refused: tuple[tuple[Path, str], ...] = ()
    left_out: tuple[Path, ...] = ()
    findings: tuple[ManifestFinding, ...] = ()
    unchanged: int = 0


@dataclass(frozen=True)
class FolderTask:
    """What is to be done with one folder, `at` its path within the whole one: its files, and the folder that the result
    goes to, None where nothing is written. `again` lets it replace what an earlier run wrote there.
    """

    at: Path
    paths: tuple[Path, ...]
    to: Path | None
    choice: Choice
    depth: DepthChoice = "same"
    container: ContainerName = "wav"
    overwrite: bool = False
    again: bool = False


def prepare_one(task: FolderTask, progress: Progress = lambda _: None) -> PreparedFolder:
    """Prepare one folder.

    Raises ExistsError, DiskFullError, ProofFailedError or what `progress` raises; then nothing of it is written.
    """
    with _job(task.paths) as job:
        lines, questions = job.prepared(task.choice)
        prepared = PreparedFolder(
            task.at,
            lines=lines,
            copied=tuple(job.copied()),
            questions=questions,
            refused=tuple((path, error.message) for path, error in job.refused if not _is_no_sound(path, error)),
            left_out=tuple(path for path, error in job.refused if _is_no_sound(path, error)),
        )
        return prepared if task.to is None else job.delivered(prepared, task, task.to, progress)


class _Job:
    """The files of one folder as sources, measured, and the lines that they need."""

    def __init__(
        self, taken: Sequence[tuple[Path, Form, WavFile]], refused: Sequence[tuple[Path, WedgeTurnError]]
    ) -> None:
        self.refused = refused
        self._paths = {str(n): path for n, (path, _, _) in enumerate(taken)}
        self._forms = {str(n): form for n, (_, form, _) in enumerate(taken)}
        files = {str(n): file for n, (_, _, file) in enumerate(taken)}
        infos = {
            key: ClipInfo(stem(check_given_name(path.name)), self._forms[key]) for key, path in self._paths.items()
        }
        self._engine = Engine(Sheet(Plan(), infos), files.__getitem__)
        wanted = list_clips_to_measure(self._engine.sheet, list(infos), [""] * len(infos))
        with ThreadPoolExecutor(MEASURED_AT_ONCE) as pool:
            measured = pool.map(lambda clip: self._measured(*clip), wanted.values())
            self._measures = dict(zip(wanted, measured, strict=True))
        self._judgements = {
            source_ref(key): evaluate_clip(
                info.name,
                info.form,
                self._measures[self._engine.sheet.key(source_ref(key))],
                files[key].recorded,
            )
            for key, info in infos.items()
        }

    def prepared(self, choice: Choice) -> tuple[tuple[FilePlan, ...], tuple[AskedQuestion, ...]]:
        """Adds what is safe and wanted to the worksheet; the lines, and the questions that are left after them."""
        safe = [one for one in self._preparation().safe if choice.takes(one.code, one.turn)]
        steps = [suggestion.step(f"line-{n}") for n, suggestion in enumerate(safe, 1)]
        self._engine = self._engine.with_plan(*steps)
        sheet = self._engine.sheet
        lines = tuple(
            FilePlan(
                self._paths_of(suggestion.inputs),
                suggestion,
                tuple(sheet.info(ref).name for ref in sheet.outputs(step)),
            )
            for suggestion, step in zip(safe, steps, strict=True)
        )
        questions = tuple(
            AskedQuestion(self._paths_of(question.inputs), question)
            for question in self._preparation().questions
            if choice.takes(question.code, question.remedy.turn if question.remedy else None)
        )
        return lines, questions

    def copied(self) -> list[Path]:
        """Files that no line takes."""
        return [self._paths[key] for key in self._unused()]

    def delivered(self, prepared: PreparedFolder, task: FolderTask, to: Path, progress: Progress) -> PreparedFolder:
        """The folder written and proved."""
        sheet = self._engine.sheet
        refs, unused = sheet.list_ends(), self._unused()
        if not refs and not unused:
            return prepared
        copies = tuple(Copy(self._paths[key], self._paths[key].name, self._forms[key]) for key in unused)
        origins = {key: Origin(check_given_name(path.name)) for key, path in self._paths.items()}
        order = Order(
            tuple(refs),
            task.depth,
            overwrite=task.overwrite,
            copies=copies,
            container=task.container,
            origins=origins,
            replaces_own=task.again,
            replaces_damaged=task.again,
        )
        manifest = deliver(self._engine, order, to, progress, tuple(self._paths.values()))
        proofs = {name: proved.proof for proved in manifest.proofs for name in proved.files}
        made = [
            PreparedFile(
                to / file.name,
                file,
                self._paths_of([ref]),
                tuple(step.sentence(sheet.inputs(step)) for step in sheet.lineage(ref)),
                proofs.get(file.name),
            )
            for ref, file in zip(refs, manifest.files, strict=False)
        ]
        made += [
            PreparedFile(to / file.name, file, (self._paths[key],), (), None)
            for key, file in zip(unused, manifest.files[len(refs) :], strict=True)
        ]
        return replace(prepared, files=tuple(made), findings=tuple(manifest.findings))

    def _preparation(self) -> Preparation:
        sheet = self._engine.sheet
        overview = describe(sheet, list(self._paths), [""] * len(self._paths), lambda _: self._measures)
        return prepare(sheet, overview, self._judgements)

    def _measured(self, turn: Merge | None, refs: tuple[str, ...]) -> Measures:
        clip = self._engine.preview(turn, refs) if turn else self._engine.clip(refs[0])
        return measure_signal(clip, damaged=clip.damaged)

    def _unused(self) -> list[str]:
        return self._engine.sheet.unused_sources()

    def _paths_of(self, refs: Sequence[str]) -> tuple[Path, ...]:
        """The files that clips are made from, those of the first clip first."""
        keys = [key for ref in refs for key in sorted(self._engine.sheet.origins([ref]), key=int)]
        return tuple(self._paths[key] for key in dict.fromkeys(keys))


@contextmanager
def _job(paths: Sequence[Path]) -> Iterator[_Job]:
    with open_readable(paths) as (taken, refused):
        yield _Job(taken, refused)


def _is_no_sound(path: Path, error: WedgeTurnError) -> bool:
    """Whether a file that can't be read was never meant to be: a note, a picture, a film without sound."""
    named = is_named_as_sound(path.name) and not isinstance(error, NoSoundError)
    return isinstance(error, NotAudioError) and not named
