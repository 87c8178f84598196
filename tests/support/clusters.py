"""A real scheduler and real workers of a cluster, each in a process of its own."""

import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from support.waiting import PATIENCE


@contextmanager
def scheduling() -> Iterator[str]:
    """The address of a scheduler."""
    port = 18_786 + os.getpid() % 1_000
    command = [sys.executable, "-m", "distributed.cli.dask_scheduler", "--port", str(port), "--no-dashboard"]
    with subprocess.Popen([*command, "--host", "127.0.0.1"], stderr=subprocess.DEVNULL) as process:
        try:
            yield f"tcp://127.0.0.1:{port}"
        finally:
            process.terminate()


def worker(address: str, *before: str) -> "subprocess.Popen[bytes]":
    """A worker; `before` is run in it first."""
    code = "; ".join((*before, "from distributed.cli.dask_worker import main", "main()"))
    command = [sys.executable, "-c", code, address, "--nthreads", "1", "--no-nanny", "--no-dashboard"]
    return subprocess.Popen(command, stderr=subprocess.DEVNULL)


def joined(address: str, count: int) -> None:
    """Wait until so many workers have joined."""
    from distributed import Client

    with Client(address, timeout=PATIENCE) as client:  # type: ignore[no-untyped-call]
        client.wait_for_workers(count, timeout=PATIENCE)


def killed_once_written(process: "subprocess.Popen[bytes]", folder: Path) -> threading.Event:
    """Kill a worker as soon as there is a sound anywhere in a folder; says when that is done."""
    done = threading.Event()

    def kill() -> None:
        while not list(folder.rglob("*.wav")):
            time.sleep(0.005)
        process.send_signal(signal.SIGKILL)
        done.set()

    threading.Thread(target=kill, daemon=True).start()
    return done


def ended(*workers: "subprocess.Popen[bytes]") -> None:
    for process in workers:
        process.terminate()
    for process in workers:
        process.wait()
