"""Edits of a worksheet that touch more than one line: what stands below goes on with what fits, and waits otherwise.

Each function takes a worked-out sheet and gives the plan after the edit. Raises NotFoundError for a line that is not
there, TurnInputError for what the lines can't do.
"""

from collections.abc import Collection, Mapping

from wedge_turn.core.errors import BadRequestError, TurnInputError
from wedge_turn.core.worksheet.plan import Plan, Step, lost_ref, parse_ref, source_ref, step_ref
from wedge_turn.core.worksheet.sheet import Sheet


def insert_line(
    sheet: Sheet, step: Step, *, before: str | None = None, after: str | None = None, replaces: bool = True
) -> Plan:
    """A step put before another one or after it. Where it `replaces` what it takes and makes as many clips, they take
    their place: in that one step (`before`), or in every later one (`after`); what they don't fit waits.

    Raises TurnInputError where the step itself can't take its inputs.
    """
    plan = sheet.plan
    if (at := before or after) is None:
        return plan.with_step(step)
    place = _place(plan, at) + (before is None)
    rest = plan.steps[place:]
    outputs = sheet.with_plan(plan.with_changes(steps=plan.steps[:place])).with_step(step).outputs(step)
    if replaces and len(outputs) == len(step.inputs):
        instead = dict(zip(step.inputs, outputs, strict=True))
        rest = tuple(_taking(later, instead) if after or later.id == before else later for later in rest)
    return plan.with_changes(steps=(*plan.steps[:place], step, *rest))


def remove_line(sheet: Sheet, ids: Collection[str]) -> Plan:
    """Steps removed. What follows takes what went into them, where one clip went in, one came out and that fits; else
    it waits: what worked on one channel of a split file never works on the whole file instead.
    """
    for key in ids:
        sheet.plan.step(key)
    instead: dict[str, str] = {}
    for step in sheet.plan.steps:
        outputs = sheet.outputs(step)
        if step.id in ids and len(step.inputs) == len(outputs) == 1:
            (ref,) = step.inputs
            instead |= dict.fromkeys(outputs, instead.get(ref, ref))
    removed = {ref for step in sheet.plan.steps if step.id in ids for ref in _refs_to(sheet.plan, step)}
    return _without(sheet, ids, removed, instead)


def remove_source(sheet: Sheet, source: str) -> Plan:
    """A source removed, with all that was said of it: steps that take it wait."""
    ref = source_ref(source)
    plan = _without(sheet, (), {ref}, {})
    return plan.without_source(source)


def replace_source(sheet: Sheet, old: str, new: str) -> Plan:
    """A source replaced by another one wherever it is used; what the new one doesn't fit waits for the old one. The old
    one is archived.
    """
    ref = source_ref(old)
    instead = source_ref(new)
    plan = _without(sheet, (), {ref}, {ref: instead})
    pairings = tuple(
        pairing.model_copy(
            update={"members": tuple(instead if member == ref else member for member in pairing.members)}
        )
        for pairing in plan.pairings
    )
    return plan.with_changes(pairings=pairings).with_archived((ref,), archived=True)


def move_line(sheet: Sheet, ids: Collection[str], to: int) -> Plan:
    """Steps moved, in their order, so that the first of them becomes number `to`, counted from 0."""
    plan = sheet.plan
    moving = [plan.step(key) for key in ids]
    moving.sort(key=plan.steps.index)
    rest = [step for step in plan.steps if step.id not in ids]
    if not 0 <= to <= len(rest):
        raise BadRequestError(f"There is no line {to + 1} to move to")
    steps = (*rest[:to], *moving, *rest[to:])
    lines = {step.id: n for n, step in enumerate(steps)}
    for step in steps:
        for ref in step.inputs:
            kind, key, _ = parse_ref(ref)
            if kind == "step" and lines[key] > lines[step.id]:
                user, used = plan.steps.index(step) + 1, plan.steps.index(plan.step(key)) + 1
                raise TurnInputError(f"Line {user} uses the result of line {used}: it can't stand before it")
    return plan.with_changes(steps=steps)


def duplicate_line(sheet: Sheet, copies: Mapping[str, str]) -> Plan:
    """Steps done once more, each copy right after its own; `copies` gives the id of the copy for each. A copied step
    that uses the result of another copied one uses that of its copy.
    """
    for key in copies:
        sheet.plan.step(key)
    steps: list[Step] = []
    for step in sheet.plan.steps:
        steps.append(step)
        if step.id in copies:
            inputs = tuple(_of_copy(ref, copies) for ref in step.inputs)
            steps.append(step.model_copy(update={"id": copies[step.id], "inputs": inputs}))
    return sheet.plan.with_changes(steps=tuple(steps))


def bypass_lines(sheet: Sheet, ids: Collection[str], *, bypassed: bool) -> Plan:
    """Steps bypassed, or enabled again; what the results then don't fit waits. Raises TurnInputError for a step that
    can't be bypassed.
    """
    plan = sheet.plan
    for key in ids:
        plan = plan.with_replaced_step(plan.step(key).model_copy(update={"bypassed": bypassed}))
    if bypassed:
        sheet.with_plan(plan).require(key for key in ids if key not in sheet.refusals)
    return plan


def _without(sheet: Sheet, ids: Collection[str], removed: Collection[str], instead: Mapping[str, str]) -> Plan:
    """The plan without some steps. References that are `gone` are exchanged for those that stand `instead`, where the
    step that has them takes those, and are lost where it doesn't.
    """
    lost_refs = {ref: lost_ref(sheet.name_of(ref)) for ref in removed}
    fitting = lost_refs | {ref: lost_refs.get(other, other) for ref, other in instead.items()}
    edited = sheet.with_plan(sheet.plan.with_changes(steps=()))
    for step in sheet.plan.steps:
        if step.id not in ids:
            longer = edited.appending(_taking(step, fitting))
            edited = edited.appending(_taking(step, lost_refs)) if step.id in longer.refusals else longer
    return edited.plan


def _taking(step: Step, instead: Mapping[str, str]) -> Step:
    inputs = tuple(instead.get(ref, ref) for ref in step.inputs)
    return step if inputs == step.inputs else step.model_copy(update={"inputs": inputs})


def _refs_to(plan: Plan, step: Step) -> set[str]:
    """References to the results of a step that other steps hold."""
    return {ref for user in plan.steps for ref in user.inputs if parse_ref(ref)[:2] == ("step", step.id)}


def _of_copy(ref: str, copies: Mapping[str, str]) -> str:
    kind, key, output = parse_ref(ref)
    return step_ref(copies[key], output) if kind == "step" and key in copies else ref


def _place(plan: Plan, step_id: str) -> int:
    return plan.steps.index(plan.step(step_id))
