"""The voice mask as a whole: which layers follow each other, and their weights.

    enter      3 × 5, 9 → 16                         256 bands
    down       three times 3 × 5, half the bands      128 × 24, 64 × 32, 32 × 48
    middle     five residual layers with dilations of 1, 2, 4, 8 and 16 frames, and across between them
    up         three times back to twice the bands, with what was there on the way down
    context    for each band a first opinion and 16 figures, spread to the lines
    lines      three small layers a line

Version 3 has the same layers and was taught less. Version 2 has fewer channels (10, 16, 24, 32; 12 figures) and three
residual layers. Lines that were made with them keep them. Shape of the network: Ronneberger, Fischer and Brox, MICCAI
2015, and He et al., CVPR 2016 (both from memory).
"""

from functools import cache
from importlib import resources
from typing import Final

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.blas import limit_threads
from wedge_turn.core.centre.voice import layers
from wedge_turn.core.centre.voice.bands import LINES
from wedge_turn.core.centre.voice.features import REACH, compute_features

Singles = NDArray[np.float32]
Spectra = NDArray[np.complex64]
Weights = dict[str, Singles]

LEVELS: Final = 3
RESIDUALS: Final = {2: 3, 3: 5, 4: 5}  # residual layers in the middle, by version
KNOWS_BEGINNINGS: Final = frozenset((4,))  # taught that a signal begins: the others see it mirrored before its start
LATEST: Final = max(RESIDUALS)


def find_margin(version: int = LATEST) -> int:
    """Frames on either side that a frame's shares depend on: features, four convolutions of three frames, the middle,
    whose layers reach 1, 2, 4 … frames.
    """
    return REACH + LEVELS + (1 << RESIDUALS[version])


def compute_shares(left: Spectra, right: Spectra, version: int = LATEST, before: int = 0, after: int = 0) -> Singles:
    """How much of each line is the voice, 0 … 1, by the spectra of both channels, (frames, lines): shares of all
    frames but the first `before` and the last `after`, (frames − before − after, lines).

    Lines from LINES on aren't voice. What lies less than a margin from either end is judged as if silence lay beyond.
    """
    shares = np.zeros((len(left) - before - after, left.shape[1]), np.float32)
    masked = min(LINES, left.shape[1])

    def take_lines(spectrum: Spectra) -> Spectra:
        lines = np.zeros((len(spectrum), LINES), np.complex64)
        lines[:, :masked] = spectrum[:, :masked]
        return lines

    features = compute_features(take_lines(left), take_lines(right))
    shares[:, :masked] = run_network(*features, load_weights(version), before, after)[:, :masked]
    return shares


def run_network(of_bands: Singles, of_lines: Singles, weights: Weights, before: int = 0, after: int = 0) -> Singles:
    """Shares, (frames − before − after, lines), of the features of bands (frames, bands, n) and of lines (frames, n,
    lines).
    """

    def both(name: str) -> tuple[Singles, Singles]:
        return weights[f"{name}.weights"], weights[f"{name}.bias"]

    x = layers.convolution(of_bands, *both("enter"))
    levels = []
    for n in range(LEVELS):
        levels.append(x)
        x = layers.convolution(x, *both(f"down{n}"), step=2)
    residuals = sum(name.startswith("near") and name.endswith("weights") for name in weights)
    start, end = 0, len(x)  # of the frames that x holds
    for n in range(residuals + 1):
        # Frames that no layer sees from here on are dropped.
        reach = (1 << residuals) - (1 << n)
        first, last = max(before - reach, 0), min(len(of_bands) - after + reach, len(of_bands))
        x, start, end = x[first - start : last - start], first, last
        if n < residuals:
            x = layers.residual(x, both(f"near{n}"), both(f"back{n}"), dilation=2**n)
        if n < residuals - 1:
            x = layers.across(x, *(both(f"{part}{n}") for part in ("narrow", "whole", "apart", "widen")))
    inner = slice(start, end)
    for n in reversed(range(LEVELS)):
        x = layers.upward(x, both(f"lift{n}"), levels[n][inner], both(f"smooth{n}"))
    context = np.ascontiguousarray(layers.mix(x, *both("context")).transpose(0, 2, 1))
    return layers.shares(context, of_lines[inner], weights["line0.weights"], both("line1"), both("line2"))


def warm_up() -> None:
    """Compile everything for the types it is called with."""
    silence = np.zeros((1, LINES), np.complex64)
    compute_shares(silence, silence)


@cache
def load_weights(version: int = LATEST) -> Weights:
    """The weights of a version, which `make learn` has left beside this module, as float32.

    Products of matrices of the whole process are held to one thread each: stretches are computed side by side by
    threads of our own, and a product must not depend on how many others are under way.
    """
    limit_threads()
    with (resources.files(__package__) / f"voice-{version}.npz").open("rb") as file, np.load(file) as stored:
        return {name: np.ascontiguousarray(stored[name], np.float32) for name in stored.files}
