"""Evidence that a turn did what it says, taken from the files that were written.

`comes-back`: the written files are read again and the turn's way back is applied to them; what comes back is
compared with what went in, sample by sample. `as-computed`: the written file is compared with the clip
computed again; used where not all results of a turn were written, so that the way back cannot be walked.
The residue is the largest difference of any two samples, in dB relative to full scale.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from wedge_turn.core.audio.pcm import Raw
from wedge_turn.core.engine import Clip, apply
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


def compare(a: Clip, b: Clip, start: int, stop: int, watch: Watch, into: Comparison) -> None:
    """Compare two clips of as many channels over frames [start, stop)."""
    encoding = b.form.stored
    raw_a, raw_b = RawBlocks.of(a, encoding), RawBlocks.of(b, encoding)
    as_bytes = raw_a is not None and raw_b is not None
    step = block_frames(len(b.channels)) if as_bytes else FLOAT_BLOCK
    buffers = np.empty((2, step * len(b.channels) * encoding.width if as_bytes else 0), np.uint8)
    for at in range(start, stop, step):
        frames = min(step, stop - at)
        into.samples += frames * len(b.channels)
        if raw_a is not None and raw_b is not None:
            one, two = buffers[:, : frames * raw_a.block_align]
            raw_a.read_into(one, at)
            raw_b.read_into(two, at)
            same = _equal(one, two)
        else:
            same = False
        if not same:
            apart = np.abs(a.read(at, frames) - b.read(at, frames))
            into.different += int(np.count_nonzero(apart))
            into.largest = max(into.largest, float(apart.max(initial=0.0)))
        watch(frames * len(b.channels))


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
    row = 0
    for clip, info, offset in zip(inputs, infos, outcome.offsets, strict=True):
        rows = back[row : row + clip.form.channels]
        row += clip.form.channels
        returning = Outcome((Output(info.name, clip.form),), rows, (-offset,) * len(written), clip.form.frames)
        (returned,) = apply(returning, written)
        # What a trim left out cannot come back; everything that was kept must.
        first, last = max(0, -offset), min(clip.form.frames, outcome.frames - offset)
        compare(returned, clip, first, last, watch, found)
    bits = min(w.form.stored.bits for w in written)
    names = " and ".join(info.name for info in infos) if len(infos) < 4 else f"all {len(infos)} inputs"
    return _proof("comes-back", found, bits, f"Taken back, the written files give {names} again")


def prove_computed(clip: Clip, name: str, written: Clip, watch: Watch) -> Proof:
    """Compare one written clip with the clip computed again."""
    found = Comparison()
    compare(written, clip, 0, clip.form.frames, watch, found)
    bits = written.form.stored.bits
    return _proof("as-computed", found, bits, f"The written file is {name} as computed")


def _proof(kind: ProofKind, found: Comparison, bits: int, claim: str) -> Proof:
    if found.different == 0:
        statement = f"{claim}: all {found.samples:,} samples are the same, to {bits} bits."
    else:
        statement = (
            f"{claim} but for {found.different:,} of {found.samples:,} samples, "
            f"residue at most {found.residual_dbfs} dBFS ({bits} bits written)."
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
