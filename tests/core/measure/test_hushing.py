"""Suggested hushes, on made conversations whose voices are known."""

from pathlib import Path

import numpy as np
import pytest
import soundfile
from numpy.typing import NDArray

from support.conversation import RATE, Conversation, conversation
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import make_clip
from wedge_turn.core.measure import pictures, suggest_hushes
from wedge_turn.core.measure.hushing import HUSH_BIN, HushSuggestion


def suggested(
    folder: Path, samples: NDArray[np.float64], threshold: float | None = None, rate: int = RATE
) -> HushSuggestion:
    folder.mkdir(exist_ok=True)
    soundfile.write(folder / "a.wav", samples, rate, "PCM_24")
    clip = make_clip(WavFile(folder / "a.wav"))
    if not (folder / "pictures").exists():
        pictures.draw_pictures(clip, folder / "pictures")
    powers, size = pictures.measure_mean_squares(clip, folder / "pictures", HUSH_BIN)
    return suggest_hushes(powers, size, rate, threshold)


def lowered(conversation: Conversation, suggestion: HushSuggestion) -> NDArray[np.bool_]:
    low: NDArray[np.bool_] = np.zeros_like(conversation.speaks)
    for hush in suggestion.hushes:
        low[hush.start : hush.end, hush.channel - 1] = True
    return low


@pytest.mark.parametrize(("seed", "spill"), [(0, -20), (1, -20), (2, -20), (3, -30)])
def test_the_channel_of_who_listens_is_lowered_and_never_that_of_who_speaks(
    seed: int, spill: float, tmp_path: Path
) -> None:
    """Turns, pauses, overlaps and a door: 95 % of the time in which somebody speaks is labelled right."""
    made = conversation(seed, 40, spill)
    found = suggested(tmp_path, made.samples)
    low = lowered(made, found)
    should = made.speaks[:, ::-1] & ~made.speaks
    somebody = made.speaks.any(axis=1)
    assert (low == should)[somebody].mean() >= 0.95
    assert not (low & made.speaks).any()
    assert found.threshold_db is not None
    assert found.threshold_db < -spill


def test_a_lower_threshold_lowers_more(tmp_path: Path) -> None:
    made = conversation(4, 30)
    by = [lowered(made, suggested(tmp_path, made.samples, threshold)).sum() for threshold in (10, 20, 35)]
    assert by[0] > by[1] > by[2]
    assert by[2] == 0


def test_of_a_file_without_a_voice_to_a_channel_nothing_is_lowered(tmp_path: Path) -> None:
    noise = 0.1 * np.random.default_rng(0).standard_normal((4 * RATE, 2))
    for name, samples in (
        ("apart", noise),
        ("mono", noise[:, :1]),
        ("equal", noise[:, [0, 0]]),
        ("silent", np.zeros((RATE, 2))),
        ("short", noise[:10]),
    ):
        assert suggested(tmp_path / name, samples) == HushSuggestion(None, ())


def test_a_channel_is_back_before_its_own_voice_begins(tmp_path: Path) -> None:
    """One voice, then the other at once: a gate that opens at the onset would cut it."""
    t = np.arange(6 * RATE) / RATE
    first, second = (0.2 * np.sin(2 * np.pi * hertz * t) for hertz in (200, 300))
    first[3 * RATE :] = 0
    second[: 3 * RATE] = 0
    hiss = 1e-4 * np.random.default_rng(1).standard_normal((6 * RATE, 2))
    found = suggested(tmp_path, np.stack([first + 0.1 * second, second + 0.1 * first], axis=1) + hiss)
    ends = [hush.end for hush in found.hushes if hush.channel == 2]
    starts = [hush.start for hush in found.hushes if hush.channel == 1]
    assert 2.8 * RATE < ends[-1] <= 2.95 * RATE
    assert 3.05 * RATE <= starts[0] < 3.2 * RATE
