"""How far a written sample may be from the value it stands for.

    integers            half a step: so what the depth holds as it is must be there to the bit
    with dither         half a step from the value with the noise of its place added: to the bit, but for ties
    floats              half a unit in the last place
    beyond full scale   the rail

to which comes the slack of values that were computed in another way; nothing, where they only passed.
"""

from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from wedge_turn.proof import loops
from wedge_turn.proof.loops import Room, floats
from wedge_turn.proof.recipe import BITS
from wedge_turn.proof.wavs import LIMIT, Channel

Floats = NDArray[np.float64]
T = TypeVar("T", float, Floats, float | Floats)


@dataclass
class Found:
    """What comparing channels of files has shown: how many samples are not just the value computed for them, the
    largest difference, in full scale, and how many were clipped, at least and at most.
    """

    samples: int = 0
    rounded: int = 0
    largest: float = 0.0
    clipped: tuple[int, int] = (0, 0)

    def join(self, other: "Found") -> None:
        self.samples += other.samples
        self.rounded += other.rounded
        self.largest = max(self.largest, other.largest)
        self.clipped = self.clipped[0] + other.clipped[0], self.clipped[1] + other.clipped[1]


@dataclass(frozen=True)
class Rule:
    """What is held against the samples of a file; `seed` is that of the dither, None where there is none."""

    encoding: str
    seed: int | None = None
    sparing: bool = False

    def compare(self, expected: Channel, written: Channel, room: Room, first: int, every: int) -> tuple[Found, int]:
        """What is found, and the first sample that is not what it should be, −1 for none. `first` is the place of the
        first sample in its file, `every` the channels of that.
        """
        frames = written.values.size
        if self.seed is None or self.sparing:
            passed = expected.is_whole and written.is_whole
            if passed and loops.same(expected, written, room):
                return Found(frames), -1  # to the bit
        value = floats(expected, room)
        if self.encoding not in BITS:
            return self._floats(value, floats(written, room), expected.slack)
        bits = BITS[self.encoding]
        slack = expected.slack * 2.0 ** (bits - 1)
        if not self.sparing:
            dither = None if self.seed is None else (self.seed, first, every)
            most = expected.most_slack * 2.0 ** (bits - 1)
            judged = loops.judge(value, written, bits, _ties(most, dithered=dither is not None), dither)
            if judged is not None and not judged[0] and not judged[2]:
                return Found(frames, judged[1], judged[3] * 2.0 ** (1 - bits)), -1
        return self._integers(value, floats(written, room), bits, slack, first, every)

    def _integers(
        self, value: Floats, stored: Floats, bits: int, slack: float | Floats, first: int, every: int
    ) -> tuple[Found, int]:
        """By NumPy, near the rails too, in steps of the depth."""
        scale = 2.0 ** (bits - 1)
        y, w = value * scale, stored * scale
        z = y
        if self.seed is not None:
            places = np.uint64(first) + np.arange(value.size, dtype=np.uint64) * np.uint64(every)
            z = y + loops.triangular(self.seed, places)
        ties = _ties(slack, dithered=self.seed is not None)
        holds = np.abs(w - np.clip(z, -scale, scale - 1.0)) <= 0.5 + ties
        if self.sparing:
            on_step = np.abs(y - np.rint(y)) <= slack
            z = np.where(on_step, y, z)
            rounded_values = np.clip(np.rint(y), -scale, scale - 1.0)
            # Whether a computed value is just on its step may be seen differently; of one that passed it may not.
            holds = np.where(on_step, (w == rounded_values) | (holds & (slack > 0)), holds)
        error = np.abs(w - y)
        rounded = ~(error <= slack)
        low, high = -scale - 0.5, scale - 0.5
        clipped = (
            int(np.count_nonzero((z > high + ties) | (z < low - ties))),
            int(np.count_nonzero((z >= high - ties) | (z <= low + ties))),
        )
        largest = float(error[rounded].max(initial=0.0)) / scale
        result = Found(value.size, int(np.count_nonzero(rounded)), largest, clipped)
        return result, -1 if holds.all() else int(np.argmin(holds))

    def _floats(self, value: Floats, stored: Floats, slack: float | Floats) -> tuple[Found, int]:
        clipped = np.clip(value, -LIMIT, LIMIT)
        error = np.abs(stored - value)
        allowed: Floats | float = slack
        if self.encoding == "f32":
            ulp = np.spacing(np.abs(clipped).astype(np.float32)).astype(np.float64)
            allowed = 0.5 * ulp * (1 + 2.0**-20) + slack
        holds = np.abs(stored - clipped) <= allowed
        rounded = ~(error <= slack)
        over = int(np.count_nonzero(np.abs(value) > LIMIT))
        largest = float(error[rounded].max(initial=0.0))
        result = Found(value.size, int(np.count_nonzero(rounded)), largest, (over, over))
        return result, -1 if holds.all() else int(np.argmin(holds))


def _ties(slack: T, *, dithered: bool) -> T:
    """By how much a value between two steps may be seen as lying nearer to the other: noise is added in another way."""
    return np.maximum(slack, 1e-9) if dithered else slack
