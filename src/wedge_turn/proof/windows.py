"""What turns over time do, a second time from their formulas (docs/turns.md): hushes, fractions of a sample, and a turn
over a stretch of its clip.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from wedge_turn.proof.recipe import Hush, Over

Floats = NDArray[np.float64]

TAPS = 128  # of a fractional delay: from BEFORE samples before it to AFTER behind
BEFORE, AFTER = TAPS // 2 - 1, TAPS // 2
_KAISER = 13.0


def apply_hushes(hushes: Sequence[Hush], start: int, frames: int) -> Floats | None:
    """The gain of each of these frames under the hushes of one channel, (frames,); None where it is 1 throughout.

    Over the fade's frames k = 0 … f − 1 it falls as g + (1 − g)·(1 + cos(π (k + ½) / f)) / 2, and comes back mirrored;
    the fades meet in the middle where the stretch is shorter. Of hushes that overlap the lowest gain holds.
    """
    gains = None
    for hush in hushes:
        first, last = max(start, hush.start), min(start + frames, hush.end)
        if first >= last:
            continue
        gains = np.ones(frames) if gains is None else gains
        length = hush.end - hush.start
        fade = min(hush.fade, length // 2)
        t = np.arange(first - hush.start, last - hush.start)
        from_edge = np.minimum(t, length - 1 - t)
        own = np.full(t.size, hush.gain)
        if fade:
            falling = hush.gain + (1.0 - hush.gain) * (1.0 + np.cos(np.pi * (from_edge + 0.5) / fade)) / 2.0
            own = np.where(from_edge < fade, falling, own)
        stretch = gains[first - start : last - start]
        np.minimum(stretch, own, out=stretch)
    return gains


def compute_share(over: Over, start: int, frames: int) -> Floats:
    """How much of a turn is heard in each of these frames: 1 within its stretch, 0 outside, a raised cosine over the
    fades, which lie within, (frames,).
    """
    t = np.arange(start, start + frames)
    share = ((t >= over.start) & (t < over.end)).astype(np.float64)
    for fade, into in ((over.fade_in, t - over.start), (over.fade_out, over.end - 1 - t)):
        if fade:
            near = (into >= 0) & (into < fade)
            share[near] *= (1.0 - np.cos(np.pi * (into[near] + 0.5) / fade)) / 2.0
    return share


def fractional_taps(fraction: float) -> Floats:
    """h[k] = w(k − f) · sinc(k − f) for k = −63 … 64, by a Kaiser window, scaled so that Σ h = 1 (Laakso, Välimäki,
    Karjalainen and Laine, *Splitting the unit delay*, IEEE Signal Processing Magazine 13 (1), 1996).
    """
    x = np.arange(-BEFORE, AFTER + 1) - fraction
    window = np.i0(_KAISER * np.sqrt(np.clip(1.0 - (2.0 * x / TAPS) ** 2, 0.0, None))) / np.i0(_KAISER)
    h: Floats = np.sinc(x) * window
    scaled: Floats = h / h.sum()
    return scaled


def apply_delay(around: Floats, fraction: float, frames: int) -> Floats:
    """A channel moved later by a fraction of a sample, (frames,): `around` begins AFTER samples before the first frame
    and ends BEFORE behind the last.
    """
    moved: Floats = np.convolve(around, fractional_taps(fraction), mode="valid")
    return moved[:frames]
