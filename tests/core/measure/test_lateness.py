"""How late one channel is behind another: delays and drifts that are known, and what must not be guessed."""

import numpy as np
import pytest
import scipy.signal
from numpy.typing import NDArray

from wedge_turn.core.measure import Lateness, measure_delays

RATE = 48_000


def hiss(seconds: float, seed: int = 0) -> NDArray[np.float64]:
    """Noise below 8 kHz, which is smooth between its samples."""
    white = np.random.default_rng(seed).standard_normal(round(seconds * RATE))
    wave: NDArray[np.float64] = scipy.signal.sosfilt(scipy.signal.butter(8, 8_000, fs=RATE, output="sos"), white)
    return wave


def delayed(sound: NDArray[np.float64], by: float) -> NDArray[np.float64]:
    """By the shift theorem, over all of the sound."""
    spectrum = np.fft.rfft(sound, 2 * len(sound))
    turned = spectrum * np.exp(-2j * np.pi * np.arange(len(spectrum)) * by / (2 * len(sound)))
    return np.fft.irfft(turned)[: len(sound)]


def lateness_of(*channels: NDArray[np.float64]) -> list[Lateness]:
    samples = np.stack(channels, axis=1)
    return measure_delays(lambda start, frames: samples[start : start + frames], len(samples), len(channels), RATE)


@pytest.mark.parametrize("by", [14.0, 14.37, -900.5, 20_000.25])
def test_a_delay_is_measured_to_a_hundredth_of_a_sample(by: float) -> None:
    """scipy.signal.correlate is the outside reference for whole samples."""
    sound = hiss(8)
    late = delayed(sound, by)
    (lateness,) = lateness_of(sound, late)
    assert lateness.samples == pytest.approx(by, abs=0.01)
    assert not lateness.inverted
    assert lateness.drift is None
    lags = scipy.signal.correlation_lags(len(sound), len(sound))
    assert lags[np.argmax(scipy.signal.correlate(late, sound))] == round(by)
    top = lateness.curve_start + int(np.argmax(lateness.curve))
    assert abs(top - by) <= 0.5


def test_an_inverted_second_microphone_in_a_room_is_aligned() -> None:
    rng = np.random.default_rng(1)
    echoes = rng.standard_normal(9_600) * np.exp(-np.arange(9_600) / 1_500)
    echoes[:200] = 0
    sound = hiss(10)
    back = -delayed(sound, 37.5) + 0.05 * np.convolve(sound, echoes)[: len(sound)]
    (one,) = lateness_of(sound, back)
    assert one.samples == pytest.approx(37.5, abs=0.05)
    assert one.inverted


def test_several_channels_are_each_compared_with_the_first() -> None:
    sound = hiss(6)
    assert [one.samples for one in lateness_of(sound, delayed(sound, 5), delayed(sound, -3))] == pytest.approx(
        [5, -3], abs=0.01
    )


def test_clock_drift_is_reported_in_ppm_instead_of_a_delay() -> None:
    sound = hiss(90)
    times = np.arange(len(sound)) * (1 - 20e-6) - 50
    (one,) = lateness_of(sound, np.interp(times, np.arange(len(sound)), sound))
    assert one.samples is None
    assert one.drift is not None
    assert one.drift.ppm == pytest.approx(20, abs=0.5)
    assert one.drift.at_start == pytest.approx(50, abs=1)
    assert one.drift.at_end == pytest.approx(50 + 90 * RATE * 20e-6, abs=2)


@pytest.mark.parametrize("kind", ["unrelated", "tone", "silence", "one silent"])
def test_where_it_is_unsure_it_gives_no_delay(kind: str) -> None:
    """A tone lines up at every period; what is unrelated nowhere."""
    t = np.arange(5 * RATE)
    pairs = {
        "unrelated": (hiss(5, 2), hiss(5, 3)),
        "tone": (np.sin(0.03 * t), np.sin(0.03 * (t - 10))),
        "silence": (0.0 * t, 0.0 * t),
        "one silent": (hiss(5), 0.0 * t),
    }
    (one,) = lateness_of(*pairs[kind])
    assert one.samples is None
    assert np.isfinite([one.confidence, one.runner_up, *one.curve]).all()


def test_a_clip_shorter_than_a_window_is_measured_too() -> None:
    sound = hiss(0.2)
    (one,) = lateness_of(sound, delayed(sound, 12))
    assert one.samples == pytest.approx(12, abs=0.1)
