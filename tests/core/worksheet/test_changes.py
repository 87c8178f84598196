"""Two versions of a worksheet compared in words."""

import pytest

from wedge_turn.core.form import Form
from wedge_turn.core.turns import AnyTurn, ClipInfo, Level, Swap, Width
from wedge_turn.core.worksheet import (
    Change,
    Dismissal,
    Pairing,
    Plan,
    Sheet,
    Step,
    Stretch,
    bypass_lines,
    list_changes,
    move_line,
    remove_line,
    remove_source,
)


def line(key: str, turn: AnyTurn, ref: str, **more: object) -> Step:
    return Step.model_validate({"id": key, "turn": turn, "inputs": (ref,), **more})


FORM = Form(channels=2, frames=96_000, rate=48_000, encoding="s24")
BEFORE = Sheet(
    Plan(
        steps=(
            line("a", Swap(), "source:song"),
            line("b", Width(width=1.2), "step:a:0"),
            line("c", Level(gains_db=(-3,)), "source:sea"),
        ),
        archived=("source:old",),
    ),
    {name: ClipInfo(name, FORM) for name in ("song", "sea", "old")},
)


def after(plan: Plan) -> list[str]:
    return [change.sentence for change in list_changes(BEFORE, BEFORE.with_plan(plan))]


def test_the_same_worksheet_has_no_changes() -> None:
    assert after(BEFORE.plan) == []


@pytest.mark.parametrize(
    ("step", "said"),
    [
        (line("b", Width(width=1.5), "step:a:0"), ["Line 2: width 1.2 → 1.5"]),
        (line("b", Width(width=1.2), "source:sea"), ["Line 2: takes sea instead of song (line 1)"]),
        (line("b", Swap(), "step:a:0"), ["Line 2: width × 1.2 became swap"]),
        (line("b", Width(width=1.2), "step:a:0", names=["wide"]), ["Line 2: outputs renamed"]),
        (line("b", Width(width=1.2), "step:a:0", over=Stretch(start=1.0)), ["Line 2: range whole file → 1.0 to end"]),
        (line("c", Level(gains_db=(-3, 0)), "source:sea"), ["Line 3: gains_db -3 → -3, 0"]),
    ],
)
def test_a_changed_line_says_what_about_it(step: Step, said: list[str]) -> None:
    assert after(BEFORE.plan.with_replaced_step(step)) == said


def test_lines_come_go_and_move() -> None:
    assert after(BEFORE.plan.with_step(line("d", Swap(), "step:b:0"))) == ["Line 4 added: song swap"]
    assert after(remove_line(BEFORE, ["a"])) == [
        "Line 1 removed: song swap", "Line 1: takes song instead of song (line 1)",
    ]  # fmt: skip
    assert after(move_line(BEFORE, ["c"], 0)) == ["Line 3 moved to 1: sea level −3 dB"]
    assert after(bypass_lines(BEFORE, ["c"], bypassed=True)) == ["Line 3: bypassed"]
    assert after(remove_source(BEFORE, "sea")) == ["Line 3: waits for sea"]


def test_what_became_of_files_is_said() -> None:
    plan = BEFORE.plan.with_archived(("source:sea",), archived=True).with_archived(("source:old",), archived=False)
    assert after(plan) == ["sea archived", "old restored"]
    assert after(BEFORE.plan.with_pairing(Pairing(members=("source:song", "source:sea")))) == [
        "song and sea paired by hand"
    ]
    dismissal = Dismissal(ref="source:sea", code="dual-mono")
    plan = BEFORE.plan.with_dismissals([dismissal], dismissed=True)
    assert after(plan) == ["sea: dual mono dismissed"]
    assert list_changes(BEFORE.with_plan(plan), BEFORE) == [Change("sea: dual mono asked about again")]
