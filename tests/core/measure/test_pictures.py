"""Waveform and correlation at every zoom, against numpy on the samples themselves."""

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from support.helpers import write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.measure import draw_pictures
from wedge_turn.core.measure.pictures import SILENT, check_picture_request, draw_correlation, draw_waveform

FRAMES = 100_003


@pytest.fixture(scope="module")
def drawn(tmp_path_factory: pytest.TempPathFactory) -> tuple[WavFile, Path]:
    folder = tmp_path_factory.mktemp("pictures")
    t = np.arange(FRAMES)
    left = np.sin(t * 0.01) * (t / FRAMES)
    right = np.where(t < 60_000, 0.5 * left, -left) * (t > 20_000)
    ints = np.rint(np.stack([left, right], axis=1) * (2**23 - 1)).astype(np.int64)
    wav = WavFile(write_wav(folder / "a.wav", ints))
    draw_pictures(wav, folder / "drawn")
    return wav, folder / "drawn"


@given(power=st.integers(0, 17), first=st.integers(0, 40), bins=st.integers(1, 60))
def test_every_bin_matches_its_samples(drawn: tuple[WavFile, Path], power: int, first: int, bins: int) -> None:
    wav, folder = drawn
    per = 2**power
    shown = draw_waveform(wav, folder, first * per, per, bins)
    samples = wav.read(0, FRAMES)
    expected = []
    for n in range(first, first + bins):
        part = samples[n * per : (n + 1) * per]
        if len(part):
            rms = np.sqrt((part**2).mean(axis=0))
            expected.append(np.stack([part.min(axis=0), part.max(axis=0), rms], axis=1).ravel())
    assert shown.shape == (len(expected), 6)
    if expected:
        assert np.allclose(shown, expected, atol=1e-6)


def test_correlation_is_pearsons_about_zero_mean(drawn: tuple[WavFile, Path]) -> None:
    """Equal +1, opposite −1, silence no value: checks.md's values by Pearson's r about zero mean."""
    wav, folder = drawn
    r = draw_correlation(wav, folder, 0, 1024, 97)
    assert (r[:19] == SILENT).all()
    assert r[20:58] == pytest.approx(1, abs=1e-5)
    assert r[60:] == pytest.approx(-1, abs=1e-5)
    samples = wav.read(58 * 1024, 1024)
    expected = (samples[:, 0] @ samples[:, 1]) / np.sqrt((samples[:, 0] ** 2).sum() * (samples[:, 1] ** 2).sum())
    assert r[58] == pytest.approx(expected, abs=1e-5)


def test_unrelated_and_shifted_sides(tmp_path: Path) -> None:
    t = np.arange(2**16)
    rng = np.random.default_rng(5)
    for name, sides, expected in (
        ("90 degrees apart", (np.sin(t * np.pi / 32), np.cos(t * np.pi / 32)), 0.0),
        ("independent", (rng.standard_normal(t.size) / 5, rng.standard_normal(t.size) / 5), 0.0),
        ("equal", (np.sin(t * 0.1),) * 2, 1.0),
    ):
        ints = np.rint(np.clip(np.stack(sides, axis=1), -1, 1) * (2**23 - 1)).astype(np.int64)
        wav = WavFile(write_wav(tmp_path / f"{name}.wav", ints))
        draw_pictures(wav, tmp_path / name)
        (r,) = draw_correlation(wav, tmp_path / name, 0, 2**16, 1)
        assert r == pytest.approx(expected, abs=0.02), name


def test_mono_has_no_correlation(tmp_path: Path) -> None:
    wav = WavFile(write_wav(tmp_path / "m.wav", np.full((5_000, 1), 1000)))
    draw_pictures(wav, tmp_path / "m")
    assert (draw_correlation(wav, tmp_path / "m", 0, 1024, 9) == SILENT).all()


@pytest.mark.parametrize(
    ("start", "per", "bins"), [(0, 3, 1), (0, 0, 1), (1, 256, 1), (-256, 256, 1), (0, 256, 0), (0, 256, 5000)]
)
def test_requests_off_the_grid_are_refused(start: int, per: int, bins: int) -> None:
    with pytest.raises(BadRequestError):
        check_picture_request(start, per, bins)


def test_a_picture_that_failed_leaves_nothing(tmp_path: Path) -> None:
    wav = WavFile(write_wav(tmp_path / "m.wav", np.zeros((200_000, 1), np.int64)))

    def stop(_: int) -> None:
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        draw_pictures(wav, tmp_path / "drawn" / "m", stop)
    assert list((tmp_path / "drawn").iterdir()) == []
