"""What `doctor` looks at besides the data: what is computed with, and what the browser is given."""

import time
from collections.abc import Iterator
from importlib.util import find_spec
from pathlib import Path
from typing import Final

from wedge_turn.store.checkup import Check, check_data

SLOW_START: Final = 10.0  # seconds for the kernels: they are compiled anew each time


def run_checks(folder: Path) -> Iterator[Check]:
    """All checks, one after the other."""
    yield from check_data(folder)
    yield _kernels()
    yield _interface()
    yield _movies()


def _kernels() -> Check:
    from wedge_turn.core.warm import warm_up

    start = time.perf_counter()
    try:
        warm_up()
    except Exception as error:  # whatever a compiler says
        return Check("kernels", False, f"The kernels can't be compiled: {error}.", "Install the application again.")
    took = time.perf_counter() - start
    return Check(
        "kernels",
        took < SLOW_START,
        f"The kernels are ready after {took:.1f} s.",
        "Let the application write beside its modules, or into NUMBA_CACHE_DIR: compiled kernels are kept there.",
    )


def _interface() -> Check:
    webapp = Path(__file__).parent.parent / "webapp"
    is_built = (webapp / "index.html").is_file()
    sentence = "The browser's interface is there." if is_built else "The browser's interface has not been built."
    return Check("interface", is_built, sentence, "Run make setup, or install the wheel.")


def _movies() -> Check:
    """An extra: that it is missing is no fault."""
    is_installed = find_spec("av") is not None
    sentence = "Movies, AAC and WavPack are read." if is_installed else "Movies, AAC and WavPack are not read."
    return Check("movies", True, sentence, "Install what reads them with pip install 'wedge-turn[media]'.")
