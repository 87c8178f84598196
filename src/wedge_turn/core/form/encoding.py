"""How one sample is stored, and what that holds exactly.

Samples are little-endian. In the engine a sample is a float64 where integers of N bits are divided by
2^(N−1), so that full scale is −1 … 1 − 2^(1−N); 8-bit WAV is unsigned with silence at 128.
float64 holds every integer of up to 53 bits, so decoding and encoding return the same bytes.
"""

from dataclasses import dataclass
from typing import Final, Literal

EncodingName = Literal["u8", "s16", "s24", "s32", "f32", "f64"]
DepthName = Literal["8", "16", "24", "32", "float", "double"]


@dataclass(frozen=True)
class Encoding:
    """One way to store a sample: bytes each, whether it is a float, and the whole bits it holds exactly."""

    name: EncodingName
    depth: DepthName
    width: int
    is_float: bool
    bits: int

    @property
    def text(self) -> str:
        """As it stands before a noun or in brackets: 24-bit, 32-bit float."""
        return f"{8 * self.width}-bit{' float' if self.is_float else ''}"

    @property
    def silence(self) -> int:
        """The byte that silence is made of."""
        return 128 if self.name == "u8" else 0


ENCODINGS: Final[dict[EncodingName, Encoding]] = {
    "u8": Encoding("u8", "8", 1, False, 8),
    "s16": Encoding("s16", "16", 2, False, 16),
    "s24": Encoding("s24", "24", 3, False, 24),
    "s32": Encoding("s32", "32", 4, False, 32),
    "f32": Encoding("f32", "float", 4, True, 24),
    "f64": Encoding("f64", "double", 8, True, 53),
}
BY_DEPTH: Final[dict[DepthName, Encoding]] = {e.depth: e for e in ENCODINGS.values()}


def depth_text(name: DepthName) -> str:
    """A depth as people say it."""
    return f"{name}-bit" if name.isdigit() else "64-bit float" if name == "double" else "32-bit float"


def common_encoding(encodings: list[Encoding]) -> Encoding:
    """The smallest encoding that holds every sample of all of these exactly: the deeper is kept."""
    needs_float = any(e.is_float for e in encodings)
    bits = max(e.bits for e in encodings)
    fits = [e for e in ENCODINGS.values() if e.bits >= bits and (e.is_float or not needs_float)]
    return min(fits, key=lambda e: (e.is_float, e.width))
