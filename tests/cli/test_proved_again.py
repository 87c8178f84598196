"""A delivery proved again from a copy of its sources: in another folder, under other names, by the command line."""

import json
import shutil
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from support.helpers import noise, write_wav
from support.shell import run
from wedge_turn.core.delivery import MANIFEST


@pytest.fixture
def delivered(tmp_path: Path) -> tuple[Path, Path]:
    """Several kinds of files in one folder, and their sources as somebody keeps them."""
    song, take = (
        write_wav(tmp_path / "song.wav", noise(1, 70_000, 2)),
        write_wav(tmp_path / "take.wav", noise(2, 3_001, 2)),
    )
    out, kept = tmp_path / "out", tmp_path / "kept" / "by date"
    kept.mkdir(parents=True)
    shutil.copy(song, kept / "0001.wav")
    shutil.copy(take, kept / "0002.wav")
    orders = (
        ("split", song),
        ("encode", song, "--depth", "16"),
        ("align", take, "--set", "delay=0,7.5", "--format", "flac"),
        ("level", take, "--set", "hush=1:100s-900s:-12:2", "--format", "aiff", "--depth", "24"),
        ("polarity", take, "--over", "500s-end", "--name", "{name} mended"),
        ("centre", song, "--set", "keep=both", "--set", "method=wedge"),
    )
    for turn, *rest in orders:
        assert run("apply", turn, *rest, "--out", out).returncode == 0
    for path in (song, take):
        path.unlink()
    return out, kept


def proved(out: Path, kept: Path) -> tuple[int, dict[str, Any]]:
    done = run("verify", out, "--sources", kept.parent, "--json")
    return done.returncode, json.loads(done.stdout)


def test_every_file_is_proved_again_from_sources_of_other_names(delivered: tuple[Path, Path]) -> None:
    out, kept = delivered
    code, report = proved(out, kept)
    assert (code, report["ok"]) == (0, True)
    said = {file: one["statement"] for one in report["proved"] for file in one["files"]}
    assert set(said) == {path.name for path in out.iterdir() if path.suffix in (".wav", ".flac", ".aiff")}
    assert said["song_L.wav"] == "recomputed from the sources: all 140,000 samples identical"
    assert said["song_ms.wav"].startswith("recomputed from the sources, dither included")
    assert said["song_sides.wav"].startswith("add up to the original; computed afresh in 2 of 2 places")
    printed = run("verify", out, "--sources", kept.parent)
    assert "song_L.wav, song_R.wav: recomputed from the sources: all 140,000 samples identical" in printed.stdout


def test_a_source_that_is_not_there_is_named(delivered: tuple[Path, Path]) -> None:
    out, kept = delivered
    (kept / "0002.wav").unlink()
    code, report = proved(out, kept)
    assert code == 1
    assert {finding["code"] for finding in report["findings"]} == {"source-missing"}
    assert "take.aiff can't be proved: take is not among the sources" in [f["message"] for f in report["findings"]]
    assert len(report["proved"]) == 3


def test_a_file_that_was_changed_together_with_its_checksum_is_found(delivered: tuple[Path, Path]) -> None:
    """As a fault that is no accident would be: what is recomputed says what the checksum can't."""
    out, kept = delivered
    raw = bytearray((out / "song_L.wav").read_bytes())
    raw[-3_000] ^= 1
    (out / "song_L.wav").write_bytes(raw)
    from wedge_turn.core.delivery import hash_file

    manifest = json.loads((out / MANIFEST).read_text())
    next(file for file in manifest["files"] if file["name"] == "song_L.wav")["xxh128"] = hash_file(out / "song_L.wav")
    (out / MANIFEST).write_text(json.dumps(manifest))
    assert run("verify", out).returncode == 0
    code, report = proved(out, kept)
    assert code == 1
    (finding,) = report["findings"]
    assert finding["code"] == "not-proved"
    assert finding["message"].startswith("song_L.wav does not match what was computed for it (channel 1, frame 69,")


def test_settings_that_were_changed_afterwards_are_found(delivered: tuple[Path, Path]) -> None:
    """The numbers in the manifest must be those of its settings, and the samples those of both."""
    out, kept = delivered
    manifest = json.loads((out / MANIFEST).read_text())
    (evidence,) = [one for one in manifest["evidence"] if one["files"][0]["name"] == "song_ms.wav"]
    (step,) = evidence["steps"].values()
    step["turn"]["scale"] = "power"
    (out / MANIFEST).write_text(json.dumps(manifest))
    code, report = proved(out, kept)
    assert (code, report["findings"][0]["message"]) == (
        1,
        "song_ms.wav can't be proved: its encode does not match its settings",
    )
    step["matrix"] = (np.array(step["matrix"]) * np.sqrt(2)).tolist()
    (out / MANIFEST).write_text(json.dumps(manifest))
    code, report = proved(out, kept)
    assert (code, "does not match what was computed" in report["findings"][0]["message"]) == (1, True)


def test_what_earlier_versions_wrote_has_its_checksums_alone(delivered: tuple[Path, Path]) -> None:
    out, kept = delivered
    manifest = json.loads((out / MANIFEST).read_text())
    del manifest["evidence"]
    (out / MANIFEST).write_text(json.dumps({**manifest, "version": 3}))
    code, report = proved(out, kept)
    assert (code, report["proved"]) == (1, [])
    assert {finding["code"] for finding in report["findings"]} == {"not-provable"}
    assert report["findings"][0]["message"] == (
        "song_L.wav matches its checksum, but an earlier version wrote it: it can't be proved again"
    )
    assert run("verify", out).returncode == 0
