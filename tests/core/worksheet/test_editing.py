"""Edits of a worksheet in any place: what stands below goes on with what fits, and waits for what is gone."""

import pytest

from wedge_turn.core.errors import BadRequestError, NotFoundError, TurnInputError
from wedge_turn.core.form import Form
from wedge_turn.core.turns import AnyTurn, Centre, ClipInfo, Decode, Fold, Merge, Polarity, Split, Swap, Width
from wedge_turn.core.worksheet import (
    Plan,
    Sheet,
    Step,
    bypass_lines,
    duplicate_line,
    insert_line,
    move_line,
    read_plan,
    remove_line,
    remove_source,
    replace_source,
    restore_line,
)


def line(key: str, turn: AnyTurn, *inputs: str) -> Step:
    return Step(id=key, turn=turn, inputs=inputs)


def sheet(*steps: Step, **channels: int) -> Sheet:
    def form(count: int) -> Form:
        return Form(channels=count, frames=100, rate=48_000, encoding="s24")

    return Sheet(Plan(steps=steps), {name: ClipInfo(name, form(count)) for name, count in channels.items()})


def chain() -> Sheet:
    """A chain of four on one stereo file."""
    return sheet(
        line("a", Swap(), "source:song"),
        line("b", Width(width=1.5), "step:a:0"),
        line("c", Polarity(channels="left"), "step:b:0"),
        line("d", Fold(take="sum"), "step:c:0"),
        song=2,
    )


def inputs_of(plan: Plan) -> dict[str, tuple[str, ...]]:
    return {step.id: step.inputs for step in plan.steps}


def test_a_line_removed_from_the_middle_passes_on_what_went_in() -> None:
    before = chain()
    assert inputs_of(remove_line(before, ["b"])) == {"a": ("source:song",), "c": ("step:a:0",), "d": ("step:c:0",)}
    assert inputs_of(remove_line(before, ["a", "b", "c"])) == {"d": ("source:song",)}
    with pytest.raises(NotFoundError):
        remove_line(before, ["gone"])


def test_what_does_not_fit_waits_and_says_for_what() -> None:
    before = sheet(
        line("split", Split(), "source:gull"),
        line("flip", Polarity(channels="left"), "step:split:0"),
        line("join", Merge(order="given"), "step:flip:0", "step:split:1"),
        line("last", Swap(), "step:join:0"),
        gull=2,
    )
    after = before.with_plan(remove_line(before, ["split"]))
    # Polarity could take the stereo file, and would invert another channel's left than it was told to.
    assert inputs_of(after.plan)["flip"] == ("lost:gull_L",)
    assert inputs_of(after.plan)["join"] == ("step:flip:0", "lost:gull_R")
    assert after.waiting == {"flip": "gull_L", "join": "gull_L", "last": "gull_L"}
    assert after.list_ends() == []
    joined = before.with_plan(remove_line(before, ["join"]))
    assert (inputs_of(joined.plan)["last"], joined.waiting) == (("lost:gull",), {"last": "gull"})


def test_a_waiting_line_goes_on_when_another_input_is_chosen() -> None:
    merge = line("m", Merge(), "source:bell_L", "source:bell_R")
    before = sheet(merge, line("s", Swap(), "step:m:0"), bell_L=1, bell_R=1)
    waiting = before.with_plan(remove_source(before, "bell_R"))
    assert waiting.waiting == {"m": "bell_R", "s": "bell_R"}
    again = waiting.plan.with_replaced_step(merge)
    assert before.with_plan(again).list_ends() == ["step:s:0"]
    # What a waiting line would make can be lost in turn.
    assert inputs_of(remove_line(waiting, ["m"])) == {"s": ("lost:bell_R",)}


def test_a_plan_with_lost_inputs_survives_json() -> None:
    before = sheet(line("d", Decode(), "source:m", "source:s"), m=1, s=1)
    plan = remove_source(before, "s")
    assert read_plan(plan.model_dump(mode="json")) == plan


def test_a_line_is_inserted_before_one_and_after_one() -> None:
    before = chain()
    new = line("new", Swap(), "step:a:0")
    assert inputs_of(insert_line(before, new, before="b")) == {
        "a": ("source:song",), "new": ("step:a:0",), "b": ("step:new:0",), "c": ("step:b:0",), "d": ("step:c:0",),
    }  # fmt: skip
    # Before one line, others that use the same clip keep it; after a line, all that use its result take the new one.
    fork = sheet(line("a", Swap(), "source:song"), line("b", Swap(), "step:a:0"), line("c", Swap(), "step:a:0"), song=2)
    assert inputs_of(insert_line(fork, new, before="b"))["c"] == ("step:a:0",)
    assert (
        inputs_of(insert_line(fork, new, after="a"))["c"]
        == inputs_of(insert_line(fork, new, after="a"))["b"]
        == ("step:new:0",)
    )
    # What makes two clips of one takes nobody's place.
    assert inputs_of(insert_line(fork, line("new", Split(), "step:a:0"), after="a"))["b"] == ("step:a:0",)
    with pytest.raises(TurnInputError, match="swap takes one stereo clip; mono has 1 channel"):
        insert_line(
            sheet(line("a", Swap(), "source:song"), song=2, mono=1), line("n", Swap(), "source:mono"), before="a"
        )


