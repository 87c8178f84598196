"""One line of an earlier version: restored by itself, and put beside what it is now."""

from itertools import count

import pytest

from wedge_turn.core.errors import NotFoundError, TurnInputError
from wedge_turn.core.form import Form
from wedge_turn.core.turns import AnyTurn, ClipInfo, Fold, Level, Split, Swap, Width
from wedge_turn.core.worksheet import (
    Plan,
    Sheet,
    Step,
    append_earlier_line,
    remove_line,
    remove_source,
    restore_line,
    step_ref,
)

FORM = Form(channels=2, frames=100, rate=48_000, encoding="s24")


def line(key: str, turn: AnyTurn, *inputs: str) -> Step:
    return Step(id=key, turn=turn, inputs=inputs)


THEN = Sheet(
    Plan(
        steps=(
            line("a", Swap(), "source:song"),
            line("b", Width(width=1.2), "step:a:0"),
            line("c", Level(gains_db=(-3,)), "step:b:0"),
            line("d", Swap(), "source:sea"),
        )
    ),
    {name: ClipInfo(name, FORM) for name in ("song", "sea")},
)


def now(plan: Plan) -> Sheet:
    return THEN.with_plan(plan)


def test_a_changed_line_is_as_it_was_and_nothing_else_is() -> None:
    changed = THEN.plan.with_replaced_step(line("b", Width(width=0.3), "step:a:0")).with_replaced_step(
        line("d", Fold(), "source:sea")
    )
    restored = restore_line(now(changed), THEN, "b")
    assert restored == THEN.plan.with_replaced_step(line("d", Fold(), "source:sea"))


def test_a_removed_line_stands_where_it_stood_and_is_taken_again() -> None:
    without = now(remove_line(THEN, ["b"]))
    assert without.plan.step("c").inputs == ("step:a:0",)
    assert restore_line(without, THEN, "b") == THEN.plan
    first = now(remove_line(THEN, ["a"]))
    assert restore_line(first, THEN, "a") == THEN.plan


def test_a_line_that_was_given_other_files_meanwhile_keeps_them() -> None:
    without = remove_line(THEN, ["b"]).with_replaced_step(line("c", Level(gains_db=(-3,)), "source:sea"))
    restored = restore_line(now(without), THEN, "b")
    assert restored.step("c").inputs == ("source:sea",)


def test_what_went_into_it_and_is_gone_is_waited_for() -> None:
    kept = {"sea": ClipInfo("sea", FORM)}
    after = Sheet(remove_line(now(remove_source(THEN, "song")), ["a"]), kept)
    restored = after.with_plan(restore_line(after, THEN, "a"))
    assert restored.waiting["a"] == "song"


def test_a_line_whose_input_now_makes_less_is_refused_or_waits() -> None:
    """It was the second of two results, and there is one now."""
    split = Sheet(
        Plan(steps=(line("a", Split(), "source:song"), line("b", Level(), "step:a:1"))),
        {"song": ClipInfo("song", FORM)},
    )
    fewer = split.with_plan(Plan(steps=(line("a", Swap(), "source:song"),)))
    restored = fewer.with_plan(restore_line(fewer, split, "b"))
    assert restored.waiting["b"] == "song_R"


def test_an_earlier_line_stands_at_the_end_with_all_that_it_was_made_from() -> None:
    changed = now(THEN.plan.with_replaced_step(line("a", Width(width=0.1), "source:song")))
    ids = count()
    plan = append_earlier_line(changed, THEN, "c", lambda: f"then-{next(ids)}")
    both = changed.with_plan(plan)
    assert plan.steps[:4] == changed.plan.steps
    assert [step.turn.kind for step in plan.steps[4:]] == ["swap", "width", "level"]
    assert both.key(step_ref(plan.steps[-1].id, 0)) == THEN.key("step:c:0")
    assert both.key("step:c:0") != THEN.key("step:c:0")


def test_what_is_not_there_is_said() -> None:
    with pytest.raises(NotFoundError):
        restore_line(THEN, THEN, "z")
    waiting = now(remove_source(THEN, "sea"))
    with pytest.raises(TurnInputError, match="That line was waiting for sea"):
        append_earlier_line(THEN, waiting, "d", lambda: "x")
