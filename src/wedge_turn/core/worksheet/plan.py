"""The worksheet as data: a frozen tuple of steps over sources. Pure, JSON in and out.

A step's inputs are sources or outputs of *earlier* steps, so no cycle can be written. An input that was removed stays
as `lost:` and the name it had: its step waits for another. Every change makes a new plan.

    {"version": 3, "steps": [
        {"id": "…", "turn": {"kind": "merge", …}, "inputs": ["source:…", "step:…:0"], "names": [], "bypassed": false}
    ], "archived": ["source:…"], "pairings": [{"members": ["source:…", "source:…"], "together": true}],
    "dismissed": [{"ref": "source:…", "code": "delay"}]}
"""

from collections.abc import Callable, Mapping, Sequence
from typing import Annotated, Any, Final, Literal, Self

import numpy as np
from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints, ValidationError, model_validator

from wedge_turn.core.errors import BadRequestError, NotFoundError, TurnInputError
from wedge_turn.core.naming import clean_text, is_plain_text
from wedge_turn.core.turns import AnyTurn, ClipInfo, Outcome, matrix_outcome
from wedge_turn.core.worksheet.stretch import Stretch, limit_to_range

MAX_INPUTS: Final = 64
REF: Final = r"^(source:[A-Za-z0-9_-]{1,64}|step:[A-Za-z0-9_-]{1,64}:[0-9]{1,3}|lost:[^\x00-\x1f\x7f]{1,200})$"
Ref = Annotated[str, StringConstraints(pattern=REF)]
Identity = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9_-]{1,64}$")]


def source_ref(source: str) -> str:
    return f"source:{source}"


def step_ref(step: str, output: int) -> str:
    return f"step:{step}:{output}"


def lost_ref(name: str) -> str:
    """What stands for an input that is gone, by the name it had."""
    return f"lost:{clean_text(name, 200) or 'a file'}"


def parse_ref(ref: str) -> tuple[Literal["source", "step", "lost"], str, int]:
    """What a reference points to: its kind, its id (the name of what was lost), and which output (0 for a source)."""
    kind, rest = ref.split(":", 1)
    if kind == "source":
        return "source", rest, 0
    if kind == "lost":
        return "lost", rest, 0
    step, output = rest.rsplit(":", 1)
    return "step", step, int(output)


def _is_text(text: str) -> str:
    if not is_plain_text(text):
        raise ValueError("a name holds text only, without control characters")
    return text


Reason = Annotated[str, StringConstraints(max_length=500), AfterValidator(_is_text)]
ResultName = Annotated[str, StringConstraints(max_length=200), AfterValidator(_is_text)]


class Step(BaseModel):
    """One line of the worksheet. `names` overrides what the results are called; empty strings keep the turn's. `over`
    is the stretch that the turn is limited to, None for all of it. What goes into a bypassed step comes out of it.
    `reason` is why it was suggested, where it was.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: Identity
    turn: AnyTurn
    inputs: tuple[Ref, ...] = Field(min_length=1, max_length=MAX_INPUTS)
    names: tuple[ResultName, ...] = Field(default=(), max_length=64)
    over: Stretch | None = None
    bypassed: bool = False
    reason: Reason = ""

    def outcome(self, inputs: Sequence[ClipInfo]) -> Outcome:
        """What comes out. Raises TurnInputError or RateDiffersError where these inputs cannot go in."""
        outcome = self.turn.outcome(inputs)
        if self.bypassed:
            return _passed(self.turn.kind, inputs, outcome)
        return outcome if self.over is None else limit_to_range(self.over, self.turn.kind, inputs, outcome)

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        """What is done, and over what of it."""
        if self.bypassed:
            return f"Bypassed: {inputs[0].name} passes unchanged."
        sentence = self.turn.sentence(inputs)
        return sentence if self.over is None else f"{sentence} {self.over.sentence(inputs[0].form)}"

    @property
    def words(self) -> str:
        """What is done in the fewest words."""
        if self.bypassed:
            return f"{self.turn.words}, bypassed"
        return self.turn.words if self.over is None else f"{self.turn.words}, over a range"


def _passed(kind: str, inputs: Sequence[ClipInfo], outcome: Outcome) -> Outcome:
    """The outcome of a turn that is bypassed: what went in. Raises TurnInputError where more than one clip goes in or
    comes out.
    """
    if len(inputs) != 1 or len(outcome.outputs) != 1:
        raise TurnInputError(f"{kind} can't be bypassed: only a turn of one file into one file can")
    return matrix_outcome(inputs[0], np.eye(inputs[0].form.channels), outcome.outputs[0].name)


class Dismissal(BaseModel):
    """A finding, by its code, that the user has dismissed for a clip."""

    model_config = ConfigDict(frozen=True)

    ref: Ref
    code: Annotated[str, StringConstraints(pattern=r"^[a-z0-9-]{1,64}$")]


class Pairing(BaseModel):
    """What the user said of sources that belong together by name: their order, or that they do not."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    members: tuple[Ref, ...] = Field(min_length=2, max_length=64)
    together: bool = True


