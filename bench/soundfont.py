"""Sampled instruments from the sound font that a Debian package has put in place (timgm6mb-soundfont, for one)."""

import logging
from collections.abc import Callable
from pathlib import Path
from typing import Final

import numpy as np
from numpy.typing import NDArray
from sf2utils.sf2parse import Sf2File

from wedge_turn.demo.synth import shaped

FONTS: Final = Path("/usr/share/sounds/sf2")
Wave = NDArray[np.float64]
logging.getLogger().setLevel(logging.ERROR)  # sf2utils tells the root logger of every sample with an odd loop


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
