"""The classic way: one channel is inverted and added to the other, and what both share cancels.

    whole band            sides = L − R                                        mono
    lows=both             sides = out(L, R) + band(L − R)    in both channels  stereo
    lows=left             sides = L − band(R)                                  mono; what R has outside the band is gone
    lows=right            sides = R − band(L)                                  mono
    centre                (L + R)/2, of the whole band alone                   mono

`band` passes what lies between the limits and `out` what does not; they add up to the original. Level: what is in one
channel alone keeps its own. Of the whole band, L = centre + sides/2 and R = centre − sides/2; within a band there is no
centre that adds up with the sides and is one. Arithmetic is float64; without limits every sample is one exact
difference.
"""

from collections.abc import Callable
from typing import Literal

from wedge_turn.core.audio import Block
from wedge_turn.core.centre.bands import design_band_filter, filter_channels
from wedge_turn.core.pages import PAGE

Lows = Literal["both", "left", "right"]
Read = Callable[[int, int], Block]


class Difference:
    """Pages of sides and centre. Channels: those of the sides (one or two), then the one of the centre."""

    size = PAGE

    def __init__(self, read: Read, rate: int, low: float, high: float, lows: Lows, side_channels: int) -> None:
        """`side_channels` is two where the original is kept outside the band in both, else one."""
        self._read = read
        self._taps = design_band_filter(rate, low, high)
        self._lows = lows
        self._side_channels = side_channels

    def page(self, start: int) -> tuple[Block, Block]:
        """Frames [start, start + PAGE) of the sides and of the centre."""
        half = (len(self._taps) - 1) // 2
        around = self._read(start - half, PAGE + 2 * half)
        within = around[half : half + PAGE]
        if self._lows == "both":
            band = filter_channels(around[:, :1] - around[:, 1:], self._taps, PAGE)
            sides = band if self._side_channels == 1 else within - filter_channels(around, self._taps, PAGE) + band
        elif self._lows == "left":
            sides = within[:, :1] - filter_channels(around[:, 1:], self._taps, PAGE)
        else:
            sides = within[:, 1:] - filter_channels(around[:, :1], self._taps, PAGE)
        return sides, 0.5 * (within[:, :1] + within[:, 1:])
