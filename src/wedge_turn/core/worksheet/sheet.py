"""A worksheet worked out against its sources: what every clip is, and what every line makes.

A step waits where an input is gone, or was changed into something that it doesn't take; so does every step that takes
its results. They have no outcome until what they need is there again.
"""

import hashlib
import math
from collections.abc import Iterable, Iterator, Sequence
from copy import copy
from dataclasses import replace
from functools import lru_cache

from wedge_turn.core.errors import NotFoundError, RateDiffersError, TurnInputError
from wedge_turn.core.form import Encoding
from wedge_turn.core.turns import (
    AnyTurn,
    ClipInfo,
    Finding,
    Outcome,
    WindowOutcome,
    accepts_channels,
    describe_accepted,
)
from wedge_turn.core.worksheet.linear import MAX_GAIN, Taps, at_least, compose, make_taps, smallest_exact_encoding
from wedge_turn.core.worksheet.plan import Plan, Step, parse_ref, source_ref, step_ref
from wedge_turn.core.worksheet.stretch import Stretch


def hash_key(*parts: str) -> str:
    """One hash for all that decides the samples of a clip."""
    return hashlib.sha256("\0".join(parts).encode()).hexdigest()


@lru_cache(maxsize=1_000)
def _settings(turn: AnyTurn) -> str:
    """The turn as text, with the revision of what it computes; hundreds of lines of a worksheet often share it."""
    fields = type(turn).model_fields
    settings = turn.model_dump_json(
        exclude={name for name in turn.added_later if getattr(turn, name) == fields[name].default}
    )
    return settings if turn.revision == 1 else f"{settings} {turn.revision}"


def _check_gains(name: str, taps: Taps[str]) -> None:
    """Refuse a chain of gains that is so high that samples would no longer be numbers."""
    if any(abs(tap.gain) > MAX_GAIN for channel in taps for tap in channel):
        raise TurnInputError(f"the turns raise {name} by more than {20 * math.log10(MAX_GAIN):.0f} dB in all")


