"""Fixtures that every test may use."""

import fcntl
import os
import shutil
import time
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from support.helpers import RECORDINGS
from support.serving import application
from wedge_turn.demo import ensure_demo_job, write_demo_files
from wedge_turn.store import Store

# The same examples each time: a change is not refused for what it did not bring. `--hypothesis-profile searching` looks
# for others.
SEARCHING = settings(deadline=None, max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
settings.register_profile("searching", SEARCHING)
settings.register_profile("ours", SEARCHING, derandomize=True)
settings.load_profile("ours")


PREPARED = Path(__file__).parent.parent / "build"  # by make, which knows when what is there is old


@pytest.fixture(scope="session")
def demo_files(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    """The demo's files, by their names without what follows the dot. To be read only: all workers share them."""
    folder = shared(tmp_path_factory, "demo-files", write_demo_files)
    return {path.stem: path for path in sorted(folder.iterdir())}


@pytest.fixture(scope="session")
def demo_data(tmp_path_factory: pytest.TempPathFactory, demo_files: dict[str, Path]) -> Path:
    """A data folder with the demo's job, measured and drawn. To be copied: all workers and runs share it."""

    def make(folder: Path) -> None:
        store = Store(folder)
        ensure_demo_job(store, list(demo_files.values()))
        store.close()
        with application(folder):
            known = -1
            while (files := sum(1 for _ in folder.rglob("*"))) != known:
                known = files
                time.sleep(1.5)

    return shared(tmp_path_factory, "demo-data", make)


def shared(factory: pytest.TempPathFactory, name: str, make: Callable[[Path], object]) -> Path:
    """A folder that the first worker to ask makes, and that all of them use, and later runs too where make has
    prepared the demo's files.
    """
    base = factory.getbasetemp()
    root = base.parent if "PYTEST_XDIST_WORKER" in os.environ else base
    root = PREPARED if (PREPARED / "demo-files").exists() else root
    with (root / f"{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not (root / name).exists():
            shutil.rmtree(root / f"{name}.new", ignore_errors=True)  # of a run that was broken off
            make(root / f"{name}.new")
            (root / f"{name}.new").rename(root / name)
    return root / name


@pytest.fixture
def recording() -> Callable[[str], Path]:
    """Find a real recording that `tests/fetch_recordings.sh` fetched."""

    def find(name: str) -> Path:
        path = RECORDINGS / name
        assert path.exists(), f"{name} is not there: run `make .stamps/recordings`"
        return path

    return find
