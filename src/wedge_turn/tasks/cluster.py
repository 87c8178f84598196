"""Workers of a Dask cluster as an executor. They must have this version, and see the same folders by the same paths."""

import asyncio
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, Future
from contextlib import contextmanager, suppress
from pathlib import Path
from tempfile import NamedTemporaryFile
from typing import Any, Final

from wedge_turn import __version__
from wedge_turn.core.errors import BadRequestError, StoppedError

ANSWERS_WITHIN: Final = 10  # seconds for the scheduler
ALONE_FOR: Final = 30.0  # seconds without a single worker until that is given up
GONE: Final = "No worker is left in the cluster"
LOOKS_EVERY: Final = 0.5  # seconds


def version() -> str:
    """The version of a worker, asked where it is."""
    return __version__


def sees(path: str) -> bool:
    """Whether a worker has a file or folder, asked where it is."""
    return Path(path).exists()


@contextmanager
def connected(address: str, folders: Sequence[Path], out: Path | None) -> Iterator[Executor]:
    """The workers of the cluster at `tcp://…`, as an executor.

    They must have this version, and see `folders` and `out`, under the same paths. Raises BadRequestError where no
    scheduler or worker answers, one has another version, or doesn't see a folder.
    """
    try:
        from distributed import Client
    except ImportError:
        raise BadRequestError("A cluster needs the extra [cluster]: pip install 'wedge-turn[cluster]'") from None
    try:
        client = Client(address, timeout=ANSWERS_WITHIN, set_as_default=False)  # type: ignore[no-untyped-call]
    except (OSError, ValueError, TimeoutError) as error:
        raise BadRequestError(
            f"No scheduler answers at {address}", help="Start one there, or leave --cluster out."
        ) from error
    with client, _provide_folder(out):
        _check_workers(client, folders, out)
        workers = _Workers(client)
        try:
            yield workers
        finally:
            workers.shutdown(cancel_futures=True)


@contextmanager
def _provide_folder(out: Path | None) -> Iterator[None]:
    """Make a folder that workers must see; it doesn't stay where nothing is written to it."""
    new = [folder for folder in (out, *out.parents) if not folder.exists()] if out else []
    if out:
        out.mkdir(parents=True, exist_ok=True)
    try:
        yield
    finally:
        with suppress(OSError):  # something is in it
            for folder in new:
                folder.rmdir()


def _check_workers(client: Any, folders: Sequence[Path], out: Path | None) -> None:
    try:
        versions = client.run(version)
    except Exception as error:  # whatever a worker without the package says
        raise BadRequestError(
            f"A worker can't run Wedge Turn {__version__}: {error}", help="Install it on every worker."
        ) from error
    if not versions:
        raise BadRequestError("No worker has joined the cluster", help="Start one, or leave --cluster out.")
    for worker, installed in versions.items():
        if installed != __version__:
            raise BadRequestError(
                f"The worker {worker} has Wedge Turn {installed}, this is {__version__}",
                help="Install the same version on every worker.",
            )
    for folder in folders:
        _check_sees(client, folder, folder)
    if out is not None:
        with NamedTemporaryFile(prefix=".wedge-turn-", dir=out) as mark:  # not just a folder of the same name
            _check_sees(client, Path(mark.name), out)


def _check_sees(client: Any, path: Path, folder: Path) -> None:
    for worker, sees_it in client.run(sees, str(path)).items():
        if not sees_it:
            raise BadRequestError(
                f"The worker {worker} doesn't see the folder {folder.name}",
                help="Share it with every worker under the same path.",
            )


class _Workers(Executor):
    """Hands work to the cluster. What a lost worker had is done by another; where none is left, what waits fails."""

    def __init__(self, client: Any) -> None:
        self._client = client
        self._lock = threading.Lock()
        self._handed: dict[Future[Any], Any] = {}
        self._closing = threading.Event()
        self._watch = threading.Thread(target=self._look, daemon=True)
        self._watch.start()

    def submit(self, work: Callable[..., Any], /, *args: Any, **how: Any) -> Future[Any]:
        """Never raises; errors are set on the future."""
        outer: Future[Any] = Future()
        outer.set_running_or_notify_cancel()
        inner = self._client.submit(work, *args, **how, pure=False)
        with self._lock:
            self._handed[outer] = inner
        # Gathering waits for work that is done again because its result was lost with its worker.
        gathering = self._client.gather(inner, asynchronous=True)
        gathered = asyncio.run_coroutine_threadsafe(gathering, self._client.loop.asyncio_loop)
        gathered.add_done_callback(lambda done: self._finish(outer, done))
        return outer

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        self._closing.set()
        with self._lock:
            handed, self._handed = self._handed, {}
        if cancel_futures and handed:
            self._client.cancel(list(handed.values()), force=True)
        if wait:
            self._watch.join()

    def _finish(self, outer: Future[Any], inner: Future[Any]) -> None:
        with self._lock:
            if self._handed.pop(outer, None) is None:
                return
        if inner.cancelled():
            outer.set_exception(StoppedError("The cluster cancelled the work"))
        elif error := inner.exception():
            outer.set_exception(error)
        else:
            outer.set_result(inner.result())

    def _look(self) -> None:
        alone_since: float | None = None
        while not self._closing.wait(LOOKS_EVERY):
            if self._client.scheduler_info().get("workers"):
                alone_since = None
                continue
            alone_since = alone_since or time.monotonic()
            if time.monotonic() - alone_since > ALONE_FOR:
                with self._lock:
                    handed, self._handed = self._handed, {}
                for outer in handed:
                    outer.set_exception(
                        BadRequestError(
                            "No worker is left in the cluster", help="Start one, then run it with --resume."
                        )
                    )
