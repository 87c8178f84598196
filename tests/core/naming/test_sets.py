"""Which names belong together, and which do not. Common practice, no source."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wedge_turn.core.naming import LAYOUTS, common_name, find_layout, find_set, find_sets, read_name, without_mid_side


@pytest.mark.parametrize(
    ("left", "right", "together"),
    [
        ("lamp-bell_L", "lamp-bell_R", "lamp-bell"), ("Room.L", "Room.R", "Room"), ("hall L", "hall R", "hall"),
        ("choir-left", "choir-right", "choir"), ("Steps (L)", "Steps (R)", "Steps"), ("Sea Left", "Sea RIGHT", "Sea"),
        ("gate_L_03", "gate_R_03", "gate_03"), ("gate_03_L", "gate_03_R", "gate_03"), ("pair.1", "pair.2", "pair"),
        ("a_1", "a_2", "a"), ("left", "Right", "stereo"), ("L", "R", "stereo"), ("quay_FL", "quay_fr", "quay"),
        ("Left channel", "right channel", "channel"), ("gate_L take 3", "gate_R take 3", "gate take 3"),
        ("Bus[L]", "Bus[R]", "Bus"), ("reel 2 Lt", "reel 2 Rt", "reel 2"), ("L.choir", "R.choir", "choir"),
        ("FX L 2", "FX R 2", "FX 2"), ("amb_l", "amb_r", "amb"), ("L-pad", "R-pad", "pad"),
    ],
)  # fmt: skip
def test_sides_in_either_order(left: str, right: str, together: str) -> None:
    for names, members in (([left, "other", right], (0, 2)), ([right, "other", left], (2, 0))):
        (found,), unclear = find_sets(names)
        assert (found.kind, found.members, found.speakers) == ("stereo-pair", members, ("FL", "FR"))
        assert common_name([right, left]).casefold() == together.casefold() == found.name.casefold()
        assert unclear == []


@pytest.mark.parametrize("names", [("h_mid", "h_side"), ("h-M", "h-S"), ("Mid", "Side"), ("h (mid)", "h (SIDE)")])
def test_mid_and_side(names: tuple[str, str]) -> None:
    match = find_set(names[::-1])
    assert match is not None
    assert (match.kind, match.members) == ("mid-side", (1, 0))


@pytest.mark.parametrize(
    ("layout", "marks", "order"),
    [
        ("quad", "BL FR BR FL", "FL FR BL BR"),
        ("5.1", "FL FR C LFE Ls Rs", "FL FR C LFE Ls Rs"),
        ("5.1", "L R C LFE BL BR", "L R C LFE BL BR"),
        ("5.0", "Rs Ls Centre Right Left", "Left Right Centre Ls Rs"),
        ("7.1", "FL FR FC LFE SL SR RL RR", "FL FR FC LFE RL RR SL SR"),
        ("7.1", "L R C Lfe Lss Rss Lsr Rsr", "L R C Lfe Lsr Rsr Lss Rss"),
        ("7.1", "L R C Lfe Ls Rs Lb Rb", "L R C Lfe Lb Rb Ls Rs"),
        ("7.0", "Lb Rb L C R Ls Rs", "L R C Lb Rb Ls Rs"),
        ("6.1", "L R C LFE Ls Rs Cs", "L R C LFE Cs Ls Rs"),
        ("6.1", "L R C LFE Lb Rb BC", "L R C LFE Lb Rb BC"),
        (
            "5.1",
            "Left Right Center Sub Left.Surround Right.Surround",
            "Left Right Center Sub Left.Surround Right.Surround",
        ),
        ("LCR", "L C R", "L R C"),
        ("LCRS", "L C R Cs", "L R C Cs"),
    ],
)
def test_layouts_by_their_speakers(layout: str, marks: str, order: str) -> None:
    given_ = [f"beacon_{mark}_02" for mark in marks.split()]
    found = find_set(given_)
    assert found is not None
    assert (found.kind, found.name, find_layout(found.speakers)) == ("layout", "beacon_02", layout)
    assert [given_[i] for i in found.members] == [f"beacon_{mark}_02" for mark in order.split()]


@pytest.mark.parametrize(
    "names",
    [
        ("ball", "bar"), ("gull", "gulr"), ("lamp_L", "lamp_L"), ("lamp_L", "bell_R"), ("_L", "_R"), ("take1", "take2"),
        ("gate_L_01", "gate_R_02"), ("lamp_L", "lamp"), ("a_1", "a_2", "a_3"), ("1", "2"), ("a_01", "a_02"),
        ("LeftVox", "RightVox"), ("strL", "strR"), ("xyL", "xyR"), ("wide-A", "wide-B"), ("OH_Left Mic", "OH_Right"),
        ("bell_L",), ("x_1_1", "x_1_2", "x_2_1", "x_2_2"),
    ],
)  # fmt: skip
def test_a_coincidence_of_names_is_no_set(names: tuple[str, ...]) -> None:
    assert find_sets(names) == ([], [])


@pytest.mark.parametrize(
    ("names", "why"),
    [
        (("bell_L", "bell_R", "bell_R"), "more than one file is named as right"),
        (("bell_L", "bell_Left", "bell_R"), "more than one file is named as left"),
        (("bell_L", "bell_R", "bell_Ls"), "are not a known layout"),
        (("h_mid", "h_side", "h_S"), "more than one file is named as side"),
        (("oh_L", "oh_R", "oh_Ltf"), "oh_Ltf may be another channel of it"),
        (("oh_L", "oh_R", "OH_tbr"), "OH_tbr may be another channel of it"),
    ],
)
def test_ambiguous_names_are_shown_and_not_guessed(names: tuple[str, ...], why: str) -> None:
    sets, (unclear,) = find_sets(names)
    assert sets == []
    assert why in unclear.reason
    assert unclear.members == (0, 1, 2)


@pytest.mark.parametrize(
    "marks", ["L R C Lfe Lss Rss Lsr Rsr", "L R C Lfe Ls Rs Lb Rb", "Left Right Center LFE Lss Rss Lrs Rrs"]
)
def test_eight_files_are_never_read_as_six(marks: str) -> None:
    """With rear surrounds in either spelling it is 7.1; what is not known stops the rest instead."""
    (found,), unclear = find_sets([f"big {mark}" for mark in marks.split()])
    assert (find_layout(found.speakers), len(found.members), unclear) == ("7.1", 8, [])
    sets, (odd,) = find_sets([f"big_{mark}" for mark in ("L", "R", "C", "LFE", "Ls", "Rs", "Ltm", "Rtm")])
    assert (sets, len(odd.members)) == ([], 8)
    assert odd.reason == "big_Ltm and big_Rtm may be other channels of it"


@pytest.mark.parametrize("third", ["room", "top", "close", "sub", "di", "amp", "far", "3", "mono"])
def test_another_microphone_leaves_a_pair_alone(third: str) -> None:
    (found,), unclear = find_sets(["gtr_L", "gtr_R", f"gtr_{third}"])
    assert (found.members, unclear) == ((0, 1), [])


def test_a_pair_by_numbers_says_so() -> None:
    (takes,), _ = find_sets(["vox take 1", "vox take 2"])
    (pair,), _ = find_sets(["vox_L", "vox_R"])
    assert (takes.by_number, pair.by_number) == (True, False)


def test_files_of_different_folders_are_not_paired() -> None:
    names = ["a_L", "a_R", "a_L", "a_R"]
    sets, unclear = find_sets(names, ["x", "x", "y", "y"])
    assert [found.members for found in sets] == [(0, 1), (2, 3)]
    assert unclear == []
    assert find_sets(names[:2], ["x", "y"]) == ([], [])


stems = st.from_regex(r"[a-z]{3,8}( [a-z]{3,5})?", fullmatch=True).filter(
    lambda stem: (
        not {"left", "right", "mid", "side", "centre", "center", "lfe", "lsr", "lrs", "rsr", "rrs"} & set(stem.split())
    )
)


@given(st.lists(stems, min_size=1, max_size=8, unique=True), st.sampled_from(sorted(LAYOUTS)), st.randoms())
def test_random_sets_are_matched_in_any_order(bases: list[str], layout: str, random) -> None:  # type: ignore[no-untyped-def]
    (speakers, *_) = LAYOUTS[layout]  # type: ignore[index]
    names = [f"{base}_{speaker}" for base in bases for speaker in speakers]
    random.shuffle(names)
    sets, unclear = find_sets(names)
    assert unclear == []
    assert sorted([names[i] for i in found.members] for found in sets) == sorted(
        [f"{base}_{speaker}" for speaker in speakers] for base in bases
    )


@given(st.lists(st.text(max_size=20), max_size=8))
def test_no_name_is_in_two_sets(names: list[str]) -> None:
    sets, _ = find_sets(names)
    used = [i for found in sets for i in found.members]
    assert len(used) == len(set(used))


def test_shared_part_of_names() -> None:
    assert common_name(["door close", "door open"]) == "door"
    assert common_name(["wind", "sea"]) == "wind + sea"


@pytest.mark.parametrize(
    "name",
    [" " * 100_000, "a" + " " * 100_000 + "L", "x_" + "1" * 100_000, "x" + "_1" * 50_000, "(" * 100_000,
     "x_L" + " " * 50_000 + "t" + " " * 50_000 + "7", "x_L" + " " * 100_000 + "z", "a" + " (" * 50_000,
     "x" + "-" * 100_000 + "ms "],
)  # fmt: skip
def test_a_name_takes_no_more_than_linear_time(name: str) -> None:
    """Of a hundred thousand characters, which in quadratic time would take hours."""
    read_name(name)
    without_mid_side(name)


@pytest.mark.parametrize("names", [
    ("interview 3 L (1)", "interview 3 R (1)"), ("kick_L (2)", "kick_R (2)"), ("Front_Left (1)", "Front_Right (1)"),
    ("kick_L - Copy", "kick_R - Copy"), ("kick L copy", "kick R copy"), ("kick_L - Copy (2)", "kick_R - Copy (2)"),
])  # fmt: skip
def test_copies_of_both_sides_belong_together(names: tuple[str, str]) -> None:
    match = find_set(names)
    assert match is not None
    assert (match.kind, match.members, match.by_number) == ("stereo-pair", (0, 1), False)


@pytest.mark.parametrize("names", [
    ("kick_L (1)", "kick_R"), ("kick_L (1)", "kick_R (2)"), ("kick_L", "kick_L (1)"), ("loop (1)", "loop (2)"),
    ("scopy", "rcopy"),
])  # fmt: skip
def test_a_copy_is_no_side_and_belongs_to_no_other_copy(names: tuple[str, str]) -> None:
    match = find_set(names)
    assert match is None or match.by_number


def test_speakers_in_words_and_leftovers_that_are_asked_about() -> None:
    """As stems are named that come from another room; `Ltf` is a speaker of no layout here."""
    words = ("Left", "Right", "Center", "Sub", "Left Surround", "Right Surround")
    named = find_set([f"Harbour {word}" for word in words])
    assert named is not None
    assert (named.name, find_layout(named.speakers)) == ("Harbour", "5.1")
    alone = find_set(words[::-1])
    assert alone is not None
    assert [words[::-1][i] for i in alone.members] == list(words)
    marks = ("L", "R", "C", "Lfe", "Ls", "Rs", "Ltf", "Rtf")
    found, unclear = find_sets([f"Harbour {mark}" for mark in marks])
    assert (found, len(unclear)) == ([], 1)
    assert "Harbour Ltf and Harbour Rtf may be other channels of it" in unclear[0].reason
