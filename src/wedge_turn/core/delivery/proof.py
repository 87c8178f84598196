"""Evidence that a turn did what it says, taken from the files that were written.

`comes-back`: the written files are read again and the turn's way back is applied to them; what comes back is
rounded to the depth of what went in and compared with it, sample by sample. `as-computed`: the written file is
compared with the clip computed again; used where a turn has no way back, or where not all of its results were
written. A turn that mixes is then computed in another way than for writing: step by step from its own inputs, by
matrix products of whole blocks, instead of by collapsed taps.

The residue is the largest difference of any two samples, in dB relative to full scale.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from wedge_turn.core.audio.encoding import Encoding
from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.pcm import Block
from wedge_turn.core.engine import Clip, Signal, apply, side_by_side
from wedge_turn.core.mixing import IntegerMix
from wedge_turn.core.rawblocks import Loader, RawBlocks, block_frames
from wedge_turn.core.turns import ClipInfo, Outcome, Output
from wedge_turn.core.writing import Watch

FLOAT_BLOCK: Final = 32_768
ProofKind = Literal["comes-back", "as-computed"]


class Proof(BaseModel):
    """What was compared, and what was found. `residual_dbfs` is None for silence: every sample is the same."""

    model_config = ConfigDict(frozen=True)

    kind: ProofKind
    exact: bool
    bits: int
    residual_dbfs: float | None
    samples: int
    different: int
    statement: str


@dataclass
class Comparison:
    """The running result of comparing clips."""

    samples: int = 0
    different: int = 0
    largest: float = 0.0

    @property
    def residual_dbfs(self) -> float | None:
        return round(20 * math.log10(self.largest), 2) if self.largest > 0 else None


@dataclass(frozen=True)
class Pair:
    """Two clips of as many channels to compare over the frames of a span; `one` is first rounded to the grid.

    `lag` is by how many frames `one` is behind the file it is read from: frame t can be had once t + lag are written.
    """

    one: Clip
    two: Signal
    span: tuple[int, int]
    grid: Encoding | None = None
    lag: int = 0


@dataclass(frozen=True)
class Claim:
    """What is to be shown of written files: that these pairs are the same, to so many bits."""

    kind: ProofKind
    pairs: Sequence[Pair]
    bits: int
    text: str

    def proof(self, found: Comparison) -> Proof:
        """What comparing the pairs has shown."""
        if found.different == 0:
            statement = f"{self.text}: all {found.samples:,} samples are the same, to {self.bits} bits."
        else:
            statement = (
                f"{self.text} but for {found.different:,} of {found.samples:,} samples, "
                f"residue at most {found.residual_dbfs} dBFS ({self.bits} bits)."
            )
        return Proof(
            kind=self.kind,
            exact=found.different == 0,
            bits=self.bits,
            residual_dbfs=found.residual_dbfs,
            samples=found.samples,
            different=found.different,
            statement=statement,
        )


class Comparing:
    """Compares pairs from front to back while their files are being written, so that what they share is read once."""

    def __init__(self, pairs: Sequence[Pair], loader: Loader, watch: Watch) -> None:
        self.found = Comparison()
        self._pairs = [(pair, _Comparer(pair, loader, self.found)) for pair in pairs]
        self._reached = [pair.span[0] for pair in pairs]
        self._watch = watch

    def up_to(self, written: int) -> None:
        """Compare what can be had since so many frames are written."""
        for n, (pair, comparer) in enumerate(self._pairs):
            stop = min(pair.span[1], written - pair.lag)
            channels = len(pair.one.channels)
            for at in range(self._reached[n], stop, block_frames(channels)):
                frames = min(block_frames(channels), stop - at)
                comparer.stretch(at, frames)
                self._watch(frames * channels)
            self._reached[n] = max(self._reached[n], stop)


class _Comparer:
    """Compares one pair stretch by stretch: as bytes, as integers, or as samples, whichever says the same sooner."""

    def __init__(self, pair: Pair, loader: Loader, found: Comparison) -> None:
        self._pair = pair
        self._found = found
        one, two, grid = pair.one, pair.two, pair.grid
        self._raw = self._mixes = None
        if isinstance(two, Clip):
            raws = RawBlocks.of(one, two.form.stored, loader), RawBlocks.of(two, two.form.stored, loader)
            self._raw = (raws[0], raws[1]) if raws[0] and raws[1] else None
            if self._raw is None and grid is not None:
                mixes = IntegerMix.of(one, grid, loader), IntegerMix.of(two, grid, loader)
                self._mixes = (mixes[0], mixes[1]) if mixes[0] and mixes[1] and mixes[1].is_rearranged else None

    def stretch(self, start: int, frames: int) -> None:
        self._found.samples += frames * len(self._pair.one.channels)
        if self._raw and self._raw[0].same_as(self._raw[1], start, frames):
            return
        if self._mixes and all(mix.covers(start, frames) for mix in self._mixes):
            self._add(*self._mixes[0].apart_from(self._mixes[1], start, frames))
            return
        for at in range(start, start + frames, FLOAT_BLOCK):
            self._as_samples(at, min(FLOAT_BLOCK, start + frames - at))

    def _as_samples(self, start: int, frames: int) -> None:
        apart = np.abs(
            _rounded(self._pair.one.read(start, frames), self._pair.grid) - self._pair.two.read(start, frames)
        )
        self._add(int(np.count_nonzero(apart)), float(apart.max(initial=0.0)))

    def _add(self, different: int, largest: float) -> None:
        self._found.different += different
        self._found.largest = max(self._found.largest, largest)


def _rounded(block: Block, grid: Encoding | None) -> Block:
    if grid is None or grid.is_float:
        return block
    scale = 2.0 ** (grid.bits - 1)
    rounded: Block = np.rint(block * scale) / scale
    return rounded


def summary(proofs: Sequence[Proof]) -> Proof:
    """Several proofs as one: as exact as the least of them."""
    if len(proofs) == 1:
        return proofs[0]
    residues = [proof.residual_dbfs for proof in proofs if proof.residual_dbfs is not None]
    return Proof(
        kind="comes-back" if all(proof.kind == "comes-back" for proof in proofs) else "as-computed",
        exact=all(proof.exact for proof in proofs),
        bits=min(proof.bits for proof in proofs),
        residual_dbfs=max(residues, default=None),
        samples=sum(proof.samples for proof in proofs),
        different=sum(proof.different for proof in proofs),
        statement=" ".join(proof.statement for proof in proofs),
    )


def comes_back(outcome: Outcome, inputs: Sequence[Clip], infos: Sequence[ClipInfo], written: Sequence[Clip]) -> Claim:
    """That the way back from the written clips gives what went in.

    Raises ValueError where the outcome has no way back.
    """
    back = outcome.way_back
    if back is None:
        raise ValueError("this outcome has no way back")
    pairs = []
    for clip, channels, offset in _together(_by_place(inputs, outcome.offsets)):
        rows = back[channels]
        count = sum(len(one.channels) for one in written)
        form = clip.form
        returning = Outcome((Output("", form),), rows, (-offset,) * count, form.frames)
        (returned,) = apply(returning, written)
        # What a trim left out cannot come back; everything that was kept must.
        span = max(0, -offset), min(form.frames, outcome.frames - offset)
        pairs.append(Pair(returned, clip, span, None if outcome.exact else form.stored, offset))
    bits = min(clip.form.stored.bits for clip in (written if outcome.exact else inputs))
    names = " and ".join(info.name for info in infos) if len(infos) < 4 else f"all {len(infos)} inputs"
    return Claim("comes-back", pairs, bits, f"Taken back, the written files give {names} again")


def _by_place(inputs: Sequence[Clip], offsets: Sequence[int]) -> list[tuple[Clip, slice, int]]:
    """Inputs with their columns and offset; a clip whose channels were moved apart is gone through one by one."""
    places = []
    column = 0
    for clip in inputs:
        count = len(clip.channels)
        moved = offsets[column : column + count]
        if len(set(moved)) == 1:
            places.append((clip, slice(column, column + count), moved[0]))
        else:
            mono = clip.form.model_copy(update={"channels": 1, "speaker_mask": 0})
            for n, taps in enumerate(clip.channels):
                places.append((Clip(mono, (taps,)), slice(column + n, column + n + 1), moved[n]))
        column += count
    return places


def _together(places: list[tuple[Clip, slice, int]]) -> list[tuple[Clip, slice, int]]:
    """Clips of one kind that lie together are gone through together: what they came into is then read once."""
    kinds = {(clip.form.encoding, clip.form.frames, offset) for clip, _, offset in places}
    if len(kinds) > 1:
        return places
    return [(side_by_side([clip for clip, _, _ in places]), slice(0, places[-1][1].stop), places[0][2])]


class Recomputed:
    """One output of a turn, computed from its inputs by matrix products: another way than the engine's taps."""

    def __init__(self, outcome: Outcome, inputs: Sequence[Clip], output: int) -> None:
        self.form: Form = outcome.outputs[output].form
        first = sum(one.form.channels for one in outcome.outputs[:output])
        self._rows = outcome.matrix[first : first + self.form.channels]
        self._places = _by_place(inputs, outcome.offsets)
        self._frames = outcome.frames

    def read(self, start: int, frames: int) -> Block:
        """Samples as float64 (frames, channels); silence outside the clip."""
        out = np.zeros((frames, self.form.channels))
        for clip, columns, offset in self._places:
            out += clip.read(start - offset, frames) @ self._rows[:, columns].T
        out[: max(0, -start)] = 0
        out[max(0, self._frames - start) :] = 0
        return out


def as_computed(expected: Signal, name: str, written: Clip, undone: bool) -> Claim:
    """That a written clip is what it should be. `undone` says whether the turn has a way back at all."""
    why = "" if undone else "It cannot be undone. "
    how = "as computed" if isinstance(expected, Clip) else "as computed again in another way"
    pair = Pair(written, expected, (0, written.form.frames))
    return Claim("as-computed", [pair], written.form.stored.bits, f"{why}The written file is {name} {how}")
