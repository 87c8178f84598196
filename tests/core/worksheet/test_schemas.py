"""The schemas that the documents show are those of the files that are written."""

import copy
import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import jsonschema
import pytest
from tools.generate import DOCUMENTS

from support.helpers import bext, engine_on, noise, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.delivery import MANIFEST, Order, deliver
from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.turns import Width
from wedge_turn.core.worksheet import parse_recipe

DOCS = Path(__file__).parents[3] / "docs"


@pytest.mark.parametrize("name", ["recipe", "manifest"])
def test_a_schema_is_current(name: str) -> None:
    assert (DOCS / f"{name}.schema.json").read_text("utf-8") == DOCUMENTS[name](), "run `make api`"


def test_a_manifest_with_everything_in_it_fits_its_schema(tmp_path: Path) -> None:
    """Clipped samples, what a format has no place for, a file read back, and proofs."""
    source = WavFile(write_wav(tmp_path / "in.wav", noise(1, 3_000, 2), carried=(bext(48_000),)))
    engine = engine_on(Width(width=3), source, names=["in"])
    deliver(engine, Order(tuple(engine.sheet.list_ends()), container="aiff"), tmp_path / "out")
    manifest = json.loads((tmp_path / "out" / MANIFEST).read_text("utf-8"))
    assert {finding["code"] for finding in manifest["findings"]} == {"clipped", "left-behind"}
    jsonschema.validate(manifest, json.loads((DOCS / "manifest.schema.json").read_text("utf-8")))


RECIPE = {
    "format": "wedge-turn-recipe",
    "version": 1,
    "name": "Pair, lower",
    "roles": [
        {"id": "l", "label": "left", "channels": 1, "mark": "FL", "set": 1, "name": "oh_L"},
        {"id": "r", "label": "right", "channels": 1, "mark": "FR", "set": 1, "name": "oh_R"},
    ],
    "lines": [
        {
            "id": "1",
            "turn": {"kind": "merge", "order": "given"},
            "inputs": ["role:l", "role:r"],
            "names": ["{name} st"],
        },
        {
            "id": "2",
            "turn": {"kind": "level", "gains_db": [-3]},
            "inputs": ["line:1:0"],
            "over": {"start": 1, "end": 2},
        },
    ],
}


def broken() -> Iterator[tuple[str, Any]]:
    """The recipe with each of its parts left out, of another type, too long or out of its range; and with one more."""

    def places(part: Any, path: tuple[Any, ...]) -> Iterator[tuple[Any, ...]]:
        for key in part if isinstance(part, dict) else range(len(part)):
            yield (*path, key)
            if isinstance(part[key], dict | list):
                yield from places(part[key], (*path, key))

    for path in places(RECIPE, ()):
        wrong: tuple[Any, ...] = ("leave out", None, -7, 1e12, "no such \n value", [], {}, "x" * 300, "add")
        for how in wrong:
            recipe = copy.deepcopy(RECIPE)
            part: Any = recipe
            for key in path[:-1]:
                part = part[key]
            if how == "leave out":
                del part[path[-1]]
            elif how == "add" and isinstance(part, dict):
                part["more"] = 1
            else:
                part[path[-1]] = how
            yield f"{'.'.join(map(str, path))} {how!r:.20}", recipe


def refusal_of(recipe: Any) -> str | None:
    try:
        parse_recipe(recipe)
    except BadRequestError as error:
        return error.message
    return None


def test_schema_and_program_take_the_same_recipes() -> None:
    """But for what no schema can say: which roles and lines there are, and text that can't be shown."""
    validator = jsonschema.Draft202012Validator(json.loads((DOCS / "recipe.schema.json").read_text("utf-8")))
    assert validator.is_valid(RECIPE)
    beyond = re.compile(r"role|line |comes? before|control characters|two ways|isn't a|two files|recipe: its format")
    judged = {True: 0, False: 0}
    for name, recipe in broken():
        valid, refusal = validator.is_valid(recipe), refusal_of(recipe)
        judged[valid] += 1
        agree = valid if refusal is None else not valid or beyond.search(refusal)
        assert agree, f"{name}: the schema {'takes' if valid else 'refuses'} it, the program says: {refusal}"
    assert min(judged.values()) > 30
