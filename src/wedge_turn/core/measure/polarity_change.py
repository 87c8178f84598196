"""Where the polarity of one channel of a stereo clip changes, as when a cable is swapped while it is recorded.

With c_n = Σ left·right over stretch n, the channels are in polarity up to stretch k and out of polarity after it (or
the other way round) where |Σ_{n<k} c_n − Σ_{n≥k} c_n| is largest. Both parts must be clear: their correlations of
opposite sign, each at least `CLEAR`, over at least `LEAST_SECONDS` and `LEAST_SHARE` of all energy: the tail of a bell
may be out of polarity with its stroke, and nothing was swapped.
"""

from typing import Final

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

CLEAR: Final = 0.5
MIN_SECONDS: Final = 1.0
MIN_SHARE: Final = 0.1


class PolarityChange(BaseModel):
    """When it changes, in seconds, and how the channels are correlated before and after it."""

    model_config = ConfigDict(frozen=True)

    seconds: float
    before: float
    after: float


def find_polarity_change(
    together: NDArray[np.float64], left: NDArray[np.float64], right: NDArray[np.float64], step: float
) -> PolarityChange | None:
    """From Σ left·right, Σ left² and Σ right² of stretches of `step` seconds, (stretches,) each."""
    least = round(MIN_SECONDS / step)
    if len(together) < 2 * least:
        return None
    upto = np.cumsum(together)
    at = least + int(np.argmax(np.abs(2 * upto - upto[-1])[least - 1 : len(upto) - least]))
    before, after = (_correlation(together[part], left[part], right[part]) for part in (slice(0, at), slice(at, None)))
    energy = np.cumsum(left + right)
    share = float(energy[at - 1] / energy[-1]) if energy[-1] > 0 else 0.0
    if before * after >= 0 or min(abs(before), abs(after)) < CLEAR or min(share, 1 - share) < MIN_SHARE:
        return None
    return PolarityChange(seconds=round(at * step, 3), before=round(before, 3), after=round(after, 3))


def _correlation(together: NDArray[np.float64], left: NDArray[np.float64], right: NDArray[np.float64]) -> float:
    energy = float(np.sqrt(left.sum() * right.sum()))
    return float(together.sum()) / energy if energy > 0 else 0.0
