"""The schemas that the documents show are those of the files that are written."""

import json
from pathlib import Path

import jsonschema
import pytest

from helpers import bext, engine_on, noise, write_wav
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.delivery.deliver import deliver
from wedge_turn.core.delivery.manifest import MANIFEST
from wedge_turn.core.delivery.order import Order
from wedge_turn.core.schemas import SCHEMAS
from wedge_turn.core.turns import Width

DOCS = Path(__file__).parents[2] / "docs"


@pytest.mark.parametrize("name", SCHEMAS)
def test_a_schema_is_current(name: str) -> None:
    assert json.loads((DOCS / f"{name}.schema.json").read_text("utf-8")) == SCHEMAS[name](), "run make api"


def test_a_manifest_with_everything_in_it_fits_its_schema(tmp_path: Path) -> None:
    """Clipped samples, what a format has no place for, a file read back, and proofs."""
    source = WavFile(write_wav(tmp_path / "in.wav", noise(1, 3_000, 2), carried=(bext(48_000),)))
    engine = engine_on(Width(width=3), source, names=["in"])
    deliver(engine, Order(tuple(engine.sheet.ends()), container="aiff"), tmp_path / "out")
    manifest = json.loads((tmp_path / "out" / MANIFEST).read_text("utf-8"))
    assert {finding["code"] for finding in manifest["findings"]} == {"clipped", "left-behind"}
    jsonschema.validate(manifest, json.loads((DOCS / "manifest.schema.json").read_text("utf-8")))
