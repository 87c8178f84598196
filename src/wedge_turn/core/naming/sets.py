"""Which files belong together by their names: sides, mid and side, the speakers of a layout.

That L/R, Left/Right, M/S, speaker names and 1/2 at the end of a name, before or after a take number, mark what
belongs together is common practice, no source; so are the ` (1)` of a second download and the ` - Copy` of a second
file. A mark counts only when something sets it apart from the word before it, and only together with its counterparts
under the same rest of the name in the same folder: `ball` and `bar` are no pair, nor is a lone `_L`. What could be read
in two ways is named as ambiguous and left alone. A number is far more often a take than a channel: a pair by 1 and 2
says so (`by_number`), and is never more than a question.
"""

import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final, Literal

from wedge_turn.core.form import SPEAKERS
from wedge_turn.core.naming.names import join_words

Kind = Literal["stereo-pair", "mid-side", "layout"]
Family = Literal["speakers", "mid-side", "numbers"]

# What a speaker is called in names, in lower case; of several words, whatever is between them. Ls and Rs are the
# surrounds at the side (ITU-R BS.775).
_SPEAKERS: Final[dict[str, str]] = {
    "l": "FL", "left": "FL", "fl": "FL", "lt": "FL", "r": "FR", "right": "FR", "fr": "FR", "rt": "FR",
    "c": "FC", "fc": "FC", "centre": "FC", "center": "FC", "lfe": "LFE", "sub": "LFE", "subwoofer": "LFE",
    "left surround": "SL", "right surround": "SR", "left rear surround": "BL", "right rear surround": "BR",
    "left back surround": "BL", "right back surround": "BR", "centre surround": "BC", "center surround": "BC",
    "ls": "SL", "lss": "SL", "sl": "SL", "rs": "SR", "rss": "SR", "sr": "SR",
    "bl": "BL", "lb": "BL", "rl": "BL", "lsr": "BL", "lrs": "BL",
    "br": "BR", "rb": "BR", "rr": "BR", "rsr": "BR", "rrs": "BR",
    "lc": "FLC", "rc": "FRC", "bc": "BC", "cs": "BC",
}  # fmt: skip
_MID_SIDE: Final[dict[str, str]] = {"m": "mid", "mid": "mid", "s": "side", "side": "side"}
_FAMILIES: Final[tuple[Family, ...]] = ("speakers", "mid-side", "numbers")
_NAMELESS: Final[dict[Family, str]] = {"speakers": "stereo", "mid-side": "mid-side", "numbers": "stereo"}

# Speakers of the layouts, in the order of their bits in the mask; the surrounds of 5.x stand aside or behind.
LayoutName = Literal["stereo", "LCR", "quad", "LCRS", "5.0", "5.1", "6.1", "7.0", "7.1"]
LAYOUTS: Final[dict[LayoutName, tuple[tuple[str, ...], ...]]] = {
    "stereo": (("FL", "FR"),),
    "LCR": (("FL", "FR", "FC"),),
    "quad": (("FL", "FR", "BL", "BR"), ("FL", "FR", "SL", "SR")),
    "LCRS": (("FL", "FR", "FC", "BC"),),
    "5.0": (("FL", "FR", "FC", "SL", "SR"), ("FL", "FR", "FC", "BL", "BR")),
    "5.1": (("FL", "FR", "FC", "LFE", "SL", "SR"), ("FL", "FR", "FC", "LFE", "BL", "BR")),
    "6.1": (("FL", "FR", "FC", "LFE", "BC", "SL", "SR"), ("FL", "FR", "FC", "LFE", "BL", "BR", "BC")),
    "7.0": (("FL", "FR", "FC", "BL", "BR", "SL", "SR"),),
    "7.1": (("FL", "FR", "FC", "LFE", "BL", "BR", "SL", "SR"),),
}

_BY_SPEAKERS: Final = {frozenset(variant): name for name, variants in LAYOUTS.items() for variant in variants}

