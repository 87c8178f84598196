"""Songs on disk: stems of 16 bits, each scaled to its own peak, in `.cache/learn`; made once, on all cores."""

import json
import os
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from pathlib import Path
from typing import Final

import numpy as np
from numpy.typing import NDArray

from bench.learn import packages
from bench.learn.songs import song

TEACHING: Final = packages.FOLDER / "teaching"
CHOOSING: Final = packages.FOLDER / "choosing"
_SOUNDS: Final = {TEACHING: packages.TEACHING, CHOOSING: packages.CHOOSING}
_FIRST: Final = {TEACHING: 0, CHOOSING: 1_000_000}
Stored = NDArray[np.int16]


def make(folder: Path, count: int, cores: int = 0) -> None:
    """Make songs 0 … count − 1 of a folder, as far as they aren't there."""
    folder.mkdir(parents=True, exist_ok=True)
    missing = [n for n in range(count) if not (folder / f"{n:04}.json").exists()]
    with ProcessPoolExecutor(cores or os.cpu_count()) as pool:
        for done, about in enumerate(pool.map(partial(_make, folder), missing, chunksize=2), 1):
            if done % 20 == 0 or done == len(missing):
                print(f"{done:>6} of {len(missing)} songs, the last: {about}", flush=True)


def _make(folder: Path, n: int) -> str:
    made = song(_FIRST[folder] + n, _SOUNDS[folder])
    stems = {name: stem for name, stem in made.stems.items() if np.abs(stem).max() > 1e-6}
    peaks = {name: float(np.abs(stem).max()) for name, stem in stems.items()}
    stored = np.stack([np.round(stem / peaks[name] * 32_767).astype(np.int16) for name, stem in stems.items()])
    np.save(folder / f"{n:04}.npy", stored)
    about = {"about": made.about, "peaks": peaks}
    (folder / f"{n:04}.json").write_text(json.dumps(about), "utf-8")  # last: it says that the song is complete
    return made.about


class Shelf:
    """The songs of a folder, mapped into memory."""

    def __init__(self, folder: Path) -> None:
        self.names = sorted(path.stem for path in folder.glob("*.json"))
        if not self.names:
            raise FileNotFoundError(f"no songs in {folder}")
        self._folder = folder
        self._open: dict[str, tuple[Stored, dict[str, float]]] = {}

    def find(self, word: str) -> list[str]:
        """The songs that have a word in what is written of them."""
        about = {name: json.loads((self._folder / f"{name}.json").read_text("utf-8"))["about"] for name in self.names}
        return [name for name in self.names if word in about[name]]

    def song(self, name: str) -> tuple[Stored, dict[str, float]]:
        """Stems, (stems, frames, 2), and the factor of each by its name, in their order."""
        if name not in self._open:
            peaks = json.loads((self._folder / f"{name}.json").read_text("utf-8"))["peaks"]
            factors = {stem: peak / 32_767 for stem, peak in peaks.items()}
            self._open[name] = np.load(self._folder / f"{name}.npy", mmap_mode="r"), factors
        return self._open[name]
