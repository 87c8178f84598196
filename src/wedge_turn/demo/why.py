"""What the pages that explain things show and play: made from the demo's instruments, computed here."""

import math
from functools import lru_cache
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.pcm import Block
from wedge_turn.core.measure.survey import survey
from wedge_turn.core.turns.fold import LAWS, Law
from wedge_turn.demo import sounds
from wedge_turn.demo.synth import level, reed

RATE: Final = 48_000
SECONDS: Final = 6
POINTS: Final = 240
Sound = Literal["bell", "same", "unrelated"]


class Waves(BaseModel):
    """Two sines and their sum over two periods; the level of the sum over one of them, None for silence."""

    one: list[float]
    two: list[float]
    both: list[float]
    correlation: float
    sum_db: float | None


class LawLevels(BaseModel):
    """What a law of summing does to two sides: the level of the result over that of one side, in dB."""

    sound: Sound
    levels: dict[Law, float | None]


def two_sines(degrees: float, gain_db: float) -> Waves:
    """A sine, and the same one so many degrees later and so many decibels louder.

    Their sum has the level |1 + g·e^(−jφ)|; equal and half a period apart, they are silence.
    """
    t = np.linspace(0, 2, POINTS, endpoint=False) * 2 * np.pi
    g, phase = level(gain_db), math.radians(degrees)
    one, two = np.sin(t), g * np.sin(t - phase)
    size = abs(1 + g * complex(math.cos(phase), -math.sin(phase)))
    return Waves(
        one=_short(one),
        two=_short(two),
        both=_short(one + two),
        correlation=round(math.cos(phase), 3),
        sum_db=round(20 * math.log10(size), 2) if size > 1e-9 else None,
    )


@lru_cache
def sound(name: Sound) -> Block:
    """Stereo samples of shape (frames, 2) at 48 kHz, some seconds of them."""
    frames = SECONDS * RATE
    if name == "bell":
        made = np.stack(sounds.lamp_bell(RATE), axis=1)[:frames]
    else:
        left = reed(220.0, SECONDS, RATE)
        right = left if name == "same" else reed(277.18, SECONDS, RATE)
        made = np.stack([left, right], axis=1)
        made *= level(-12) * math.sqrt(2) / np.sqrt(np.mean(made**2, axis=0))
    return np.ascontiguousarray(made * min(1.0, 0.9 / float(np.abs(made).max())))


@lru_cache
def laws() -> tuple[LawLevels, ...]:
    """Equal sides: −0, +3.01 and +6.02 dB over one of them; unrelated ones of equal power: −3.01, 0 and +3.01 dB."""
    found = []
    names: tuple[Sound, ...] = ("same", "unrelated")
    for name in names:
        measures = survey(_Memory(sound(name)))
        one, sides = measures.channels[0].rms_dbfs, measures.sides
        assert one is not None
        assert sides is not None
        told = {law: sides.fold_dbfs[law] for law in LAWS}
        over = {law: None if told[law] is None else round((told[law] or 0.0) - one, 2) + 0.0 for law in LAWS}
        found.append(LawLevels(sound=name, levels=over))
    return tuple(found)


class _Memory:
    def __init__(self, block: Block) -> None:
        self.form = Form(channels=2, frames=len(block), rate=RATE, encoding="f64")
        self._block = block

    def read(self, start: int, frames: int) -> Block:
        return self._block[start : start + frames]


def _short(wave: NDArray[np.float64]) -> list[float]:
    return [round(float(x), 4) for x in wave]
