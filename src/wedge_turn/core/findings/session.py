"""What the files of a job say about each other: what one alone doesn't show.

Files start together where they have the same recorded start. Without one, a folder whose files are nearly all of one
length is taken for a set that does. Everything is said of the file that is unlike the others; where no two thirds of
them agree, nothing is said. That names are numbered,
and carry L and R, is common practice, no source.
"""

import re
from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from wedge_turn.core.findings.finding import FileFinding, Remedy, make_remedy
from wedge_turn.core.form import Form, depth_text, format_clock
from wedge_turn.core.measure import LevelStep, Measures
from wedge_turn.core.naming import find_sets, read_name
from wedge_turn.core.turns import format_db
from wedge_turn.core.worksheet import Stretch

MIN_FILES: Final = 3
# Two files that a clock started together begin within this of each other.
TOGETHER_SECONDS: Final = 0.05
# The files of a set that was exported together are nearly all as long.
MAX_SHARE_OF_FOLDER: Final = 0.75
# How many of a numbered series may be missing, as a share, for it to be a series with a gap.
MAX_MISSING: Final = 0.25
# A hand on the gain is in every file at the same moment, by as many dB.
SAME_MOMENT_SECONDS: Final = 0.35
SAME_STEP_DB: Final = 1.0
_COUNTERPART: Final = {"FL": ("left", "FR", "right"), "FR": ("right", "FL", "left")}
_NUMBER: Final = re.compile(r"^(?P<before>.*?)(?P<number>[0-9]{1,4})(?P<after>[^0-9]*)$")
_TURNED_NAMES: Final = {"l": "R", "r": "L", "left": "right", "right": "left"}


@dataclass(frozen=True)
class SessionFile:
    """A file of a job: its name and folder, what it is, and what was measured, if it has been."""

    key: str
    name: str
    folder: str
    form: Form
    measures: Measures | None

    @property
    def start(self) -> float | None:
        """Seconds after midnight."""
        return None if self.form.start_time is None else self.form.start_time / self.form.rate

    @property
    def seconds(self) -> float:
        return self.form.frames / self.form.rate


Found = tuple[str, FileFinding]


def find_in_session(files: Sequence[SessionFile]) -> dict[str, list[FileFinding]]:
    """Findings by the keys of the files that they are about."""
    findings: dict[str, list[FileFinding]] = defaultdict(list)
    for check in _CHECKS:
        for key, finding in check(files):
            if all(finding.code != other.code for other in findings[key]):
                findings[key].append(finding)
    return dict(findings)


def _about_kinds(files: Sequence[SessionFile]) -> Iterator[Found]:
    """Rates and depths among files that start together."""
    for group in _together(files):
        yield from _outliers(group, lambda file: file.form.rate, "other-rate", _rate_message, _suggest_resampling)
        # What a lossy file is decoded to is no depth of its own.
        stored = [file for file in group if not file.form.lossy]
        yield from _outliers(stored, lambda file: file.form.stored.depth, "other-depth", _depth_message)


def _about_lengths(files: Sequence[SessionFile]) -> Iterator[Found]:
    """Lengths among files with the same recorded start; files without one are grouped by their length."""
    for group in _together(files):
        if group[0].start is not None and len({file.form.rate for file in group}) == 1:
            yield from _outliers(group, lambda file: file.form.frames, "other-length", _length_message)


def _about_starts(files: Sequence[SessionFile]) -> Iterator[Found]:
    """A file of the same length as others that start together, and with another start."""
    alike: dict[tuple[str, int, int], list[SessionFile]] = defaultdict(list)
    for file in files:
        if file.start is not None:
            alike[file.folder, file.form.rate, file.form.frames].append(file)
    for group in alike.values():
        yield from _outliers(group, lambda file: file.form.start_time, "other-start", _start_message)
    for series in _series(files):
        numbered = [file for _, file in series]
        odd = _out_of_order([file.start for file in numbered])
        if odd is not None:
            file = numbered[odd]
            message = f"{file.name} starts at {_start(file)}, which is out of the order of its number."
            yield (
                file.key,
                FileFinding(
                    code="other-start",
                    label="start out of order",
                    message=f"{message} Check the clock of the recorder.",
                ),
            )


def _out_of_order(starts: Sequence[float | None]) -> int | None:
    """The place of the one start without which all others rise; None where they rise anyway, or not without it."""
    known_starts = [start for start in starts if start is not None]
    fall = next((n for n, (one, other) in enumerate(pairwise(known_starts)) if one > other), None)
    if len(known_starts) < len(starts) or fall is None:
        return None

    def rise(without: int) -> bool:
        return all(one < other for one, other in pairwise(known_starts[:without] + known_starts[without + 1 :]))

    return next((n for n in (fall, fall + 1) if rise(n)), None)


