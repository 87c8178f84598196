"""Edits, moved sliders, drafts, names, deliveries, undo, redo and restore by two clients, against a model that knows
nothing but lists.
"""

from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from support.helpers import noise, take, write_wav
from wedge_turn.core.errors import NothingToDoError, StaleError
from wedge_turn.core.turns import Swap
from wedge_turn.core.worksheet import (
    Plan,
    Sheet,
    Step,
    bypass_lines,
    duplicate_line,
    insert_line,
    remove_line,
    restore_line,
    source_ref,
    step_ref,
)
from wedge_turn.store import Store
from wedge_turn.store.order import StoredOrder
from wedge_turn.tasks.clips import ClipService

LINES = 20


@dataclass(frozen=True)
class Line:
    """A line of the model: what it takes is the source, "", or another line."""

    key: str
    takes: str
    bypassed: bool = False


Lines = tuple[Line, ...]


@dataclass
class Known:
    """A revision of the model. A hidden one was replaced while a slider moved, or is a draft that nobody took."""

    lines: Lines
    parent: int | None
    redo: int | None = None
    hidden: bool = False
    named: bool = False
    delivered: bool = False


class Histories(RuleBasedStateMachine):
    @initialize()
    def start(self) -> None:
        self.folder = TemporaryDirectory()
        self.store = Store(Path(self.folder.name) / "data")
        self.job = self.store.jobs.create("Lamp")
        wav = write_wav(Path(self.folder.name) / "w.wav", noise(1, 10, 2))
        self.source = source_ref(take(self.store, self.job.id, wav.read_bytes()).id)
        self.clips = ClipService(self.store)
        self.ids = [self.job.head_id]
        self.model = [Known((), None)]
        self.head = 0
        self.bases = [self.job.head_id] * 2  # what each client has seen last
        self.made = 0
        # So many lines that most revisions are stored by what differs from an earlier one.
        many = tuple(Line(f"many-{n}", "") for n in range(LINES))
        new = [Step(id=line.key, turn=Swap(), inputs=(self.source,)) for line in many]
        self._edit(0, lambda sheet: sheet.plan.with_step(*new), many)

    def teardown(self) -> None:
        self.store.close()
        self.folder.cleanup()

    def _do(self, client: int, act: Any) -> bool:
        """Let a client act on what it has seen. Where that is not the head it is refused, and looks again."""
        head = self.store.jobs.get(self.job.id).head_id
        try:
            act(self.bases[client])
            assert self.bases[client] == head
        except StaleError:
            assert self.bases[client] != head
            self.bases[client] = head
            return False
        self.bases[client] = self.store.jobs.get(self.job.id).head_id
        return True

    def _edit(self, client: int, change: Any, lines: Lines, *, slides: bool = False) -> None:
        def act(base: str) -> None:
            amends = base if slides else None
            self.clips.change(self.job.id, base, lambda sheet: (change(sheet), "Edited"), amends)

        if not self._do(client, act):
            return
        was, new = self.model[self.head], len(self.model)
        if slides and was.parent is not None and not was.named and not was.delivered and not self._made_on(self.head):
            was.hidden = True
            self.model.append(Known(lines, was.parent))
            self.model[was.parent].redo = new
        else:
            self.model.append(Known(lines, self.head))
            was.redo = new
        self.head = new
        self.ids.append(self.bases[client])

    def _made_on(self, place: int) -> bool:
        return any(one.parent == place and not one.hidden for one in self.model)

    def _show(self, place: int) -> None:
        self.head = place
        self.model[place].hidden = False

    @precondition(lambda self: self.lines)
    @rule(client=st.integers(0, 1), at=st.integers(0, 9), times=st.integers(1, 12))
    def slide(self, client: int, at: int, times: int) -> None:
        key = self.lines[at % len(self.lines)].key
        for _ in range(times):
            line = next((one for one in self.lines if one.key == key), None)
            if line is None:
                return
            now = replace(line, bypassed=not line.bypassed)
            self._edit(
                client,
                lambda sheet, now=now: bypass_lines(sheet, [now.key], bypassed=now.bypassed),
                tuple(now if one.key == key else one for one in self.lines),
                slides=True,
            )

    @rule(client=st.integers(0, 1))
    def draft(self, client: int) -> None:
        self.made += 1
        new = Line(f"s{self.made}", "")
        step = Step(id=new.key, turn=Swap(), inputs=(self.source,))
        made: list[str] = []

        def act(base: str) -> None:
            change = self.clips.change
            made.append(change(self.job.id, base, lambda sheet: (sheet.plan.with_step(step), "Edited"), draft=True).id)

        if self._do(client, act):
            self.model.append(Known((*self.lines, new), self.head, hidden=True))
            self.ids.append(made[0])

    @rule(of=st.integers(0, 30))
    def name(self, of: int) -> None:
        place = of % len(self.ids)
        if not self.model[place].hidden:
            self.store.worksheets.name(self.job.id, self.ids[place], f"version {place}")
            self.model[place].named = True

    @rule(of=st.integers(0, 30))
    def deliver(self, of: int) -> None:
        place = of % len(self.ids)
        if not self.model[place].hidden:
            self.store.deliveries.create(self.job.id, self.ids[place], StoredOrder(refs=(self.source,)))
            self.model[place].delivered = True

    @property
    def lines(self) -> Lines:
        return self.model[self.head].lines

    def _ref(self, key: str) -> str:
        return step_ref(key, 0) if key else self.source

    @rule(client=st.integers(0, 1), on=st.integers(0, 9))
    def add(self, client: int, on: int) -> None:
        takes = ["", *(line.key for line in self.lines)][on % (len(self.lines) + 1)]
        self.made += 1
        new = Line(f"s{self.made}", takes)

        def change(sheet: Sheet) -> Plan:
            return sheet.plan.with_step(Step(id=new.key, turn=Swap(), inputs=(self._ref(takes),)))

        self._edit(client, change, (*self.lines, new))

    @precondition(lambda self: self.lines)
    @rule(client=st.integers(0, 1), at=st.integers(0, 9))
    def remove(self, client: int, at: int) -> None:
        gone = self.lines[at % len(self.lines)]
        rest = tuple(
            replace(line, takes=gone.takes) if line.takes == gone.key else line for line in self.lines if line != gone
        )
        self._edit(client, lambda sheet: remove_line(sheet, [gone.key]), rest)

    @precondition(lambda self: self.lines)
    @rule(client=st.integers(0, 1), at=st.integers(0, 9))
    def insert(self, client: int, at: int) -> None:
        place = at % len(self.lines)
        before = self.lines[place]
        self.made += 1
        new = Line(f"s{self.made}", before.takes)
        lines = (*self.lines[:place], new, replace(before, takes=new.key), *self.lines[place + 1 :])

        def change(sheet: Sheet) -> Plan:
            return insert_line(sheet, Step(id=new.key, turn=Swap(), inputs=(self._ref(new.takes),)), before=before.key)

        self._edit(client, change, lines)

    @precondition(lambda self: self.lines)
    @rule(client=st.integers(0, 1), at=st.integers(0, 9))
    def bypass(self, client: int, at: int) -> None:
        line = self.lines[at % len(self.lines)]
        now = replace(line, bypassed=not line.bypassed)
        self._edit(
            client,
            lambda sheet: bypass_lines(sheet, [line.key], bypassed=now.bypassed),
            tuple(now if one == line else one for one in self.lines),
        )

    @precondition(lambda self: self.lines)
    @rule(client=st.integers(0, 1), at=st.integers(0, 9))
    def duplicate(self, client: int, at: int) -> None:
        place = at % len(self.lines)
        self.made += 1
        copy = replace(self.lines[place], key=f"s{self.made}")
        lines = (*self.lines[: place + 1], copy, *self.lines[place + 1 :])
        self._edit(client, lambda sheet: duplicate_line(sheet, {self.lines[place].key: copy.key}), lines)

    @rule(client=st.integers(0, 1))
    def undo(self, client: int) -> None:
        try:
            if self._do(client, lambda base: self.store.worksheets.undo(self.job.id, base)):
                parent = self.model[self.head].parent
                assert parent is not None
                self.model[parent].redo = self.head
                self._show(parent)
        except NothingToDoError:
            assert self.model[self.head].parent is None

    @rule(client=st.integers(0, 1))
    def redo(self, client: int) -> None:
        try:
            if self._do(client, lambda base: self.store.worksheets.redo(self.job.id, base)):
                after = self.model[self.head].redo
                assert after is not None
                self._show(after)
        except NothingToDoError:
            assert self.model[self.head].redo is None

    @rule(client=st.integers(0, 1), of=st.integers(0, 30), at=st.integers(0, 30))
    def restore_a_line(self, client: int, of: int, at: int) -> None:
        """Of an earlier version, where it was there and took the source: what took it then and does no more, again."""
        place = of % len(self.ids)
        lines = [line for line in self.model[place].lines if not line.takes]
        if not lines or self.ids[place] not in self.store.worksheets.ids(self.job.id):
            return
        was = lines[at % len(lines)]
        then = self.clips.sheet(self.job.id, self.ids[place])
        now = {line.key for line in self.lines}
        expected = tuple(was if line.key == was.key else line for line in self.lines)
        if was.key not in now:
            earlier = [line.key for line in self.model[place].lines]
            before = [key for key in earlier[: earlier.index(was.key)] if key in now]
            keys = [line.key for line in self.lines]
            stands = max((keys.index(key) + 1 for key in before), default=0)
            took = {line.key for line in self.model[place].lines if line.takes == was.key}
            again = tuple(
                replace(line, takes=was.key) if line.key in took and not line.takes else line
                for line in self.lines[stands:]
            )
            expected = (*self.lines[:stands], was, *again)
        self._edit(client, lambda sheet: restore_line(sheet, then, was.key), expected)

    @rule(client=st.integers(0, 1), to=st.integers(0, 30))
    def restore(self, client: int, to: int) -> None:
        """Any revision that is there: hidden ones for a while."""
        place = to % len(self.ids)
        if self.ids[place] not in self.store.worksheets.ids(self.job.id):
            return
        draft_of_the_head = self.model[place].hidden and self.model[place].parent == self.head
        if self._do(client, lambda base: self.store.worksheets.go_to(self.job.id, self.ids[place], base)):
            if draft_of_the_head:
                self.model[self.head].redo = place
            self._show(place)

    @invariant()
    def nothing_is_lost(self) -> None:
        """Every revision that is shown is there, with all that it was made on, and every delivery."""
        known = self.store.worksheets.ids(self.job.id)
        for place, one in enumerate(self.model):
            if not one.hidden:
                chain: int | None = place
                while chain is not None:
                    assert self.ids[chain] in known
                    chain = self.model[chain].parent
        shown = {self.ids[place] for place, one in enumerate(self.model) if not one.hidden}
        assert {revision.id for revision in self.store.worksheets.all(self.job.id)} == shown
        delivered = {self.ids[place] for place, one in enumerate(self.model) if one.delivered}
        assert {delivery.revision_id for delivery in self.store.deliveries.for_job(self.job.id)} == delivered

    @invariant()
    def the_worksheet_is_that_of_the_model(self) -> None:
        revision = self.store.worksheets.head(self.job.id)
        assert revision.id == self.ids[self.head]
        steps = self.store.worksheets.plan(self.job.id, revision.id).steps
        assert [(step.id, step.inputs, step.bypassed) for step in steps] == [
            (line.key, (self._ref(line.takes),), line.bypassed) for line in self.lines
        ]


Histories.TestCase.settings = settings(max_examples=12, stateful_step_count=40, deadline=None)
TestHistories = Histories.TestCase
