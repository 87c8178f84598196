"""Levels and how two sides go together, against published values and independent libraries."""

import math
from pathlib import Path

import numpy as np
import pyloudnorm
import pytest
import scipy.signal
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st

from wedge_turn.core.audio import WavFile
from wedge_turn.core.form import Form
from wedge_turn.core.measure import Measures, measure_signal
from wedge_turn.core.measure.cross_spectra import BLOCK
from wedge_turn.core.measure.loudness import channel_weights, integrate_loudness, k_weighting


class Memory:
    """A signal in memory."""

    def __init__(self, samples: np.ndarray, rate: int = 48_000) -> None:
        self.samples = samples.reshape(len(samples), -1).astype(np.float64)
        channels = self.samples.shape[1]
        self.form = Form(channels=channels, frames=len(samples), rate=rate, encoding="f64")

    def read(self, start: int, frames: int) -> np.ndarray:
        return self.samples[start : start + frames]


def measured(samples: np.ndarray, rate: int = 48_000) -> Measures:
    return measure_signal(Memory(samples, rate))


def sine(hertz: float, dbfs: float = 0.0, seconds: float = 20.0, rate: int = 48_000, phase: float = 0.0) -> np.ndarray:
    t = np.arange(int(seconds * rate)) / rate
    wave: np.ndarray = 10 ** (dbfs / 20) * np.sin(2 * np.pi * hertz * t + phase)
    return wave


def test_full_scale_sine_on_one_front_channel_is_minus_3_01_lkfs() -> None:
    """ITU-R BS.1770-5, Annex 1."""
    measures = measured(np.stack([sine(997), np.zeros(960_000)], axis=1))
    assert measures.whole.loudness_lufs == pytest.approx(-3.01, abs=0.01)


@pytest.mark.parametrize("level", [-23.0, -33.0])
def test_stereo_sines_of_ebu_tech_3341(level: float) -> None:
    """EBU Tech 3341, minimum requirement tests 1 and 2: ±0.1 LU."""
    tone = sine(1000, level)
    found = measured(np.stack([tone, tone], axis=1))
    assert found.whole.loudness_lufs == pytest.approx(level, abs=0.1)


@pytest.mark.parametrize(
    ("parts", "expected"),
    [([(-36, 10), (-23, 60), (-36, 10)], -23.0), ([(-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)], -23.0)],
)
def test_gates_of_ebu_tech_3341(parts: list[tuple[float, float]], expected: float) -> None:
    """EBU Tech 3341, tests 3 and 4 (values from memory): what is quiet does not count."""
    tone = np.concatenate([sine(1000, level, seconds) for level, seconds in parts])
    assert measured(np.stack([tone, tone], axis=1)).whole.loudness_lufs == pytest.approx(expected, abs=0.1)


def test_the_weighting_is_that_of_the_recommendation() -> None:
    """ITU-R BS.1770-5, Annex 1, tables 1 and 2, for 48 kHz."""
    table = [1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585,
             -1.99004745483398, 0.99007225036621]  # fmt: skip
    assert k_weighting(48_000) == pytest.approx(table, abs=1e-11)


@pytest.mark.parametrize("rate", [8_000, 44_100, 48_000, 96_000])
def test_loudness_as_pyloudnorm_finds_it(rate: int) -> None:
    rng = np.random.default_rng(rate)
    noise = 0.05 * rng.standard_normal((15 * rate, 2)) * np.repeat(rng.uniform(0.02, 1, (15, 1)), rate, axis=0)
    expected = pyloudnorm.Meter(rate, filter_class="DeMan").integrated_loudness(noise)
    assert measured(noise, rate).whole.loudness_lufs == pytest.approx(expected, abs=0.05)


def test_surrounds_count_more_and_lfe_not_at_all() -> None:
    """ITU-R BS.1770-5, Annex 1, table 3: 1.41 for the surrounds."""
    weights = channel_weights(6, ("FL", "FR", "FC", "LFE", "SL", "SR"))
    assert weights.tolist() == [1, 1, 1, 0, 1.41, 1.41]
    steps = np.full((10, 6), 0.01)
    assert integrate_loudness(steps, weights) == pytest.approx(-0.691 + 10 * math.log10(0.01 * 5.82))
    assert integrate_loudness(np.zeros((10, 6)), weights) is None