def test_an_inserted_line_makes_what_it_does_not_fit_wait() -> None:
    before = chain()
    after = before.with_plan(insert_line(before, line("new", Fold(), "step:a:0"), before="b"))
    assert after.waiting == {"b": "one stereo clip", "c": "one stereo clip", "d": "one stereo clip"}
    assert str(after.refusals["b"]) == "width takes one stereo clip; song has 1 channel"
    assert before.with_plan(remove_line(after, ["new"])).list_ends() == ["step:d:0"]


CENTRE = (
    line("c", Centre(keep="both"), "source:song"),
    line("flip", Polarity(channels="left"), "step:c:1"),
    line("swap", Swap(), "step:c:0"),
)


@pytest.mark.parametrize(
    ("steps", "less", "waits"),
    [
        (CENTRE, line("c", Centre(keep="sides"), "source:song"), {"flip": "result 2 of line 1"}),
        (
            CENTRE,
            line("c", Centre(keep="sides", method="difference"), "source:song"),
            {"flip": "result 2 of line 1", "swap": "one stereo clip"},
        ),
        (
            (line("s", Split(), "source:poly"), line("f", Polarity(), "step:s:3"), line("g", Polarity(), "step:f:0")),
            line("s", Split(parts=(2, 2)), "source:poly"),
            {"f": "result 4 of line 1", "g": "result 4 of line 1"},
        ),
    ],
)
def test_lines_below_a_changed_number_of_results_wait(
    steps: tuple[Step, ...], less: Step, waits: dict[str, str]
) -> None:
    """They keep what they take, so that they go on when the results are there again."""
    before = sheet(*steps, song=2, poly=4)
    assert before.waiting == {}
    after = before.with_plan(before.plan.with_replaced_step(less))
    assert after.waiting == waits
    assert [after.name_of(ref) for ref in after.plan.steps[1].inputs] == [next(iter(waits.values()))]
    assert before.with_plan(after.plan.with_replaced_step(steps[0])).waiting == {}


def test_a_source_replaced_by_one_of_fewer_channels_leaves_lines_waiting() -> None:
    before = sheet(
        line("s", Split(), "source:poly"),
        line("a", Polarity(), "step:s:1"),
        line("b", Polarity(), "step:s:3"),
        poly=4,
        pair=2,
    )
    after = before.with_plan(replace_source(before, "poly", "pair"))
    assert after.waiting == {"b": "result 4 of line 1"}
    assert after.list_ends() == ["step:s:0", "step:a:0"]


def test_an_earlier_line_with_fewer_results_leaves_lines_waiting() -> None:
    then = sheet(line("c", Centre(keep="sides"), "source:song"), song=2)
    now = then.with_plan(Plan(steps=CENTRE))
    assert then.with_plan(restore_line(now, then, "c")).waiting == {"flip": "result 2 of line 1"}


def test_lines_are_moved_as_far_as_their_inputs_allow() -> None:
    before = sheet(
        line("a", Swap(), "source:x"), line("b", Swap(), "source:y"), line("c", Swap(), "step:a:0"), x=2, y=2
    )
    assert list(inputs_of(move_line(before, ["b"], 0))) == ["b", "a", "c"]
    assert list(inputs_of(move_line(before, ["a", "c"], 1))) == ["b", "a", "c"]
    with pytest.raises(TurnInputError, match="Line 3 uses the result of line 1: it can't stand before it"):
        move_line(before, ["c"], 0)
    with pytest.raises(BadRequestError):
        move_line(before, ["c"], 3)


def test_copied_lines_use_each_other() -> None:
    after = duplicate_line(chain(), {"c": "c2", "d": "d2"})
    assert list(inputs_of(after)) == ["a", "b", "c", "c2", "d", "d2"]
    assert inputs_of(after)["c2"] == ("step:b:0",)
    assert inputs_of(after)["d2"] == ("step:c2:0",)


def test_a_bypassed_line_lets_its_input_through() -> None:
    before = chain()
    after = before.with_plan(bypass_lines(before, ["b", "c"], bypassed=True))
    assert after.outcomes["b"].exact
    assert after.taps("step:c:0") == before.with_plan(remove_line(before, ["b", "c"])).taps("step:a:0")
    assert after.plan.step("b").words == "width × 1.5, bypassed"
    assert before.with_plan(bypass_lines(after, ["b", "c"], bypassed=False)).plan == before.plan
    # A fold that is bypassed gives a stereo file, which a merge doesn't take.
    fold = sheet(line("f", Fold(), "source:song"), line("m", Merge(order="given"), "step:f:0", "source:r"), song=2, r=1)
    assert fold.with_plan(bypass_lines(fold, ["f"], bypassed=True)).waiting == {"m": "at least 2 mono clips"}
    with pytest.raises(TurnInputError, match="can't be bypassed"):
        bypass_lines(fold, ["m"], bypassed=True)


def test_a_replaced_source_keeps_its_lines() -> None:
    before = sheet(line("s", Swap(), "source:take1"), line("m", Split(), "source:take1"), take1=2, take2=2, mono=1)
    plan = replace_source(before, "take1", "take2")
    assert inputs_of(plan) == {"s": ("source:take2",), "m": ("source:take2",)}
    assert plan.archived == ("source:take1",)
    narrower = before.with_plan(replace_source(before, "take1", "mono"))
    assert narrower.waiting == {"s": "take1", "m": "take1"}
