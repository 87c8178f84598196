"""Has the files of one step proved by `wedge_turn.proof`, once they are written, and says in sentences what was found.

A file that is not what was computed for it stops the delivery. What is said of the others is `round-trip` where all
results of a turn that can be undone are there and hold what was computed to the last bit: converted back they are what
went in, or of a centre add up to it. Otherwise it is `recomputed`.
"""

import math
import threading
from collections.abc import Mapping, Sequence
from typing import Final

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.clips import Engine, start_computation
from wedge_turn.core.delivery.manifest import Evidence, StepProof
from wedge_turn.core.delivery.parallel import WORKERS
from wedge_turn.core.delivery.proof import Proof, ProofKind
from wedge_turn.core.delivery.to_prove import build_evidence, build_recipe, describe_written
from wedge_turn.core.delivery.writing import ToWrite, Watch, WrittenFile
from wedge_turn.core.errors import ProofFailedError, naming_disk_errors
from wedge_turn.core.naming import join_words
from wedge_turn.core.pages import Pages
from wedge_turn.core.turns import Computation, WindowOutcome
from wedge_turn.core.worksheet import Sheet, Step
from wedge_turn.proof import Failure, Fresh, Heard, Proved, prove

PROVING: Final = 2  # threads to a group of files: several groups are proved side by side


def prove_files(
    engine: Engine,
    items: Mapping[str, ToWrite],
    names: Mapping[str, str],
    written: Mapping[str, WrittenFile],
    watch: Watch,
) -> tuple[dict[str, Proved], Evidence]:
    """Prove the files of one step, or of one source, by reference; what was found, and by what numbers.

    Raises ProofFailedError, or what `watch` raises.
    """
    recipe = build_recipe(engine, list(items))
    files = [describe_written(ref, item, written[ref], recipe) for ref, item in items.items()]
    loudest = [at for result in written.values() for at in result.loudest]
    with naming_disk_errors(files[0].path.name):
        fresh = compute_afresh(engine.sheet)
        try:
            proofs = prove(recipe, files, fresh, loudest, min(PROVING, WORKERS), watch)
        except (Failure, EOFError) as failure:
            failed = ProofFailedError(str(failure))
            failed.file = failure.file.path.name if isinstance(failure, Failure) else None
            raise failed from failure
    evidence = build_evidence(recipe, files, [names[ref] for ref in items], engine)
    return dict(zip(items, proofs, strict=True)), evidence


def compute_afresh(sheet: Sheet) -> Fresh:
    """What computes a step anew, of what the proof itself has read, in pages that nobody has computed yet."""
    computed: dict[str, tuple[Pages, Computation]] = {}
    lock = threading.Lock()

    def fresh(key: str, heard: Heard, start: int, frames: int) -> NDArray[np.float64]:
        step, outcome = sheet.plan.step(key), sheet.outcomes[key]
        with lock:
            if key not in computed:
                computation = start_computation(step, heard, sheet.info(step.inputs[0]))
                computed[key] = Pages(computation.page, outcome.frames, computation.size), computation
        pages, computation = computed[key]
        parts = zip(computation.results, outcome.outputs, strict=True)
        return np.hstack([pages.read(start, frames, part, output.form.channels) for part, output in parts])

    return fresh


def state_proofs(
    engine: Engine,
    steps: Sequence[Step],
    items: Mapping[str, ToWrite],
    names: Mapping[str, str],
    written: Mapping[str, WrittenFile],
    proved: Mapping[str, Proved],
    encoded_as: str | None = None,
) -> list[StepProof]:
    """What the proof has shown, in sentences. The last of `steps` made these files; `encoded_as` is the format that the
    proved samples were encoded in, and decoded again.
    """
    statements = _Statements(engine, steps, items, names, written, proved, encoded_as)
    if next(iter(proved.values())).back is not None:
        return [statements.of_all()]
    return [statements.of_one(ref) for ref in items]


