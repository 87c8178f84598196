"""The commands as a shell runs them: what they print, write, refuse, and leave behind."""

import json
import os
from pathlib import Path

import numpy as np
import pytest

from support.helpers import Json, bext, left_behind, noise, read_ints, write_wav
from support.shell import run
from wedge_turn.demo import files as demo


def output(*arguments: object) -> Json:
    done = run(*arguments)
    assert done.returncode == 0, done.stderr
    parsed: Json = json.loads(done.stdout)
    return parsed


def test_split_and_merge_return_the_same_samples(tmp_path: Path) -> None:
    source = write_wav(tmp_path / "song.wav", noise(1, 10_000, 2), carried=(bext(48_000),))
    split = output("apply", "split", source, "--out", tmp_path / "sides", "--set", "endings=.left,.right", "--json")
    assert [Path(o["path"]).name for o in split["outputs"]] == ["song.left.wav", "song.right.wav"]
    assert {k: split["outputs"][0][k] for k in ("channels", "frames", "rate", "depth", "start_time")} == {
        "channels": 1, "frames": 10_000, "rate": 48_000, "depth": "24", "start_time": 48_000,
    }  # fmt: skip
    assert (split["proof"]["exact"], split["proof"]["residual_dbfs"]) == (True, None)
    sides = [o["path"] for o in split["outputs"]]
    merged = output("apply", "merge", *reversed(sides), "--out", tmp_path / "again", "--json")
    assert merged["proof"]["kind"] == "round-trip"
    assert np.array_equal(read_ints(Path(merged["outputs"][0]["path"])), noise(1, 10_000, 2))
    assert run("verify", tmp_path / "again").stdout == "The file is unchanged.\n"


def test_inspect_reports_forms_and_pairs(tmp_path: Path) -> None:
    left, right = (write_wav(tmp_path / f"bell_{s}.wav", noise(1, 480, 1), carried=(bext(96_000),)) for s in ("L", "R"))
    report = output("inspect", right, left, "--json")
    file = report["files"][0]
    assert {key: file[key] for key in ("path", "channels", "frames", "rate", "depth", "format", "start_time")} == {
        "path": str(right), "channels": 1, "frames": 480, "rate": 48_000, "depth": "24", "format": "WAV",
        "start_time": 96_000,
    }  # fmt: skip
    assert file["peak_dbfs"] == file["by_channel"][0]["peak_dbfs"] == 0
    assert isinstance(file["loudness_lufs"], float)
    (pair,) = report["pairs"]
    assert (pair["kind"], pair["members"], pair["name"]) == ("stereo-pair", [str(left), str(right)], "bell")
    words = run("inspect", left, right).stdout
    assert "mono · 48 kHz · 24-bit · 0.010 s · WAV · starts at 00:00:02.000 · 0.0 dBFS peak" in words
    assert f"bell: left {left}, right {right}" in words


def test_many_files_are_split_and_merged_in_pairs(tmp_path: Path) -> None:
    files = [write_wav(tmp_path / f"{name}.wav", noise(n, 500, 2)) for n, name in enumerate(("sea", "wind"))]
    split = output("apply", "split", *files, "--out", tmp_path / "sides", "--json")
    names = [Path(o["path"]).name for o in split["outputs"]]
    assert names == ["sea_L.wav", "sea_R.wav", "wind_L.wav", "wind_R.wav"]
    assert (split["proof"]["exact"], split["proof"]["samples"]) == (True, 2_000)
    sides = [tmp_path / "sides" / name for name in (names[3], names[0], names[2], names[1])]
    merged = output("apply", "merge", *sides, "--out", tmp_path / "again", "--json")
    assert {Path(o["path"]).name for o in merged["outputs"]} == {"sea.wav", "wind.wav"}
    assert np.array_equal(read_ints(tmp_path / "again" / "wind.wav"), noise(1, 500, 2))
    left_over = run("apply", "merge", *sides[:3], "--out", tmp_path / "third")
    assert (left_over.returncode, "makes a pair with sea_L" in left_over.stderr) == (1, True)


