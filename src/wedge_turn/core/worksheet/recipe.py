"""Lines of a worksheet kept without their files, to be applied to others. Open JSON, by `docs/recipe.schema.json`:

    {"format": "wedge-turn-recipe", "version": 1, "name": "Drums to stereo", "roles": [
        {"id": "1", "label": "left", "channels": 1, "mark": "FL", "set": 1, "name": "kit_L"},
        {"id": "2", "label": "right", "channels": 1, "mark": "FR", "set": 1, "name": "kit_R"}
    ], "lines": [{"id": "1", "turn": {"kind": "merge", …}, "inputs": ["role:1", "role:2"], "names": ["{name} stereo"]}]}

A role stands for a file: what it is called to people, how many channels it has, what its name marks, which roles its
name puts it together with, and the name of the file it stood for.
"""

import re
from collections import Counter
from collections.abc import Collection, Iterator, Mapping, Sequence
from typing import Annotated, Any, Final, Literal, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints, ValidationError, model_validator

from wedge_turn.core.errors import BadRequestError, TurnInputError
from wedge_turn.core.form import MAX_CHANNELS
from wedge_turn.core.naming import NameSet, clean_text, common_name, find_layout, find_set, is_plain_text
from wedge_turn.core.turns import AnyTurn, Decode, Merge
from wedge_turn.core.worksheet.plan import MAX_INPUTS, Identity, ResultName, Step, parse_ref, step_ref
from wedge_turn.core.worksheet.sheet import Sheet
from wedge_turn.core.worksheet.stretch import Stretch

FORMAT: Final = "wedge-turn-recipe"
MAX_LINES: Final = 500
MAX_FILE_BYTES: Final = 4 << 20  # bytes of JSON; 500 lines take a tenth of it
NAME: Final = "{name}"  # in the name of a result: what the files of its roles have in common
_LABELS: Final = {"FL": "left", "FR": "right", "FC": "centre"}
_CHANNELS: Final = {1: "mono", 2: "stereo"}

RoleRef = Annotated[str, StringConstraints(pattern=r"^(role:[A-Za-z0-9_-]{1,64}|line:[A-Za-z0-9_-]{1,64}:[0-9]{1,3})$")]


def _is_text(text: str) -> str:
    if not text.strip() or not is_plain_text(text):
        raise ValueError("a name holds text, without control characters")
    return text


Label = Annotated[str, StringConstraints(min_length=1, max_length=200), AfterValidator(_is_text)]


class Role(BaseModel):
    """What a file must be to take part. Roles of the same `set` (0 for none) belong together by their names, which
    `mark` says in what way: a speaker such as FL, mid or side.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: Identity
    label: Label
    channels: int = Field(ge=1, le=MAX_CHANNELS)
    mark: Annotated[str, StringConstraints(max_length=8)] = ""
    set: int = Field(default=0, ge=0, le=MAX_LINES)
    name: Annotated[str, StringConstraints(max_length=255)] = ""


class RecipeLine(BaseModel):
    """A line as in a worksheet, on roles and on results of earlier lines."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: Identity
    turn: AnyTurn
    inputs: tuple[RoleRef, ...] = Field(min_length=1, max_length=MAX_INPUTS)
    names: tuple[ResultName, ...] = Field(default=(), max_length=64)
    over: Stretch | None = None
    bypassed: bool = False


