"""A channel whose polarity changes partway: found, and inverted from there on."""

from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray

from support.helpers import write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Engine, make_clip
from wedge_turn.core.findings.file import find_in_file
from wedge_turn.core.measure import Measures, measure_signal
from wedge_turn.core.turns import ClipInfo
from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref

RATE = 48_000


def recorded(folder: Path, left: NDArray[np.float64], right: NDArray[np.float64]) -> tuple[WavFile, Measures]:
    ints = np.rint(2**20 * np.stack([left, right], axis=1)).astype(np.int64)
    wav = WavFile(write_wav(folder / "a.wav", ints))
    return wav, measure_signal(make_clip(wav))


def hall(seconds: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Two sides that share most of what they hear."""
    rng = np.random.default_rng(0)
    shared, left, right = rng.standard_normal((3, round(seconds * RATE)))
    return shared + 0.4 * left, shared + 0.4 * right


@pytest.mark.parametrize("first", [False, True])
def test_the_polarity_change_is_located_and_repaired(first: bool, tmp_path: Path) -> None:
    left, right = hall(10)
    swapped = slice(0, 4 * RATE) if first else slice(4 * RATE, None)
    right[swapped] = -right[swapped]
    wav, measures = recorded(tmp_path, left, right)
    (finding,) = [each for each in find_in_file("a", wav.form, measures) if each.code == "polarity-changes"]
    assert finding.measured["seconds"] == pytest.approx(4.0, abs=0.11)
    assert ("up to 4.0 s" if first else "from 4.0 s") in finding.message
    assert finding.remedy is not None
    step = Step(id="only", turn=finding.remedy.turn, inputs=(source_ref("0"),), over=finding.remedy.over)
    engine = Engine(Sheet(Plan(steps=(step,)), {"0": ClipInfo("a", wav.form)}), lambda _: wav)
    mended = measure_signal(engine.clip("step:only:0")).sides
    assert mended is not None
    assert mended.polarity_change is None
    assert mended.correlation is not None
    assert mended.correlation > 0.8


def test_no_polarity_change_without_a_clear_one(tmp_path: Path) -> None:
    left, right = hall(6)
    for name, a, b in (("together", left, right), ("against", left, -right), ("apart", left, np.roll(right, 50))):
        (tmp_path / name).mkdir()
        _, measures = recorded(tmp_path / name, a, b)
        assert measures.sides is not None
        assert measures.sides.polarity_change is None
    (tmp_path / "short").mkdir()
    right[2 * RATE : round(2.5 * RATE)] *= -1
    _, measures = recorded(tmp_path / "short", left[: 3 * RATE], right[: 3 * RATE])
    assert measures.sides is not None
    assert measures.sides.polarity_change is None


def test_the_tail_of_a_bell_against_its_stroke_is_no_swapped_cable(tmp_path: Path) -> None:
    fall = np.exp(-np.arange(6 * RATE) / RATE * 2)
    left, right = (side * fall for side in hall(6))
    right[2 * RATE :] *= -1
    _, measures = recorded(tmp_path, left, right)
    assert measures.sides is not None
    assert measures.sides.polarity_change is None
