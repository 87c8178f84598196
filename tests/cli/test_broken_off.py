"""Recordings that broke off, in a shell: refused with what can be done, and used as far as they go where asked."""

import json
from pathlib import Path

import numpy as np
import pytest
import soundfile

from support.helpers import noise
from support.shell import run
from wedge_turn.core.delivery import MANIFEST

RATE, FRAMES = 48_000, 144_000


@pytest.fixture
def cards(tmp_path: Path) -> Path:
    """A folder with a whole take, and two that a recorder without power and a copy that was stopped left."""
    folder = tmp_path / "Card 1 (copy)"
    folder.mkdir()
    sound = noise(5, FRAMES, 2) / 2**25
    for name, size in (("Take 1.wav", None), ("Take 2.wav", 500_000), ("Take 3.flac", 400_000)):
        soundfile.write(folder / name, sound, RATE, "PCM_24")
        content = (folder / name).read_bytes()
        (folder / f"whole {name}").write_bytes(content)
        (folder / name).write_bytes(content[:size])
    return folder


def whole(cards: Path, name: str) -> np.ndarray:
    held: np.ndarray = soundfile.read(cards / f"whole {name}", always_2d=True, dtype="int32")[0]
    return held


@pytest.mark.parametrize("name", ["Take 2.wav", "Take 3.flac"])
def test_what_broke_off_is_refused_with_what_can_be_done(cards: Path, tmp_path: Path, name: str) -> None:
    done = run("apply", "split", cards / name, "--out", tmp_path / "out")
    assert done.returncode == 1
    assert name in done.stderr
    assert "Or use what is there with --salvage: 0:0" in done.stderr
    assert not (tmp_path / "out").exists()


@pytest.mark.parametrize("name", ["Take 2.wav", "Take 3.flac"])
def test_what_is_there_is_used_said_and_proved(cards: Path, tmp_path: Path, name: str) -> None:
    before, out = (cards / name).read_bytes(), tmp_path / "out"
    done = run("apply", "split", cards / name, "--out", out, "--salvage")
    assert done.returncode == 0, done.stderr
    sides = [soundfile.read(out / f"{Path(name).stem}_{side}.wav", dtype="int32")[0] for side in "LR"]
    frames = len(sides[0])
    assert np.array_equal(np.stack(sides, axis=1), whole(cards, name)[:frames])
    assert 0 < frames < FRAMES
    assert f"{Path(name).stem} is incomplete: 0:0{frames / RATE:.3f} of 0:03.000" in done.stdout
    assert "identical" in done.stdout
    manifest = json.loads((out / MANIFEST).read_text("utf-8"))
    assert manifest["sources"][0]["broken_off"] == {"frames": frames, "claimed": FRAMES, "silent": 0}
    (told,) = [finding for finding in manifest["findings"] if finding["code"] == "incomplete"]
    assert len(told["files"]) == 2
    assert "is incomplete" in (out / "wedge-turn-report.html").read_text("utf-8")
    assert (cards / name).read_bytes() == before
    assert run("verify", out, "--sources", cards).returncode == 0


def test_inspect_says_how_much_of_a_file_is_there(cards: Path) -> None:
    takes = [cards / name for name in ("Take 1.wav", "Take 2.wav", "Take 3.flac")]
    refused = run("inspect", *takes)
    assert (refused.returncode, refused.stderr.count("--salvage")) == (1, 2)
    assert "Take 1.wav" in refused.stdout
    done = run("inspect", *takes, "--salvage")
    assert done.returncode == 0
    assert done.stdout.count("The file is incomplete: 0:0") == 2


def test_a_recipe_and_a_folder_take_what_is_there(cards: Path, tmp_path: Path) -> None:
    recipe = tmp_path / "swap.json"
    line = {"id": "1", "turn": {"kind": "swap"}, "inputs": ["role:a"]}
    roles = [{"id": "a", "label": "mix", "channels": 2}]
    facts = {"format": "wedge-turn-recipe", "version": 1, "name": "Swap", "roles": roles, "lines": [line]}
    recipe.write_text(json.dumps(facts), "utf-8")
    take = cards / "Take 2.wav"
    assert run("run", recipe, take, "--out", tmp_path / "a").returncode == 1
    done = run("run", recipe, take, "--out", tmp_path / "a", "--salvage")
    assert done.returncode == 0, done.stderr
    assert "is incomplete" in done.stdout
    for name in list(cards.iterdir()):
        if name != take:
            name.unlink()
    refused = run("prep", cards, "--out", tmp_path / "b")
    assert (refused.returncode, "Take 2.wav" in refused.stdout + refused.stderr) == (1, True)
    taken = run("prep", cards, "--out", tmp_path / "c", "--salvage")
    assert taken.returncode == 0, taken.stderr
    assert (tmp_path / "c" / "Take 2.wav").read_bytes() == take.read_bytes()
