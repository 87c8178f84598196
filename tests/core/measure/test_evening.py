"""Even out, against pyloudnorm, which measures BS.1770 loudness in its own way."""

import numpy as np
import pyloudnorm
import pytest

from support.conversation import conversation
from support.signals import Memory, stereo
from wedge_turn.core.findings.file import find_in_file
from wedge_turn.core.measure import match_loudness, measure_signal
from wedge_turn.core.measure.evening import MAX_DBTP
from wedge_turn.core.turns import Fold

RATE = 48_000
TALK = np.random.default_rng(5).standard_normal(20 * RATE)


def voices(quieter_db: float, peak: float) -> np.ndarray:
    """Two voices in turn, each in one channel, with their spill 20 dB lower in the other; the second is quieter."""
    first = np.where(np.arange(len(TALK)) // (2 * RATE) % 2 == 0, TALK, 0)
    second = (TALK - first) * 10 ** (quieter_db / 20)
    both = np.stack([first + 0.1 * second, second + 0.1 * first], axis=1)
    return np.asarray(both * peak / np.abs(both).max())


@pytest.mark.parametrize(("quieter_db", "peak"), [(-4, 0.1), (-12, 0.05), (-8, 0.9), (0, 0.5)])
def test_evened_out_channels_are_equally_loud(quieter_db: float, peak: float) -> None:
    block = voices(quieter_db, peak)
    gains = match_loudness(measure_signal(Memory(block)))
    assert gains is not None
    evened = block * 10 ** (np.array(gains) / 20)
    meter = pyloudnorm.Meter(RATE)
    left, right = (meter.integrated_loudness(evened[:, channel]) for channel in (0, 1))
    assert left == pytest.approx(right, abs=0.1)
    highest = max(one.true_peak_dbtp or -99 for one in measure_signal(Memory(evened)).channels)
    assert highest <= MAX_DBTP + 0.05
    if peak < 0.1:
        assert max(gains) > 0 == min(abs(gain) for gain in gains)  # the louder one stays as it is


def test_nothing_is_proposed_for_one_channel_or_a_silent_one() -> None:
    assert match_loudness(measure_signal(Memory(TALK[:, None] * 0.1))) is None
    assert match_loudness(measure_signal(Memory(stereo(TALK * 0.1, 0 * TALK)))) is None


def test_two_voices_become_one_mono_mix_in_which_each_is_as_loud() -> None:
    """Each voice as loud by pyloudnorm, the outside reference."""
    talk_of_two = conversation(1, 30, spill_db=-60)
    samples = talk_of_two.samples * [4.0, 1.5]  # far above the absolute gate of BS.1770
    talk = Memory(samples)
    (finding,) = [
        each for each in find_in_file("a", talk.form, measure_signal(talk)) if each.code == "unrelated-channels"
    ]
    assert finding.remedy is not None
    assert finding.remedy.turn.kind == "split"
    turn = next(other.turn for other in finding.others if other.turn.kind == "fold")
    assert isinstance(turn, Fold)
    meter = pyloudnorm.Meter(RATE)
    loud = [meter.integrated_loudness(share * samples[:, n]) for n, share in ((0, 1 - turn.blend), (1, turn.blend))]
    assert loud[0] == pytest.approx(loud[1], abs=0.1)