def test_depth_and_order_are_settings(tmp_path: Path) -> None:
    a = write_wav(tmp_path / "wind.wav", noise(1, 100, 1))
    b = write_wav(tmp_path / "sea.wav", noise(2, 100, 1))
    refused = run("apply", "merge", a, b, "--out", tmp_path / "out")
    assert (refused.returncode, "don't say which is left" in refused.stderr) == (1, True)
    found = output("apply", "merge", a, b, "--out", tmp_path / "out", "--set", "order=given", "--depth", "32", "--json")
    assert found["outputs"][0]["depth"] == "32"
    assert [f["code"] for f in found["findings"]] == ["side-unknown"]
    assert np.array_equal(read_ints(Path(found["outputs"][0]["path"]), 32)[:, 0], noise(1, 100, 1)[:, 0] << 8)


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["apply", "split", "gone.wav", "--out", "out"], "gone.wav does not exist"),
        (["apply", "split", "text.wav", "--out", "out"], "text.wav is not a readable audio file"),
        (
            ["apply", "split", "mono.wav", "--out", "out"],
            "takes one clip with at least 2 channels; mono has 1 channel",
        ),
        (["apply", "split", "wide.wav", "--out", "wide.wav"], "wide.wav"),
        (["apply", "merge", "mono.wav", "slow.wav", "--out", "out", "--set", "order=given"], "44,100 Hz"),
        (["inspect", "mono.wav", "cut.wav"], "cut.wav should have"),
        (["verify", "."], "it is not a delivery"),
    ],
)
def test_a_refusal_is_one_line_and_writes_no_file(arguments: list[str], says: str, tmp_path: Path) -> None:
    (tmp_path / "text.wav").write_text("no audio")
    write_wav(tmp_path / "mono.wav", noise(1, 10, 1))
    write_wav(tmp_path / "slow.wav", noise(1, 10, 1), rate=44_100)
    wide = write_wav(tmp_path / "wide.wav", noise(1, 10, 2))
    (tmp_path / "cut.wav").write_bytes(wide.read_bytes()[:-9])
    before = left_behind(tmp_path)
    done = run(*arguments, cwd=tmp_path)
    assert done.returncode == 1
    assert done.stderr.count("\n") == 1
    assert says in done.stderr
    assert "Traceback" not in done.stderr
    assert left_behind(tmp_path) == before


def test_existing_files_are_not_overwritten_by_default(tmp_path: Path) -> None:
    source = write_wav(tmp_path / "a.wav", noise(1, 10, 2))
    apply = ("apply", "split", source, "--out", tmp_path / "out")
    assert run(*apply).returncode == 0
    again = run(*apply)
    assert (again.returncode, "a_L.wav already exists" in again.stderr) == (1, True)
    assert run(*apply, "--overwrite").returncode == 0


@pytest.mark.parametrize("arguments", [[], ["apply"], ["apply", "split", "x", "--out", "o", "--set", "x"], ["fly"]])
def test_wrong_usage_is_2(arguments: list[str]) -> None:
    assert run(*arguments).returncode == 2


def test_a_changed_delivery_is_noticed(tmp_path: Path) -> None:
    run("apply", "split", write_wav(tmp_path / "a.wav", noise(1, 10, 2)), "--out", tmp_path / "out")
    os.truncate(tmp_path / "out" / "a_R.wav", 50)
    done = run("verify", tmp_path / "out", "--json")
    assert done.returncode == 1
    assert json.loads(done.stdout)["ok"] is False
    assert "a_R.wav" in done.stderr


def test_the_demo_is_written_the_same_each_time(tmp_path: Path, demo_files: dict[str, Path]) -> None:
    """By `wedge-turn demo` in another process before, and here again: a pair, a FLAC, and a float file."""
    assert {"lamp-bell_L", "tower-stairs_R", "gull-pass", "evening-song"} <= set(demo_files)
    names = ("tower-stairs_L", "wind-gauge", "harbour-swell_ms")
    again = [n for n, recording in enumerate(demo.RECORDINGS) if set(names) & set(recording.names)]
    for path in (path for which in again for path in demo.write_recording(which, tmp_path)):
        assert path.read_bytes() == demo_files[path.stem].read_bytes()
    # Promised by the demo's own description: the right side of the stairs is 14 samples late and 1.8 dB lower.
    left, right = (read_ints(demo_files[f"tower-stairs_{s}"])[:, 0] for s in "LR")
    assert np.abs(right[14:] - left[:-14] * 10 ** (-1.8 / 20)).max() <= 1


def test_a_turn_is_limited_to_a_range_as_inspect_advises(tmp_path: Path) -> None:
    """A cable swapped after two seconds: the polarity is mended from there on, and before it nothing changes."""
    left = noise(3, 5 * 48_000, 1, 21)[:, 0]
    right = left + noise(4, 5 * 48_000, 1, 18)[:, 0]
    right[2 * 48_000 :] *= -1
    file = write_wav(tmp_path / "swapped.wav", np.stack([left, right], axis=1))
    advised = run("inspect", file).stdout
    assert "→ polarity --set channels=right --only 2.0-end" in advised
    done = output(
        "apply", "polarity", file, "--set", "channels=right", "--only", "2.0-end", "--out", tmp_path / "out", "--json"
    )
    written, source = read_ints(Path(done["outputs"][0]["path"])), read_ints(file)
    assert np.array_equal(written[: 2 * 48_000], source[: 2 * 48_000])
    assert np.array_equal(written[2 * 48_000 + 480 :, 1], -source[2 * 48_000 + 480 :, 1])
    sharp = output("apply", "swap", file, "--over", "0:02-0:03.5", "--fade", "0", "--out", tmp_path / "sharp", "--json")
    cut = read_ints(Path(sharp["outputs"][0]["path"]))
    assert np.array_equal(cut[96_000:168_000], source[96_000:168_000, ::-1])
    assert np.array_equal(cut[168_000:], source[168_000:])
    refused = run("apply", "polarity", file, "--over", "soon", "--out", tmp_path / "no")
    assert refused.returncode == 2
    assert "“soon” isn't a range" in refused.stderr


