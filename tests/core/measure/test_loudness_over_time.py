"""Momentary and short-term loudness, against EBU Tech 3341 and pyloudnorm's filters."""

from pathlib import Path

import numpy as np
import pyloudnorm
import pytest

from support.helpers import write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Signal, make_clip
from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.measure import follow_loudness, measure_signal

RATE = 48_000


def clip(folder: Path, sound: np.ndarray) -> Signal:
    ints = np.rint(sound * 2**23).astype(np.int64)
    return make_clip(WavFile(write_wav(folder / f"{len(list(folder.iterdir()))}.wav", ints)))


def bursts() -> np.ndarray:
    """Noise of other loudness every second, a pause, and nothing at all: 12 s, stereo."""
    sound = np.random.default_rng(8).uniform(-0.4, 0.4, (12 * RATE, 2))
    levels = np.repeat([1, 0.1, 0.5, 0, 1, 1, 0.02, 0.7, 0, 0, 0, 0.3], RATE)
    return np.asarray(sound * levels[:, None])


@pytest.mark.parametrize("level", [-23.0, -33.0])
def test_a_steady_sine_reads_its_level(level: float, tmp_path: Path) -> None:
    """EBU Tech 3341, minimum requirement tests 1 and 2, on the momentary and short-term meters: ±0.1 LU."""
    sine = 10 ** (level / 20) * np.sin(2 * np.pi * 1_000 * np.arange(8 * RATE) / RATE)
    shown = follow_loudness(clip(tmp_path, np.stack([sine, sine], axis=1)), 0, 80)
    assert shown[3:, 0] == pytest.approx(level, abs=0.1)
    assert shown[29:, 1] == pytest.approx(level, abs=0.1)
    # A window that reaches before the start takes it as silence: a quarter of 400 ms is 6 dB down.
    assert shown[0, 0] == pytest.approx(level - 6.02, abs=0.2)


def test_windows_slide_as_pyloudnorms_blocks_do(tmp_path: Path) -> None:
    sound = bursts()
    shown = follow_loudness(clip(tmp_path, sound), 0, 120)
    # Its meter (from BS.1770) with nothing gated, over windows of our choice.
    for column, steps in ((0, 4), (1, 30)):
        meter = pyloudnorm.Meter(RATE, filter_class="DeMan", block_size=steps / 10)
        filtered = sound
        for stage in meter._filters.values():
            filtered = np.apply_along_axis(stage.apply_filter, 0, filtered)
        for end in range(steps, 121, 7):
            mean_square = np.square(filtered[(end - steps) * 4_800 : end * 4_800]).mean(axis=0).sum()
            expected = max(-0.691 + 10 * np.log10(max(mean_square, 1e-30)), -120)
            if expected > -90:  # below, the tail of the filter is all there is
                assert shown[end - 1, column] == pytest.approx(expected, abs=0.05)


def test_the_gated_mean_of_what_the_meter_showed_is_the_loudness_of_the_whole(tmp_path: Path) -> None:
    """BS.1770-5 integrates blocks of 400 ms every 100 ms, which are those of the momentary meter."""
    signal = clip(tmp_path, bursts())
    power = 10 ** (follow_loudness(signal, 0, 120)[3:, 0].astype(float) / 10)
    loud = power[power > 10**-7]
    gated = loud[10 * np.log10(loud) > 10 * np.log10(loud.mean()) - 10]
    assert 10 * np.log10(gated.mean()) == pytest.approx(measure_signal(signal).whole.loudness_lufs, abs=0.02)


def test_a_stretch_is_the_same_wherever_one_begins_to_look(tmp_path: Path) -> None:
    signal = clip(tmp_path, bursts())
    whole = follow_loudness(signal, 0, 200)
    assert len(whole) == 120
    for first in (7, 50, 111):
        assert follow_loudness(signal, first, 9) == pytest.approx(whole[first : first + 9], abs=1e-3)


def test_stretches_lie_within_the_clip_and_are_not_too_many(tmp_path: Path) -> None:
    signal = clip(tmp_path, bursts())
    for first, count in ((120, 1), (-1, 5), (0, 6_001)):
        with pytest.raises(BadRequestError):
            follow_loudness(signal, first, count)
