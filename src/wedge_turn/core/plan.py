"""The worksheet as data: a frozen tuple of steps over sources. Pure, JSON in and out.

A step's inputs are sources or outputs of *earlier* steps, so no cycle can be written. Every change makes a
new plan.

    {"version": 2, "steps": [
        {"id": "…", "turn": {"kind": "merge", …}, "inputs": ["source:…", "step:…:0"], "names": []}
    ], "archived": ["source:…"], "pairings": [{"members": ["source:…", "source:…"], "together": true}]}
"""

import hashlib
import math
from collections.abc import Callable, Iterable, Iterator, Sequence
from copy import copy
from functools import lru_cache
from typing import Annotated, Any, Final, Literal, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints, ValidationError, model_validator

from wedge_turn.core.audio.encoding import Encoding
from wedge_turn.core.errors import BadRequestError, NotFoundError, TurnInputError
from wedge_turn.core.linear import HIGHEST_GAIN, Taps, at_least, composed, smallest_exact_encoding, taps_of
from wedge_turn.core.naming import cleaned_text, is_plain_text
from wedge_turn.core.stretch import Stretch, limited
from wedge_turn.core.turns import AnyTurn, ClipInfo, Outcome, WindowOutcome

MOST_INPUTS: Final = 64
REF: Final = r"^(source:[A-Za-z0-9_-]{1,64}|step:[A-Za-z0-9_-]{1,64}:[0-9]{1,3})$"
Ref = Annotated[str, StringConstraints(pattern=REF)]
Identity = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9_-]{1,64}$")]


def source_ref(source: str) -> str:
    return f"source:{source}"


def step_ref(step: str, output: int) -> str:
    return f"step:{step}:{output}"


def parse_ref(ref: str) -> tuple[Literal["source", "step"], str, int]:
    """What a reference points to: its kind, its id, and which output (0 for a source)."""
    kind, rest = ref.split(":", 1)
    if kind == "source":
        return "source", rest, 0
    step, output = rest.rsplit(":", 1)
    return "step", step, int(output)


def _is_text(text: str) -> str:
    if not is_plain_text(text):
        raise ValueError("a name holds text only, without control characters")
    return text


ResultName = Annotated[str, StringConstraints(max_length=200), AfterValidator(_is_text)]


class Step(BaseModel):
    """One line of the worksheet. `names` overrides what the results are called; empty strings keep the turn's. `over`
    is the stretch that the turn is limited to, None for all of it.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: Identity
    turn: AnyTurn
    inputs: tuple[Ref, ...] = Field(min_length=1, max_length=MOST_INPUTS)
    names: tuple[ResultName, ...] = Field(default=(), max_length=64)
    over: Stretch | None = None

    def outcome(self, inputs: Sequence[ClipInfo]) -> Outcome:
        """What comes out. Raises TurnInputError or RateDiffersError where these inputs cannot go in."""
        outcome = self.turn.outcome(inputs)
        return outcome if self.over is None else limited(self.over, self.turn.kind, inputs, outcome)

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        """What is done, and over what of it."""
        said = self.turn.sentence(inputs)
        return said if self.over is None else f"{said} {self.over.sentence(inputs[0].form)}"

    @property
    def words(self) -> str:
        """What is done in the fewest words."""
        return self.turn.words if self.over is None else f"{self.turn.words}, over a range"


class Pairing(BaseModel):
    """What the user said of sources that belong together by name: their order, or that they do not."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    members: tuple[Ref, ...] = Field(min_length=2, max_length=64)
    together: bool = True


