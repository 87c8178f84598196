"""Hushes: the formula of `wedge_turn.core.turns.hush`, by hand, on the files that are written."""

import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray
from pydantic import ValidationError

from support.helpers import delivered, engine_on, noise, read_ints, write_wav
from wedge_turn.core.audio import WavFile, pcm
from wedge_turn.core.delivery import Order, deliver
from wedge_turn.core.errors import ProofFailedError, TurnInputError
from wedge_turn.core.turns import TURN_ADAPTER, Level

RATE = 48_000


def level(hush: object, gains: tuple[float, ...] = (0.0,)) -> Level:
    turn = TURN_ADAPTER.validate_python({"kind": "level", "gains_db": gains, "hush": hush})
    assert isinstance(turn, Level)
    return turn


def gains(length: int, lowest: float, fade: int) -> NDArray[np.float64]:
    """The gain within one stretch: raised cosines at both ends, common practice for fades, no source."""
    fall = lowest + (1 - lowest) * (1 + np.cos(np.pi * (np.arange(fade) + 0.5) / fade)) / 2 if fade else np.ones(0)
    return np.concatenate([fall, np.full(length - 2 * fade, lowest), fall[::-1]])


def test_a_hush_lowers_one_stretch_of_one_channel_only(tmp_path: Path) -> None:
    samples = noise(1, 80_000, 2, 22)
    manifest, file = delivered(tmp_path, level("2:62000s-70000s:-12:20"), samples)
    written = read_ints(file)
    assert np.array_equal(written[:, 0], samples[:, 0])
    assert np.array_equal(
        np.delete(written[:, 1], slice(62_000, 70_000)), np.delete(samples[:, 1], slice(62_000, 70_000))
    )
    expected = samples[62_000:70_000, 1] * gains(8_000, 10 ** (-12 / 20), 960)
    assert np.abs(written[62_000:70_000, 1] - expected).max() <= 1.5
    assert manifest.files[0].depth == "24"
    assert not manifest.proofs[0].proof.exact


def test_a_mute_without_fades_is_silence_and_adds_no_dither(tmp_path: Path) -> None:
    samples = noise(2, 30_000, 1, 22)
    _, file = delivered(tmp_path, level("1:0.1-0.5:-inf:0"), samples)
    expected = samples.copy()
    expected[4_800:24_000] = 0
    assert np.array_equal(read_ints(file), expected)


@pytest.mark.parametrize("order", [1, -1])
def test_the_lowest_of_hushes_that_overlap_holds(order: int, tmp_path: Path) -> None:
    samples = np.full((4_000, 1), 2**20)
    both = [
        {"channel": 1, "start": "1000s", "end": "3000s", "gain_db": -6, "fade_ms": 0},
        {"channel": 1, "start": "2000s", "end": "2500s", "gain_db": -20, "fade_ms": 0},
    ]
    _, file = delivered(tmp_path, level(both[::order]), samples)
    written = read_ints(file)[:, 0] / 2**20
    for at, db in ((500, 0), (1_500, -6), (2_250, -20), (2_750, -6), (3_500, 0)):
        assert written[at] == pytest.approx(10 ** (db / 20), abs=1e-5)


def test_fades_meet_in_the_middle_of_a_short_stretch(tmp_path: Path) -> None:
    samples = np.full((2_000, 1), 2**20)
    _, file = delivered(tmp_path, level("1:1000s-1100s:mute:10"), samples)
    assert np.abs(read_ints(file)[1_000:1_100, 0] - 2**20 * gains(100, 0.0, 50)).max() <= 1.5


def test_a_stretch_alone_equals_the_whole_across_pages(tmp_path: Path) -> None:
    turn = level("1:60000s-140000s:-9:400;2:0-1:mute", (3.0, -2.0))
    wav = WavFile(write_wav(tmp_path / "a.wav", noise(3, 150_000, 2, 22)))
    whole = engine_on(turn, wav).clip("step:only:0").read(0, 150_000)
    alone = engine_on(turn, wav).clip("step:only:0").read(65_000, 9_000)
    assert alone.tobytes() == whole[65_000:74_000].tobytes()