def test_true_peak_between_samples() -> None:
    """ITU-R BS.1770-5, Annex 2, and EBU Tech 3341: a quarter of the rate at 45°, +0.2/−0.4 dB."""
    tone = sine(12_000, 0, 2, phase=math.pi / 4)
    faded = tone * np.minimum(1, np.arange(tone.size) / 4_800) * np.minimum(1, np.arange(tone.size)[::-1] / 4_800)
    found = measured(faded).whole
    assert found.peak_dbfs == pytest.approx(-3.01, abs=0.01)
    assert found.true_peak_dbtp is not None
    assert -0.4 <= found.true_peak_dbtp <= 0.2


@given(st.integers(0, 2**31), st.sampled_from([(44_100, 4), (96_000, 2)]))
@settings(max_examples=15)
def test_true_peak_as_scipy_interpolates_it(seed: int, rate_and_points: tuple[int, int]) -> None:
    """Every stretch that is passed over would not have been higher. Within 0.1 dB of a far longer filter."""
    rate, points = rate_and_points
    rng = np.random.default_rng(seed)
    wide = rng.standard_normal(40_000)
    band = scipy.signal.firwin(101, 0.7)
    noise = np.convolve(wide, band, "same") * np.repeat(rng.uniform(0, 1, 40), 1_000) * 0.2
    noise *= np.minimum(1, np.arange(noise.size)[::-1] / 500) * np.minimum(1, np.arange(noise.size) / 500)
    expected = np.abs(scipy.signal.resample_poly(noise, points, 1, window=("kaiser", 12.0))).max()
    found = measured(noise, rate).whole.true_peak_dbtp
    assert found == pytest.approx(20 * math.log10(expected), abs=0.1)


def test_levels_of_a_full_scale_sine() -> None:
    """AES17: RMS 0 dBFS. Its crest factor is 3.01 dB (arithmetic)."""
    found = measured(sine(997)).whole
    assert found.rms_dbfs == pytest.approx(0, abs=1e-3)
    assert found.peak_dbfs == pytest.approx(0, abs=1e-3)
    assert found.crest_db == pytest.approx(3.01, abs=0.01)


@pytest.mark.parametrize(
    ("second", "correlation", "loss"),
    [("same", 1.0, 0.0), ("opposite", -1.0, None), ("quarter", 0.0, 3.01), ("independent", 0.0, 3.01)],
)
def test_correlation_and_mono_fold(second: str, correlation: float, loss: float | None) -> None:
    """Pearson's r about zero mean; fold to (L + R)/2: 0 dB of equal sides, −3.01 dB of independent ones (derived)."""
    rng = np.random.default_rng(1)
    noise = rng.standard_normal(480_000) * 0.1
    left = sine(1000, -12, 10) if second == "quarter" else noise
    right = {
        "same": left,
        "opposite": -left,
        "quarter": sine(1000, -12, 10, phase=math.pi / 2),
        "independent": rng.standard_normal(480_000) * 0.1,
    }[second]
    sides = measured(np.stack([left, right], axis=1)).sides
    assert sides is not None
    assert sides.correlation == pytest.approx(correlation, abs=0.01)
    assert sides.mono_fold_loss_db == (None if loss is None else pytest.approx(loss, abs=0.05))
    assert sides.identical == (second == "same")


@given(st.integers(-2_000, 2_000), st.integers(0, 99))
@settings(max_examples=25)
def test_the_delay_agrees_with_scipy(delay: int, seed: int) -> None:
    """Knapp and Carter (1976); scipy.signal.correlate as the reference."""
    noise = np.random.default_rng(seed).standard_normal(60_000)
    left, right = noise[2_000:-2_000], noise[2_000 - delay : 58_000 - delay]
    lags = scipy.signal.correlation_lags(20_000, 20_000)
    reference = int(lags[np.argmax(scipy.signal.correlate(right[:20_000], left[:20_000]))])
    sides = measured(np.stack([left, right], axis=1) * 0.1).sides
    assert sides is not None
    assert sides.delay.samples == reference == delay
    assert sides.delay.confidence > 0.5


