"""A store in a folder of its own."""

from collections.abc import Iterator
from pathlib import Path

import pytest

from wedge_turn.store import Store


@pytest.fixture
def store(tmp_path: Path) -> Iterator[Store]:
    opened = Store(tmp_path / "data")
    yield opened
    opened.close()
