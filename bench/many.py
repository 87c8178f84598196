"""`make bench-many`: a server with much in it at rest, and one with many listeners.

at rest     10 jobs of 500 files each, all measured: memory, and processor time over half a minute
listeners   20 clients, each asking for a second of sound every second, from a chain of three turns on files of its
            own: how long an answer takes
"""

import os
import random
import statistics
import subprocess
import tempfile
import threading
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Final

import numpy as np
import soundfile

from bench.listening import asked
from bench.measuring import COMMAND, say
from wedge_turn.core.turns import Level, Swap, Width
from wedge_turn.core.worksheet import Plan, Step, source_ref, step_ref
from wedge_turn.store import Store
from wedge_turn.store.rows import Source

JOBS: Final = 10
FILES: Final = 500
LISTENERS: Final = 20
SECONDS: Final = 30
RATE: Final = 48_000
TICKS: Final = os.sysconf("SC_CLK_TCK")


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="wedge-turn-many-") as folder:
        at_rest(Path(folder, "rest"))
        listeners(Path(folder, "listeners"))


def at_rest(folder: Path) -> None:
    rng = np.random.default_rng(1)
    store = Store(folder)
    first = store.jobs.create("job 1")
    sources = [add(store, first.id, f"take {n}", rng.normal(0, 0.1, (4_800, 1)), folder) for n in range(FILES)]
    ids = [first.id]
    for n in range(1, JOBS):
        ids.append(store.jobs.create(f"job {n + 1}").id)
        store.copy_sources(first.id, [source.id for source in sources], ids[-1])
    store.close()
    for when in ("once measured", "after the next start"):
        with serving(folder) as (process, address):
            until_measured(address, ids)
            share = share_at_rest(process)
            own, mapped = memory(process, "RssAnon"), memory(process, "RssFile")
        what = f"{JOBS} jobs of {FILES} files at rest, {when}"
        say(f"{what}: memory", f"{own + mapped:.0f} MB", "under 250")
        say(f"{what}: of these mapped from libraries", f"{mapped:.0f} MB", "–")
        say(f"{what}: of one core", f"{share:.2%}", "under 1 %")


def share_at_rest(process: int) -> float:
    """How much of a core a process takes once it has settled."""
    settled = spent(process)
    while (now := wait_and_spent(process, 3)) - settled > 0.05:
        settled = now
    before = spent(process)
    time.sleep(SECONDS)
    return (spent(process) - before) / SECONDS


def listeners(folder: Path) -> None:
    rng = np.random.default_rng(2)
    store = Store(folder)
    made = []
    for n in range(LISTENERS):
        job = store.jobs.create(f"job {n + 1}")
        source = add(store, job.id, f"song {n}", rng.normal(0, 0.1, (60 * RATE, 2)), folder)
        lines = [Step(id="a", turn=Swap(), inputs=(source_ref(source.id),))]
        lines.append(Step(id="b", turn=Level(gains_db=(-3.0,)), inputs=(step_ref("a", 0),)))
        lines.append(Step(id="c", turn=Width(width=1.3), inputs=(step_ref("b", 0),)))
        made.append((job.id, store.worksheets.add(job.id, job.head_id, Plan(steps=tuple(lines)), "lines").id))
    store.close()
    with serving(folder) as (_, address):
        until_measured(address, [job for job, _ in made])
        took: list[float] = []
        threads = [threading.Thread(target=listen, args=(address, *one, took)) for one in made]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
    p95 = statistics.quantiles(took, n=20)[-1]
    say(f"{LISTENERS} listeners on chains of three turns, 95 of 100 answers", f"{1000 * p95:.0f} ms", "under 100")
    say(f"{LISTENERS} listeners on chains of three turns, median", f"{1000 * statistics.median(took):.1f} ms", "–")


def listen(address: str, job: str, revision: str, took: list[float]) -> None:
    """A second of sound every second, from one place on, as a page asks for it."""
    ref = step_ref("c", 0)
    time.sleep(random.random())
    start = time.perf_counter()
    for n in range(SECONDS):
        url = f"{address}/api/jobs/{job}/revisions/{revision}/samples?clip={ref}&start={n * RATE}&frames={RATE}"
        begun = time.perf_counter()
        with urllib.request.urlopen(url) as answer:
            answer.read()
        took.append(time.perf_counter() - begun)
        time.sleep(max(0.0, start + n + 1 - time.perf_counter()))


def add(store: Store, job: str, name: str, samples: np.ndarray, folder: Path) -> Source:
    path = folder / "made.wav"
    soundfile.write(path, samples, RATE, subtype="PCM_24")
    upload = store.uploads.receive(job, f"{name}.wav", [path.read_bytes()])
    with store.uploads.arrived(upload) as arrived:
        return store.add_source(job, arrived)


@contextmanager
def serving(folder: Path) -> Iterator[tuple[int, str]]:
    """The process that serves a data folder, and its address."""
    command = [str(COMMAND), "serve", "--data", str(folder), "--port", "0"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as server:
        try:
            assert server.stdout is not None
            yield server.pid, server.stdout.readline().split()[4].rstrip("/")
        finally:
            server.terminate()


def until_measured(address: str, jobs: list[str]) -> None:
    for job in jobs:
        while not all(one["measured"] for one in asked(f"{address}/api/jobs/{job}")["sources"]):
            time.sleep(1)


def spent(process: int) -> float:
    """Seconds of processor time that a process has taken so far."""
    fields = Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / TICKS


def memory(process: int, kind: str) -> float:
    """Memory of a process in MB: `RssAnon` is its own, `RssFile` mapped from files, which others share."""
    status = Path(f"/proc/{process}/status").read_text()
    return next(int(line.split()[1]) for line in status.splitlines() if line.startswith(kind)) / 1000


def wait_and_spent(process: int, seconds: float) -> float:
    time.sleep(seconds)
    return spent(process)


if __name__ == "__main__":
    main()
