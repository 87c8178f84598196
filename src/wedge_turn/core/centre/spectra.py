"""The spectra that a centre is computed from: the length of a frame, and the transform."""

import math
from typing import Final, TypeVar

import numpy as np
import scipy
from numpy.typing import NDArray

from wedge_turn.core.centre import kernels
from wedge_turn.core.windows import hann

Channel = TypeVar("Channel", NDArray[np.float64], NDArray[np.complex64])
OVERLAP: Final = 2  # hops in a window
_SECONDS: Final = 0.0874  # 4096 samples at 44.1 and 48 kHz


def window_size(rate: int) -> int:
    """Samples of a frame: a power of two, the longer the higher the rate."""
    return int(2 ** round(math.log2(rate * _SECONDS)))


def make_window(size: int) -> NDArray[np.float32]:
    """The square root of a Hann window, for analysis and synthesis."""
    return np.sqrt(hann(size)).astype(np.float32)


def transform(channel: NDArray[np.float64], count: int, window: NDArray[np.float32]) -> NDArray[np.complex64]:
    """Spectra, (count, lines), of as many frames of a channel, a hop apart, from its first sample on."""
    frames = np.empty((count, len(window)), np.float32)
    kernels.cut_frames(channel.astype(np.float32), len(window) // OVERLAP, window, frames)
    return np.asarray(scipy.fft.rfft(frames, axis=1), np.complex64)


def turn_plane(left: Channel, right: Channel, position: float) -> tuple[Channel, Channel]:
    """The plane turned so that a position, −1 … 1, becomes the middle; by −position it is turned back."""
    if position == 0:
        return left, right
    cos, sin = math.cos(position * math.pi / 4), math.sin(position * math.pi / 4)
    return cos * left + sin * right, cos * right - sin * left


def sum_three_frames(x: NDArray[np.floating]) -> NDArray[np.floating]:
    """Each frame of x, (frames, lines), with those before and after it; beyond the ends lies nothing."""
    padded = np.pad(x, ((1, 1), (0, 0)))
    summed: NDArray[np.floating] = padded[:-2] + padded[1:-1] + padded[2:]
    return summed
