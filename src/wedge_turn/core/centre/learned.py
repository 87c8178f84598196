"""A mask learned from made mixes: how much of each line of each frame is centre, told by what surrounds it.

A network of two hidden layers looks at `FEATURES` figures of each line. What likeness and lean of a line say alone, the
wedge's formula knows too; how the phase turns from line to line, and what stands out of what lies beside it along time
and along frequency, only the network sees. It was trained by `make learn` (bench/learn.py, seeded) on mixes of another
make than those it is judged by; docs/centre.md has how it fares, docs/decisions/0008-learned-mask.md why it is not the
default.
"""

from functools import cache
from importlib import resources
from typing import Final

import numpy as np
import scipy
from numpy.typing import NDArray

from wedge_turn.core.centre import kernels

Singles = NDArray[np.float32]
Layers = list[tuple[Singles, Singles]]

FEATURES: Final = 17
REACH: Final = 51  # lines on either side that a line is judged with
MARGIN: Final = 3  # frames on either side that a frame is judged with
WEIGHTS: Final = "learned.npz"
_TINY: Final = np.float32(1e-12)
_FURTHEST: Final = 4.0


def features(both: Singles, lean: Singles, apart: Singles, across: Singles, opening: float, step_hz: float) -> Singles:
    """What the network looks at, (FEATURES, frames, lines), of A + B, A − B, |L − R|² and Im(L·R*), (frames, lines).

    `opening` widens what counts as the middle; lines lie `step_hz` apart. The first and last MARGIN frames are judged
    as if silence lay beyond.
    """
    real = ((both - apart) / 2).astype(np.float32)
    features: list[Singles] = []

    def alike(part: Singles, whole: Singles) -> Singles:
        return np.asarray(1 - (1 - 2 * part / _at_least(whole)) / opening**2, np.float32)

    def leaning(part: Singles, whole: Singles) -> Singles:
        return np.asarray(np.abs(part) / _at_least(whole) / opening, np.float32)

    # Averaged over three frames, alone, over three lines more, and over wider surroundings.
    p, d, r, i = (_along_time(x, 3) for x in (both, lean, real, across))
    features += [alike(r, p), alike(np.hypot(r, i), p), leaning(d, p)]
    features += [alike(real, both), leaning(lean, both)]
    wide = [_along_lines(x, 3) for x in (p, d, r, i)]
    features += [alike(wide[2], wide[0]), alike(np.hypot(wide[2], wide[3]), wide[0]), leaning(wide[1], wide[0])]
    wide = [_along_lines(x, 15) for x in (p, d, r)]
    features += [alike(wide[2], wide[0]), leaning(wide[1], wide[0])]
    features.append(alike(*(_along_lines(_along_time(x, 7), 81) for x in (real, both))))
    # How far it stands out of what lies beside it.
    steady = _along_time(both, 7)
    features += [
        _over(both, _along_lines(both, 15), 3),
        _over(both, _along_lines(both, 101), 4),
        _over(both, steady, 2),
        _over(_along_lines(both, 31), _along_lines(steady, 31), 1),
    ]
    hertz = np.maximum(np.arange(both.shape[1]) * step_hz, 20)
    features.append(np.broadcast_to(np.log2(hertz / 1_000) / 3, both.shape))
    features.append(np.maximum(0, 1 - 1.5 * (1 - features[0])) ** 1.5)
    seen = np.stack([np.asarray(one, np.float32) for one in features])
    return np.clip(seen, -_FURTHEST, _FURTHEST, out=seen)


def gains(features: Singles, layers: Layers) -> Singles:
    """How much of each line is centre, 0 … 1, (frames, lines), of its features (FEATURES, frames, lines)."""
    shares = np.empty(features.shape[1:], np.float32)
    # Frame by frame: what a frame needs fits into the processor's cache.
    for frame, share in enumerate(shares):
        made = np.ascontiguousarray(features[:, frame])
        for n, (weights, bias) in enumerate(layers):
            out = np.empty((len(bias), made.shape[1]), np.float32)
            kernels.layer(made, weights, bias, n < len(layers) - 1, out)
            made = out
        share[:] = scipy.special.expit(made[0])
    return shares


@cache
def load_layers() -> Layers:
    """The layers that `make learn` has left beside this module."""
    with (resources.files(__package__) / WEIGHTS).open("rb") as file, np.load(file) as kept:
        return [(kept[f"weights{n}"], kept[f"bias{n}"]) for n in range(len(kept.files) // 2)]


def _at_least(energy: Singles) -> Singles:
    """Sums that run on keep a trace of what went by, which may lie below nothing."""
    return np.asarray(np.maximum(energy, 0) + _TINY, np.float32)


def _over(one: Singles, other: Singles, spread: int) -> Singles:
    """The ratio of two energies as a logarithm, in units of how far it usually spreads."""
    return np.asarray(np.log(_at_least(one) / _at_least(other)) / spread, np.float32)


def _along_time(x: Singles, frames: int) -> Singles:
    even: Singles = scipy.ndimage.uniform_filter1d(x, frames, axis=0, mode="constant")
    return even


def _along_lines(x: Singles, lines: int) -> Singles:
    even: Singles = scipy.ndimage.uniform_filter1d(x, lines, axis=1, mode="constant")
    return even
