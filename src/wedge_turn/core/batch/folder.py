"""One folder prepared: what is safe is done and proved, everything else goes along as it came.

A folder is a job of its own: files that belong together lie in one, memory and open files are those of one, and each is
delivered whole or not at all. `archive` goes through a tree of them.
"""

from dataclasses import dataclass, replace
from pathlib import Path

from wedge_turn.core.delivery import (
    ContainerName,
    Copy,
    DeliveredFile,
    DepthChoice,
    ManifestFinding,
    Order,
    Progress,
    Proof,
)
from wedge_turn.core.errors import BadRequestError, Error, NoSoundError, NotAudioError, TruncatedError
from wedge_turn.core.findings import CODES, Question, Suggestion
from wedge_turn.core.naming import is_named_as_sound
from wedge_turn.core.session import Session
from wedge_turn.core.turns import TURNS, AnyTurn


@dataclass(frozen=True)
class Choice:
    """What of a folder's suggestions is wanted, by code or by turn: all but `skip`, or `only` these."""

    only: frozenset[str] = frozenset()
    skip: frozenset[str] = frozenset()

    def __post_init__(self) -> None:
        kinds = {*CODES, *TURNS}
        if unknown := sorted((self.only | self.skip) - kinds):
            raise BadRequestError(
                f"There is no finding or turn called {unknown[0]}; there are {', '.join(sorted(kinds))}"
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
    `left_out` are notes, pictures and whatever else is no sound and doesn't say so; of what was `refused`, the
    `incomplete` files could be used as far as they go.
    """

    folder: Path
    lines: tuple[FilePlan, ...] = ()
    files: tuple[PreparedFile, ...] = ()
    copied: tuple[Path, ...] = ()
    questions: tuple[AskedQuestion, ...] = ()
    refused: tuple[tuple[Path, str], ...] = ()
    incomplete: tuple[Path, ...] = ()
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
    salvage: bool = False


def prepare_one(task: FolderTask, progress: Progress = lambda _: None) -> PreparedFolder:
    """Prepare one folder.

    Raises ExistsError, DiskFullError, ProofFailedError or what `progress` raises; then nothing of it is written.
    """
    with Session.open(task.paths, skip=True, salvage=task.salvage) as session:
        lines = _add_safe_lines(session, task.choice)
        questions = tuple(
            AskedQuestion(session.list_paths(question.inputs), question)
            for question in session.prepare().questions
            if task.choice.takes(question.code, question.remedy.turn if question.remedy else None)
        )
        prepared = PreparedFolder(
            task.at,
            lines=lines,
            copied=tuple(session.paths[key] for key in session.sheet.unused_sources()),
            questions=questions,
            refused=tuple((path, error.message) for path, error in session.refused if not _is_no_sound(path, error)),
            incomplete=tuple(
                path for path, error in session.refused if isinstance(error, TruncatedError) and error.usable
            ),
            left_out=tuple(path for path, error in session.refused if _is_no_sound(path, error)),
        )
        return prepared if task.to is None else _deliver(session, prepared, task, task.to, progress)


def _add_safe_lines(session: Session, choice: Choice) -> tuple[FilePlan, ...]:
    """Add what is safe and wanted to the worksheet."""
    safe = [suggestion for suggestion in session.prepare().safe if choice.takes(suggestion.code, suggestion.turn)]
    steps = [suggestion.step(f"line-{n}") for n, suggestion in enumerate(safe, 1)]
    session.add_steps(*steps)
    sheet = session.sheet
    return tuple(
        FilePlan(
            session.list_paths(suggestion.inputs),
            suggestion,
            tuple(sheet.info(ref).name for ref in sheet.outputs(step)),
        )
        for suggestion, step in zip(safe, steps, strict=True)
    )


def _deliver(
    session: Session, prepared: PreparedFolder, task: FolderTask, to: Path, progress: Progress
) -> PreparedFolder:
    """The folder written and proved."""
    sheet = session.sheet
    refs, unused = sheet.list_ends(), sheet.unused_sources()
    if not refs and not unused:
        return prepared
    order = Order(
        tuple(refs),
        task.depth,
        overwrite=task.overwrite,
        copies=tuple(Copy(session.paths[key], session.paths[key].name, session.infos[key].form) for key in unused),
        container=task.container,
        replaces_own=task.again,
        replaces_damaged=task.again,
    )
    manifest = session.deliver(order, to, progress)
    proofs = {name: proved.proof for proved in manifest.proofs for name in proved.files}
    files = [
        PreparedFile(
            to / file.name,
            file,
            session.list_paths([ref]),
            tuple(step.sentence(sheet.inputs(step)) for step in sheet.lineage(ref)),
            proofs.get(file.name),
        )
        for ref, file in zip(refs, manifest.files, strict=False)
    ]
    files += [
        PreparedFile(to / file.name, file, (session.paths[key],), (), None)
        for key, file in zip(unused, manifest.files[len(refs) :], strict=True)
    ]
    return replace(prepared, files=tuple(files), findings=tuple(manifest.findings))


def _is_no_sound(path: Path, error: Error) -> bool:
    """Whether a file that can't be read was never meant to be: a note, a picture, a film without sound."""
    named = is_named_as_sound(path.name) and not isinstance(error, NoSoundError)
    return isinstance(error, NotAudioError) and not named
