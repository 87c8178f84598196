"""Turns over a stretch of their clip only: nothing changes outside of it, inside is what the turn makes of it all."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from support.helpers import noise, read_ints, write_wav
from wedge_turn.core.audio import WavFile, pcm
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import Order, deliver
from wedge_turn.core.errors import BadRequestError, ProofFailedError, TurnInputError
from wedge_turn.core.turns import TURN_ADAPTER, TURNS, ClipInfo
from wedge_turn.core.worksheet import Plan, Sheet, Step, Stretch, parse_stretch, source_ref

FRAMES = 90_000
FADE = 480
# Whose result takes the place of what went in.
IN_PLACE: list[tuple[str, dict[str, Any]]] = [
    ("swap", {}),
    ("polarity", {"channels": "right"}),
    ("width", {"width": 0.5}),
    ("matrix", {"ll": 0.5, "lr": 0.5}),
    ("level", {"gains_db": -6}),
    ("level", {"hush": "1:0.2-1:-20"}),
    ("centre", {"keep": "sides"}),
    ("encode", {}),
]


def engine(kind: str, given: dict[str, Any], over: Stretch | None, folder: Path, frames: int = FRAMES) -> Engine:
    turn = TURN_ADAPTER.validate_python(
        {"kind": kind, **({"gains_db": (-6,)} if given.get("gains_db") == -6 else given)}
    )
    path = folder / "a.wav"
    wav = WavFile(path if path.exists() else write_wav(path, noise(1, frames, 2, 21)))
    step = Step(id="only", turn=turn, inputs=(source_ref("0"),), over=over)
    return Engine(Sheet(Plan(), {"0": ClipInfo("a", wav.form)}).with_step(step), lambda _: wav)


@pytest.mark.parametrize(("kind", "given"), IN_PLACE)
def test_outside_the_range_is_the_input_and_inside_the_result(kind: str, given: dict[str, Any], tmp_path: Path) -> None:
    whole = engine(kind, given, None, tmp_path).clip("step:only:0").read(0, FRAMES)
    limited = engine(kind, given, Stretch(start="20000s", end="80000s"), tmp_path)
    made, original = limited.clip("step:only:0").read(0, FRAMES), limited.clip("source:0").read(0, FRAMES)
    assert np.array_equal(made[:20_000], original[:20_000])
    assert np.array_equal(made[80_000:], original[80_000:])
    assert np.array_equal(made[20_000 + FADE : 80_000 - FADE], whole[20_000 + FADE : 80_000 - FADE])
    e = (0.5 * (1 - np.cos(np.pi * (np.arange(FADE) + 0.5) / FADE)))[:, None]
    fade = slice(20_000, 20_000 + FADE)
    assert np.abs(made[fade] - ((1 - e) * original[fade] + e * whole[fade])).max() < 1e-14
    # Written, what the turn leaves alone is the same integer, and not dithered.
    manifest = deliver(limited, Order(("step:only:0",)), tmp_path / "out")
    written = read_ints(tmp_path / "out" / manifest.files[0].name, 24)
    assert np.array_equal(written[:20_000], noise(1, FRAMES, 2, 21)[:20_000])
    assert "Only from 0.417 s to 1.667 s, with 10 ms fades." in manifest.proofs[0].sentence


@settings(max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_a_stretch_read_alone_equals_the_same_stretch_of_the_whole(data: st.DataObject, tmp_path: Path) -> None:
    start = data.draw(st.integers(0, FRAMES - 1))
    end = data.draw(st.integers(start + 1, FRAMES))
    over = Stretch(start=f"{start}s", end=f"{end}s", fade_ms=data.draw(st.sampled_from([0, 5, 500])))
    whole = engine("swap", {}, over, tmp_path).clip("step:only:0").read(0, FRAMES)
    first = data.draw(st.integers(0, FRAMES - 1))
    frames = data.draw(st.integers(1, FRAMES - first))
    alone = engine("swap", {}, over, tmp_path).clip("step:only:0").read(first, frames)
    assert alone.tobytes() == whole[first : first + frames].tobytes()


def test_at_the_ends_of_the_clip_there_is_nothing_to_fade_from(tmp_path: Path) -> None:
    """The polarity mended from the moment the cable was swapped: up to the last sample."""
    inverted = engine("polarity", {"channels": "both"}, Stretch(start="40000s"), tmp_path)
    turned, original = inverted.clip("step:only:0").read(0, FRAMES), inverted.clip("source:0").read(0, FRAMES)
    assert np.array_equal(turned[40_000 + FADE :], -original[40_000 + FADE :])
    first = engine("polarity", {"channels": "both"}, Stretch(end="40000s"), tmp_path).clip("step:only:0").read(0, 100)
    assert np.array_equal(first, -original[:100])


def test_a_wrong_sample_outside_stops_a_delivery(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    made = engine("width", {"width": 0.5}, Stretch(start="20000s", end="30000s"), tmp_path)
    real = pcm.encode

    def encode(block: Any, *rest: Any, **named: Any) -> Any:
        changed = block.copy()
        changed[5_000] += 2.0**-23
        return real(changed, *rest, **named)

    monkeypatch.setattr("wedge_turn.core.delivery.writing.encode", encode)
    with pytest.raises(ProofFailedError, match="does not match what was computed for it"):
        deliver(made, Order(("step:only:0",)), tmp_path / "bad")


def test_the_stretch_decides_the_key(tmp_path: Path) -> None:
    overs = [None, Stretch(), Stretch(end=1.0), Stretch(end=1.0, fade_ms=0)]
    keys = {engine("swap", {}, over, tmp_path).sheet.key("step:only:0") for over in overs}
    assert len(keys) == len(overs)


@pytest.mark.parametrize("kind", ["split", "fold", "trim", "align"])
def test_turns_without_one_result_like_their_input_take_no_range(kind: str, tmp_path: Path) -> None:
    with pytest.raises(TurnInputError, match=f"{kind} can't be limited to a range"):
        engine(kind, dict(TURNS[kind].example.settings), Stretch(end=0.5), tmp_path)


def test_a_stretch_with_nothing_in_it_is_refused(tmp_path: Path) -> None:
    with pytest.raises(TurnInputError, match=r"a ends at 1\.875 s: this line's range is beyond that"):
        engine("swap", {}, Stretch(start=2.0), tmp_path)
    with pytest.raises(TurnInputError, match="this line's range ends before it starts"):
        engine("swap", {}, Stretch(start=1.0, end=0.5), tmp_path)


@pytest.mark.parametrize(
    ("text", "stretch"),
    [
        ("62-90.5", Stretch(start=62.0, end=90.5, fade_ms=20)),
        ("48000s-end", Stretch(start="48000s", fade_ms=20)),
        ("0-480s", Stretch(start=0.0, end="480s", fade_ms=20)),
        ("1:02.5-1:00:00", Stretch(start=62.5, end=3600.0, fade_ms=20)),
        ("3-", Stretch(start=3.0, fade_ms=20)),
    ],
)
def test_a_range_is_read_as_it_is_written_in_a_shell(text: str, stretch: Stretch) -> None:
    assert parse_stretch(text, 20.0) == stretch


@pytest.mark.parametrize("text", ["62", "soon-later", "1-2:long", "1:2:3:4-end", "-5-2"])
def test_invalid_ranges_are_refused(text: str) -> None:
    with pytest.raises(BadRequestError, match="isn't a range: write its start and end"):
        parse_stretch(text, 10.0)
