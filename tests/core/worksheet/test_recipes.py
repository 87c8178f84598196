"""Lines kept as a recipe, and which files take its roles."""

import json
from itertools import count

import jsonschema
import pytest

from wedge_turn.core.errors import BadRequestError, NotFoundError, TurnInputError
from wedge_turn.core.form import Form
from wedge_turn.core.turns import AnyTurn, ClipInfo, Decode, Merge, Polarity, Split, Sum, Swap, Width
from wedge_turn.core.worksheet import (
    Candidate,
    Match,
    Plan,
    Recipe,
    Sheet,
    Step,
    Stretch,
    make_recipe,
    match_files,
    parse_recipe,
)
from wedge_turn.core.worksheet.recipe import recipe_schema


def line(key: str, turn: AnyTurn, *inputs: str, names: tuple[str, ...] = (), over: Stretch | None = None) -> Step:
    return Step(id=key, turn=turn, inputs=inputs, names=names, over=over)


def sheet(*steps: Step, **channels: int) -> Sheet:
    def form(number: int) -> Form:
        return Form(channels=number, frames=48_000, rate=48_000, encoding="s24")

    return Sheet(Plan(steps=steps), {name: ClipInfo(name, form(number)) for name, number in channels.items()})


def drums() -> Sheet:
    """A pair merged, narrowed and renamed; another merged; a mono file inverted."""
    return sheet(
        line("a", Merge(), "source:kit_L", "source:kit_R"),
        line("b", Width(width=0.8), "step:a:0", names=("kit narrow",), over=Stretch(start=0.25, end=0.5)),
        line("c", Polarity(), "source:snare"),
        kit_L=1,
        kit_R=1,
        snare=1,
    )


def files(*names: str, channels: int = 1, folder: str = "") -> list[Candidate]:
    return [Candidate(f"source:{name}", name, channels, folder) for name in names]


def worked_out(recipe: Recipe, match: Match, candidates: list[Candidate]) -> Sheet:
    steps = match.steps(recipe, (f"new-{n}" for n in count()))
    before = sheet(**{one.name: one.channels for one in candidates})
    return before.with_step(*steps)


def refs(match: Match) -> list[tuple[str, ...]]:
    return [tuple(one.name for one in time.values()) for time in match.times]


def test_lines_become_a_recipe_with_roles_named_as_their_files_say() -> None:
    recipe = make_recipe(drums(), ["c", "a", "b"], "Drums")
    assert [(role.label, role.channels, role.mark, role.name) for role in recipe.roles] == [
        ("left", 1, "FL", "kit_L"),
        ("right", 1, "FR", "kit_R"),
        ("mono", 1, "", "snare"),
    ]
    assert [(one.turn.kind, one.inputs) for one in recipe.lines] == [
        ("merge", ("role:1", "role:2")),
        ("width", ("line:1:0",)),
        ("polarity", ("role:3",)),
    ]
    assert parse_recipe(json.loads(recipe.model_dump_json())) == recipe


def test_a_result_that_is_used_from_outside_is_a_role() -> None:
    recipe = make_recipe(drums(), ["b"], "Narrow")
    assert [(role.label, role.channels) for role in recipe.roles] == [("stereo", 2)]


def test_roles_say_which_is_left_where_names_do_not() -> None:
    """The files of the recipe were given right first, and their names said so."""
    pair = sheet(line("a", Merge(), "source:kit_R", "source:kit_L"), kit_L=1, kit_R=1)
    recipe = make_recipe(pair, ["a"], "Pair")
    assert [role.label for role in recipe.roles] == ["left", "right"]
    candidates = files("near", "far")
    made = worked_out(recipe, match_files(recipe, candidates, "order"), candidates)
    (ref,) = made.list_ends()
    assert [tap.source for taps in made.taps(ref) for tap in taps] == ["source:near", "source:far"]
    side_first = sheet(line("a", Decode(), "source:swell_S", "source:swell_M"), swell_M=1, swell_S=1)
    assert [role.label for role in make_recipe(side_first, ["a"], "Decode").roles] == ["mid", "side"]


