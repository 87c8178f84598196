"""`make bench`: turns along time, of processor time with files and proof, less starting up."""

import shutil
import time
from pathlib import Path
from typing import Final

import numpy as np

from bench import material
from bench.measuring import COMMAND, MINUTES, processor_seconds, say
from wedge_turn.core.measure import measure_delays, suggest_hushes

SECONDS: Final = MINUTES * 60
HUSHES: Final = 300


def over_time(folder: Path) -> None:
    """Levels, hushes, delays, trims and ranges against a matrix turn on the same file; a search for each kind."""
    large, small, out = folder / "over-time.wav", folder / "short.wav", folder / "over-time-out"
    material.write_noise(large, SECONDS * 48_000)
    material.write_noise(small, 48_000)

    def spent(kind: str, *settings: str) -> float:
        command = (COMMAND, "apply", kind, "--overwrite", "--out", out, *settings)
        took = processor_seconds(*command, large, runs=3) - processor_seconds(*command, small, runs=3)
        shutil.rmtree(out, ignore_errors=True)
        return took

    every = SECONDS / HUSHES
    hushes = ";".join(f"{1 + n % 2}:{n * every:.2f}-{(n + 0.6) * every:.2f}:-12" for n in range(HUSHES))
    matrix = spent("matrix", "--set", "ll=0.9", "--set", "rl=0.1")
    for what, took in (
        ("gains of a level", spent("level", "--set", "gains_db=-3,2")),
        (f"{HUSHES} hushes", spent("level", "--set", f"hush={hushes}")),
        ("align by whole samples", spent("align", "--set", "delay=0,14")),
        ("trim", spent("trim", "--set", "start=0.5", "--set", f"end={SECONDS - 10}")),
        ("swap over a third of it", spent("swap", "--over", f"0.5-{SECONDS // 3}")),
    ):
        say(f"{what} / any matrix", f"{took:.2f}/{matrix:.2f} = {took / matrix:.2f}×", "≤ 1.5×")
    fractional = spent("align", "--set", "delay=0,14.37")
    say("align by a fraction, files and proof included", f"{SECONDS / fractional:.0f}× real time", "≥ 60×")
    searches()


def searches() -> None:
    """An hour's hushes suggested from its levels, and a delay found in an hour."""
    rng = np.random.default_rng(0)
    turns = np.repeat(rng.integers(0, 2, 1_200), 300)
    powers = np.where(turns[:, None] == np.arange(2), 0.01, 0.0001) * rng.uniform(0.3, 1, (turns.size, 2))
    start = time.perf_counter()
    suggestion = suggest_hushes(powers, 480, 48_000)
    say(f"{len(suggestion.hushes)} hushes suggested for an hour", f"{time.perf_counter() - start:.2f} s", "–")
    sound = rng.standard_normal((2**20, 1))
    start = time.perf_counter()
    measure_delays(lambda at, n: np.resize(sound[at % 2**19 :], (n, 1)) * [1.0, 0.5], 3_600 * 48_000, 2, 48_000)
    say("a delay found in an hour", f"{time.perf_counter() - start:.2f} s", "–")
