"""`make bench-archive`: `prep` over 20,000 small files in 400 folders: its memory, going on when nothing has changed,
two processes, and a Dask cluster of one worker and of two; and one delivery of many files, shared in the same ways.
"""

import os
import resource
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Final

import numpy as np
import soundfile

from bench.measuring import COMMAND, say

FOLDERS: Final = 400
PAIRS: Final = 20  # of files in each folder, and as many files that are dual mono, half as many
SINGLE: Final = 10
RATE: Final = 48_000


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="wedge-turn-archive-") as folder:
        archive(Path(folder))
    # Without the disk, which takes the same time however many workers there are.
    with tempfile.TemporaryDirectory(prefix="wedge-turn-archive-", dir="/dev/shm") as folder:
        delivery(Path(folder))


def archive(room: Path) -> None:
    """`prep` of a whole tree."""
    count = write_tree(room / "archive")
    alone, peak = timed(room, "alone", "--resume")
    say(f"prep of {count:,} files: memory at its highest", f"{peak:.0f} MB", "< 300 MB")
    say("a file of it, written and proved", f"{alone / count * 1000:.1f} ms", "–")
    again, _ = timed(room, "alone", "--resume")
    say("gone on with, nothing changed / the first time", f"{again / alone:.3f}×", "–")
    two, _ = timed(room, "two", "--processes", "2")
    say("one process / two", f"{alone / two:.2f}×", "≥ 1.7×")
    took = {}
    for workers in (1, 2):
        with cluster(workers) as address:
            took[workers], _ = timed(room, f"cluster-{workers}", "--cluster", address)
    overhead = (took[1] - alone) / count * 1000
    say("a cluster of one worker / of two", f"{took[1] / took[2]:.2f}×", "≥ 1.7×")
    say("what the cluster costs for a file, its start included", f"{overhead:.1f} ms", "< 30 ms")


def write_tree(folder: Path) -> int:
    """Pairs, dual mono and ordinary stereo files of a tenth of a second, no two alike."""
    rng = np.random.default_rng(3)
    for n in range(FOLDERS):
        reel = folder / f"{n // 20:02}" / f"reel {n:03}"
        reel.mkdir(parents=True)
        for m in range(PAIRS):
            for side in "LR":
                soundfile.write(reel / f"take {m:02}_{side}.wav", rng.normal(0, 0.1, RATE // 10), RATE, "PCM_24")
        for m in range(SINGLE):
            one = rng.normal(0, 0.1, RATE // 10)
            soundfile.write(reel / f"mono {m}.wav", np.stack([one, one], axis=1), RATE, "PCM_24")
    return FOLDERS * (2 * PAIRS + SINGLE)


def delivery(room: Path) -> None:
    """One delivery of many files: long ones show how it is shared, short ones what each costs. The workers have
    written something before, as those of a running cluster have.
    """
    for kind, seconds, count in (("long", 180, 150), ("short", 0.1, 600)):
        files = write_songs(room / kind, seconds, count)
        took = {"alone": split(room, "alone", files)}
        for workers in (1, 2):
            with cluster(workers) as address:
                split(room, f"cluster-{workers}", files[: 2 * workers], "--cluster", address)
                took[f"cluster-{workers}"] = split(room, f"cluster-{workers}", files, "--cluster", address)
        if kind == "long":
            gained = took["cluster-1"] / took["cluster-2"]
            say("a delivery by a cluster of one worker / of two", f"{gained:.2f}×", "≥ 1.7×")
        else:
            overhead = (took["cluster-1"] - took["alone"]) / count * 1000
            say("what the cluster costs for a file of a delivery, its start included", f"{overhead:.1f} ms", "< 30 ms")


def write_songs(folder: Path, seconds: float, count: int) -> list[Path]:
    """Stereo files, four of them different: the others are the same under another name."""
    rng = np.random.default_rng(4)
    folder.mkdir()
    files = [folder / f"song {n:03}.wav" for n in range(count)]
    for n, path in enumerate(files):
        if n < 4:
            soundfile.write(path, rng.normal(0, 0.1, (int(seconds * RATE), 2)), RATE, "PCM_24")
        else:
            path.hardlink_to(files[n % 4])
    return files


def split(room: Path, out: str, files: list[Path], *how: str) -> float:
    """The seconds that splitting files takes."""
    command = [str(COMMAND), "apply", "split", *map(str, files), "--out", str(room / out), *how]
    start = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    took = time.perf_counter() - start
    shutil.rmtree(room / out)
    return took


def timed(room: Path, out: str, *how: str) -> tuple[float, float]:
    """The seconds that `prep` takes, and the memory in MB of the largest process it had."""
    command = [str(COMMAND), "prep", str(room / "archive"), "--out", str(room / out), "--json-lines", *how]
    before = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss
    start = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    took = time.perf_counter() - start
    return took, max(before, resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss) / 1024


@contextmanager
def cluster(workers: int) -> Iterator[str]:
    """The address of a cluster on this machine."""
    from distributed import Client

    port = 19_000 + os.getpid() % 1_000 + workers
    address = f"tcp://127.0.0.1:{port}"
    scheduler = [sys.executable, "-m", "distributed.cli.dask_scheduler", "--port", str(port), "--no-dashboard"]
    worker = [sys.executable, "-m", "distributed.cli.dask_worker", address, "--nthreads", "1", "--no-nanny"]
    started = [subprocess.Popen([*scheduler, "--host", "127.0.0.1"], stderr=subprocess.DEVNULL)]
    started += [subprocess.Popen([*worker, "--no-dashboard"], stderr=subprocess.DEVNULL) for _ in range(workers)]
    try:
        with Client(address, timeout=60) as client:  # type: ignore[no-untyped-call]
            client.wait_for_workers(workers, timeout=60)
        yield address
    finally:
        for process in started:
            process.terminate()
            process.wait()


if __name__ == "__main__":
    main()
