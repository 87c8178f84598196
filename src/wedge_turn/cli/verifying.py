"""What `verify` prints: of one delivery, or of every delivery in a tree of folders."""

import os
from pathlib import Path
from typing import Any

import typer

from wedge_turn.cli.show import describe_result, show_progress
from wedge_turn.core.batch import verify_tree


def verify_folder(folder: Path, sources: Path | None = None) -> dict[str, Any]:
    """What `verify --json` prints. Files of folders below are called by their path from `folder`; with `sources` they
    are proved again by the files below that folder.
    """
    with show_progress() as progress:
        verified = verify_tree(folder, sources, progress)
    report: dict[str, Any] = {
        "files": verified.files,
        "folders": verified.folders,
        "ok": verified.ok,
        "findings": [_printable(finding.model_dump(mode="json")) for finding in verified.findings],
        "unlisted": [describe_result(path) for path in verified.unlisted],
    }
    if verified.proved is not None:
        report["proved"] = [
            {"files": [describe_result(path) for path in paths], "statement": statement}
            for paths, statement in verified.proved
        ]
    return report


def _printable(finding: dict[str, Any]) -> dict[str, Any]:
    """A finding whose names can be printed."""
    files = [describe_result(Path(name)) for name in finding["files"]]
    return {**finding, "files": files, "message": os.fsencode(finding["message"]).decode(errors="replace")}


def print_verification(report: dict[str, Any]) -> None:
    if report["ok"]:
        every = {0: "The manifest lists no files.", 1: "The file is unchanged."}
        where = f" in {report['folders']} folders" if report["folders"] > 1 else ""
        typer.echo(every.get(report["files"], f"All {report['files']:,} files{where} are unchanged."))
    for proof in report.get("proved", []):
        typer.echo(f"{', '.join(proof['files'])}: {proof['statement']}")
    for name in report["unlisted"]:
        typer.echo(f"Not in the manifest: {name}")
