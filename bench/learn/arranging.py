"""Who plays what when: a song's tempo and chords, melodies, and figures of accompaniment."""

from collections.abc import Sequence
from typing import Final

import numpy as np
from numpy.random import Generator

from bench.learn import SECONDS
from bench.learn.instruments import Note

Chord = tuple[int, str]  # semitones above the key, quality
Figure = list[tuple[float, float, int | None]]  # beats in, beats long, which note of the chord; None is all of them
CHORDS: Final[dict[str, tuple[int, ...]]] = {
    "": (0, 4, 7), "m": (0, 3, 7), "7": (0, 4, 7, 10), "m7": (0, 3, 7, 10), "M7": (0, 4, 7, 11), "5": (0, 7, 12),
    "sus": (0, 5, 7),
}  # fmt: skip
MAJOR: Final = (0, 2, 4, 5, 7, 9, 11)
MINOR: Final = (0, 2, 3, 5, 7, 8, 10)
IN_MAJOR: Final[tuple[tuple[Chord, ...], ...]] = (
    ((0, ""), (7, ""), (9, "m"), (5, "")),
    ((0, "M7"), (9, "m7"), (2, "m7"), (7, "7")),
    ((0, ""), (5, ""), (7, ""), (0, "")),
    ((2, "m7"), (7, "7"), (0, "M7"), (0, "M7")),
    ((5, ""), (7, ""), (4, "m"), (9, "m")),
    ((0, "sus"), (0, ""), (10, ""), (5, "")),
)
IN_MINOR: Final[tuple[tuple[Chord, ...], ...]] = (
    ((0, "m"), (8, ""), (3, ""), (10, "")),
    ((0, "m"), (5, "m"), (7, "7"), (0, "m")),
    ((0, "5"), (8, "5"), (3, "5"), (10, "5")),
    ((0, "m7"), (5, "m7"), (0, "m7"), (3, "M7")),
    ((0, "m"), (10, ""), (8, ""), (7, "")),
)
RHYTHMS: Final[dict[str, tuple[tuple[float, ...], ...]]] = {
    "fast": (
        (0.5,) * 8, (0.5, 0.25, 0.25, 0.5, 0.5, 0.5, 0.5, 1), (0.25, 0.25, 0.5) * 4, (0.75, 0.25) * 4,
        (0.5, 0.5, 1, 0.5, 0.5, 1),
    ),
    "middling": (
        (1, 1, 2), (0.5, 0.5, 1, 0.5, 0.5, 1), (1.5, 0.5, 1, 1), (0.5, 0.5, 0.5, 0.5, 2), (2, 1, 1),
        (1, 0.5, 0.5, 1, 1),
    ),
    "slow": ((2, 2), (3, 1), (4,), (1, 1, 2), (2, 1, 1)),
}  # fmt: skip


