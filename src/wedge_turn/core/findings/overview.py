"""What a job looks like: what each source, group and line of the worksheet has to say for itself.

The API and the command line show this and decide nothing. Advice never fails: what cannot be judged is logged and
shown as that, and everything else goes on.
"""

import logging
from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from pydantic import BaseModel, ConfigDict

from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.findings.file import find_in_file
from wedge_turn.core.findings.finding import FileFinding, format_signed
from wedge_turn.core.findings.origin import find_in_origin
from wedge_turn.core.findings.pair import find_in_pair
from wedge_turn.core.findings.session import SessionFile, find_in_session
from wedge_turn.core.form import Form
from wedge_turn.core.measure import Measures
from wedge_turn.core.metadata import Recorded
from wedge_turn.core.naming import find_layout, join_words
from wedge_turn.core.turns import ClipInfo, Finding, Merge
from wedge_turn.core.worksheet import Group, Sheet, Step, Unclear, are_uneven, find_groups, list_merges, source_ref

# Goes up whenever the same measures could give other findings: what was stored before is then worked out again.
FINDINGS_VERSION: Final = 6
NOT_JUDGED: Final = "This could not be checked; the server's log says why."
log = logging.getLogger(__name__)


class Judgement(BaseModel):
    """Findings about one clip, most serious first; `problem` says that it could not be judged."""

    model_config = ConfigDict(frozen=True)

    findings: tuple[FileFinding, ...] = ()
    problem: str | None = None


@dataclass(frozen=True)
class GroupOverview:
    """Sources that belong together; `done` says that a turn makes one clip of them already, `refused` why none can, and
    `doubt` why they may not belong together, in a sentence, though their names could say so.
    """

    group: Group
    done: bool
    refused: str | None
    judgement: Judgement
    doubt: str | None = None


@dataclass(frozen=True)
class StepOverview:
    """A line of the worksheet. `carries` names, for each channel of each output, the input channels that are in it.
    `waits_for` is the name of the input that is missing, None where all are there; until then it has no outputs.
    """

    step: Step
    waits_for: str | None
    inputs: tuple[ClipInfo, ...]
    outputs: tuple[str, ...]
    carries: list[list[list[str]]]
    judgement: Judgement


@dataclass(frozen=True)
class JobOverview:
    groups: list[GroupOverview]
    unclear: list[Unclear]
    steps: list[StepOverview]


def evaluate_clip(name: str, form: Form, measures: Measures, recorded: Recorded | None = None) -> Judgement:
    """Findings of one clip by its measures, and of a file by what it says about itself."""

    def look() -> Judgement:
        origin = find_in_origin(name, form, measures, recorded) if recorded else []
        return Judgement(findings=(*find_in_file(name, form, measures), *origin))

    return _guarded(name, look)


def evaluate_session(files: Sequence[SessionFile]) -> dict[str, list[FileFinding]]:
    """What the files of a job say about each other, by their keys; nothing where that fails."""
    try:
        return find_in_session(files)
    except Exception:
        log.exception("the files of a job could not be compared")
        return {}


def find_clips_to_measure(
    sheet: Sheet, sources: Sequence[str], folders: Sequence[str]
) -> dict[str, tuple[Merge | None, tuple[str, ...]]]:
    """Clips whose measures say something in the overview, by key: sources, and what two of them would make merged."""
    wanted_measures: dict[str, tuple[Merge | None, tuple[str, ...]]] = {
        sheet.key(source_ref(source)): (None, (source_ref(source),)) for source in sources
    }
    groups, _ = find_groups(sheet, sources, folders)
    for turn, inputs in list_merges(sheet, groups):
        try:
            turn.outcome([sheet.info(ref) for ref in inputs])
        except TurnInputError:
            continue
        wanted_measures.setdefault(sheet.key_of_result(turn, inputs, 0), (turn, inputs))
    return wanted_measures


