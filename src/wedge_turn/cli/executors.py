"""Who does the work of a command: this process, several beside each other, or the workers of a Dask cluster."""

import multiprocessing
from collections.abc import Iterator, Sequence
from concurrent.futures import Executor, ProcessPoolExecutor
from contextlib import contextmanager
from pathlib import Path


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
        # A process that is forked while threads compute may wait for ever: each is started anew.
        with ProcessPoolExecutor(processes, multiprocessing.get_context("spawn")) as pool:
            yield pool


def folders_of(files: Sequence[Path]) -> list[Path]:
    """The folders that files lie in, each once, as every machine must see them."""
    return list(dict.fromkeys(path.absolute().parent for path in files))
