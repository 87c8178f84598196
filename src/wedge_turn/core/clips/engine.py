"""Any stretch of any clip, computed when somebody looks or listens.

A clip is held as taps on open files (`linear`). Taps are summed in a fixed order, sample by sample: a stretch
computed alone equals the same stretch of the whole to the bit, whatever the block size.
"""

import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from typing import Protocol

import numpy as np

from wedge_turn.core.audio import LIMIT, Block, WavFile
from wedge_turn.core.form import ENCODINGS, Encoding, Form
from wedge_turn.core.metadata import (
    CUES,
    Carried,
    Track,
    kind_of,
    make_bext,
    make_ixml,
    move_chunks,
    with_track_lines,
    with_tracks,
)
from wedge_turn.core.pages import Pages
from wedge_turn.core.turns import AnyTurn, ClipInfo, Computation, MatrixOutcome, Output, WindowOutcome
from wedge_turn.core.worksheet import (
    RangeCrossfade,
    Sheet,
    Step,
    Taps,
    bits_needed,
    compose,
    make_taps,
    map_sources,
    parse_ref,
    step_ref,
)


class Signal(Protocol):
    """Anything with channels that can be read: silence outside its frames."""

    @property
    def form(self) -> Form: ...

    def read(self, start: int, frames: int) -> Block: ...


class Sound(Protocol):
    """What taps are on: an open file, or what a window turn computes."""

    @property
    def form(self) -> Form: ...

    @property
    def encoding(self) -> Encoding: ...

    @property
    def name(self) -> str: ...

    def read(self, start: int, frames: int) -> Block: ...

    @property
    def damaged(self) -> int: ...

    def carried(self) -> Carried: ...

    @property
    def kinds(self) -> tuple[bytes, ...]: ...

    @property
    def tracks(self) -> tuple[Track, ...]: ...

    def __hash__(self) -> int: ...


