"""Clips of a worksheet, and what was computed about them: pages, pictures, measures."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import replace
from pathlib import Path
from typing import Final

from sqlalchemy import select

from wedge_turn.core.audio.form import Form
from wedge_turn.core.centre.pages import Pages
from wedge_turn.core.engine import Clip, Engine, clip_of
from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.groups import groups_of, merges_of
from wedge_turn.core.measure.pictures import draw
from wedge_turn.core.measure.survey import Measures, survey
from wedge_turn.core.plan import source_ref
from wedge_turn.core.turns import Merge
from wedge_turn.store.rows import Measured, Source
from wedge_turn.store.worksheets import Worksheets

MOST_COMPUTED: Final = 4


class Clips(Worksheets):
    def __init__(self, folder: Path) -> None:
        super().__init__(folder)
        self._under_way: dict[str, threading.Lock] = {}
        self._pages: OrderedDict[str, Pages] = OrderedDict()
        self._measures: dict[str, Measures] = {}  # a kilobyte each

    def engine(self, job_id: str, revision_id: str) -> Engine:
        """An engine for the clips of a revision."""
        with self._sessions() as session:
            query = select(Source.id, Source.media, Source.name).where(Source.job_id == job_id)
            media = {source: (media, name) for source, media, name in session.execute(query)}
        sheet = self.sheet(job_id, revision_id)
        return Engine(sheet, lambda source: self.media.pcm(*media[source]), self._kept_pages)

    def _kept_pages(self, key: str, make: Callable[[], Pages]) -> Pages:
        """Pages of what window turns make, kept while they are listened to; twelve megabytes each at the most."""
        with self._lock:
            if key not in self._pages:
                self._pages[key] = make()
            self._pages.move_to_end(key)
            while len(self._pages) > MOST_COMPUTED:
                self._pages.popitem(last=False)
            return self._pages[key]

    def pictures(self, key: str, clip: Clip) -> Path:
        """The folder of a clip's pictures, drawn now if they aren't yet; two who ask draw once."""
        folder = self.media.pictures(key)
        if not folder.exists():
            with self._alone(f"pictures {key}"):
                if not folder.exists():
                    draw(clip, folder)
        return folder

    @contextmanager
    def _alone(self, work: str) -> Iterator[None]:
        """Only one thread at a time does this work; others wait, and then find it done."""
        with self._lock:
            lock = self._under_way.setdefault(work, threading.Lock())
        try:
            with lock:
                yield
        finally:
            with self._lock:
                self._under_way.pop(work, None)

    def measures(self, keys: Iterable[str]) -> dict[str, Measures]:
        """What was measured about clips, by their keys; those that were not yet are left out."""
        wanted = list(dict.fromkeys(keys))
        missing = [key for key in wanted if key not in self._measures]
        with self._sessions() as session:
            for at in range(0, len(missing), 500):  # SQLite takes only so many at once
                query = select(Measured).where(Measured.key.in_(missing[at : at + 500]))
                for row in session.scalars(query):
                    self._measures[row.key] = Measures.model_validate(row.measures)
        return {key: self._measures[key] for key in wanted if key in self._measures}

    def measure(self, key: str, clip: Clip) -> Measures:
        """What there is to measure about a clip, measured now if it hasn't been yet; two who ask measure once."""
        if found := self.measures([key]):
            return found[key]
        with self._alone(f"measures {key}"):
            if found := self.measures([key]):
                return found[key]
            measured = survey(clip, not_finite=sum(source.count_not_finite() for source in clip.sources))
            with self._changing() as session:
                session.merge(Measured(key=key, measures=measured.model_dump(mode="json")))
            self._measures[key] = measured
            return measured

    def clip_of(self, source: Source) -> Clip:
        """A source as a clip, without its job; its key is the hash of its bytes."""
        form = Form.model_validate(source.form)
        return replace(clip_of(self.media.pcm(source.media, source.name)), form=form)

    def unmeasured(self, job_id: str) -> list[tuple[str, Clip]]:
        """Clips of a job that should be measured, with their keys: its sources first, then what groups would make."""
        revision = self.job(job_id).head_id
        engine = self.engine(job_id, revision)
        sheet = engine.sheet
        sources = self.sources(job_id)
        wanted: dict[str, tuple[Merge | None, tuple[str, ...]]] = {}
        for source in sources:
            ref = source_ref(source.id)
            wanted.setdefault(sheet.key(ref), (None, (ref,)))
        groups, _ = groups_of(sheet, [s.id for s in sources], [s.folder for s in sources])
        for turn, inputs in merges_of(sheet, groups):
            with suppress(TurnInputError):
                turn.outcome([sheet.info(ref) for ref in inputs])
                wanted.setdefault(sheet.key_made(turn, inputs, 0), (turn, inputs))
        known = self.measures(wanted)
        return [
            (key, engine.made(turn, refs) if turn else engine.clip(refs[0]))
            for key, (turn, refs) in wanted.items()
            if key not in known
        ]
