"""Drum hits told from held notes, by medians along time and along frequency (Fitzgerald, DAFx 2010, from memory)."""

from typing import Final

import numpy as np
import scipy
from numpy.typing import NDArray

MEDIAN: Final = 17  # frames, and lines
MARGIN: Final = MEDIAN // 2  # frames on either side that a frame's medians see


def separate_transients(power: NDArray[np.float32]) -> NDArray[np.float32]:
    """How much of each line of each frame is a stroke, 0 … 1, by its power, (frames, lines).

    A held note is a ridge along time, a stroke one along frequency; each is what a median along its own way leaves.
    """
    magnitude = np.sqrt(power)
    sustained = scipy.ndimage.median_filter(magnitude, (MEDIAN, 1)) ** 2
    hit = scipy.ndimage.median_filter(magnitude, (1, MEDIAN)) ** 2
    share: NDArray[np.float32] = (hit / (hit + sustained + np.float32(1e-20))).astype(np.float32)
    return share
