"""What the commands print, as JSON objects and as words."""

import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

import typer

from wedge_turn.cli.piping import is_from_pipe

if TYPE_CHECKING:  # what compiles kernels is only imported by commands that need them
    from wedge_turn.core.delivery import DeliveredFile, Manifest, ManifestFinding, Progress
    from wedge_turn.core.findings import FileFinding


def describe_result(path: Path) -> str:
    """A path as it can be printed: bytes of a name that are no UTF-8 are replaced, and standard input is that."""
    return path.name if is_from_pipe(path) else os.fsencode(path).decode(errors="replace")


def write_turn_help(kind: str) -> str:
    """What `apply TURN --help` prints: what the turn does, its settings with their values, and an example. Raises
    BadRequestError where there is no such turn.
    """
    from wedge_turn.core.turns import describe_accepted, describe_settings, describe_turn, write_example
    from wedge_turn.core.worksheet import find_turn

    turn = find_turn(kind)
    settings = [
        f"  {words.name}  {words.values}{f'; {words.default} by default' if words.default else ''}\n      {words.what}"
        for words in describe_settings(turn)
    ]
    return "\n".join(
        [
            f"{kind}: takes {describe_accepted(turn.accepts)}.\n",
            f"{describe_turn(turn)}\n",
            *(["Settings (--set NAME=VALUE):", *settings] if settings else ["It has no settings."]),
            f"\nExample:\n  {write_example(turn)}",
        ]
    )


class Beforehand:
    """Findings that are told before anything is written: printed at once, and listed in what `--json` prints."""

    def __init__(self) -> None:
        self.findings: list[FileFinding] = []

    def __call__(self, finding: "FileFinding") -> None:
        self.findings.append(finding)
        typer.echo(f"  {finding.message}", err=True)

    def list_new(self, manifest: "Manifest") -> "list[ManifestFinding]":
        """What a delivery has found besides."""
        messages = {finding.message for finding in self.findings}
        return [finding for finding in manifest.findings if finding.message not in messages]


def result(manifest: "Manifest", folder: Path, beforehand: Beforehand) -> dict[str, Any]:
    """What `apply --json` prints."""
    from wedge_turn.core.delivery import combine_proofs

    proof = combine_proofs([proved.proof for proved in manifest.proofs])
    findings = (*beforehand.findings, *beforehand.list_new(manifest))
    return {
        "outputs": [list_facts(file, folder / file.name) for file in manifest.files],
        "proof": proof.model_dump(),
        "findings": [finding.model_dump(mode="json") for finding in findings],
    }


def list_facts(file: "DeliveredFile", path: Path) -> dict[str, Any]:
    """A written file as it is printed."""
    return {
        "path": describe_result(path),
        "channels": file.channels,
        "frames": file.frames,
        "rate": file.rate,
        "depth": file.depth,
        "start_time": file.start_time,
        "xxh128": file.xxh128,
        **({"kept": True} if file.kept else {}),
    }


def print_result(manifest: "Manifest", folder: Path, beforehand: Beforehand, *, on_stderr: bool = False) -> None:
    """Files, findings and proofs of a delivery; `on_stderr` where a file goes to standard output."""
    for file in manifest.files:
        path = file.name if on_stderr else describe_result(folder / file.name)
        typer.echo(path + ("  unchanged" if file.kept else ""), err=on_stderr)
    for finding in beforehand.list_new(manifest):
        typer.echo(finding.message, err=on_stderr)
    for proved in manifest.proofs:
        typer.echo(proved.proof.statement, err=on_stderr)


@contextmanager
def show_progress() -> Iterator["Progress"]:
    """A progress line on a terminal; nothing elsewhere."""
    if not sys.stderr.isatty():
        yield lambda _: None
        return
    from rich.console import Console
    from rich.progress import Progress as Bar

    with Bar(console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task("Working", total=1.0)
        yield lambda share: bar.update(task, completed=share)
