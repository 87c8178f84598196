"""Where the energy is: a map of direction and frequency, and what to expect of a centre turn.

Each line of the spectrum of each frame points along the main axis of its two channels,
φ = ½·atan2(|L|² − |R|², 2·Re(L·R*)): +45° left, 0° middle, −45° right; what lies further out is opposite in the two
sides, and stands at the map's edges.
"""

import math
from typing import Final

import numpy as np
import scipy
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from wedge_turn.core.centre import sum_three_frames, window_size
from wedge_turn.core.clips import Signal
from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.measure import kernels
from wedge_turn.core.measure.kernels import Floats
from wedge_turn.core.windows import hann

DIRECTIONS: Final = 61
ROWS: Final = 96
LOWEST: Final = 40.0
MAX_FRAMES: Final = 700
SILENT: Final = 1e-12  # an energy of nothing, so that it has decibels
LIKENESS: Final = 0.3  # u of the wedge: below, a line counts as what both channels share
VOICE: Final = (180.0, 4_000.0)


def rows_hz(rate: int) -> Floats:
    """The lower limits of the rows, and the upper limit of the last: equal steps of a logarithm up to half the rate."""
    return np.geomspace(LOWEST, rate / 2, ROWS + 1)


def draw_map(signal: Signal, start: int, frames: int) -> NDArray[np.float32]:
    """Energy in dB, (rows from low to high, directions from left to right): maps of stretches of one length compare.

    Raises BadRequestError for other than two channels, or a stretch outside the signal.
    """
    spectra, rate = _spectra(signal, start, frames)
    lines = spectra.shape[2]
    hertz = np.arange(lines) * rate / 2 / (lines - 1)
    row_of = np.searchsorted(rows_hz(rate), hertz, side="right") - 1
    row_of[hertz >= rate / 2] = ROWS - 1
    energy = np.zeros((ROWS, DIRECTIONS))
    left, right = (np.ascontiguousarray(spectra[side]) for side in (0, 1))
    kernels.paint_map(left, right, row_of.astype(np.int64), energy)
    # Low rows are narrower than a line of the spectrum: they show the line that lies nearest.
    for row in range(ROWS - 2, -1, -1):
        if not energy[row].any():
            energy[row] = energy[row + 1]
    return np.asarray(10 * np.log10(np.maximum(energy, SILENT)), np.float32)


class Expectation(BaseModel):
    """What a centre turn will find: the share of the energy that both channels share in the vocal range, what of it is
    spread between them (reverb, doubled voices), and a band and position measured from the material.
    """

    model_config = ConfigDict(frozen=True)

    shared: float
    between: float
    low_hz: float
    position: float


def expect_centre_of(signal: Signal, start: int, frames: int) -> Expectation:
    """Measure what stands where, over frames [start, start + frames)."""
    spectra, rate = _spectra(signal, start, frames)
    lines = spectra.shape[2]
    hertz = np.arange(lines) * rate / 2 / (lines - 1)
    left, right = spectra
    powers = (np.abs(left) ** 2, np.abs(right) ** 2)
    both = powers[0] + powers[1]
    difference = np.abs(left - right) ** 2
    three = [sum_three_frames(x) for x in (both, difference, powers[0] - powers[1], (left * right.conj()).real)]
    u = np.sqrt(np.clip(three[1] / (2 * three[0] + 1e-20), 0, 1))
    inside = (hertz >= VOICE[0]) & (hertz <= VOICE[1])
    energy = three[0][:, inside]
    total = float(energy.sum()) or 1.0
    shared = float(energy[u[:, inside] < LIKENESS].sum()) / total
    between = float(energy[(u[:, inside] >= LIKENESS) & (u[:, inside] < 0.6)].sum()) / total
    return Expectation(
        shared=round(shared, 3),
        between=round(between, 3),
        low_hz=_low_limit(both, hertz),
        position=_position(three, inside),
    )


def _low_limit(both: NDArray[np.floating], hertz: Floats) -> float:
    """Where bass and drum end and the voice begins: the weakest place between 100 and 260 Hz, in steps of 20 Hz."""
    limits = np.arange(100, 261, 20)
    spectrum = both.sum(axis=0)
    strength = [float(spectrum[(hertz >= 0.9 * limit) & (hertz < 1.1 * limit)].mean()) for limit in limits]
    return float(limits[int(np.argmin(strength))])


def _position(three: list[NDArray[np.floating]], inside: NDArray[np.bool_]) -> float:
    """The direction of most of what both channels share, in the vocal range; 0 where it is near the centre."""
    _, _, lean, cross = (x[:, inside] for x in three)
    angle = 0.5 * np.arctan2(lean, 2 * cross)
    coherent = np.hypot(lean, 2 * cross)
    near = np.abs(angle) < np.pi / 5
    counts, places = np.histogram(angle[near], 25, (-np.pi / 5, np.pi / 5), weights=coherent[near])
    peak = float((places[np.argmax(counts)] + places[np.argmax(counts) + 1]) / 2)
    position = -peak / (np.pi / 4)
    return 0.0 if abs(position) < 0.12 else round(position, 2)


def _spectra(signal: Signal, start: int, frames: int) -> tuple[NDArray[np.complex64], int]:
    """Spectra of left and right, (2, frames, lines), of at most MOST_FRAMES windows, evenly over the stretch."""
    form = signal.form
    if form.channels != 2:
        raise BadRequestError(f"A map is of two channels; {form.channels} were chosen")
    if start < 0 or frames < 1 or start + frames > form.frames:
        raise BadRequestError(f"Frames {start:,} to {start + frames:,} do not lie within {form.frames:,}")
    size = window_size(form.rate)
    hop = max(size // 2, math.ceil((frames - size) / MAX_FRAMES))
    count = max(1, (frames - size) // hop + 1)
    window = hann(size).astype(np.float32)
    if hop == size // 2:
        block = signal.read(start, (count - 1) * hop + size).astype(np.float32)
        pieces = np.stack([block[n * hop : n * hop + size] for n in range(count)])
    else:
        pieces = np.stack([signal.read(start + n * hop, size) for n in range(count)]).astype(np.float32)
    spectra = [scipy.fft.rfft(np.ascontiguousarray(pieces[:, :, side]) * window, axis=1) for side in (0, 1)]
    return np.stack(spectra), form.rate
