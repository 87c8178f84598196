"""The bands of the voice mask: single lines at the low end, wider and wider towards the top."""

from typing import Final

import numpy as np
from numpy.typing import NDArray

LINES: Final = 1_024  # lines of a spectrum that are masked: up to 11 kHz at 44.1 kHz
BANDS: Final = 256
FIRST: Final = 6  # the lines below the first band take its values


def band_edges() -> NDArray[np.int64]:
    """(BANDS + 1,): the first line of each band, then LINES.

    A band that starts at line x is max(1, x/q) lines wide; q is solved for by halving so that the last one ends at
    LINES. At 44.1 kHz: single lines up to 850 Hz, then about f/72.
    """
    narrow, wide = 10.0, 400.0
    edges = [FIRST]
    for _ in range(60):
        q = (narrow + wide) / 2
        edge, edges = float(FIRST), [FIRST]
        for _ in range(BANDS):
            edge += max(1.0, edge / q)
            edges.append(round(edge))
        narrow, wide = (q, wide) if edges[-1] > LINES else (narrow, q)
    return np.array([*edges[:-1], LINES])


EDGES: Final = band_edges()
_CENTRES: Final = (EDGES[:-1] + EDGES[1:] - 1) / 2
# A line's value lies between those of band LOWER and the next: LOWER + FRACTION, by the distance to their centres.
LOWER: Final = np.clip(np.searchsorted(_CENTRES, np.arange(LINES), side="right") - 1, 0, BANDS - 2)
FRACTION: Final = np.clip((np.arange(LINES) - _CENTRES[LOWER]) / (_CENTRES[LOWER + 1] - _CENTRES[LOWER]), 0, 1).astype(
    np.float32
)
