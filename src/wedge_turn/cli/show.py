"""What the commands print, as JSON objects and as words."""

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

import typer

if TYPE_CHECKING:  # what compiles kernels is only imported by commands that need them
    from wedge_turn.core.manifest import Manifest, Progress


def result(manifest: "Manifest", folder: Path) -> dict[str, Any]:
    """What `apply --json` prints."""
    from wedge_turn.core.proof import summary

    proof = summary([proved.proof for proved in manifest.proofs])
    return {
        "outputs": [
            {
                "path": str(folder / file.name),
                "channels": file.channels,
                "frames": file.frames,
                "rate": file.rate,
                "depth": file.depth,
                "start_time": file.start_time,
                "xxh128": file.xxh128,
            }
            for file in manifest.files
        ],
        "proof": proof.model_dump(),
        "findings": [finding.model_dump() for finding in manifest.findings],
    }


def print_result(manifest: "Manifest", folder: Path) -> None:
    for file in manifest.files:
        typer.echo(f"{folder / file.name}")
    for finding in manifest.findings:
        typer.echo(finding.message)
    for proved in manifest.proofs:
        typer.echo(proved.proof.statement)


@contextmanager
def watching() -> Iterator["Progress"]:
    """A progress line on a terminal; nothing elsewhere."""
    if not sys.stderr.isatty():
        yield lambda _: None
        return
    from rich.console import Console
    from rich.progress import Progress as Bar

    with Bar(console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task("Working", total=1.0)
        yield lambda share: bar.update(task, completed=share)
