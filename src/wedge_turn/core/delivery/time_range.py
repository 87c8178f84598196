"""One range for every file of a delivery: each clip is trimmed to it as the last turn before it is written."""

from collections.abc import Iterable

from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery.order import Order
from wedge_turn.core.errors import OutsideRangeError, TurnInputError
from wedge_turn.core.turns import Trim
from wedge_turn.core.worksheet import Sheet, Step, parse_ref, step_ref


def find_outside(sheet: Sheet, refs: Iterable[str], trim: Trim) -> dict[str, str]:
    """Why clips can't be trimmed to a range, by reference: nothing of them lies in it, or no recorded time is known."""
    reasons = {}
    for ref in refs:
        try:
            trim.outcome([sheet.info(ref)])
        except TurnInputError as error:
            reasons[ref] = error.message
    return reasons


def apply_range(engine: Engine, order: Order) -> tuple[Engine, tuple[str, ...]]:
    """An engine whose plan trims the clips of an order to its range, and the references of what is written then.

    Raises OutsideRangeError where a clip has nothing in the range, with the first reason and how many more there are.
    """
    if order.range is None:
        return engine, order.refs
    if reasons := list(find_outside(engine.sheet, order.refs, order.range).values()):
        reasons = list(dict.fromkeys(reasons))  # what is wrong with the range itself is said once
        more = {1: "", 2: "; nor can 1 more file be trimmed to it"}
        rest = more.get(len(reasons), f"; nor can {len(reasons) - 1} more files be trimmed to it")
        raise OutsideRangeError(reasons[0] + rest)
    steps = [Step(id=f"range-{n}", turn=order.range, inputs=(ref,)) for n, ref in enumerate(order.refs)]
    return engine.with_plan(*steps), tuple(step_ref(step.id, 0) for step in steps)


def list_steps(sheet: Sheet, ref: str, *, trimmed: bool) -> list[Step]:
    """The step that made a clip, none for a source; where it was `trimmed` to a range, before the step that did so."""
    steps: list[Step] = []
    kind, key, _ = parse_ref(ref)
    if kind == "step":
        steps.append(sheet.plan.step(key))
        if trimmed:
            steps[:0] = list_steps(sheet, steps[0].inputs[0], trimmed=False)
    return steps
