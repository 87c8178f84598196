"""Plan and order as the plain numbers that `wedge_turn.proof` proves by: the one place that knows both."""

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery.manifest import Evidence, ProvedFile, ProvedSource
from wedge_turn.core.delivery.writing import ToWrite, WrittenFile
from wedge_turn.core.form import Form as ClipForm
from wedge_turn.core.turns import Align, Centre, Decode, Fold, Merge, Resample, WindowOutcome
from wedge_turn.core.worksheet import Step, source_ref
from wedge_turn.proof import File, Form, Promise, Recipe, Source
from wedge_turn.proof import Step as Numbers


def build_recipe(engine: Engine, refs: Sequence[str]) -> Recipe:
    """All that these clips are made from."""
    sheet = engine.sheet
    sources = {}
    for key in sheet.origins(refs):
        wav = engine.file(key)
        sources[key] = Source(wav.path, wav.form.channels, wav.form.frames, wav.form.rate, wav.encoding.name)
    steps = {step.id: _describe_step(engine, step) for ref in refs for step in sheet.lineage(ref)}
    return Recipe(sources, steps)


def describe_written(ref: str, item: ToWrite, written: WrittenFile, recipe: Recipe) -> File:
    """A file that was written."""
    form = item.form
    return File(
        item.path,
        ref,
        form.channels,
        form.frames,
        form.rate,
        item.encoding.name,
        form.speaker_mask if form.channels > 2 else 0,  # the format of one or two channels has no place for it
        item.container,
        item.dither,
        item.sparing,
        written.xxh128,
        tuple(written.clipped),
        written.followed,
        _promise(item, recipe),
    )


def _promise(item: ToWrite, recipe: Recipe) -> Promise | None:
    """Whose chunks a file carries: those of the source that is heard first in it, where that is a file."""
    first = next((tap for taps in item.clip.channels for tap in taps), None)
    if first is None or not isinstance(first.source, WavFile):
        return None
    key = next((key for key, source in recipe.sources.items() if source.path == first.source.path), None)
    return None if key is None else Promise(key, first.offset, item.form.start_time)


def build_evidence(recipe: Recipe, files: Sequence[File], names: Sequence[str], engine: Engine) -> Evidence:
    """All that it takes to prove files again, as a manifest keeps it; `names` are those of the files. What sources hold
    is added where it is known.
    """
    sources = {
        key: ProvedSource(
            name=engine.sheet.info(source_ref(key)).name,
            channels=source.channels,
            frames=source.frames,
            rate=source.rate,
            encoding=source.encoding,
        )
        for key, source in recipe.sources.items()
    }
    proved = [
        ProvedFile(
            name=name,
            ref=file.ref,
            channels=file.channels,
            frames=file.frames,
            rate=file.rate,
            encoding=file.encoding,
            mask=file.mask,
            container=file.container,
            seed="" if file.seed is None else f"{file.seed:016x}",
            sparing=file.sparing,
            clipped=list(file.clipped),
        )
        for name, file in zip(names, files, strict=True)
    ]
    return Evidence(sources=sources, steps=dict(recipe.steps), files=proved)


def is_computed(engine: Engine, ref: str) -> bool:
    """Whether a clip goes through a turn that can't be computed a second time from formulas."""
    return any(_is_computed(engine, step) for step in engine.sheet.lineage(ref))


def _is_computed(engine: Engine, step: Step) -> bool:
    over_window = isinstance(engine.sheet.outcomes[step.id], WindowOutcome)
    return over_window and isinstance(step.turn, (Centre, Resample)) and not step.bypassed


def _describe_step(engine: Engine, step: Step) -> Numbers:
    """What the plan says of a step: the proof holds it against the law of its turn."""
    outcome, infos = engine.sheet.outcomes[step.id], engine.sheet.inputs(step)
    depths = [info.form.stored for info in infos]
    forms = [info.form for info in infos]
    moved = _later(step) if isinstance(outcome, WindowOutcome) and step.over is None else None
    return Numbers(
        step.inputs,
        _rows(outcome.matrix),
        moved or tuple(outcome.offsets),
        outcome.frames,
        tuple(output.form.channels for output in outcome.outputs),
        None if outcome.inverse is None else _rows(outcome.inverse),
        None if any(depth.is_float for depth in depths) else max(depth.bits for depth in depths),
        turn=step.turn.model_dump(mode="json"),
        stretch=None if step.over is None else step.over.model_dump(mode="json"),
        bypassed=step.bypassed,
        forms=tuple(map(_describe_form, forms)),
        picked=_picked(step, outcome.matrix),
    )


def _describe_form(form: ClipForm) -> Form:
    shown = form.frame_rate
    frame_rate = f"{shown.frames}/{shown.seconds}" if shown else ""
    return Form(form.channels, form.frames, form.rate, form.start_time, frame_rate, bool(shown and shown.drop))


def _later(step: Step) -> tuple[int, ...] | None:
    """The whole samples of channels that move by fractions."""
    match step.turn:
        case Align(delay=delay):
            return tuple(math.floor(round(by - min(delay), 6)) for by in delay)
        case Fold(delay=by):
            return math.floor(max(0, -by)), math.floor(max(0, by))
    return None


def _picked(step: Step, matrix: NDArray[np.float64]) -> tuple[int, ...]:
    """Which channel that goes in is first, as the names say: of a merge for each channel, of a decode mid and side."""
    if isinstance(step.turn, Merge):
        return tuple(int(np.argmax(row)) for row in matrix)
    if isinstance(step.turn, Decode) and not step.bypassed:
        mid = next(n for n in (0, 1) if matrix[0, n] == matrix[1, n] != 0)
        return mid, 1 - mid
    return ()


def _rows(matrix: NDArray[np.float64]) -> tuple[tuple[float, ...], ...]:
    return tuple(tuple(float(gain) for gain in row) for row in matrix)
