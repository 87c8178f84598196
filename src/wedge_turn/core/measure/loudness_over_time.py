"""Loudness as it goes by, as a meter shows it: momentary over 400 ms and short-term over 3 s (EBU Tech 3341),
K-weighted and weighted by channel as ITU-R BS.1770-5 says, without a gate.
"""

from typing import Final

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.clips import Signal
from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.measure import kernels
from wedge_turn.core.measure.kernels import COLUMNS, WEIGHTED_A
from wedge_turn.core.measure.loudness import channel_weights, k_weighting, to_lufs

STEPS_A_SECOND: Final = 10
MOMENTARY: Final = 4  # steps
SHORT_TERM: Final = 30
MAX_STEPS: Final = 6_000
QUIETEST: Final = -120.0  # what silence is given as


def follow_loudness(signal: Signal, first: int, count: int) -> NDArray[np.float32]:
    """Momentary and short-term loudness in LUFS at the end of each stretch of 100 ms from the `first` on,
    (stretches, 2); fewer where the signal ends before. Before its start a signal is silent.

    Raises BadRequestError for more than `MAX_STEPS` stretches, or none of the signal.
    """
    step = max(1, round(signal.form.rate / STEPS_A_SECOND))
    last = min(first + count, -(-signal.form.frames // step))
    if not 0 <= first < last or count > MAX_STEPS:
        raise BadRequestError("These stretches do not lie within the clip")
    # What the short-term window reaches back to, and as long again for the filter to settle.
    begin = max(0, first - 2 * SHORT_TERM)
    squares = _weighted_squares(signal, begin, last, step)
    sums = np.cumsum(np.concatenate([np.zeros(SHORT_TERM + 1), squares]))
    ends = np.arange(first - begin, last - begin) + SHORT_TERM + 1
    means = [(sums[ends] - sums[ends - size]) / (size * step) for size in (MOMENTARY, SHORT_TERM)]
    return np.maximum(to_lufs(np.stack(means, axis=1)), QUIETEST).astype(np.float32)


def _weighted_squares(signal: Signal, begin: int, end: int, step: int) -> NDArray[np.float64]:
    """Sums of K-weighted squares of each stretch, over all channels by their weights; in constant memory."""
    form = signal.form
    weights, weighting = channel_weights(form.channels, form.speakers), k_weighting(form.rate)
    # Two channels at a time; an odd last one goes with itself.
    pairs = [(a, min(a + 1, form.channels - 1)) for a in range(0, form.channels, 2)]
    states = [np.zeros((2, 4)) for _ in pairs]
    total = np.zeros(end - begin)
    for first in range(begin, end, STEPS_A_SECOND):
        last = min(first + STEPS_A_SECOND, end)
        start, stop = first * step, min(last * step, form.frames)
        block = np.ascontiguousarray(signal.read(start, stop - start))
        for (a, b), state in zip(pairs, states, strict=True):
            rows = np.zeros((last - first + 1, COLUMNS))
            kernels.two_columns(block, a, b, weighting, state, step, step, rows)
            for n, channel in enumerate(sorted({a, b})):
                total[first - begin : last - begin] += weights[channel] * rows[: last - first, WEIGHTED_A + n]
    return total
