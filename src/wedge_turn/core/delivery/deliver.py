"""Writing a set of files for the user, with proof of each and a manifest.

Files are written into a hidden folder beside their place, proved as they grow, flushed to the disk and read back, and
only then moved: either all arrive or none, also where they replace others. A delivery into a folder that holds an
earlier one adds to its manifest.
"""

import contextlib
import errno
import math
import os
import shutil
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from functools import partial
from pathlib import Path

from wedge_turn.core.audio.encoding import Encoding
from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.pcm import step as step_of
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.delivery.containers import Container, chunk_title, encoded, listed
from wedge_turn.core.delivery.copies import Copy, write_copy
from wedge_turn.core.delivery.hashing import write_whole
from wedge_turn.core.delivery.manifest import (
    MANIFEST,
    DeliveredFile,
    Manifest,
    ManifestFinding,
    Progress,
    StepProof,
    joined,
)
from wedge_turn.core.delivery.order import Order, check_format, file_names, holds_exactly, output_encoding
from wedge_turn.core.delivery.parallel import Watched, in_parallel
from wedge_turn.core.delivery.proving import Proving
from wedge_turn.core.delivery.ranged import in_range, steps_of
from wedge_turn.core.delivery.writing import ToWrite, WrittenFile, write_clips
from wedge_turn.core.engine import Clip, Engine
from wedge_turn.core.errors import BadRequestError, ExistsError, ProofFailedError, naming_disk_errors
from wedge_turn.core.plan import parse_ref
from wedge_turn.core.sheet import key_of

PASSES = 3  # each file is written, compared while it grows, and read back
ENCODED_PASSES = 2  # one that is no WAV is encoded and decoded besides


def deliver(
    engine: Engine,
    order: Order,
    folder: Path,
    progress: Progress = lambda _: None,
    sources: Sequence[Path] = (),
) -> Manifest:
    """Write the clips into `folder`; return the manifest of these files (the one on disk may hold more). `sources` are
    files that must not be replaced, whatever the order says.

    Raises BadRequestError, OutsideRangeError, ExistsError, DiskFullError, ProofFailedError, or what `progress` raises;
    then no file is left behind and none is replaced.
    """
    if not order.refs and not order.copies:
        raise BadRequestError("Nothing is selected to deliver")
    if len(set(order.refs)) < len(order.refs):
        raise BadRequestError("The same clip is selected twice")
    names = file_names(engine, order)
    engine, refs = in_range(engine, order)
    order = replace(order, refs=refs)
    check_format(engine, order)
    new_folders = [path for path in (folder, *folder.parents) if not path.exists()]
    folder.mkdir(parents=True, exist_ok=True)
    staging = Path(tempfile.mkdtemp(prefix=".wedge-turn-", dir=folder))
    try:
        _refuse_existing(folder, names, order, sources)
        manifest = _write_all(engine, order, names, staging, progress)
        _write_manifest(staging / MANIFEST, joined(folder, manifest))
        _move_all(staging, folder, names, overwrite=order.overwrite)
    except BaseException:
        shutil.rmtree(staging, ignore_errors=True)
        with contextlib.suppress(OSError):  # what somebody else has put there meanwhile stays
            for path in new_folders:
                path.rmdir()
        raise
    shutil.rmtree(staging, ignore_errors=True)
    return manifest


