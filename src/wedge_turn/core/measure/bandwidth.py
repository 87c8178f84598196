"""Where a spectrum ends sharply, as lossy coders leave it: they drop everything above 16 kHz or so.

A microphone or a converter rolls off over kilohertz. A coder's low-pass falls by 40 dB or more within 600 Hz. Looked
for between 14 and 20.5 kHz, where coders put it (common practice, no source), and only where there is sound below it.
"""

from typing import Final

import numpy as np
import scipy
from pydantic import BaseModel, ConfigDict

from wedge_turn.core.audio import Block
from wedge_turn.core.windows import hann

LOWEST, HIGHEST, STEP = 14_000.0, 20_500.0, 100.0  # Hz
_BELOW: Final = (-700.0, -100.0)  # Hz from the edge
_ABOVE: Final = (500.0, 900.0)
_FROM_NYQUIST: Final = 300.0
MIN_DROP_DB: Final = 40.0
# What lies further below the strongest part of a spectrum than this is no sound that could end.
MIN_SOUND_DB: Final = -85.0
SIZE: Final = 4096
MAX_FRAMES: Final = 200


class SharpEnd(BaseModel):
    """Above which frequency there is next to nothing, and by how many dB the spectrum falls there."""

    model_config = ConfigDict(frozen=True)

    hertz: float
    drop_db: float


class Spectrum:
    """The power of all channels together, over frames that lie evenly in the signal."""

    def __init__(self, rate: int, frames: int) -> None:
        self.rate = rate
        self.every = max(1, frames // SIZE // MAX_FRAMES)
        self.window = hann(SIZE).astype(np.float32)
        self.power = np.zeros(SIZE // 2 + 1)

    def take(self, block: Block, start: int) -> None:
        """`start` is a multiple of SIZE."""
        if self.rate / 2 < LOWEST + _ABOVE[1] + _FROM_NYQUIST:
            return
        first = start // SIZE
        for n in range(len(block) // SIZE):
            if (first + n) % self.every == 0:
                frame = block[n * SIZE : (n + 1) * SIZE].astype(np.float32) * self.window[:, None]
                spectrum = scipy.fft.rfft(frame, axis=0)
                self.power += (spectrum.real**2 + spectrum.imag**2).sum(axis=1)

    def sharp_end(self) -> SharpEnd | None:
        """Where it ends, if it ends sharply."""
        if not self.power.any():
            return None
        hertz = np.arange(self.power.size) * self.rate / SIZE
        highest = min(HIGHEST, self.rate / 2 - _FROM_NYQUIST - _ABOVE[1])
        levels = 10 * np.log10(np.maximum(self.power, self.power.max() * 1e-20))
        sharp_end = None
        for edge in np.arange(LOWEST, highest + 1, STEP).tolist():
            below, above = (
                float(levels[(hertz >= edge + lower) & (hertz < edge + upper)].mean())
                for lower, upper in (_BELOW, _ABOVE)
            )
            drop = round(below - above, 1)
            sounds = below - float(levels.max()) >= MIN_SOUND_DB
            if sounds and drop >= MIN_DROP_DB and (sharp_end is None or drop > sharp_end.drop_db):
                sharp_end = SharpEnd(hertz=edge, drop_db=drop)
        return sharp_end
