"""The inner loops of pictures and measures: those of `kernels`, without Numba where their machine code is kept; and
what they and their callers agree on.
"""

from typing import TYPE_CHECKING, Final

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.machine_code import Kernels

if TYPE_CHECKING:
    from wedge_turn.core.measure import kernels as loops
else:
    loops = Kernels("wedge_turn.core.measure.kernels")

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]

# Columns of what `two_columns` adds up for each stretch.
ENERGY_A, ENERGY_B, WEIGHTED_A, WEIGHTED_B, SUM_A, SUM_B, TOGETHER, APART, PEAK_A, PEAK_B = range(10)
COLUMNS: Final = 10
# Taps of what interpolates between samples, and how many values it makes at a time.
TAPS: Final = 24
SEGMENT: Final = 64

__all__ = ["loops"]
