"""What the pages that explain things show and play: made from the demo's instruments, computed here."""

import math
from functools import lru_cache
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from wedge_turn.core.audio import Block
from wedge_turn.core.form import Form
from wedge_turn.core.measure import measure_signal
from wedge_turn.core.pages import Pages
from wedge_turn.core.turns import LAWS, Centre, ClipInfo, Law
from wedge_turn.demo import sounds
from wedge_turn.demo.synth import BELL, level, noise, put, reed, room, shaped, struck, sung

RATE: Final = 48_000
SECONDS: Final = 6
POINTS: Final = 240
Sound = Literal[
    "bell", "same", "unrelated",
    "song", "song-difference", "song-lows-kept", "song-sides", "song-centre", "song-without-voice", "song-voice",
]  # fmt: skip


class Waves(BaseModel):
    """Two sines and their sum over two periods; the level of the sum over one of them, None for silence."""

    one: list[float]
    two: list[float]
    both: list[float]
    correlation: float
    sum_db: float | None


class LawLevels(BaseModel):
    """What a summing law does to two channels: the level of the result relative to one channel, in dB."""

    sound: Sound
    levels: dict[Law, float | None]


def two_sines(degrees: float, gain_db: float) -> Waves:
    """A sine, and the same one so many degrees later and so many decibels louder.

    Their sum has the level |1 + g·e^(−jφ)|; equal and half a period apart, they are silence.
    """
    t = np.linspace(0, 2, POINTS, endpoint=False) * 2 * np.pi
    g, phase = level(gain_db), math.radians(degrees)
    first, second = np.sin(t), g * np.sin(t - phase)
    size = abs(1 + g * complex(math.cos(phase), -math.sin(phase)))
    return Waves(
        one=_short(first),
        two=_short(second),
        both=_short(first + second),
        correlation=round(math.cos(phase), 3),
        sum_db=round(20 * math.log10(size), 2) if size > 1e-9 else None,
    )


@lru_cache
def sound(name: Sound) -> Block:
    """Stereo samples of shape (frames, 2) at 48 kHz, some seconds of them."""
    frames = SECONDS * RATE
    if name == "song":
        return _little_song()
    if name in _PARTS:
        return _part(_PARTS[name])
    if name == "bell":
        block = np.stack(sounds.lamp_bell(RATE), axis=1)[:frames]
    else:
        left = reed(220.0, SECONDS, RATE)
        right = left if name == "same" else reed(277.18, SECONDS, RATE)
        block = np.stack([left, right], axis=1)
        block *= level(-12) * math.sqrt(2) / np.sqrt(np.mean(block**2, axis=0))
    return np.ascontiguousarray(block * min(1.0, 0.9 / float(np.abs(block).max())))


_PARTS: Final[dict[Sound, Centre]] = {
    "song-difference": Centre(method="difference"),
    "song-lows-kept": Centre(method="difference", low_hz=180),
    "song-sides": Centre(method="wedge", strength=0.5),
    "song-centre": Centre(method="wedge", keep="centre", strength=0.5),
    "song-without-voice": Centre(),
    "song-voice": Centre(keep="centre"),
}


def _little_song() -> Block:
    """Two bars of the evening song: a lead in a room, bass and drum in the middle, harmonium left, bells right."""
    rng = np.random.default_rng(1890)
    lead, middle, left, right = (np.zeros(SECONDS * RATE) for _ in range(4))
    for n, note in enumerate((62, 66, 69, 71, 69, 67)):
        pitch = np.full(int(0.95 * RATE), sounds.hertz(note - 12))
        put(
            lead,
            shaped(sung(pitch, (sounds.A, sounds.O, sounds.E)[n % 3], RATE, rng), 0.05, 0.1, RATE),
            0.1 + 0.95 * n,
            RATE,
        )
    for n in range(12):
        put(middle, struck(sounds.hertz(38), 0.45, RATE, [(1, 1, 0.6), (2, 0.4, 0.4)]), 0.5 * n, RATE, 0.8)
        put(middle, shaped(noise(rng, 0.15, RATE, 180, 5_000), 0.001, 0.12, RATE), 0.25 + 0.5 * n, RATE, 0.25)
        put(right, struck(sounds.hertz((74, 78, 81)[n % 3]), 1.2, RATE, BELL[1:]), 0.5 * n + 0.25, RATE, 0.3)
    for n, chord in enumerate(((50, 57, 62), (55, 59, 62))):
        for note in chord:
            put(left, reed(sounds.hertz(note), 3.0, RATE), 3.0 * n, RATE, 0.2)
    parts = [track / float(np.abs(track).max()) for track in (lead, middle, left, right)]
    near, far = room(parts[0], rng, RATE, 1.6, 0.3)
    sides = [0.5 * near + 0.4 * parts[1] + 0.3 * parts[2], 0.5 * far + 0.4 * parts[1] + 0.25 * parts[3]]
    block = np.stack(sides, axis=1)
    return np.ascontiguousarray(block * (0.8 / float(np.abs(block).max())))


def _part(turn: Centre) -> Block:
    """What a centre turn makes of the little song, in both ears."""
    song = _Memory(sound("song"))
    computation = turn.computation(song.read_around, ClipInfo("song", song.form))
    pages = Pages(computation.page, song.form.frames, computation.size)
    both = pages.read(0, song.form.frames, computation.results[0], 2)
    return both * min(1.0, 0.9 / float(np.abs(both).max()))


@lru_cache
def laws() -> tuple[LawLevels, ...]:
    """Equal sides: −0, +3.01 and +6.02 dB over one of them; unrelated ones of equal power: −3.01, 0 and +3.01 dB."""
    findings = []
    names: tuple[Sound, ...] = ("same", "unrelated")
    for name in names:
        measures = measure_signal(_Memory(sound(name)))
        one, sides = measures.channels[0].rms_dbfs, measures.sides
        assert one is not None
        assert sides is not None
        levels = {law: sides.fold_dbfs[law] for law in LAWS}
        over = {law: None if levels[law] is None else round((levels[law] or 0.0) - one, 2) + 0.0 for law in LAWS}
        findings.append(LawLevels(sound=name, levels=over))
    return tuple(findings)


class _Memory:
    def __init__(self, block: Block) -> None:
        self.form = Form(channels=2, frames=len(block), rate=RATE, encoding="f64")
        self._block = block

    def read(self, start: int, frames: int) -> Block:
        return self._block[start : start + frames]

    def read_around(self, start: int, frames: int) -> Block:
        """The same with silence on either side."""
        out = np.zeros((frames, 2))
        first, last = max(start, 0), min(start + frames, len(self._block))
        if last > first:
            out[first - start : last - start] = self._block[first:last]
        return out


def _short(wave: NDArray[np.float64]) -> list[float]:
    return [round(float(x), 4) for x in wave]