class Plan(BaseModel):
    """The steps, which sources were put aside, and what was said by hand of sources that belong together."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    version: Literal[2] = 2
    steps: tuple[Step, ...] = ()
    archived: tuple[Ref, ...] = ()
    pairings: tuple[Pairing, ...] = ()

    @model_validator(mode="after")
    def _inputs_come_earlier(self) -> Self:
        earlier: set[str] = set()
        for step in self.steps:
            if step.id in earlier:
                raise ValueError(f"step {step.id} stands twice in the worksheet")
            for ref in step.inputs:
                kind, key, _ = parse_ref(ref)
                if kind == "step" and key not in earlier:
                    raise ValueError(f"step {step.id} uses {key}, which does not come before it")
            earlier.add(step.id)
        return self

    def step(self, step_id: str) -> Step:
        for step in self.steps:
            if step.id == step_id:
                return step
        raise NotFoundError("There is no such line in this worksheet")

    def _with(self, **changes: object) -> "Plan":
        try:
            return Plan.model_validate({**dict(self), **changes})
        except ValidationError as error:
            raise BadRequestError(str(error.errors()[0]["msg"]).removeprefix("Value error, ")) from error

    def adding(self, *steps: Step) -> "Plan":
        return self._with(steps=(*self.steps, *steps))

    def replacing(self, step: Step) -> "Plan":
        self.step(step.id)
        return self._with(steps=tuple(step if old.id == step.id else old for old in self.steps))

    def without(self, step_id: str) -> "Plan":
        """The plan without one of its steps. Raises TurnInputError while other steps use its results."""
        self.step(step_id)
        if users := [s for s in self.steps for ref in s.inputs if parse_ref(ref)[:2] == ("step", step_id)]:
            lines, them = ("1 later line uses", "it") if len(users) == 1 else (f"{len(users)} later lines use", "them")
            raise TurnInputError(f"{lines} this line's result: remove {them} first")
        return self._with(steps=tuple(step for step in self.steps if step.id != step_id))

    def archiving(self, refs: tuple[str, ...], *, archived: bool) -> "Plan":
        """Sources archived, which are not shown, or restored."""
        rest = tuple(ref for ref in self.archived if ref not in refs)
        return self._with(archived=(*rest, *refs) if archived else rest)

    def forgetting(self, source: str) -> "Plan":
        """The plan without anything said of a source. Raises TurnInputError while a step uses it."""
        gone = source_ref(source)
        if users := [step for step in self.steps if gone in step.inputs]:
            lines = "1 line uses" if len(users) == 1 else f"{len(users)} lines use"
            raise TurnInputError(f"{lines} this file: remove them from the worksheet first")
        pairings = tuple(pairing for pairing in self.pairings if gone not in pairing.members)
        return self._with(archived=tuple(ref for ref in self.archived if ref != gone), pairings=pairings)

    def pairing(self, pairing: Pairing) -> "Plan":
        """What was said by hand of these sources, instead of what was said before."""
        same = frozenset(pairing.members)
        rest = tuple(old for old in self.pairings if frozenset(old.members) != same)
        return self._with(pairings=(*rest, pairing))

    def ends(self, outputs: Callable[[Step], int]) -> Iterator[str]:
        """References to every result that no later step uses."""
        used = {ref for step in self.steps for ref in step.inputs}
        for step in self.steps:
            for n in range(outputs(step)):
                if (ref := step_ref(step.id, n)) not in used:
                    yield ref


def plan_of(stored: dict[str, Any]) -> Plan:
    """A plan from JSON of any version. Raises ValidationError, KeyError, TypeError or AttributeError for what is none.

    Version 1 called archived sources retired; names of results that came before there was a limit are cut to it.
    """
    steps = [{**step, "names": [cleaned_text(name, 200) for name in step["names"][:64]]} for step in stored["steps"]]
    plan = {**stored, "steps": steps}
    if stored.get("version") == 1:
        plan |= {"version": 2, "archived": plan.pop("retired", ())}
    return Plan.model_validate(plan)


def key_of(*parts: str) -> str:
    """One hash for all that decides the samples of a clip."""
    return hashlib.sha256("\0".join(parts).encode()).hexdigest()


@lru_cache(maxsize=1_000)
def _settings(turn: AnyTurn) -> str:
    """The turn as text; hundreds of lines of a worksheet often share it."""
    return turn.model_dump_json()


def _check_gains(name: str, taps: Taps[str]) -> None:
    """Refuse a chain of gains that is so high that samples would no longer be numbers."""
    if any(abs(tap.gain) > HIGHEST_GAIN for channel in taps for tap in channel):
        raise TurnInputError(f"the turns raise {name} by more than {20 * math.log10(HIGHEST_GAIN):.0f} dB in all")


class Sheet:
    """A plan worked out against its sources: the form and name of every clip, the outcome of every step."""

    def __init__(self, plan: Plan, sources: dict[str, ClipInfo], hashes: dict[str, str] | None = None) -> None:
        """`sources` by id; `hashes` are what the keys of clips are made of (the ids where none are given).

        Raises TurnInputError where a step cannot take its inputs, NotFoundError for a missing clip.
        """
        self.plan = plan
        self._infos: dict[str, ClipInfo] = {source_ref(key): info for key, info in sources.items()}
        self._keys = {source_ref(key): (hashes or {}).get(key, key) for key in sources}
        self.outcomes: dict[str, Outcome] = {}
        self._taps: dict[str, Taps[str]] = {
            ref: taps_of(ref, info.form.channels, info.form.frames) for ref, info in self._infos.items()
        }
        self._stored: dict[str, Encoding] = {ref: info.form.stored for ref, info in self._infos.items()}
        for step in plan.steps:
            self._work_out(step)

    def adding(self, *steps: Step) -> "Sheet":
        """A sheet with more steps at its end. Raises what working them out raises."""
        sheet = copy(self)
        sheet.plan = self.plan.adding(*steps)
        sheet.outcomes, sheet._infos, sheet._keys = dict(self.outcomes), dict(self._infos), dict(self._keys)
        sheet._taps, sheet._stored = dict(self._taps), dict(self._stored)
        for step in steps:
            sheet._work_out(step)
        return sheet

    def _work_out(self, step: Step) -> None:
        inputs = self.inputs(step)
        outcome = self.outcomes[step.id] = step.outcome(inputs)
        depths = [info.form.stored for info in inputs]
        for n, output in enumerate(outcome.outputs):
            ref = step_ref(step.id, n)
            given = step.names[n] if n < len(step.names) else ""
            if isinstance(outcome, WindowOutcome):
                # What is computed from many samples is a source of its own to the turns that follow.
                taps, encoding = (
                    taps_of(ref, output.form.channels, outcome.frames),
                    at_least(depths, step.turn.min_bits),
                )
                self._stored[ref] = encoding
            else:
                taps = composed(outcome, [self._taps[key] for key in step.inputs], n)
                _check_gains(inputs[0].name, taps)
                encoding = smallest_exact_encoding(taps, self._stored, depths, step.turn.extra_bits)
            self._infos[ref] = ClipInfo(
                given or output.name, output.form.model_copy(update={"encoding": encoding.name})
            )
            self._taps[ref] = taps
            self._keys[ref] = self.key_of_result(step.turn, step.inputs, n, step.over)

    def key_of_result(self, turn: AnyTurn, inputs: tuple[str, ...], output: int, over: Stretch | None = None) -> str:
        """The key of what a turn makes of these clips, whether or not the plan has such a step.

        What a clip is follows from its turn and its inputs. Names of inputs can decide what a turn does (which side
        is left), so they are part of the key; names of results change nothing about it.
        """
        names = [self.info(ref).name for ref in inputs]
        stretch = [] if over is None else [over.model_dump_json()]
        return key_of(_settings(turn), *stretch, *names, *(self.key(ref) for ref in inputs), str(output))

    def taps(self, ref: str) -> Taps[str]:
        """The clip as a linear form over the channels of sources, which are called by their references."""
        self.info(ref)
        return self._taps[ref]

    def info(self, ref: str) -> ClipInfo:
        try:
            return self._infos[ref]
        except KeyError:
            raise NotFoundError("The worksheet has no such clip") from None

    def key(self, ref: str) -> str:
        """A hash of everything that decides the samples of a clip: the same key, the same samples."""
        self.info(ref)
        return self._keys[ref]

    def inputs(self, step: Step) -> list[ClipInfo]:
        return [self.info(ref) for ref in step.inputs]

    def origins(self, refs: Iterable[str]) -> set[str]:
        """The ids of the sources that these clips are made from."""
        sources: set[str] = set()
        for ref in refs:
            kind, key, _ = parse_ref(ref)
            self.info(ref)
            sources |= {key} if kind == "source" else self.origins(self.plan.step(key).inputs)
        return sources

    def ends(self) -> list[str]:
        return list(self.plan.ends(lambda step: len(self.outcomes[step.id].outputs)))