def test_a_range_of_each_result_is_written_in_recorded_time_too(tmp_path: Path) -> None:
    """Two recorders, the second started a second later: from 19:42:12 to 19:42:13 by the clock of both."""
    start = (19 * 3_600 + 42 * 60 + 10) * 48_000
    takes = [noise(n, 4 * 48_000, 2, 20) for n in range(2)]
    files = [
        write_wav(tmp_path / f"take {n}.wav", ints, carried=(bext(start + n * 48_000),)) for n, ints in enumerate(takes)
    ]
    within = ("--range", "19:42:12-19:42:13", "--recorded")
    done = output("apply", "swap", *files, *within, "--out", tmp_path / "out", "--json")
    for n, output_file in enumerate(done["outputs"]):
        assert output_file["start_time"] == start + 2 * 48_000
        first = (2 - n) * 48_000
        assert np.array_equal(read_ints(Path(output_file["path"])), takes[n][first : first + 48_000, ::-1])
    refused = run("apply", "swap", *files, "--trim", "20:00:00-21:00:00", "--time-of-day", "--out", tmp_path / "no")
    assert refused.returncode == 1
    assert "was recorded from 19:42:10.000 to 19:42:14.000: none of it is in the range" in refused.stderr
    assert "leave these files out" in refused.stderr
    unknown = run("apply", "swap", *files, "--range", "1:02", "--out", tmp_path / "no")
    assert "“1:02” isn't a range" in unknown.stderr


def test_what_to_expect_of_a_centre_is_said_for_every_method(tmp_path: Path) -> None:
    mono = noise(5, 48_000, 1, 20)
    source = write_wav(tmp_path / "twin.wav", np.hstack([mono, mono]))
    for method in ("voice", "wedge", "difference"):
        done = run("apply", "centre", source, "--out", tmp_path / method, "--set", f"method={method}")
        assert done.returncode == 0
        assert "Left and right of twin are identical: everything is centre" in done.stderr
        told = output(
            "apply", "centre", source, "--out", tmp_path / f"{method} json", "--set", f"method={method}", "--json"
        )
        forecast = ["forecast"] if method == "voice" else []
        assert [finding["code"] for finding in told["findings"]] == ["all-centre", *forecast]


def test_the_learned_mask_of_a_recipe_is_computed_by_the_voice_method(tmp_path: Path) -> None:
    source = write_wav(tmp_path / "duet.wav", noise(6, 48_000, 2, 20))
    done = output("apply", "centre", source, "--out", tmp_path / "out", "--set", "method=learned", "--json")
    assert [finding["code"] for finding in done["findings"]] == ["forecast", "method-replaced"]


def test_inspect_says_what_files_say(tmp_path: Path) -> None:
    """Channel names, scene and take, time code, and what a session of three says about a fourth."""
    about = (
        b"<BWFXML><SCENE>P4</SCENE><TAKE>2</TAKE><SPEED><TIMECODE_RATE>25/1</TIMECODE_RATE></SPEED><TRACK_LIST><TRACK>"
        b"<INTERLEAVE_INDEX>1</INTERLEAVE_INDEX><NAME>boom</NAME></TRACK></TRACK_LIST></BWFXML>"
    )
    files = [
        write_wav(tmp_path / f"{name}.wav", noise(n, 480, 1), carried=(bext(48_000 * start), (b"iXML", about)))
        for n, (name, start) in enumerate((("a", 3_600), ("b", 3_600), ("c", 3_600), ("d", 60)))
    ]
    words = run("inspect", *files).stdout
    assert "starts at 01:00:00.000 (01:00:00:00 at 25 fps)" in words
    assert "  channels: boom" in words
    assert "  scene P4 · take 2" in words
    assert "d starts at 00:01:00.000; the 3 others of its length start at 01:00:00.000" in words
    report = output("inspect", *files, "--json")
    assert report["files"][3]["recorded"]["scene"] == "P4"
    assert [finding["code"] for finding in report["files"][3]["findings"]][-1] == "other-start"


def test_a_film_is_split_from_the_shell(tmp_path: Path, demo_files: dict[str, Path]) -> None:
    done = output("apply", "split", demo_files["ferry-film"], "--out", tmp_path / "out", "--json")
    assert [Path(file["path"]).name for file in done["outputs"]] == ["ferry-film_L.wav", "ferry-film_R.wav"]
    assert [file["frames"] for file in done["outputs"]] == [12 * 48_000] * 2
    assert [file["start_time"] for file in done["outputs"]] == [58_200 * 48_000] * 2
