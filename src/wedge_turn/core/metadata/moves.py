"""Where a sample of a file lies in what is made of it."""

from dataclasses import dataclass
from fractions import Fraction


@dataclass(frozen=True)
class Move:
    """Samples come `offset` later (earlier where negative) in a file of so many frames, at `ratio` times the rate."""

    ratio: Fraction
    offset: int
    frames: int

    def place(self, place: int) -> int:
        """Where a place of the old file is in the new one, to the nearest sample; it may lie outside."""
        return round(place * self.ratio) + self.offset
