"""Clips of a job's worksheet and what is computed about them: worked-out sheets, engines, pictures, measures,
findings.
"""

import json
import shutil
import threading
from collections.abc import Callable, Collection, Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Any, Final, TypeVar

from wedge_turn.core.clips import Clip, Engine, make_clip
from wedge_turn.core.delivery import cannot_clip
from wedge_turn.core.errors import BadRequestError, Error
from wedge_turn.core.findings import Judgement, evaluate_clip, find_clips_to_measure
from wedge_turn.core.form import Form
from wedge_turn.core.measure import Lateness, Measures, draw_pictures, measure_delays, measure_signal
from wedge_turn.core.naming import stem
from wedge_turn.core.pages import Pages
from wedge_turn.core.recent import LruCache
from wedge_turn.core.turns import ClipInfo
from wedge_turn.core.worksheet import Plan, Sheet, parse_ref, remove_source, source_ref, step_ref, with_new_ids
from wedge_turn.store import Store
from wedge_turn.store.rows import Revision, Source, new_id
from wedge_turn.store.sources import recorded_of

MAX_SHEETS: Final = 12  # a worksheet of 500 lines takes some megabytes
MAX_PAGED: Final = 4  # window turns that are listened to at once; twelve megabytes each
MAX_DELAYS: Final = 64
T = TypeVar("T")
Change = Callable[[Sheet], tuple[Plan, str]]


@dataclass(frozen=True)
class WorkedOut:
    """The sheet of a revision; where it cannot be worked out, one without lines, and why."""

    sheet: Sheet
    problem: str | None