class Plan(BaseModel):
    """The steps, which sources are archived, how sources were paired by hand, and which
    findings were dismissed.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    version: Literal[3] = 3
    steps: tuple[Step, ...] = ()
    archived: tuple[Ref, ...] = ()
    pairings: tuple[Pairing, ...] = ()
    dismissed: tuple[Dismissal, ...] = ()

    @model_validator(mode="after")
    def _inputs_come_earlier(self) -> Self:
        earlier: set[str] = set()
        for step in self.steps:
            if step.id in earlier:
                raise ValueError(f"step {step.id} appears twice in the worksheet")
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

    def with_changes(self, **changes: object) -> "Plan":
        try:
            return Plan.model_validate({**dict(self), **changes})
        except ValidationError as error:
            raise BadRequestError(str(error.errors()[0]["msg"]).removeprefix("Value error, ")) from error

    def with_step(self, *steps: Step) -> "Plan":
        return self.with_changes(steps=(*self.steps, *steps))

    def with_replaced_step(self, step: Step) -> "Plan":
        self.step(step.id)
        return self.with_changes(steps=tuple(step if old.id == step.id else old for old in self.steps))

    def with_archived(self, refs: tuple[str, ...], *, archived: bool) -> "Plan":
        """Sources archived, which are not shown, or restored."""
        rest = tuple(ref for ref in self.archived if ref not in refs)
        return self.with_changes(archived=(*rest, *refs) if archived else rest)

    def without_source(self, source: str) -> "Plan":
        """The plan without anything said of a source; what its steps take is the caller's to replace."""
        removed = source_ref(source)
        return self.with_changes(
            pairings=tuple(pairing for pairing in self.pairings if removed not in pairing.members),
            archived=tuple(ref for ref in self.archived if ref != removed),
            dismissed=tuple(dismissal for dismissal in self.dismissed if dismissal.ref != removed),
        )

    def with_dismissals(self, dismissals: Sequence[Dismissal], *, dismissed: bool) -> "Plan":
        """Findings dismissed, or asked about again."""
        rest = tuple(dismissal for dismissal in self.dismissed if dismissal not in dismissals)
        return self.with_changes(dismissed=(*rest, *dismissals) if dismissed else rest)

    def with_pairing(self, pairing: Pairing) -> "Plan":
        """What was said by hand of these sources, instead of what was said before."""
        same = frozenset(pairing.members)
        rest = tuple(old for old in self.pairings if frozenset(old.members) != same)
        return self.with_changes(pairings=(*rest, pairing))


def with_new_ids(
    steps: Sequence[Step], new_id: Callable[[], str], instead: Mapping[str, str] | None = None
) -> tuple[Step, ...]:
    """Steps under new ids, which take each other's results by these; other references are exchanged as `instead`
    says.
    """
    ids = {step.id: new_id() for step in steps}

    def exchanged(ref: str) -> str:
        kind, key, output = parse_ref(ref)
        return step_ref(ids[key], output) if kind == "step" and key in ids else (instead or {}).get(ref, ref)

    return tuple(
        step.model_copy(update={"id": ids[step.id], "inputs": tuple(exchanged(ref) for ref in step.inputs)})
        for step in steps
    )


def read_plan(stored: dict[str, Any]) -> Plan:
    """A plan from JSON of any version. Raises ValidationError, KeyError, TypeError or AttributeError for what is none.

    Version 1 called archived sources retired, version 2 knew no bypassed steps and no dismissed findings; names of
    results that came before there was a limit are cut to it.
    """
    steps = [{**step, "names": [clean_text(name, 200) for name in step["names"][:64]]} for step in stored["steps"]]
    plan = {**stored, "steps": steps}
    if stored.get("version") == 1:
        plan |= {"version": 2, "archived": plan.pop("retired", ())}
    if plan.get("version") == 2:
        plan |= {"version": 3}
    return Plan.model_validate(plan)
