"""Two microphones on one source in mono: what fold makes of them, how they add up, and the best sum."""

from pathlib import Path

import numpy as np
import pytest
import scipy.signal
from numpy.typing import NDArray

from helpers import delivered, noise, read_ints
from wedge_turn.core.measure.blending import Blending, blending
from wedge_turn.core.turns import TURN_ADAPTER, Fold

RATE = 48_000


def fold(**settings: object) -> Fold:
    turn = TURN_ADAPTER.validate_python({"kind": "fold", "take": "blend", **settings})
    assert isinstance(turn, Fold)
    return turn


@pytest.mark.parametrize(("delay", "flip"), [(0, True), (3, False), (-5, True)])
def test_the_right_channel_is_inverted_and_delayed_before_the_sum(delay: int, flip: bool, tmp_path: Path) -> None:
    samples = noise(1, 5_000, 2, 22)
    _, file = delivered(tmp_path, fold(blend=0.25, delay=delay, flip_right=flip), samples)
    left = np.pad(samples[:, 0], (max(0, -delay), max(0, delay)))
    right = np.pad(samples[:, 1], (max(0, delay), max(0, -delay)))
    expected = 0.75 * left + 0.25 * (-1 if flip else 1) * right
    assert np.abs(read_ints(file)[:, 0] - expected).max() <= 1.5


def test_a_fraction_of_a_sample_moves_the_right(tmp_path: Path) -> None:
    t = np.arange(10_000)
    samples = np.rint(2**21 * np.sin(0.1 * np.stack([t, t], axis=1))).astype(np.int64)
    _, file = delivered(tmp_path, fold(blend=0.5, delay=2.5), samples)
    expected = 2**20 * (np.sin(0.1 * t) + np.sin(0.1 * (t - 2.5)))
    assert np.abs(read_ints(file)[200:9_800, 0] - expected[200:9_800]).max() <= 4


def test_a_single_channel_is_neither_inverted_nor_delayed(tmp_path: Path) -> None:
    samples = noise(2, 1_000, 2, 22)
    manifest, file = delivered(tmp_path, fold(take="right", delay=4, flip_right=True), samples)
    assert np.array_equal(read_ints(file), samples[:, 1:])
    assert manifest.proofs[0].proof.exact


def added_up(left: NDArray[np.float64], right: NDArray[np.float64], **settings: float) -> Blending:
    both = np.stack([left, right], axis=1)
    given = {"share": 0.5, "delay": 0.0, "flip": False, **settings}
    flip = bool(given["flip"])
    return blending(
        lambda start, frames: both[start : start + frames], len(both), RATE, given["share"], given["delay"], flip=flip
    )


def hiss(seed: int = 0) -> NDArray[np.float64]:
    return np.random.default_rng(seed).standard_normal(8 * RATE)


def test_the_same_adds_3_db_the_unrelated_nothing_and_opposites_cancel() -> None:
    """Of two as loud, against both by themselves (arithmetic)."""
    same, unrelated, opposite = added_up(hiss(), hiss()), added_up(hiss(), hiss(1)), added_up(hiss(), -hiss())
    assert [band.level_db for band in same.bands] == pytest.approx([3.0] * 8, abs=0.05)
    assert [band.level_db for band in unrelated.bands] == pytest.approx([0.0] * 8, abs=0.6)
    assert [band.level_db for band in opposite.bands] == [-60.0] * 8
    assert (same.correlation, opposite.correlation) == (1.0, -1.0)
    assert [band.level_db for band in added_up(hiss(), -hiss(), flip=True).bands] == pytest.approx([3.0] * 8, abs=0.05)


def test_a_delay_combs_where_arithmetic_says() -> None:
    """48 samples are 1 ms: half a turn at 500 Hz, a whole one at 1 kHz; narrow bands around each, by their edges."""
    tone = {hertz: np.sin(2 * np.pi * hertz / RATE * np.arange(8 * RATE)) for hertz in (500, 1_000)}
    sound = tone[500] + tone[1_000]
    levels = {band.hertz: band.level_db for band in added_up(sound, np.roll(sound, 48)).bands}
    assert levels[500] is not None
    assert levels[500] < -20
    assert levels[1_000] == pytest.approx(3.0, abs=0.1)


@pytest.mark.parametrize(("late", "inverted"), [(0, True), (37, False), (90, True)])
def test_the_best_sum_lines_the_low_end_up(late: int, inverted: bool) -> None:
    """The second microphone hears the same later, duller, and perhaps inverted."""
    sound = scipy.signal.sosfilt(scipy.signal.butter(2, [40, 4_000], "band", fs=RATE, output="sos"), hiss())
    second = np.roll(sound, late) * (-0.7 if inverted else 0.7)
    best = added_up(sound, second).best
    assert best is not None
    assert best.flip is inverted
    assert best.delay == pytest.approx(-late, abs=20)
    assert best.gain_db > 0
    level = added_up(sound, second, delay=best.delay, flip=best.flip).bands[1].level_db
    assert level is not None
    assert level > 2.5
    again = added_up(sound, second, delay=best.delay, flip=best.flip).best
    assert again is not None
    assert abs(again.gain_db) <= 0.1


def test_silence_has_no_best_sum() -> None:
    assert added_up(0 * hiss(), 0 * hiss()) == Blending(None, added_up(0 * hiss(), 0 * hiss()).bands, None)