class Sheet:
    """A plan worked out against its sources: the form and name of every clip, the outcome of every step."""

    def __init__(self, plan: Plan, sources: dict[str, ClipInfo], hashes: dict[str, str] | None = None) -> None:
        """`sources` by id; `hashes` are what the keys of clips are made of (the ids where none are given)."""
        self.plan = plan
        self._given, self._hashes = sources, hashes
        self.sources = tuple(sources)
        # Steps that have no outcome, and what they wait for.
        self.waiting: dict[str, str] = {}
        # Those of them that can't take what their inputs are, and why.
        self.refusals: dict[str, TurnInputError] = {}
        self._infos: dict[str, ClipInfo] = {source_ref(key): info for key, info in sources.items()}
        self._keys = {source_ref(key): (hashes or {}).get(key, key) for key in sources}
        self.outcomes: dict[str, Outcome] = {}
        self._taps: dict[str, Taps[str]] = {
            ref: make_taps(ref, info.form.channels, info.form.frames) for ref, info in self._infos.items()
        }
        self._stored: dict[str, Encoding] = {ref: info.form.stored for ref, info in self._infos.items()}
        self._origins: dict[str, frozenset[str]] = {source_ref(key): frozenset({key}) for key in sources}
        for step in plan.steps:
            self._work_out(step)

    @property
    def identified(self) -> bool:
        """Whether keys stand for samples: sources are known by their hashes."""
        return self._hashes is not None

    def with_plan(self, plan: Plan) -> "Sheet":
        """Another plan worked out against the same sources."""
        return Sheet(plan, self._given, self._hashes)

    def with_step(self, *steps: Step) -> "Sheet":
        """A sheet with more steps at its end. Raises TurnInputError where one of them can't take its inputs."""
        sheet = self.appending(*steps)
        sheet.require(step.id for step in steps)
        return sheet

    def appending(self, *steps: Step) -> "Sheet":
        """A sheet with more steps at its end, which wait where they can't take their inputs."""
        sheet = copy(self)
        sheet.plan = self.plan.with_step(*steps)
        sheet.outcomes, sheet._infos, sheet._keys = dict(self.outcomes), dict(self._infos), dict(self._keys)
        sheet._taps, sheet._stored, sheet._origins = dict(self._taps), dict(self._stored), dict(self._origins)
        sheet.waiting, sheet.refusals = dict(self.waiting), dict(self.refusals)
        for step in steps:
            sheet._work_out(step)
        return sheet

    def require(self, ids: Iterable[str]) -> None:
        """Raises TurnInputError where one of these steps can't take what its inputs are."""
        for key in ids:
            if key in self.refusals:
                error = self.refusals[key]
                error.line = next(n for n, step in enumerate(self.plan.steps, 1) if step.id == key)
                raise error

    def subset(self, refs: Iterable[str]) -> "Sheet":
        """The worksheet of what these clips are made from and nothing else."""
        refs = list(refs)
        steps = {step.id for ref in refs for step in self.lineage(ref)}
        used = self.origins(refs)
        return Sheet(
            Plan(steps=tuple(step for step in self.plan.steps if step.id in steps)),
            {key: self._given[key] for key in self.sources if key in used},
            None if self._hashes is None else {key: self._hashes[key] for key in used},
        )

    def _work_out(self, step: Step) -> None:
        for ref in step.inputs:
            if ref not in self._infos:
                self.waiting[step.id] = name = self.name_of(ref)
                kind, key, _ = parse_ref(ref)
                if kind == "step" and key in self.outcomes:
                    self.refusals[step.id] = TurnInputError(f"{name} is not there")
                return
        try:
            self._make(step)
        except TurnInputError as error:
            self.refusals[step.id] = error
            self.waiting[step.id] = _describe_need(step, self.inputs(step), error)

    def _make(self, step: Step) -> None:
        """Work out the results of a step whose inputs are there. Raises TurnInputError where it can't take them."""
        inputs = self.inputs(step)
        outcome = step.outcome(inputs)
        outcome = replace(outcome, findings=(*outcome.findings, *_find_incomplete(inputs)))
        depths = [info.form.stored for info in inputs]
        results: list[tuple[Taps[str], Encoding]] = []
        for n, output in enumerate(outcome.outputs):
            if isinstance(outcome, WindowOutcome):
                # What is computed from many samples is a source of its own to the turns that follow.
                taps = make_taps(step_ref(step.id, n), output.form.channels, outcome.frames)
                results.append((taps, at_least(depths, step.turn.min_bits)))
            else:
                taps = compose(outcome, [self._taps[key] for key in step.inputs], n)
                _check_gains(inputs[0].name, taps)
                extra_bits = 0 if step.bypassed else step.turn.extra_bits
                results.append((taps, smallest_exact_encoding(taps, self._stored, depths, extra_bits)))
        self.outcomes[step.id] = outcome
        origins = frozenset().union(*(self._origins[ref] for ref in step.inputs))
        for n, (output, (taps, encoding)) in enumerate(zip(outcome.outputs, results, strict=True)):
            ref = step_ref(step.id, n)
            chosen = step.names[n] if n < len(step.names) else ""
            form = output.form.model_copy(update={"encoding": encoding.name, "broken_off": None})
            self._infos[ref] = ClipInfo(chosen or output.name, form)
            self._taps[ref], self._origins[ref] = taps, origins
            self._keys[ref] = self._key_of(step, n)
            if isinstance(outcome, WindowOutcome):
                self._stored[ref] = encoding

    def _key_of(self, step: Step, output: int) -> str:
        if step.bypassed:
            return hash_key("bypassed", self.key(step.inputs[0]))
        return self.key_of_result(step.turn, step.inputs, output, step.over)

    def key_of_result(self, turn: AnyTurn, inputs: tuple[str, ...], output: int, over: Stretch | None = None) -> str:
        """The key of what a turn makes of these clips, whether or not the plan has such a step.

        What a clip is follows from its turn and its inputs. Names of inputs can decide what a turn does (which side
        is left), so they are part of the key; names of results change nothing about it.
        """
        names = [self.info(ref).name for ref in inputs]
        stretch = [] if over is None else [over.model_dump_json()]
        return hash_key(_settings(turn), *stretch, *names, *(self.key(ref) for ref in inputs), str(output))

    def taps(self, ref: str) -> Taps[str]:
        """The clip as a linear form over the channels of sources, which are called by their references."""
        self.info(ref)
        return self._taps[ref]

    def info(self, ref: str) -> ClipInfo:
        """Raises NotFoundError for a clip that the worksheet doesn't have."""
        try:
            return self._infos[ref]
        except KeyError:
            raise NotFoundError(
                f"The worksheet doesn't have {self.name_of(ref)}",
                help="A line above makes it no longer, or waits: choose another file.",
            ) from None

    def name_of(self, ref: str) -> str:
        """What a clip is called: what was lost by the name it had, what a waiting step would make by what it lacks,
        what a step doesn't make any more by its number.
        """
        if ref in self._infos:
            return self._infos[ref].name
        kind, key, output = parse_ref(ref)
        if kind == "lost":
            return key
        if kind == "source":
            return "a deleted file"
        line = next((n for n, step in enumerate(self.plan.steps, 1) if step.id == key), None)
        if line is None:
            return "the result of a deleted line"
        return self.waiting.get(key) or f"result {output + 1} of line {line}"

    def check(self, refs: Iterable[str]) -> None:
        """Raises NotFoundError for a clip that the worksheet doesn't have."""
        for ref in refs:
            self.info(ref)

    def key(self, ref: str) -> str:
        """A hash of everything that decides the samples of a clip: the same key, the same samples."""
        self.info(ref)
        return self._keys[ref]

    def inputs(self, step: Step) -> list[ClipInfo]:
        return [self.info(ref) for ref in step.inputs]

    def origins(self, refs: Iterable[str]) -> set[str]:
        """The ids of the sources that these clips are made from."""
        self.check(refs := list(refs))
        return {key for ref in refs for key in self._origins[ref]}

    def outputs(self, step: Step) -> tuple[str, ...]:
        """References to what a step makes; none while it waits."""
        outcome = self.outcomes.get(step.id)
        return tuple(step_ref(step.id, n) for n in range(len(outcome.outputs))) if outcome else ()

    def unused_sources(self) -> list[str]:
        """The ids of sources that no step takes and that are not archived."""
        used = {ref for step in self.plan.steps for ref in step.inputs} | set(self.plan.archived)
        return [key for key in self.sources if source_ref(key) not in used]

    def lineage(self, ref: str) -> list[Step]:
        """The steps that a clip went through, in the order of the worksheet."""
        visited: set[str] = set()
        refs = [ref]
        while refs:
            kind, key, _ = parse_ref(refs.pop())
            if kind == "step" and key not in visited:
                visited.add(key)
                refs += self.plan.step(key).inputs
        return [step for step in self.plan.steps if step.id in visited]

    def list_ends(self) -> list[str]:
        """References to every result that no later step uses. A step that waits uses nothing."""
        working = [step for step in self.plan.steps if step.id not in self.waiting]
        used = {ref for step in working for ref in step.inputs}
        return [ref for step in working for ref in self.outputs(step) if ref not in used]


def _find_incomplete(inputs: Iterable[ClipInfo]) -> Iterator[Finding]:
    """Which files that a step takes are incomplete."""
    for name, form in ((info.name, info.form) for info in inputs):
        if form.broken_off is not None:
            length = form.broken_off.describe(form.rate)
            yield Finding(
                code="incomplete",
                message=f"{name} is incomplete: {length}. What is made from it is proved up to that point.",
                measured={"frames": form.broken_off.frames},
            )


def _describe_need(step: Step, inputs: Sequence[ClipInfo], error: TurnInputError) -> str:
    """What a step that can't take its inputs waits for, in a few words."""
    if isinstance(error, RateDiffersError):
        return "files of one sample rate"
    fitting = accepts_channels(step.turn.accepts, [info.form.channels for info in inputs])
    return "other inputs or settings" if fitting else describe_accepted(step.turn.accepts)
