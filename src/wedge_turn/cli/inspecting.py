"""What `inspect` finds and prints: what each file is, its levels and findings, and which belong together."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import typer

from wedge_turn.cli.show import describe_result, show_progress
from wedge_turn.cli.usage import advise
from wedge_turn.core.findings import FileFinding
from wedge_turn.core.form import depth_text, format_channels, format_clock, format_time_code_of
from wedge_turn.core.session import Session
from wedge_turn.core.turns import TURN_ADAPTER, write_turn
from wedge_turn.core.worksheet import parse_ref, source_ref


def inspect_files(paths: Sequence[Path], *, quick: bool = False, salvage: bool = False) -> dict[str, Any]:
    """What `inspect --json` prints: each file with its levels and findings, the groups among them, and the files that
    can't be read. To be `quick` is to measure nothing: then there are no levels, and only findings by names and times.
    """
    with show_progress() as progress, Session.open(paths, skip=True, salvage=salvage) as session:
        session.on_measured = progress
        overview = session.describe(measured=not quick)
        about = {} if quick else session.compare_files()

        def list_names(refs: Sequence[str]) -> list[str]:
            return [describe_result(session.paths[parse_ref(ref)[1]]) for ref in refs]

        return {
            "files": [
                _describe_file(session, key) if quick else _describe_levels(session, key, about.get(key, []))
                for key in session.paths
            ],
            "pairs": [
                {
                    "kind": group.group.kind,
                    "members": list_names(group.group.members),
                    "name": group.group.name,
                    "turn": group.group.turn.kind,
                    "speakers": list(group.group.speakers),
                    "doubt": group.doubt,
                    "findings": [finding.model_dump(mode="json") for finding in group.judgement.findings],
                }
                for group in overview.groups
            ],
            "unclear": [
                {"members": list_names(unclear.members), "name": unclear.name, "reason": unclear.reason}
                for unclear in overview.unclear
            ],
            "refused": [
                {"path": describe_result(path), "message": error.message, "help": advise(error)}
                for path, error in session.refused
            ],
        }


def _describe_file(session: Session, key: str) -> dict[str, Any]:
    """What a file says of itself."""
    form = session.infos[key].form
    return {
        "path": describe_result(session.paths[key]),
        "channels": form.channels,
        "frames": form.frames,
        "rate": form.rate,
        "depth": form.stored.depth,
        "format": form.container,
        "start_time": form.start_time,
        "time_code": format_time_code_of(form),
        "frame_rate": form.frame_rate and form.frame_rate.text,
        "channel_names": list(form.labels),
        "recorded": session.files[key].recorded.model_dump(mode="json"),
    }


def _describe_levels(session: Session, key: str, others: Sequence[FileFinding]) -> dict[str, Any]:
    """What a file says of itself, its levels, and the findings; `others` are those that the other files give."""
    measures, judgement = session.get_measures(key), session.judgements[source_ref(key)]
    return {
        **_describe_file(session, key),
        **measures.whole.model_dump(),
        "bits_used": measures.bits_used,
        "by_channel": [levels.model_dump() for levels in measures.channels],
        "sides": measures.sides.model_dump() if measures.sides else None,
        "findings": [finding.model_dump(mode="json") for finding in (*judgement.findings, *others)],
        "problem": judgement.problem,
    }


def print_inspection(report: dict[str, Any]) -> None:
    for file in report["files"]:
        kind = format_channels(file["channels"])
        start = "" if file["start_time"] is None else f" · starts at {format_clock(file['start_time'], file['rate'])}"
        start += f" ({file['time_code']} at {file['frame_rate']} fps)" if file["time_code"] else ""
        levels = [
            f"{file[key]:.1f} {unit}".replace("-", "−")
            for key, unit in (("peak_dbfs", "dBFS peak"), ("loudness_lufs", "LUFS"))
            if file.get(key) is not None
        ]
        levels_text = f" · {' · '.join(levels) or 'silence'}" if "findings" in file else ""
        typer.echo(
            f"{file['path']}: {kind} · {file['rate'] / 1000:g} kHz · {depth_text(file['depth'])} · "
            f"{file['frames'] / file['rate']:.3f} s · {file['format']}{start}{levels_text}"
        )
        if file["channel_names"]:
            typer.echo(f"  channels: {', '.join(name or '–' for name in file['channel_names'])}")
        notes = [f"{key} {file['recorded'][key]}" for key in ("scene", "take", "tape", "note") if file["recorded"][key]]
        if notes:
            typer.echo(f"  {' · '.join(notes)}")
        if file.get("problem"):
            typer.echo(f"  {file['problem']}")
        for finding in file.get("findings", ()):
            typer.echo(f"  {finding['message']}{_advice(finding)}")
    for pair in report["pairs"]:
        names = {"stereo-pair": ["left", "right"], "mid-side": ["mid", "side"], "layout": pair["speakers"]}[
            pair["kind"]
        ]
        members = ", ".join(f"{speaker} {path}" for speaker, path in zip(names, pair["members"], strict=True))
        typer.echo(f"{pair['name']}: {members}")
        if pair["doubt"]:
            typer.echo(f"  {pair['doubt']}")
        for finding in pair["findings"]:
            advice = f" → {pair['turn']} --rate lowest" if finding["code"] == "rate-differs" else _advice(finding)
            typer.echo(f"  {finding['message']}{advice}")
    for unclear in report["unclear"]:
        typer.echo(f"{unclear['name']}: {unclear['reason']} ({', '.join(unclear['members'])})")


def _advice(finding: dict[str, Any]) -> str:
    remedy = finding.get("remedy")
    if not remedy:
        return ""
    over = remedy.get("over")
    limit = f" --only {over['start']}-{over['end']}" if over else ""
    turns = map(TURN_ADAPTER.validate_python, (remedy["turn"], *remedy["followed_by"]))
    return " → " + ", then ".join(write_turn(turn) + limit for turn in turns)