def test_of_unrelated_sounds_no_delay_is_believed() -> None:
    noise = np.random.default_rng(3).standard_normal((480_000, 2)) * 0.1
    sides = measured(noise).sides
    assert sides is not None
    assert sides.delay.confidence < 0.1
    assert sides.coherence < 0.1


def test_coherence_is_high_between_linearly_related_channels() -> None:
    """scipy.signal.coherence, averaged with the energy, as the reference."""
    rng = np.random.default_rng(4)
    left = rng.standard_normal(480_000)
    right = scipy.signal.lfilter([1, 0.5, 0.2], [1], left) + 0.5 * rng.standard_normal(480_000)
    each = scipy.signal.coherence(left, right, nperseg=8192, noverlap=0)[1]
    power = sum(scipy.signal.welch(x, nperseg=8192, noverlap=0)[1] for x in (left, right))
    sides = measured(np.stack([left, right], axis=1) * 0.1).sides
    assert sides is not None
    assert sides.coherence == pytest.approx(np.average(each, weights=power), abs=0.02)


def test_the_field_points_where_the_sound_is() -> None:
    tone = np.random.default_rng(5).standard_normal(96_000) * 0.1
    for left, right, angle in ((1, 1, 0), (1, 0, 45), (0, 1, -45), (1, -1, 90)):
        sides = measured(np.stack([left * tone, right * tone], axis=1)).sides
        assert sides is not None
        loudest = -90 + (np.argmax(sides.field) + 0.5) * 5
        assert min(abs(loudest - angle), abs(loudest + angle) if abs(angle) == 90 else 99) <= 5
        assert sum(sides.field) == pytest.approx(1, abs=1e-3)


@given(st.integers(1, 200_000), st.integers(1, 3), st.integers(0, 9))
@settings(max_examples=20)
def test_any_length_and_count_is_measured_as_numpy_measures_it(frames: int, channels: int, seed: int) -> None:
    block = np.random.default_rng(seed).uniform(-1, 1, (frames, channels)) * 0.9
    found = measured(block)
    for c, levels in enumerate(found.channels):
        assert levels.peak_dbfs == pytest.approx(20 * math.log10(np.abs(block[:, c]).max()), abs=2e-3)
        assert levels.rms_dbfs == pytest.approx(10 * math.log10(2 * np.mean(block[:, c] ** 2)), abs=2e-3)
        assert levels.dc == pytest.approx(np.mean(block[:, c]), abs=float(1e-2 * abs(np.mean(block[:, c])) + 1e-9))
        assert (levels.true_peak_dbtp or 0) >= (levels.peak_dbfs or 0)
    assert (found.sides is None) == (channels != 2)


def test_clipped_runs_are_counted_across_blocks(tmp_path: Path) -> None:
    ints = np.zeros((BLOCK + 4_000, 1), np.int32)
    ints[BLOCK - 6 : BLOCK + 5] = 2**31 - 1  # over the border of two blocks
    ints[10:13] = 2**31 - 1  # three are no run
    ints[100:104] = -(2**31)
    soundfile.write(tmp_path / "a.wav", ints, 48_000, subtype="PCM_24")
    with WavFile(tmp_path / "a.wav") as wav:
        found = measure_signal(wav).whole
    assert (found.clipped_runs, found.clipped_samples) == (2, 15)


def test_silence_has_no_levels() -> None:
    found = measured(np.zeros((10_000, 2)))
    assert found.whole.model_dump(exclude={"dc", "steady_dc", "clipped_runs", "clipped_samples"}) == {
        "peak_dbfs": None, "true_peak_dbtp": None, "rms_dbfs": None, "loudness_lufs": None, "crest_db": None,
        "peak_seconds": None, "usual_dbfs": None, "hum_hz": None,
    }  # fmt: skip
    assert found.sides is not None
    assert found.sides.correlation is None
    assert found.sides.balance_db is None