@pytest.mark.parametrize("place", [100, 5_000])
def test_one_wrong_step_outside_a_hush_stops_a_delivery(
    place: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Dither would hide it; outside of hushes there is none."""
    wav = WavFile(write_wav(tmp_path / "a.wav", noise(4, 6_000, 1, 22)))
    engine = engine_on(level("1:2000s-4000s:-10"), wav)
    order = Order(tuple(engine.sheet.list_ends()))
    deliver(engine, order, tmp_path / "good")
    real = pcm.encode

    def encode(block: Any, *rest: Any, **named: Any) -> Any:
        changed = block.copy()
        changed[place] += 2.0**-23
        return real(changed, *rest, **named)

    monkeypatch.setattr("wedge_turn.core.delivery.writing.encode", encode)
    with pytest.raises(ProofFailedError, match="does not match what was computed for it"):
        deliver(engine, order, tmp_path / "bad")


@pytest.mark.parametrize(
    ("text", "start", "end", "gain_db", "fade_ms"),
    [
        ("2:1.50-3.25:-inf", 1.5, 3.25, "mute", 10.0),
        ("1:4-5:-12:20", 4.0, 5.0, -12.0, 20.0),
        ("1:4-5:0:20", 4.0, 5.0, 0.0, 20.0),
        ("1:480s-96000s", "480s", "96000s", "mute", 10.0),
        ("1:1:04-1:05.5", 64.0, 65.5, "mute", 10.0),
        ("1:59.5-1:00:-6", 59.5, 60.0, -6.0, 10.0),
        ("1:10:42:00-10:42:07:-6:5", 38_520.0, 38_527.0, -6.0, 5.0),
    ],
)
def test_hushes_are_written_in_a_shell_with_times_as_elsewhere(
    text: str, start: Any, end: Any, gain_db: Any, fade_ms: float
) -> None:
    (hush,) = level(text).hush
    assert (hush.start, hush.end, hush.gain_db, hush.fade_ms) == (start, end, gain_db, fade_ms)


@pytest.mark.parametrize("text", ["1", "x:1-2", "1:1+2", "1:1-2:5", "1:1-2:-6:1:1", "1:1-", "1:9:59-9:99"])
def test_what_is_no_hush_is_refused_by_its_text(text: str) -> None:
    with pytest.raises(ValidationError, match=re.escape(f"“{text}” isn't a hush")):
        level(text)


@pytest.mark.parametrize(
    ("hush", "said"),
    [
        ("3:0-1", "hush 1 is on channel 3; a has 2"),
        ("1:0-1;2:2-1", "hush 2 ends before it starts"),
    ],
)
def test_a_hush_that_does_not_fit_is_refused(hush: str, said: str, tmp_path: Path) -> None:
    wav = WavFile(write_wav(tmp_path / "a.wav", noise(5, RATE, 2, 22)))
    with pytest.raises(TurnInputError, match=said):
        engine_on(level(hush), wav, names=["a"])


def test_hushes_past_the_end_are_reported_and_change_nothing(tmp_path: Path) -> None:
    wav = WavFile(write_wav(tmp_path / "a.wav", noise(5, RATE, 1, 22)))
    engine = engine_on(level("1:9-10;1:1-2"), wav, names=["a"])
    (finding,) = engine.sheet.outcomes["only"].findings
    assert finding.message == "2 hushes start after the end of a, at 1.000 s."
    last = engine_on(level("1:0.5-1.5:0;1:0.9-1.0005:0;1:7-8"), wav, names=["a"])
    told = [finding.message for finding in last.sheet.outcomes["only"].findings]
    assert told == [
        "1 hush starts after the end of a, at 1.000 s.",
        "1 hush lasts past the end of a, at 1.000 s.",
    ]
    assert np.array_equal(engine.clip("step:only:0").read(0, RATE), wav.read(0, RATE))


def test_a_hush_that_can_be_read_in_two_ways_is_refused_and_what_can_not_is_taken() -> None:
    """12 may be the seconds of its end, or a level whose sign is missing."""
    with pytest.raises(ValidationError, match=r"write 0:02\.00 for its start if it ends at 4:12, or .* such as -12"):
        level("1:2-4:12")
    for text, end in (("1:0:02-4:12", 252.0), ("1:58-1:02", 62.0), ("1:2-4:12:-6", 252.0), ("1:2-4:-12", 4.0)):
        assert level(text).hush[0].end == end


@pytest.mark.parametrize("text", ["left:0-1", "1:0", "1:0-1:-6:10:5", "1:0-1:6", "1:0-1:loud", "1:-1-2"])
def test_invalid_hushes_are_refused(text: str) -> None:
    with pytest.raises(ValueError, match="hush"):
        level(text)


def test_it_says_how_long_each_channel_is_hushed(tmp_path: Path) -> None:
    wav = WavFile(write_wav(tmp_path / "a.wav", noise(6, 2 * RATE, 2, 22)))
    turn = level("2:0-0.5;2:1-1.25;1:1.5-2:-6", (0.0, -3.0))
    engine = engine_on(turn, wav, names=["a"])
    said = turn.sentence([engine.sheet.info("source:0")])
    assert said == (
        "Changes the level of a: channel 1 by 0 dB, channel 2 by −3 dB, with 1 hush on channel 1 (0.500 s)"
        " and 2 hushes on channel 2 (0.750 s)."
    )
    assert turn.words == "level 0 dB, −3 dB, 3 hushes"
    assert level("1:0-1").words == "1 hush"


def test_a_hush_that_would_raise_the_level_is_refused_in_words() -> None:
    louder = {"channel": 1, "start": 1.0, "end": 2.0, "gain_db": 3.0}
    with pytest.raises(ValidationError, match="a hush lowers, so its level can't be above 0 dB"):
        TURN_ADAPTER.validate_python({"kind": "level", "hush": [louder]})
