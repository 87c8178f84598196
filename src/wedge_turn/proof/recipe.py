"""What is to be proved, as plain numbers: nothing here is computed, and all of it can stand in a manifest.

A step places the channels of its inputs on one time axis, multiplies every frame by a constant matrix, adds a constant,
and multiplies by the gains of its hushes:

    out[t, i] = g_i(t) · (added[i] + Σ_j  matrix[i][j] · in_j[t − offsets[j] − delays[j]])     for 0 ≤ t < frames,
                                                                                               else silence

`over` limits that to a stretch of its one input. References are `source:ID` or `step:ID:OUTPUT`.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal

EncodingName = Literal["u8", "s16", "s24", "s32", "f32", "f64"]
BITS = {"u8": 8, "s16": 16, "s24": 24, "s32": 32}
WIDTH = {"u8": 1, "s16": 2, "s24": 3, "s32": 4, "f32": 4, "f64": 8}


@dataclass(frozen=True)
class Source:
    """A PCM WAV that goes in."""

    path: Path
    channels: int
    frames: int
    rate: int
    encoding: EncodingName


@dataclass(frozen=True)
class Hush:
    """A stretch of one output channel, counted from 0, with the factor it is lowered by; `fade` is in frames."""

    channel: int
    start: int
    end: int
    gain: float
    fade: int


@dataclass(frozen=True)
class Over:
    """The stretch that a step is limited to, with its fades, in frames."""

    start: int
    end: int
    fade_in: int
    fade_out: int


@dataclass(frozen=True)
class Form:
    """What a clip is that goes into a step; `start_time` counts samples since midnight, `frame_rate` is that of its
    time code as a fraction, empty where it has none, and `drops` says that it drops numbers.
    """

    channels: int
    frames: int
    rate: int
    start_time: int | None = None
    frame_rate: str = ""
    drops: bool = False


@dataclass(frozen=True)
class Step:
    """`outputs` are the channels of each output. `inverse` is the matrix (channels in, channels out) of the way back,
    where there is one, `bits` the depth of the integers that go in, None for floats. What is `computed` can't be
    computed a second time from formulas, as a centre: there the numbers say only what goes in and how much comes out.
    `rate` is the new sample rate, where there is one.

    `turn` are its settings and `stretch` those of the range it is limited to, `forms` what goes in, and `picked` which
    channel of that names say is first: by these the numbers are held against the law of the turn (`laws`).
    """

    inputs: tuple[str, ...]
    matrix: tuple[tuple[float, ...], ...]
    offsets: tuple[int, ...]
    frames: int
    outputs: tuple[int, ...]
    inverse: tuple[tuple[float, ...], ...] | None = None
    bits: int | None = None
    delays: tuple[float, ...] = ()
    added: tuple[float, ...] = ()
    hushes: tuple[Hush, ...] = ()
    over: Over | None = None
    computed: bool = False
    rate: int | None = None
    turn: Mapping[str, Any] = field(default_factory=dict)
    stretch: Mapping[str, Any] | None = None
    bypassed: bool = False
    forms: tuple[Form, ...] = ()
    picked: tuple[int, ...] = ()

    @property
    def is_matrix(self) -> bool:
        """Whether matrix and offsets are all that it does to samples."""
        return not (self.added or self.hushes or self.over or any(self.delays))


@dataclass(frozen=True)
class Promise:
    """What a file carries: the chunks of a source, whose frames it has `offset` later, and when it starts."""

    source: str
    offset: int
    start_time: int | None


@dataclass(frozen=True)
class File:
    """A delivered WAV, what it holds, and what the writer says of it; all of this is checked. `seed` is that of the
    dither, None where there is none; `sparing` leaves samples without it that the depth holds. `followed` is the hash
    of the samples as they were compared while they were written, where they were; `xxh128` is empty where it is known
    from elsewhere that the file is what was written.
    """

    path: Path
    ref: str
    channels: int
    frames: int
    rate: int
    encoding: EncodingName
    mask: int = 0
    container: Literal["WAV", "BW64"] = "WAV"
    seed: int | None = None
    sparing: bool = False
    xxh128: str = ""
    clipped: tuple[int, ...] = ()
    followed: str = ""
    promise: Promise | None = None


@dataclass(frozen=True)
class Recipe:
    """Sources and steps by their ids."""

    sources: Mapping[str, Source]
    steps: Mapping[str, Step]

    def channels_of(self, ref: str) -> int:
        kind, key, *output = ref.split(":")
        return self.sources[key].channels if kind == "source" else self.steps[key].outputs[int(output[0])]

    def rate_of(self, ref: str) -> int:
        """The sample rate of a clip."""
        kind, key = ref.split(":")[:2]
        while kind == "step":
            step = self.steps[key]
            if step.rate is not None:
                return step.rate
            kind, key = step.inputs[0].split(":")[:2]
        return self.sources[key].rate

    def lineage(self, refs: list[str]) -> tuple[set[str], set[str]]:
        """The ids of the sources and of the steps that clips are made from."""
        sources: set[str] = set()
        steps: set[str] = set()
        refs = list(refs)
        while refs:
            kind, key = refs.pop().split(":")[:2]
            if kind == "source":
                sources.add(key)
            elif key not in steps:
                steps.add(key)
                refs += self.steps[key].inputs
        return sources, steps
