"""The window of every short-time transform here.

scipy.signal.windows has it too, and takes a second and 50 MB to import with all that comes along.
"""

import numpy as np
from numpy.typing import NDArray


def hann(size: int) -> NDArray[np.float64]:
    """The periodic Hann window, ½ − ½ cos(2πn/size), (size,): its copies half its size apart add up to 1."""
    made: NDArray[np.float64] = 0.5 - 0.5 * np.cos(2 * np.pi * np.arange(size) / size)
    return made
