"""The map of direction and frequency, and what is said of a centre before it is taken out."""

from pathlib import Path

import numpy as np
import pytest
import scipy.signal

from support.helpers import write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import make_clip
from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.findings import expect_centre, find_in_centre, measure_excerpts
from wedge_turn.core.findings.centre import EXCERPT_SECONDS, EXCERPTS
from wedge_turn.core.measure import analyse, draw_map, expect_centre_of, measure_signal
from wedge_turn.core.measure.map import DIRECTIONS, rows_hz

RATE = 48_000


def clip(folder: Path, block: np.ndarray):  # type: ignore[no-untyped-def]
    ints = np.rint(np.clip(block, -0.99, 0.99) * 2**23).astype(np.int64)
    return make_clip(WavFile(write_wav(folder / f"{len(list(folder.iterdir()))}.wav", ints)))


def tone(hertz: float, seconds: float = 3) -> np.ndarray:
    return np.asarray(0.2 * np.sin(2 * np.pi * hertz * np.arange(int(seconds * RATE)) / RATE))


@pytest.mark.parametrize(("left", "right", "column"), [(1, 1, 30), (1, 0, 0), (0, 1, 60), (0.92, 0.38, 15)])
def test_a_source_shines_where_it_stands(left: float, right: float, column: int, tmp_path: Path) -> None:
    source = tone(1_000)
    shown = draw_map(clip(tmp_path, np.stack([left * source, right * source], axis=1)), 0, 3 * RATE)
    row, place = np.unravel_index(np.argmax(shown), shown.shape)
    limits = rows_hz(RATE)
    assert limits[row] <= 1_000 * 1.01
    assert limits[row + 1] >= 1_000 * 0.99
    assert abs(place - column) <= 1
    quieter = draw_map(clip(tmp_path, 0.1 * np.stack([left * source, right * source], axis=1)), 0, 3 * RATE)
    assert shown.max() - quieter.max() == pytest.approx(20, abs=0.01)
    assert shown.shape == (96, DIRECTIONS)


def test_maps_and_spectra_match_the_signal(tmp_path: Path) -> None:
    mono = clip(tmp_path, np.stack([tone(440)] * 2, axis=1))
    for look in (draw_map, analyse):
        with pytest.raises(BadRequestError, match="do not lie within"):
            look(mono, 0, 10 * RATE)
    with pytest.raises(BadRequestError, match="two channels"):
        draw_map(clip(tmp_path, tone(440)[:, None]), 0, RATE)
    assert draw_map(clip(tmp_path, np.zeros((RATE, 2))), 0, RATE).max() == -120


def test_a_full_scale_sine_reads_0_dbfs_and_harmonics_stand_where_they_should(tmp_path: Path) -> None:
    """A square wave: odd harmonics alone, the third at −9.54 dB; a sawtooth: all, the second at −6.02 dB (Fourier)."""
    t = np.arange(4 * RATE) / RATE
    square = 0.5 * scipy.signal.square(2 * np.pi * 375 * t)
    saw = 0.5 * scipy.signal.sawtooth(2 * np.pi * 375 * t)
    analysis = analyse(clip(tmp_path, np.stack([square, saw], axis=1)), 0, 4 * RATE)

    def at(levels: list[float], hertz: float) -> float:
        return max(levels[round(hertz / analysis.step_hz) - 2 : round(hertz / analysis.step_hz) + 3])

    assert at(analysis.left, 1_125) - at(analysis.left, 375) == pytest.approx(-9.54, abs=0.1)
    assert at(analysis.left, 750) - at(analysis.left, 375) < -50
    assert at(analysis.right, 750) - at(analysis.right, 375) == pytest.approx(-6.02, abs=0.1)
    on_a_line = tone(341 * RATE / 16_384) / 0.2 * 0.98
    full = analyse(clip(tmp_path, np.stack([on_a_line] * 2, axis=1)), 0, 3 * RATE)
    assert max(full.left) == pytest.approx(20 * np.log10(0.98), abs=0.1)
    assert full.correlation == pytest.approx(1)
    assert max(full.side) < -100


