"""Which sources of a worksheet belong together: as their names say, and as the user put them by hand."""

from collections.abc import Sequence
from dataclasses import dataclass

from wedge_turn.core.plan import source_ref
from wedge_turn.core.sets import Ambiguity, Kind, sets_among
from wedge_turn.core.sheet import Sheet
from wedge_turn.core.turns import AnyTurn, Decode, Merge


@dataclass(frozen=True)
class Group:
    """References to sources in channel order. `by_hand` says that the order is the user's, not that of the names."""

    kind: Kind
    name: str
    members: tuple[str, ...]
    speakers: tuple[str, ...]
    by_hand: bool = False

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


def groups_of(sheet: Sheet, sources: Sequence[str], folders: Sequence[str]) -> tuple[list[Group], list[Unclear]]:
    """Groups among the mono sources of these ids that are not archived; `folders` says where each came from."""
    archived = set(sheet.plan.archived)
    shown = [
        (source_ref(source), folder)
        for source, folder in zip(sources, folders, strict=True)
        if source_ref(source) not in archived and sheet.info(source_ref(source)).form.channels == 1
    ]
    refs = [ref for ref, _ in shown]
    sets, ambiguities = sets_among([sheet.info(ref).name for ref in refs], [folder for _, folder in shown])
    by_hand = {frozenset(pairing.members): pairing for pairing in sheet.plan.pairings}
    groups = []
    for match in sets:
        members = tuple(refs[i] for i in match.members)
        pairing = by_hand.get(frozenset(members))
        if pairing is None:
            groups.append(Group(match.kind, match.name, members, match.speakers))
        elif pairing.together:
            turned = pairing.members != members
            # The decode of an exchanged pair exchanges by itself: its members stay as their names say.
            order = members if match.kind == "mid-side" else pairing.members
            groups.append(Group(match.kind, match.name, order, match.speakers, turned))
    return groups, [_unclear(ambiguity, refs) for ambiguity in ambiguities]


def _unclear(ambiguity: Ambiguity, refs: Sequence[str]) -> Unclear:
    return Unclear(ambiguity.name, tuple(refs[i] for i in ambiguity.members), ambiguity.reason)


def merges_of(sheet: Sheet, groups: Sequence[Group]) -> list[tuple[Merge, tuple[str, ...]]]:
    """Every merge of two clips that is made or offered: what two files say together is measured on it."""
    offered = [(group.turn, group.members) for group in groups]
    lines = [(step.turn, step.inputs) for step in sheet.plan.steps if step.id not in sheet.waiting]
    return [(turn, inputs) for turn, inputs in offered + lines if isinstance(turn, Merge) and len(inputs) == 2]