class Recipe(BaseModel):
    """Lines without files. Every role is used, and lines use results of earlier lines only."""

    model_config = ConfigDict(frozen=True, extra="forbid", title="Wedge Turn recipe")

    format: Literal["wedge-turn-recipe"]
    version: Literal[1] = 1
    name: Label
    roles: tuple[Role, ...] = Field(min_length=1, max_length=MAX_LINES)
    lines: tuple[RecipeLine, ...] = Field(min_length=1, max_length=MAX_LINES)

    @model_validator(mode="after")
    def _inputs_are_there(self) -> Self:
        roles, lines = {role.id for role in self.roles}, set[str]()
        if len(roles) < len(self.roles):
            raise ValueError("two roles have the same id")
        used = set[str]()
        for line in self.lines:
            for ref in line.inputs:
                kind, key = ref.split(":")[:2]
                if key not in (roles if kind == "role" else lines):
                    raise ValueError(f"line {line.id} uses {ref}, which does not come before it")
                used |= {key} if kind == "role" else set()
            if line.id in lines:
                raise ValueError(f"line {line.id} appears twice in the recipe")
            lines.add(line.id)
        if unused := roles - used:
            raise ValueError(f"no line uses the role {min(unused)}")
        return self

    def steps(self, files: Mapping[str, tuple[str, str]], ids: Iterator[str]) -> tuple[Step, ...]:
        """The lines on files, which are given as reference and name by the ids of roles; `ids` names the steps."""
        new = {line.id: next(ids) for line in self.lines}
        roles = _roles_of(self.lines)
        names = {key: name for key, (_, name) in files.items()}

        def ref_of(ref: str) -> str:
            kind, key, *output = ref.split(":")
            return files[key][0] if kind == "role" else step_ref(new[key], int(output[0]))

        return tuple(
            Step(
                id=new[line.id],
                turn=line.turn,
                inputs=tuple(ref_of(ref) for ref in line.inputs),
                names=tuple(
                    clean_text(name.replace(NAME, common_name(names[role] for role in roles[line.id])), 200)
                    for name in line.names
                ),
                over=line.over,
                bypassed=line.bypassed,
            )
            for line in self.lines
        )


_WRONG_TURN: Final = {
    "union_tag_not_found": 'a turn has its kind, as in {"kind": "swap"}',
    "union_tag_invalid": "no turn is of this kind",
}


def parse_recipe(stored: Any) -> Recipe:
    """A recipe from JSON. Raises BadRequestError that says what is wrong with it."""
    if not isinstance(stored, dict) or stored.get("format") != FORMAT:
        raise BadRequestError(
            "This is not a recipe: its format should be wedge-turn-recipe",
            help="Choose a file that was saved or exported as a recipe.",
        )
    if isinstance(version := stored.get("version"), int) and version > 1:
        raise BadRequestError(
            f"This recipe was saved by a newer version of Wedge Turn (format {version})",
            help="Use that version, or save the recipe again in this one.",
        )
    try:
        return Recipe.model_validate(stored)
    except ValidationError as error:
        first = error.errors()[0]
        place = ", ".join(str(part) for part in first["loc"])
        message = _WRONG_TURN.get(first["type"]) or str(first["msg"]).removeprefix("Value error, ")
        raise BadRequestError(f"The recipe can't be read: {f'{place}: ' if place else ''}{message}") from error


def make_recipe(sheet: Sheet, ids: Collection[str], name: str) -> Recipe:
    """These lines of a worksheet as a recipe: whatever they take from elsewhere becomes a role.

    Raises NotFoundError for a line that is not there, TurnInputError for one that waits for an input.
    """
    chosen = {sheet.plan.step(key).id for key in ids}
    for key in chosen & set(sheet.waiting):
        raise TurnInputError(f"A line waits for {sheet.waiting[key]}: choose its input before saving it")
    steps = [_in_channel_order(sheet, step) for step in sheet.plan.steps if step.id in chosen]
    numbers = {step.id: str(n) for n, step in enumerate(steps, 1)}
    roles = _roles(sheet, steps, numbers)

    def ref_of(ref: str) -> str:
        kind, key, output = parse_ref(ref)
        inside = kind == "step" and key in numbers
        return f"line:{numbers[key]}:{output}" if inside else f"role:{roles[ref].id}"

    lines = [
        RecipeLine(
            id=numbers[step.id],
            turn=step.turn,
            inputs=tuple(ref_of(ref) for ref in step.inputs),
            over=step.over,
            bypassed=step.bypassed,
        )
        for step in steps
    ]
    by_id, used = {role.id: role for role in roles.values()}, _roles_of(lines)
    named = [
        line.model_copy(
            update={
                "names": tuple(
                    _generalize(given, common_name(by_id[role].name for role in used[line.id])) for given in step.names
                )
            }
        )
        for line, step in zip(lines, steps, strict=True)
    ]
    return Recipe(format=FORMAT, name=name, roles=tuple(roles.values()), lines=tuple(named))