class Score:
    """The tempo, key and chords that the parts of a song share, four beats a bar and a chord."""

    def __init__(self, rng: Generator) -> None:
        self._rng = rng
        self.beat = 60 / rng.uniform(64, 150)
        self.bars = int(np.ceil(SECONDS / (4 * self.beat))) + 1
        self._key = int(rng.integers(12))
        minor = rng.random() < 0.5
        self._scale = MINOR if minor else MAJOR
        some = IN_MINOR if minor else IN_MAJOR
        chords, first = some[int(rng.integers(len(some)))], int(rng.integers(4))
        self._chords = chords[first:] + chords[:first]
        self._sloppy = rng.uniform(0.002, 0.012)
        self._start = rng.uniform(-2, 0) * self.beat

    def time(self, beats: float) -> float:
        """Seconds at which a player plays that beat."""
        return float(beats * self.beat + self._start + self._rng.normal(0, self._sloppy))

    def velocity(self, usual: float) -> float:
        return float(usual + self._rng.normal(0, 8))

    def melody(self, lowest: int, highest: int, pace: str, rest: float) -> list[Note]:
        """Notes of chord and scale between two keys; `rest` is the share left out."""
        rng, notes, key = self._rng, [], (lowest + highest) // 2
        for bar in range(self.bars):
            root, quality = self._chords[bar % 4]
            rhythms, beat = RHYTHMS[pace], 0.0
            for n, length in enumerate(rhythms[int(rng.integers(len(rhythms)))]):
                if rng.random() > rest:
                    key += int(rng.integers(-4, 5))
                    steps, base = (CHORDS[quality], root) if n == 0 else (self._scale, 0)
                    fits = [k for k in range(lowest, highest + 1) if (k - self._key - base) % 12 in steps] or [lowest]
                    key = min(fits, key=lambda k: abs(k - key))
                    start = self.time(4 * bar + beat)
                    notes.append(Note(start, length * self.beat * rng.uniform(0.75, 1), key, self.velocity(90)))
                beat += length
        return [note for note in notes if 0 <= note.start < SECONDS - 0.1] or [Note(1.0, 1.0, lowest + 4, 90)]

    def accompaniment(self, figure: Figure, octave: int, velocity: float = 85, strum: float = 0.0) -> list[Note]:
        """A figure on every bar's chord, from a key upwards; a strummed chord is spread by `strum` seconds a string."""
        notes = []
        for bar in range(self.bars):
            root, quality = self._chords[bar % 4]
            steps, base = CHORDS[quality], octave + self._key + root
            while base > octave + 8:
                base -= 12
            for beat, length, which in figure:
                start, long, loud = self.time(4 * bar + beat), length * self.beat, self.velocity(velocity)
                if which is None:
                    notes += [Note(start + n * strum, long, base + step, loud) for n, step in enumerate(steps)]
                else:
                    key = base + steps[which % len(steps)] + 12 * (which // len(steps))
                    notes.append(Note(start, long, key, loud))
        return [note for note in notes if note.start > -1]

    def strokes(self, key: int, beats: Sequence[float], velocity: float = 100) -> list[Note]:
        """The same drum on these beats of every bar."""
        return [
            Note(self.time(4 * bar + beat), 0.2, key, self.velocity(velocity))
            for bar in range(self.bars)
            for beat in beats
        ]


def figure(rng: Generator) -> Figure:
    """Of an instrument that accompanies: held, struck, picked, off the beat, half notes, or eighths."""
    kind = int(rng.integers(6))
    if kind == 0:
        return [(0, float(4 * rng.uniform(0.8, 1)), None)]
    if kind == 1:
        return [(float(at), 0.45, None) for at in rng.choice(np.arange(8) / 2, int(rng.integers(3, 7)), replace=False)]
    if kind == 2:
        step = float(rng.choice([0.25, 0.5]))
        which = rng.integers(0, 5, 16)
        repeat = 8 if step == 0.5 else 16
        return [(n * step, float(step * rng.uniform(0.7, 2)), int(which[n % repeat])) for n in range(int(4 / step))]
    if kind == 3:
        return [(at + 0.5, 0.3, None) for at in range(4)]
    if kind == 4:
        return [(0, 2, int(rng.integers(4))), (2, 2, int(rng.integers(4)))]
    return [(at * 0.5, 0.45, None) for at in range(8)]


def bass_figure(rng: Generator) -> Figure:
    if rng.random() < 0.3:
        times = sorted(rng.choice(np.arange(16) / 4, int(rng.integers(3, 9)), replace=False))
        return [(float(at), float(rng.uniform(0.3, 0.9)), int(rng.choice([0, 0, 0, 1, 2]))) for at in times]
    usual: tuple[Figure, ...] = (
        [(at * 0.5, 0.45, 0) for at in range(8)],
        [(0, 1.4, 0), (1.5, 0.5, 0), (2, 1, 2), (3, 1, 0)],
        [(0, 0.9, 0), (1, 0.9, 1), (2, 0.9, 2), (3, 0.9, 1)],
        [(0, 1.8, 0), (2, 1.8, 2)],
    )
    return usual[int(rng.integers(len(usual)))]
