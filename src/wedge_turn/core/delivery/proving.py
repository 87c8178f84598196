"""Proves the files that are written side by side, block by block while they grow."""

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from wedge_turn.core.delivery.manifest import StepProof
from wedge_turn.core.delivery.proof import (
    Allowance,
    Claim,
    Comparison,
    FileChecker,
    PairComparer,
    Recomputed,
    as_computed,
    as_it_came,
    comes_back,
)
from wedge_turn.core.delivery.rawblocks import Loader, block_frames
from wedge_turn.core.delivery.writing import ToWrite, Watch, WrittenFile
from wedge_turn.core.engine import Clip, Engine, Signal
from wedge_turn.core.errors import ProofFailedError
from wedge_turn.core.plan import Step, parse_ref, step_ref
from wedge_turn.core.turns import Outcome, WindowOutcome


class Proving:
    """What the results of one step, or one source, have to be. `items` are what is written, by reference."""

    def __init__(
        self,
        engine: Engine,
        steps: Sequence[Step],
        items: Mapping[str, ToWrite],
        names: Mapping[str, str],
        watch: Watch,
    ) -> None:
        """`steps` are what is told of these files: the step that made them is the last."""
        self._engine = engine
        self._steps = steps
        self._step = steps[-1] if steps else None
        self._items = items
        self._names = names
        self._watch = watch
        self._reached = 0
        self._channels = sum(item.form.channels for item in items.values())
        self._files: dict[str, tuple[Claim, FileChecker]] = {}
        self._returned: _WayBack | None = None

    def begin(self, written: Sequence[Clip], loader: Loader) -> Callable[[int], None]:
        """What to tell how many frames of these files, in the order of the items, are written."""
        clips = dict(zip(self._items, written, strict=True))
        for ref, clip in clips.items():
            item = self._items[ref]
            computed = self._computed(ref, item)
            allowance = Allowance(item.encoding, item.exact, item.dither is not None, item.sparing)
            self._files[ref] = self._claim(ref, computed, clip), FileChecker(clip, computed, allowance, loader)
        self._returned = self._way_back(clips, loader)
        return self._up_to

    def proofs(self, results: Mapping[str, WrittenFile], encoded_as: str | None = None) -> list[StepProof]:
        """What was found. `encoded_as` is the format that the proved samples were encoded in, and decoded again."""
        again = f" The {encoded_as} decodes to exactly these samples." if encoded_as else ""
        if self._returned is not None:
            return [self._proof(list(self._items), self._returned.claim, self._returned.found, results, again)]
        return [
            self._proof([ref], claim, checker.found, results, again) for ref, (claim, checker) in self._files.items()
        ]

    def _up_to(self, written: int) -> None:
        """Check all that is written by now. Raises ProofFailedError where a block is not what it should be."""
        step = block_frames(self._channels)
        while self._reached < written:
            frames = min(step, written - self._reached)
            returned = self._returned is not None and self._returned.compare(self._reached, frames)
            for ref, (_, checker) in self._files.items():
                if not returned and not checker.holds(self._reached, frames):
                    where = f"frames {self._reached:,} to {self._reached + frames:,}"
                    raise ProofFailedError(f"{self._names[ref]} does not match what was computed for it ({where})")
            self._watch(frames * self._channels)
            self._reached += frames

    def _computed(self, ref: str, item: ToWrite) -> Signal:
        """What a file should hold; of a turn that mixes, computed in another way than it was written."""
        outcome = self._outcome
        if outcome is None or isinstance(outcome, WindowOutcome) or (outcome.exact and item.exact):
            return self._engine.clip(ref)
        return Recomputed(outcome, self._inputs(), parse_ref(ref)[2])

    def _claim(self, ref: str, computed: Signal, written: Clip) -> Claim:
        encoding = written.form.stored
        if self._outcome is None:
            return as_it_came(self._engine.sheet.info(ref).name, encoding)
        undone = self._outcome.inverse is not None or isinstance(self._outcome, WindowOutcome)
        return as_computed(computed, self._names[ref], encoding, undone)

    def _way_back(self, written: Mapping[str, Clip], loader: Loader) -> "_WayBack | None":
        """The way back of the turn, where there is one and all of its results are written."""
        outcome, step = self._outcome, self._step
        if outcome is None or step is None or outcome.inverse is None:
            return None
        refs = [step_ref(step.id, n) for n in range(len(outcome.outputs))]
        if set(written) != set(refs):
            return None
        infos = self._engine.sheet.inputs(step)
        claim = comes_back(outcome, self._inputs(), infos, [written[ref] for ref in refs])
        return _WayBack(claim, loader, _says_all(outcome) and all(item.exact for item in self._items.values()))

    def _inputs(self) -> list[Clip]:
        return [self._engine.clip(ref) for ref in self._step.inputs] if self._step else []

    @property
    def _outcome(self) -> Outcome | None:
        return self._engine.sheet.outcomes[self._step.id] if self._step else None

    def _proof(
        self,
        used: Sequence[str],
        claim: Claim,
        found: Comparison,
        results: Mapping[str, WrittenFile],
        again: str,
    ) -> StepProof:
        clipped = sum(sum(results[ref].clipped) for ref in used)
        damaged = sum({source: source.damaged for ref in used for source in self._items[ref].clip.sources}.values())
        notes = again + _count(clipped, " {was} clipped.")
        notes += _count(damaged, " of the source {was} damaged and written as silence.")
        if any(results[ref].read_back == "cache" for ref in used):
            notes += " Read back from the system cache, not from the disk."
        sheet, steps = self._engine.sheet, self._steps
        sentences = [step.sentence(sheet.inputs(step)) for step in steps]
        return StepProof(
            turn=steps[0].turn.kind if steps else "none",
            sentence=" ".join(sentences) or f"{sheet.info(used[0]).name}, unchanged.",
            files=[self._names[ref] for ref in used],
            key=proof_key([sheet.key(ref) for ref in used]),
            proof=claim.proof(found, notes),
        )


class _WayBack:
    """Turns written files back and compares them with what went in."""

    def __init__(self, claim: Claim, loader: Loader, says_all: bool) -> None:
        """`says_all` is whether what came back unchanged leaves nothing in the files unproved."""
        self.claim = claim
        self.found = Comparison()
        self._says_all = says_all
        self._comparers = [PairComparer(pair, loader, self.found) for pair in claim.pairs]

    def compare(self, at: int, frames: int) -> bool:
        """Compare what frames [at, at + frames) of the files give back; whether that proves these frames."""
        proved = self._says_all
        for comparer in self._comparers:
            span, lag = comparer.pair.span, comparer.pair.lag
            start, stop = max(span[0], at - lag), min(span[1], at + frames - lag)
            same = stop <= start or comparer.compare(start, stop - start)
            proved = proved and same and stop - start == frames
        return proved


def proof_key(keys: Sequence[str]) -> str:
    """What a proof is filed under: the keys of the clips that it is about, in order."""
    return "|".join(keys)


def _says_all(outcome: Outcome) -> bool:
    """Whether the inputs leave no sample of the outputs open: every output channel has a way back of its own."""
    if isinstance(outcome, WindowOutcome):
        return False
    each_once = bool((np.count_nonzero(outcome.matrix, axis=1) == 1).all())
    return each_once if outcome.exact else outcome.matrix.shape[0] == outcome.matrix.shape[1]


def _count(samples: int, rest: str) -> str:
    """A sentence about so many samples; nothing about none."""
    if not samples:
        return ""
    return " 1 sample" + rest.format(was="was") if samples == 1 else f" {samples:,} samples" + rest.format(was="were")