def _in_channel_order(sheet: Sheet, step: Step) -> Step:
    """A line whose inputs' names say which is left, or mid, with its inputs in that order: a role's files need not be
    named so.
    """
    name_set = find_set([info.name for info in sheet.inputs(step)])
    turn = step.turn
    if name_set is None or not isinstance(turn, Merge | Decode) or (isinstance(turn, Merge) and turn.order == "given"):
        return step
    if isinstance(turn, Merge):
        layout = find_layout(name_set.speakers) if turn.layout == "auto" else turn.layout
        turn = turn.model_copy(update={"order": "given", "layout": layout or turn.layout})
    return step.model_copy(update={"turn": turn, "inputs": tuple(step.inputs[n] for n in name_set.members)})


def _roles(sheet: Sheet, steps: Sequence[Step], inside: Collection[str]) -> dict[str, Role]:
    """The role of each clip that lines take from elsewhere, by its reference, in the order in which they are taken."""
    roles: dict[str, Role] = {}
    sets = 0
    for step in steps:
        outside = [ref for ref in step.inputs if not (parse_ref(ref)[0] == "step" and parse_ref(ref)[1] in inside)]
        new = [ref for ref in dict.fromkeys(outside) if ref not in roles]
        names = [sheet.info(ref).name for ref in new]
        name_set = find_set(names) if len(names) > 1 else None
        sets += name_set is not None
        marks = marks_of(name_set) if name_set else {}
        for n, (ref, name) in enumerate(zip(new, names, strict=True)):
            mark, channels = marks.get(n, ""), sheet.info(ref).form.channels
            label = _LABELS.get(mark, mark) or _CHANNELS.get(channels, f"{channels} channels")
            number = sets if name_set else 0
            roles[ref] = Role(
                id=str(len(roles) + 1), label=label, channels=channels, mark=mark, set=number, name=name[:255]
            )
    counts = Counter(role.label for role in roles.values())
    numbers = Counter[str]()
    for ref, role in roles.items():
        numbers[role.label] += 1
        if counts[role.label] > 1:
            roles[ref] = role.model_copy(update={"label": f"{role.label} {numbers[role.label]}"})
    return roles


def marks_of(name_set: NameSet) -> dict[int, str]:
    """What each name of a set marks, by its position among the names."""
    return dict(zip(name_set.members, name_set.speakers or ("mid", "side"), strict=True))


def _roles_of(lines: Sequence[RecipeLine]) -> dict[str, list[str]]:
    """The ids of the roles that each line's results are made from, in the order of its inputs, by the ids of lines."""
    roles: dict[str, list[str]] = {}
    for line in lines:
        roles_used: dict[str, None] = {}
        for ref in line.inputs:
            kind, key, *_ = ref.split(":")
            roles_used |= dict.fromkeys([key] if kind == "role" else roles[key])
        roles[line.id] = list(roles_used)
    return roles


def _generalize(result: str, source: str) -> str:
    """A result's name for any source: `{name}` where it begins with the source's name as a whole word."""
    begins = source and re.match(rf"{re.escape(source)}(?![^\W_])", result)
    return NAME + result[len(source) :] if begins else result


def recipe_schema() -> dict[str, Any]:
    """The JSON Schema of a recipe's file."""
    schema = Recipe.model_json_schema()
    for definition in schema["$defs"].values():
        if "const" in definition.get("properties", {}).get("kind", {}):  # what tells a turn from others has no default
            definition["required"] = ["kind", *definition.get("required", [])]
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}
