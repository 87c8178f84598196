"""`-` for one file in and one out, and suggestions that are fed back."""

import io
import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
import soundfile

from support.helpers import quiet, write_wav
from support.shell import run

COMMAND = Path(sys.executable).parent / "wedge-turn"


@pytest.mark.parametrize("form", ["WAV", "FLAC"])
def test_a_file_goes_through_a_pipe(form: str, tmp_path: Path) -> None:
    sound = quiet(3, 20_000, 2) / 2**23
    held = io.BytesIO()
    soundfile.write(held, sound, 44_100, "PCM_24", format=form)
    done = subprocess.run([COMMAND, "apply", "swap", "-", "--out", "-"], input=held.getvalue(), capture_output=True,
                          check=False, cwd=tmp_path)  # fmt: skip
    assert done.returncode == 0, done.stderr
    made, rate = soundfile.read(io.BytesIO(done.stdout))
    assert rate == 44_100
    assert np.array_equal(made, sound[:, ::-1])
    assert b"all 40,000 samples identical" in done.stderr
    assert not list(tmp_path.iterdir())


def test_two_results_do_not_go_to_standard_output(tmp_path: Path) -> None:
    take = write_wav(tmp_path / "take.wav", quiet(1, 500, 2))
    done = run("apply", "split", take, "--out", "-")
    assert (done.returncode, done.stdout) == (1, "")
    assert "There are 2 results, and standard output takes one" in done.stderr
    assert run("inspect", "-", "-").returncode == 1


def voices(path: Path, seconds: int = 24) -> Path:
    """Two people who talk in turn, each in the other's microphone 24 dB below."""
    rate, rng = 16_000, np.random.default_rng(4)
    first = np.where(np.arange(seconds * rate) // (3 * rate) % 2 == 0, 1.0, 0.0)
    noise = rng.standard_normal((2, seconds * rate)) * 0.1
    one, two = noise[0] * first, noise[1] * (1 - first)
    room = rng.standard_normal((2, seconds * rate)) * 1e-5
    soundfile.write(path, np.stack([one + 0.06 * two + room[0], two + 0.06 * one + room[1]], 1), rate, "PCM_24")
    return path


def test_suggested_hushes_are_fed_back(tmp_path: Path) -> None:
    take = voices(tmp_path / "interview.wav")
    told = run("suggest", "hushes", take)
    assert told.returncode == 0, told.stderr
    assert "below the loudest other" in told.stderr
    done = run("apply", *told.stdout.split(), take, "--out", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    before, rate = soundfile.read(take)
    after, _ = soundfile.read(tmp_path / "out" / "interview.wav")
    for second, quieter in ((1, 1), (4, 0), (7, 1), (10, 0)):
        part = slice(second * rate, (second + 1) * rate)
        gains = np.sqrt((after[part] ** 2).mean(0) / (before[part] ** 2).mean(0))
        assert gains[quieter] == pytest.approx(10 ** (-12 / 20), rel=1e-3)
        assert gains[1 - quieter] == pytest.approx(1, rel=1e-6)
    harder = json.loads(run("suggest", "hushes", take, "--level", "-30", "--threshold", "10", "--json").stdout)
    assert ":-30" in harder["turn"]
    assert "10 dB" in harder["found"]


def test_a_suggested_delay_and_blend_are_fed_back(tmp_path: Path) -> None:
    rate, late = 48_000, 37
    sound = np.random.default_rng(2).standard_normal(6 * rate) * 0.1
    pair = np.stack([sound[late:], -sound[:-late]], 1)
    take = tmp_path / "snare top and bottom.wav"
    soundfile.write(take, pair, rate, "PCM_24")
    told = run("suggest", "delay", take)
    assert told.stdout == "align --set delay=37,0\n"
    assert told.stderr == "Channel 2 is 37 samples late and inverted.\n"
    assert run("apply", *told.stdout.split(), take, "--out", tmp_path / "aligned").returncode == 0
    aligned, _ = soundfile.read(tmp_path / "aligned" / take.name)
    assert np.abs(aligned[late : -late - 1].sum(axis=1)).max() < 1e-6
    told = run("suggest", "blend", take)
    assert "--set flip_right=true --set delay=-37" in told.stdout
    assert run("apply", *told.stdout.split(), take, "--out", tmp_path / "blended").returncode == 0
    blended, _ = soundfile.read(tmp_path / "blended" / take.name)
    assert np.sqrt((blended[100:-100] ** 2).mean()) == pytest.approx(0.1, rel=0.01)


def test_two_mono_files_are_measured_side_by_side(tmp_path: Path) -> None:
    sound = np.random.default_rng(2).standard_normal(100_000) * 0.1
    for name, by in (("front", 0), ("back", 12)):
        soundfile.write(tmp_path / f"{name}.wav", np.roll(sound, by), 48_000, "PCM_24")
    told = run("suggest", "delay", tmp_path / "front.wav", tmp_path / "back.wav")
    assert told.stdout == "align --set delay=12,0\n"
    assert "Merge the files in this order first" in told.stderr


def test_where_nothing_is_sure_nothing_is_suggested(tmp_path: Path) -> None:
    rng = np.random.default_rng(7)
    soundfile.write(tmp_path / "strangers.wav", rng.standard_normal((200_000, 2)) * 0.1, 48_000, "PCM_24")
    soundfile.write(tmp_path / "mono.wav", rng.standard_normal(1_000) * 0.1, 48_000, "PCM_24")
    for what, name, why in (
        ("delay", "strangers", "No delay between channel 1 and channel 2 is sure"),
        ("hushes", "strangers", "No hushes to suggest"),
        ("blend", "mono", "mono.wav is mono"),
    ):
        told = run("suggest", what, tmp_path / f"{name}.wav")
        assert (told.returncode, told.stdout) == (1, "")
        assert why in told.stderr
    assert run("suggest", "louder", tmp_path / "mono.wav").returncode == 2