def _write_all(engine: Engine, order: Order, names: list[str], staging: Path, progress: Progress) -> Manifest:
    clips = [engine.clip(ref) for ref in order.refs]
    forms = [clip.form for clip in clips] + [copy.form for copy in order.copies]
    other = order.other
    total = PASSES * sum(form.frames * form.channels for form in forms)
    total += (ENCODED_PASSES if other else 0) * sum(clip.form.frames * clip.form.channels for clip in clips)
    watch = Watched(total, progress)
    # What is encoded anew afterwards is written as a WAV first.
    wavs = staging / ".wav" if other else staging
    wavs.mkdir(exist_ok=True)
    items = {
        ref: _to_write(engine, order, ref, clip, wavs / name)
        for ref, clip, name in zip(order.refs, clips, names, strict=False)
    }
    by_ref = dict(zip(order.refs, names, strict=False))

    def write(group: dict[str, ToWrite]) -> tuple[dict[str, WrittenFile], list[StepProof]]:
        steps = steps_of(engine.sheet, next(iter(group)), trimmed=order.range is not None)
        proving = Proving(engine, steps, group, by_ref, watch)
        results = dict(zip(group, write_clips(list(group.values()), watch, proving.begin), strict=True))
        if other:
            results = {
                ref: encoded(other, item.path, results[ref], item.carried, staging / by_ref[ref], watch)
                for ref, item in group.items()
            }
        return results, proving.proofs(results, other.title if other else None)

    copy_names = names[len(clips) :]
    work = [partial(write, group) for group in _together(items)]
    copying = [
        partial(write_copy, copy, staging / name, watch) for copy, name in zip(order.copies, copy_names, strict=True)
    ]
    written, copied = in_parallel(work, watch), in_parallel(copying, watch)
    results = {ref: result for group, _ in written for ref, result in group.items()}
    proofs = [proof for _, found in written for proof in found]
    written_forms = [_form_of(items[ref].path, clip.form) for ref, clip in zip(order.refs, clips, strict=True)]
    if other:
        if not other.keeps_chunks:
            written_forms = [form.model_copy(update={"start_time": None}) for form in written_forms]
        shutil.rmtree(wavs)
    files = [
        DeliveredFile(
            name=name,
            channels=clip.form.channels,
            frames=clip.form.frames,
            rate=clip.form.rate,
            depth=items[ref].encoding.depth,
            start_time=form.start_time,
            bytes=(staging / name).stat().st_size,
            xxh128=results[ref].xxh128,
            clipped=results[ref].clipped,
            dithered=items[ref].dither is not None,
            read_back=results[ref].read_back,
            container=other.title if other else "WAV",
        )
        for ref, clip, name, form in zip(order.refs, clips, names, written_forms, strict=False)
    ]
    findings = _damaged(items, by_ref) + _findings_of_steps(engine, order, by_ref)
    findings += [
        finding
        for ref, file in zip(order.refs, files, strict=True)
        for finding in _clipped(file, results[ref], engine.sheet.info(ref).form, items[ref].encoding)
    ]
    findings += [found for ref in order.refs for found in _left_behind(other, items[ref], by_ref[ref])]
    files += [_of_copy(*copy) for copy in zip(copy_names, order.copies, copied, strict=True)]
    return Manifest(made=datetime.now(UTC), files=files, proofs=proofs, findings=findings)


def _left_behind(container: Container | None, item: ToWrite, name: str) -> list[ManifestFinding]:
    """What of the sources isn't in the file, in words."""
    listings = []
    if lost := [chunk_title(kind) for kind in item.clip.lost(item.carried)]:
        listings.append(f"{name}: {listed(lost)} of the source could not be kept.")
    if container and (lost := container.left_behind(item.form, item.carried)):
        listings.append(f"{name}: {container.title} can't store {listed(lost)} from the source.")
    return [ManifestFinding(code="left-behind", message=text, measured={}, files=(name,)) for text in listings]


def _of_copy(name: str, copy: Copy, written: WrittenFile) -> DeliveredFile:
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
    )


def _to_write(engine: Engine, order: Order, ref: str, clip: Clip, path: Path) -> ToWrite:
    """How a clip is written. The seed of the dither is made from what decides the samples: the same delivery again
    gives the same bytes.
    """
    encoding = output_encoding(clip.form, order.depth)
    exact = holds_exactly(clip, encoding)
    dithers = order.dither and not exact and not encoding.is_float
    seed = int(key_of("dither", engine.sheet.key(ref))[:16], 16) if dithers else None
    kinds = dict.fromkeys(step.turn.kind for step in engine.sheet.lineage(ref) if not step.bypassed)
    done = " + ".join(kinds) or ("" if encoding == clip.form.stored else "another depth")
    return ToWrite(clip, encoding, path, exact, seed, sparing=clip.keeps_samples, done=done)


def _together(items: dict[str, ToWrite]) -> list[dict[str, ToWrite]]:
    """What is written side by side: the results of each step, which have one length, and each source by itself."""
    groups: dict[tuple[str, str], dict[str, ToWrite]] = {}
    for ref, item in items.items():
        kind, key, _ = parse_ref(ref)
        groups.setdefault((kind, key), {})[ref] = item
    return list(groups.values())


def _findings_of_steps(engine: Engine, order: Order, names: dict[str, str]) -> list[ManifestFinding]:
    """What the turns of these files have found, each with the files that it belongs to."""
    files: dict[str, list[str]] = {}
    for ref in order.refs:
        for step in steps_of(engine.sheet, ref, trimmed=order.range is not None):
            files.setdefault(step.id, []).append(names[ref])
    return [
        ManifestFinding(**finding.model_dump(), files=tuple(files[step.id]))
        for step in engine.sheet.plan.steps
        if step.id in files
        for finding in engine.sheet.outcomes[step.id].findings
    ]


