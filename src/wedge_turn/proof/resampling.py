"""What a library has resampled, held against a sum of the proof's own.

Both sides are taken through one low-pass filter g, which ends below where a resampling filter begins to fall:

    Σ_n  in[n] · g(t − n / old) / old   =   Σ_k  out[k] · g(t − k / new) / new

g is a sinc of cutoff a quarter of the lower rate under a Kaiser window of 128 of its samples; it falls to −120 dB
within 0.03 of that rate (J. F. Kaiser, *Nonrecursive digital filter design using the I0-sinh window function*, IEEE
International Symposium on Circuits and Systems, 1974). So what is at another time, at another level, in another channel
or torn at a seam is found, at any pair of rates.
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

HALF = 64  # samples of the lower rate that the filter reaches to either side
EVERY = 16  # one place in so many frames is compared
CUTOFF = 0.25  # of the lower rate
ALLOWED = 2.0**-16  # of the highest sample: −96 dB
_BETA = 12.3  # −120 dB


def find_difference(
    heard: Callable[[int, int], Floats], written: Floats, start: int, rates: tuple[int, int], frames: int
) -> int | None:
    """The first frame at which `made`, which are frames [start, start + len(made)) of `frames` at the second of the
    rates, differs from what is heard at the first; None where it doesn't. What lies less than the filter's length from
    either end of `made` is not compared, and more than that from the ends of the clip, where its ringing is cut off.
    """
    old, new = rates
    lower = min(rates)
    own, beyond = -(-HALF * new // lower), -(-4 * HALF * new // lower)
    first = max(start + own, beyond)
    last = min(start + len(written) - own, frames - beyond)
    if last <= first:
        return None
    places = np.arange(first, last, EVERY)
    begin = int(first * old // new) - -(-HALF * old // lower) - 1
    source = heard(begin, int(last * old // new) + -(-HALF * old // lower) + 2 - begin)
    expected = _filter(source, begin, old, places, new, lower)
    resampled = _filter(written, start, new, places, new, lower)
    off = np.abs(resampled - expected).max(axis=1)
    wrong = np.flatnonzero(~(off <= ALLOWED * max(1e-30, float(np.abs(source).max()))))
    return int(places[wrong[0]]) if wrong.size else None


def _filter(samples: Floats, begin: int, rate: int, places: NDArray[np.int64], clock: int, lower: int) -> Floats:
    """Samples of `rate` from `begin` on through the filter, at places counted at `clock`, (places, channels)."""
    reach = -(-HALF * rate // lower)
    out = np.empty((len(places), samples.shape[1]))
    for some in np.array_split(np.arange(len(places)), max(1, len(places) * 2 * reach * out.shape[1] // 2**20)):
        # In whole numbers, so that no place loses digits an hour into the clip.
        nearest, rest = np.divmod(places[some] * rate, clock)
        steps = np.arange(-reach + 1, reach + 1)
        x = (rest[:, None] / clock - steps) * (lower / rate)
        window = np.i0(_BETA * np.sqrt(np.clip(1.0 - (x / HALF) ** 2, 0.0, None))) / np.i0(_BETA)
        taps = 2 * CUTOFF * np.sinc(2 * CUTOFF * x) * window * (lower / rate)
        out[some] = np.einsum("pk,pkc->pc", taps, samples[nearest[:, None] + steps - begin])
    return out
