"""Who does the work of a command: this process, several beside each other, or the workers of a Dask cluster."""

import multiprocessing
import os
import signal
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from multiprocessing import forkserver, resource_tracker
from pathlib import Path
from typing import Final, ParamSpec, TypeVar

from wedge_turn.core.errors import Error
from wedge_turn.signals import block_signals

PARTS: Final = "wedge_turn.core.delivery.parts"
SHARED: Final = "wedge_turn.cli.shared_start"
FOLDERS: Final = "wedge_turn.core.batch.tree"
P = ParamSpec("P")
T = TypeVar("T")


@contextmanager
def open_executor(
    processes: int, cluster: str | None, folders: Sequence[Path], out: Path | None, work: str = PARTS
) -> Iterator[Executor | None]:
    """An executor with so many processes, None for one, which is this; or the cluster at an address, whose workers must
    see all these folders. `work` is the module of what they do. Raises BadRequestError where that can't be had.
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
        context.set_forkserver_preload([work, SHARED])
        resource_tracker.ensure_running()  # now: to start it later would let signals through again
        # A signal from the keyboard comes to all of them: this process alone hears it, stops the others, and says so.
        with block_signals(signal.SIGINT, signal.SIGHUP), silence():
            forkserver.ensure_running()
        with _Processes(processes, context) as pool:
            try:
                yield pool
            except BrokenProcessPool as error:
                raise Error(
                    "One of the processes was ended from outside, as where memory runs out",
                    help="Run it again with fewer --processes; with --resume it goes on where it was.",
                ) from error


class _Processes(ProcessPoolExecutor):
    """Blocks signals while it starts a process: an interrupted start would hang the pool."""

    def submit(self, work: Callable[P, T], /, *args: P.args, **kwargs: P.kwargs) -> Future[T]:
        with block_signals(signal.SIGINT, signal.SIGHUP, signal.SIGTERM):
            return super().submit(work, *args, **kwargs)


@contextmanager
def silence() -> Iterator[None]:
    """A process that is started meanwhile has nowhere to print: what goes wrong in it is said by its results."""
    saved, nowhere = os.dup(2), os.open(os.devnull, os.O_WRONLY)
    try:
        os.dup2(nowhere, 2)
        yield
    finally:
        os.dup2(saved, 2)
        os.close(saved)
        os.close(nowhere)


def open_folder_executor(files: Sequence[Path]) -> list[Path]:
    """The folders that files lie in, each once, as every machine must see them."""
    return list(dict.fromkeys(path.absolute().parent for path in files))
