"""Writing a set of files for the user, with proof of each and a manifest.

Files are written into a hidden folder beside their place, read back and proved as they grow, and only then moved:
either all arrive or none. A delivery into a folder that holds an earlier one adds to its manifest.
"""

import contextlib
import errno
import shutil
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Literal

from wedge_turn.core.audio.encoding import BY_DEPTH, Encoding
from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.engine import Clip, Engine
from wedge_turn.core.errors import BadRequestError, ExistsError, ProofFailedError
from wedge_turn.core.manifest import MANIFEST, DeliveredFile, Manifest, Progress, StepProof, joined
from wedge_turn.core.naming import safe_file_names
from wedge_turn.core.plan import Step, key_of, parse_ref
from wedge_turn.core.proving import Proving
from wedge_turn.core.turns import Finding
from wedge_turn.core.writing import ToWrite, WrittenFile, write_clips

DepthChoice = Literal["same", "16", "24", "32", "float"]


@dataclass(frozen=True)
class Order:
    """What to deliver: references to clips, and how. Dither goes only where a depth does not hold the samples."""

    refs: tuple[str, ...]
    depth: DepthChoice = "same"
    dither: bool = True
    overwrite: bool = False


def deliver(engine: Engine, order: Order, folder: Path, progress: Progress = lambda _: None) -> Manifest:
    """Write the clips into `folder`; return the manifest of these files (the one on disk may hold more).

    Raises ExistsError, DiskFullError, ProofFailedError, or what `progress` raises; then no file is left behind.
    """
    if not order.refs:
        raise BadRequestError("Nothing was chosen to deliver")
    names = file_names(engine, order)
    new_folders = [path for path in (folder, *folder.parents) if not path.exists()]
    folder.mkdir(parents=True, exist_ok=True)
    room = Path(tempfile.mkdtemp(prefix=".wedge-turn-", dir=folder))
    try:
        _refuse_existing(folder, names, order)
        manifest = _write_all(engine, order, names, room, progress)
        (room / MANIFEST).write_text(joined(folder, manifest).model_dump_json(indent=1), "utf-8")
        _move_all(room, folder, names, overwrite=order.overwrite)
    except BaseException:
        shutil.rmtree(room, ignore_errors=True)
        with contextlib.suppress(OSError):  # what somebody else has put there meanwhile stays
            for path in new_folders:
                path.rmdir()
        raise
    shutil.rmtree(room, ignore_errors=True)
    return manifest


def file_names(engine: Engine, order: Order) -> list[str]:
    """The names the files of an order will have."""
    return safe_file_names([engine.sheet.info(ref).name for ref in order.refs], ".wav")


def _write_all(engine: Engine, order: Order, names: list[str], room: Path, progress: Progress) -> Manifest:
    clips = [engine.clip(ref) for ref in order.refs]
    steps = _steps(engine, order)
    # Everything is gone through twice, once to write it and once to read it back.
    total = 2 * sum(clip.form.frames * clip.form.channels for clip in clips) or 1
    done = 0

    def watch(samples: int) -> None:
        nonlocal done
        done += samples
        progress(min(done / total, 1.0))

    items = {
        ref: ToWrite(clip, encoding_for(clip.form, order.depth), room / name, _dither(engine, ref, clip, order))
        for ref, clip, name in zip(order.refs, clips, names, strict=True)
    }
    by_ref = dict(zip(order.refs, names, strict=True))
    results: dict[str, WrittenFile] = {}
    proofs: list[StepProof] = []
    for step, group in _together(engine, items):
        proving = Proving(engine, step, group, by_ref, watch) if step else None
        written = write_clips(list(group.values()), watch, proving.begin if proving else None)
        results |= zip(group, written, strict=True)
        proofs += proving.proofs(results) if proving else ()
    forms = [_form_of(room / name, clip.form) for clip, name in zip(clips, names, strict=True)]
    files = [
        DeliveredFile(
            name=name,
            channels=clip.form.channels,
            frames=clip.form.frames,
            rate=clip.form.rate,
            depth=items[ref].encoding.depth,
            start_time=form.start_time,
            bytes=(room / name).stat().st_size,
            xxh128=results[ref].xxh128,
            made_of=_made_of(engine, ref),
            clip_key=engine.sheet.key(ref),
            clipped=results[ref].clipped,
            dithered=items[ref].dither is not None,
        )
        for ref, clip, name, form in zip(order.refs, clips, names, forms, strict=True)
    ]
    findings = [*_not_finite(clips), *(f for step in steps for f in engine.sheet.outcomes[step.id].findings)]
    findings += [
        finding
        for ref, file in zip(order.refs, files, strict=True)
        for finding in _clipped(file, results[ref], engine.sheet.info(ref).form)
    ]
    return Manifest(made=datetime.now(UTC), files=files, proofs=proofs, findings=findings)