def _about_halves(files: Sequence[SessionFile]) -> Iterator[Found]:
    """Mono files that are called left or right, without the other."""
    folders: dict[str, list[SessionFile]] = defaultdict(list)
    for file in files:
        folders[file.folder].append(file)
    for members in folders.values():
        sides: dict[str, set[str]] = defaultdict(set)
        halves: list[tuple[SessionFile, str, str]] = []
        for file in members:
            for reading in read_name(file.name):
                if reading.family == "speakers":
                    sides[reading.shared.casefold()].add(reading.mark)
                    if file.form.channels == 1 and reading.mark in _COUNTERPART:
                        halves.append((file, reading.shared, reading.mark))
        for file, shared, mark in halves:
            channel, other, counterpart = _COUNTERPART[mark]
            if sides[shared.casefold()] == {mark}:
                yield (
                    file.key,
                    FileFinding(
                        code="half-missing",
                        label=f"no {counterpart}",
                        message=f"{file.name} is named as {channel} and has no {_other_name(file.name)}. Look for it,"
                        " or use this file as mono.",
                        measured={"missing": other},
                    ),
                )


def _about_identical_pairs(files: Sequence[SessionFile]) -> Iterator[Found]:
    """Left and right by their names that hold the same samples."""
    sets, _ = find_sets([file.name for file in files], [file.folder for file in files])
    for pair in sets:
        left, right = (files[member] for member in pair.members[:2])
        hashes = {file.measures.samples for file in (left, right) if file.measures}
        silent = left.measures is None or left.measures.whole.peak_dbfs is None
        if pair.kind != "stereo-pair" or pair.by_number or silent or right.measures is None or len(hashes) > 1:
            continue
        for file, other in ((left, right), (right, left)):
            yield (
                file.key,
                FileFinding(
                    code="twin",
                    label=f"same as {other.name}",
                    message=f"{file.name} holds the same samples as {other.name}, though their names say left and"
                    " right. Ask for the missing channel, or use one of them as mono.",
                ),
            )


def _about_gaps(files: Sequence[SessionFile]) -> Iterator[Found]:
    """A number that is missing in a series."""
    for series in _series(files):
        numbers = [number for number, _ in series]
        missing = sorted(set(range(numbers[0], numbers[-1] + 1)) - set(numbers))
        if not missing or len(missing) > MAX_MISSING * len(numbers):
            continue
        width = _NUMBER.match(series[0][1].name)
        digits = len(width["number"]) if width else 1
        listed = " and ".join(f"{number:0{digits}}" for number in missing[:4])
        file = next(file for number, file in series if number > missing[0])
        yield (
            file.key,
            FileFinding(
                code="number-missing",
                label=f"no {listed}",
                message=f"Before {file.name} the number {listed} is missing: {len(numbers)} of"
                f" {len(numbers) + len(missing)} files are here. Ask whether it was left out on purpose.",
                measured={"missing": ",".join(map(str, missing))},
            ),
        )


def _about_gain(files: Sequence[SessionFile]) -> Iterator[Found]:
    """A change of level at the same moment in every file that starts together."""
    for group in _together(files):
        measured = [(file, file.measures) for file in group if file.measures is not None]
        if len(measured) < MIN_FILES or len(measured) < len(group):
            continue
        matches = [
            [step for other in measured if (step := _same_step(other[1].level_steps, wanted))]
            for wanted in measured[0][1].level_steps
        ]
        everywhere = [steps for steps in matches if len(steps) == len(measured)]
        if everywhere:
            steps = max(everywhere, key=lambda same: abs(same[0].change_db))
            change = sum(step.change_db for step in steps) / len(steps)
            for (file, _), step in zip(measured, steps, strict=True):
                yield file.key, _gain_finding(file, step, change, len(steps))


def _gain_finding(file: SessionFile, step: LevelStep, change: float, count: int) -> FileFinding:
    moved = "fell" if change < 0 else "rose"
    return FileFinding(
        code="gain-changed",
        label=f"level {moved} {abs(change):.1f} dB",
        message=f"At {step.seconds:.1f} s the level {moved} by {abs(change):.1f} dB in all {count} files that start"
        " together: the recorder's gain was changed.",
        measured={"seconds": step.seconds, "change_db": round(change, 2)},
        remedy=make_remedy(
            f"level {format_db(round(-change, 1))} from there",
            "level",
            (file.name,),
            over=Stretch(start=step.seconds),
            gains_db=(round(-change, 1),),
        ),
    )


def _same_step(steps: Iterable[LevelStep], wanted: LevelStep) -> LevelStep | None:
    return next(
        (
            step
            for step in steps
            if abs(step.seconds - wanted.seconds) <= SAME_MOMENT_SECONDS
            and abs(step.change_db - wanted.change_db) <= SAME_STEP_DB
        ),
        None,
    )


