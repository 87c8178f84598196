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
from wedge_turn.core.audio.kernels import count_apart
from wedge_turn.core.audio.pcm import Block, Raw
from wedge_turn.core.engine import Clip, Signal, apply
from wedge_turn.core.mixing import IntegerMix
from wedge_turn.core.rawblocks import RawBlocks, block_frames
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
    """The running result of comparing two clips."""

    samples: int = 0
    different: int = 0
    largest: float = 0.0

    @property
    def residual_dbfs(self) -> float | None:
        return round(20 * math.log10(self.largest), 2) if self.largest > 0 else None


def compare(a: Clip, b: Signal, span: tuple[int, int], watch: Watch, into: Comparison, grid: Encoding | None) -> None:
    """Compare two clips of as many channels over the frames of a span; `a` is rounded to `grid` where there is one."""
    encoding = b.form.stored
    raw_a = RawBlocks.of(a, encoding)
    raw_b = RawBlocks.of(b, encoding) if isinstance(b, Clip) else None
    channels = len(a.channels)
    start, stop = span
    if raw_a is None and isinstance(b, Clip) and grid is not None and not grid.is_float:
        mixes = IntegerMix.of(a, grid.bits), IntegerMix.of(b, grid.bits)
        if mixes[0] and mixes[1] and all(mix.covers(start, stop - start) for mix in mixes if mix):
            _compare_integers((mixes[0], mixes[1]), grid, channels, span, watch, into)
            return
    as_bytes = raw_a is not None and raw_b is not None
    step = block_frames(channels) if as_bytes else FLOAT_BLOCK
    buffers = np.empty((2, step * channels * encoding.width if as_bytes else 0), np.uint8)
    for at in range(start, stop, step):
        frames = min(step, stop - at)
        into.samples += frames * channels
        if raw_a is not None and raw_b is not None:
            one, two = buffers[:, : frames * raw_a.block_align]
            raw_a.read_into(one, at)
            raw_b.read_into(two, at)
            same = _equal(one, two)
        else:
            same = False
        if not same:
            apart = np.abs(_rounded(a.read(at, frames), grid) - b.read(at, frames))
            into.different += int(np.count_nonzero(apart))
            into.largest = max(into.largest, float(apart.max(initial=0.0)))
        watch(frames * channels)


def _compare_integers(
    mixes: tuple[IntegerMix, IntegerMix], grid: Encoding, channels: int, span: tuple[int, int], watch: Watch,
    into: Comparison,
) -> None:  # fmt: skip
    """The same where both are mixes of integers: rounded to the grid, they are integers of its bits."""
    for at in range(*span, FLOAT_BLOCK):
        frames = min(FLOAT_BLOCK, span[1] - at)
        one, two = (mix.read(at, frames).values.reshape(-1) for mix in mixes)
        if not np.array_equal(one, two):
            different, largest = count_apart(one, two)
            into.different += different
            into.largest = max(into.largest, largest * 2.0 ** (1 - grid.bits))
        into.samples += frames * channels
        watch(frames * channels)


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


def _equal(one: Raw, two: Raw) -> bool:
    whole = one.size // 8 * 8  # by words, which is eight times as quick
    return np.array_equal(one[:whole].view(np.uint64), two[:whole].view(np.uint64)) and np.array_equal(
        one[whole:], two[whole:]
    )


def prove_return(
    outcome: Outcome, inputs: Sequence[Clip], infos: Sequence[ClipInfo], written: Sequence[Clip], watch: Watch
) -> Proof:
    """Walk the way back from the written clips and compare with what went in.

    Raises ValueError where the outcome has no way back.
    """
    back = outcome.way_back
    if back is None:
        raise ValueError("this outcome has no way back")
    found = Comparison()
    for clip, channels, offset in _by_place(inputs, outcome.offsets):
        rows = back[channels]
        count = sum(len(one.channels) for one in written)
        form = clip.form
        returning = Outcome((Output("", form),), rows, (-offset,) * count, form.frames)
        (returned,) = apply(returning, written)
        # What a trim left out cannot come back; everything that was kept must.
        span = max(0, -offset), min(form.frames, outcome.frames - offset)
        compare(returned, clip, span, watch, found, None if outcome.exact else form.stored)
    bits = min(clip.form.stored.bits for clip in (written if outcome.exact else inputs))
    names = " and ".join(info.name for info in infos) if len(infos) < 4 else f"all {len(infos)} inputs"
    return _proof("comes-back", found, bits, f"Taken back, the written files give {names} again")


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


def prove_computed(expected: Signal, name: str, written: Clip, watch: Watch, undone: bool) -> Proof:
    """Compare one written clip with what it should hold. `undone` says whether the turn has a way back at all."""
    found = Comparison()
    compare(written, expected, (0, written.form.frames), watch, found, None)
    why = "" if undone else "It cannot be undone. "
    how = "as computed" if isinstance(expected, Clip) else "as computed again in another way"
    return _proof("as-computed", found, written.form.stored.bits, f"{why}The written file is {name} {how}")


def _proof(kind: ProofKind, found: Comparison, bits: int, claim: str) -> Proof:
    if found.different == 0:
        statement = f"{claim}: all {found.samples:,} samples are the same, to {bits} bits."
    else:
        statement = (
            f"{claim} but for {found.different:,} of {found.samples:,} samples, "
            f"residue at most {found.residual_dbfs} dBFS ({bits} bits)."
        )
    return Proof(
        kind=kind,
        exact=found.different == 0,
        bits=bits,
        residual_dbfs=found.residual_dbfs,
        samples=found.samples,
        different=found.different,
        statement=statement,
    )
