"""What names say: which side a file is, what a pair shares, and names that every file system takes.

That L/R, Left/Right, M/S and 1/2 at the end of a name mark the members of a pair is common practice, no
source. A mark counts only when something sets it apart from the word before it: `ball` and `bar` are no pair.
"""

import re
import unicodedata
from collections.abc import Iterable
from typing import Final, Literal

from pathvalidate import sanitize_filename

from wedge_turn.core.errors import BadNameError

Side = Literal["left", "right"]

LONGEST: Final = 180  # bytes of UTF-8: leaves room for endings, a number and a temporary mark below 255
_MARK: Final = re.compile(
    r"""^(?P<stem>.*?)                                 # the shared part
        (?:(?P<sep>[\s._\-]+)|(?P<open>[\s._\-]*\())   # a separator or a bracket
        (?P<mark>l|r|left|right|1|2)
        (?(open)\))
        (?P<take>[\s._\-]*(?:take|tk|t)?[\s._\-]*\d+)?$""",
    re.IGNORECASE | re.VERBOSE,
)
# The whole name, or the first word of it: `left`, `R`, `Right channel`.
_FIRST: Final = re.compile(r"^(?P<mark>l|r|left|right)(?:[\s._\-]+(?P<rest>.*))?$", re.IGNORECASE)
_NAMELESS: Final = "stereo"  # what sides are called together that share nothing else
_SIDES: Final[dict[str, Side]] = {
    "l": "left", "left": "left", "1": "left", "r": "right", "right": "right", "2": "right",
}  # fmt: skip


def stem(name: str) -> str:
    """A file's name without its last extension of up to five letters or digits."""
    return re.sub(r"(?<=.)\.[A-Za-z0-9]{1,5}$", "", name)


def split_side(name: str) -> tuple[str, Side] | None:
    """The part of a name that its pair shares, and the side it says it is; None where it says none."""
    if first := _FIRST.match(name):
        return first["rest"] or _NAMELESS, _SIDES[first["mark"].lower()]
    found = _MARK.match(name)
    if found is None or not found["stem"]:
        return None
    return found["stem"] + (found["take"] or ""), _SIDES[found["mark"].lower()]


def left_right(first: str, second: str) -> tuple[int, int] | None:
    """Positions of left and right among two names, or None where the names don't tell."""
    a, b = split_side(first), split_side(second)
    if a is None or b is None or a[0].casefold() != b[0].casefold() or a[1] == b[1]:
        return None
    return (0, 1) if a[1] == "left" else (1, 0)


def shared(names: Iterable[str]) -> str:
    """What a set of names has in common: their shared part, or else the names joined."""
    listed = list(names)
    if len(listed) == 2 and left_right(*listed) is not None:
        told = split_side(listed[0])
        assert told is not None
        return told[0]
    start = listed[0]
    for name in listed[1:]:
        while not name.casefold().startswith(start.casefold()):
            start = start[:-1]
    start = start.rstrip(" ._-(")
    return start if len(start) >= 3 else " + ".join(listed[:3])


def check_given_name(name: str) -> str:
    """The name a file was given, as it will be shown. Raises BadNameError for what no file can be called.

    Folders are cut off, and so are invisible characters: control characters and marks of writing direction
    could make a name look like another.
    """
    base = unicodedata.normalize("NFC", name.replace("\\", "/").rsplit("/", 1)[-1])
    visible = "".join(c for c in base if unicodedata.category(c) not in ("Cc", "Cf", "Cs", "Co", "Cn")).strip()
    if not visible.strip(". "):
        raise BadNameError("A file without a name cannot be taken in")
    return shortened(visible, 255)


def shortened(text: str, limit: int) -> str:
    """The text cut to at most `limit` bytes of UTF-8, whole characters only."""
    return text.encode()[:limit].decode(errors="ignore")


def safe_file_names(wanted: Iterable[str], extension: str) -> list[str]:
    """A name for each that common file systems take, different even where upper and lower case are the same."""
    taken: set[str] = set()
    names: list[str] = []
    for want in wanted:
        base = sanitize_filename(unicodedata.normalize("NFC", want), replacement_text="_", platform="universal")
        base = "".join(c for c in base if unicodedata.category(c) not in ("Cc", "Cf", "Cs", "Co", "Cn"))
        base = shortened(base.strip(" ."), LONGEST).rstrip(" .") or "clip"
        name, number = base, 1
        while name.casefold() in taken:
            number += 1
            name = f"{base} ({number})"
        taken.add(name.casefold())
        names.append(name + extension)
    return names


def pairs_among(names: list[str]) -> list[tuple[str, tuple[int, int]]]:
    """Pairs of sides among names: what each is called, and the positions of left and right.

    A shared part that more than two names have is no pair: nothing says which belong together.
    """
    sides: dict[str, list[tuple[int, str, Side]]] = {}
    for i, name in enumerate(names):
        if told := split_side(name):
            sides.setdefault(told[0].casefold(), []).append((i, *told))
    pairs = []
    for members in sides.values():
        if len(members) == 2 and members[0][2] != members[1][2]:
            left, right = sorted(members, key=lambda member: member[2])
            pairs.append((left[1], (left[0], right[0])))
    return pairs
