"""Writing a set of files for the user, with proof of each, a manifest and a report.

Files are written into a hidden folder beside their place, proved as they grow, flushed to the disk and read back, and
only then moved: either all arrive or none, also where they replace others. A delivery into a folder that holds an
earlier one adds to its manifest; what an earlier one holds already is taken over.
"""

import os
import shutil
import tempfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.delivery import noticed
from wedge_turn.core.delivery.containers import encoded
from wedge_turn.core.delivery.copies import Copy, write_copy
from wedge_turn.core.delivery.earlier import Earlier
from wedge_turn.core.delivery.hashing import write_whole
from wedge_turn.core.delivery.manifest import MANIFEST, REPORT, Manifest, Progress, SourceFile, joined
from wedge_turn.core.delivery.order import Order, check_format, file_names, holds_exactly, output_encoding
from wedge_turn.core.delivery.outline import outline
from wedge_turn.core.delivery.parallel import Watched, in_parallel
from wedge_turn.core.delivery.placing import STAGING, missing, move_all, remove_empty, remove_leftovers, replaceable
from wedge_turn.core.delivery.proving import Proving
from wedge_turn.core.delivery.ranged import in_range, steps_of
from wedge_turn.core.delivery.record import Made, file_of, file_of_copy, key_of_file, record, source_file, used_sources
from wedge_turn.core.delivery.report import report
from wedge_turn.core.delivery.writing import ToWrite, write_clips
from wedge_turn.core.engine import Clip, Engine, clip_of
from wedge_turn.core.errors import BadRequestError, ProofFailedError, naming_disk_errors
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
    earlier: Path | None = None,
    finished: Callable[[str], None] = lambda _: None,
) -> Manifest:
    """Write the clips into `folder`; return the manifest of these files (the one on disk may hold more). `sources` are
    files that must not be replaced, whatever the order says; `earlier` is the folder of a delivery from which files are
    taken over that would be written again as they are; `finished` is told the name of each file that is written and
    proved.

    Raises BadRequestError, OutsideRangeError, ExistsError, DiskFullError, ProofFailedError, or what `progress` raises;
    then no file is left behind and none is replaced.
    """
    if not order.refs and not order.copies:
        raise BadRequestError("Nothing is selected to deliver")
    if len(set(order.refs)) < len(order.refs):
        raise BadRequestError("The same clip is selected twice")
    names = file_names(engine, order)
    clip_keys = [engine.sheet.key(ref) if engine.sheet.identified else "" for ref in order.refs]
    engine, refs = in_range(engine, order)
    order = replace(order, refs=refs)
    check_format(engine, order)
    new_folders = missing(folder)
    folder.mkdir(parents=True, exist_ok=True)
    if order.replaces_own:
        remove_leftovers(folder)
    staging = Path(tempfile.mkdtemp(prefix=STAGING, dir=folder))
    try:
        there = Earlier.at(folder) if order.replaces_own else None
        replacing = replaceable(folder, names, sources, there.hashes if there else {}, overwrite=order.overwrite)
        for inside in {(staging / name).parent for name in names}:
            inside.mkdir(parents=True, exist_ok=True)
        writing = _Writing(engine, order, names, clip_keys, staging, Earlier.at(earlier), finished)
        manifest = writing.all(progress)
        whole = joined(folder, manifest)
        _write(staging / MANIFEST, whole.model_dump_json(indent=1))
        _write(staging / REPORT, report(whole))
        move_all(staging, folder, [*names, MANIFEST, REPORT], replacing | {MANIFEST, REPORT})
    except BaseException:
        shutil.rmtree(staging, ignore_errors=True)
        remove_empty(new_folders)
        raise
    shutil.rmtree(staging, ignore_errors=True)
    return manifest


