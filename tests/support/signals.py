"""Signals made for tests: sound like music, and signals that lie in memory."""

import numpy as np
import scipy.signal

from wedge_turn.core.form import EncodingName, Form

RATE = 48_000


class Memory:
    def __init__(self, samples: np.ndarray, encoding: EncodingName = "s24") -> None:
        self.samples = np.ascontiguousarray(samples, np.float64)
        self.form = Form(channels=samples.shape[1], frames=len(samples), rate=RATE, encoding=encoding)

    def read(self, start: int, frames: int) -> np.ndarray:
        return self.samples[start : start + frames]


def music(seed: int, seconds: float = 6.0, pink: bool = True) -> np.ndarray:
    """Notes that come and go, one channel: as much like a recording as a few lines make it."""
    rng = np.random.default_rng(seed)
    frames = int(seconds * RATE)
    noise = rng.standard_normal(frames)
    if pink:
        noise = scipy.signal.sosfilt(scipy.signal.butter(1, [80, 3_000], "bandpass", fs=RATE, output="sos"), noise)
    steps = np.repeat(rng.uniform(0.1, 1, int(seconds * 4) + 1), RATE // 4)[:frames]
    scaled = noise * steps
    return np.asarray(scaled / np.abs(scaled).max() * 0.5)


def stereo(left: np.ndarray, right: np.ndarray) -> np.ndarray:
    return np.stack([left, right], axis=1)


ONE, TWO = music(1), music(2)
# Of an ordinary stereo recording: something on each side, and something in the middle.
LEFT, RIGHT = (0.5 * (own + music(3)) for own in (ONE, TWO))
LATE = np.concatenate([np.zeros(37), ONE[:-37]])
