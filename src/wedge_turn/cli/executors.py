"""Who does the work of a command: this process, several beside each other, or the workers of a Dask cluster."""

import multiprocessing
from collections.abc import Iterator
from concurrent.futures import Executor, ProcessPoolExecutor
from contextlib import contextmanager
from pathlib import Path


@contextmanager
def executor_of(processes: int, cluster: str | None, source: Path, out: Path | None) -> Iterator[Executor | None]:
    """An executor with so many processes, None for one, which is this; or the cluster at an address, whose workers must
    see both folders. Raises BadRequestError where that can't be had.
    """
    if cluster is not None:
        from wedge_turn.cli.cluster import connected

        with connected(cluster, source, out) as executor:
            yield executor
    elif processes == 1:
        yield None
    else:
        # A process that is forked while threads compute may wait for ever: each is started anew.
        with ProcessPoolExecutor(processes, multiprocessing.get_context("spawn")) as pool:
            yield pool
