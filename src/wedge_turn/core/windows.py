"""The window of every short-time transform here, and where windows lie that stand for all of a clip.

scipy.signal.windows has it too, and takes a second and 50 MB to import with all that comes along.
"""

import math

import numpy as np
from numpy.typing import NDArray


def hann(size: int) -> NDArray[np.float64]:
    """The periodic Hann window, ½ − ½ cos(2πn/size), (size,): its copies half its size apart add up to 1."""
    window: NDArray[np.float64] = 0.5 - 0.5 * np.cos(2 * np.pi * np.arange(size) / size)
    return window


def choose_window_size(seconds: float, rate: int, frames: int) -> int:
    """The power of two of frames nearest to a time, no more than hold a clip of `frames`, and 256 at the least."""
    power = min(round(math.log2(seconds * rate)), math.ceil(math.log2(max(1, frames))))
    return 1 << max(8, power)


def space_evenly(frames: int, size: int, most: int) -> list[int]:
    """First frames of at most so many windows, side by side or spread evenly over the clip."""
    whole = max(1, frames // size)
    return [round(n) * size for n in np.linspace(0, whole - 1, min(whole, most))]


def raised_cosine(into: NDArray[np.int64], fade: int) -> NDArray[np.float64]:
    """A raised cosine from 0 to 1 over `fade` frames, at frames counted from its start, each less than `fade`."""
    ramp: NDArray[np.float64] = 0.5 - 0.5 * np.cos(np.pi * (into + 0.5) / fade)
    return ramp
