"""Which sources of a worksheet belong together: as their names say, and as the user put them by hand."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from wedge_turn.core.naming import Ambiguity, Kind, find_sets
from wedge_turn.core.turns import AnyTurn, ClipInfo, Decode, Merge
from wedge_turn.core.worksheet.plan import source_ref
from wedge_turn.core.worksheet.sheet import Sheet

# Channels of one recording are as long to the sample; exports and stops by hand differ by a little. Seconds.
NEARLY: Final = 1.0
# A channel that was started later ends with the others, to the sample of the recorder's clock. Seconds.
EXACTLY: Final = 0.001
NOTHING: Final = 0.01


@dataclass(frozen=True)
class Group:
    """References to sources in channel order. `by_hand` says that the order is the user's, not that of the names;
    `by_number` that the names tell left from right by a 1 and a 2 alone, which may as well be takes.
    """

    kind: Kind
    name: str
    members: tuple[str, ...]
    speakers: tuple[str, ...]
    by_hand: bool = False
    by_number: bool = False

    @property
    def turn(self) -> AnyTurn:
        """What makes one clip of them."""
        if self.kind == "mid-side":
            return Decode(exchange=self.by_hand)
        return Merge(order="given") if self.by_hand else Merge()


@dataclass(frozen=True)
class Unclear:
    """References to sources that could belong together, and why nothing was guessed."""

    name: str
    members: tuple[str, ...]
    reason: str


def find_groups(sheet: Sheet, sources: Sequence[str], folders: Sequence[str]) -> tuple[list[Group], list[Unclear]]:
    """Groups among the mono sources of these ids that are not archived; `folders` says where each came from. Two that
    are numbered and not as long, or not of the same start, are takes and no group.
    """
    archived = set(sheet.plan.archived)
    listed = [
        (source_ref(source), folder)
        for source, folder in zip(sources, folders, strict=True)
        if source_ref(source) not in archived and sheet.info(source_ref(source)).form.channels == 1
    ]
    refs = [ref for ref, _ in listed]
    sets, ambiguities = find_sets([sheet.info(ref).name for ref in refs], [folder for _, folder in listed])
    by_hand = {frozenset(pairing.members): pairing for pairing in sheet.plan.pairings}
    groups = []
    for match in sets:
        members = tuple(refs[i] for i in match.members)
        pairing = by_hand.get(frozenset(members))
        if pairing is None:
            if not match.by_number or are_uneven([sheet.info(ref) for ref in members]) is None:
                groups.append(Group(match.kind, match.name, members, match.speakers, by_number=match.by_number))
        elif pairing.together:
            turned = pairing.members != members
            # The decode of an exchanged pair exchanges by itself: its members stay as their names say.
            order = members if match.kind == "mid-side" else pairing.members
            groups.append(Group(match.kind, match.name, order, match.speakers, turned))
    return groups, [_unclear(ambiguity, refs) for ambiguity in ambiguities]


def are_uneven(clips: Sequence[ClipInfo]) -> str | None:
    """Why clips that should be channels of one recording don't look like it; None where they do: of one rate, with the
    same start and nearly as long, or with another length that their recorded starts explain.
    """
    first, *others = clips
    for other in others:
        rate = first.form.rate
        if other.form.rate != rate:
            return f"{first.name} is at {rate:,} Hz and {other.name} at {other.form.rate:,} Hz"
        starts = first.form.start_time, other.form.start_time
        later = 0 if None in starts else (starts[1] or 0) - (starts[0] or 0)
        shorter = first.form.frames - other.form.frames
        ends_together = abs(shorter - later) <= EXACTLY * rate and abs(later) > NOTHING * rate
        if later and not ends_together:
            when = "later" if later > 0 else "earlier"
            return f"{other.name} starts {abs(later) / rate:,.3f} s {when} than {first.name}"
        if not later and abs(shorter) > NEARLY * rate:
            how = "shorter" if shorter > 0 else "longer"
            return f"{other.name} is {abs(shorter) / rate:,.1f} s {how} than {first.name}"
    return None


def _unclear(ambiguity: Ambiguity, refs: Sequence[str]) -> Unclear:
    return Unclear(ambiguity.name, tuple(refs[i] for i in ambiguity.members), ambiguity.reason)


def list_merges(sheet: Sheet, groups: Sequence[Group]) -> list[tuple[Merge, tuple[str, ...]]]:
    """Every merge of two clips that is made or offered: what two files say together is measured on it."""
    offered = [(group.turn, group.members) for group in groups]
    lines = [(step.turn, step.inputs) for step in sheet.plan.steps if step.id not in sheet.waiting]
    return [(turn, inputs) for turn, inputs in offered + lines if isinstance(turn, Merge) and len(inputs) == 2]