def test_two_pairs_keep_apart() -> None:
    both = sheet(
        line("a", Merge(), "source:kit_L", "source:kit_R"),
        line("b", Merge(), "source:oh_L", "source:oh_R"),
        line("c", Sum(), "step:a:0", "step:b:0"),
        kit_L=1, kit_R=1, oh_L=1, oh_R=1,
    )  # fmt: skip
    recipe = make_recipe(both, "abc", "Both")
    assert [role.label for role in recipe.roles] == ["left 1", "right 1", "left 2", "right 2"]
    match = match_files(recipe, files("far_R", "near_R", "far_L", "near_L"))
    assert refs(match) == [("far_L", "far_R", "near_L", "near_R")]


def test_it_is_applied_as_often_as_there_are_files_for_it() -> None:
    recipe = make_recipe(drums(), "abc", "Drums")
    candidates = files("tom", "room_R", "room_L", "bell", "amb_Right", "amb_Left", "gong")
    match = match_files(recipe, candidates)
    assert refs(match) == [("room_L", "room_R", "tom"), ("amb_Left", "amb_Right", "bell")]
    assert [one.name for one in match.left_over] == ["gong"]
    made = worked_out(recipe, match, candidates)
    assert [made.info(ref).name for ref in made.list_ends()] == ["room narrow", "tom", "amb narrow", "bell"]
    assert [step.over for step in made.plan.steps[:2]] == [None, Stretch(start=0.25, end=0.5)]
    assert made.plan.steps[1].turn == Width(width=0.8)


def test_files_of_two_folders_are_no_pair() -> None:
    recipe = make_recipe(drums(), ["a"], "Pair")
    with pytest.raises(TurnInputError, match="Nothing selected fits “Pair”, which needs left and right"):
        match_files(recipe, files("kit_L", folder="one") + files("kit_R", folder="two"))


def test_mid_and_side_are_told_by_their_names() -> None:
    swell = sheet(line("a", Decode(), "source:swell_M", "source:swell_S"), swell_M=1, swell_S=1)
    recipe = make_recipe(swell, ["a"], "Decode")
    assert [role.label for role in recipe.roles] == ["mid", "side"]
    assert refs(match_files(recipe, files("room side", "room mid"))) == [("room mid", "room side")]


def test_one_role_takes_every_file_of_its_channels() -> None:
    recipe = make_recipe(sheet(line("a", Swap(), "source:song"), song=2), ["a"], "Swap")
    candidates = files("verse", "refrain", channels=2) + files("voice")
    match = match_files(recipe, candidates)
    assert refs(match) == [("verse",), ("refrain",)]
    assert [one.name for one in match.left_over] == ["voice"]


def test_by_name_the_files_it_was_saved_from_are_taken() -> None:
    recipe = make_recipe(drums(), "abc", "Drums")
    match = match_files(recipe, files("Snare", "kit_r", "kit_l", "bell"), "name")
    assert refs(match) == [("kit_l", "kit_r", "Snare")]
    with pytest.raises(TurnInputError, match=r"needs a file named kit_R \(right\)"):
        match_files(recipe, files("kit_L", "snare"), "name")
    with pytest.raises(TurnInputError, match="needs one file named snare; there are 2"):
        match_files(recipe, files("kit_L", "kit_R", "snare", "SNARE"), "name")


def test_in_order_names_say_nothing() -> None:
    recipe = make_recipe(drums(), ["a"], "Pair")
    assert refs(match_files(recipe, files("x", "y", "b_R", "b_L"), "order")) == [("x", "y"), ("b_R", "b_L")]
    with pytest.raises(TurnInputError, match=r"takes 2 files each time \(left and right\); 3 are selected"):
        match_files(recipe, files("x", "y", "z"), "order")
    with pytest.raises(TurnInputError, match="needs 1 channel for right; y has 2"):
        match_files(recipe, files("x") + files("y", channels=2), "order")


def test_a_line_that_waits_is_not_saved() -> None:
    waiting = sheet(line("a", Swap(), "lost:song"), other=2)
    with pytest.raises(TurnInputError, match="A line waits for song"):
        make_recipe(waiting, ["a"], "Swap")
    with pytest.raises(NotFoundError):
        make_recipe(waiting, ["b"], "Swap")


GOOD = make_recipe(drums(), "abc", "Drums").model_dump(mode="json")