def describe(
    sheet: Sheet,
    sources: Sequence[str],
    folders: Sequence[str],
    find_measures: Callable[[Iterable[str]], Mapping[str, Measures]],
) -> JobOverview:
    """The overview of a worked-out worksheet; `find_measures` gives those of clips by their keys, as far as they are
    known.
    """
    users: dict[str, list[Step]] = defaultdict(list)
    for step in sheet.plan.steps:
        for ref in step.inputs:
            users[ref].append(step)
    groups, unclear = find_groups(sheet, sources, folders)
    measures = find_measures(sheet.key_of_result(turn, inputs, 0) for turn, inputs in list_merges(sheet, groups))
    return JobOverview(
        groups=[_group(sheet, group, users[group.members[0]], measures) for group in groups],
        unclear=unclear,
        steps=[_step(sheet, step, measures) for step in sheet.plan.steps],
    )


def add_label(finding: Finding) -> FileFinding:
    return FileFinding(**finding.model_dump(), label=finding.code.replace("-", " "))


def _group(sheet: Sheet, group: Group, users: Sequence[Step], measures: Mapping[str, Measures]) -> GroupOverview:
    """`users` are the steps that take the first member of the group."""
    turn, infos = group.turn, [sheet.info(ref) for ref in group.members]
    same = frozenset(group.members)
    # What is done already says what there is to say on its line of the worksheet.
    if any(step.turn.kind == turn.kind and frozenset(step.inputs) == same for step in users):
        return GroupOverview(group, True, None, Judgement())
    try:
        outcome = turn.outcome(infos)
    except TurnInputError as error:
        refusal = add_label(Finding(code=error.code, message=error.message))
        return GroupOverview(group, False, error.message, Judgement(findings=(refusal,)))
    measured = measures.get(sheet.key_of_result(turn, group.members, 0)) if group.kind == "stereo-pair" else None
    form = outcome.outputs[0].form
    judgement = _about_pair(outcome.findings, [info.name for info in infos], form, measured)
    return GroupOverview(group, False, None, judgement, None if group.by_hand else _doubt(group, infos, measured))


def _doubt(group: Group, infos: Sequence[ClipInfo], measures: Measures | None) -> str | None:
    names = join_words([info.name for info in infos])
    if group.by_number:
        evidence = "They start together and are as long"
        sides = measures.sides if measures else None
        if sides is not None and sides.correlation is not None:
            evidence += f"; their correlation is {format_signed(sides.correlation)}"
        return f"{names} are numbered: two takes, or left and right? {evidence}."
    if (layout := find_layout(group.speakers)) in ("LCR", "LCRS"):
        return f"{names} are {layout} by their names, or left and right with other microphones."
    if group.kind != "mid-side" and (why := are_uneven(infos)):
        return f"{names} belong together by their names, but {why}."
    return None


def _step(sheet: Sheet, step: Step, measures: Mapping[str, Measures]) -> StepOverview:
    if step.id in sheet.waiting:
        return StepOverview(step, sheet.waiting[step.id], (), (), [], Judgement())
    outcome, infos = sheet.outcomes[step.id], sheet.inputs(step)
    refs = sheet.outputs(step)
    channels = [
        info.name if info.form.channels == 1 else f"{info.name} {channel + 1}"
        for info in infos
        for channel in range(info.form.channels)
    ]
    rows = iter(outcome.matrix.tolist())
    carries = [
        [[name for name, gain in zip(channels, next(rows), strict=True) if gain] for _ in range(output.form.channels)]
        for output in outcome.outputs
    ]
    measured = measures.get(sheet.key(refs[0])) if isinstance(step.turn, Merge) and len(infos) == 2 else None
    pair = [carries[0][0][0], carries[0][1][0]] if measured else []
    judgement = _about_pair(outcome.findings, pair, outcome.outputs[0].form, measured)
    return StepOverview(step, None, tuple(infos), refs, carries, judgement)


def _about_pair(before: Sequence[Finding], names: Sequence[str], form: Form, measures: Measures | None) -> Judgement:
    """What a turn finds by itself, then what the measures of the two files merged say; `names` are left and right."""

    def look() -> Judgement:
        about = find_in_pair(names, form, measures) if measures else []
        return Judgement(findings=(*map(add_label, before), *about))

    return _guarded(" and ".join(names), look)


def _guarded(name: str, look: Callable[[], Judgement]) -> Judgement:
    try:
        return look()
    except Exception:
        log.exception("%s could not be judged", name)
        return Judgement(problem=NOT_JUDGED)
