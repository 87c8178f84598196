"""What the commands print, as JSON objects and as words."""

import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

import typer

from wedge_turn.core.intake import opened
from wedge_turn.core.naming import pairs_among, stem

if TYPE_CHECKING:  # what compiles kernels is only imported by commands that need them
    from wedge_turn.core.manifest import Manifest, Progress


def inspection(paths: Sequence[Path]) -> dict[str, Any]:
    """What `inspect --json` prints."""
    with opened(paths) as files:
        shown: list[dict[str, Any]] = [
            {
                "path": str(path),
                "channels": form.channels,
                "frames": form.frames,
                "rate": form.rate,
                "depth": form.stored.depth,
                "format": form.container,
                "start_time": form.start_time,
                "findings": [],
            }
            for path, (form, _) in zip(paths, files, strict=True)
        ]
        mono = [i for i, (form, _) in enumerate(files) if form.channels == 1]
    pairs = [
        {"kind": "sides", "members": [str(paths[mono[i]]) for i in members], "name": name, "findings": []}
        for name, members in pairs_among([stem(paths[i].name) for i in mono])
    ]
    return {"files": shown, "pairs": pairs}


def print_inspection(found: dict[str, Any]) -> None:
    for file in found["files"]:
        kind = {1: "mono", 2: "stereo"}.get(file["channels"], f"{file['channels']} channels")
        start = "" if file["start_time"] is None else f" · starts at {file['start_time'] / file['rate']:.3f} s"
        typer.echo(
            f"{file['path']}: {kind} · {file['rate'] / 1000:g} kHz · {file['depth']} · "
            f"{file['frames'] / file['rate']:.3f} s · {file['format']}{start}"
        )
    for pair in found["pairs"]:
        typer.echo(f"{pair['name']}: left {pair['members'][0]}, right {pair['members'][1]}")


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
