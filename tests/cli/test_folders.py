"""Folders for files, a look without measuring, silence where all is well, and advice that a shell can take."""

import json
import os
from pathlib import Path

import numpy as np
import pytest
import soundfile

from support.helpers import noise
from support.shell import run
from wedge_turn.cli.inspecting import inspect_files


@pytest.fixture
def takes(tmp_path: Path) -> Path:
    """A folder as one gets it: sound, a note, a hidden file of the system, and a folder within."""
    folder = tmp_path / "Day 1 (2)"
    (folder / "old").mkdir(parents=True)
    for n, name in enumerate(("take 1.wav", "take 2.flac", "old/take 0.wav")):
        soundfile.write(folder / name, noise(n, 9_600, 2) / 2**25, 48_000, "PCM_24")
    (folder / "notes.txt").write_text("nothing")
    (folder / "._take 1.wav").write_bytes(b"\0\5\26\7")
    return folder


def test_a_folder_stands_for_the_audio_files_in_it(takes: Path, tmp_path: Path) -> None:
    done = run("apply", "swap", takes, "--out", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    for name in ("take 1", "take 2"):
        (source,) = takes.glob(f"{name}.*")
        written, held = (soundfile.read(path, dtype="int32")[0] for path in (tmp_path / "out" / f"{name}.wav", source))
        assert np.array_equal(written, held[:, ::-1])
    assert not (tmp_path / "out" / "take 0.wav").exists()
    assert run("inspect", takes).stdout.count("48 kHz") == 2
    (tmp_path / "empty").mkdir()
    refused = run("inspect", tmp_path / "empty")
    assert (refused.returncode, "empty is a folder without audio files" in refused.stderr) == (1, True)


def test_a_quick_look_says_what_files_say_and_measures_nothing(takes: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wedge_turn.core.measure.measure_signal", None)
    done = run("inspect", takes, "--quick")
    assert (done.returncode, done.stderr) == (0, "")
    assert "take 1.wav: stereo · 48 kHz · 24-bit · 0.200 s · WAV\n" in done.stdout
    (first, _) = json.loads(run("inspect", takes, "--quick", "--json").stdout)["files"]
    assert (first["frames"], "peak_dbfs" in first) == (9_600, False)


def test_measuring_tells_how_far_it_is(takes: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    shares: list[float] = []
    told = inspect_files.__globals__

    class Bar:
        def __enter__(self) -> object:
            return shares.append

        def __exit__(self, *_: object) -> None:
            pass

    monkeypatch.setitem(told, "show_progress", Bar)
    inspect_files([takes / "take 1.wav", takes / "take 2.flac"])
    assert shares == [0.5, 1.0]


def test_what_went_well_is_not_told_where_quiet_is_asked_for(takes: Path, tmp_path: Path) -> None:
    done = run("apply", "swap", takes / "take 1.wav", "--out", tmp_path / "out", "--quiet")
    assert (done.returncode, done.stdout, done.stderr) == (0, "", "")
    again = run("apply", "swap", takes / "take 1.wav", "--out", tmp_path / "out", "-q")
    assert (again.returncode, again.stdout) == (1, "")
    assert "take 1.wav already exists. Choose another folder for --out, or add --overwrite." in again.stderr


def test_advice_names_what_a_shell_has(takes: Path, tmp_path: Path) -> None:
    for name in ("a", "b"):
        soundfile.write(tmp_path / f"{name}.wav", np.zeros(4_800), 48_000)
    unclear = run("apply", "merge", tmp_path / "a.wav", tmp_path / "b.wav", "--out", tmp_path / "out")
    assert "Give the left file first and add --set order=given." in unclear.stderr
    misfit = run("apply", "swap", tmp_path / "a.wav", "--out", tmp_path / "out")
    assert "wedge-turn apply TURN --help says what a turn takes." in misfit.stderr
    assert takes.exists()


@pytest.mark.parametrize(
    ("words", "offered"), [("wedge-turn apply s", {"split", "swap", "sum"}), ("wedge-turn ap", {"apply"})]
)
def test_a_shell_completes_commands_and_turns(monkeypatch: pytest.MonkeyPatch, words: str, offered: set[str]) -> None:
    monkeypatch.setattr("sys.argv", ["wedge-turn"])
    for name, value in (
        ("_WEDGE_TURN_COMPLETE", "complete_bash"),
        ("COMP_WORDS", words),
        ("COMP_CWORD", str(words.count(" "))),
    ):
        monkeypatch.setitem(os.environ, name, value)
    assert set(run().stdout.split()) == offered
