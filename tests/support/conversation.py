"""Two made voices on one file, each with the spill of the other, and when each of them speaks."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

RATE = 48_000


@dataclass(frozen=True)
class Conversation:
    """Samples (frames, 2), and whether each voice speaks at each frame, (frames, 2)."""

    samples: NDArray[np.float64]
    speaks: NDArray[np.bool_]


def conversation(seed: int, seconds: float = 60, spill_db: float = -20, floor_db: float = -65) -> Conversation:
    """Turns of 1 to 6 s with pauses, one in five begun before the other ends, and a door that both hear."""
    rng = np.random.default_rng(seed)
    frames = round(seconds * RATE)
    voices, speaks = np.zeros((frames, 2)), np.zeros((frames, 2), np.bool_)
    at, who = 0.5, 0
    while at < seconds - 7:
        length = rng.uniform(1, 6)
        start, stop = round(at * RATE), round((at + length) * RATE)
        voices[start:stop, who] += _speech(rng, stop - start, (110, 190)[who])
        speaks[start:stop, who] = True
        overlaps = rng.random() < 0.2
        at += length - 0.4 if overlaps else length + rng.uniform(0.1, 0.9)
        who = 1 - who
    spill = 10 ** (spill_db / 20)
    heard = np.stack([voices[:, n] + spill * np.roll(voices[:, 1 - n], 100) for n in (0, 1)], axis=1)
    door = round(seconds / 3 * RATE)
    bang = 0.4 * rng.standard_normal(RATE // 4) * np.exp(-np.arange(RATE // 4) / 2_000)
    heard[door : door + len(bang)] += bang[:, None]
    heard += 10 ** (floor_db / 20) * rng.standard_normal((frames, 2))
    return Conversation(heard, speaks)


def _speech(rng: np.random.Generator, frames: int, pitch: float) -> NDArray[np.float64]:
    """Syllables of some 200 ms, each by its own loudness, voiced or hissing, without a break of more than 60 ms."""
    out, at = np.zeros(frames), 0
    t = np.arange(frames) / RATE
    voiced = np.sum([np.sin(2 * np.pi * pitch * n * t + n) / n for n in range(1, 20)], axis=0)
    hissing = sosfilt(butter(2, [2_500, 9_000], "band", fs=RATE, output="sos"), rng.standard_normal(frames))
    while at < frames:
        length = min(round(rng.uniform(0.12, 0.3) * RATE), frames - at)
        shape = np.sin(np.pi * (np.arange(length) + 0.5) / length) ** 0.5
        sound = hissing if rng.random() < 0.2 else voiced
        out[at : at + length] = 0.12 * 10 ** (rng.uniform(-9, 0) / 20) * shape * sound[at : at + length]
        at += length + round(rng.uniform(0, 0.06) * RATE)
    return out
