"""What every bench prints and how it measures processor time: user and system together, the median of several runs."""

import resource
import statistics
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Final

COMMAND: Final = Path(sys.executable).parent / "wedge-turn"
RUNS: Final = 5
MINUTES: Final = 15


def say(what: str, figure: str, wanted: str) -> None:
    print(f"{what:<66} {figure:>14}   wanted {wanted}", flush=True)


def processor_seconds(*command: object, before: Callable[[], object] = lambda: None, runs: int = RUNS) -> float:
    """The processor time of a command, the median of several runs: a virtual machine's clock may err either way."""
    spent = []
    for _ in range(runs):
        before()
        start = resource.getrusage(resource.RUSAGE_CHILDREN)
        subprocess.run([str(part) for part in command], check=True, stdout=subprocess.DEVNULL)
        end = resource.getrusage(resource.RUSAGE_CHILDREN)
        spent.append(end.ru_utime + end.ru_stime - start.ru_utime - start.ru_stime)
    return statistics.median(spent)
