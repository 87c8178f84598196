"""Two microphones on one source in mono: what fold makes of them, how they add up, and the best sum."""

from pathlib import Path

import numpy as np
import pytest
import scipy.signal
from numpy.typing import NDArray

from support.helpers import delivered, noise, read_ints
from wedge_turn.core.measure import Blending, measure_blending, measure_delays
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


def added_up(left: NDArray[np.float64], right: NDArray[np.float64], rate: int = RATE, **settings: float) -> Blending:
    both = np.stack([left, right], axis=1)
    given = {"share": 0.5, "delay": 0.0, "flip": False, **settings}

    def read(start: int, frames: int) -> NDArray[np.float64]:
        return both[start : start + frames]

    (late,) = measure_delays(read, len(both), 2, rate)
    flip = bool(given["flip"])
    return measure_blending(read, len(both), rate, given["share"], given["delay"], flip=flip, late=late)


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


def delayed(sound: NDArray[np.float64], by: float) -> NDArray[np.float64]:
    """By the shift theorem, over all of the sound."""
    spectrum = np.fft.rfft(sound, 2 * len(sound))
    turned = spectrum * np.exp(-2j * np.pi * np.arange(len(spectrum)) * by / (2 * len(sound)))
    late: NDArray[np.float64] = np.fft.irfft(turned)[: len(sound)]
    return late


def source(rate: int, seed: int = 0) -> NDArray[np.float64]:
    """A drum-like sound: strokes of a low tone with a click, over a little noise."""
    rng = np.random.default_rng(seed)
    t = np.arange(8 * rate) / rate
    stroke = np.exp(-t[: rate // 2] * 12) * np.sin(2 * np.pi * 90 * t[: rate // 2])
    stroke += np.exp(-t[: rate // 2] * 80) * rng.standard_normal(rate // 2)
    hits = np.zeros(len(t))
    hits[rng.integers(0, len(t) - rate, 24)] = rng.uniform(0.3, 1, 24)
    whole: NDArray[np.float64] = scipy.signal.fftconvolve(hits, stroke)[: len(t)]
    return whole + 1e-3 * rng.standard_normal(len(t))


def in_a_room(sound: NDArray[np.float64], rate: int, seed: int) -> NDArray[np.float64]:
    """The direct sound, then echoes that die away within some tenths of a second, ten dB below it in all."""
    rng = np.random.default_rng(seed)
    echoes = rng.standard_normal(rate // 3) * np.exp(-np.arange(rate // 3) / (0.06 * rate))
    echoes[: rate // 200] = 0
    tail: NDArray[np.float64] = scipy.signal.fftconvolve(sound, echoes)[: len(sound)]
    tail *= 10 ** (-10 / 20) * float(sound.std() / tail.std())
    return sound + tail


@pytest.mark.parametrize(("rate", "late"), [(44_100, 23.0), (96_000, -61.0), (96_000, 37.5)])
@pytest.mark.parametrize("inverted", [True, False])
@pytest.mark.parametrize("material", ["copy", "room", "second source"])
def test_the_best_sum_lines_up_the_whole_band(rate: int, late: float, inverted: bool, material: str) -> None:
    front = source(rate)
    back = delayed(front, late) * (-0.7 if inverted else 0.7)
    if material == "room":
        front, back = in_a_room(front, rate, 3), in_a_room(back, rate, 4)
    if material == "second source":
        other = source(rate, 9) * 10 ** (-6 / 20)
        front, back = front + other, back + delayed(other, -late / 2)
    best = added_up(front, back, rate).best
    assert best is not None
    assert best.confidence is not None
    assert best.flip is inverted
    assert best.delay == pytest.approx(-late, abs=0.5)
    if material == "copy":
        again = added_up(front, back, rate, delay=best.delay, flip=best.flip)
        assert [band.level_db for band in again.bands] == pytest.approx([2.9] * len(again.bands), abs=0.4)
        assert again.best is not None
        assert again.best.delay == best.delay
        assert again.best.gain_db == pytest.approx(0, abs=0.1)


def test_the_low_end_decides_where_nothing_else_is_shared() -> None:
    """Two microphones so far apart, or so different, that only the lows have a common shape."""
    low = scipy.signal.sosfilt(scipy.signal.butter(4, [40, 150], "band", fs=RATE, output="sos"), hiss()) * 20
    best = added_up(low + hiss(1), -np.roll(low, 90) + hiss(2)).best
    assert best is not None
    assert best.confidence is None
    assert best.flip
    assert best.delay == pytest.approx(-90, abs=25)
    assert best.gain_db > 0


def test_silence_has_no_best_sum() -> None:
    assert added_up(0 * hiss(), 0 * hiss()) == Blending(None, added_up(0 * hiss(), 0 * hiss()).bands, None)
