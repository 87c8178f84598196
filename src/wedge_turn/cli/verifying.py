"""What `verify` finds and prints: of one delivery, or of every delivery in a tree of folders."""

from contextlib import ExitStack
from pathlib import Path
from typing import Any

import typer

from wedge_turn.cli.show import describe_result, show_progress
from wedge_turn.core.delivery import find_deliveries, find_sources, find_unlisted, prove_again, read_manifest, verify


def verify_folder(folder: Path, sources: Path | None = None) -> dict[str, Any]:
    """What `verify --json` prints. Files of folders below are called by their path from `folder`; with `sources` they
    are proved again by the files below that folder.
    """
    manifests = {one: read_manifest(one) for one in find_deliveries(folder) or [folder]}
    count = sum(len(manifest.files) for manifest in manifests.values())
    findings: list[dict[str, Any]] = []
    extra: list[str] = []
    proved: list[dict[str, Any]] = []
    done = 0
    with ExitStack() as stack, show_progress() as progress:

        def tell(share: float) -> None:
            progress((done + share * size) / max(1, count))

        there = stack.enter_context(find_sources(sources, manifests.values())) if sources else None
        for one, manifest in manifests.items():
            size = len(manifest.files)
            place = one.relative_to(folder)
            found = verify(one, tell)
            if there is not None:
                changed = {name for finding in found for name in finding.files}
                again = prove_again(one, manifest, there, changed)
                found += again.findings
                proved += [
                    {"files": [describe_result(place / name) for name in said.files], "statement": said.statement}
                    for said in again.proved
                ]
            for finding in found:
                files = [describe_result(place / name) for name in finding.files]
                where = "" if place == Path() else f"{describe_result(place)}: "
                findings.append({**finding.model_dump(mode="json"), "files": files, "message": where + finding.message})
            extra += [describe_result(place / name) for name in find_unlisted(one)]
            done += size
    report = {"files": count, "folders": len(manifests), "ok": not findings, "findings": findings, "unlisted": extra}
    return report if sources is None else {**report, "proved": proved}


def print_verification(report: dict[str, Any]) -> None:
    if report["ok"]:
        every = {0: "The manifest lists no files.", 1: "The file is unchanged."}
        where = f" in {report['folders']} folders" if report["folders"] > 1 else ""
        typer.echo(every.get(report["files"], f"All {report['files']:,} files{where} are unchanged."))
    for said in report.get("proved", []):
        typer.echo(f"{', '.join(said['files'])}: {said['statement']}")
    for name in report["unlisted"]:
        typer.echo(f"Not in the manifest: {name}")
