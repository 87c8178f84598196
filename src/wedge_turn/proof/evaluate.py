"""A recipe computed step by step, a stretch at a time: matrix times block, offsets by where a block is taken from.

What only passes a step (a row with one 1) stays the very array it was; so integers stay the bytes they were read as,
and equal is equal.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from wedge_turn.proof import loops
from wedge_turn.proof.loops import Room, floats
from wedge_turn.proof.recipe import Over, Recipe, Step
from wedge_turn.proof.resampling import find_difference
from wedge_turn.proof.wavs import Channel
from wedge_turn.proof.windows import AFTER, TAPS, apply_delay, apply_hushes, compute_share

Floats = NDArray[np.float64]

LAST_PLACES = 2.0**-50  # by which a sum of two terms may differ in another order, relative to the largest
OF_CURVES = 2.0**-46  # the same of a fade
OF_DELAYS = 2.0**-40  # and of a fraction of a sample, which the writer may make by a Fourier transform

# The channels of a source, silence outside of it, good for as long as what the room is used for.
Read = Callable[[str, int, int, Room], list[Channel]]
Heard = Callable[[int, int], Floats]  # a stretch of what goes into a step, (frames, channels)
# All channels that a computed step makes of what it hears, (frames, channels), made anew.
Fresh = Callable[[str, Heard, int, int], Floats]


class ResampledWronglyError(ValueError):
    """What was resampled afresh is not what went in; `frame` is where, at the new rate."""

    def __init__(self, frame: int) -> None:
        super().__init__(f"resampled wrongly at frame {frame:,}")
        self.frame = frame


class Evaluation:
    """Stretches of the clips of a recipe, each computed once. `room` is good for as long as this is."""

    def __init__(self, recipe: Recipe, read: Read, fresh: Fresh, room: Room) -> None:
        self._recipe, self._read, self._fresh, self.room = recipe, read, fresh, room
        self._made: dict[tuple[str, int, int], list[Channel]] = {}

    def clip(self, ref: str, start: int, frames: int) -> list[Channel]:
        """The channels of a clip over frames [start, start + frames), silence outside of it."""
        kind, key, *output = ref.split(":")
        wanted_key = (f"{kind}:{key}", start, frames)
        if wanted_key not in self._made:
            read = self._read(key, start, frames, self.room) if kind == "source" else self._step(key, start, frames)
            self._made[wanted_key] = read
        if kind == "source":
            return self._made[wanted_key]
        counts = self._recipe.steps[key].outputs
        first = sum(counts[: int(output[0])])
        return self._made[wanted_key][first : first + counts[int(output[0])]]

    def _step(self, key: str, start: int, frames: int) -> list[Channel]:
        step = self._recipe.steps[key]
        if step.computed:
            fresh_block = self._fresh(key, self._read_inputs(step), start, frames)
            if step.rate is not None:
                wrong = find_difference(
                    self._read_inputs(step), fresh_block, start, (step.forms[0].rate, step.rate), step.frames
                )
                if wrong is not None:
                    raise ResampledWronglyError(wrong)
            return [Channel(np.ascontiguousarray(fresh_block[:, n])) for n in range(fresh_block.shape[1])]
        inputs = self._inputs(step, start, frames)
        rows = mix_channels(np.array(step.matrix), inputs, frames, self.room)
        rows = [self._added(step, n, row) for n, row in enumerate(rows)]
        rows = [self._hushed(step, n, row, start, frames) for n, row in enumerate(rows)]
        if step.over is not None:
            rows = self._over(step.over, self.clip(step.inputs[0], start, frames), rows, start, frames)
        before, behind = -start, start + frames - step.frames
        return [_within(row, max(0, before), max(0, behind)) for row in rows] if before > 0 or behind > 0 else rows

    def _read_inputs(self, step: Step) -> Heard:
        """What goes into a computed step, as it is read and computed here."""

        def read_inputs(start: int, frames: int) -> Floats:
            own = Evaluation(self._recipe, self._read, self._fresh, Room())
            channels = [floats(channel, own.room) for ref in step.inputs for channel in own.clip(ref, start, frames)]
            return np.stack(channels, axis=1)

        return read_inputs

    def _inputs(self, step: Step, start: int, frames: int) -> list[Channel]:
        """The channels that go into a step, where it places them."""
        inputs: list[Channel] = []
        for ref in step.inputs:
            for n in range(self._recipe.channels_of(ref)):
                j = len(inputs)
                at = start - step.offsets[j]
                fraction = step.delays[j] if step.delays else 0.0
                if fraction:
                    around = self.clip(ref, at - AFTER, frames + TAPS - 1)[n]
                    values = floats(around, self.room)
                    slack = around.most_slack * 4 + OF_DELAYS * float(np.abs(values).max(initial=0.0))
                    inputs.append(Channel(apply_delay(values, fraction, frames), slack=slack))
                else:
                    inputs.append(self.clip(ref, at, frames)[n])
        return inputs

    def _added(self, step: Step, n: int, row: Channel) -> Channel:
        if not step.added or not step.added[n]:
            return row
        return Channel(floats(row, self.room) + step.added[n], slack=row.slack)

    def _hushed(self, step: Step, n: int, row: Channel, start: int, frames: int) -> Channel:
        gains = apply_hushes([hush for hush in step.hushes if hush.channel == n], start, frames)
        if gains is None:
            return row
        values = floats(row, self.room) * gains
        # Where no hush is, a sample is what it was.
        return Channel(values, slack=row.slack + OF_CURVES * np.abs(values) * (gains != 1.0))

    def _over(
        self, over: Over, original: Sequence[Channel], turned: Sequence[Channel], start: int, frames: int
    ) -> list[Channel]:
        """The turned channels where the stretch is, the original ones outside of it, both where it fades."""
        share = compute_share(over, start, frames)
        if not share.any():
            return list(original)
        if (share == 1.0).all():
            return list(turned)
        rows_made = []
        for before, after in zip(original, turned, strict=True):
            a, b = floats(before, self.room), floats(after, self.room)
            values = np.where(share == 1.0, b, a + share * (b - a))
            fades = (share > 0.0) & (share < 1.0)
            slack = before.slack * (share < 1.0) + after.slack * (share > 0.0)
            rows_made.append(Channel(values, slack=slack + OF_CURVES * (np.abs(a) + np.abs(b)) * fades))
        return rows_made


def mix_channels(matrix: Floats, inputs: Sequence[Channel], frames: int, room: Room) -> list[Channel]:
    """The rows of a matrix times the channels that go in."""
    rows: list[Channel | None] = []
    for row in matrix:
        inputs_used = [int(n) for n in np.flatnonzero(row)]
        if not inputs_used:
            rows.append(Channel(np.zeros(frames, np.int32)))
        elif len(inputs_used) == 1 and row[inputs_used[0]] == 1.0:
            rows.append(inputs[inputs_used[0]])
        elif len(inputs_used) == 1 and row[inputs_used[0]] == -1.0:
            channel = inputs[inputs_used[0]]
            rows.append(Channel(-floats(channel, room), slack=channel.slack))  # in floats: −(−1) must not become −1
        else:
            rows.append(None)
    left = [n for n, made in enumerate(rows) if made is None]
    if left:
        used = [int(n) for n in np.flatnonzero(matrix[left].any(axis=0))]
        block, out = room.floats(len(used), frames), room.floats(len(left), frames)
        highest, slacks = np.zeros(len(used)), np.array([inputs[j].most_slack for j in used])
        for at, j in enumerate(used):
            floats(inputs[j], room, block[at])
            highest[at] = 1.0 if inputs[j].is_whole else np.abs(inputs[j].values).max(initial=0.0)
        loops.mix(np.ascontiguousarray(matrix[left][:, used]), block, out)
        for at, n in enumerate(left):
            gains = np.abs(matrix[n, used])
            slack = float((gains * highest).sum()) * LAST_PLACES * len(used) + float((gains * slacks).sum())
            rows[n] = Channel(out[at], slack=slack)
    return [made for made in rows if made is not None]


def _within(channel: Channel, before: int, behind: int) -> Channel:
    """A channel with silence in its first and last frames."""
    values = channel.values.copy()
    values[:before] = 0
    values[max(0, values.size - behind) :] = 0
    return replace(channel, values=values)
