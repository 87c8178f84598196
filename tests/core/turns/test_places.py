"""Places in time code, wherever a time is taken. Counts of drop-frame time code are those of SMPTE ST 12-1: an hour has
107,892 frames and ten minutes have 17,982 (from memory).
"""

import json
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
import soundfile

from support.helpers import bext, engine_on, left_behind, noise, quiet, write_wav
from support.shell import run
from wedge_turn.core.audio import WavFile
from wedge_turn.core.delivery import MANIFEST, Order, deliver
from wedge_turn.core.errors import ProofFailedError, TurnInputError
from wedge_turn.core.form import Form, FrameRate
from wedge_turn.core.turns import AnyTurn, Level, Trim, places
from wedge_turn.core.turns.hush import Hush
from wedge_turn.core.turns.places import locate

RATE = 48_000
NTSC = FrameRate(frames=30_000, seconds=1_001)
DROP = NTSC.model_copy(update={"drop": True})
PAL = FrameRate(frames=25, seconds=1)
SECONDS = 1001 / 30_000


def form(frame_rate: FrameRate | None, start: int | None, frames: int = 10 * RATE) -> Form:
    return Form(channels=2, frames=frames, rate=RATE, encoding="s24", start_time=start, frame_rate=frame_rate)


@pytest.mark.parametrize(
    ("place", "frame_rate", "start", "frame"),
    [
        ("01:00:00:12", PAL, 3600 * RATE, 12 * 1_920),
        ("1:00:02:00", PAL, 3600 * RATE, 2 * RATE),
        ("01:00:00:12", None, 3600 * RATE, None),
        ("01:00:00:12@25", None, 3600 * RATE, 12 * 1_920),
        ("01:00:00:12@24", PAL, 3600 * RATE, 12 * 2_000),
        ("00:10:00;00", NTSC, 0, round(17_982 * 1_601.6)),
        ("01:00:00;00", DROP, 0, round(107_892 * 1_601.6)),
        ("01:00:00:00", DROP, 0, round(107_892 * 1_601.6)),
        ("01:00:00:00", NTSC, 0, round(108_000 * 1_601.6)),
        ("00:01:00;02@29.97", None, 0, round(1_800 * 1_601.6)),
        ("00:00:01:00@23.976", None, 0, (24 * 2_002)),
        ("00:00:00:59@60", None, 0, 59 * 800),
        ("00:00:01:00", PAL, 86_399 * RATE, 2 * RATE),  # two seconds after it began, past midnight
    ],
)
def test_a_time_code_is_a_sample(place: str, frame_rate: FrameRate | None, start: int, frame: int | None) -> None:
    if frame is None:
        with pytest.raises(TurnInputError, match="frame rate of 01:00:00:12 is not known"):
            locate(place, form(frame_rate, start))
    else:
        assert locate(place, form(frame_rate, start)) == frame


@pytest.mark.parametrize(
    ("place", "frame_rate", "start", "why"),
    [
        ("01:00:00:25", PAL, 0, "is not a time code at 25 frames"),
        ("00:01:00;01", NTSC, 0, "is not a time code at 29.97 frames"),
        ("24:00:00:00", PAL, 0, "is not a time code at 25"),
        ("01:00:00:00", PAL, 3601 * RATE, "lies before the start of the clip, which was recorded from 01:00:01.000 on"),
        ("01:00:00:00", PAL, None, "when this clip was recorded is not known"),
    ],
)
def test_what_is_no_place_in_the_clip_is_refused(
    place: str, frame_rate: FrameRate | None, start: int | None, why: str
) -> None:
    with pytest.raises(TurnInputError, match=why):
        locate(place, form(frame_rate, start))


def take_at(path: Path, *, hour: int, said: str = "25/1", frames: int = 20 * RATE) -> Path:
    """A stereo take with a time stamp, and time code in iXML, as a recorder writes it."""
    ixml = f"<BWFXML><SPEED><TIMECODE_RATE>{said}</TIMECODE_RATE><TIMECODE_FLAG>NDF</TIMECODE_FLAG></SPEED></BWFXML>"
    chunks = (bext(hour * 3600 * RATE), (b"iXML", ixml.encode()))
    return write_wav(path, quiet(5, frames, 2), rate=RATE, carried=chunks)


def read(path: Path) -> np.ndarray:
    return np.asarray(soundfile.read(path, dtype="int32", always_2d=True)[0])


