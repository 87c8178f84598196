"""Sampled instruments from the sound font that a Debian package has put in place (timgm6mb-soundfont, for one)."""

import logging
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Final

import numpy as np
from numpy.typing import NDArray
from sf2utils.sf2parse import Sf2File

from wedge_turn.demo.synth import shaped

FONTS: Final = Path("/usr/share/sounds/sf2")
Wave = NDArray[np.float64]
logging.getLogger().setLevel(logging.ERROR)  # sf2utils tells the root logger of every sample with an odd loop


Player = Callable[[float, float], Wave]  # of a pitch in Hz and a length in seconds


def instruments(names: Sequence[str], rate: int) -> dict[str, Player]:
    """Players of the first font's longest looped samples called so. Raises FileNotFoundError where one is missing."""
    with next(iter(sorted(FONTS.glob("*.sf2")))).open("rb") as file:
        samples = Sf2File(file).samples
        players = {}
        for name in names:
            named = [s for s in samples if s.name and name in s.name.lower() and s.end_loop - s.start_loop > 60]
            fits = [s for s in named if s.duration > 0.05 and s.end_loop <= s.duration * s.sample_rate]
            if not fits:
                raise FileNotFoundError(f"the sound font has no {name}")
            longest = max(fits, key=lambda one: one.duration)
            wave = np.frombuffer(longest.raw_sample_data, "<i2") / 32_768
            players[name] = _player(wave, longest.start_loop, longest.end_loop, longest.sample_rate, rate)
    return players


def sampled(name: str, rate: int) -> Callable[[float, float], Wave] | None:
    """What plays a pitch in Hz for some seconds, from the longest sample called so; None where there is none."""
    for font in sorted(FONTS.glob("*.sf2")):
        with font.open("rb") as file:
            named = [sample for sample in Sf2File(file).samples if sample.name and name in sample.name.lower()]
            if named:
                longest = max(named, key=lambda sample: sample.duration)
                wave = np.frombuffer(longest.raw_sample_data, "<i2") / 32_768
                return _player(wave, longest.start_loop, longest.end_loop, longest.sample_rate, rate)
    return None


def _player(wave: Wave, first: int, last: int, own_rate: int, rate: int) -> Callable[[float, float], Wave]:
    own = _pitch(wave[first:last], own_rate)

    def play(hertz: float, seconds: float) -> Wave:
        at = np.arange(int(seconds * rate)) * (hertz / own) * (own_rate / rate)
        looped = np.where(at < last, at, first + (at - first) % (last - first))
        return shaped(np.interp(looped, np.arange(len(wave)), wave), 0.002, 0.05, rate)

    return play


def _pitch(loop: Wave, rate: int) -> float:
    """The pitch of a loop, by autocorrelation: fonts are not reliable in what they say of a single sample."""
    like = np.fft.irfft(np.abs(np.fft.rfft(loop - loop.mean(), 2 * len(loop))) ** 2)[: len(loop)]
    like /= np.arange(len(loop), 0, -1)
    first, last = rate // 1_500, min(rate // 50, len(loop) - 1)
    near = like[first:last] > 0.93 * like[first:last].max()  # the shortest period that fits about as well as any
    start = int(np.argmax(near))
    end = start + int(np.argmin(np.append(near[start:], False)))
    return rate / float(first + start + np.argmax(like[first + start : first + end]))