def _clipped(file: DeliveredFile, result: WrittenFile, form: Form, encoding: Encoding) -> list[ManifestFinding]:
    count = sum(file.clipped)
    if not count:
        return []
    labels = form.speakers or (
        ("left", "right") if form.channels == 2 else tuple(map(str, range(1, form.channels + 1)))
    )
    by_channel = ", ".join(f"{n:,} {label}" for n, label in zip(file.clipped, labels, strict=True) if n)
    where = "" if form.channels == 1 else f" ({by_channel})"
    samples = "1 sample was" if count == 1 else f"{count:,} samples were"
    over_db = round(20 * math.log10(result.highest), 2)
    message = f"{file.name}: {samples} clipped{where}: {_why_clipped(result.highest, over_db, encoding)}."
    measured: dict[str, float | int | str] = {"samples": count, "over_db": max(0.0, over_db)}
    return [ManifestFinding(code="clipped", message=message, measured=measured, files=(file.name,))]


def _why_clipped(highest: float, over_db: float, encoding: Encoding) -> str:
    """Why samples did not fit, by the highest magnitude among them."""
    if encoding.is_float:
        return "they exceed +120 dBFS, beyond which a sample counts as damage"
    if highest > 1:
        by = f"up to {over_db:.2f} dB" if over_db > 0 else "by less than 0.01 dB"
        return f"they exceed full scale {by}"
    if highest == 1:
        top = f"one step above the highest {encoding.bits}-bit sample"
        return f"they are exactly +1.0, {top}, the lowest one inverted"
    if highest > 1 - step_of(encoding):
        return f"they are less than one step below full scale, and rounding to {encoding.bits} bits takes them past it"
    return "dither took them past full scale"


def _form_of(path: Path, meant: Form) -> Form:
    """The form of a written file, which must be what was meant."""
    with WavFile(path) as wav:
        form = wav.form
    for fact in ("channels", "frames", "rate", "start_time"):
        want, got = getattr(meant, fact), getattr(form, fact)
        # A start time can only stand in a bext chunk that the source had.
        if got != want and not (fact == "start_time" and got is None):
            raise ProofFailedError(f"{path.name} was written with {fact} {got} instead of {want}")
    return form


def _damaged(items: dict[str, ToWrite], names: dict[str, str]) -> list[ManifestFinding]:
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


def _write_manifest(path: Path, manifest: Manifest) -> None:
    """Write the manifest to the disk and read it back. Raises ProofFailedError where it is not what was written."""
    content = manifest.model_dump_json(indent=1).encode()
    with naming_disk_errors(path.name), path.open("wb", buffering=0) as file:
        write_whole(file.fileno(), content)
        os.fsync(file.fileno())
    if path.read_bytes() != content:
        raise ProofFailedError(f"{path.name} could not be read back as it was written")


def _refuse_existing(folder: Path, names: list[str], order: Order, sources: Sequence[Path]) -> None:
    for name in names:
        path = folder / name
        if not path.exists():
            continue
        if any(path.samefile(source) for source in sources):
            raise BadRequestError(f"{name} would overwrite its own source: choose another folder")
        if not order.overwrite or not path.is_file():
            raise ExistsError(f"{name} already exists")


@dataclass(frozen=True)
class _Move:
    """A file that took its place, and where the one that was there before waits in case all is taken back."""

    target: Path
    replaced: Path | None

    def take_back(self) -> None:
        if self.replaced is None:
            self.target.unlink(missing_ok=True)
        else:
            self.replaced.replace(self.target)


def _move_all(staging: Path, folder: Path, names: list[str], *, overwrite: bool) -> None:
    """Move the files and then the manifest to their places, all of them or none, and flush the folder to the disk."""
    done: list[_Move] = []
    try:
        for name in names:
            done.append(_move(staging, name, folder / name, overwrite=overwrite))
        done.append(_move(staging, MANIFEST, folder / MANIFEST, overwrite=True))
        _flush_folder(folder)
    except BaseException:
        for move in reversed(done):
            move.take_back()
        raise


def _move(staging: Path, name: str, target: Path, *, overwrite: bool) -> _Move:
    if not overwrite or not target.exists():
        _move_new(staging / name, target)
        return _Move(target, None)
    replaced = staging / f".replaced-{name}"[:250]
    target.replace(replaced)
    move = _Move(target, replaced)
    try:
        (staging / name).replace(target)
    except BaseException:
        move.take_back()
        raise
    return move


def _flush_folder(folder: Path) -> None:
    """Make the names of a folder's files last through a power cut, where the file system can."""
    fd = os.open(folder, os.O_RDONLY)
    try:
        with contextlib.suppress(OSError):
            os.fsync(fd)
    finally:
        os.close(fd)


def _move_new(source: Path, target: Path) -> None:
    """Move a file to a name that must be free."""
    try:
        target.hardlink_to(source)  # unlike a rename, never replaces a file that came meanwhile
    except FileExistsError as error:
        raise ExistsError(f"{target.name} already exists") from error
    except OSError as error:
        if error.errno not in (errno.EPERM, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK):
            raise
        # A file system without hard links, such as that of a memory card.
        if target.exists():
            raise ExistsError(f"{target.name} already exists") from error
        source.rename(target)
