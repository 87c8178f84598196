"""What `prep` does and prints: the lines of each folder, what was written and proved, and what needs ears."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from wedge_turn.cli.show import facts_of, shown, watching
from wedge_turn.core.delivery.containers import ContainerName
from wedge_turn.core.delivery.manifest import FOLDER_REPORT
from wedge_turn.core.delivery.order import DepthChoice
from wedge_turn.core.errors import naming_disk_errors
from wedge_turn.core.folder import AskedAbout, Choice, Planned, PreparedFile, PreparedFolder, prepare_folder


def prepare(
    folder: Path,
    out: Path,
    choice: Choice,
    depth: DepthChoice,
    container: ContainerName,
    *,
    dry_run: bool,
    overwrite: bool,
) -> list[PreparedFolder]:
    """Prepare a folder, and write what was done beside the files; nothing is written in a dry run."""
    with watching() as progress:
        to = None if dry_run else out
        done = list(prepare_folder(folder, to, choice, depth, container, overwrite=overwrite, progress=progress))
    if to and any(one.files for one in done):
        with naming_disk_errors(FOLDER_REPORT):
            (out / FOLDER_REPORT).write_text("\n".join(sentences(done)) + "\n", "utf-8")
    return done


def refused(done: list[PreparedFolder]) -> list[str]:
    """One line for each file that could not be taken."""
    return [f"{shown(path)}: {message}" for one in done for path, message in one.refused]


def sentences(done: list[PreparedFolder]) -> Iterator[str]:
    """What was done, or would be, in words."""
    lines = [line for one in done for line in one.lines]
    copied = [path for one in done for path in one.copied]
    questions = [asked for one in done for asked in one.questions]
    yield f"{_count(len(lines), 'turn')}, {_count(len(copied), 'file')} copied unchanged."
    for line in lines:
        yield _sentence(line)
    proofs = [file.proof for one in done for file in one.files if file.proof]
    if proofs:
        exact = sum(proof.exact for proof in proofs)
        yield f"{_count(len(proofs), 'written file')} proved, {exact} of them bit-identical."
    for one in done:
        for finding in one.findings:
            yield f"{finding.message}"
    if questions:
        yield f"{_count(len(questions), 'question')} to check by ear:"
        yield from (f"  {_question(asked)}" for asked in questions)
    for refusal in refused(done):
        yield f"Skipped: {refusal}"


def as_json(done: list[PreparedFolder], *, dry_run: bool) -> dict[str, Any]:
    """What `prep --json` prints."""
    report: dict[str, Any] = {
        "outputs": [_output(file) for one in done for file in one.files],
        "questions": [_asked(asked) for one in done for asked in one.questions],
        "refused": [{"path": shown(path), "message": message} for one in done for path, message in one.refused],
    }
    if dry_run:
        report["lines"] = [
            {
                "files": [shown(path) for path in line.paths],
                "turn": line.suggestion.turn.model_dump(mode="json"),
                "results": list(line.results),
                "code": line.suggestion.code,
                "reason": line.suggestion.reason,
            }
            for one in done
            for line in one.lines
        ]
        report["copied"] = [shown(path) for one in done for path in one.copied]
    return report


def _output(prepared: PreparedFile) -> dict[str, Any]:
    facts = facts_of(prepared.file, prepared.path)
    if prepared.file.copied:
        return {**facts, "copied": True, "source": shown(prepared.sources[0])}
    proof = prepared.proof.model_dump() if prepared.proof else None
    return {
        **facts,
        "sources": [shown(path) for path in prepared.sources],
        "lines": list(prepared.lines),
        "proof": proof,
    }


def _asked(asked: AskedAbout) -> dict[str, Any]:
    question = asked.question
    return {
        "path": shown(asked.paths[0]),
        "files": [shown(path) for path in asked.paths],
        "code": question.code,
        "message": question.message,
        "turn": question.remedy.turn.model_dump(mode="json") if question.remedy else None,
        "over": question.remedy.over.model_dump() if question.remedy and question.remedy.over else None,
    }


def _sentence(line: Planned) -> str:
    files = " + ".join(path.name for path in line.paths)
    return f"{files}  {line.suggestion.turn.words} → {', '.join(line.results)}  ({line.suggestion.reason})"


def _question(asked: AskedAbout) -> str:
    offer = f" Suggested: {asked.question.remedy.label}." if asked.question.remedy else ""
    return f"{shown(asked.paths[0])}: {asked.question.message}{offer}"


def _count(number: int, noun: str) -> str:
    return f"{number} {noun}" if number == 1 else f"{number} {noun}s"
