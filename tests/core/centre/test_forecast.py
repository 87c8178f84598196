"""What is said beforehand of a voice against what comes of it, on mixes whose parts are known (bench/centre.py)."""

from functools import cache

import numpy as np
import pytest
from bench.centre import METHODS, RATE, SECONDS, SONGS, VOICE, WEDGE, Parts, mixed, sdr

from wedge_turn.core.centre import Forecast, forecast_voice
from wedge_turn.demo.sounds import hertz
from wedge_turn.demo.synth import put, reed, room, struck


def play_lead(seed: int, key: int, beat: float) -> np.ndarray:
    """An instrument in the middle, with a small room: a reed or a plucked string."""
    rng, track, at = np.random.default_rng(seed), np.zeros(SECONDS * RATE), 0.3
    while at < SECONDS - 1.2:
        length, pitch = beat * float(rng.choice([1, 1, 2])), hertz(key + 12 + int(rng.choice([0, 2, 4, 7, 9])))
        string = struck(pitch, 0.95 * length, RATE, [(1, 1, 0.8), (2, 0.5, 0.5), (3, 0.2, 0.3)])
        put(track, reed(pitch, 0.9 * length, RATE) if seed % 2 else string, at, RATE)
        at += length
    return np.stack(room(0.3 * track / np.abs(track).max(), rng, RATE, 1.5, 0.2), axis=1)


@cache
def mixes() -> list[Parts]:
    """Voices as loud as the rest and quieter, instruments in their place, and those with nothing else in the middle."""
    made: list[Parts] = []
    for song in SONGS[:6]:
        lead, rest = mixed(song)
        instrument = play_lead(song.seed + 50, song.key, song.beat)
        aside = rest - 0.9 * rest.mean(axis=1, keepdims=True)
        made += [(lead, rest), (2 * lead, rest), (instrument, rest), (instrument, aside)]
    return made


@cache
def judged() -> list[tuple[Forecast, float, float]]:
    """What was said, and the SDR of the centre by the voice method and by the wedge."""
    results = []
    for lead, rest in mixes():
        by_voice, by_wedge = (sdr(lead, METHODS[name](lead + rest, (lead, rest))[0]) for name in (VOICE, WEDGE))
        results.append((forecast_voice(lead + rest, RATE), by_voice, by_wedge))
    return results


def test_the_better_method_is_named_in_nine_of_ten_mixes() -> None:
    right = [(by_voice > by_wedge) == (said.better == "voice") for said, by_voice, by_wedge in judged()]
    assert sum(right) >= 0.9 * len(right)
    assert {said.better for said, *_ in judged()} == {"voice", "wedge"}


def test_the_expected_figure_follows_what_comes_of_it() -> None:
    said, came = np.array([(said.expected_db, by_voice) for said, by_voice, _ in judged()]).T
    assert np.corrcoef(said, came)[0, 1] > 0.8
    assert np.mean(np.abs(said - came)) < 2.0


def test_a_mix_without_a_voice_has_none() -> None:
    rest = mixed(SONGS[0])[1]
    said = forecast_voice(rest, RATE)
    assert not said.has_voice
    assert said.better == "wedge"


def test_silence_has_no_voice() -> None:
    said = forecast_voice(np.zeros((RATE, 2)), RATE)
    assert (said.has_voice, said.voice, said.expected_db, said.rest_correlation) == (False, 0, 0, 0)


@pytest.mark.parametrize(("width", "low", "high"), [(1.0, -1.0, 0.9), (0.0, 0.94, 1.0)])
def test_a_narrow_rest_is_told_by_its_correlation(width: float, low: float, high: float) -> None:
    lead, rest = mixed(SONGS[0])
    mid, side = rest.mean(axis=1, keepdims=True), (rest[:, :1] - rest[:, 1:]) / 2
    said = forecast_voice(lead + mid + width * np.hstack([side, -side]), RATE)
    assert low <= said.rest_correlation <= high
    assert said.in_the_middle > 0.5


@pytest.mark.parametrize("gain", [0.001, 8.0])
def test_a_forecast_does_not_depend_on_level(gain: float) -> None:
    lead, rest = mixed(SONGS[2])
    assert forecast_voice(gain * (lead + rest), RATE) == forecast_voice(lead + rest, RATE)