_SEP: Final = r"[\s._\-]"
_WORDS: Final = sorted({**_SPEAKERS, **_MID_SIDE}, key=len, reverse=True)
_MARKS: Final = "|".join([r"\d++", *(word.replace(" ", f"{_SEP}?") for word in _WORDS)])
_BETWEEN: Final = re.compile(_SEP)
_BY_MARK: Final = {word.replace(" ", ""): speaker for word, speaker in _SPEAKERS.items()}
# Before the end of the name, and before a take number at the end of it. A run of separators is only tried as a whole,
# so that no name takes more than linear time.
_RUN: Final = rf"(?<!{_SEP}){_SEP}"
_LAST: Final = [
    re.compile(
        rf"^(?P<stem>.*?)(?:{_RUN}++|(?P<open>(?:{_RUN}++)?[(\[]))(?P<mark>{_MARKS})(?(open)[)\]])(?P<take>{take})$",
        re.IGNORECASE,
    )
    for take in (
        "",
        rf"{_SEP}*+(?:take|tk|t)?{_SEP}*+\d++",
        rf"{_SEP}*+\(\d++\)",
        rf"{_SEP}++copy(?:{_SEP}*+\(?\d++\)?)?+",
    )
]
# What looks like a speaker at the end of a name, whether or not it is one that is known here: `Ltf`, `TBR`, `LFE2`.
_LIKE_A_SPEAKER: Final = re.compile(
    r"(?:[lr][bcfhmstw]{0,3}|[bt][lrc]{1,2}|t[bfmrs][lrc]|c[hlrst]?|lfe\d?)", re.IGNORECASE
)
_LAST_WORD: Final = re.compile(
    rf"^(?P<stem>.*?)(?:{_RUN}++|(?P<open>(?:{_RUN}++)?[(\[]))(?P<word>[A-Za-z]{{1,4}}+\d?)(?(open)[)\]])$"
)
# The whole name, or the first word of it: `left`, `R`, `Right channel`.
_FIRST: Final = re.compile(rf"^(?P<mark>{_MARKS})(?:{_SEP}+(?P<rest>.*))?$", re.IGNORECASE)
# What a file that carries mid and side on its two channels is called.
_BOTH: Final = re.compile(rf"{_RUN}++(?:ms|m-s|m/s|mid-?side)$", re.IGNORECASE)


def without_mid_side(name: str) -> str | None:
    """The rest of a name that ends by saying that the clip carries mid and side, as `swell_ms` does; else None."""
    rest = _BOTH.sub("", name)
    return rest if rest and rest != name else None


@dataclass(frozen=True)
class Reading:
    """One way to read a name: what it shares with its set, and what it marks: a speaker, mid or side, a number."""

    shared: str
    family: Family
    mark: str


@dataclass(frozen=True)
class NameSet:
    """Names that belong together: positions in channel order, and the speaker of each (none for mid and side).
    `by_number` says that all that tells left from right is a 1 and a 2.
    """

    kind: Kind
    name: str
    members: tuple[int, ...]
    speakers: tuple[str, ...] = ()
    by_number: bool = False


@dataclass(frozen=True)
class Ambiguity:
    """Names that could belong together in more than one way, or not quite."""

    name: str
    members: tuple[int, ...]
    reason: str


@lru_cache(maxsize=20_000)
def read_name(name: str) -> tuple[Reading, ...]:
    """Every way to read a name; most have none."""
    distinct: dict[Reading, None] = {}
    for pattern in _LAST:
        if (match := pattern.match(name)) and match["stem"]:
            for reading in _read(match["stem"] + match["take"], match["mark"]):
                distinct[reading] = None
    if match := _FIRST.match(name):
        for reading in _read(match["rest"] or "", match["mark"]):
            if reading.family != "numbers":
                distinct[reading] = None
    return tuple(distinct)


def _read(shared: str, mark: str) -> Iterator[Reading]:
    meanings: dict[Family, str | None] = {
        "speakers": _BY_MARK.get(_BETWEEN.sub("", mark.lower())),
        "mid-side": _MID_SIDE.get(mark.lower()),
        "numbers": mark if mark.isdigit() else None,
    }
    for family, meaning in meanings.items():
        if meaning is not None:
            yield Reading(shared or _NAMELESS[family], family, meaning)


def find_layout(speakers: Iterable[str]) -> LayoutName | None:
    """The layout that has exactly these speakers."""
    return _BY_SPEAKERS.get(frozenset(speakers))


