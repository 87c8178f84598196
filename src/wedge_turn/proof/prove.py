"""Finished files against what a recipe makes: every header, every sample, and the hash of the same bytes."""

import mmap
import threading
from collections import deque
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass, field
from random import Random
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from wedge_turn.proof import loops, wavs
from wedge_turn.proof.chunks import find_broken_promise
from wedge_turn.proof.disk import PAGE, OnDisk
from wedge_turn.proof.evaluate import Evaluation, Fresh, Heard, ResampledWronglyError, mix_channels
from wedge_turn.proof.laws import apply_laws
from wedge_turn.proof.loops import Room, floats
from wedge_turn.proof.recipe import BITS, File, Recipe, Step
from wedge_turn.proof.rules import Found, Rule
from wedge_turn.proof.wavs import Channel

TILE = 65_536  # frames: what is computed of them stays in the cache of one core
BLOCK = 2 * TILE  # frames read at a time
MAX_SAMPLES = 2**21  # of a block, whatever its channels
MIN_FOR_THREADS = 500_000  # samples that are not worth a thread
AFRESH = 0.05  # of the places of a file that is computed: how many are made anew

Watch = Callable[[int], None]  # is told how many samples more are proved; may raise
Back = Literal["identical", "adds up"]


class Failure(Exception):
    """A delivered file is not what it should be: which rule it breaks, and what is wrong, as the end of a sentence that
    begins with the name of the file.
    """

    def __init__(self, file: File, rule: str, reason: str) -> None:
        super().__init__(f"{file.path.name} {reason}")
        self.file, self.rule = file, rule


@dataclass
class Proved:
    """What was found of one file. `back` says that all results of its step, converted back, are what went in, or add up
    to it; `afresh` in how many of its places what was computed was made anew, None where all of it was.
    """

    file: File
    xxh128: str
    read_back: Literal["disk", "cache"]
    found: Found
    back: Back | None = None
    afresh: tuple[int, int] | None = None


@dataclass
class _Target:
    file: File
    facts: wavs.Facts
    disk: OnDisk
    rule: Rule
    found: list[Found] = field(default_factory=list)


def refuse_fresh(key: str, heard: Heard, start: int, frames: int) -> NDArray[np.float64]:  # noqa: ARG001
    """Where nothing is computed."""
    raise LookupError(f"step {key} can't be computed a second time")


def prove(
    recipe: Recipe,
    files: Sequence[File],
    fresh: Fresh = refuse_fresh,
    loudest: Sequence[int] = (),
    workers: int = 2,
    watch: Watch = lambda _: None,
) -> list[Proved]:
    """Prove the files that came out of one step, which have one length, or one source. `fresh` makes what can't be
    computed from formulas anew; `loudest` are frames at which it is to be, besides those that are drawn.

    Raises Failure for the first file that is not what the recipe makes, OSError or EOFError where a disk can't give
    back what is there, or what `watch` raises.
    """
    loops.self_test()
    try:
        recipe = apply_laws(recipe)
    except ValueError as error:
        raise Failure(files[0], "law", f"can't be proved: its {error} does not match its settings") from error
    return _Group(recipe, files, fresh, loudest, watch).prove(workers)


