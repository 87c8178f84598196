"""What is different between two versions of a worksheet, in sentences."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from wedge_turn.core.worksheet.plan import Step, parse_ref
from wedge_turn.core.worksheet.sheet import Sheet


@dataclass(frozen=True)
class Change:
    """A sentence, and the id of the line that it is about; None where it is about files."""

    sentence: str
    step: str | None = None


def list_changes(before: Sheet, after: Sheet) -> list[Change]:
    """Lines that were added, removed, changed and moved, then what became of files; empty where nothing differs."""
    return [*_of_lines(before, after), *map(Change, _of_files(before, after))]


def _of_lines(before: Sheet, after: Sheet) -> Iterator[Change]:
    old = {step.id: (n, step) for n, step in enumerate(before.plan.steps, 1)}
    new = {step.id: (n, step) for n, step in enumerate(after.plan.steps, 1)}
    for key, (n, step) in old.items():
        if key not in new:
            yield Change(f"Line {n} removed: {_line(before, step)}", key)
    for key, (n, step) in new.items():
        if key not in old:
            yield Change(f"Line {n} added: {_line(after, step)}", key)
        else:
            for change in _of_step(before, after, old[key][1], step):
                yield Change(f"Line {n}: {change}", key)
    in_both = [key for key in old if key in new]
    for key in _moved(in_both, [key for key in new if key in old]):
        yield Change(f"Line {old[key][0]} moved to {new[key][0]}: {_line(after, new[key][1])}", key)


def _line(sheet: Sheet, step: Step) -> str:
    """A line as it reads in the worksheet."""
    return f"{' + '.join(sheet.name_of(ref) for ref in step.inputs)} {step.words}"


def _of_step(before: Sheet, after: Sheet, old: Step, new: Step) -> Iterator[str]:
    if lost := [key for kind, key, _ in map(parse_ref, new.inputs) if kind == "lost"]:
        if new.inputs != old.inputs:
            yield f"waits for {' and '.join(lost)}"
    elif old.inputs != new.inputs:
        now, was = (
            " + ".join(_input(sheet, ref) for ref in step.inputs) for sheet, step in ((after, new), (before, old))
        )
        yield f"takes {now} instead of {was}"
    settings, before_that = new.turn.model_dump(mode="json"), old.turn.model_dump(mode="json")
    if new.turn.kind != old.turn.kind:
        yield f"{old.turn.words} became {new.turn.words}"
    else:
        for setting, value in settings.items():
            if value != before_that[setting]:
                yield f"{setting} {_describe(before_that[setting])} → {_describe(value)}"
    if old.over != new.over:
        was, now = (f"{step.over.start} to {step.over.end}" if step.over else "whole file" for step in (old, new))
        yield f"range {was} → {now}"
    if old.names != new.names:
        yield "outputs renamed"
    if old.bypassed != new.bypassed:
        yield "bypassed" if new.bypassed else "enabled again"


def _describe(value: Any) -> str:
    """A setting as it is typed: lists by their items, or how many there are of what is longer than a figure."""
    if isinstance(value, list):
        return (
            f"{len(value)} items" if any(isinstance(one, dict) for one in value) else ", ".join(map(_describe, value))
        )
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, float):
        return f"{value:g}"
    return "auto" if value is None else str(value)


def _moved(old: Sequence[str], new: Sequence[str]) -> list[str]:
    """Which of the same keys stand in another order: as few of them as it takes, in their new order."""
    places = {key: n for n, key in enumerate(old)}
    # Those of a longest rising sequence stayed where they were.
    runs: list[list[str]] = []
    longest: list[str] = []
    for key in new:
        run = [key]
        for earlier in runs:
            if places[earlier[-1]] < places[key] and len(earlier) >= len(run):
                run = [*earlier, key]
        runs.append(run)
        longest = run if len(run) > len(longest) else longest
    stayed = set(longest)
    return [key for key in new if key not in stayed]


def _of_files(before: Sheet, after: Sheet) -> Iterator[str]:
    was, now = before.plan, after.plan
    for ref in now.archived:
        if ref not in was.archived:
            yield f"{after.name_of(ref)} archived"
    for ref in was.archived:
        if ref not in now.archived:
            yield f"{before.name_of(ref)} restored"
    for pairing in now.pairings:
        if pairing not in was.pairings:
            names = " and ".join(after.name_of(ref) for ref in pairing.members)
            yield f"{names} {'paired' if pairing.together else 'unpaired'} by hand"
    for sheet, plan, other, what in (
        (after, now, was, "dismissed"),
        (before, was, now, "asked about again"),
    ):
        for dismissal in plan.dismissed:
            if dismissal not in other.dismissed:
                yield f"{sheet.name_of(dismissal.ref)}: {dismissal.code.replace('-', ' ')} {what}"


def _input(sheet: Sheet, ref: str) -> str:
    """What goes into a line; the result of another has that one's number."""
    kind, key, _ = parse_ref(ref)
    if kind != "step":
        return sheet.name_of(ref)
    return f"{sheet.name_of(ref)} (line {sheet.plan.steps.index(sheet.plan.step(key)) + 1})"
