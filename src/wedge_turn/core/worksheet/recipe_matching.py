"""Which files of a selection take which role of a recipe.

By *role*: what the names of files mark decides who is left and who is right, and the number of channels; a recipe is
applied as often as there are files for all its roles. By *name*: files with the names of those that the recipe was
saved from. In *order*: the files as they were chosen.
"""

from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.naming import find_sets
from wedge_turn.core.worksheet.plan import Step
from wedge_turn.core.worksheet.recipe import Recipe, Role, marks_of

Matching = Literal["role", "name", "order"]
_Needs = frozenset[tuple[str, int]]


@dataclass(frozen=True)
class Candidate:
    """A clip that could take a role; names of different folders never belong together."""

    ref: str
    name: str
    channels: int
    folder: str = ""


@dataclass(frozen=True)
class Match:
    """A recipe's files: for each time that it is applied, a candidate for each role by its id; and those left over."""

    times: tuple[dict[str, Candidate], ...]
    left_over: tuple[Candidate, ...]

    def steps(self, recipe: Recipe, ids: Iterator[str]) -> tuple[Step, ...]:
        """The recipe's lines on these files; `ids` names them."""
        return tuple(
            step
            for files in self.times
            for step in recipe.steps({role: (candidate.ref, candidate.name) for role, candidate in files.items()}, ids)
        )


def match_files(recipe: Recipe, candidates: Sequence[Candidate], by: Matching = "role") -> Match:
    """Find files for a recipe's roles. Raises TurnInputError where not even one time has all of them."""
    match by:
        case "name":
            times = [_by_name(recipe, candidates)]
        case "order":
            times = _in_order(recipe, candidates)
        case "role":
            times = _by_role(recipe, candidates)
    used = {candidate.ref for files in times for candidate in files.values()}
    return Match(tuple(times), tuple(candidate for candidate in candidates if candidate.ref not in used))


def _by_name(recipe: Recipe, candidates: Sequence[Candidate]) -> dict[str, Candidate]:
    named: dict[str, list[Candidate]] = {}
    for candidate in candidates:
        named.setdefault(candidate.name.casefold(), []).append(candidate)
    files: dict[str, Candidate] = {}
    for role in recipe.roles:
        if not role.name:
            raise TurnInputError(f"“{recipe.name}” doesn't say what the file for {role.label} was called")
        same_name = named.get(role.name.casefold(), [])
        if not same_name:
            raise TurnInputError(f"“{recipe.name}” needs a file named {role.name} ({role.label})")
        if len(same_name) > 1:
            raise TurnInputError(f"“{recipe.name}” needs one file named {role.name}; there are {len(same_name)}")
        files[role.id] = _fitting(recipe, role, same_name[0])
    return files


def _in_order(recipe: Recipe, candidates: Sequence[Candidate]) -> list[dict[str, Candidate]]:
    count = len(recipe.roles)
    if not candidates or len(candidates) % count:
        each = f"{count} files" if count > 1 else "a file"
        raise TurnInputError(
            f"“{recipe.name}” takes {each} each time ({_labels(recipe)}); {len(candidates)} are selected"
        )
    return [
        {
            role.id: _fitting(recipe, role, candidate)
            for role, candidate in zip(recipe.roles, candidates[at : at + count], strict=True)
        }
        for at in range(0, len(candidates), count)
    ]


def _fitting(recipe: Recipe, role: Role, candidate: Candidate) -> Candidate:
    if candidate.channels != role.channels:
        raise TurnInputError(
            f"“{recipe.name}” needs {role.channels} channel{'s' if role.channels > 1 else ''} for {role.label}; "
            f"{candidate.name} has {candidate.channels}"
        )
    return candidate


def _by_role(recipe: Recipe, candidates: Sequence[Candidate]) -> list[dict[str, Candidate]]:
    units = _units(recipe)
    needed = Counter(_needs(roles) for roles in units)
    supply: dict[_Needs, list[dict[str, Candidate]]] = defaultdict(list)
    in_sets: set[int] = set()
    sets, _ = find_sets([candidate.name for candidate in candidates], [candidate.folder for candidate in candidates])
    for name_set in sets:
        if name_set.by_number:
            continue
        files = {mark: candidates[place] for place, mark in marks_of(name_set).items()}
        needs = frozenset((mark, candidate.channels) for mark, candidate in files.items())
        if needs in needed:
            supply[needs].append(files)
            in_sets |= set(name_set.members)
    for place, candidate in enumerate(candidates):
        if place not in in_sets:
            supply[frozenset({("", candidate.channels)})].append({"": candidate})
    count = min(len(supply[needs]) // number for needs, number in needed.items())
    if not count:
        raise TurnInputError(
            f"Nothing selected fits “{recipe.name}”, which needs {_labels(recipe)}: select such files, or apply it in "
            "order"
        )
    rest = {needs: iter(files) for needs, files in supply.items()}
    return [
        {
            role.id: files[role.mark if role.set else ""]
            for roles in units
            for files in [next(rest[_needs(roles)])]
            for role in roles
        }
        for _ in range(count)
    ]


def _units(recipe: Recipe) -> list[list[Role]]:
    """Roles that are filled together: those of a set, and every other one by itself."""
    units: dict[int | str, list[Role]] = defaultdict(list)
    for role in recipe.roles:
        units[role.set or role.id].append(role)
    return list(units.values())


def _needs(roles: Sequence[Role]) -> _Needs:
    """What the files of these roles must be: what each marks, and its channels."""
    return frozenset((role.mark if role.set else "", role.channels) for role in roles)


def _labels(recipe: Recipe) -> str:
    labels = [role.label for role in recipe.roles]
    return f"{', '.join(labels[:-1])} and {labels[-1]}" if len(labels) > 1 else labels[0]
