"""Removing a DC offset, found by `inspect` in files that libsndfile wrote, and compared by NumPy."""

import json
from pathlib import Path

import numpy as np
import pytest
import soundfile

from support.helpers import noise, quiet, write_wav
from support.shell import run
from wedge_turn.core.delivery import MANIFEST
from wedge_turn.core.form import EncodingName, Form
from wedge_turn.core.turns import DC, ClipInfo

RATE, FRAMES = 48_000, 96_000


def recorded(path: Path, subtype: str) -> Path:
    """As a preamplifier with an offset gives it: 5 % on the left, −1.25 % on the right."""
    soundfile.write(path, noise(2, FRAMES, 2) / 2**26 + [0.05, -0.0125], RATE, subtype)
    return path


@pytest.mark.parametrize("subtype", ["PCM_16", "PCM_24", "FLOAT"])
def test_what_inspect_suggests_removes_the_offset_and_nothing_else(tmp_path: Path, subtype: str) -> None:
    take = recorded(tmp_path / "preamp take.wav", subtype)
    told = run("inspect", take).stdout
    (line,) = [line for line in told.splitlines() if "DC offset" in line]
    assert "left +5.0" in line
    assert "right −1.2" in line
    command = line.split("→ ")[1].split()
    done = run("apply", command[0], take, *command[1:], "--out", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    assert "identical" in done.stdout
    manifest = json.loads((tmp_path / "out" / MANIFEST).read_text("utf-8"))
    assert not manifest["files"][0]["dithered"]
    before, after = (soundfile.read(path, dtype="float64")[0] for path in (take, tmp_path / "out" / "preamp take.wav"))
    offset = before - after
    tolerance = 1e-7 if subtype == "FLOAT" else 0
    assert np.ptp(offset, axis=0).max() <= tolerance  # one constant for each channel, to the bit
    assert np.abs(after.mean(axis=0)).max() < 2e-3
    if subtype != "FLOAT":
        steps = offset[0] * 2 ** (15 if subtype == "PCM_16" else 23)
        assert np.array_equal(steps, np.rint(steps))
    assert "DC offset" not in run("inspect", tmp_path / "out" / "preamp take.wav").stdout


def test_removing_the_opposite_gives_the_samples_back(tmp_path: Path) -> None:
    take = write_wav(tmp_path / "take.wav", quiet(3, 5_000, 2))
    for n, (path, offset) in enumerate(((take, "3.3,-0.7"), (tmp_path / "0" / "take.wav", "-3.3,0.7"))):
        assert run("apply", "dc", path, "--set", f"offset={offset}", "--out", tmp_path / str(n)).returncode == 0
    back, held = (soundfile.read(path, dtype="int32")[0] for path in (tmp_path / "1" / "take.wav", take))
    assert np.array_equal(back, held)


def test_offsets_that_are_not_one_for_each_channel_are_refused(tmp_path: Path) -> None:
    take = write_wav(tmp_path / "take.wav", quiet(3, 500, 2))
    done = run("apply", "dc", take, "--set", "offset=1,2,3", "--out", tmp_path / "out")
    assert (done.returncode, "take has 2 channels; dc was given 3 offsets" in done.stderr) == (1, True)
    assert run("apply", "dc", take, "--set", "offset=101", "--out", tmp_path / "out").returncode == 2


@pytest.mark.parametrize(("encoding", "exact"), [("s24", True), ("f32", False)])
def test_it_is_said_beforehand_whether_a_sample_is_rounded(encoding: EncodingName, exact: bool) -> None:
    form = Form(channels=1, frames=10, rate=RATE, encoding=encoding)
    assert DC(offset=(1.5,)).outcome([ClipInfo("take", form)]).exact == exact
