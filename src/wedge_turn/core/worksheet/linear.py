"""A clip as a **linear form over source channels**: each of its channels is a sum of taps

    out[t] = Σ_k  gain_k · source_k[t − offset_k, channel_k]     for t in [start_k, stop_k)

Composing turns composes taps: gains multiply, offsets add, windows intersect, equal taps add up, and what
adds up to zero is gone. So a chain of matrix turns costs what one costs, and a split of a merge *is* the
source. What is needed to store a clip exactly follows from its taps alone, without its samples.
"""

from collections.abc import Callable, Hashable, Iterable, Sequence
from dataclasses import dataclass
from typing import Final, Generic, TypeVar

from wedge_turn.core.form import BY_DEPTH, ENCODINGS, Encoding
from wedge_turn.core.turns import MatrixOutcome

S = TypeVar("S", bound=Hashable)
T = TypeVar("T", bound=Hashable)
# Beyond +240 dB everything that can be heard exceeds what is written, and a gain must stay a number.
MAX_GAIN: Final = 1e12
# A gain that needs more binary places than this is taken for one that needs all there are.
MAX_PLACES: Final = 16


@dataclass(frozen=True)
class Tap(Generic[S]):
    """One source channel's part in one channel of a clip; `start` and `stop` are on the clip's axis."""

    source: S
    channel: int
    gain: float
    offset: int
    start: int
    stop: int

    @property
    def place(self) -> tuple[S, int, int, int, int]:
        """What two taps must share for their gains to add up."""
        return (self.source, self.channel, self.offset, self.start, self.stop)


Taps = tuple[tuple[Tap[S], ...], ...]


def make_taps(source: S, channels: int, frames: int) -> Taps[S]:
    """A source as it is."""
    return tuple((Tap(source, channel, 1.0, 0, 0, frames),) for channel in range(channels))


def map_sources(taps: Taps[S], resolve: Callable[[S], T]) -> Taps[T]:
    """The same taps, each on `resolve` of its source."""
    return tuple(
        tuple(Tap(resolve(tap.source), tap.channel, tap.gain, tap.offset, tap.start, tap.stop) for tap in channel)
        for channel in taps
    )


def compose(outcome: MatrixOutcome, inputs: Sequence[Taps[S]], output: int) -> Taps[S]:
    """The taps of one output of a matrix turn on clips of these taps."""
    channels = [taps for clip in inputs for taps in clip]
    placed = [
        tuple(_shift(taps, offset, outcome.frames)) for taps, offset in zip(channels, outcome.offsets, strict=True)
    ]
    first = sum(earlier.form.channels for earlier in outcome.outputs[:output])
    rows = outcome.matrix[first : first + outcome.outputs[output].form.channels]
    return tuple(_mix_row(row, placed) for row in rows.tolist())


def _shift(taps: Iterable[Tap[S]], offset: int, frames: int) -> Iterable[Tap[S]]:
    for tap in taps:
        start, stop = max(tap.start + offset, 0), min(tap.stop + offset, frames)
        if start < stop:
            yield Tap(tap.source, tap.channel, tap.gain, tap.offset + offset, start, stop)


def _mix_row(row: Iterable[float], placed: Sequence[tuple[Tap[S], ...]]) -> tuple[Tap[S], ...]:
    together: dict[tuple[S, int, int, int, int], Tap[S]] = {}
    for gain, taps in zip(row, placed, strict=True):
        if gain == 0.0:
            continue
        for tap in taps:
            before = together.get(tap.place)
            total = gain * tap.gain + (before.gain if before else 0.0)
            together[tap.place] = Tap(tap.source, tap.channel, total, tap.offset, tap.start, tap.stop)
    return tuple(tap for tap in together.values() if tap.gain != 0.0)


def bits_needed(taps: Taps[S], stored: dict[S, Encoding]) -> int | None:
    """How many bits hold every sample of the clip exactly, but for what exceeds full scale; None where none do."""
    needed = 1
    for channel in taps:
        for tap in channel:
            places = _places(tap.gain)
            if places is None:
                return None
            needed = max(needed, stored[tap.source].bits + places)
    return needed


def _places(gain: float) -> int | None:
    """Binary places of a gain: 0 for whole numbers, 1 for halves; None for more than a few."""
    for places in range(MAX_PLACES + 1):
        if (gain * 2**places).is_integer():
            return places
    return None


def smallest_exact_encoding(
    taps: Taps[S], stored: dict[S, Encoding], inputs: Iterable[Encoding], extra_bits: int
) -> Encoding:
    """How a turn's result is stored: the smallest encoding that holds its samples exactly, but no deeper than what
    goes in and the extra bits the turn asks for. Floats stay floats.

    So a mix keeps the depth of its sources, and is dithered where that does not hold it; an encode gets its bit more;
    and a decode of an encode is as deep as what was encoded.
    """
    sources = [stored[tap.source] for channel in taps for tap in channel] or list(inputs)
    if any(encoding.is_float for encoding in sources):
        return BY_DEPTH["float"] if max(e.bits for e in sources) <= 24 else BY_DEPTH["double"]
    most = max(encoding.bits for encoding in inputs) + extra_bits
    needed = bits_needed(taps, stored)
    bits = most if needed is None else min(needed, most)
    bits = max(bits, *(encoding.bits for encoding in sources))
    return min((e for e in ENCODINGS.values() if e.bits >= bits), key=lambda e: (e.is_float, e.width))


def at_least(inputs: Iterable[Encoding], bits: int) -> Encoding:
    """The deepest of these, or an integer encoding of so many bits where they are shallower."""
    deepest = max(inputs, key=lambda encoding: (encoding.is_float, encoding.bits))
    if deepest.is_float or deepest.bits >= bits:
        return deepest
    return min((e for e in ENCODINGS.values() if e.bits >= bits and not e.is_float), key=lambda e: e.width)
