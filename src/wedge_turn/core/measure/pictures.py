"""The pictures of a clip along time: waveform and correlation, at every zoom.

A clip is gone through once, in bins of 256 frames; coarser levels are made from finer ones. Each row holds for
each channel minimum, maximum and Σx², and last Σ left·right (0 unless stereo). From these follow, for any run of rows,

    RMS = sqrt(Σx² / n)        r = Σ left·right / sqrt(Σ left² · Σ right²)

r is Pearson's correlation about zero mean, −1 … +1, and `SILENT` where a channel is. Zoomed in closer than 256 frames
a bin, the waveform is taken from the samples themselves.
"""

import math
import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Final

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.clips import Signal
from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.measure import kernels

BASE: Final = 256
FACTOR: Final = 16
LEVELS: Final = 4  # bins of 256, 4 096, 65 536 and 1 048 576 frames
MAX_BINS: Final = 4_096
BLOCK: Final = 32_768
# Fewer frames say little about how two sides go together: 1 024 are 21 ms at 48 kHz.
MIN_FOR_CORRELATION: Final = 1_024

SILENT: Final = 2.0  # no correlation, and still a number

PictureRows = NDArray[np.float32]


def draw_pictures(signal: Signal, folder: Path, watch: Callable[[int], None] = lambda _: None) -> None:
    """Measure all of a signal and keep the levels in `folder`, which appears when it is complete."""
    folder.parent.mkdir(parents=True, exist_ok=True)
    staging = Path(tempfile.mkdtemp(prefix=".drawing-", dir=folder.parent))
    try:
        _draw_base(signal, staging / "0", watch)
        columns = 3 * signal.form.channels + 1
        for level in range(1, LEVELS):
            _draw_coarser(staging / str(level - 1), staging / str(level), columns)
        staging.rename(folder)
    except OSError:
        shutil.rmtree(staging, ignore_errors=True)
        if not folder.exists():  # else another thread was faster, and drew the same
            raise
    except BaseException:
        shutil.rmtree(staging, ignore_errors=True)
        raise


def _draw_base(signal: Signal, path: Path, watch: Callable[[int], None]) -> None:
    form = signal.form
    with path.open("wb") as file:
        for at in range(0, form.frames, BLOCK):
            frames = min(BLOCK, form.frames - at)
            rows = np.empty((-(-frames // BASE), 3 * form.channels + 1), np.float32)
            kernels.measure_bins(signal.read(at, frames), BASE, rows)
            file.write(rows.tobytes())
            watch(frames)


def _draw_coarser(finer: Path, coarser: Path, columns: int) -> None:
    with finer.open("rb") as source, coarser.open("wb") as target:
        while rows := source.read(FACTOR * 4096 * columns * 4):
            target.write(combine(np.frombuffer(rows, np.float32).reshape(-1, columns), FACTOR).tobytes())


def combine(rows: PictureRows, factor: int) -> PictureRows:
    """Rows of bins `factor` times as long."""
    channels = (rows.shape[1] - 1) // 3
    starts = np.arange(0, len(rows), factor)
    coarse = np.empty((len(starts), rows.shape[1]), np.float32)
    if len(starts) == 0:
        return coarse
    for column in range(rows.shape[1]):
        kind = column % 3 if column < 3 * channels else 2
        operation = (np.minimum, np.maximum, np.add)[kind]
        wide = rows[:, column].astype(np.float64) if kind == 2 else rows[:, column]
        coarse[:, column] = operation.reduceat(wide, starts)
    return coarse


def check_picture_request(start: int, per: int, bins: int) -> None:
    """Raises BadRequestError unless bins are powers of two of frames and start on their own grid."""
    if per < 1 or per & (per - 1) or per > 2**40:
        raise BadRequestError(f"A bin holds a power of two of frames; {per} was asked for")
    if not 1 <= bins <= MAX_BINS:
        raise BadRequestError(f"1 to {MAX_BINS:,} bins can be asked for at once; {bins:,} were")
    if start < 0 or start % per:
        raise BadRequestError(f"Bins of {per} frames start at multiples of {per}; {start} was asked for")


def draw_waveform(signal: Signal, folder: Path, start: int, per: int, bins: int) -> PictureRows:
    """Minimum, maximum and RMS of each channel: (bins, 3 · channels), fewer bins past the end."""
    channels = signal.form.channels
    check_picture_request(start, per, bins)
    rows, counts = _rows(signal, folder, start, per, bins)
    columns = rows[:, : 3 * channels].copy()
    columns[:, 2::3] = np.sqrt(columns[:, 2::3] / counts[:, None])
    return columns


def draw_correlation(signal: Signal, folder: Path, start: int, per: int, bins: int) -> PictureRows:
    """Correlation of left and right in each bin: (bins,); `SILENT` where a channel is, or there are not two.

    Bins shorter than 1 024 frames are refused, because they say little about how two sides go together.
    """
    check_picture_request(start, per, bins)
    if per < MIN_FOR_CORRELATION:
        raise BadRequestError(
            f"Correlation is measured over {MIN_FOR_CORRELATION:,} frames or more; {per} were asked for"
        )
    rows, _ = _rows(signal, folder, start, per, bins)
    if signal.form.channels != 2:
        return np.full(len(rows), SILENT, np.float32)
    left, right, cross = (rows[:, column].astype(np.float64) for column in (2, 5, 6))
    with np.errstate(divide="ignore", invalid="ignore"):
        r = cross / np.sqrt(left * right)
    return np.where((left == 0) | (right == 0), SILENT, np.clip(r, -1, 1)).astype(np.float32)


def measure_mean_squares(signal: Signal, folder: Path, seconds: float) -> tuple[NDArray[np.float64], int]:
    """Mean squares of each channel in bins of about so many seconds, (bins, channels), and the frames of a bin."""
    form = signal.form
    factor = max(1, round(seconds * form.rate / BASE))
    rows = combine(np.memmap(folder / "0", np.float32, "r").reshape(-1, 3 * form.channels + 1), factor)
    size = factor * BASE
    counts = np.full(len(rows), float(size))
    if len(rows):
        counts[-1] = form.frames - (len(rows) - 1) * size
    return rows[:, 2 : 3 * form.channels : 3] / counts[:, None], size


def _rows(signal: Signal, folder: Path, start: int, per: int, bins: int) -> tuple[PictureRows, NDArray[np.float64]]:
    """Rows of the bins asked for that lie within the signal, and the frames in each."""
    form = signal.form
    count = max(0, min(bins, math.ceil((form.frames - start) / per)))
    frames = min(count * per, form.frames - start)
    counts = np.full(count, float(per))
    if count:
        counts[-1] = frames - (count - 1) * per
    columns = 3 * form.channels + 1
    if per < BASE:
        rows = np.empty((count, columns), np.float32)
        if count:
            kernels.measure_bins(signal.read(start, frames), per, rows)
        return rows, counts
    level = max(n for n in range(LEVELS) if per >= BASE * FACTOR**n)
    size = BASE * FACTOR**level
    stored = np.memmap(folder / str(level), np.float32, "r").reshape(-1, columns)
    return combine(stored[start // size : -(-(start + frames) // size)], per // size), counts
