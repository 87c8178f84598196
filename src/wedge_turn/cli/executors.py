"""Who does the work of a command: this process, several beside each other, or the workers of a Dask cluster."""

import multiprocessing
from collections.abc import Iterator, Sequence
from concurrent.futures import Executor, ProcessPoolExecutor
from contextlib import contextmanager
from multiprocessing import forkserver
from pathlib import Path
from typing import Final

LOADED: Final = ["numba", "wedge_turn.core.delivery.parts", "wedge_turn.core.archive"]


@contextmanager
def executor_of(
    processes: int, cluster: str | None, folders: Sequence[Path], out: Path | None
) -> Iterator[Executor | None]:
    """An executor with so many processes, None for one, which is this; or the cluster at an address, whose workers must
    see all these folders. Raises BadRequestError where that can't be had.
    """
    if cluster is not None:
        from wedge_turn.tasks.cluster import connected

        with connected(cluster, folders, out.absolute() if out else None) as executor:
            yield executor
    elif processes == 1:
        yield None
    else:
        # Forked from a process in which nothing computes, and which loads what all of them need while this one does.
        context = multiprocessing.get_context("forkserver")
        context.set_forkserver_preload(LOADED)
        forkserver.ensure_running()
        with ProcessPoolExecutor(processes, context) as pool:
            yield pool


def folders_of(files: Sequence[Path]) -> list[Path]:
    """The folders that files lie in, each once, as every machine must see them."""
    return list(dict.fromkeys(path.absolute().parent for path in files))
