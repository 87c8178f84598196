"""Published and derived values: laws of summing, cancellation, microphones in the middle, the surround fold, dither."""

import math
from pathlib import Path

import numpy as np
import pytest

from support.helpers import delivered, engine_on, noise, quiet, read_ints, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.form import Form
from wedge_turn.core.measure import measure_signal
from wedge_turn.core.turns import ClipInfo, Decode, Fold, Sum
from wedge_turn.core.worksheet import parse_turn

RATE = 48_000


@pytest.mark.parametrize(
    ("law", "equal", "independent"), [("average", 0, -3.01), ("power", 3.01, 0), ("full", 6.02, 3.01)]
)
def test_laws_of_summing(law: str, equal: float, independent: float, tmp_path: Path) -> None:
    """Two equal signals summed +6.02 dB, independent ones of equal power +3.01 dB (arithmetic)."""
    rng = np.random.default_rng(7)
    noise_a, noise_b = (np.rint(rng.standard_normal(200_000) * 2**18).astype(np.int64) for _ in range(2))
    for second, expected in ((noise_a, equal), (noise_b, independent)):
        wav = WavFile(write_wav(tmp_path / f"{expected}.wav", np.stack([noise_a, second], axis=1)))
        fold = parse_turn("fold", {"law": law})
        clip = engine_on(fold, wav).clip("step:only:0")
        level = 20 * math.log10(np.sqrt(np.mean(clip.read(0, 200_000) ** 2)) / (np.sqrt(np.mean(noise_a**2)) / 2**23))
        assert level == pytest.approx(expected, abs=0.05)
        sides = measure_signal(engine_on(fold, wav).clip("source:0")).sides
        folded = measure_signal(clip).whole.rms_dbfs
        assert sides is not None
        assert sides.fold_dbfs[fold.law] == pytest.approx(folded, abs=2e-3)  # type: ignore[union-attr]


def test_opposite_sides_are_silence_in_any_sum(tmp_path: Path) -> None:
    ints = quiet(8, 3_000, 1)
    for law in ("average", "power", "full"):
        wav = WavFile(write_wav(tmp_path / f"{law}.wav", np.hstack([ints, -ints])))
        assert not engine_on(parse_turn("fold", {"law": law}), wav).clip("step:only:0").read(0, 3_000).any()


@pytest.mark.parametrize(("error_db", "residue"), [(0.1, -38.8), (1.0, -19.3)])
def test_cancellation_with_a_gain_error(error_db: float, residue: float, tmp_path: Path) -> None:
    """20·log10(1 − 10^(−g/20)), derived."""
    ints = noise(9, 20_000, 1, 22)
    files = [WavFile(write_wav(tmp_path / f"{n}.wav", ints)) for n in range(2)]
    left = engine_on(Sum(gains_db=(0, -error_db), flip=(2,)), *files).clip("step:only:0").read(0, 20_000)
    level = 20 * math.log10(np.sqrt(np.mean(left**2)) / np.sqrt(np.mean((ints / 2**23) ** 2)))
    assert level == pytest.approx(residue, abs=0.05)


@pytest.mark.parametrize(("degrees", "residue"), [(1, -35.2), (10, -15.2)])
def test_cancellation_with_a_phase_error(degrees: float, residue: float, tmp_path: Path) -> None:
    """20·log10(2·sin(φ/2)), derived."""
    t = 2 * np.pi * 997 * np.arange(RATE) / RATE
    waves = [np.rint(2**21 * np.sin(t - np.deg2rad(angle)))[:, None].astype(np.int64) for angle in (0, degrees)]
    files = [WavFile(write_wav(tmp_path / f"{n}.wav", wave)) for n, wave in enumerate(waves)]
    left = engine_on(Sum(flip=(2,)), *files).clip("step:only:0").read(0, RATE)
    assert 20 * math.log10(np.sqrt(np.mean(left**2)) * math.sqrt(2) * 4) == pytest.approx(residue, abs=0.05)


@pytest.mark.parametrize("ms", [0.5, 1.0, 2.0])
def test_a_late_side_notches_the_sum_first_at_half_its_period(ms: float, tmp_path: Path) -> None:
    """Arithmetic of the comb filter: equal sides τ apart sum to nothing first at 1/(2τ), 1 ms → 500 Hz."""
    impulse = np.zeros((4_800, 2), np.int64)
    impulse[100, 0] = impulse[100 + round(ms * RATE / 1_000), 1] = 2**22
    summed = engine_on(Fold(), WavFile(write_wav(tmp_path / "w.wav", impulse))).clip("step:only:0").read(0, 4_800)
    response = np.abs(np.fft.rfft(summed[:, 0]))
    hertz = np.fft.rfftfreq(4_800, 1 / RATE)
    below = hertz < 1_500 / ms / 2
    assert hertz[below][np.argmin(response[below])] == pytest.approx(500 / ms, abs=RATE / 4_800)
    assert response[0] == pytest.approx(0.5)


