"""Products of matrices take one thread each, and setting that waits for nobody."""

import shutil
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from numpy.linalg import lapack_lite
from threadpoolctl import threadpool_info, threadpool_limits

from wedge_turn.core.blas import limit_threads

LIBRARIES = 100
# Set over and over, while another thread loads libraries, as an import does.
BOTH = """
import ctypes, sys, threading, numpy
from pathlib import Path
from wedge_turn.core.blas import limit_threads
ended = threading.Event()
def again():
    while not ended.is_set():
        limit_threads()
threading.Thread(target=again, daemon=True).start()
for path in Path(sys.argv[1]).iterdir():
    ctypes.CDLL(str(path))
ended.set()
print("done")
"""


def threads() -> set[int]:
    return {pool["num_threads"] for pool in threadpool_info() if "numpy" in pool["filepath"]}


def test_products_take_one_thread_each() -> None:
    with threadpool_limits(2, user_api="blas"):
        assert threads() == {2}
        limit_threads()
        assert threads() == {1}
    assert np.isfinite(np.ones((200, 200)) @ np.ones((200, 200))).all()


@pytest.fixture
def libraries(tmp_path: Path) -> Path:
    """A folder of libraries that no process has loaded."""
    for n in range(LIBRARIES):
        shutil.copyfile(lapack_lite.__file__, tmp_path / f"{n}.so")
    return tmp_path


def test_it_can_be_set_while_another_thread_loads_libraries(libraries: Path) -> None:
    """Threadpoolctl's way ends in a deadlock here."""
    command = [sys.executable, "-c", BOTH, str(libraries)]
    done = subprocess.run(command, capture_output=True, text=True, check=True, timeout=60)
    assert done.stdout == "done\n"
