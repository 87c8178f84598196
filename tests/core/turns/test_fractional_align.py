"""Align by fractions of a sample, against sines that are known at every instant."""

import json
from pathlib import Path

import numpy as np
import pytest

from support.helpers import delivered, engine_on, noise, read_ints, write_wav
from wedge_turn.core.audio import Block, WavFile
from wedge_turn.core.turns import TURN_ADAPTER, Align, WindowOutcome
from wedge_turn.core.turns.shifting import FractionalShift

RATE = 48_000


def align(*delay: float) -> Align:
    turn = TURN_ADAPTER.validate_python({"kind": "align", "delay": delay})
    assert isinstance(turn, Align)
    return turn


@pytest.mark.parametrize("delay", [0.5, 0.1, 3.7, 100.001])
def test_the_error_is_at_most_120_db_down_up_to_0_9_of_half_the_rate(delay: float) -> None:
    """Laakso et al., IEEE Signal Processing Magazine 13 (1), 1996: a fractional delay against the delayed sine."""
    for share in (0.001, 0.1, 0.5, 0.8, 0.9):
        turns = np.pi * share

        def sine(start: int, frames: int, turns: float = turns) -> Block:
            wave: Block = np.sin(turns * np.arange(start, start + frames) + 0.3)[:, None]
            return wave

        moved = FractionalShift(sine, [delay]).read(1_000, 4_000)[:, 0]
        expected = np.sin(turns * (np.arange(1_000, 5_000) - delay) + 0.3)
        assert np.abs(moved - expected).max() < 10 ** (-120 / 20)


def test_a_channel_beside_it_stays_exact_and_is_not_dithered(tmp_path: Path) -> None:
    t = np.arange(20_000)
    samples = np.stack([noise(1, 20_000, 1, 22)[:, 0], np.rint(2**21 * np.sin(0.2 * t))], axis=1).astype(np.int64)
    _, file = delivered(tmp_path, align(0, 14.25), samples)
    written = read_ints(file)
    assert len(written) == 20_015
    assert np.array_equal(written[:20_000, 0], samples[:, 0])
    assert not written[20_000:, 0].any()
    expected = 2**21 * np.sin(0.2 * (t - 14.25))
    assert np.abs(written[100:19_900, 1] - expected[100:19_900]).max() <= 4  # its own rounding, dither, and the filter


def test_only_differences_of_delays_count(tmp_path: Path) -> None:
    wav = WavFile(write_wav(tmp_path / "a.wav", noise(2, 3_000, 2, 22)))
    first, second = (engine_on(align(*delay), wav).clip("step:only:0") for delay in ((0.3, 0), (1.1, 0.8)))
    assert first.read(0, 3_001).tobytes() == second.read(0, 3_001).tobytes()


def test_a_stretch_alone_equals_the_whole_across_pages(tmp_path: Path) -> None:
    wav = WavFile(write_wav(tmp_path / "a.wav", noise(3, 140_000, 2, 22)))
    whole = engine_on(align(0.4, 7), wav).clip("step:only:0").read(0, 140_007)
    alone = engine_on(align(0.4, 7), wav).clip("step:only:0").read(65_500, 66_000)
    assert alone.tobytes() == whole[65_500:131_500].tobytes()


@pytest.mark.parametrize(("given", "stored", "exact"), [((14.0, 0), [14, 0], True), ((1.5, 0.5), [1.5, 0.5], True),
                                                        ((0, 0.25), [0, 0.25], False)])  # fmt: skip
def test_whole_samples_are_exact_however_they_are_written(
    given: tuple[float, ...], stored: list[float], exact: bool, tmp_path: Path
) -> None:
    turn = align(*given)
    assert json.loads(turn.model_dump_json())["delay"] == stored
    engine = engine_on(turn, WavFile(write_wav(tmp_path / "a.wav", noise(4, 100, 2))))
    assert engine.sheet.outcomes["only"].exact is exact
    assert isinstance(engine.sheet.outcomes["only"], WindowOutcome) is not exact


def test_its_sentence_names_each_delay(tmp_path: Path) -> None:
    engine = engine_on(align(0.5, 2), WavFile(write_wav(tmp_path / "a.wav", noise(5, 100, 2))), names=["snare"])
    said = align(0.5, 2).sentence([engine.sheet.info("source:0")])
    assert said == "Delays snare: channel 2 by 1.5 samples (0.03 ms)."
    assert align(0.5, 2).words == "align by 0, 1.5 samples"
