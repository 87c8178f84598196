"""Where a level changes and stays changed, as when the gain of a recorder is turned.

The levels of stretches of 100 ms are looked at over five seconds before and after a place: the difference of their
medians is the step. Music has such steps too; only one that every file of a recording has at the same moment, by as
many dB, was made by a hand (`core.session_findings`).
"""

from typing import Final

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from pydantic import BaseModel, ConfigDict

from wedge_turn.core.measure.kernels import Floats

_WINDOW: Final = 50  # stretches on either side
_NEAR: Final = 20  # stretches: how far from the highest difference the place itself may be
_CLOSE: Final = 10  # stretches on either side when the place is looked for
MIN_DB: Final = 3.0
# Below this a stretch is silence, which says nothing of a gain.
_SILENT_DBFS: Final = -75.0
MAX_STEPS: Final = 6


class LevelStep(BaseModel):
    """A change of level: when, in seconds, and by how many dB."""

    model_config = ConfigDict(frozen=True)

    seconds: float
    change_db: float


def find_level_steps(squares: Floats, step_seconds: float) -> list[LevelStep]:
    """The largest steps of a signal in the order of time; `squares` is the mean square of each stretch."""
    if len(squares) < 2 * _WINDOW:
        return []
    levels = 10 * np.log10(np.maximum(squares, 1e-15))
    medians = np.median(sliding_window_view(levels, _WINDOW), axis=1)
    # medians[n] is that of the stretches from n on.
    before, after = medians[:-_WINDOW], medians[_WINDOW:]
    change = np.where((before > _SILENT_DBFS) & (after > _SILENT_DBFS), after - before, 0.0)
    steps: list[LevelStep] = []
    left = np.abs(change)
    while len(steps) < MAX_STEPS and left.max() >= MIN_DB:
        highest = int(np.argmax(left))
        place = _place(levels, highest + _WINDOW)
        steps.append(LevelStep(seconds=round(place * step_seconds, 3), change_db=round(float(change[highest]), 2)))
        left[max(0, highest - _WINDOW) : highest + _WINDOW] = 0.0
    return sorted(steps, key=lambda step: step.seconds)


def _place(levels: Floats, about: int) -> int:
    """The stretch near `about` with which the level changes most."""
    places = range(max(_CLOSE, about - _NEAR), min(len(levels) - _CLOSE, about + _NEAR) + 1)
    return max(places, key=lambda n: abs(float(levels[n : n + _CLOSE].mean() - levels[n - _CLOSE : n].mean())))
