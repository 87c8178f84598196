"""What the files of a job need: turns that are safe to add unheard, questions that need ears, and files that need
nothing.

A turn is safe where it changes no sample that can be heard and nobody could have meant otherwise: files are merged
whose names say which channel each is, of one rate, with the same start and nearly as long; dual mono and silent
channels are folded; files of more than two channels are split where they name their channels themselves.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Final

from wedge_turn.core.findings.finding import FileFinding, Remedy
from wedge_turn.core.findings.overview import GroupOverview, JobOverview, Judgement
from wedge_turn.core.naming import clean_text, find_layout, join_words
from wedge_turn.core.turns import AnyTurn, Split
from wedge_turn.core.worksheet import Dismissal, Sheet, Step, source_ref

SAFE_FINDINGS: Final = ("dual-mono", "silent-channel", "sound-tracks")
# What suggestions and questions go by.
CODES: Final = (
    "pair", "layout", "multichannel", *SAFE_FINDINGS,
    "numbered-pair", "uneven-pair", "mid-side-pair", "ambiguous-names", "refused",
    "nearly-silent-channel", "hum", "nearly-mono", "opposite-polarity", "polarity-changes", "mid-side-like", "delay",
    "late-and-inverted", "unrelated-channels", "level-difference", "level-differs", "would-clip", "over-full-scale",
    "dc-offset",
)  # fmt: skip


@dataclass(frozen=True)
class Suggestion:
    """A line that can be added unheard, the code it goes by, what it does in a word or two, and why. `names` are what
    its results are called, if not as usual.
    """

    code: str
    label: str
    turn: AnyTurn
    inputs: tuple[str, ...]
    names: tuple[str, ...]
    reason: str

    def step(self, step_id: str) -> Step:
        reason = clean_text(self.reason, 500)
        return Step(id=step_id, turn=self.turn, inputs=self.inputs, names=self.names, reason=reason)


@dataclass(frozen=True)
class Question:
    """Something about a clip that has to be heard, and the line that would deal with it, where there is one."""

    ref: str
    code: str
    message: str
    inputs: tuple[str, ...]
    remedy: Remedy | None

    @property
    def dismissal(self) -> Dismissal:
        return Dismissal(ref=self.ref, code=self.code)


@dataclass(frozen=True)
class Preparation:
    """`untouched` are references to sources that nothing is done with and nothing is asked about."""

    safe: tuple[Suggestion, ...]
    questions: tuple[Question, ...]
    untouched: tuple[str, ...]


def prepare(sheet: Sheet, overview: JobOverview, judgements: Mapping[str, Judgement]) -> Preparation:
    """What the sources and lines of a worksheet need. `judgements` are those of sources, by reference, as far as they
    are known. What a line takes already, or is archived, is left alone; what was dismissed is not asked again.
    """
    used = {ref for step in sheet.plan.steps for ref in step.inputs}
    refs = [ref for source in sheet.sources if (ref := source_ref(source)) not in sheet.plan.archived]
    free = {ref for ref in refs if ref not in used}
    safe: list[Suggestion] = []
    questions: list[Question] = []
    for group in overview.groups:
        if not group.done and free.issuperset(group.group.members):
            safe += _merged(sheet, group)
            questions += _about_group(sheet, group)
    together = {ref for group in overview.groups for ref in group.group.members if not group.done}
    for ref in refs:
        if ref in free and ref not in together:
            judgement = judgements.get(ref, Judgement())
            suggested = _of_one(sheet, ref, judgement)
            safe += suggested
            if not suggested:
                questions += _about(ref, judgement.findings)
    for step in overview.steps:
        if len(step.outputs) == 1 and step.outputs[0] not in used:
            questions += _about(step.outputs[0], step.judgement.findings)
    for unclear in overview.unclear:
        if not free.issuperset(unclear.members):
            continue
        message = f"{unclear.name}: {unclear.reason}."
        questions.append(Question(unclear.members[0], "ambiguous-names", message, unclear.members, None))
    dismissed = set(sheet.plan.dismissed)
    open_questions = [question for question in questions if question.dismissal not in dismissed]
    busy = {ref for line in safe for ref in line.inputs} | {ref for line in open_questions for ref in line.inputs}
    return Preparation(tuple(safe), tuple(open_questions), tuple(ref for ref in refs if ref in free - busy))


def _merged(sheet: Sheet, overview: GroupOverview) -> list[Suggestion]:
    group = overview.group
    if group.kind == "mid-side" or overview.refused or overview.doubt:
        return []
    names = join_words([sheet.info(ref).name for ref in group.members])
    by = "as you paired them" if group.by_hand else "by their names"
    lengths = [finding.message for finding in overview.judgement.findings if finding.code == "length-differs"]
    reason = " ".join([f"{names} belong together {by}: merging changes no sample.", *lengths])
    code = "pair" if group.kind == "stereo-pair" else "layout"
    return [Suggestion(code, "merge", group.turn, group.members, (), reason)]


def _about_group(sheet: Sheet, overview: GroupOverview) -> list[Question]:
    """What has to be heard before files are decoded, or can't be merged as they are."""
    group = overview.group
    if overview.refused:
        return [Question(group.members[0], "refused", f"{group.name}: {overview.refused}.", group.members, None)]
    if overview.doubt:
        remedy = Remedy(label="merge", turn=group.turn)
        ref = group.members[0]
        if group.by_number:
            return [Question(ref, "numbered-pair", overview.doubt, group.members, remedy)]
        if find_layout(group.speakers) in ("LCR", "LCRS"):
            return [Question(ref, "ambiguous-names", overview.doubt, group.members, remedy)]
        return [Question(ref, "uneven-pair", overview.doubt, group.members, remedy)]
    if group.kind != "mid-side":
        return []
    names = join_words([sheet.info(ref).name for ref in group.members])
    message = f"{names} are named as mid and side."
    remedy = Remedy(label="decode", turn=group.turn)
    return [Question(group.members[0], "mid-side-pair", message, group.members, remedy)]


def _of_one(sheet: Sheet, ref: str, judgement: Judgement) -> list[Suggestion]:
    """At most one line that a file needs by itself."""
    for finding in judgement.findings:
        if finding.code in SAFE_FINDINGS and finding.remedy:
            label, turn, names = finding.remedy.label, finding.remedy.turn, finding.remedy.names
            return [Suggestion(finding.code, label, turn, (ref,), names, finding.message)]
    form = sheet.info(ref).form
    named = form.labels if form.labels and all(form.labels) else form.speakers
    if form.channels > 2 and named:
        reason = f"The file names its {form.channels} channels {join_words(named)}: splitting changes no sample."
        return [Suggestion("multichannel", "split", Split(), (ref,), (), reason)]
    return []


def _about(ref: str, findings: tuple[FileFinding, ...]) -> Iterator[Question]:
    for finding in findings:
        if finding.remedy:
            yield Question(ref, finding.code, finding.message, (ref,), finding.remedy)