@dataclass(frozen=True)
class Clip:
    """A clip as taps, one tuple for each of its channels."""

    form: Form
    channels: Taps[Sound]

    @property
    def sources(self) -> tuple[Sound, ...]:
        """What its taps are on, each once."""
        return tuple(dict.fromkeys(tap.source for taps in self.channels for tap in taps))

    @cached_property
    def whole(self) -> tuple[Sound, int] | None:
        """The source that the clip is, channel for channel, and by how many frames it is moved; else None."""
        first = self.channels[0][0] if self.channels and self.channels[0] else None
        if first is None or first.source.form.channels != len(self.channels):
            return None
        # Read past a narrower window the source would be heard where there should be silence.
        whole_source = replace(first, gain=1.0, start=first.offset, stop=first.offset + first.source.form.frames)
        same = all(taps == (replace(whole_source, channel=i),) for i, taps in enumerate(self.channels))
        return (first.source, first.offset) if same else None

    def fits(self, encoding: Encoding) -> bool:
        """Whether every sample within full scale can be stored in this encoding as it is.

        A sum of floats is not exactly representable: only one of them alone is unchanged.
        """
        stored = {source: source.encoding for source in self.sources}
        if any(e.is_float for e in stored.values()):
            alone = all(len(taps) <= 1 for taps in self.channels)
            if not encoding.is_float or not alone:
                return False
        needed = bits_needed(self.channels, stored)
        return needed is not None and needed <= encoding.bits

    def spares_dither(self, encoding: Encoding) -> bool:
        """Whether it is computed and still has a channel most samples of which are those that went in, which this
        encoding holds: those are not dithered with the others.
        """
        alone = [taps[0].source for taps in self.channels if len(taps) == 1 and abs(taps[0].gain) == 1.0]
        unchanged = any(
            source.keeps_samples if isinstance(source, Computed) else source.encoding.bits <= encoding.bits
            for source in alone
        )
        return self.is_computed and unchanged

    @property
    def is_computed(self) -> bool:
        """Whether any of it is computed in pages when it is read."""
        return any(isinstance(source, Computed) for source in self.sources)

    def end_ahead(self, start: int) -> int:
        """Up to which frame it may be computed ahead of one that is read; `start` where nothing is computed."""
        return min((source.end_ahead(start) for source in self.sources if isinstance(source, Computed)), default=start)

    @property
    def damaged(self) -> int:
        """How many samples of its sources are damage, for which silence is read."""
        return sum(source.damaged for source in self.sources)

    def carried(self) -> Carried:
        """What its first source carries: what counts samples is where it is in this clip, the channels are those that
        it has. Where only another source says when it was recorded, that one's bext goes along.
        """
        first = next((tap for taps in self.channels for tap in taps), None)
        if first is None:
            return ()
        chunks = _of_channels(move_chunks(first.source.carried(), first.offset, self.form.frames), self.tracks)
        if self.form.start_time is not None and not any(name == b"bext" for name, _ in chunks):
            others = (body for source in self.sources for name, body in source.carried() if name == b"bext")
            chunks = (*chunks, (b"bext", next(others, make_bext(self.form.start_time))))
        named = len(self.sources) > 1 and any(track.name for track in self.tracks)
        # What is merged from files with names keeps them, though the first of them has no iXML.
        if named and not any(name == b"iXML" for name, _ in chunks):
            return (*chunks, (b"iXML", make_ixml(self.tracks)))
        return chunks

    @cached_property
    def tracks(self) -> tuple[Track, ...]:
        """What the files say of its channels: of one that is mixed from several, nothing."""
        track_names = {source: source.tracks for source in self.sources}
        return tuple(
            track_names[taps[0].source][taps[0].channel] if len(taps) == 1 else Track() for taps in self.channels
        )

    def find_lost(self, kept: Carried) -> list[bytes]:
        """The kinds of chunks of its sources that aren't among `kept`, but for cue points that lie outside it."""
        has = {kind_of(name, body) for name, body in kept}
        first, *others = self.sources or (None,)
        lost = [kind for kind in first.kinds if kind not in CUES] if first else []
        lost += [kind for source in others for kind in source.kinds if first is None or kind not in first.kinds]
        return [kind for kind in dict.fromkeys(lost) if kind not in has]

    @cached_property
    def _may_exceed(self) -> bool:
        """Whether samples beyond ±10^6 can come of its gains."""
        highest = (
            sum(abs(tap.gain) * (LIMIT if tap.source.encoding.is_float else 1.0) for tap in taps)
            for taps in self.channels
        )
        return max(highest, default=0.0) > LIMIT

    def read(self, start: int, frames: int) -> Block:
        """Samples as float64 (frames, channels), held within ±10^6; silence outside the clip."""
        block = self.mixed(start, frames)
        return np.clip(block, -LIMIT, LIMIT) if self._may_exceed else block

    def mixed(self, start: int, frames: int) -> Block:
        """The sums of its taps as they are, however high: what a next turn is computed from when it is proved."""
        if self.whole is not None:
            source, offset = self.whole
            return source.read(start - offset, frames)
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


class Computed:
    """One result of a window turn: samples computed in pages, with what its input carries."""

    def __init__(self, pages: Pages, part: int, output: Output, heard: Clip, *, keeps_samples: bool) -> None:
        self.form = output.form
        self.keeps_samples = keeps_samples
        self.name = output.name
        self.encoding = ENCODINGS["f64"]
        self._pages = pages
        self._part = part
        self._heard = heard

    def end_ahead(self, start: int) -> int:
        return self._pages.end_ahead(start)

    def read(self, start: int, frames: int) -> Block:
        return self._pages.read(start, frames, self._part, self.form.channels)

    @property
    def damaged(self) -> int:
        return self._heard.damaged

    def carried(self) -> Carried:
        """What its input carries, moved along where it has another sample rate."""
        ratio = Fraction(self.form.rate, self._heard.form.rate)
        carried = self._heard.carried()
        return carried if ratio == 1 else move_chunks(carried, 0, self.form.frames, ratio)

    @property
    def kinds(self) -> tuple[bytes, ...]:
        return self._heard.sources[0].kinds if self._heard.sources else ()  # none where everything cancels

    @property
    def tracks(self) -> tuple[Track, ...]:
        """Those of its input where it has the same channels."""
        same = self.form.channels == self._heard.form.channels
        return self._heard.tracks if same else (Track(),) * self.form.channels


def _of_channels(chunks: Carried, tracks: tuple[Track, ...]) -> Carried:
    """The chunks with iXML, and the lines of bext, for these channels; without iXML where it can't be read."""
    described = {b"iXML": with_tracks, b"bext": with_track_lines}
    bodies = ((name, described[name](body, tracks) if name in described else body) for name, body in chunks)
    return tuple((name, body) for name, body in bodies if body is not None)


def make_clip(source: Sound) -> Clip:
    """A source as a clip."""
    return Clip(source.form, make_taps(source, source.form.channels, source.form.frames))