class _Statements:
    def __init__(
        self,
        engine: Engine,
        steps: Sequence[Step],
        items: Mapping[str, ToWrite],
        names: Mapping[str, str],
        written: Mapping[str, WrittenFile],
        proved: Mapping[str, Proved],
        encoded_as: str | None,
    ) -> None:
        self._sheet, self._steps, self._items, self._names = engine.sheet, steps, items, names
        self._written, self._proved = written, proved
        self._again = f" The {encoded_as} decodes to exactly these samples." if encoded_as else ""
        self._step = steps[-1] if steps else None

    def of_all(self) -> StepProof:
        """All results of a turn that has a way back."""
        refs = list(self._items)
        if self._proved[refs[0]].back == "adds up":
            return self._proof(
                refs, "round-trip", self._afresh(refs[0]), f" Together they add up to {self._input_names}."
            )
        if self._only_moves:
            return self._proof(refs, "round-trip", f"Converted back and compared with {self._input_names}")
        return self._proof(
            refs,
            "round-trip",
            "Recomputed from the sources",
            f" Converted back, they give {self._input_names} exactly.",
        )

    def of_one(self, ref: str) -> StepProof:
        step = self._step
        if step is None:
            text = f"Compared with the source {self._sheet.info(ref).name}"
        elif self._proved[ref].afresh is not None:
            text = self._afresh(ref)
        else:
            text = "Recomputed from the sources"
        outcome = self._sheet.outcomes[step.id] if step else None
        has_no_inverse = outcome is not None and outcome.inverse is None and not isinstance(outcome, WindowOutcome)
        return self._proof(
            [ref], "recomputed", text, " The original can't be recovered from it." if has_no_inverse else ""
        )

    @property
    def _only_moves(self) -> bool:
        """Whether samples were only moved, or turned over: comparing them is converting them back."""
        return self._step is not None and self._sheet.outcomes[self._step.id].exact

    @property
    def _input_names(self) -> str:
        """What went in, as far as it was kept."""
        assert self._step is not None
        outcome, infos = self._sheet.outcomes[self._step.id], self._sheet.inputs(self._step)
        offsets, prefix, at = outcome.offsets, "", 0
        for info in infos:
            for offset in offsets[at : at + info.form.channels]:
                if offset < 0 or offset + info.form.frames > outcome.frames:
                    prefix = "what was kept of "
            at += info.form.channels
        return prefix + join_words([info.name for info in infos])

    def _afresh(self, ref: str) -> str:
        anew, places = self._proved[ref].afresh or (0, 0)
        return f"Computed afresh in {anew:,} of {places:,} {'place' if places == 1 else 'places'}"

    def _proof(self, refs: Sequence[str], kind: ProofKind, text: str, after: str = "") -> StepProof:
        results = [self._written[ref].found or self._proved[ref].found for ref in refs]
        samples, rounded = sum(result.samples for result in results), sum(result.rounded for result in results)
        largest = max(result.largest for result in results)
        residual = round(20 * math.log10(largest), 2) if largest > 0 else None
        comes_back = self._proved[refs[0]].back == "identical"
        encoding = self._items[refs[0]].encoding
        afresh = self._proved[refs[0]].afresh is not None
        how = "identical" if afresh else f"all {samples:,} samples identical"
        dithered = ", dither included" if any(self._items[ref].dither is not None for ref in refs) else ""
        statement = f"{text}{dithered}: {how} ({encoding.text})."
        if rounded:
            error = f"{residual:.1f}".replace("-", "−")
            statement += f" Rounded to {encoding.text}: {rounded:,} samples, by {error} dBFS at most."
        clipped = sum(sum(self._written[ref].clipped) for ref in refs)
        damaged = sum({source: source.damaged for ref in refs for source in self._items[ref].clip.sources}.values())
        statement += after + self._again + _count(clipped, " {was} clipped.")
        statement += _count(damaged, " of the source {was} damaged and written as silence.")
        if any(self._proved[ref].read_back == "cache" for ref in refs):
            statement += " Read back from the system cache, not from the disk."
        sheet, steps = self._sheet, self._steps
        sentences = [step.sentence(sheet.inputs(step)) for step in steps]
        return StepProof(
            turn=steps[0].turn.kind if steps else "none",
            sentence=" ".join(sentences) or f"{sheet.info(refs[0]).name}, unchanged.",
            files=[self._names[ref] for ref in refs],
            key=proof_key([sheet.key(ref) for ref in refs]),
            proof=Proof(
                kind=kind,
                exact=comes_back or rounded == 0,
                bits=encoding.bits,
                depth=encoding.text,
                residual_dbfs=None if comes_back else residual,
                samples=samples,
                different=0 if comes_back else rounded,
                statement=statement,
            ),
        )


def proof_key(keys: Sequence[str]) -> str:
    """What a proof is filed under: the keys of the clips that it is about, in order."""
    return "|".join(keys)


def _count(samples: int, rest: str) -> str:
    """A sentence about so many samples; nothing about none."""
    if not samples:
        return ""
    return " 1 sample" + rest.format(was="was") if samples == 1 else f" {samples:,} samples" + rest.format(was="were")
