"""A file compared while it is written, against values that can't be computed a second time: pages of a centre.

What is compared is what the system has of the file, read through a descriptor of its own; the hash of it is held
against what is on the disk afterwards.
"""

import os
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from xxhash import xxh3_128

from wedge_turn.proof import loops
from wedge_turn.proof.loops import Room
from wedge_turn.proof.rules import Found, Rule
from wedge_turn.proof.wavs import Channel, Facts, is_finite, make_channel, read_header


class Follower:
    """Compares one file from front to back. Raises ValueError for a header that is not that of a PCM WAV."""

    def __init__(self, path: Path, rule: Rule) -> None:
        self._fd = os.open(path, os.O_RDONLY)
        self._rule = rule
        self._room = Room()
        self._hash = xxh3_128()
        self._facts: Facts = read_header(self._fd, whole=False)
        loops.ready(self._facts.frames * self._facts.channels)
        self.found = [Found() for _ in range(self._facts.channels)]
        # The loudest value of each block that was compared, in order, with its first frame.
        self.loudest: tuple[float, int] = (-1.0, 0)

    def compare(self, start: int, expected: NDArray[np.float64]) -> int:
        """Compare the frames that were written next, (frames, channels); the first that is wrong, −1 for none."""
        align, frames = self._facts.align, len(expected)
        raw = np.empty(frames * align + 1, np.uint8)
        if os.preadv(self._fd, [raw[:-1].data], self._facts.payload + start * align) < raw.size - 1:
            return start
        self._hash.update(raw[:-1].data)
        if not is_finite(raw[:-1], self._facts.encoding):
            return start
        self.loudest = max(self.loudest, (float(np.abs(expected).max(initial=0.0)), start))
        for n, range_found in enumerate(self.found):
            written = make_channel(raw, self._facts.encoding, self._facts.channels, n, 0, frames)
            value = Channel(np.ascontiguousarray(expected[:, n]))
            place = start * self._facts.channels + n
            new, wrong = self._rule.compare(value, written, self._room.again(), place, self._facts.channels)
            if wrong >= 0:
                return start + wrong
            range_found.join(new)
        return -1

    @property
    def digest(self) -> str:
        """The hash of all samples that were compared."""
        return self._hash.hexdigest()

    def close(self) -> None:
        os.close(self._fd)