@pytest.mark.parametrize(
    ("stored", "message"),
    [
        ([], "This is not a recipe"),
        ({"name": "x"}, "This is not a recipe"),
        (GOOD | {"version": 2}, r"saved by a newer version of Wedge Turn \(format 2\)"),
        (GOOD | {"roles": GOOD["roles"][:2]}, "line 3 uses role:3, which does not come before it"),
        (GOOD | {"lines": GOOD["lines"][:2]}, "no line uses the role 3"),
        (GOOD | {"lines": [GOOD["lines"][0] | {"inputs": ["line:2:0"]}]}, "line 1 uses line:2:0"),
        (GOOD | {"lines": [GOOD["lines"][0] | {"turn": {"kind": "melt"}}]}, "lines, 0, turn: "),
        (GOOD | {"lines": [GOOD["lines"][0], GOOD["lines"][0]]}, "line 1 appears twice"),
        (GOOD | {"roles": [GOOD["roles"][0]] * 2}, "two roles have the same id"),
        (GOOD | {"extra": 1}, "extra: "),
        (GOOD | {"name": " "}, "name: "),
    ],
)
def test_what_is_no_recipe_says_why(stored: object, message: str) -> None:
    with pytest.raises(BadRequestError, match=message):
        parse_recipe(stored)


def test_a_result_that_a_line_does_not_make_is_refused() -> None:
    cut = GOOD | {
        "lines": [*GOOD["lines"][:2], GOOD["lines"][2] | {"inputs": ["line:1:3"]}],
        "roles": GOOD["roles"][:2],
    }
    recipe = parse_recipe(cut)
    candidates = files("a_L", "a_R")
    with pytest.raises(TurnInputError, match="result 4 of line 1 is not there"):
        worked_out(recipe, match_files(recipe, candidates), candidates)


def test_a_method_that_was_replaced_goes_on() -> None:
    """Recipes of before hold settings of before."""
    song = sheet(line("a", Split(), "source:song"), song=2)
    stored = make_recipe(song, ["a"], "Centre").model_dump(mode="json")
    stored["lines"][0]["turn"] = {"kind": "centre", "method": "learned"}
    turn = parse_recipe(stored).lines[0].turn
    assert turn.kind == "centre"
    assert turn.method == "voice"


@pytest.mark.parametrize(
    ("source", "given", "kept"),
    [
        ("Sax", "Sax close", "{name} close"),
        ("Sax", "Sax", "{name}"),
        ("Sax", "Saxophone close", "Saxophone close"),
        ("a", "drama", "drama"),
        ("a", "a", "{name}"),
        ("drum", "big drum", "big drum"),
    ],
)
def test_a_result_is_named_by_its_source_only_as_a_whole_word(source: str, given: str, kept: str) -> None:
    before = sheet(line("p", Polarity(), f"source:{source}", names=(given,)), **{source: 1})
    assert make_recipe(before, ["p"], "r").lines[0].names == (kept,)


def test_schema_accepts_what_the_program_accepts() -> None:
    """What may be left out by the schema may be left out of a file, and nothing else."""
    validator = jsonschema.Draft202012Validator(recipe_schema())
    for without in (None, *GOOD):
        stored = {key: value for key, value in GOOD.items() if key != without}
        try:
            parse_recipe(stored)
            accepted = True
        except BadRequestError:
            accepted = False
        assert validator.is_valid(stored) == accepted, without


def test_a_long_chain_of_splits_merges_costs_what_it_computes() -> None:
    """Each pair would double the work if what a line comes from were gone through again for each of its inputs."""
    steps: list[Step] = []
    before = "source:song"
    for n in range(100):
        steps.append(line(f"s{n}", Split(), before))
        steps.append(line(f"m{n}", Merge(order="given"), f"step:s{n}:0", f"step:s{n}:1", names=("song again",)))
        before = f"step:m{n}:0"
    long = sheet(*steps, song=2)
    assert long.origins([before]) == {"song"}
    recipe = make_recipe(long, [step.id for step in steps], "Long")
    assert recipe.lines[-1].names == ("{name} again",)
    again = recipe.steps({"1": ("source:other", "other")}, (f"n{n}" for n in count()))
    assert again[-1].names == ("other again",)
