"""What `run` does: a recipe, read from its file, on other files."""

import json
from collections.abc import Callable, Sequence
from concurrent.futures import Executor
from pathlib import Path
from typing import Final

from wedge_turn.cli.show import show_progress
from wedge_turn.core.delivery import Manifest, Order
from wedge_turn.core.errors import BadRequestError, Error
from wedge_turn.core.findings import FileFinding
from wedge_turn.core.session import turn_files
from wedge_turn.core.turns import ClipInfo
from wedge_turn.core.worksheet import MAX_FILE_BYTES, Matching, Plan, Recipe, parse_recipe, plan_recipe

_NOT_A_RECIPE: Final = "Choose a file that was saved or exported as a recipe."


def read_recipe(path: Path) -> Recipe:
    """A recipe from its file. Raises BadRequestError that names the file, or OSError."""
    with path.open("rb") as file:
        data = file.read(MAX_FILE_BYTES + 1)
    try:
        if len(data) > MAX_FILE_BYTES:
            raise BadRequestError("This is not a recipe: it is too large", help=_NOT_A_RECIPE)
        return parse_recipe(json.loads(data))
    except (ValueError, RecursionError):
        raise BadRequestError(f"{path.name} is not a recipe: it is not JSON", help=_NOT_A_RECIPE) from None
    except Error as error:
        raise BadRequestError(f"{path.name}: {error.message}", help=error.help) from error


def run_recipe(
    path: Path,
    files: Sequence[Path],
    out: Path,
    by: Matching,
    order: Callable[[tuple[str, ...]], Order],
    beforehand: Callable[[FileFinding], None],
    executor: Executor | None = None,
    *,
    resume: bool = False,
    salvage: bool = False,
) -> tuple[Manifest, list[Path]]:
    """Deliver what a recipe makes of files, as `turn_files` does; the manifest, and the files that had no role."""
    recipe, left_over = read_recipe(path), list[Path]()

    def plan(infos: Sequence[ClipInfo]) -> Plan:
        plan, rest = plan_recipe(recipe, files, infos, by)
        left_over.extend(rest)
        return plan

    with show_progress() as progress:
        manifest = turn_files(
            files,
            plan,
            out,
            order,
            progress,
            beforehand,
            executor,
            resume=resume,
            salvage=salvage,
        )
    return manifest, left_over
