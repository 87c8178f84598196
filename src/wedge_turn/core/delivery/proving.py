"""Proves the files of one step while they are written, block by block as each is read back."""

import math
from collections.abc import Callable, Mapping, Sequence

import numpy as np

from wedge_turn.core.engine import Clip, Engine, Signal
from wedge_turn.core.errors import ProofFailedError
from wedge_turn.core.manifest import StepProof
from wedge_turn.core.plan import Step, step_ref
from wedge_turn.core.proof import Claim, Comparing, Comparison, Recomputed, as_computed, comes_back
from wedge_turn.core.rawblocks import Loader
from wedge_turn.core.turns import Outcome
from wedge_turn.core.writing import ToWrite, Watch, WrittenFile


class Proving:
    """The claims that a step's files have to meet. `items` are what is written of its results, by reference."""

    def __init__(
        self, engine: Engine, step: Step, items: Mapping[str, ToWrite], names: Mapping[str, str], watch: Watch
    ) -> None:
        self._engine = engine
        self._step = step
        self._items = items
        self._names = names
        self._watch = watch
        self._outcome = engine.sheet.outcomes[step.id]
        self._open: list[tuple[list[str], Claim, Comparing]] = []

    def begin(self, written: Sequence[Clip], loader: Loader) -> Callable[[int], None]:
        """What to tell how many frames of these files, in the order of the items, are written."""
        claims = self._claims(dict(zip(self._items, written, strict=True)))
        self._open = [(refs, claim, Comparing(claim.pairs, loader, self._watch)) for refs, claim in claims]

        def up_to(frames: int) -> None:
            for _, _, comparing in self._open:
                comparing.up_to(frames)

        return up_to

    def proofs(self, results: Mapping[str, WrittenFile]) -> list[StepProof]:
        """What was found. Raises ProofFailedError where a file is further off than its depth explains."""
        return [self._checked(refs, claim, comparing.found, results) for refs, claim, comparing in self._open]

    def _claims(self, written: Mapping[str, Clip]) -> Sequence[tuple[list[str], Claim]]:
        outcome, infos = self._outcome, self._engine.sheet.inputs(self._step)
        refs = [step_ref(self._step.id, n) for n in range(len(outcome.outputs))]
        inputs = [self._engine.clip(ref) for ref in self._step.inputs]
        if set(written) == set(refs) and outcome.way_back is not None:
            return [(refs, comes_back(outcome, inputs, infos, [written[ref] for ref in refs]))]
        undone = outcome.way_back is not None or outcome.computed
        return [
            ([ref], as_computed(self._expected(inputs, ref, refs.index(ref)), self._names[ref], clip, undone))
            for ref, clip in written.items()
        ]

    def _expected(self, inputs: Sequence[Clip], ref: str, output: int) -> Signal:
        """What a file should hold: as computed, or of a mix that only this can prove, computed in another way."""
        as_it_is = self._outcome.exact or self._outcome.computed
        return self._engine.clip(ref) if as_it_is else Recomputed(self._outcome, inputs, output)

    def _checked(
        self, used: Sequence[str], claim: Claim, found: Comparison, results: Mapping[str, WrittenFile]
    ) -> StepProof:
        """A result that is further off than its depth explains means that the disk or we are wrong."""
        proof = claim.proof(found)
        clipped = sum(sum(results[ref].clipped) for ref in used)
        if not clipped and found.largest > _bound(self._outcome, [self._items[ref] for ref in used], claim):
            raise ProofFailedError(f"{', '.join(self._names[ref] for ref in used)}: {proof.statement.rstrip('.')}")
        if clipped:
            told = f"{proof.statement} {clipped:,} samples did not fit and were clipped."
            proof = proof.model_copy(update={"statement": told})
        sheet, step = self._engine.sheet, self._step
        return StepProof(
            turn=step.turn.kind,
            sentence=step.turn.sentence(sheet.inputs(step)),
            files=[self._names[ref] for ref in used],
            key="|".join(sheet.key(ref) for ref in used),
            proof=proof,
        )


def _bound(outcome: Outcome, used: Sequence[ToWrite], claim: Claim) -> float:
    """The largest difference that rounding (half a step) and dither (a step more) explain; none where all fits."""
    steps = 0.0
    for item in used:
        if item.clip.fits(item.encoding):
            continue
        if item.encoding.is_float:
            return math.inf  # a float's step depends on the sample
        steps = max(steps, (0.5 if item.dither is None else 1.5) * 2.0 ** (1 - item.encoding.bits))
    if outcome.exact and not steps:
        return 0.0
    back = outcome.way_back if claim.kind == "comes-back" else None
    enlarged = 1.0 if back is None else float(np.abs(back).sum(axis=1).max())
    # What comes back is rounded once more, to the depth of what went in.
    rounded = max(
        (0.5 * 2.0 ** (1 - pair.grid.bits) for pair in claim.pairs if pair.grid and not pair.grid.is_float), default=0.0
    )
    # Sums in another order differ by some units of the last place of float64, far below any depth.
    return steps * enlarged + rounded + 2.0**-48
