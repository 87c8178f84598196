"""The inner loop of the pictures, compiled once by Numba."""

import numpy as np
from numba import njit
from numpy.typing import NDArray


@njit(cache=True, nogil=True)
def measure_bins(block: NDArray[np.float64], size: int, out: NDArray[np.float32]) -> None:
    """Minimum, maximum and sum of squares of each channel in bins of `size` frames, then Σ left·right of stereo.

    `block` is (frames, channels) and C-contiguous, `out` is (bins, 3 · channels + 1); a last bin may be shorter.
    """
    frames, channels = block.shape
    for b in range(out.shape[0]):
        first, last = b * size, min((b + 1) * size, frames)
        for c in range(channels):
            low = high = block[first, c]
            total = 0.0
            for t in range(first, last):
                x = block[t, c]
                low = min(low, x)
                high = max(high, x)
                total += x * x
            out[b, 3 * c], out[b, 3 * c + 1], out[b, 3 * c + 2] = low, high, total
        cross = 0.0
        if channels == 2:
            for t in range(first, last):
                cross += block[t, 0] * block[t, 1]
        out[b, 3 * channels] = cross


def warm_up() -> None:
    """Compile it for the types it is called with."""
    measure_bins(np.zeros((4, 2)), 2, np.zeros((2, 7), np.float32))
