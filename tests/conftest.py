"""Fixtures that every test may use."""

from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from helpers import RECORDINGS
from wedge_turn.demo import write_demo_files

settings.register_profile(
    "ours", deadline=None, max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
settings.load_profile("ours")


@pytest.fixture(scope="session")
def demo_files(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    """The demo's files, by their names without what follows the dot. To be read only."""
    return {path.stem: path for path in write_demo_files(tmp_path_factory.mktemp("demo"))}


@pytest.fixture
def recording() -> Callable[[str], Path]:
    """Find a real recording that `tests/fetch_recordings.sh` fetched."""

    def find(name: str) -> Path:
        path = RECORDINGS / name
        assert path.exists(), f"{name} is not there: run `make .stamps/recordings`"
        return path

    return find
