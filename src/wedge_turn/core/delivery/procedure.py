"""Writing a set of files for the user, with proof of each, a manifest and a report.

Files are written into a hidden folder beside their place, proved as they grow, flushed to the disk and read back, and
only then moved: either all arrive or none, also where they replace others. A delivery into a folder that holds an
earlier one adds to its manifest; what an earlier one holds already is taken over.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import Executor
from dataclasses import replace
from functools import partial
from pathlib import Path

from wedge_turn.core.audio import load_byte_kernels
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery.copies import Copy
from wedge_turn.core.delivery.hashing import write_text
from wedge_turn.core.delivery.manifest import (
    MANIFEST,
    REPORT,
    Manifest,
    Progress,
    SourceFile,
    merge_manifests,
    read_manifest,
)
from wedge_turn.core.delivery.order import Order, check_format, name_files
from wedge_turn.core.delivery.parallel import Watched, run_in_parallel
from wedge_turn.core.delivery.parts import build_part, write_parts
from wedge_turn.core.delivery.placing import (
    Facts,
    check_replaceable,
    find_missing_folders,
    finish_interrupted,
    move_all,
    remove_empty,
)
from wedge_turn.core.delivery.record import WrittenGroup, build_manifest, describe_source, list_used_sources
from wedge_turn.core.delivery.report import load_template, render_report
from wedge_turn.core.delivery.reuse import ReusableFiles
from wedge_turn.core.delivery.time_range import apply_range
from wedge_turn.core.delivery.writer import Writer, count_samples
from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.jit import NUMBA_BREAK_EVEN_BYTES
from wedge_turn.core.scratch import lock_folder, scratch_folder
from wedge_turn.core.worksheet import parse_ref


def deliver(
    engine: Engine,
    order: Order,
    folder: Path,
    progress: Progress = lambda _: None,
    sources: Sequence[Path] = (),
    earlier: Path | None = None,
    finished: Callable[[str], None] = lambda _: None,
    executor: Executor | None = None,
    *,
    may_link: bool = False,
) -> Manifest:
    """Write the clips into `folder`; return the manifest of these files (the one on disk may hold more). `sources` are
    files that must not be replaced, whatever the order says; `earlier` is the folder of a delivery from which files are
    taken over that would be written again as they are, as links to the same file where nobody edits those (`may_link`);
    `finished` is told the name of each file that is written and proved. With an `executor` its workers write and prove
    the files; they must have the sources and `folder` under the same paths.

    Raises BadRequestError, OutsideRangeError, ExistsError, DiskFullError, ProofFailedError, or what `progress` or the
    executor raises; then no file is left behind and none is replaced.
    """
    if not order.refs and not order.copies:
        raise BadRequestError("Nothing is selected to deliver", help="Select at least one result or file.")
    if len(set(order.refs)) < len(order.refs):
        raise BadRequestError("The same clip is selected twice", help="Select each only once.")
    names = name_files(engine, order)
    clip_keys = [engine.sheet.key(ref) if engine.sheet.identified else "" for ref in order.refs]
    engine, refs = apply_range(engine, order)
    order = replace(order, refs=refs)
    check_format(engine, order)
    new_folders = find_missing_folders(folder)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with lock_folder(folder, lambda: progress(0.0)):
            finish_interrupted(folder)
        # What stands in the way is met before anything is written.
        before = _find_replaceable(folder, order, names, sources, {})
        with scratch_folder(folder) as staging:
            for inside in {(staging / name).parent for name in names}:
                inside.mkdir(parents=True, exist_ok=True)
            by_ref = dict(zip(order.refs, names, strict=False))
            keys = dict(zip(order.refs, clip_keys, strict=True))
            reused = ReusableFiles.at(earlier, may_link=may_link or earlier == folder)
            writer = Writer(engine, order, by_ref, keys, staging, reused)
            copies = dict(zip(names[len(refs) :], order.copies, strict=True))
            manifest = _write_everything(writer, copies, progress, finished, executor)
            with lock_folder(folder, lambda: progress(1.0)):
                # Once more: somebody may have delivered meanwhile.
                replacing = _find_replaceable(folder, order, names, sources, before).keys()
                merged = merge_manifests(folder, manifest)
                write_text(staging / MANIFEST, merged.model_dump_json(indent=1))
                write_text(staging / REPORT, render_report(merged))
                move_all(staging, folder, [*names, MANIFEST, REPORT], replacing | {MANIFEST, REPORT})
    except BaseException:
        remove_empty(new_folders)
        raise
    return manifest


def _find_replaceable(
    folder: Path, order: Order, names: Sequence[str], sources: Sequence[Path], checked: Mapping[str, Facts]
) -> dict[str, Facts]:
    """The names in a folder that the files of an order may replace.

    Raises BadRequestError where the folder's manifest can't be read, and what `replaceable` raises.
    """
    before = read_manifest(folder) if (folder / MANIFEST).exists() else None
    own = {file.name: file.xxh128 for file in before.files} if before and order.replaces_own else {}
    how = {"overwrite": order.overwrite, "damaged": order.replaces_damaged}
    return check_replaceable(folder, names, sources, own, checked, **how)


def _write_everything(
    writer: Writer,
    copies: Mapping[str, Copy],
    progress: Progress,
    finished: Callable[[str], None],
    executor: Executor | None,
) -> Manifest:
    """Write all files, side by side; the manifest of them. `copies` are by the names of their files."""
    engine, order = writer.engine, writer.order
    total = sum(count_samples(order, engine.clip(ref).form, copied=False) for ref in order.refs)
    total += sum(count_samples(order, copy.form, copied=True) for copy in copies.values())
    watch = Watched(total, progress)
    groups, looked_at = _group_by_step(order.refs), list_used_sources(engine, order)

    def announce(group: WrittenGroup) -> WrittenGroup:
        for file in group.files.values():
            finished(file.name)
        return group

    if executor:
        parts = [build_part(writer, refs, {}, keys) for refs, keys in _with_sources(engine, groups)]
        parts += [build_part(writer, (), {name: copy}, ()) for name, copy in copies.items()]
        written = write_parts(parts, executor, watch, announce)
        about = {key: source for result in written for key, source in result.sources.items()}
        return build_manifest(
            engine, order, writer.names, [result.made for result in written], [about[key] for key in looked_at]
        )
    writing = [partial(lambda refs: announce(writer.clips(refs, watch)), refs) for refs in groups]
    copying = [partial(lambda name, copy: announce(writer.copy(copy, name, watch)), *item) for item in copies.items()]
    # All in one go, so that one looks at a source while another waits for the disk.
    looking = [partial(describe_source, engine, order, key) for key in looked_at]
    work: list[Callable[[], object]] = [*writing, *copying, *looking, load_template]
    if _count_kernel_bytes(engine, order) > NUMBA_BREAK_EVEN_BYTES:
        work.insert(0, load_byte_kernels)  # while the others begin without
    results = run_in_parallel(work, watch)
    made = [result for result in results if isinstance(result, WrittenGroup)]
    return build_manifest(
        engine, order, writer.names, made, [result for result in results if isinstance(result, SourceFile)]
    )


def _count_kernel_bytes(engine: Engine, order: Order) -> int:
    """How many bytes kernels can move here: those of 24 bits, once to write and once to prove them."""
    forms = [engine.clip(ref).form for ref in order.refs]
    return 2 * sum(form.frames * form.block_align for form in forms if form.encoding == "s24")


def _with_sources(engine: Engine, groups: Sequence[list[str]]) -> Iterator[tuple[list[str], list[str]]]:
    """Each group with the sources that it is the first to use, so that each source is looked at once."""
    visited: set[str] = set()
    for refs in groups:
        keys = engine.sheet.origins(refs) - visited
        visited |= keys
        yield refs, sorted(keys)


def _group_by_step(refs: Sequence[str]) -> list[list[str]]:
    """What is written side by side: the results of each step, which have one length, and each source by itself."""
    groups: dict[tuple[str, str], list[str]] = {}
    for ref in refs:
        kind, key, _ = parse_ref(ref)
        groups.setdefault((kind, key), []).append(ref)
    return list(groups.values())
