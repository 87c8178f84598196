"""Evidence that a turn did what it says, taken from the files that were written.

Every block of every file must hold what it should: either the written files, turned back, give exactly what went in,
or each sample lies within its tolerance of the value computed for it anew, in another way than for writing where the
turn mixes: step by step from its own inputs, by matrix products of whole blocks, instead of by collapsed taps. The
tolerance is

    0                   where the depth holds the sample as it is
    half a step         where it was rounded to an integer
    one and a half      where triangular dither of ±1 step was added first; where most samples are those that went
                        in, only to those that the depth doesn't hold
    1 ulp               where it was rounded to a float

and a value that exceeds what the encoding stores is expected at its rail. What is said of the files is `comes-back`
where all results of a turn that can be undone are there: turned back they are compared with what went in, rounded to
its depth. Otherwise it is `as-computed`: the file against the values computed for it.

The residue is the largest difference of any two samples, in dB relative to full scale.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from wedge_turn.core.audio.encoding import Encoding
from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.pcm import Block, rails, rounded, step
from wedge_turn.core.delivery.evidence import Proof, ProofKind
from wedge_turn.core.delivery.mixing import IntegerMix
from wedge_turn.core.delivery.rawblocks import Loader, RawBlocks
from wedge_turn.core.engine import Clip, Signal, apply, side_by_side
from wedge_turn.core.turns import ClipInfo, MatrixOutcome, Outcome, Output

FLOAT_BLOCK: Final = 32_768
LAST_PLACES: Final = 2.0**-48  # by which sums of float64 in another order may differ, relative to the largest


@dataclass
class Comparison:
    """The running result of comparing clips."""

    samples: int = 0
    different: int = 0
    largest: float = 0.0

    def add(self, different: int, largest: float) -> None:
        self.different += different
        self.largest = max(self.largest, largest)

    @property
    def residual_dbfs(self) -> float | None:
        return round(20 * math.log10(self.largest), 2) if self.largest > 0 else None


@dataclass(frozen=True)
class Allowance:
    """How far a written sample may be from the value computed for it."""

    encoding: Encoding
    exact: bool
    dithered: bool
    sparing: bool = False

    def holds(self, written: Block, computed: Block, magnitude: float) -> bool:
        """Whether every sample is what it should be; both (frames, channels). `magnitude` is the largest value that was
        added up: sums in another order differ by some units of its last place.
        """
        expected = np.clip(computed, *rails(self.encoding))
        allowed: Block | float = LAST_PLACES * max(1.0, magnitude)
        if self.encoding.is_float:
            single = np.float32 if self.encoding.name == "f32" else np.float64
            allowed = 0.0 if self.exact else allowed + np.spacing(np.abs(expected).astype(single)).astype(np.float64)
        elif not self.exact:
            off_grid: Block | float = 1.0
            if self.sparing:
                # A bare rounding error makes no whole step: what was meant as one is that to the bit.
                off_grid = expected != rounded(expected, self.encoding)
            allowed += off_grid * ((1.5 if self.dithered else 0.5) * step(self.encoding))
        return bool((np.abs(written - expected) <= allowed).all())  # NaN is within nothing


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
    """What is said of written files: that these pairs are the same, as stored in this encoding."""

    kind: ProofKind
    pairs: Sequence[Pair]
    encoding: Encoding
    text: str

    def proof(self, found: Comparison, notes: str = "") -> Proof:
        """What comparing the pairs has shown; `notes` are sentences to add to the statement."""
        if found.different == 0:
            statement = f"{self.text}: all {found.samples:,} samples identical ({self.encoding.text})."
        else:
            statement = (
                f"{self.text} except for {found.different:,} of {found.samples:,} samples, "
                f"residue at most {found.residual_dbfs} dBFS ({self.encoding.text})."
            )
        return Proof(
            kind=self.kind,
            exact=found.different == 0,
            bits=self.encoding.bits,
            depth=self.encoding.text,
            residual_dbfs=found.residual_dbfs,
            samples=found.samples,
            different=found.different,
            statement=statement + notes,
        )


class PairComparer:
    """Compares one pair stretch by stretch: as bytes, as integers, or as samples, whichever says the same sooner."""

    def __init__(self, pair: Pair, loader: Loader, found: Comparison) -> None:
        self.pair = pair
        self._found = found
        one, two, grid = pair.one, pair.two, pair.grid
        self._raw = self._mixes = None
        if isinstance(two, Clip):
            raws = RawBlocks.of(one, two.form.stored, loader), RawBlocks.of(two, two.form.stored, loader)
            self._raw = (raws[0], raws[1]) if raws[0] and raws[1] else None
            if self._raw is None and grid is not None:
                mixes = IntegerMix.of(one, grid, loader), IntegerMix.of(two, grid, loader)
                self._mixes = (mixes[0], mixes[1]) if mixes[0] and mixes[1] and mixes[1].is_rearranged else None

    def compare(self, start: int, frames: int) -> bool:
        """Compare a stretch and add to what was found; whether both are exactly the same, before any rounding."""
        self._found.samples += frames * len(self.pair.one.channels)
        if self._raw and self._raw[0].same_as(self._raw[1], start, frames):
            return True
        if self._mixes and all(mix.covers(start, frames) for mix in self._mixes):
            same, different, largest = self._mixes[0].compared_with(self._mixes[1], start, frames)
            self._found.add(different, largest)
            return same
        blocks = [(at, min(FLOAT_BLOCK, start + frames - at)) for at in range(start, start + frames, FLOAT_BLOCK)]
        compared = [self._compare_samples(*block) for block in blocks]  # all of them, to count what differs
        return all(compared)

    def _compare_samples(self, start: int, frames: int) -> bool:
        one, two = self.pair.one.read(start, frames), self.pair.two.read(start, frames)
        off = np.abs(rounded(one, self.pair.grid) - two)
        self._found.add(int(np.count_nonzero(off)), float(off.max(initial=0.0)))
        return np.array_equal(one, two)


class FileChecker:
    """Compares one written file with what was computed for it, within its tolerance."""

    def __init__(self, written: Clip, computed: Signal, allowance: Allowance, loader: Loader) -> None:
        self.found = Comparison()
        self._written = written
        self._computed = computed
        self._allowance = allowance
        self._raw: tuple[RawBlocks, RawBlocks] | None = None
        if isinstance(computed, Clip) and allowance.exact:
            raws = [RawBlocks.of(clip, allowance.encoding, loader) for clip in (written, computed)]
            self._raw = (raws[0], raws[1]) if raws[0] and raws[1] else None

    def holds(self, start: int, frames: int) -> bool:
        """Whether a stretch of the file holds what it should."""
        self.found.samples += frames * len(self._written.channels)
        if self._raw and self._raw[0].same_as(self._raw[1], start, frames):
            return True
        blocks = [(at, min(FLOAT_BLOCK, start + frames - at)) for at in range(start, start + frames, FLOAT_BLOCK)]
        holds = [self._block_holds(*block) for block in blocks]
        return all(holds)

    def _block_holds(self, start: int, frames: int) -> bool:
        written, computed = self._written.read(start, frames), self._computed.read(start, frames)
        magnitude = self._computed.magnitude if isinstance(self._computed, Recomputed) else 0.0
        off = np.abs(written - computed)
        off[off <= LAST_PLACES * magnitude] = 0.0  # the same value, added up in another order
        self.found.add(int(np.count_nonzero(off)), float(off.max(initial=0.0)))
        return self._allowance.holds(written, computed, magnitude)


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
    back = outcome.inverse
    if back is None:
        raise ValueError("this outcome has no way back")
    pairs = []
    for clip, channels, offset in _together(_by_place(inputs, outcome.offsets)):
        rows = back[channels]
        count = sum(len(file.channels) for file in written)
        form = clip.form
        returning = MatrixOutcome((Output("", form),), rows, (-offset,) * count, form.frames)
        (returned,) = apply(returning, written)
        # What a trim left out cannot come back; everything that was kept must.
        span = max(0, -offset), min(form.frames, outcome.frames - offset)
        pairs.append(Pair(returned, clip, span, None if outcome.exact else form.stored, offset))
    stored = min((clip.form.stored for clip in (written if outcome.exact else inputs)), key=lambda e: (e.bits, e.width))
    names = " and ".join(info.name for info in infos) if len(infos) < 4 else f"all {len(infos)} inputs"
    whole = all(pair.span == (0, pair.two.form.frames) for pair in pairs)
    given = names if whole else f"what was kept of {names}"
    return Claim("comes-back", pairs, stored, f"Converted back, the written files match {given}")


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

    def __init__(self, outcome: MatrixOutcome, inputs: Sequence[Clip], output: int) -> None:
        self.form: Form = outcome.outputs[output].form
        first = sum(earlier.form.channels for earlier in outcome.outputs[:output])
        self._rows = outcome.matrix[first : first + self.form.channels]
        self._places = _by_place(inputs, outcome.offsets)
        self._frames = outcome.frames
        self.magnitude = 1.0  # the largest value that was added up so far

    def read(self, start: int, frames: int) -> Block:
        """Samples as float64 (frames, channels); silence outside the clip."""
        out = np.zeros((frames, self.form.channels))
        for clip, columns, offset in self._places:
            block, rows = clip.mixed(start - offset, frames), self._rows[:, columns]
            out += block @ rows.T
            highest = float(np.abs(block).max(initial=0.0)) * float(np.abs(rows).sum(axis=1).max(initial=0.0))
            self.magnitude = max(self.magnitude, highest)
        out[: max(0, -start)] = 0
        out[max(0, self._frames - start) :] = 0
        return out


def as_computed(computed: Signal, name: str, encoding: Encoding, undone: bool) -> Claim:
    """That a written clip is what it should be. `undone` says whether the turn has a way back at all."""
    why = "" if undone else "The original can't be recovered from the result. "
    how = "as computed" if isinstance(computed, Clip) else "as computed again, another way"
    return Claim("as-computed", (), encoding, f"{why}The written file matches {name} {how}")


def as_it_came(name: str, encoding: Encoding) -> Claim:
    """That a file holds the samples of a source."""
    return Claim("as-computed", (), encoding, f"The written file matches the source {name}")
