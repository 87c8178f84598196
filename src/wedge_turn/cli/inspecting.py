"""What `inspect` finds and prints: what each file is, its levels and findings, and which belong together."""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import typer

from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.engine import Clip, Engine, clip_of
from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.findings import findings_of, pair_findings
from wedge_turn.core.groups import Group, groups_of
from wedge_turn.core.intake import opened
from wedge_turn.core.measure.survey import Measures, survey
from wedge_turn.core.naming import stem
from wedge_turn.core.plan import Plan, Sheet, parse_ref
from wedge_turn.core.turns import TURNS, ClipInfo, Finding


def inspection(paths: Sequence[Path]) -> dict[str, Any]:
    """What `inspect --json` prints: each file with its levels and findings, and the groups among them."""
    with opened(paths) as files, ThreadPoolExecutor() as pool:
        ids = [str(n) for n in range(len(paths))]
        infos = {i: ClipInfo(stem(path.name), form) for i, path, (form, _) in zip(ids, paths, files, strict=True)}
        engine = Engine(Sheet(Plan(), infos), lambda i: files[int(i)][1])
        measured = list(pool.map(lambda f: survey(_as(*f), not_finite=f[1].count_not_finite()), files))
        shown = [_file(path, form, measures) for path, (form, _), measures in zip(paths, files, measured, strict=True)]
        groups, unclear = groups_of(engine.sheet, ids, [str(path.parent) for path in paths])

        def of(refs: Sequence[str]) -> list[str]:
            return [str(paths[int(parse_ref(ref)[1])]) for ref in refs]

        pairs = [
            {
                "kind": group.kind,
                "members": of(group.members),
                "name": group.name,
                "speakers": list(group.speakers),
                "findings": findings,
            }
            for group, findings in zip(groups, pool.map(lambda group: _about(engine, group), groups), strict=True)
        ]
        not_guessed = [{"members": of(u.members), "name": u.name, "reason": u.reason} for u in unclear]
    return {"files": shown, "pairs": pairs, "unclear": not_guessed}


def _as(form: Form, file: WavFile) -> Clip:
    """A file's clip in the form it came in with."""
    return Clip(form, clip_of(file).channels)


def _file(path: Path, form: Form, measures: Measures) -> dict[str, Any]:
    return {
        "path": str(path),
        "channels": form.channels,
        "frames": form.frames,
        "rate": form.rate,
        "depth": form.stored.depth,
        "format": form.container,
        "start_time": form.start_time,
        **measures.whole.model_dump(),
        "by_channel": [levels.model_dump() for levels in measures.channels],
        "sides": measures.sides.model_dump() if measures.sides else None,
        "findings": [f.model_dump(mode="json") for f in findings_of(stem(path.name), form, measures)],
    }


def _about(engine: Engine, group: Group) -> list[dict[str, Any]]:
    """What a group says before it becomes one clip."""
    members = [engine.sheet.info(ref) for ref in group.members]
    try:
        outcome = group.turn.outcome(members)
    except TurnInputError as error:
        return [Finding(code=error.code, message=error.message).model_dump(mode="json")]
    found: list[Finding] = list(outcome.findings)
    if group.kind == "sides":
        merged = engine.made(group.turn, group.members)
        found += pair_findings([m.name for m in members], merged.form, survey(merged))
    return [finding.model_dump(mode="json") for finding in found]


def print_inspection(found: dict[str, Any]) -> None:
    for file in found["files"]:
        kind = {1: "mono", 2: "stereo"}.get(file["channels"], f"{file['channels']} channels")
        start = "" if file["start_time"] is None else f" · starts at {file['start_time'] / file['rate']:.3f} s"
        levels = [
            f"{file[key]:.1f} {unit}"
            for key, unit in (("peak_dbfs", "dBFS peak"), ("loudness_lufs", "LUFS"))
            if file[key] is not None
        ]
        typer.echo(
            f"{file['path']}: {kind} · {file['rate'] / 1000:g} kHz · {file['depth']} · "
            f"{file['frames'] / file['rate']:.3f} s · {file['format']}{start} · {' · '.join(levels) or 'silence'}"
        )
        for finding in file["findings"]:
            typer.echo(f"  {finding['message']}{_advice(finding)}")
    for pair in found["pairs"]:
        called = {"sides": ["left", "right"], "mid-side": ["mid", "side"], "layout": pair["speakers"]}[pair["kind"]]
        members = ", ".join(f"{speaker} {path}" for speaker, path in zip(called, pair["members"], strict=True))
        typer.echo(f"{pair['name']}: {members}")
        for finding in pair["findings"]:
            typer.echo(f"  {finding['message']}{_advice(finding)}")
    for unclear in found["unclear"]:
        typer.echo(f"{unclear['name']}: {unclear['reason']} ({', '.join(unclear['members'])})")


def _advice(finding: dict[str, Any]) -> str:
    remedy = finding.get("remedy")
    if not remedy:
        return ""
    turn = dict(remedy["turn"])
    kind = turn.pop("kind")
    default = TURNS[kind].model_fields
    settings = [
        f" --set {name}={','.join(map(str, value)) if isinstance(value, list) else value}"
        for name, value in turn.items()
        if (tuple(value) if isinstance(value, list) else value) != default[name].default
    ]
    return f" → {kind}{''.join(settings)}"
