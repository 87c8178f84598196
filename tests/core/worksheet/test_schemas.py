"""The schemas that the documents show are those of the files that are written."""

import json
from pathlib import Path

import jsonschema
import pytest
from tools.generate import DOCUMENTS

from support.helpers import bext, engine_on, noise, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.delivery import MANIFEST, Order, deliver
from wedge_turn.core.turns import Width

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