_CHECKS: Final = (
    _about_kinds, _about_lengths, _about_starts, _about_halves, _about_identical_pairs, _about_gaps, _about_gain,
)  # fmt: skip


def _together(files: Sequence[SessionFile]) -> list[list[SessionFile]]:
    """Files that start together, three at the least."""
    groups: dict[tuple[str, str, int], list[SessionFile]] = defaultdict(list)
    for file in files:
        by = ("start", file.start) if file.start is not None else ("length", file.seconds)
        groups[file.folder, by[0], round(by[1] / TOGETHER_SECONDS)].append(file)
    in_folder = Counter(file.folder for file in files)
    return [
        group
        for (folder, by, _), group in groups.items()
        if len(group) >= MIN_FILES and (by == "start" or MAX_SHARE_OF_FOLDER * in_folder[folder] <= len(group))
    ]


def _outliers(
    group: Sequence[SessionFile],
    of: Callable[[SessionFile], object],
    code: str,
    message: Callable[[SessionFile, SessionFile, int], tuple[str, str]],
    remedy: Callable[[SessionFile], Remedy | None] = lambda _: None,
) -> Iterator[Found]:
    """Those of a group that are unlike two thirds of it; `message` gives the label and the sentence, `remedy` what
    makes one like the others.
    """
    counted = Counter(of(file) for file in group)
    usual, count = counted.most_common(1)[0] if counted else (None, 0)
    if len(group) < MIN_FILES or count == len(group) or 3 * count < 2 * len(group):
        return
    example = next(file for file in group if of(file) == usual)
    for file in group:
        if of(file) != usual:
            label, text = message(file, example, count)
            yield file.key, FileFinding(code=code, label=label, message=text, remedy=remedy(example))


def _rate_message(file: SessionFile, other: SessionFile, count: int) -> tuple[str, str]:
    own, usual = f"{file.form.rate / 1000:g} kHz", f"{other.form.rate / 1000:g} kHz"
    text = f"{file.name} is at {own}; the {count} others that start with it are at {usual}. Ask for it at {usual}, or"
    text += " resample it."
    return own, text


def _suggest_resampling(other: SessionFile) -> Remedy | None:
    rate = other.form.rate
    return make_remedy(f"resample to {rate / 1000:g} kHz", "resample", rate=rate)


def _depth_message(file: SessionFile, other: SessionFile, count: int) -> tuple[str, str]:
    own, usual = depth_text(file.form.stored.depth), depth_text(other.form.stored.depth)
    text = f"{file.name} is {own}; the {count} others that start with it are {usual}. Deliver them at one depth."
    return own, text


def _length_message(file: SessionFile, other: SessionFile, count: int) -> tuple[str, str]:
    by = other.seconds - file.seconds
    label = f"{abs(by):.1f} s {'shorter' if by > 0 else 'longer'}"
    text = f"{file.name} is {label} than the {count} others that start with it. Check that it was copied whole."
    return label, text


def _start_message(file: SessionFile, other: SessionFile, count: int) -> tuple[str, str]:
    text = (
        f"{file.name} starts at {_start(file)}; the {count} others of its length start at"
        f" {_start(other)}. Check its clock before files are aligned by it."
    )
    return "other start", text


def _series(files: Sequence[SessionFile]) -> list[list[tuple[int, SessionFile]]]:
    """Files whose names differ in a number alone, at least three, each number once, in the order of the numbers."""
    groups: dict[tuple[str, str, str, int], dict[int, SessionFile]] = defaultdict(dict)
    twice: set[tuple[str, str, str, int]] = set()
    for file in files:
        if match := _NUMBER.match(file.name):
            padded = len(match["number"]) if match["number"].startswith("0") else 0
            key = file.folder, match["before"].casefold(), match["after"].casefold(), padded
            if int(match["number"]) in groups[key]:
                twice.add(key)
            groups[key][int(match["number"])] = file
    merged: dict[tuple[str, str, str], dict[int, SessionFile]] = defaultdict(dict)
    for (folder, before, after, padded), members in groups.items():
        if (folder, before, after, padded) not in twice:
            merged[folder, before, after] |= members
    return [sorted(members.items()) for members in merged.values() if len(members) >= MIN_FILES]


def _other_name(name: str) -> str:
    """What the other of a pair would be called: the mark of its channel replaced, as it is written."""
    marks = list(re.finditer(r"(?<![A-Za-z])(?:left|right|l|r)(?![A-Za-z])", name, re.IGNORECASE))
    if not marks:
        return "counterpart"
    mark = marks[-1]
    other = _TURNED_NAMES[mark[0].lower()]
    as_written = other.lower() if mark[0].islower() else other.upper() if mark[0].isupper() else other.capitalize()
    return name[: mark.start()] + as_written + name[mark.end() :]


def _start(file: SessionFile) -> str:
    return format_clock(file.form.start_time or 0, file.form.rate)
