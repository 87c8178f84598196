"""The worksheet as data: a frozen tuple of steps over sources. Pure, JSON in and out.

A step's inputs are sources or outputs of *earlier* steps, so no cycle can be written. Every change makes a
new plan.

    {"version": 1, "steps": [
        {"id": "…", "turn": {"kind": "merge", …}, "inputs": ["source:…", "step:…:0"], "names": []}
    ]}
"""

import hashlib
from collections.abc import Callable, Iterator
from typing import Annotated, Final, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, model_validator

from wedge_turn.core.errors import NotFoundError, TurnInputError
from wedge_turn.core.turns import AnyTurn, ClipInfo, Outcome

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


class Step(BaseModel):
    """One line of the worksheet. `names` overrides what the results are called; empty strings keep the turn's."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: Identity
    turn: AnyTurn
    inputs: tuple[Ref, ...] = Field(min_length=1, max_length=64)
    names: tuple[str, ...] = ()


class Plan(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    version: Literal[1] = 1
    steps: tuple[Step, ...] = ()

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
        raise NotFoundError("There is no such step in this worksheet")

    def adding(self, step: Step) -> "Plan":
        return Plan(steps=(*self.steps, step))

    def replacing(self, step: Step) -> "Plan":
        self.step(step.id)
        return Plan(steps=tuple(step if old.id == step.id else old for old in self.steps))

    def without(self, step_id: str) -> "Plan":
        """The plan with one step taken out. Raises TurnInputError while other steps use its results."""
        self.step(step_id)
        if users := [s for s in self.steps for ref in s.inputs if parse_ref(ref)[:2] == ("step", step_id)]:
            raise TurnInputError(f"{len(users)} later step(s) use what this step makes: take those out first")
        return Plan(steps=tuple(step for step in self.steps if step.id != step_id))

    def ends(self, outputs: Callable[[Step], int]) -> Iterator[str]:
        """References to every result that no later step uses."""
        used = {ref for step in self.steps for ref in step.inputs}
        for step in self.steps:
            for n in range(outputs(step)):
                if (ref := step_ref(step.id, n)) not in used:
                    yield ref


def key_of(*parts: str) -> str:
    """One hash for all that decides the samples of a clip."""
    return hashlib.sha256("\0".join(parts).encode()).hexdigest()


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
        for step in plan.steps:
            outcome = step.turn.outcome([self.info(ref) for ref in step.inputs])
            self.outcomes[step.id] = outcome
            # What a clip is follows from its turn and its inputs; names of results change nothing about it.
            basis = [step.turn.model_dump_json(), *self._told(step), *(self._keys[r] for r in step.inputs)]
            for n, output in enumerate(outcome.outputs):
                given = step.names[n] if n < len(step.names) else ""
                ref = step_ref(step.id, n)
                self._infos[ref] = ClipInfo(given or output.name, output.form)
                self._keys[ref] = key_of(*basis, str(n))

    def _told(self, step: Step) -> list[str]:
        # Names of inputs can decide what a turn does (which side is left), so they are part of the key.
        return [self._infos[ref].name for ref in step.inputs]

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

    def ends(self) -> list[str]:
        return list(self.plan.ends(lambda step: len(self.outcomes[step.id].outputs)))
