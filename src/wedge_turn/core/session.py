"""One turn, or the lines of a recipe, over files on disk without a job: what the command line does.

Many files at once are many steps: each file is split, each pair of sides merged.
"""

from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor
from contextlib import contextmanager, nullcontext
from dataclasses import replace
from itertools import count
from pathlib import Path
from typing import Any, TypeVar

from pydantic import ValidationError

from wedge_turn.core.audio import WavFile, open_files
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import (
    Manifest,
    Order,
    Origin,
    Progress,
    deliver,
    find_missing_folders,
    hash_file,
    remove_empty,
)
from wedge_turn.core.errors import BadRequestError, TurnInputError
from wedge_turn.core.findings import FileFinding
from wedge_turn.core.naming import check_given_folder, check_given_name, stem
from wedge_turn.core.turns import TURN_ADAPTER, TURNS, AnyTurn, Centre, ClipInfo, Trim
from wedge_turn.core.worksheet import (
    MAX_INPUTS,
    Candidate,
    Matching,
    Plan,
    Recipe,
    Sheet,
    Step,
    Stretch,
    match_files,
    parse_ref,
    source_ref,
)

T = TypeVar("T")


def parse_turn(kind: str, settings: dict[str, str]) -> AnyTurn:
    """A turn from its name and settings as words. Raises BadRequestError for what it doesn't have or take."""
    if kind not in TURNS:
        raise BadRequestError(f"There is no turn called {kind}; there are {', '.join(sorted(TURNS))}")
    unknown = sorted(set(settings) - (set(TURNS[kind].model_fields) - {"kind"}))
    if unknown:
        known = ", ".join(sorted(set(TURNS[kind].model_fields) - {"kind"}))
        raise BadRequestError(f"{kind} has no setting called {unknown[0]}; it has {known or 'none'}")
    try:
        return TURN_ADAPTER.validate_python({"kind": kind, **settings})
    except ValidationError as error:
        first = error.errors()[0]
        setting = str(first["loc"][1]) if len(first["loc"]) > 1 else kind
        raise BadRequestError(f"{kind}: {setting}={settings.get(setting)!r}: {first['msg']}") from error


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


def plan_turn(turn: AnyTurn, infos: Sequence[ClipInfo], over: Stretch | None = None) -> Plan:
    """One turn on files, group by group, over a stretch or all of each. Raises TurnInputError for too large a group."""
    groups = turn.groups([info.name for info in infos], [info.form.channels for info in infos])
    if (most := max(map(len, groups), default=0)) > MAX_INPUTS:
        raise TurnInputError(f"{turn.kind} takes at most {MAX_INPUTS} clips at a time; {most} were given")
    return Plan(
        steps=tuple(
            Step(id=f"group-{n}", turn=turn, inputs=tuple(source_ref(str(i)) for i in group), over=over)
            for n, group in enumerate(groups)
        )
    )


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
    return Plan(steps=steps), [paths[int(parse_ref(one.ref)[1])] for one in match.left_over]


def turn_files(
    paths: Sequence[Path],
    plan: Callable[[Sequence[ClipInfo]], Plan],
    folder: Path,
    order: Callable[[tuple[str, ...]], Order],
    progress: Progress,
    beforehand: Callable[[FileFinding], None] = lambda _: None,
    executor: Executor | None = None,
    *,
    resume: bool = False,
) -> Manifest:
    """Deliver all results of a plan on files into `folder`.

    `plan` is given what the files are, whose sources it calls 0, 1, 2 …; `order` is given the references of the results
    and says how they are written. `beforehand` is told, before anything is written, what to expect of a centre and
    which sound tracks of films are not read. With an `executor` its workers write the files. To `resume` is to take
    over what an earlier run that could be resumed has written into `folder` and would be the same again, by the hashes
    of the sources.
    """
    with _shared(folder) if executor else nullcontext() as within, open_files(paths, within) as files:
        infos = [
            ClipInfo(stem(check_given_name(path.name)), form) for path, (form, _) in zip(paths, files, strict=True)
        ]
        hashes = {str(n): f"xxh128:{hash_file(path)}" for n, path in enumerate(paths)} if resume else {}
        sheet = Sheet(plan(infos), {str(n): info for n, info in enumerate(infos)}, hashes or None)
        sheet.require(step.id for step in sheet.plan.steps)
        engine = Engine(sheet, lambda i: files[int(i)][1])
        for finding in _find_beforehand(engine, [file for _, file in files]):
            beforehand(finding)
        origins = {
            str(n): Origin(check_given_name(path.name), folder, hashes.get(str(n), ""))
            for n, (path, folder) in enumerate(zip(paths, _distinct_folders(paths), strict=True))
        }
        wanted = replace(order(tuple(sheet.list_ends())), origins=origins, replaces_own=resume, replaces_damaged=resume)
        return deliver(engine, wanted, folder, progress, paths, earlier=folder if resume else None, executor=executor)


@contextmanager
def _shared(folder: Path) -> Iterator[Path]:
    """A folder that others see too; what has to be made of it is gone again where nothing comes into it."""
    new = find_missing_folders(folder)
    folder.mkdir(parents=True, exist_ok=True)
    try:
        yield folder
    finally:
        remove_empty(new)


def _distinct_folders(paths: Sequence[Path]) -> list[str]:
    """For each file as much of its folder as tells it from others of its name; nothing where it has its name alone."""
    named: defaultdict[str, set[Path]] = defaultdict(set)
    for path in paths:
        named[path.name].add(path.absolute())
    folders: list[str] = []
    for path in (path.absolute() for path in paths):
        same = named[path.name] - {path}
        depth = 1
        while any(other.parts[-depth:] == path.parts[-depth:] for other in same):
            depth += 1
        folders.append("/".join(path.parts[-depth:-1]))
    return [check_given_folder(folder) if folder else "" for folder in folders]


def _find_beforehand(engine: Engine, files: Sequence[WavFile]) -> Iterator[FileFinding]:
    """What should be known before files are written."""
    from wedge_turn.core.findings import find_tracks_left_out

    for file in files:
        yield from find_tracks_left_out(file.name, file.recorded)
    for step in engine.sheet.plan.steps:
        if isinstance(step.turn, Centre):
            yield from _of_centre(engine, step.inputs[0])


def _of_centre(engine: Engine, ref: str) -> Iterator[FileFinding]:
    """What to expect of the centre of a clip."""
    # Only where it is asked for: loading this takes longer than splitting a file.
    from wedge_turn.core.findings import expect_centre, find_in_centre, measure_excerpts

    clip = engine.clip(ref)
    yield from find_in_centre(engine.sheet.info(ref).name, clip.form, measure_excerpts(clip), expect_centre(clip))
