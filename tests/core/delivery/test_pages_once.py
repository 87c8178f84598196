"""What is computed in pages is computed once for a delivery, but for what the proof computes anew."""

from collections import Counter
from pathlib import Path

import numpy as np
import pytest

from support.helpers import engine_on, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.centre import Extraction
from wedge_turn.core.delivery import Order, deliver
from wedge_turn.core.pages import PAGE, Page
from wedge_turn.core.turns import Centre

PAGES = 40


def test_a_page_of_a_centre_is_computed_once_by_what_writes(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    computed: Counter[int] = Counter()
    page = Extraction.page

    def count(self: Extraction, start: int) -> Page:
        computed[start] += 1
        return page(self, start)

    monkeypatch.setattr(Extraction, "page", count)
    ints = np.random.default_rng(3).integers(-(2**20), 2**20, (PAGES * PAGE, 2))
    engine = engine_on(Centre(method="wedge"), WavFile(write_wav(tmp_path / "in.wav", ints)), names=["in"])
    deliver(engine, Order(tuple(engine.sheet.list_ends())), tmp_path / "out")
    assert len(computed) == PAGES
    # The proof computes the first, the last, the loudest and one in twenty anew.
    assert sum(computed.values()) <= PAGES + max(4, PAGES // 20)