def pattern(turn: Decode, mid: np.ndarray, side: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Left and right of a decode, by the angle of a source, of microphones with these patterns."""
    form = ClipInfo("x_ms", Form(channels=2, frames=1, rate=RATE, encoding="s24"))
    matrix = turn.outcome([form]).matrix
    return matrix[0, 0] * mid + matrix[0, 1] * side, matrix[1, 0] * mid + matrix[1, 1] * side


THETA = np.deg2rad(np.arange(-180, 180))


def test_omni_and_figure_eight_are_cardioids_to_the_sides() -> None:
    """Streicher and Dooley, J. Audio Eng. Soc. 33 (1985); 1 + sin θ."""
    left, right = pattern(Decode(), np.ones(360), np.sin(THETA))
    assert np.allclose(left, 1 + np.sin(THETA))
    assert np.rad2deg(THETA[left.argmax()]) == pytest.approx(90)
    assert np.rad2deg(THETA[right.argmax()]) == pytest.approx(-90)


def test_figure_eights_are_crossed_figure_eights() -> None:
    """Blumlein, GB 394 325 (1933): at ±45°, each √2 louder (derived)."""
    left, _ = pattern(Decode(), np.cos(THETA), np.sin(THETA))
    assert np.allclose(left, math.sqrt(2) * np.cos(THETA - np.deg2rad(45)))


def test_a_cardioid_in_the_middle() -> None:
    """L = 0.5 + 1.118·cos(θ − 63.4°), derived."""
    left, right = pattern(Decode(), 0.5 + 0.5 * np.cos(THETA), np.sin(THETA))
    assert np.allclose(left, 0.5 + 1.118 * np.cos(THETA - np.deg2rad(63.435)), atol=1e-3)
    flipped, _ = pattern(Decode(flip_side=True), 0.5 + 0.5 * np.cos(THETA), np.sin(THETA))
    assert np.allclose(flipped, right)


def test_surrounds_fold_by_the_recommendation(tmp_path: Path) -> None:
    """ITU-R BS.775-4: centre and surround at −3.01 dB, here as a sum of mono clips."""
    files = [WavFile(write_wav(tmp_path / f"{n}.wav", quiet(n, 500, 1))) for n in range(3)]
    gains = (0, 20 * math.log10(math.sqrt(0.5)), 20 * math.log10(math.sqrt(0.5)))
    summed = engine_on(Sum(gains_db=gains), *files).clip("step:only:0").read(0, 500)[:, 0]
    one, centre, surround = (quiet(n, 500, 1)[:, 0] / 2**23 for n in range(3))
    assert np.allclose(summed, one + 0.70710678 * (centre + surround))


def test_dither_makes_the_error_noise_and_is_the_same_every_time(tmp_path: Path) -> None:
    """Quantising noise −(6.02·N + 1.76) dB of a full-scale sine (textbook); triangular dither 4.77 dB more, and no
    distortion: Lipshitz, Wannamaker and Vanderkooy, J. Audio Eng. Soc. 40 (1992).
    """
    t = np.arange(2**17)
    tone = np.rint(2**23 * 1.7 * 2**-16 * np.sin(2 * np.pi * 997 / RATE * t)).astype(np.int64)
    ints = np.stack([tone, tone], axis=1)
    spectra = {}
    for dither in (True, False):
        _, path = delivered(tmp_path / str(dither), Fold(), ints, depth="16", dither=dither)
        error = read_ints(path, 16)[:, 0] - tone / 2**8
        if dither:
            # A third of the noise is that of rounding, two thirds are the dither's: 3/12 of a step squared.
            assert 10 * math.log10(np.mean(error**2) * 12) == pytest.approx(4.77, abs=0.1)
        spectra[dither] = 20 * np.log10(np.abs(np.fft.rfft(error * np.hanning(t.size))) / np.sqrt(t.size) + 1e-12)
    peaks = {dither: spectrum.max() - np.median(spectrum) for dither, spectrum in spectra.items()}
    assert peaks[False] > peaks[True] + 12  # harmonics stand out of the one, nothing out of the other
    _, again = delivered(tmp_path / "again", Fold(), ints, depth="16")
    assert again.read_bytes() == (tmp_path / "True" / "out" / "in0.wav").read_bytes()