def test_bands_tell_where_the_sides_go_together(tmp_path: Path) -> None:
    """+1 below and −1 above by construction; 1 ms between equal sides: the first notch of their sum at 500 Hz."""
    low = scipy.signal.butter(4, 800, fs=RATE, output="sos")
    high = scipy.signal.butter(4, 3_000, "highpass", fs=RATE, output="sos")
    rng = np.random.default_rng(1)
    shared, top = rng.standard_normal(4 * RATE) * 0.1, rng.standard_normal(4 * RATE) * 0.1
    under, over = scipy.signal.sosfilt(low, shared), scipy.signal.sosfilt(high, top)
    found = analyse(clip(tmp_path, np.stack([under + over, under - over], axis=1)), 0, 4 * RATE)
    for band in found.bands:
        if 100 < band.hz < 600:
            assert band.correlation == pytest.approx(1, abs=0.05)
        if 4_000 < band.hz < 15_000:
            assert band.correlation == pytest.approx(-1, abs=0.05)
    late = np.concatenate([np.zeros(48), shared[:-48]])
    comb = analyse(clip(tmp_path, np.stack([(shared + late) / 2, shared], axis=1)), 0, 4 * RATE)
    notch = slice(round(480 / comb.step_hz), round(520 / comb.step_hz))
    peak = slice(round(980 / comb.step_hz), round(1_020 / comb.step_hz))
    assert np.mean(comb.left[notch]) < np.mean(comb.left[peak]) - 20


def voice(seed: int = 0) -> np.ndarray:
    rng = np.random.default_rng(seed)
    band = scipy.signal.butter(2, [200, 3_500], "bandpass", fs=RATE, output="sos")
    return np.asarray(scipy.signal.sosfilt(band, rng.standard_normal(4 * RATE)) * 0.1)


def test_an_expectation_is_given_beforehand(tmp_path: Path) -> None:
    def said(left: np.ndarray, right: np.ndarray) -> list[str]:
        made = clip(tmp_path, np.stack([left, right], axis=1))
        return [n.code for n in find_in_centre("x", made.form, measure_signal(made), expect_centre(made), "wedge")]

    one, two, lead = voice(1), voice(2), voice(3)
    assert said(lead, lead) == ["all-centre"]
    assert said(one, two) == ["no-centre"]
    assert "opposite-polarity" in said(lead, -lead + 0.1 * one)
    assert said(lead + 0.35 * one, lead + 0.35 * two) == []
    assert "narrow-stereo" in said(lead + 0.1 * one, lead + 0.1 * two)
    assert "delay" in said(lead + 0.1 * one, np.roll(lead, 30) + 0.1 * two)
    assert "tilted-centre" in said(1.4 * lead + 0.1 * one, lead + 0.1 * two)


def long_pair(seed: int) -> tuple[np.ndarray, np.ndarray]:
    """Two channels of one voice and a little else, longer than what is measured of a clip beforehand."""
    frames = (EXCERPTS * EXCERPT_SECONDS + 12) * RATE
    lead, other = (np.resize(voice(n), frames) for n in (seed, seed + 1))
    return lead, lead + 0.1 * other


def test_a_long_clip_is_judged_by_excerpts_as_by_the_whole(tmp_path: Path) -> None:
    left, right = long_pair(7)
    made = clip(tmp_path, np.stack([left, -1.3 * right], axis=1))
    by_excerpts, by_all, expected = measure_excerpts(made), measure_signal(made), expect_centre(made)
    assert by_excerpts.samples != by_all.samples
    codes = [[n.code for n in find_in_centre("x", made.form, m, expected, "wedge")] for m in (by_excerpts, by_all)]
    assert codes[0] == codes[1] == ["opposite-polarity", "tilted-centre", "no-centre"]


def test_excerpts_alone_never_say_that_all_is_centre(tmp_path: Path) -> None:
    left, other = long_pair(9)
    right = left.copy()
    left_out = slice(41 * RATE, 49 * RATE)  # of nine stretches of ten seconds the fifth is no excerpt
    right[left_out] = -other[left_out]
    made = clip(tmp_path, np.stack([left, right], axis=1))
    sides = measure_excerpts(made).sides
    assert sides is not None
    assert not sides.identical


@pytest.mark.parametrize("position", [-0.5, 0.0, 0.6])
def test_the_position_is_measured_from_the_material(position: float, tmp_path: Path) -> None:
    lead, angle = voice(4), np.pi / 4 * (1 + position)
    sides = np.stack([np.cos(angle) * lead + 0.1 * voice(5), np.sin(angle) * lead + 0.1 * voice(6)], axis=1)
    made = clip(tmp_path, sides)
    assert expect_centre_of(made, 0, made.form.frames).position == pytest.approx(position, abs=0.1)