@pytest.mark.parametrize("how", ["trim", "--trim", "--time-of-day"])
def test_a_take_is_cut_by_its_time_code(how: str, tmp_path: Path) -> None:
    take, out = take_at(tmp_path / "12A take 3.wav", hour=10), tmp_path / "out"
    first, last = "10:00:02:12", "10:00:05:00"
    if how == "trim":
        done = run("apply", "trim", take, "--set", f"start={first}", "--set", f"end={last}", "--out", out)
    else:
        of_day = [how] if how == "--time-of-day" else []
        done = run("apply", "swap", take, "--trim", f"{first}-{last}", *of_day, "--out", out)
    assert done.returncode == 0, done.stderr
    cut, whole = read(out / take.name), read(take)
    expected = whole[2 * RATE + 12 * 1_920 : 5 * RATE]
    assert np.array_equal(cut, expected if how == "trim" else expected[:, ::-1])
    assert WavFile(out / take.name).form.start_time == 36_002 * RATE + 12 * 1_920
    assert run("verify", out, "--sources", tmp_path).returncode == 0


def test_hushes_and_ranges_take_time_code_too(tmp_path: Path) -> None:
    take = take_at(tmp_path / "take.wav", hour=1)
    hushes = "2:01:00:01:00-01:00:02:12:mute:0"
    done = run("apply", "level", take, "--set", f"hush={hushes}", "--out", tmp_path / "hushed")
    assert done.returncode == 0, done.stderr
    whole, hushed = read(take), read(tmp_path / "hushed" / "take.wav")
    muted = slice(RATE, 2 * RATE + 12 * 1_920)
    assert not hushed[muted, 1].any()
    hushed[muted, 1] = whole[muted, 1]
    assert np.array_equal(hushed, whole)
    done = run("apply", "swap", take, "--only", "01:00:01:00-01:00:02:00", "--fade", "0", "--out", tmp_path / "swapped")
    assert done.returncode == 0, done.stderr
    swapped = read(tmp_path / "swapped" / "take.wav")
    assert np.array_equal(swapped[RATE : 2 * RATE], whole[RATE : 2 * RATE, ::-1])
    assert np.array_equal(swapped[2 * RATE :], whole[2 * RATE :])
    for folder in ("hushed", "swapped"):
        assert run("verify", tmp_path / folder, "--sources", tmp_path).returncode == 0


@pytest.mark.parametrize(
    "turn",
    [
        Trim(start="01:00:01:00", end="01:00:02:00"),
        Level(hush=(Hush(start="01:00:01:00", end="01:00:02:00", channel=2),)),
    ],
)
def test_a_time_code_that_is_a_sample_off_fails_the_proof(
    turn: AnyTurn, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    take = WavFile(take_at(tmp_path / "take.wav", hour=1))
    right = places._count_from_midnight
    for late in (0, 1):
        monkeypatch.setattr(places, "_count_from_midnight", lambda *args, late=late: right(*args) + late)
        engine, out = engine_on(turn, take), tmp_path / f"{late} late"
        order = Order(tuple(engine.sheet.list_ends()))
        if not late:
            deliver(engine, order, out)
            continue
        with pytest.raises(ProofFailedError):
            deliver(engine, order, out)
        assert left_behind(out) == []


def test_several_hushes_in_drop_frame_time_code_are_told_apart(tmp_path: Path) -> None:
    take = take_at(tmp_path / "take.wav", hour=0, said="30000/1001")
    hushes = "2:00:00:01;15-00:00:02;00:mute:0;1:00:00:03;00-4.5:-6:0;1:10-11"
    done = run("apply", "level", take, "--set", f"hush={hushes}", "--out", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    manifest = json.loads((tmp_path / "out" / MANIFEST).read_text("utf-8"))
    assert "2 hushes on channel 1" in manifest["proofs"][0]["sentence"]
    hushed, whole = read(tmp_path / "out" / "take.wav"), read(take)
    changed = np.flatnonzero((hushed != whole)[:, 1])
    assert (changed[0], changed[-1]) == (round(45 * Fraction("1601.6")), round(60 * Fraction("1601.6")) - 1)


def test_a_file_without_time_code_is_told_from_one_with(tmp_path: Path) -> None:
    plain = write_wav(tmp_path / "plain.wav", noise(1, RATE, 2))
    stamped = write_wav(tmp_path / "stamped.wav", noise(1, RATE, 2), carried=(bext(3600 * RATE),))
    for path, told in ((plain, "when this clip was recorded is not known"), (stamped, "as in 01:00:00:00@25")):
        done = run("apply", "swap", path, "--trim", "01:00:00:00-01:00:01:00", "--out", tmp_path / "out")
        assert (done.returncode, told in done.stderr) == (1, True), done.stderr
    assert "time code as 01:00:00:12" in run("apply", "trim", "--help").stdout