def apply(outcome: MatrixOutcome, inputs: Sequence[Clip]) -> tuple[Clip, ...]:
    """The clips that a turn's outcome makes of these clips."""
    taps = [clip.channels for clip in inputs]
    return tuple(Clip(output.form, compose(outcome, taps, n)) for n, output in enumerate(outcome.outputs))


class Engine:
    """Clips of a worked-out plan. `opened` gives the PCM file of a source id; each is opened once."""

    def __init__(
        self,
        sheet: Sheet,
        opened: Callable[[str], WavFile],
        pages: Callable[[str, Callable[[], Pages]], Pages] = lambda _, make: make(),
    ) -> None:
        """`pages` keeps what window turns computed for the next engine, by the key of what they make."""
        self.sheet = sheet
        self._opened = opened
        self._pages = pages
        self._sounds: dict[str, Sound] = {}
        self._clips: dict[str, Clip] = {}
        self._lock = threading.RLock()  # files that are written side by side ask for the same clips

    def clip(self, ref: str) -> Clip:
        """Raises NotFoundError for a reference that the plan does not have."""
        taps = self.sheet.taps(ref)
        with self._lock:
            if ref not in self._clips:
                # A source keeps the form it came in with; its working copy may be stored in another.
                self._clips[ref] = Clip(self.sheet.info(ref).form, map_sources(taps, self._sound))
            return self._clips[ref]

    def file(self, key: str) -> WavFile:
        """The PCM of a source, by its id."""
        return self._opened(key)

    def with_plan(self, *steps: Step) -> "Engine":
        """An engine with more steps at the end of its plan. Raises what working them out raises."""
        return Engine(self.sheet.with_step(*steps), self._opened, self._pages)

    def preview(self, turn: AnyTurn, inputs: tuple[str, ...]) -> Clip:
        """The first thing a matrix turn would make of these clips, whether or not the plan has such a step."""
        outcome = turn.outcome([self.sheet.info(ref) for ref in inputs])
        if isinstance(outcome, WindowOutcome):
            raise TypeError(f"{turn.kind} is not a matrix turn")
        return apply(outcome, [self.clip(ref) for ref in inputs])[0]

    def _sound(self, ref: str) -> Sound:
        if ref not in self._sounds:
            kind, key, _ = parse_ref(ref)
            if kind == "source":
                self._sounds[ref] = self._opened(key)
            else:
                self._compute(self.sheet.plan.step(key))
        return self._sounds[ref]

    def _compute(self, step: Step) -> None:
        """Prepare the results of a window turn; their pages are computed when somebody looks or listens."""
        (ref,) = step.inputs
        clip, info, outcome = self.clip(ref), self.sheet.info(ref), self.sheet.outcomes[step.id]
        keeps_samples = isinstance(outcome, WindowOutcome) and outcome.keeps_samples
        computation = _computation(step, clip, info)
        key = self.sheet.key(step_ref(step.id, 0))
        pages = self._pages(key, lambda: Pages(computation.page, outcome.frames, computation.size))
        for n, (output, part) in enumerate(zip(outcome.outputs, computation.results, strict=True)):
            self._sounds[step_ref(step.id, n)] = Computed(pages, part, output, clip, keeps_samples=keeps_samples)


def _computation(step: Step, clip: Clip, info: ClipInfo) -> Computation:
    """How what a step makes of one clip is computed in pages."""
    outcome = step.turn.outcome([info]) if step.over else None
    if step.over is None or not isinstance(outcome, MatrixOutcome):
        return start_computation(step, clip.read, info)
    return Computation(RangeCrossfade(clip.read, apply(outcome, [clip])[0].read, step.over, info.form).page, (0,))


def start_computation(step: Step, read: Callable[[int, int], Block], info: ClipInfo) -> Computation:
    """How a window turn computes in pages from what `read` gives of its clip, over a range or all of it."""
    inner = step.turn.computation(read, info)
    if step.over is None:
        return inner
    outcome = step.turn.outcome([info])
    pages, part, channels = Pages(inner.page, outcome.frames, inner.size), inner.results[0], info.form.channels

    def turned(start: int, frames: int) -> Block:
        return pages.read(start, frames, part, channels)

    return Computation(RangeCrossfade(read, turned, step.over, info.form).page, (0,))


def join_channels(clips: Sequence[Clip]) -> Clip:
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
