"""Even out, against pyloudnorm, which measures BS.1770 loudness in its own way."""

import numpy as np
import pyloudnorm
import pytest

from signals import Memory, stereo
from wedge_turn.core.measure.evening import HIGHEST_DBTP, even_gains
from wedge_turn.core.measure.survey import survey

RATE = 48_000
TALK = np.random.default_rng(5).standard_normal(20 * RATE)


def voices(quieter_db: float, peak: float) -> np.ndarray:
    """Two voices in turn, each in one channel, with their spill 20 dB lower in the other; the second is quieter."""
    first = np.where(np.arange(len(TALK)) // (2 * RATE) % 2 == 0, TALK, 0)
    second = (TALK - first) * 10 ** (quieter_db / 20)
    both = np.stack([first + 0.1 * second, second + 0.1 * first], axis=1)
    return np.asarray(both * peak / np.abs(both).max())


@pytest.mark.parametrize(("quieter_db", "peak"), [(-4, 0.1), (-12, 0.05), (-8, 0.9), (0, 0.5)])
def test_channels_are_as_loud_as_each_other_afterwards(quieter_db: float, peak: float) -> None:
    block = voices(quieter_db, peak)
    gains = even_gains(survey(Memory(block)))
    assert gains is not None
    evened = block * 10 ** (np.array(gains) / 20)
    meter = pyloudnorm.Meter(RATE)
    left, right = (meter.integrated_loudness(evened[:, channel]) for channel in (0, 1))
    assert left == pytest.approx(right, abs=0.1)
    highest = max(one.true_peak_dbtp or -99 for one in survey(Memory(evened)).channels)
    assert highest <= HIGHEST_DBTP + 0.05
    if peak < 0.1:
        assert max(gains) > 0 == min(abs(gain) for gain in gains)  # the louder one stays as it is


def test_nothing_is_proposed_for_one_channel_or_a_silent_one() -> None:
    assert even_gains(survey(Memory(TALK[:, None] * 0.1))) is None
    assert even_gains(survey(Memory(stereo(TALK * 0.1, 0 * TALK)))) is None
