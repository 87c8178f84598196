"""What is expected of a voice against what comes of it: recorded speech over recorded music, and instruments in its
place. The voice mask was taught on none of them.
"""

from functools import cache

import numpy as np
import pytest
import scipy.signal
import soundfile
from bench.centre import METHODS, VOICE, WEDGE, ours, sdr

from support.helpers import RECORDINGS
from wedge_turn.core.centre import Forecast, forecast_voice
from wedge_turn.core.findings import describe_forecast
from wedge_turn.core.turns import Centre

RATE = 44_100
FRAMES = 7 * RATE
PIECES = (
    "Glass marimba", "Melody piano", "Soul", "Supreme", "Tongue drum", "Entropy", "Celestial", "Koto chords",
    "Marimbach", "Wind chime",
)  # fmt: skip
OTHERS = ("Latin", "Counterpoint", "Mangoré", "Sam's Song", "Ubuntu")  # the first two are nearly mono


def read(name: str) -> np.ndarray:
    samples, rate = soundfile.read(RECORDINGS / name, always_2d=True)
    return np.asarray(scipy.signal.resample_poly(samples, RATE // 100, rate // 100, axis=0))


def at_level(samples: np.ndarray, decibels: float) -> np.ndarray:
    return np.asarray(samples * 10 ** (decibels / 20) / np.sqrt(np.mean(samples**2)))


def in_the_middle(samples: np.ndarray) -> np.ndarray:
    mono = np.resize(samples.mean(axis=1), FRAMES)
    return at_level(np.stack([mono, mono], axis=1), -20)


@cache
def speech() -> np.ndarray:
    words = [f"{a}_{b}.wav" for a in ("Front", "Rear") for b in ("Center", "Left", "Right")]
    return in_the_middle(np.concatenate([read(word) for word in words]))


@cache
def music(name: str, decibels: float = -20) -> np.ndarray:
    return at_level(np.resize(read(f"{name}.ogg"), (FRAMES, 2)), decibels)


def judge(lead: np.ndarray, rest: np.ndarray) -> tuple[Forecast, float, float]:
    """What is expected, and the SDR of the lead by the voice method and by the wedge."""
    by_voice, by_wedge = (sdr(lead, METHODS[name](lead + rest, (lead, rest))[0]) for name in (VOICE, WEDGE))
    return forecast_voice(lead + rest, RATE), by_voice, by_wedge


@cache
def with_speech() -> list[tuple[Forecast, float, float]]:
    return [judge(speech(), music(name)) for name in (*PIECES[::2], *OTHERS)]


@cache
def with_instruments() -> list[tuple[Forecast, float, float]]:
    """An instrument in the middle of another piece."""
    over = (*PIECES[1:], PIECES[0])
    return [judge(in_the_middle(read(f"{a}.ogg")), music(b, -22)) for a, b in zip(PIECES, over, strict=True)]


def test_the_better_method_is_named_in_nine_of_ten_mixes() -> None:
    for mixes, better in ((with_speech(), "voice"), (with_instruments(), "wedge")):
        named = [forecast.better for forecast, *_ in mixes]
        right = [(by_voice > by_wedge) == (forecast.better == "voice") for forecast, by_voice, by_wedge in mixes]
        assert sum(right) >= 0.9 * len(right)
        assert sum(name == better for name in named) >= 0.9 * len(named)


def test_the_expected_figure_follows_what_comes_of_it() -> None:
    expected, measured = np.array([(forecast.expected_db, by_voice) for forecast, by_voice, _ in with_speech()]).T
    assert np.corrcoef(expected, measured)[0, 1] > 0.8
    assert np.mean(np.abs(expected - measured)) < 2.5


def test_silence_has_no_voice() -> None:
    forecast = forecast_voice(np.zeros((RATE, 2)), RATE)
    assert (forecast.has_voice, forecast.voice, forecast.expected_db, forecast.rest_correlation) == (False, 0, 0, 0)
    assert "0 % of the vocal range" in describe_forecast(forecast)


@pytest.mark.parametrize(("width", "word"), [(1.0, "wide"), (0.3, "narrow"), (0.0, "nearly mono")])
def test_the_width_of_the_rest_is_named(width: float, word: str) -> None:
    rest = music("Supreme")
    mid, side = rest.mean(axis=1, keepdims=True), (rest[:, :1] - rest[:, 1:]) / 2
    forecast = forecast_voice(speech() + mid + width * np.hstack([side, -side]), RATE)
    assert f"the rest is {word} (correlation" in describe_forecast(forecast)
    assert forecast.in_the_middle > 0.9


def test_a_voice_off_the_middle_is_expected_where_the_turn_points() -> None:
    """Panned by the law of equal power, as position is: what the turn gets there is what is forecast."""
    angle = np.pi / 4 * (1 + 0.4)
    lead = speech()[:, :1] * np.sqrt(2) * [np.cos(angle), np.sin(angle)]
    mix = lead + music("Supreme")
    astray, aimed = forecast_voice(mix, RATE), forecast_voice(mix, RATE, 0.4)
    assert aimed.in_the_middle > 0.9 > astray.in_the_middle
    assert aimed.expected_db > astray.expected_db + 2
    assert aimed.rest_correlation == pytest.approx(
        forecast_voice(speech() + music("Supreme"), RATE).rest_correlation, abs=0.1
    )
    assert "at the chosen position" in describe_forecast(aimed, 0.4)
    assert "in the middle" in describe_forecast(astray)
    extracted = ours(Centre(position=0.4))(mix, (lead, mix - lead))[0]
    assert aimed.expected_db == pytest.approx(sdr(lead, extracted), abs=2.5)


@pytest.mark.parametrize("gain", [0.001, 8.0])
def test_a_forecast_does_not_depend_on_level(gain: float) -> None:
    mix = speech() + music("Soul")
    louder, plain = forecast_voice(gain * mix, RATE), forecast_voice(mix, RATE)
    assert louder.better == plain.better
    assert louder.model_dump(exclude={"better"}) == pytest.approx(plain.model_dump(exclude={"better"}), abs=0.11)
