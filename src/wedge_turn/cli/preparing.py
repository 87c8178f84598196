"""What `prep` does and prints: the lines of each folder, what was written and proved, and what needs ears."""

from collections import Counter
from collections.abc import Iterable, Iterator
from concurrent.futures import Executor
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Final

from wedge_turn.cli.show import describe_result, list_facts, show_progress
from wedge_turn.core.batch import AskedQuestion, FilePlan, PreparedFile, PreparedFolder, Tree, prepare_tree
from wedge_turn.core.delivery import FOLDER_REPORT
from wedge_turn.core.errors import naming_disk_errors

# What a report lists, and what one of each is called in a stream of lines.
KINDS: Final = {
    "outputs": "output", "lines": "line", "copied": "copied", "questions": "question", "refused": "refused",
    "left_out": "left_out",
}  # fmt: skip


def prepare(tree: Tree, executor: Executor | None = None) -> list[PreparedFolder]:
    """Prepare a tree, and write what was done beside the files; nothing is written in a dry run."""
    with show_progress() as progress:
        folders = list(prepare_tree(tree, executor, progress))
    if tree.out and any(prepared.files for prepared in folders):
        _write_report(
            tree.out, [*sentences(folders, dry_run=False), *(f"Skipped: {line}" for line in describe_refusal(folders))]
        )
    return folders


def stream(tree: Tree, executor: Executor | None = None) -> tuple[Iterator[dict[str, Any]], "Summary"]:
    """The same, told folder by folder while it is done and kept nowhere; the summary is complete at the end."""
    summary = Summary()

    def lines() -> Iterator[dict[str, Any]]:
        with show_progress() as progress:
            for prepared in prepare_tree(tree, executor, progress):
                summary.add(prepared)
                report = as_json([prepared], dry_run=tree.out is None)
                for kind, singular in KINDS.items():
                    for entry in report.get(kind, ()):
                        yield {singular: entry}
        if tree.out and summary.files:
            _write_report(tree.out, summary.sentences())
        yield {"summary": summary.as_json()}

    return lines(), summary


def _write_report(out: Path, lines: Iterable[str]) -> None:
    with naming_disk_errors(FOLDER_REPORT):
        (out / FOLDER_REPORT).write_text("\n".join(lines) + "\n", "utf-8")


@dataclass
class Summary:
    """How much of what there was in a whole tree."""

    files: int = 0
    copied: int = 0
    unchanged: int = 0
    proved: int = 0
    identical: int = 0
    refused: int = 0
    left_out: int = 0
    turns: Counter[str] = field(default_factory=Counter)
    found: Counter[str] = field(default_factory=Counter)
    asked: Counter[str] = field(default_factory=Counter)

    def add(self, prepared: PreparedFolder) -> None:
        proofs = [file.proof for file in prepared.files if file.proof]
        self.files += len(prepared.files)
        self.copied += len(prepared.copied)
        self.unchanged += prepared.unchanged
        self.proved += len(proofs)
        self.identical += sum(proof.exact for proof in proofs)
        self.refused += len(prepared.refused)
        self.left_out += len(prepared.left_out)
        self.turns.update(line.suggestion.turn.kind for line in prepared.lines)
        self.found.update(line.suggestion.code for line in prepared.lines)
        self.asked.update(asked.question.code for asked in prepared.questions)

    def as_json(self) -> dict[str, Any]:
        return {name: dict(value) if isinstance(value, Counter) else value for name, value in vars(self).items()}

    def sentences(self) -> Iterator[str]:
        yield f"{_count(self.turns.total(), 'turn')}, {_count(self.copied, 'file')} copied unchanged."
        if self.unchanged:
            yield f"{_count(self.unchanged, 'file')} prepared by an earlier run."
        if self.proved:
            yield f"{_count(self.proved, 'written file')} proved, {self.identical} of them bit-identical."
        for title, counted in (("Done", self.found), ("To check by ear", self.asked)):
            if counted:
                yield f"{title}: {', '.join(f'{code} {number:,}' for code, number in counted.most_common())}."
        if self.left_out:
            yield f"{_count(self.left_out, 'file')} without sound left out."
        if self.refused:
            yield f"{_count(self.refused, 'file')} could not be read."