class _Group:
    """Files that are gone through together: their sources are read once."""

    def __init__(
        self, recipe: Recipe, files: Sequence[File], fresh: Fresh, loudest: Sequence[int], watch: Watch
    ) -> None:
        self._recipe, self._files, self._fresh, self._watch = recipe, list(files), fresh, watch
        self._sources: dict[str, tuple[OnDisk, wavs.Facts]] = {}
        self._local = threading.local()
        refs = [file.ref for file in files]
        self._needed, steps = recipe.lineage(refs)
        self._is_computed = any(recipe.steps[key].computed for key in steps)
        kind, key, *_ = refs[0].split(":")
        self._step = recipe.steps[key] if kind == "step" else None
        self._has_all = self._step is not None and set(refs) == {
            f"step:{key}:{n}" for n in range(len(self._step.outputs))
        }
        self._adds_up = self._step if self._step and self._sums(self._step) else None
        frames = files[0].frames
        self._places = self._drawn(frames, loudest) if self._is_computed else None

    def _sums(self, step: Step) -> bool:
        """Whether the results of a computed step are all here, and add up to what went in, which is not computed."""
        inputs_computed = any(self._recipe.steps[key].computed for key in self._recipe.lineage(list(step.inputs))[1])
        in_order = [file.ref for file in self._files] == sorted(file.ref for file in self._files)
        return step.computed and step.inverse is not None and self._has_all and in_order and not inputs_computed

    @property
    def _only_moves(self) -> bool:
        """Whether every sample that is compared should be one that went in, as it was."""
        steps = [self._recipe.steps[key] for key in self._recipe.lineage([file.ref for file in self._files])[1]]
        rows = [sorted(map(abs, row)) for step in steps for row in step.matrix]
        windows = any(step.hushes or step.over or any(step.delays) or any(step.added) for step in steps)
        one_each = all(row[-1] in (0, 1) and not any(row[:-1]) for row in rows)
        return one_each and not windows and all(file.seed is None for file in self._files)

    def _drawn(self, frames: int, loudest: Sequence[int]) -> set[int]:
        """The tiles in which what is computed is made anew: first, last, loudest, and some drawn by the files' hash."""
        count = -(-frames // TILE)
        chosen = {0, count - 1, *(at // TILE for at in loudest)}
        draw = Random(self._files[0].xxh128)
        wanted_count = min(count, max(len(chosen), round(AFRESH * count), 3))
        while len(chosen) < wanted_count:
            chosen.add(draw.randrange(count))
        return chosen

    def prove(self, workers: int) -> list[Proved]:
        with ExitStack() as stack:
            opened = [self._open(file, stack) for file in self._files]
            for key in self._needed:
                source = self._recipe.sources[key]
                disk = stack.enter_context(OnDisk(source.path))
                try:
                    facts = wavs.read_header(disk.plain, whole=False)
                except ValueError as error:
                    raise Failure(
                        self._files[0], "source", f"can't be proved: its source can't be read ({error})"
                    ) from error
                if (facts.channels, facts.rate, facts.encoding) != (source.channels, source.rate, source.encoding):
                    raise Failure(self._files[0], "source", "can't be proved: its source was changed meanwhile")
                self._sources[key] = disk, facts
            for target in opened:
                self._check_promise(target)
            samples = sum(file.frames * file.channels for file in self._files)
            loops.ready(samples * (loops.OF_A_MOVE if self._only_moves else 1.0))
            self._compare(opened, 1 if samples < MIN_FOR_THREADS else workers, stack)
            return self._proofs(opened)

    def _open(self, file: File, stack: ExitStack) -> _Target:
        """Open a file and check all that its header says."""
        disk = stack.enter_context(OnDisk(file.path, apart=bool(file.followed)))
        try:
            facts = wavs.read_header(disk.plain, whole=True)
        except ValueError as error:
            raise Failure(file, "header", f"could not be read back: {error}") from error
        for what in ("channels", "frames", "rate", "encoding", "mask", "container"):
            got, want = getattr(facts, what), getattr(file, what)
            if got != want:
                raise Failure(file, f"header-{what}", f"was written with {what} {got} instead of {want}")
        if file.rate != (rate := self._recipe.rate_of(file.ref)):
            raise Failure(file, "header-rate", f"was written with rate {file.rate} instead of {rate}")
        return _Target(
            file, facts, disk, Rule(file.encoding, file.seed, file.sparing), [Found() for _ in range(file.channels)]
        )

    def _check_promise(self, target: _Target) -> None:
        promise = target.file.promise
        if promise is None or promise.source not in self._sources:
            return
        wrong = find_broken_promise(
            target.disk.plain, self._sources[promise.source][0].plain, promise, target.facts.frames
        )
        if wrong is not None:
            raise Failure(target.file, "chunk", wrong)

    def _compare(self, opened: list[_Target], workers: int, stack: ExitStack) -> None:
        """Read in order, some blocks ahead of those that are compared; hash in the thread that reads."""
        frames = opened[0].facts.frames
        channels = sum(target.facts.channels for target in opened)
        step = max(TILE, min(BLOCK, MAX_SAMPLES // channels // TILE * TILE))
        starts = deque(range(0, frames, step))
        if workers == 1 or len(starts) == 1:
            buffers = self._buffers(opened, min(step, frames))
            for start in starts:
                self._join(opened, self._block(opened, self._fetch(opened, start, step, buffers), start))
            return
        free = deque([self._buffers(opened, step) for _ in range(workers + 2)])
        reader, pool = stack.enter_context(ThreadPoolExecutor(1)), stack.enter_context(ThreadPoolExecutor(workers))
        for executor in (reader, pool):
            stack.callback(executor.shutdown, cancel_futures=True)
        fetching: deque[tuple[int, list[mmap.mmap], Future[list[NDArray[np.uint8]]]]] = deque()
        running: deque[tuple[Future[list[list[Found]]], list[mmap.mmap]]] = deque()
        while starts or fetching or running:
            while starts and free:
                buffers, start = free.popleft(), starts.popleft()
                fetching.append((start, buffers, reader.submit(self._fetch, opened, start, step, buffers)))
            if fetching and len(running) < workers:
                start, buffers, fetched = fetching.popleft()
                running.append((pool.submit(self._block, opened, fetched.result(), start), buffers))
            else:
                finished, buffers = running.popleft()
                self._join(opened, finished.result())
                free.append(buffers)

    def _buffers(self, opened: list[_Target], frames: int) -> list[mmap.mmap]:
        return [mmap.mmap(-1, target.facts.align * frames + 2 * PAGE) for target in opened]

    def _fetch(self, opened: list[_Target], start: int, step: int, buffers: list[mmap.mmap]) -> list[NDArray[np.uint8]]:
        raws = []
        for target, buffer in zip(opened, buffers, strict=True):
            at, size = (
                target.facts.payload + start * target.facts.align,
                min(step, target.facts.frames - start) * target.facts.align,
            )
            raw = target.disk.read(at, size, buffer)
            target.disk.hash_samples(at, raw[:-1])
            raws.append(raw)
        return raws

    def _join(self, opened: list[_Target], results: list[list[Found]]) -> None:
        for target, new in zip(opened, results, strict=True):
            for all_of_it, found in zip(target.found, new, strict=True):
                all_of_it.join(found)
            self._watch(sum(found.samples for found in new))

    def _block(self, opened: list[_Target], raws: list[NDArray[np.uint8]], start: int) -> list[list[Found]]:
        """Compare one block of all files, tile by tile."""
        frames = (raws[0].size - 1) // opened[0].facts.align
        results = [[Found() for _ in target.found] for target in opened]
        for at in range(0, frames, TILE):
            count = min(TILE, frames - at)
            evaluation = Evaluation(self._recipe, self._read, self._fresh, self._room.again())
            compared = self._places is None or (start + at) // TILE in self._places
            written_all: list[Channel] = []
            fits = True
            for target, raw, found in zip(opened, raws, results, strict=True):
                part = raw[at * target.facts.align : (at + count) * target.facts.align]
                if not wavs.is_finite(part, target.facts.encoding):
                    reason = f"holds a value that is not a number (frames {start + at:,} to {start + at + count:,})"
                    raise Failure(target.file, "not-a-number", reason)
                written = [
                    wavs.make_channel(raw, target.facts.encoding, target.facts.channels, n, at, count)
                    for n in range(len(found))
                ]
                written_all += written
                if compared:
                    try:
                        expected = evaluation.clip(target.file.ref, start + at, count)
                    except ResampledWronglyError as wrong:
                        reason = f"was resampled wrongly (frame {wrong.frame:,})"
                        raise Failure(target.file, "resampled", reason) from wrong
                    self._compare_tile(target, expected, written, found, start + at)
                    fits = fits and all(new.clipped[1] == 0 for new in found)
                else:
                    for new in found:
                        new.samples += count
            if self._adds_up is not None and fits:
                self._add_up(self._adds_up, evaluation, written_all, (start + at, count))
        return results

    def _compare_tile(
        self, target: _Target, expected: Sequence[Channel], written: Sequence[Channel], found: list[Found], start: int
    ) -> None:
        for n, (expected_channel, there) in enumerate(zip(expected, written, strict=True)):
            place = start * target.facts.channels + n
            new, wrong = target.rule.compare(expected_channel, there, self._room_again(), place, target.facts.channels)
            if wrong >= 0:
                where = f"channel {n + 1}, frame {start + wrong:,}"
                raise Failure(target.file, "sample", f"does not match what was computed for it ({where})")
            found[n].join(new)

    def _add_up(self, step: Step, evaluation: Evaluation, written: list[Channel], place: tuple[int, int]) -> None:
        """What was taken apart, put together: no farther from what went in than the rounding of the files explains."""
        start, frames = place
        back = np.array(step.inverse)
        inputs = [channel for ref in step.inputs for channel in evaluation.clip(ref, start, frames)]
        allowed = (np.abs(back) * [_grain(file) for file in self._files for _ in range(file.channels)]).sum(axis=1)
        returned = mix_channels(back, written, frames, self._room)
        for row, channel, limit in zip(returned, inputs, allowed, strict=True):
            off = np.abs(floats(row, self._room) - floats(channel, self._room))
            inside = np.abs(floats(channel, self._room)) <= 1.0
            if not (off[inside] <= limit + 2.0**-40).all():
                where = f"frames {start:,} to {start + frames:,}"
                raise Failure(
                    self._files[0], "sum", f"and what was taken from it do not add up to the original ({where})"
                )

    @property
    def _room(self) -> Room:
        """That of this thread."""
        if not hasattr(self._local, "room"):
            self._local.room = Room()
        room: Room = self._local.room
        return room

    def _room_again(self) -> Room:
        """Room for what is compared, which is of no use afterwards."""
        if not hasattr(self._local, "compare"):
            self._local.compare = Room()
        room: Room = self._local.compare
        return room.again()

    def _read(self, key: str, start: int, frames: int, room: Room) -> list[Channel]:
        """The channels of a source, silence outside of it."""
        disk, facts = self._sources[key]
        length = self._recipe.sources[key].frames
        first, last = min(max(start, 0), length), max(min(start + frames, length), 0)
        if last <= first:
            return [Channel(np.zeros(frames, np.int32))] * facts.channels
        size = (last - first) * facts.align
        raw = disk.read(facts.payload + first * facts.align, size, room.pages(size + 2 * PAGE))
        channels = [
            wavs.make_channel(raw, facts.encoding, facts.channels, n, 0, last - first) for n in range(facts.channels)
        ]
        if last - first == frames:
            return channels
        return [
            Channel(np.pad(channel.values, (first - start, start + frames - last)), channel.factor)
            for channel in channels
        ]

    def _proofs(self, opened: list[_Target]) -> list[Proved]:
        """What is to be said of the files, once all of their samples are compared."""
        proofs = []
        for target in opened:
            digest = target.disk.digest()
            if target.file.xxh128 and digest != target.file.xxh128:
                raise Failure(target.file, "hash", "could not be read back as it was written")
            if target.file.followed and target.disk.samples_digest != target.file.followed:
                raise Failure(target.file, "hash", "could not be read back as it was written")
            if self._places is None:
                for n, (found, stated) in enumerate(zip(target.found, target.file.clipped, strict=True)):
                    if not found.clipped[0] <= stated <= found.clipped[1]:
                        counted = f"{stated} samples of channel {n + 1} were counted as clipped, not {found.clipped[0]}"
                        raise Failure(target.file, "clipped", f"can't be proved: {counted}")
            total = Found()
            for found in target.found:
                total.join(found)
            proofs.append(Proved(target.file, digest, target.disk.where, total))
        back = self._back(proofs)
        count = -(-self._files[0].frames // TILE)
        for proved in proofs:
            proved.back = back
            proved.afresh = None if self._places is None else (len(self._places), count)
        return proofs

    def _back(self, proofs: Sequence[Proved]) -> Back | None:
        """What is known of the way back: of files that hold just what was computed it follows from the matrices, and of
        rounded ones where that can't make half a step of what went in.
        """
        if self._adds_up is not None:
            return "adds up"
        step = self._step
        if step is None or step.inverse is None or not self._has_all or self._is_computed:
            return None
        if not step.is_matrix or any(proved.found.clipped[1] for proved in proofs):
            return None
        back = np.array(step.inverse)
        unit = back @ np.array(step.matrix)
        largest = max(proved.found.largest for proved in proofs)
        if largest == 0.0 and np.array_equal(unit, np.eye(len(unit))):
            return "identical"
        if step.bits is None or not np.allclose(unit, np.eye(len(unit)), rtol=0, atol=2.0**-48):
            return None
        off = float(np.abs(back).sum(axis=1).max()) * largest + 2.0**-44
        return "identical" if off < 2.0**-step.bits else None


def _grain(file: File) -> float:
    """How far a sample may be from what was meant, by its rounding."""
    if file.encoding not in BITS:
        return 2.0**-23
    return (0.5 if file.seed is None else 1.5) * 2.0 ** (1 - BITS[file.encoding])
