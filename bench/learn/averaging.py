"""`python -m bench.learn.averaging OUT SHARE FILE SHARE FILE …`: the mean of the weights of several stages of teaching.

What is taught last forgets some of what came first; the mean of weights along one path of teaching keeps most of both
(Wortsman et al., Robust fine-tuning of zero-shot models, CVPR 2022; from memory). Weights of an earlier version are
grown to the size of the latest, which doesn't change the shares that they give.
"""

import sys
import tempfile
from pathlib import Path

import numpy as np
import torch

from bench.learn.excerpts import Excerpts
from bench.learn.network import VoiceNetwork, load, save
from bench.learn.shelf import TEACHING, Shelf
from bench.learn.training import BATCH, FRAMES


def average(out: Path, stages: list[tuple[float, Path]]) -> None:
    """Write the mean of the weights of files by their shares, which add up to 1."""
    total: dict[str, np.ndarray] = {}
    for share, file in stages:
        for name, values in _grow(file).items():
            total[name] = share * values + total.get(name, 0)
    np.savez(out, **{name: values.astype(np.float16) for name, values in total.items()})  # type: ignore[arg-type]


def _grow(file: Path) -> dict[str, np.ndarray]:
    """The weights of a file in the size of the latest version."""
    torch.manual_seed(0)
    excerpts, network = Excerpts(Shelf(TEACHING), 1, FRAMES), VoiceNetwork()
    with tempfile.TemporaryDirectory() as folder:
        grown = Path(folder) / "grown.npz"
        load(network, file, ((batch.of_bands, batch.of_lines) for batch in iter(lambda: excerpts.batch(BATCH), None)))
        save(network, grown)
        with np.load(grown) as stored:
            return {name: stored[name].astype(np.float64) for name in stored.files}


if __name__ == "__main__":
    average(Path(sys.argv[1]), [(float(s), Path(f)) for s, f in zip(sys.argv[2::2], sys.argv[3::2], strict=True)])