def find_sets(names: Sequence[str], folders: Sequence[str] | None = None) -> tuple[list[NameSet], list[Ambiguity]]:
    """The sets among names, and what is ambiguous. Names of different `folders` never belong together."""
    places = folders or [""] * len(names)
    groups: dict[tuple[str, str, Family], list[tuple[int, Reading]]] = defaultdict(list)
    for i, name in enumerate(names):
        for reading in read_name(name):
            groups[places[i], reading.shared.casefold(), reading.family].append((i, reading))
    like_speakers = _find_like_speakers(names, places)
    sets: list[NameSet] = []
    ambiguities: list[Ambiguity] = []
    used: set[int] = set()
    # A name that says a speaker is not read as a number as well: families are gone through in this order.
    for family in _FAMILIES:
        matches = [
            match
            for key, members in groups.items()
            if key[2] == family and not any(i in used for i, _ in members)
            for match in [_match(family, members)]
            if match is not None
        ]
        uses = Counter(i for match in matches for i in match.members)
        for match in matches:
            if isinstance(match, Ambiguity):
                ambiguities.append(match)
            elif any(uses[i] > 1 for i in match.members):
                reason = "the name can be read in more than one way"
                ambiguities.append(Ambiguity(match.name, match.members, reason))
            elif more := _further_speakers(match, places, like_speakers):
                listed = join_words([names[i] for i in more])
                reason = f"{listed} may be {'another channel' if len(more) == 1 else 'other channels'} of it"
                ambiguities.append(Ambiguity(match.name, (*match.members, *more), reason))
            else:
                sets.append(match)
        used |= set(uses)
    sets.sort(key=lambda match: min(match.members))
    return sets, ambiguities


def _match(family: Family, members: list[tuple[int, Reading]]) -> NameSet | Ambiguity | None:
    if family == "speakers" and {reading.mark for _, reading in members} == {"FL", "FR", "LFE"}:
        # Beside left and right alone, a sub is another microphone.
        members = [(i, reading) for i, reading in members if reading.mark != "LFE"]
    marks = [reading.mark for _, reading in members]
    distinct = set(marks)
    positions = tuple(i for i, _ in members)
    name = members[0][1].shared
    if len(distinct) < 2:
        return None
    if family == "numbers":
        if sorted(marks) != ["1", "2"]:
            return None
        return NameSet("stereo-pair", name, _ordered(members, ("1", "2")), ("FL", "FR"), by_number=True)
    if len(marks) > len(distinct):
        double = next(mark for mark in marks if marks.count(mark) > 1)
        return Ambiguity(name, positions, f"more than one file is named as {_name_of(double)}")
    if family == "mid-side":
        return NameSet("mid-side", name, _ordered(members, ("mid", "side")))
    if find_layout(distinct) is None:
        return Ambiguity(name, positions, f"{', '.join(_name_of(mark) for mark in marks)} are not a known layout")
    order = tuple(speaker for speaker in SPEAKERS if speaker in distinct)
    kind: Kind = "stereo-pair" if order == ("FL", "FR") else "layout"
    return NameSet(kind, name, _ordered(members, order), order)


def _find_like_speakers(names: Sequence[str], places: Sequence[str]) -> dict[tuple[str, str], list[int]]:
    """Names that end like a speaker, by their folder and what is before it."""
    groups: dict[tuple[str, str], list[int]] = defaultdict(list)
    for i, name in enumerate(names):
        if (last := _LAST_WORD.match(name)) and _LIKE_A_SPEAKER.fullmatch(last["word"]):
            groups[places[i], last["stem"].casefold()].append(i)
    return groups


def _further_speakers(
    match: NameSet, places: Sequence[str], like_speakers: Mapping[tuple[str, str], Sequence[int]]
) -> tuple[int, ...]:
    """Names in the folder of a set of speakers that have its name and end like a speaker, without being among it."""
    if not match.speakers or match.by_number:
        return ()
    alike = like_speakers.get((places[match.members[0]], match.name.casefold()), ())
    return tuple(i for i in alike if i not in match.members)


def _ordered(members: list[tuple[int, Reading]], order: tuple[str, ...]) -> tuple[int, ...]:
    at = {reading.mark: i for i, reading in members}
    return tuple(at[mark] for mark in order)


def _name_of(mark: str) -> str:
    return {"FL": "left", "FR": "right", "FC": "centre"}.get(mark, mark)


def find_set(names: Sequence[str]) -> NameSet | None:
    """The one set that all of these names make, or None where the names don't tell."""
    return _set_of(tuple(names))


@lru_cache(maxsize=5_000)
def _set_of(names: tuple[str, ...]) -> NameSet | None:
    sets, _ = find_sets(names)
    return sets[0] if len(sets) == 1 and len(sets[0].members) == len(names) else None


def common_name(names: Iterable[str]) -> str:
    """What several names have in common: the name of their set, or else their shared beginning, or the names joined."""
    listed = list(names)
    if name_set := find_set(listed):
        return name_set.name
    start = listed[0]
    for name in listed[1:]:
        while not name.casefold().startswith(start.casefold()):
            start = start[:-1]
    start = start.rstrip(" ._-(")
    return start if len(start) >= 3 else " + ".join(listed[:3])
