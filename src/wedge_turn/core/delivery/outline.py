"""A small picture of a file for the report: the lowest and the highest sample of each of 300 stretches.

Of a long stretch only part is read, spread evenly over it: the picture shows where there is sound, and costs a small
part of what writing and proving do.
"""

from base64 import b64decode, b64encode
from collections.abc import Sequence
from functools import lru_cache
from typing import Final

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.audio import WavFile

COLUMNS: Final = 300
LANES: Final = 8  # channels that are shown
_READ: Final = 512  # frames of each stretch at the most
_AT_ONCE: Final = 60  # stretches; memory for all of them takes longer to get than they take to read
_FULL: Final = 127


def draw_outline(file: WavFile) -> list[str]:
    """A picture of each of the first eight channels in base64: signed bytes, lowest and highest by turns, ±127 at full
    scale.
    """
    starts, length = _stretches(file.form.frames)
    extremes = [_extremes(file, starts[at : at + _AT_ONCE], length) for at in range(0, len(starts), _AT_ONCE)]
    stored = np.rint(np.clip(np.concatenate(extremes, axis=1), -1, 1) * _FULL).astype(np.int8)
    return [b64encode(lane.tobytes()).decode("ascii") for lane in stored]


@lru_cache(maxsize=8)  # the files of a recording have one length
def _stretches(frames: int) -> tuple[tuple[int, ...], int]:
    """Where the stretches begin that are read of a file of so many frames, and how long they are."""
    columns = min(COLUMNS, frames)
    length = min(-(-frames // columns), _READ)
    middles = ((2 * n + 1) * frames // (2 * columns) for n in range(columns))
    return tuple(min(max(0, middle - length // 2), frames - length) for middle in middles), length


def _extremes(file: WavFile, starts: Sequence[int], length: int) -> NDArray[np.float64]:
    """The lowest and the highest sample of stretches, as (channels, stretches, 2)."""
    # One channel after the other: of what lies side by side, the extremes take ten times as long.
    read = np.ascontiguousarray(file.read_each(starts, length)[:, :, :LANES].transpose(2, 0, 1))
    return np.stack([read.min(axis=2), read.max(axis=2)], axis=2)


def list_columns(lane: str) -> NDArray[np.int8]:
    """One channel's picture as an array of shape (columns, 2). Raises ValueError for what is none."""
    return np.frombuffer(b64decode(lane, validate=True), np.int8).reshape(-1, 2)
