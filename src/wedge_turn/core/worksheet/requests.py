"""What is asked for in words, as in a shell: turns with their settings, ranges, and plans of them on files."""

from collections.abc import Callable, Iterable, Sequence
from itertools import count
from pathlib import Path
from typing import Any, Final, Literal, TypeVar

from pydantic import ValidationError

from wedge_turn.core.errors import BadRequestError, TurnInputError
from wedge_turn.core.turns import TURN_ADAPTER, TURNS, AnyTurn, ClipInfo, Resample, Trim, Turn, describe_settings
from wedge_turn.core.worksheet.plan import MAX_INPUTS, Plan, Step, parse_ref, source_ref, step_ref
from wedge_turn.core.worksheet.recipe import Recipe
from wedge_turn.core.worksheet.recipe_matching import Candidate, Matching, match_files
from wedge_turn.core.worksheet.stretch import Stretch

T = TypeVar("T")
# The sample rate that clips are resampled to before they go into a turn: one in Hz, or that of one of them.
RateChoice = int | Literal["lowest", "highest"]
_OF_RATES: Final = {"lowest": min, "highest": max}


def find_turn(kind: str) -> type[Turn]:
    """The turn of this name. Raises BadRequestError where there is none."""
    if kind not in TURNS:
        raise BadRequestError(f"There is no turn called {kind}; there are {', '.join(sorted(TURNS))}")
    return TURNS[kind]


def parse_turn(kind: str, settings: dict[str, str]) -> AnyTurn:
    """A turn from its name and settings as words. Raises BadRequestError for what it doesn't have or take."""
    fields = set(find_turn(kind).model_fields) - {"kind"}
    if unknown := sorted(set(settings) - fields):
        field_names = ", ".join(sorted(fields))
        raise BadRequestError(f"{kind} has no setting called {unknown[0]}; it has {field_names or 'none'}")
    try:
        return TURN_ADAPTER.validate_python({"kind": kind, **settings})
    except ValidationError as error:
        raise BadRequestError(_describe_refusal(kind, settings, error)) from error


def _describe_refusal(kind: str, settings: dict[str, str], error: ValidationError) -> str:
    """Why a turn can't have these settings: in words of its own where it has some, else by the values that it takes."""
    first = error.errors()[0]
    own = first.get("ctx", {}).get("error")
    if len(first["loc"]) < 2:
        return f"{kind}: {own or first['msg']}"
    name = str(first["loc"][1])
    request = f"{kind}: {name}={settings[name]}" if name in settings else f"{kind}: {name}"
    values = next(setting.values for setting in describe_settings(TURNS[kind]) if setting.name == name)
    return f"{request}: {own}" if own else f"{request} is not allowed; use {values}"


def parse_stretch(text: str, fade_ms: float) -> Stretch:
    """A stretch as it is written in a shell, with its fades. Raises BadRequestError."""
    return _in_range(text, lambda start, end: Stretch(start=start, end=end, fade_ms=fade_ms))


def parse_trim(text: str, *, recorded: bool) -> Trim:
    """A trim to a range as it is written in a shell. Raises BadRequestError."""
    return _in_range(text, lambda start, end: Trim(start=start, end=end, time="recorded" if recorded else "file"))


def _in_range(text: str, make: Callable[[Any, Any], T]) -> T:
    """What is made of a range such as `62-90.5`, `1:02-end` or `48000s-96000s`."""
    start, dash, end = text.partition("-")
    try:
        if not dash:
            raise ValueError
        return make(start, end or "end")
    except ValueError:
        raise BadRequestError(
            f"“{text}” isn't a range: write its start and end as in 62-90.5 (seconds), 1:02-end or 480s-960s (samples)"
        ) from None


def plan_turn(
    turn: AnyTurn, infos: Sequence[ClipInfo], over: Stretch | None = None, rate: RateChoice | None = None
) -> Plan:
    """One turn on files, group by group, over a stretch or all of each; where a `rate` is chosen, files at another are
    resampled first. Raises TurnInputError for too large a group.
    """
    groups = turn.groups([info.name for info in infos], [info.form.channels for info in infos])
    if (most := max(map(len, groups), default=0)) > MAX_INPUTS:
        raise TurnInputError(f"{turn.kind} takes at most {MAX_INPUTS} clips at a time; {most} were given")
    steps: list[Step] = []
    for n, group in enumerate(groups):
        refs = tuple(source_ref(str(i)) for i in group)
        if rate is not None:
            first, refs = resample_first(refs, [infos[i] for i in group], rate, (f"rate-{i}" for i in group))
            steps += first
        steps.append(Step(id=f"group-{n}", turn=turn, inputs=refs, over=over))
    return Plan(steps=tuple(steps))


def resample_first(
    refs: Sequence[str], infos: Sequence[ClipInfo], rate: RateChoice, ids: Iterable[str]
) -> tuple[list[Step], tuple[str, ...]]:
    """What brings clips to one rate before they go into a turn together: a step for each that is at another, with an
    id of `ids`, and what then goes in instead.
    """
    chosen = rate if isinstance(rate, int) else _OF_RATES[rate](info.form.rate for info in infos)
    steps, inputs = [], []
    for ref, info, key in zip(refs, infos, ids, strict=False):
        if info.form.rate != chosen:
            steps.append(Step(id=key, turn=Resample(rate=chosen), inputs=(ref,)))
        inputs.append(ref if info.form.rate == chosen else step_ref(key, 0))
    return steps, tuple(inputs)


def plan_recipe(
    recipe: Recipe, paths: Sequence[Path], infos: Sequence[ClipInfo], by: Matching
) -> tuple[Plan, list[Path]]:
    """A recipe on files as often as they have its roles, and the files that are left over. Raises TurnInputError."""
    match = match_files(
        recipe,
        [
            Candidate(source_ref(str(n)), info.name, info.form.channels, str(path.parent))
            for n, (path, info) in enumerate(zip(paths, infos, strict=True))
        ],
        by,
    )
    steps = match.steps(recipe, (f"line-{n}" for n in count(1)))
    return Plan(steps=steps), [paths[int(parse_ref(candidate.ref)[1])] for candidate in match.left_over]
