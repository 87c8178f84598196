"""What was measured about clips, and what was found out about sources by it. What another version wrote counts as not
there: it is measured and judged again.
"""

import threading
from collections import OrderedDict
from collections.abc import Collection, Iterable
from typing import Any, Final, TypeVar

from pydantic import BaseModel, ValidationError
from sqlalchemy import Select, delete, select
from sqlalchemy.orm import InstrumentedAttribute

from wedge_turn.core.findings import FINDINGS_VERSION, Judgement
from wedge_turn.core.measure import SURVEY_VERSION, Measures
from wedge_turn.store.database import Database
from wedge_turn.store.rows import FindingRow, MeasuresRow, Source

CACHE_SIZE: Final = 4_000  # a kilobyte each
T = TypeVar("T", bound=BaseModel)
_AT_ONCE: Final = 500  # SQLite takes only so many values in one query


class MeasureStore:
    def __init__(self, database: Database) -> None:
        self._database = database
        self._remembered: OrderedDict[str, Measures] = OrderedDict()
        self._judged: OrderedDict[str, Judgement] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, keys: Iterable[str]) -> dict[str, Measures]:
        """What was measured about clips, by their keys; those that were not yet are left out."""
        query = select(MeasuresRow.key, MeasuresRow.measures).where(MeasuresRow.version == SURVEY_VERSION)
        return self._find_stored(keys, self._remembered, Measures, query, MeasuresRow.key)

    def put(self, key: str, measures: Measures) -> None:
        with self._database.changing() as session:
            session.merge(MeasuresRow(key=key, version=SURVEY_VERSION, measures=measures.model_dump(mode="json")))
        self._remember(self._remembered, key, measures)

    def keys(self) -> set[str]:
        """The keys of all clips that were measured."""
        with self._database.reading() as session:
            return set(session.scalars(select(MeasuresRow.key)))

    def forget(self, keys: Collection[str]) -> None:
        every = list(keys)
        with self._database.changing() as session:
            for at in range(0, len(every), _AT_ONCE):
                session.execute(delete(MeasuresRow).where(MeasuresRow.key.in_(every[at : at + _AT_ONCE])))
        with self._lock:
            for key in every:
                self._remembered.pop(key, None)

    def judgements(self, sources: Iterable[str]) -> dict[str, Judgement]:
        """The findings of sources by their ids, as far as they were judged by this version."""
        query = select(FindingRow.source_id, FindingRow.judgement).where(FindingRow.version == FINDINGS_VERSION)
        return self._find_stored(sources, self._judged, Judgement, query, FindingRow.source_id)

    def put_judgement(self, source_id: str, judgement: Judgement) -> None:
        """Keep the findings of a source; nothing where it was deleted meanwhile."""
        row = FindingRow(source_id=source_id, version=FINDINGS_VERSION, judgement=judgement.model_dump(mode="json"))
        with self._database.changing() as session:
            if session.get(Source, source_id) is None:
                return
            session.merge(row)
        self._remember(self._judged, source_id, judgement)

    def _find_stored(
        self,
        keys: Iterable[str],
        memory: OrderedDict[str, T],
        model: type[T],
        query: Select[tuple[str, dict[str, Any]]],
        column: InstrumentedAttribute[str],
    ) -> dict[str, T]:
        """What is remembered or stored under the keys. What can't be read any more is left out: it is found anew."""
        unique_keys = list(dict.fromkeys(keys))
        with self._lock:
            at_hand = {key: memory[key] for key in unique_keys if key in memory}
        missing = [key for key in unique_keys if key not in at_hand]
        if not missing:
            return at_hand
        with self._database.reading() as session:
            for at in range(0, len(missing), _AT_ONCE):
                for key, stored in session.execute(query.where(column.in_(missing[at : at + _AT_ONCE]))):
                    try:
                        at_hand[key] = model.model_validate(stored)
                    except ValidationError:
                        continue
                    self._remember(memory, key, at_hand[key])
        return at_hand

    def _remember(self, memory: OrderedDict[str, T], key: str, value: T) -> None:
        with self._lock:
            memory[key] = value
            memory.move_to_end(key)
            while len(memory) > CACHE_SIZE:
                memory.popitem(last=False)
