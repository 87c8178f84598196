"""What was measured about clips, and what was found out about sources by it. What another version wrote counts as not
there: it is measured and judged again.
"""

import threading
from collections import OrderedDict
from collections.abc import Collection, Iterable
from typing import Final, TypeVar

from pydantic import ValidationError
from sqlalchemy import delete, select

from wedge_turn.core.measure.survey import SURVEY_VERSION, Measures
from wedge_turn.core.overview import FINDINGS_VERSION, Judgement
from wedge_turn.store.database import Database
from wedge_turn.store.rows import Judged, Measured, Source

MOST_REMEMBERED: Final = 4_000  # a kilobyte each
T = TypeVar("T")
_AT_ONCE: Final = 500  # SQLite takes only so many values in one query


class KnownMeasures:
    def __init__(self, database: Database) -> None:
        self._database = database
        self._remembered: OrderedDict[str, Measures] = OrderedDict()
        self._judged: OrderedDict[str, Judgement] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, keys: Iterable[str]) -> dict[str, Measures]:
        """What was measured about clips, by their keys; those that were not yet are left out."""
        wanted = list(dict.fromkeys(keys))
        with self._lock:
            found = {key: self._remembered[key] for key in wanted if key in self._remembered}
        missing = [key for key in wanted if key not in found]
        with self._database.reading() as session:
            for at in range(0, len(missing), _AT_ONCE):
                keys_now = missing[at : at + _AT_ONCE]
                query = select(Measured).where(Measured.key.in_(keys_now), Measured.version == SURVEY_VERSION)
                for row in session.scalars(query):
                    try:
                        found[row.key] = Measures.model_validate(row.measures)
                    except ValidationError:
                        continue  # measured again
                    self._remember(self._remembered, row.key, found[row.key])
        return found

    def put(self, key: str, measures: Measures) -> None:
        with self._database.changing() as session:
            session.merge(Measured(key=key, version=SURVEY_VERSION, measures=measures.model_dump(mode="json")))
        self._remember(self._remembered, key, measures)

    def keys(self) -> set[str]:
        """The keys of all clips that were measured."""
        with self._database.reading() as session:
            return set(session.scalars(select(Measured.key)))

    def forget(self, keys: Collection[str]) -> None:
        every = list(keys)
        with self._database.changing() as session:
            for at in range(0, len(every), _AT_ONCE):
                session.execute(delete(Measured).where(Measured.key.in_(every[at : at + _AT_ONCE])))
        with self._lock:
            for key in every:
                self._remembered.pop(key, None)

    def judgements(self, sources: Iterable[str]) -> dict[str, Judgement]:
        """The findings of sources by their ids, as far as they were judged by this version."""
        wanted = list(sources)
        with self._lock:
            found = {source: self._judged[source] for source in wanted if source in self._judged}
        missing = [source for source in wanted if source not in found]
        with self._database.reading() as session:
            for at in range(0, len(missing), _AT_ONCE):
                ids = missing[at : at + _AT_ONCE]
                query = select(Judged).where(Judged.source_id.in_(ids), Judged.version == FINDINGS_VERSION)
                for row in session.scalars(query):
                    try:
                        found[row.source_id] = Judgement.model_validate(row.judgement)
                    except ValidationError:
                        continue  # judged again
                    self._remember(self._judged, row.source_id, found[row.source_id])
        return found

    def put_judgement(self, source_id: str, judgement: Judgement) -> None:
        """Keep the findings of a source; nothing where it was deleted meanwhile."""
        row = Judged(source_id=source_id, version=FINDINGS_VERSION, judgement=judgement.model_dump(mode="json"))
        with self._database.changing() as session:
            if session.get(Source, source_id) is None:
                return
            session.merge(row)
        self._remember(self._judged, source_id, judgement)

    def _remember(self, memory: OrderedDict[str, T], key: str, value: T) -> None:
        with self._lock:
            memory[key] = value
            memory.move_to_end(key)
            while len(memory) > MOST_REMEMBERED:
                memory.popitem(last=False)