def encoding_for(form: Form, depth: DepthChoice) -> Encoding:
    """The encoding a clip is written in: its own, or the one asked for."""
    return form.stored if depth == "same" else BY_DEPTH[depth]


def _steps(engine: Engine, order: Order) -> list[Step]:
    wanted = {parse_ref(ref)[1] for ref in order.refs if parse_ref(ref)[0] == "step"}
    return [step for step in engine.sheet.plan.steps if step.id in wanted]


def _together(engine: Engine, items: dict[str, ToWrite]) -> list[tuple[Step | None, dict[str, ToWrite]]]:
    """What is written side by side: the results of each step, which have one length, and each source by itself."""
    groups: dict[tuple[str, str], dict[str, ToWrite]] = {}
    for ref, item in items.items():
        kind, key, _ = parse_ref(ref)
        groups.setdefault((kind, key), {})[ref] = item
    return [(engine.sheet.plan.step(key) if kind == "step" else None, group) for (kind, key), group in groups.items()]


def _dither(engine: Engine, ref: str, clip: Clip, order: Order) -> int | None:
    """The seed of the dither, made from what decides the samples: the same delivery again gives the same bytes."""
    encoding = encoding_for(clip.form, order.depth)
    if not order.dither or encoding.is_float or clip.fits(encoding):
        return None
    return int(key_of("dither", engine.sheet.key(ref))[:16], 16)


def _clipped(file: DeliveredFile, result: WrittenFile, form: Form) -> list[Finding]:
    if not any(file.clipped):
        return []
    called = form.speakers or (
        ("left", "right") if form.channels == 2 else tuple(map(str, range(1, form.channels + 1)))
    )
    where = ", ".join(f"{count:,} {name}" for name, count in zip(called, file.clipped, strict=True) if count)
    if form.channels == 1:
        where = f"{file.clipped[0]:,}"
    flipped = "the lowest value, turned upside down" if result.over_db == 0 else f"up to {result.over_db} dB too high"
    message = f"{file.name}: {where} samples did not fit and were clipped ({flipped})."
    return [
        Finding(code="clipped", message=message, measured={"samples": sum(file.clipped), "over_db": result.over_db})
    ]


def _form_of(path: Path, meant: Form) -> Form:
    """The form of a written file, which must be what was meant."""
    with WavFile(path) as wav:
        found = wav.form
    for fact in ("channels", "frames", "rate", "start_time"):
        want, got = getattr(meant, fact), getattr(found, fact)
        # A start time can only stand in a bext chunk that the source had.
        if got != want and not (fact == "start_time" and got is None):
            raise ProofFailedError(f"{path.name} was written with {fact} {got} instead of {want}")
    return found


def _not_finite(clips: Sequence[Clip]) -> tuple[Finding, ...]:
    sources = dict.fromkeys(source for clip in clips for source in clip.sources)
    counted = [(source.name, source.count_not_finite()) for source in sources]
    return tuple(
        Finding(
            code="not-finite",
            message=f"{name} holds {count:,} samples that are no numbers: silence was written for them.",
            measured={"samples": count},
        )
        for name, count in counted
        if count
    )


def _made_of(engine: Engine, ref: str) -> list[str]:
    kind, key, _ = parse_ref(ref)
    if kind == "source":
        return [engine.sheet.info(ref).name]
    return [info.name for info in engine.sheet.inputs(engine.sheet.plan.step(key))]


def _refuse_existing(folder: Path, names: list[str], order: Order) -> None:
    if order.overwrite:
        return
    for name in names:
        if (folder / name).exists():
            raise ExistsError(f"{name} is there already")


def _move_all(room: Path, folder: Path, names: list[str], *, overwrite: bool) -> None:
    moved: list[Path] = []
    try:
        for name in names:
            if overwrite:
                (room / name).replace(folder / name)
            else:
                _move_new(room / name, folder / name)
                moved.append(folder / name)
        (room / MANIFEST).replace(folder / MANIFEST)
    except BaseException:
        for path in moved:
            path.unlink(missing_ok=True)
        raise


def _move_new(source: Path, target: Path) -> None:
    """Move a file to a name that must be free."""
    try:
        target.hardlink_to(source)  # unlike a rename, never replaces a file that came meanwhile
    except FileExistsError as error:
        raise ExistsError(f"{target.name} is there already") from error
    except OSError as error:
        if error.errno not in (errno.EPERM, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK):
            raise
        # A file system without hard links, such as that of a memory card.
        if target.exists():
            raise ExistsError(f"{target.name} is there already") from error
        source.rename(target)