class ClipService:
    def __init__(self, store: Store) -> None:
        self._store = store
        self._lock = threading.Lock()  # guards what is under way
        self._pages_lock = threading.Lock()
        self._sheets: LruCache[tuple[str, tuple[str, ...]], Sheet] = LruCache(MAX_SHEETS)
        self._pages: LruCache[str, Pages] = LruCache(MAX_PAGED)
        self._lateness: LruCache[str, list[Lateness]] = LruCache(MAX_DELAYS)
        self._under_way: dict[str, threading.Lock] = {}

    # Worksheets

    def sheet(self, job_id: str, revision_id: str) -> Sheet:
        """The worksheet of a revision, worked out. Raises UnreadableError or NotFoundError."""
        sources = self._store.sources.for_job(job_id)
        key = revision_id, tuple(source.id for source in sources)
        return self._sheets.get_or_make(
            key, lambda: sheet_of(self._store.worksheets.plan(job_id, revision_id), sources)
        )

    def sheet_or_reason(self, job_id: str, revision_id: str) -> WorkedOut:
        """What to show of a revision: nothing that one line cannot do takes the job with it."""
        try:
            return WorkedOut(self.sheet(job_id, revision_id), None)
        except Error as error:
            self._store.worksheets.get(job_id, revision_id)  # one that is not there at all is the caller's error
            return WorkedOut(sheet_of(Plan(), self._store.sources.for_job(job_id)), error.message)

    def change(
        self,
        job_id: str,
        base: str,
        change: Change,
        amends: str | None = None,
        edited: str | None = None,
        *,
        draft: bool = False,
    ) -> Revision:
        """Make a new revision. `change` is given the worksheet of `base`, worked out; it returns plan and label. A
        `draft` leaves the head where it is.

        Raises StaleError unless `base` is the head, and TurnInputError where a new line, or the one that was `edited`,
        can't take its inputs. Other lines that can't take theirs any more wait.
        """
        self._store.worksheets.check_head(job_id, base)  # before anything is refused that another change has caused
        before = self.sheet(job_id, base)
        plan, label = change(before)
        sheet = before.with_plan(plan)
        old = {step.id for step in before.plan.steps} - {edited}
        sheet.require(step.id for step in plan.steps if step.id not in old | before.refusals.keys())
        worksheets = self._store.worksheets
        revision = (
            worksheets.add_draft(job_id, base, plan, label)
            if draft
            else worksheets.add(job_id, base, plan, label, amends)
        )
        self._sheets.put((revision.id, before.sources), sheet)
        return revision

    def delete_source(self, job_id: str, source_id: str, base: str) -> Revision:
        """Delete a source for good, and forget what was said of it by hand: lines that use it wait for another. Raises
        StaleError unless `base` is the head.
        """
        self._store.reserve.give_up()
        source = self._store.sources.get(job_id, source_id)
        label = f"Deleted {stem(source.name)}"
        revision = self.change(job_id, base, lambda sheet: (remove_source(sheet, source_id), label))
        self._store.delete_source(job_id, source.id)
        return revision

    def copy_from(
        self, job_id: str, base: str, origin: tuple[str, str], source_ids: Collection[str], step_ids: Collection[str]
    ) -> None:
        """Copy files and lines of another job, given with its revision as `origin`, into this one. Lines bring what
        they are made from. Raises StaleError unless `base` is the head, BadRequestError for a copy into the same job.
        """
        from_job, revision = origin
        if from_job == job_id:
            raise BadRequestError("Copy into another job; in the same one, duplicate the lines")
        self._store.worksheets.check_head(job_id, base)
        sheet = self.sheet(from_job, revision)
        chosen = {step.id for key in step_ids for step in sheet.lineage(step_ref(sheet.plan.step(key).id, 0))}
        steps = [step for step in sheet.plan.steps if step.id in chosen]
        used = {parse_ref(ref)[1] for step in steps for ref in step.inputs if parse_ref(ref)[0] == "source"}
        copies = self._store.copy_sources(from_job, [*source_ids, *(used & set(sheet.sources))], job_id)
        if steps:
            instead = {source_ref(old): source_ref(new.id) for old, new in copies.items()}
            new = with_new_ids(steps, lambda: new_id()[:12], instead)
            count = f"{len(new)} lines" if len(new) > 1 else "a line"
            label = f"Copied {count} from {self._store.jobs.get(from_job).name}"
            self.change(job_id, base, lambda into: (into.plan.with_step(*new), label))

    def engine(self, job_id: str, revision_id: str) -> Engine:
        """An engine for the clips of a revision."""
        sources = {source.id: source for source in self._store.sources.for_job(job_id)}

        def open_source(source_id: str) -> Any:
            source = sources[source_id]
            return self._store.media.open(source.media, source.name)

        return Engine(self.sheet(job_id, revision_id), open_source, self._remembered_pages)

    # What is computed about clips

    def clip_of(self, source: Source) -> Clip:
        """A source as a clip, without its job; its key is the hash of its bytes."""
        form = Form.model_validate(source.form)
        return replace(make_clip(self._store.media.open(source.media, source.name)), form=form)

    def pictures(self, key: str, clip: Clip) -> Path:
        """The folder of a clip's pictures, drawn now if they aren't yet; two who ask draw once."""
        folder = self._store.media.pictures(key)
        if not folder.exists():
            with self._single_flight(f"pictures {key}"):
                if not folder.exists():
                    draw_pictures(clip, folder)
        return folder

    def from_pictures(self, key: str, clip: Clip, read: Callable[[Path], T]) -> T:
        """Read a clip's pictures; those that are cut or were cleared away meanwhile are drawn once more."""
        try:
            return read(self.pictures(key, clip))
        except (FileNotFoundError, ValueError):
            shutil.rmtree(self._store.media.pictures(key), ignore_errors=True)
            return read(self.pictures(key, clip))

    def measure(self, key: str, clip: Clip) -> Measures:
        """What there is to measure about a clip, measured now if it hasn't been yet; two who ask measure once."""
        if stored := self._store.measures.get([key]):
            return stored[key]
        with self._single_flight(f"measures {key}"):
            if stored := self._store.measures.get([key]):
                return stored[key]
            measured = measure_signal(clip, damaged=clip.damaged)
            self._store.measures.put(key, measured)
            return measured

    def lateness(self, clip: Clip, key: str) -> list[Lateness]:
        """How late the other channels of a clip are behind the first; of clips asked about lately, as found then."""
        form = clip.form
        return self._lateness.get_or_make(key, lambda: measure_delays(clip.read, form.frames, form.channels, form.rate))

    def over_full_scale(self, job_id: str, engine: Engine, refs: Sequence[str]) -> dict[str, float | None]:
        """By how many dB clips exceed full scale, 0 where they don't, None where that must be measured first."""
        sheet = engine.sheet
        media = {source_ref(source.id): source.media for source in self._store.sources.for_job(job_id)}
        keys = {ref: sheet.key(ref) for ref in refs}
        stored = self._store.measures.get([*media.values(), *keys.values()])
        peaks = {
            ref: [channel.peak_dbfs for channel in stored[key].channels] for ref, key in media.items() if key in stored
        }

        def over(ref: str) -> float | None:
            if measures := stored.get(keys[ref]):
                return max(0.0, measures.whole.peak_dbfs or 0.0)
            return 0.0 if cannot_clip(sheet, ref, peaks) else None

        return {ref: over(ref) for ref in refs}

    def judge(self, source: Source, measures: Measures) -> Judgement:
        """Find out what there is to say about a source, and keep it."""
        judgement = evaluate_clip(stem(source.name), Form.model_validate(source.form), measures, recorded_of(source))
        self._store.measures.put_judgement(source.id, judgement)
        return judgement

    def unmeasured(self, job_id: str) -> list[tuple[str, Callable[[], Clip]]]:
        """Clips of a job that should be measured, with their keys: its sources first, then what groups would make. Each
        is opened by itself, so that one that cannot be keeps no other from it.
        """
        revision = self._store.jobs.get(job_id).head_id
        sheet = self.sheet_or_reason(job_id, revision).sheet
        sources = self._store.sources.for_job(job_id)
        keys = find_clips_to_measure(sheet, [s.id for s in sources], [s.folder for s in sources])
        measures = self._store.measures.get(keys)
        by_ref = {source_ref(source.id): source for source in sources}

        def opener(turn: Any, refs: tuple[str, ...]) -> Callable[[], Clip]:
            if turn is None:
                return lambda: self.clip_of(by_ref[refs[0]])
            return lambda: Engine(
                sheet, lambda source_id: self._opened(by_ref[source_ref(source_id)]), self._remembered_pages
            ).preview(turn, refs)

        return [(key, opener(turn, refs)) for key, (turn, refs) in keys.items() if key not in measures]

    def undrawn(self, job_id: str) -> list[Source]:
        """Sources without pictures."""
        sources = self._store.sources.for_job(job_id)
        return [source for source in sources if not self._store.media.pictures(source.media).exists()]

    def unjudged(self, job_id: str) -> list[tuple[Source, Measures]]:
        """Sources that were measured and not judged by this version."""
        sources = self._store.sources.for_job(job_id)
        judged = self._store.measures.judgements([source.id for source in sources])
        measures = self._store.measures.get([source.media for source in sources if source.id not in judged])
        return [(s, measures[s.media]) for s in sources if s.id not in judged and s.media in measures]

    def _opened(self, source: Source) -> Any:
        return self._store.media.open(source.media, source.name)

    def _remembered_pages(self, key: str, make: Callable[[], Pages]) -> Pages:
        """Pages of what window turns make, kept while they are listened to."""
        with self._pages_lock:  # two sets of the same pages would both be computed
            return self._pages.get_or_make(key, make)

    @contextmanager
    def _single_flight(self, work: str) -> Iterator[None]:
        """Only one thread at a time does this work; others wait, and then find it done."""
        with self._lock:
            lock = self._under_way.setdefault(work, threading.Lock())
        try:
            with lock:
                yield
        finally:
            with self._lock, suppress(KeyError):
                self._under_way.pop(work)


def sheet_of(plan: Plan, sources: list[Source]) -> Sheet:
    return Sheet(plan, infos_of(sources), {source.id: source.media for source in sources})


def infos_of(sources: list[Source]) -> dict[str, ClipInfo]:
    return {source.id: ClipInfo(stem(source.name), _form(json.dumps(source.form))) for source in sources}


@lru_cache(maxsize=10_000)
def _form(facts: str) -> Form:
    """A form as it is stored; hundreds of files often share one."""
    return Form.model_validate_json(facts)
