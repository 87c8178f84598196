"""Names as they are shown, and names that every file system takes."""

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wedge_turn.core.errors import BadNameError
from wedge_turn.core.naming import check_given_folder, check_given_name, make_file_names, stem


def test_stems() -> None:
    assert stem("a.b.wav") == "a.b"
    assert stem(".hidden") == ".hidden"


@pytest.mark.parametrize(
    ("given_name", "shown"),
    [("../../etc/x.wav", "x.wav"), ("C:\\sounds\\x.wav", "x.wav"), ("a\nb\0c.wav", "abc.wav"),
     ("abc\u202evaw.wav", "abcvaw.wav"), ("é.wav", "é.wav"), (" x.wav ", "x.wav")],
)  # fmt: skip
def test_given_names_lose_invisible_characters(given_name: str, shown: str) -> None:
    assert check_given_name(given_name) == shown


@pytest.mark.parametrize("name", ["", "..", "a/..", "\n\n", "/", "\u202e"])
def test_names_of_nothing_are_refused(name: str) -> None:
    with pytest.raises(BadNameError):
        check_given_name(name)


@given(st.lists(st.text(max_size=300), min_size=1, max_size=6))
def test_file_names_are_safe_and_unique_everywhere(wanted: list[str]) -> None:
    names = make_file_names((name, ".wav") for name in wanted)
    assert len({unicodedata.normalize("NFC", name).casefold() for name in names}) == len(wanted)
    for name in names:
        assert len(name.encode()) <= 255
        assert not set(name) & set('<>:"/\\|?*\0\n')
        assert not name.removesuffix(".wav").endswith((" ", "."))
        assert name.split(".")[0].upper() not in {"CON", "NUL", "PRN", "AUX", "COM1", "LPT1"}


def test_folders_are_for_the_eye_only() -> None:
    assert check_given_folder("../shoot/./day 1\\rolls\0") == "shoot/day 1/rolls"
    assert check_given_folder("..") == ""


def test_names_that_differ_only_in_case_get_numbers() -> None:
    assert make_file_names((name, ".wav") for name in ("Bell", "bell", "BELL")) == [
        "Bell.wav",
        "bell (2).wav",
        "BELL (3).wav",
    ]
