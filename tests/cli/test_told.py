"""What the commands tell of files as people have them: takes, pairs that don't fit, quiet channels, films, trees."""

import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
import soundfile

from support.helpers import Json, noise, quiet, write_wav
from support.movies import rising, write_movie
from support.shell import run
from wedge_turn.core.delivery import MANIFEST


@pytest.fixture
def mixed(tmp_path: Path) -> Path:
    """A folder as it comes: three takes, a pair of which the right side breaks off, a channel that says one word in a
    minute, a true pair, and a link to a file elsewhere.
    """
    folder = tmp_path / "client"
    folder.mkdir()
    for take in (1, 2, 3):
        write_wav(folder / f"vox {take}.wav", noise(take, 3_000, 1))
    write_wav(folder / "oh_L.wav", noise(4, 200_000, 1))
    write_wav(folder / "oh_R.wav", noise(5, 100_000, 1))
    write_wav(folder / "room_L.wav", noise(6, 3_000, 1))
    write_wav(folder / "room_R.wav", noise(7, 3_000, 1))
    second = np.zeros((60 * 48_000, 1), np.int64)
    second[30 * 48_000 : 30 * 48_000 + 9_600] = noise(8, 9_600, 1)
    write_wav(folder / "talk.wav", np.hstack([noise(9, 60 * 48_000, 1), second]))
    (tmp_path / "elsewhere").mkdir()
    write_wav(tmp_path / "elsewhere" / "keys.wav", noise(10, 3_000, 2))
    (folder / "keys.wav").symlink_to(tmp_path / "elsewhere" / "keys.wav")
    return folder


def test_prep_does_unasked_only_what_is_safe(mixed: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    done = run("prep", mixed, "--out", out, "--json")
    assert done.returncode == 0, done.stderr
    made = {str(Path(file["path"]).relative_to(out)): file for file in json.loads(done.stdout)["outputs"]}
    assert sorted(name for name, file in made.items() if not file.get("copied")) == ["room.wav"]
    copied = {"vox 1.wav", "vox 2.wav", "vox 3.wav", "oh_L.wav", "oh_R.wav", "talk.wav", "keys.wav"}
    assert {name for name, file in made.items() if file.get("copied")} == copied
    for name in copied:
        assert (out / name).read_bytes() == (mixed / name).read_bytes()
        assert not (out / name).is_symlink()
        assert (out / name).stat().st_nlink == 1
    asked = " ".join(finding["message"] for finding in json.loads(done.stdout)["questions"])
    assert "oh" in asked


def test_inspect_goes_on_past_a_file_that_cannot_be_read(tmp_path: Path) -> None:
    good = write_wav(tmp_path / "sea.wav", noise(1, 3_000, 2))
    bad = tmp_path / "wind.wav"
    bad.write_bytes(good.read_bytes()[:30])
    done = run("inspect", bad, good, tmp_path / "gone.wav")
    assert done.returncode == 1
    assert "sea.wav" in done.stdout
    lines = done.stderr.splitlines()
    assert len(lines) == 2
    assert "wind.wav" in lines[0]
    assert "gone.wav" in lines[1]
    told = json.loads(run("inspect", bad, good, "--json").stdout)
    assert [Path(file["path"]).name for file in told["files"]] == ["sea.wav"]
    assert [Path(file["path"]).name for file in told["refused"]] == ["wind.wav"]
    assert all(file["help"] for file in told["refused"])


def test_a_track_of_a_film_that_is_not_read_is_told_before_anything_is_written(tmp_path: Path) -> None:
    tracks = [rising(9_600), rising(8_820, 1)]
    film = write_movie(tmp_path / "day.mov", "mov", "pcm_s16le", tracks, rates=(48_000, 44_100))
    done = run("apply", "split", film, "--out", tmp_path / "out", "--json")
    assert done.returncode == 0, done.stderr
    assert "track 2 (44100 Hz)" in done.stderr
    assert [finding["code"] for finding in json.loads(done.stdout)["findings"]] == ["tracks-left-out"]
    (kept,) = json.loads((tmp_path / "out" / MANIFEST).read_text())["findings"]
    assert "track 2 (44100 Hz) of day" in kept["message"]
    assert kept["files"] == ["day_L.wav", "day_R.wav"]


def test_results_of_sources_with_one_name_say_which_they_come_from(tmp_path: Path) -> None:
    """As on two cards of a recorder."""
    for card in ("a", "b"):
        (tmp_path / card).mkdir()
    sources = [write_wav(tmp_path / card / "take.wav", noise(n, 3_000, 2)) for n, card in enumerate(("a", "b"))]
    out = tmp_path / "out"
    assert run("apply", "split", *sources, "--out", out).returncode == 0
    manifest: Json = json.loads((out / MANIFEST).read_text())
    assert [file["sources"] for file in manifest["files"]] == 2 * [["a/take.wav"]] + 2 * [["b/take.wav"]]


def test_verify_checks_every_delivery_in_a_tree(tmp_path: Path) -> None:
    folder, out = tmp_path / "session", tmp_path / "out"
    for place in ("", "drums"):
        (folder / place).mkdir(parents=True, exist_ok=True)
        for side, seed in (("L", 1), ("R", 2)):
            write_wav(folder / place / f"oh_{side}.wav", quiet(seed, 3_000, 1))
    assert run("prep", folder, "--out", out).returncode == 0
    # Another delivery beside it, as after a second day.
    assert run("apply", "split", out / "oh.wav", "--out", out / "sides").returncode == 0
    done = run("verify", out)
    assert (done.returncode, done.stdout) == (0, "All 4 files in 3 folders are unchanged.\n")
    (out / "notes of the day.txt").write_text("mine")
    (out / "sides" / "oh_L.wav").write_bytes((out / "oh.wav").read_bytes())
    done = run("verify", out)
    assert done.returncode == 1
    assert done.stdout == "Not in the manifest: notes of the day.txt\n"
    assert done.stderr.startswith("sides: ")
    assert "oh_L.wav" in done.stderr
    told = json.loads(run("verify", out, "--json").stdout)
    assert (told["ok"], told["findings"][0]["files"]) == (False, ["sides/oh_L.wav"])


def test_what_a_decoder_mutters_is_not_printed(tmp_path: Path) -> None:
    """libmpg123 writes four lines of its own about a stream that it can't follow."""
    whole = tmp_path / "whole.mp3"
    soundfile.write(whole, noise(1, 100_000, 2) / 2**25, 48_000)
    good = whole.read_bytes()
    (tmp_path / "bad.mp3").write_bytes(
        good[:10_000] + bytes(0x5F ^ byte for byte in good[10_000:13_000]) + good[13_000:]
    )
    command = [Path(sys.executable).parent / "wedge-turn", Path("inspect"), Path("bad.mp3")]
    told = subprocess.run(command, capture_output=True, text=True, check=False, cwd=tmp_path)
    assert told.returncode == 1
    (line,) = told.stderr.splitlines()
    assert line.startswith("wedge-turn: bad.mp3 cannot be read past frame")
