"""Findings about written files: samples that were clipped or damaged, metadata that the format can't hold, and sound
tracks of a film that aren't among them.
"""

import math
from collections.abc import Mapping, Sequence

from wedge_turn.core.audio import step_size
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery.containers import Container, chunk_title
from wedge_turn.core.delivery.manifest import ManifestFinding
from wedge_turn.core.delivery.time_range import list_steps
from wedge_turn.core.delivery.writing import ToWrite, WrittenFile
from wedge_turn.core.form import Encoding, Form
from wedge_turn.core.naming import join_words

# Those that follow from what was written, and not from the worksheet.
OF_FILES = frozenset({"clipped", "damaged", "left-behind", "tracks-left-out"})


def find_left_behind(container: Container | None, item: ToWrite, name: str) -> list[ManifestFinding]:
    """What of the sources isn't in the file, in words."""
    listings = []
    if lost_parts := [chunk_title(kind) for kind in item.clip.find_lost(item.carried)]:
        listings.append(f"{name}: {join_words(lost_parts)} of the source could not be kept.")
    if container and (lost_parts := container.left_behind(item.form, item.carried)):
        listings.append(f"{name}: {container.title} can't store {join_words(lost_parts)} from the source.")
    return [ManifestFinding(code="left-behind", message=text, measured={}, files=(name,)) for text in listings]


def find_in_steps(
    engine: Engine, refs: Sequence[str], names: Mapping[str, str], *, trimmed: bool
) -> list[ManifestFinding]:
    """What the turns of these clips have found, each with the files that it belongs to."""
    files: dict[str, list[str]] = {}
    for ref in refs:
        for step in list_steps(engine.sheet, ref, trimmed=trimmed):
            files.setdefault(step.id, []).append(names[ref])
    return [
        ManifestFinding(**finding.model_dump(), files=tuple(files[step.id]))
        for step in engine.sheet.plan.steps
        if step.id in files
        for finding in engine.sheet.outcomes[step.id].findings
    ]


def find_clipped(name: str, result: WrittenFile, form: Form, encoding: Encoding) -> list[ManifestFinding]:
    """How many samples did not fit into a file, where, and why."""
    count = sum(result.clipped)
    if not count:
        return []
    labels = form.speakers or (
        ("left", "right") if form.channels == 2 else tuple(map(str, range(1, form.channels + 1)))
    )
    by_channel = ", ".join(f"{n:,} {label}" for n, label in zip(result.clipped, labels, strict=True) if n)
    where = "" if form.channels == 1 else f" ({by_channel})"
    samples = "1 sample was" if count == 1 else f"{count:,} samples were"
    over_db = round(20 * math.log10(result.highest), 2)
    message = f"{name}: {samples} clipped{where}: {_why_clipped(count, result.highest, over_db, encoding)}."
    measured: dict[str, float | int | str] = {"samples": count, "over_db": max(0.0, over_db)}
    return [ManifestFinding(code="clipped", message=message, measured=measured, files=(name,))]


def _why_clipped(count: int, highest: float, over_db: float, encoding: Encoding) -> str:
    """Why samples did not fit, by the highest magnitude among them."""
    are, exceed, them = ("it is", "it exceeds", "it") if count == 1 else ("they are", "they exceed", "them")
    if encoding.is_float:
        return f"{exceed} +120 dBFS, beyond which a sample counts as damage"
    if highest > 1:
        by = f"up to {over_db:.2f} dB" if over_db > 0 else "by less than 0.01 dB"
        return f"{exceed} full scale {by}"
    if highest == 1:
        top = f"one step above the highest {encoding.bits}-bit sample"
        return f"{are} exactly +1.0, {top}, the lowest one inverted"
    if highest > 1 - step_size(encoding):
        return f"{are} less than one step below full scale, and rounding to {encoding.bits} bits takes {them} past it"
    return f"dither took {them} past full scale"


def find_tracks_left_out(engine: Engine, names: Mapping[str, str]) -> list[ManifestFinding]:
    """Sound tracks of films that none of these files has, by their references, because they are not read."""
    files = [engine.file(key) for key in sorted(engine.sheet.origins(names))]
    return [
        ManifestFinding(code="tracks-left-out", message=message, measured={}, files=tuple(names.values()))
        for file in files
        if (message := file.recorded.explain_left_out(file.name))
    ]


def find_damaged(items: Mapping[str, ToWrite], names: Mapping[str, str]) -> list[ManifestFinding]:
    """How many samples of the sources were written as silence."""
    files: dict[object, list[str]] = {}
    sources = {}
    for ref, item in items.items():
        for source in item.clip.sources:
            sources[source] = source
            files.setdefault(source, []).append(names[ref])
    return [
        ManifestFinding(
            code="damaged",
            message=f"{source.name} has {_damaged_samples(source.damaged)} (NaN, infinite or beyond +120 dBFS), "
            "written as silence.",
            measured={"samples": source.damaged},
            files=tuple(files[source]),
        )
        for source in sources
        if source.damaged
    ]


def _damaged_samples(count: int) -> str:
    return "1 damaged sample" if count == 1 else f"{count:,} damaged samples"
