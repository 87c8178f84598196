"""One line of an earlier version of a worksheet: restored by itself, or put beside what it is now, to be heard.

Each function takes the worksheet as it is and as it was. Raises NotFoundError for a line that the earlier one doesn't
have, TurnInputError for what can't be worked out any more.
"""

from collections.abc import Callable

from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.worksheet.plan import Plan, Step, lost_ref, parse_ref, step_ref, with_new_ids
from wedge_turn.core.worksheet.sheet import Sheet


def restore_line(sheet: Sheet, earlier: Sheet, step_id: str) -> Plan:
    """The worksheet with one line as it was; one that was removed stands where it stood, and later lines that took its
    results take them again. What went into it and is gone is waited for.
    """
    was = earlier.plan.step(step_id)
    place = _place(sheet.plan, earlier.plan, step_id)
    before = sheet.plan.steps[:place]
    available = {ref for step in before for ref in sheet.outputs(step)} | {f"source:{key}" for key in sheet.sources}
    inputs = tuple(ref if ref in available else lost_ref(earlier.name_of(ref)) for ref in was.inputs)
    line = was.model_copy(update={"inputs": inputs})
    if any(step.id == step_id for step in sheet.plan.steps):
        return sheet.plan.with_replaced_step(line)
    rest = tuple(_relink(later, earlier.plan, was) for later in sheet.plan.steps[place:])
    return sheet.plan.with_changes(steps=(*before, line, *rest))


def append_earlier_line(sheet: Sheet, earlier: Sheet, step_id: str, new_id: Callable[[], str]) -> Plan:
    """The worksheet with an earlier line at its end, and before it all that it was made from, under new ids."""
    was = earlier.plan.step(step_id)
    if (lost := earlier.waiting.get(step_id)) is not None:
        raise TurnInputError(f"That line was waiting for {lost} and had no result")
    return sheet.plan.with_step(*with_new_ids(earlier.lineage(step_ref(was.id, 0)), new_id))


def _place(plan: Plan, earlier: Plan, step_id: str) -> int:
    """Where a line stands, or would: after the nearest line before it that is still there."""
    places = {step.id: n for n, step in enumerate(plan.steps)}
    if step_id in places:
        return places[step_id]
    before = earlier.steps[: earlier.steps.index(earlier.step(step_id))]
    return max((places[step.id] + 1 for step in before if step.id in places), default=0)


def _relink(later: Step, earlier: Plan, was: Step) -> Step:
    """A line that took the results of one that was removed and has since taken what went into it, or waits."""
    before = next((step for step in earlier.steps if step.id == later.id), None)
    if before is None or len(before.inputs) != len(later.inputs):
        return later
    inputs = tuple(
        old if parse_ref(old)[:2] == ("step", was.id) and (new in was.inputs or parse_ref(new)[0] == "lost") else new
        for old, new in zip(before.inputs, later.inputs, strict=True)
    )
    return later.model_copy(update={"inputs": inputs})
