"""A recipe on files of a shell. The recipe is written by hand, as another program would write it."""

import json
import re
from pathlib import Path

import numpy as np
import pytest

from support.helpers import Json, quiet, read_ints, write_wav
from support.shell import run

RECIPE: Json = {
    "format": "wedge-turn-recipe",
    "version": 1,
    "name": "Pair and inverted spot",
    "roles": [
        {"id": "l", "label": "left", "channels": 1, "mark": "FL", "set": 1, "name": "oh_L"},
        {"id": "r", "label": "right", "channels": 1, "mark": "FR", "set": 1, "name": "oh_R"},
        {"id": "spot", "label": "spot", "channels": 1},
    ],
    "lines": [
        {"id": "1", "turn": {"kind": "merge", "order": "given"}, "inputs": ["role:l", "role:r"]},
        {"id": "2", "turn": {"kind": "swap"}, "inputs": ["line:1:0"], "names": ["{name} swapped"]},
        {"id": "3", "turn": {"kind": "polarity"}, "inputs": ["role:spot"]},
    ],
}


@pytest.fixture
def recipe(tmp_path: Path) -> Path:
    path = tmp_path / "pair.json"
    path.write_text(json.dumps(RECIPE), "utf-8")
    return path


@pytest.fixture
def sources(tmp_path: Path) -> list[Path]:
    names = "room_R", "oh_L", "snare", "room_L", "bell", "oh_R", "gong"
    return [write_wav(tmp_path / f"{name}.wav", quiet(n, 2_000, 1)) for n, name in enumerate(names)]


def test_a_recipe_is_applied_as_often_as_files_have_its_roles(
    recipe: Path, sources: list[Path], tmp_path: Path
) -> None:
    out = tmp_path / "out"
    done = run("run", recipe, *sources, "--out", out, "--json")
    assert done.returncode == 0, done.stderr
    report = json.loads(done.stdout)
    assert report["left_over"] == [str(sources[-1])]
    assert {Path(file["path"]).name for file in report["outputs"]} == {
        "oh swapped.wav", "room swapped.wav", "snare.wav", "bell.wav",
    }  # fmt: skip
    assert np.array_equal(read_ints(out / "oh swapped.wav"), np.hstack([quiet(5, 2_000, 1), quiet(1, 2_000, 1)]))
    assert np.array_equal(read_ints(out / "room swapped.wav"), np.hstack([quiet(0, 2_000, 1), quiet(3, 2_000, 1)]))
    assert np.array_equal(read_ints(out / "snare.wav"), -quiet(2, 2_000, 1))
    assert run("verify", out).returncode == 0


def test_files_can_be_given_in_order_or_by_name(recipe: Path, sources: list[Path], tmp_path: Path) -> None:
    by_order = run("run", recipe, *sources[:3], "--out", tmp_path / "order", "--by", "order", "--depth", "16")
    assert by_order.returncode == 0, by_order.stderr
    both = np.hstack([quiet(1, 2_000, 1), quiet(0, 2_000, 1)])
    written = read_ints(tmp_path / "order" / "room_R + oh_L swapped.wav")  # 16-bit, dithered
    assert np.abs(written.astype(np.int64) - both).max() <= 1.5 * 256
    words = run("run", recipe, *sources, "--out", tmp_path / "words")
    assert words.stdout.rstrip().endswith(f"Not used: {sources[-1]}.")
    by_name = run("run", recipe, *sources, "--out", tmp_path / "name", "--match", "name")
    assert by_name.returncode == 1
    assert "“Pair and inverted spot” doesn't say what the file for spot was called" in by_name.stderr


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("{", "pair.json is not a recipe: it is not JSON"),
        ("[" * 100_000, "pair.json is not a recipe: it is not JSON"),
        ("{}", "pair.json: This is not a recipe: its format should be wedge-turn-recipe"),
        (json.dumps(RECIPE | {"version": 7}), "saved by a newer version of Wedge Turn"),
        (json.dumps(RECIPE | {"roles": RECIPE["roles"][:2]}), "line 3 uses role:spot"),
        (" " * (5 << 20), "pair.json: This is not a recipe: it is too large"),
    ],
)
def test_what_is_no_recipe_is_refused(
    text: str, message: str, recipe: Path, sources: list[Path], tmp_path: Path
) -> None:
    recipe.write_text(text, "utf-8")
    done = run("run", recipe, *sources, "--out", tmp_path / "out")
    assert done.returncode == 1
    assert message in done.stderr
    assert not (tmp_path / "out").exists()


def test_files_that_fit_no_role_are_refused(recipe: Path, sources: list[Path], tmp_path: Path) -> None:
    done = run("run", recipe, sources[2], sources[4], "--out", tmp_path / "out")
    assert done.returncode == 1
    assert "Nothing selected fits “Pair and inverted spot”, which needs left, right and spot" in done.stderr


def test_the_recipe_in_the_readme_runs(tmp_path: Path) -> None:
    readme = (Path(__file__).parents[2] / "README.md").read_text("utf-8")
    (text,) = [block for block in re.findall(r"```json\n(.*?)```", readme, re.DOTALL) if "wedge-turn-recipe" in block]
    (tmp_path / "mono.json").write_text(text)
    sound = quiet(3, 2_000, 2)
    take = write_wav(tmp_path / "room.wav", sound)
    done = run("run", tmp_path / "mono.json", take, "--out", tmp_path / "out", "--depth", "32")
    assert done.returncode == 0, done.stderr
    assert np.array_equal(read_ints(tmp_path / "out" / "room.wav", 32)[:, 0], sound.sum(axis=1) * 2**7)
