"""The wedge: a sector of the stereo field, in a band of frequencies, told by a formula.

With A = |L|², B = |R|² and C = L·R* of each line of a spectrum, each averaged over three frames,

    c = Re C · (3 − Re C/|C|)/2 where Re C > 0, else Re C
    u = √((A + B − 2c) / (2(A + B)))       0 equal sides, 0.707 unrelated, 1 opposite
    g = max(0, 1 − u/o)^q                      o opening, q strength: 0.5 deep … 3 clean
    k = clip(0.6·(A − B)/(A + B) / (2u² + 0.02), −1, 1)
    M = ((1 − k)·L + (1 + k)·R)/2              what both make together: where they lean, of the quieter one
    centre = d·b(f)·g·(½·(L, R) + ½·(M, M))    d depth, b the band's edges

c lies between what agrees in phase, Re C, and what goes together in whatever phase, |C|: a room turns the phase of a
note differently in each ear. These details were chosen on songs of three makes at once, for a voice in a band and for
everything in the middle of the whole band. Panning index and similarity: Avendano and Jot, J. Audio Eng. Soc. 52
(2004); azimuth discrimination: Barry, Lawlor and Coyle, DAFx 2004 (both from memory).
"""

from typing import Final

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.centre import kernels

Singles = NDArray[np.float32]
Spectra = NDArray[np.complex64]

DEFAULT_STRENGTH: Final = 1.5  # strength
MARGIN: Final = 1  # frames on either side that a frame's averages see


def extract_centre(
    left: Spectra, right: Spectra, band: Singles, strength: float, opening: float, depth: float
) -> tuple[Spectra, Spectra]:
    """The centre of both channels, (frames − 2, lines): of every frame but the first and the last. `band` has the gain
    of each line.
    """
    both, lean, difference, across = (np.empty(left.shape, np.float32) for _ in range(4))
    kernels.measure_energies(left, right, both, lean, difference, across)
    parts = tuple(np.empty((len(left) - 2 * MARGIN, left.shape[1]), np.complex64) for _ in range(2))
    kernels.extract(left, right, both, lean, difference, across, band, strength, opening, depth, *parts)
    return parts[0], parts[1]
