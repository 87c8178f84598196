"""How well a voice can be separated from a mix, estimated by the voice mask before anything is removed.

With t the energy of a line in both channels and g its share of voice by the mask, the error of the mask is about
t·g·(1 − g), as that of a Wiener filter with these shares (Wiener, 1949, from memory). The expected level of the voice
over that error (SDR), summed over the vocal range, is

    10·log10(Σ t·g / Σ t·g·(1 − g)) − OPTIMISM

OPTIMISM, by which the mask is too sure of itself, was measured on songs with known parts that it was not taught on
(docs/centre.md).
"""

import math
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, computed_field

from wedge_turn.core.audio import Block
from wedge_turn.core.centre.spectra import OVERLAP, make_window, sum_three_frames, transform, turn_plane, window_size
from wedge_turn.core.centre.voice.network import compute_shares

VOCAL_RANGE: Final = (180.0, 4_000.0)  # Hz
OPTIMISM: Final = 1.8  # dB
SHARED: Final = 0.3  # u of the wedge: below, a line counts as what both channels share
# Less than this counts as no voice.
MIN_EXPECTED_DB: Final = 2.5
MIN_VOICE: Final = 0.05
_TINY: Final = 1e-20


class Forecast(BaseModel):
    """What to expect of a centre turn with the voice method: the share of the energy in the vocal range that is voice,
    what of the voice is in the middle, or at the position, the correlation of the rest, and how far above what is wrong
    in it the voice should come out, in dB.
    """

    model_config = ConfigDict(frozen=True)

    voice: float
    in_the_middle: float
    rest_correlation: float
    expected_db: float

    @property
    def has_voice(self) -> bool:
        return self.voice >= MIN_VOICE and self.expected_db >= MIN_EXPECTED_DB

    @computed_field  # type: ignore[prop-decorator]
    @property
    def better(self) -> Literal["voice", "wedge"]:
        """The method that should do better: without a voice the wedge takes what is in the middle, whatever it is."""
        return "voice" if self.has_voice else "wedge"


def forecast_voice(block: Block, rate: int, position: float = 0.0) -> Forecast:
    """Of frames (n, 2) at a rate in Hz, all of them, for a turn at a position, −1 … 1. Silence has no voice."""
    size = window_size(rate)
    hop, window = size // OVERLAP, make_window(size)
    around = hop, hop + -len(block) % hop  # the frames that reach into it, as the turn takes them
    channels = [np.pad(channel, around) for channel in turn_plane(block[:, 0], block[:, 1], position)]
    count = (len(channels[0]) - size) // hop + 1
    left, right = (transform(channel, count, window) for channel in channels)
    shares = compute_shares(left, right)
    hertz = np.arange(size // 2 + 1) * rate / size
    inside = (hertz >= VOCAL_RANGE[0]) & (hertz <= VOCAL_RANGE[1])
    left, right, shares = left[:, inside], right[:, inside], shares[:, inside]
    energy = np.abs(left) ** 2 + np.abs(right) ** 2
    voice = shares * energy
    shared = sum_three_frames(np.abs(left - right) ** 2) < 2 * SHARED**2 * sum_three_frames(energy)
    total, of_voice = float(energy.sum()) + _TINY, float(voice.sum())
    doubt = float((voice * (1 - shares)).sum()) / (of_voice + _TINY)
    correlation = _correlate(*turn_plane(left * (1 - shares), right * (1 - shares), -position))
    expected = -10 * math.log10(max(doubt, 1e-4)) - OPTIMISM if of_voice > 0 else 0.0
    return Forecast(
        voice=round(of_voice / total, 3),
        in_the_middle=round(float(voice[shared].sum()) / (of_voice + _TINY), 3),
        rest_correlation=round(correlation, 2),
        expected_db=round(max(expected, 0.0), 1),
    )


def _correlate(left: NDArray[np.complexfloating], right: NDArray[np.complexfloating]) -> float:
    energies = [float((np.abs(channel) ** 2).sum()) for channel in (left, right)]
    return float((left * right.conj()).real.sum()) / (math.sqrt(energies[0] * energies[1]) + _TINY)
