"""The manifest of a delivery, made up from what was written and from the worksheet that it was made by."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Final

from xxhash import xxh3_128

from wedge_turn import __version__
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery.containers import ContainerName
from wedge_turn.core.delivery.copies import Copy
from wedge_turn.core.delivery.file_findings import find_in_steps
from wedge_turn.core.delivery.hashing import hash_file
from wedge_turn.core.delivery.manifest import (
    DeliveredFile,
    Evidence,
    Line,
    Manifest,
    ManifestFinding,
    SourceFile,
    StepProof,
)
from wedge_turn.core.delivery.order import Order, Origin
from wedge_turn.core.delivery.outline import draw_outline
from wedge_turn.core.delivery.writing import ToWrite, WrittenFile
from wedge_turn.core.form import Form
from wedge_turn.core.worksheet import Sheet, hash_key, source_ref

APPLICATION: Final = f"Wedge Turn {__version__}"
# Goes up whenever the same samples are written as other bytes: dither, headers, chunks.
FILES_REVISION: Final = 2


@dataclass(frozen=True)
class WrittenGroup:
    """Files that were written together, by their references, with their proofs, what is told about them, and by what
    they were proved.
    """

    files: dict[str, DeliveredFile]
    proofs: list[StepProof]
    findings: list[ManifestFinding]
    evidence: list[Evidence]


def key_of_file(sheet: Sheet, ref: str, item: ToWrite, container: ContainerName) -> str:
    """A hash of all that decides the bytes of a file; empty where the sources are not known by their hashes."""
    if not sheet.identified:
        return ""
    carried = xxh3_128()
    for name, body in item.carried:
        carried.update(name)
        carried.update(body)
    facts = (
        item.form.model_dump_json(exclude={"broken_off"}),
        str(item.dither),
        str(item.exact),
        container,
        carried.hexdigest(),
    )
    return hash_key("file", str(FILES_REVISION), sheet.key(ref), *facts)


def describe_file(
    name: str, form: Form, item: ToWrite, result: WrittenFile, size: int, container: str
) -> DeliveredFile:
    return DeliveredFile(
        name=name,
        channels=form.channels,
        frames=form.frames,
        rate=form.rate,
        depth=item.encoding.depth,
        start_time=form.start_time,
        bytes=size,
        xxh128=result.xxh128,
        clipped=result.clipped,
        dithered=item.dither is not None,
        read_back=result.read_back,
        container=container,
    )


def describe_copy(name: str, copy: Copy, written: WrittenFile) -> DeliveredFile:
    form = copy.form
    return DeliveredFile(
        name=name,
        channels=form.channels,
        frames=form.frames,
        rate=form.rate,
        depth=form.stored.depth,
        start_time=form.start_time,
        bytes=copy.path.stat().st_size,
        xxh128=written.xxh128,
        clipped=written.clipped,
        read_back=written.read_back,
        container=form.container,
        copied=True,
        sources=[copy.place],
    )


def list_used_sources(engine: Engine, order: Order) -> list[str]:
    """The ids of the sources that an order's clips are made from, in the order of the job."""
    used = engine.sheet.origins(order.refs)
    return [key for key in engine.sheet.sources if key in used]


def describe_source(engine: Engine, order: Order, key: str) -> SourceFile:
    """A source as the manifest tells of it."""
    form, origin = engine.sheet.info(source_ref(key)).form, _origin(engine.sheet, order, key)
    return SourceFile(
        name=origin.place,
        channels=form.channels,
        frames=form.frames,
        rate=form.rate,
        depth=form.stored.depth,
        container=form.container,
        start_time=form.start_time,
        hash=origin.hash,
        pcm=hash_file(engine.file(key).path),
        broken_off=form.broken_off,
        outline=draw_outline(engine.file(key)),
    )


def build_manifest(
    engine: Engine,
    order: Order,
    names: Mapping[str, str],
    groups: Sequence[WrittenGroup],
    sources: Sequence[SourceFile],
) -> Manifest:
    """The manifest of what was written; `names` are those of the clips' files by reference, in their order."""
    sheet = engine.sheet
    hashes = {key: source.pcm for key, source in zip(list_used_sources(engine, order), sources, strict=True)}
    written = {ref: file for group in groups for ref, file in group.files.items()}
    files = [written.pop(ref).model_copy(update={"sources": _places(sheet, order, ref)}) for ref in names]
    return Manifest(
        application=APPLICATION,
        job=order.job,
        made=datetime.now(UTC),
        files=[*files, *written.values()],
        proofs=[proof for group in groups for proof in group.proofs],
        findings=[
            *(finding for group in groups for finding in group.findings),
            *find_in_steps(engine, order.refs, names, trimmed=order.range is not None),
        ],
        sources=list(sources),
        lines=_lines(sheet, names),
        evidence=[_identified(evidence, hashes) for group in groups for evidence in group.evidence],
    )


def _identified(evidence: Evidence, hashes: Mapping[str, str]) -> Evidence:
    """Evidence with what its sources hold, which is known of each once."""
    sources = {
        key: source if source.pcm else source.model_copy(update={"pcm": hashes[key]})
        for key, source in evidence.sources.items()
    }
    return evidence.model_copy(update={"sources": sources})


def _origin(sheet: Sheet, order: Order, key: str) -> Origin:
    return order.origins.get(key) or Origin(sheet.info(source_ref(key)).name)


def _places(sheet: Sheet, order: Order, ref: str) -> list[str]:
    """The names of the sources that a clip is made from, with their folders."""
    made_from = sheet.origins([ref])
    return [_origin(sheet, order, key).place for key in sheet.sources if key in made_from]


def _lines(sheet: Sheet, names: Mapping[str, str]) -> list[Line]:
    """The lines that these files went through, in the order of the worksheet."""
    files: dict[str, list[str]] = {}
    for ref, name in names.items():
        for step in sheet.lineage(ref):
            files.setdefault(step.id, []).append(name)
    return [
        Line(
            sentence=step.sentence(sheet.inputs(step)),
            turn=step.turn.model_dump(mode="json"),
            over=step.over.model_dump(mode="json") if step.over else None,
            reason=step.reason,
            inputs=[sheet.name_of(ref) for ref in step.inputs],
            results=[sheet.info(ref).name for ref in sheet.outputs(step)],
            files=files[step.id],
        )
        for step in sheet.plan.steps
        if step.id in files
    ]