def describe_refusal(folders: list[PreparedFolder]) -> list[str]:
    """One line for each file that could not be read."""
    return [
        f"{describe_result(path)}: {message}{'; --salvage uses what is there' if path in prepared.incomplete else ''}"
        for prepared in folders
        for path, message in prepared.refused
    ]


def sentences(folders: list[PreparedFolder], *, dry_run: bool) -> Iterator[str]:
    """What was done, or would be, in words."""
    lines = [line for prepared in folders for line in prepared.lines]
    copied = [path for prepared in folders for path in prepared.copied]
    questions = [question for prepared in folders for question in prepared.questions]
    copies = "to copy unchanged" if dry_run else "copied unchanged"
    yield f"{_count(len(lines), 'turn')}, {_count(len(copied), 'file')} {copies}."
    if unchanged := sum(prepared.unchanged for prepared in folders):
        yield f"{_count(unchanged, 'file')} prepared by an earlier run."
    yield from (_sentence(prepared.folder, line) for prepared in folders for line in prepared.lines)
    proofs = [file.proof for prepared in folders for file in prepared.files if file.proof]
    if proofs:
        exact = sum(proof.exact for proof in proofs)
        yield f"{_count(len(proofs), 'written file')} proved, {exact} of them bit-identical."
    for prepared in folders:
        for finding in prepared.findings:
            yield f"{finding.message}"
    if questions:
        yield f"{_count(len(questions), 'question')} to check by ear:"
        yield from (f"  {_question(question)}" for question in questions)
    if left_out := [path for prepared in folders for path in prepared.left_out]:
        yield f"Left out, as they hold no sound: {', '.join(describe_result(path) for path in left_out)}."


def as_json(folders: list[PreparedFolder], *, dry_run: bool) -> dict[str, Any]:
    """What `prep --json` prints."""
    report: dict[str, Any] = {
        "outputs": [_output(file) for prepared in folders for file in prepared.files],
        "questions": [_describe_question(question) for prepared in folders for question in prepared.questions],
        "refused": [
            {"path": describe_result(path), "message": message}
            for prepared in folders
            for path, message in prepared.refused
        ],
        "left_out": [describe_result(path) for prepared in folders for path in prepared.left_out],
    }
    if dry_run:
        report["lines"] = [
            {
                "files": [describe_result(path) for path in line.paths],
                "turn": line.suggestion.turn.model_dump(mode="json"),
                "results": list(line.results),
                "code": line.suggestion.code,
                "reason": line.suggestion.reason,
            }
            for prepared in folders
            for line in prepared.lines
        ]
        report["copied"] = [describe_result(path) for prepared in folders for path in prepared.copied]
    return report


def _output(prepared: PreparedFile) -> dict[str, Any]:
    facts = list_facts(prepared.file, prepared.path)
    if prepared.file.copied:
        return {**facts, "copied": True, "source": describe_result(prepared.sources[0])}
    proof = prepared.proof.model_dump() if prepared.proof else None
    return {
        **facts,
        "sources": [describe_result(path) for path in prepared.sources],
        "lines": list(prepared.lines),
        "proof": proof,
    }


def _describe_question(asked: AskedQuestion) -> dict[str, Any]:
    question = asked.question
    return {
        "path": describe_result(asked.paths[0]),
        "files": [describe_result(path) for path in asked.paths],
        "code": question.code,
        "message": question.message,
        "turn": question.remedy.turn.model_dump(mode="json") if question.remedy else None,
        "followed_by": [turn.model_dump(mode="json") for turn in question.remedy.followed_by]
        if question.remedy
        else [],
        "over": question.remedy.over.model_dump() if question.remedy and question.remedy.over else None,
    }


def _sentence(folder: Path, line: FilePlan) -> str:
    files = " + ".join(path.name for path in line.paths)
    within = "" if folder == Path() else f"{folder}/"
    return f"{within}{files}  {line.suggestion.turn.words} → {', '.join(line.results)}  ({line.suggestion.reason})"


def _question(question: AskedQuestion) -> str:
    offer = f" Suggested: {question.question.remedy.label}." if question.question.remedy else ""
    return f"{describe_result(question.paths[0])}: {question.question.message}{offer}"


def _count(number: int, noun: str) -> str:
    return f"{number} {noun}" if number == 1 else f"{number} {noun}s"
