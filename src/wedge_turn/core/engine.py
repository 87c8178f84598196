"""Any stretch of any clip, computed when somebody looks or listens.

A clip is held as a **linear form over source channels**: each of its channels is a sum of taps

    out[t] = Σ_k  gain_k · source_k[t − offset_k, channel_k]     for t in [start_k, stop_k)

Composing turns composes taps: gains multiply, offsets add, windows intersect, equal taps add up, and what
adds up to zero is gone. So a chain of matrix turns costs what one costs, and a split of a merge *is* the
source. Taps are summed in a fixed order, sample by sample: a stretch computed alone equals the same stretch
of the whole to the bit, whatever the block size.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np

from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.pcm import Block
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.plan import Sheet, Step, parse_ref
from wedge_turn.core.turns import Outcome


class Signal(Protocol):
    """Anything with channels that can be read: silence outside its frames."""

    @property
    def form(self) -> Form: ...

    def read(self, start: int, frames: int) -> Block: ...


@dataclass(frozen=True)
class Tap:
    """One source channel's part in one channel of a clip; `start` and `stop` are on the clip's axis."""

    source: WavFile
    channel: int
    gain: float
    offset: int
    start: int
    stop: int

    @property
    def place(self) -> tuple[int, int, int, int, int]:
        """What two taps must share for their gains to add up."""
        return (id(self.source), self.channel, self.offset, self.start, self.stop)


@dataclass(frozen=True)
class Clip:
    """A clip as taps, one tuple for each of its channels."""

    form: Form
    channels: tuple[tuple[Tap, ...], ...]

    def read(self, start: int, frames: int) -> Block:
        """Samples as float64 (frames, channels); silence outside the clip."""
        out = np.zeros((frames, len(self.channels)))
        blocks: dict[tuple[int, int], Block] = {}
        for i, taps in enumerate(self.channels):
            for n, tap in enumerate(taps):
                first, last = max(start, tap.start), min(start + frames, tap.stop)
                if last <= first:
                    continue
                key = (id(tap.source), tap.offset)
                if key not in blocks:
                    blocks[key] = tap.source.read(start - tap.offset, frames)
                part = blocks[key][first - start : last - start, tap.channel]
                part = part if tap.gain == 1.0 else tap.gain * part
                if n == 0:
                    out[first - start : last - start, i] = part
                else:
                    out[first - start : last - start, i] += part
        return out


def clip_of(source: WavFile) -> Clip:
    """A source as a clip."""
    stop = source.form.frames
    taps = tuple((Tap(source, channel, 1.0, 0, 0, stop),) for channel in range(source.form.channels))
    return Clip(source.form, taps)


def apply(outcome: Outcome, inputs: Sequence[Clip]) -> tuple[Clip, ...]:
    """The clips that a turn's outcome makes of these clips."""
    placed = [
        tuple(_placed(taps, offset, outcome.frames))
        for clip, offset in zip(inputs, outcome.offsets, strict=True)
        for taps in clip.channels
    ]
    rows = iter(outcome.matrix)
    return tuple(
        Clip(output.form, tuple(_mixed(next(rows), placed) for _ in range(output.form.channels)))
        for output in outcome.outputs
    )


def _placed(taps: Iterable[Tap], offset: int, frames: int) -> Iterable[Tap]:
    for tap in taps:
        start, stop = max(tap.start + offset, 0), min(tap.stop + offset, frames)
        if start < stop:
            yield replace(tap, offset=tap.offset + offset, start=start, stop=stop)


def _mixed(row: Iterable[float], placed: Sequence[tuple[Tap, ...]]) -> tuple[Tap, ...]:
    together: dict[tuple[int, int, int, int, int], Tap] = {}
    for gain, taps in zip(row, placed, strict=True):
        if gain == 0.0:
            continue
        for tap in taps:
            before = together.get(tap.place)
            total = float(gain) * tap.gain + (before.gain if before else 0.0)
            together[tap.place] = replace(tap, gain=total)
    return tuple(tap for tap in together.values() if tap.gain != 0.0)


class Engine:
    """Clips of a worked-out plan. `opened` gives the PCM file of a source id; each is opened once."""

    def __init__(self, sheet: Sheet, opened: Callable[[str], WavFile]) -> None:
        self.sheet = sheet
        self._opened = opened
        self._clips: dict[str, Clip] = {}

    def clip(self, ref: str) -> Clip:
        """Raises NotFoundError for a reference that the plan does not have."""
        info = self.sheet.info(ref)
        if ref not in self._clips:
            kind, key, output = parse_ref(ref)
            if kind == "source":
                # A source keeps the form it came in with; its working copy may be stored in another.
                self._clips[ref] = replace(clip_of(self._opened(key)), form=info.form)
            else:
                self._clips[ref] = self.outputs(self.sheet.plan.step(key))[output]
        return self._clips[ref]

    def outputs(self, step: Step) -> tuple[Clip, ...]:
        return apply(self.sheet.outcomes[step.id], [self.clip(ref) for ref in step.inputs])


def side_by_side(clips: Sequence[Clip]) -> Clip:
    """All channels of several clips of one rate as one clip, each from its own start."""
    first = clips[0].form
    form = first.model_copy(
        update={
            "channels": sum(clip.form.channels for clip in clips),
            "frames": max(clip.form.frames for clip in clips),
            "speaker_mask": 0,
        }
    )
    return Clip(form, tuple(taps for clip in clips for taps in clip.channels))