@dataclass(frozen=True)
class _Writing:
    """Everything about one delivery while its files are written, side by side."""

    engine: Engine
    order: Order
    names: list[str]
    clip_keys: list[str]
    staging: Path
    earlier: Earlier | None
    finished: Callable[[str], None]

    def all(self, progress: Progress) -> Manifest:
        """Write all files; the manifest of them."""
        engine, order, other = self.engine, self.order, self.order.other
        clips = [engine.clip(ref) for ref in order.refs]
        forms = [clip.form for clip in clips] + [copy.form for copy in order.copies]
        total = PASSES * sum(form.frames * form.channels for form in forms)
        total += (ENCODED_PASSES if other else 0) * sum(clip.form.frames * clip.form.channels for clip in clips)
        watch = Watched(total, progress)
        # What is encoded anew afterwards is written as a WAV first.
        wavs = self.staging / ".wav" if other else self.staging
        for name in self.names[: len(clips)]:
            (wavs / name).parent.mkdir(parents=True, exist_ok=True)
        items = {
            ref: self._to_write(ref, clip, wavs / name)
            for ref, clip, name in zip(order.refs, clips, self.names, strict=False)
        }
        writing = [partial(self._told, partial(self._group, group, watch)) for group in _together(items)]
        copying = [
            partial(self._told, partial(self._copy, copy, name, watch))
            for copy, name in zip(order.copies, self.names[len(clips) :], strict=True)
        ]
        # All in one go, so that one looks at a source while another waits for the disk.
        looking = [partial(source_file, engine, order, key) for key in used_sources(engine, order)]
        work: list[Callable[[], Made | SourceFile]] = [*writing, *copying, *looking]
        done = in_parallel(work, watch)
        made = [one for one in done if isinstance(one, Made)]
        sources = [one for one in done if isinstance(one, SourceFile)]
        if other:
            shutil.rmtree(wavs)
        return record(engine, order, self._by_ref, made, sources)

    def _told(self, write: Callable[[], Made]) -> Made:
        made = write()
        for file in made.files.values():
            self.finished(file.name)
        return made

    @property
    def _by_ref(self) -> dict[str, str]:
        return dict(zip(self.order.refs, self.names, strict=False))

    def _to_write(self, ref: str, clip: Clip, path: Path) -> ToWrite:
        """How a clip is written. The seed of the dither is made from what decides the samples: the same delivery again
        gives the same bytes.
        """
        order, sheet = self.order, self.engine.sheet
        encoding = output_encoding(clip.form, order.depth)
        exact = holds_exactly(clip, encoding)
        dithers = order.dither and not exact and not encoding.is_float
        seed = int(key_of("dither", sheet.key(ref))[:16], 16) if dithers else None
        kinds = dict.fromkeys(step.turn.kind for step in sheet.lineage(ref) if not step.bypassed)
        done = " + ".join(kinds) or ("" if encoding == clip.form.stored else "another depth")
        return ToWrite(clip, encoding, path, exact, seed, sparing=clip.keeps_samples, done=done, container=order.wave)

    def _group(self, group: dict[str, ToWrite], watch: Watched) -> Made:
        """Files that are written together: taken over from an earlier delivery, or written and proved."""
        engine, other, by_ref = self.engine, self.order.other, self._by_ref
        keys = {by_ref[ref]: key_of_file(engine.sheet, ref, item, self.order.container) for ref, item in group.items()}
        if self.earlier and (taken := self.earlier.take(keys, self.staging)):
            self._passed(group, watch)
            return Made(dict(zip(group, taken.files, strict=True)), taken.proofs, taken.findings)
        steps = steps_of(engine.sheet, next(iter(group)), trimmed=self.order.range is not None)
        proving = Proving(engine, steps, group, by_ref, watch)
        results = dict(zip(group, write_clips(list(group.values()), watch, proving.begin), strict=True))
        files, findings = {}, noticed.damaged(group, by_ref)
        clip_keys = dict(zip(self.order.refs, self.clip_keys, strict=True))
        for ref, item in group.items():
            name = by_ref[ref]
            with WavFile(item.path, being_written=True) as wav:
                form = _checked(wav, item)
                pictured = outline(clip_of(wav))
            if other:
                results[ref] = encoded(other, item.path, results[ref], item.carried, self.staging / name, watch)
                form = form if other.keeps_chunks else form.model_copy(update={"start_time": None})
            size = (self.staging / name).stat().st_size
            written = file_of(name, form, item, results[ref], size, other.title if other else item.container)
            files[ref] = written.model_copy(update={"key": keys[name], "clip_key": clip_keys[ref], "outline": pictured})
            findings += noticed.clipped(name, results[ref], engine.sheet.info(ref).form, item.encoding)
            findings += noticed.left_behind(other, item, name)
        return Made(files, proving.proofs(results, other.title if other else None), findings)

    def _passed(self, group: dict[str, ToWrite], watch: Watched) -> None:
        """Count what need not be written as done."""
        passes = PASSES + (ENCODED_PASSES if self.order.other else 0)
        watch(passes * sum(item.form.frames * item.form.channels for item in group.values()))

    def _copy(self, copy: Copy, name: str, watch: Watched) -> Made:
        file = self.earlier.take_copy(copy, name, self.staging) if self.earlier else None
        if file:
            watch(PASSES * copy.form.frames * copy.form.channels)
        else:
            file = file_of_copy(name, copy, write_copy(copy, self.staging / name, watch))
        return Made({name: file}, [], [])


def _together(items: dict[str, ToWrite]) -> list[dict[str, ToWrite]]:
    """What is written side by side: the results of each step, which have one length, and each source by itself."""
    groups: dict[tuple[str, str], dict[str, ToWrite]] = {}
    for ref, item in items.items():
        kind, key, _ = parse_ref(ref)
        groups.setdefault((kind, key), {})[ref] = item
    return list(groups.values())


def _checked(wav: WavFile, item: ToWrite) -> Form:
    """The form of a written file, which must be what was meant."""
    form = wav.form
    for fact in ("channels", "frames", "rate", "start_time"):
        want, got = getattr(item.clip.form, fact), getattr(form, fact)
        # A start time can only stand in a bext chunk that the source had.
        if got != want and not (fact == "start_time" and got is None):
            raise ProofFailedError(f"{wav.name} was written with {fact} {got} instead of {want}")
    return form


def _write(path: Path, text: str) -> None:
    """Write a text to the disk and read it back. Raises ProofFailedError where it is not what was written."""
    content = text.encode()
    with naming_disk_errors(path.name), path.open("wb", buffering=0) as file:
        write_whole(file.fileno(), content)
        os.fsync(file.fileno())
    if path.read_bytes() != content:
        raise ProofFailedError(f"{path.name} could not be read back as it was written")
