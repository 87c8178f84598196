"""Names: which say a side, which belong together, and which every file system takes. Common practice, no source."""

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wedge_turn.core.errors import BadNameError
from wedge_turn.core.naming import check_given_name, left_right, pairs_among, safe_file_names, shared, split_side, stem


@pytest.mark.parametrize(
    ("left", "right", "together"),
    [
        ("lamp-bell_L", "lamp-bell_R", "lamp-bell"), ("Room.L", "Room.R", "Room"), ("hall L", "hall R", "hall"),
        ("choir-left", "choir-right", "choir"), ("Steps (L)", "Steps (R)", "Steps"), ("Sea Left", "Sea RIGHT", "Sea"),
        ("gate_L_03", "gate_R_03", "gate_03"), ("pair.1", "pair.2", "pair"), ("a_1", "a_2", "a"),
        ("left", "Right", "stereo"), ("L", "R", "stereo"),
        ("Left channel", "right channel", "channel"),
    ],
)  # fmt: skip
def test_sides_by_name_in_either_order(left: str, right: str, together: str) -> None:
    assert left_right(left, right) == (0, 1)
    assert left_right(right, left) == (1, 0)
    assert shared([right, left]) == together
    assert pairs_among([right, "other", left]) == [(shared([left, right]), (2, 0))]


@pytest.mark.parametrize(
    ("a", "b"),
    [("ball", "bar"), ("gull", "gulr"), ("lamp_L", "lamp_L"), ("lamp_L", "bell_R"), ("_L", "_R"), ("take1", "take2"),
     ("gate_L_01", "gate_R_02"), ("lamp_L", "lamp")],
)  # fmt: skip
def test_no_pair_is_made_of_a_coincidence(a: str, b: str) -> None:
    assert left_right(a, b) is None
    assert pairs_among([a, b]) == []


def test_three_of_a_kind_are_no_pair() -> None:
    assert pairs_among(["bell_L", "bell_R", "bell_R"]) == []


def test_what_names_share() -> None:
    assert shared(["door close", "door open"]) == "door"
    assert shared(["wind", "sea"]) == "wind + sea"
    assert split_side("nothing") is None
    assert stem("a.b.wav") == "a.b"
    assert stem(".hidden") == ".hidden"


@pytest.mark.parametrize(
    ("given_name", "shown"),
    [("../../etc/x.wav", "x.wav"), ("C:\\sounds\\x.wav", "x.wav"), ("a\nb\0c.wav", "abc.wav"),
     ("abc\u202evaw.wav", "abcvaw.wav"), ("é.wav", "é.wav"), (" x.wav ", "x.wav")],
)  # fmt: skip
def test_given_names_are_cut_to_what_can_be_seen(given_name: str, shown: str) -> None:
    assert check_given_name(given_name) == shown


@pytest.mark.parametrize("name", ["", "..", "a/..", "\n\n", "/", "\u202e"])
def test_names_of_nothing_are_refused(name: str) -> None:
    with pytest.raises(BadNameError):
        check_given_name(name)


@given(st.lists(st.text(max_size=300), min_size=1, max_size=6))
def test_file_names_are_safe_and_unique_everywhere(wanted: list[str]) -> None:
    names = safe_file_names(wanted, ".wav")
    assert len({unicodedata.normalize("NFC", name).casefold() for name in names}) == len(wanted)
    for name in names:
        assert len(name.encode()) <= 255
        assert not set(name) & set('<>:"/\\|?*\0\n')
        assert not name.removesuffix(".wav").endswith((" ", "."))
        assert name.split(".")[0].upper() not in {"CON", "NUL", "PRN", "AUX", "COM1", "LPT1"}


def test_names_that_differ_only_in_case_get_numbers() -> None:
    assert safe_file_names(["Bell", "bell", "BELL"], ".wav") == ["Bell.wav", "bell (2).wav", "BELL (3).wav"]
