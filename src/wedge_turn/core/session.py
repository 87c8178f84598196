"""Files on disk with turns on them, and what is known and made of both, without a job kept anywhere: what the command
line, `prep` and users of the library work with.
"""

import os
from collections import defaultdict
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import Executor, ThreadPoolExecutor, as_completed
from contextlib import ExitStack, contextmanager
from dataclasses import replace
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Final, Self

from wedge_turn.core.audio import WavFile, open_files, open_readable
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import (
    Manifest,
    Order,
    Origin,
    Progress,
    deliver,
    find_missing_folders,
    hash_file,
    remove_empty,
)
from wedge_turn.core.errors import Error
from wedge_turn.core.form import Form
from wedge_turn.core.naming import check_given_folder, check_given_name, stem
from wedge_turn.core.turns import Centre, ClipInfo, Merge
from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref

if TYPE_CHECKING:  # what measures is loaded where it is needed: that takes longer than splitting a file
    from wedge_turn.core.findings import FileFinding, JobOverview, Judgement, Preparation
    from wedge_turn.core.measure import Measures

# One more than there are cores: while one waits for the disk, another goes on. More of them stand in each other's way.
MEASURED_AT_ONCE: Final = (os.cpu_count() or 1) + 1


class Session:
    """Files, the turns on them, and their clips, measures, findings and deliveries.

    Close it, or use it in a `with` statement, so that the files that it opened are closed.
    """

    def __init__(
        self,
        opened: Mapping[str, tuple[Path, Form, WavFile]],
        refused: Sequence[tuple[Path, Error]] = (),
        *,
        identify: bool = False,
    ) -> None:
        """Of files that are open already, by what their sources are called; to `identify` them is to know them by their
        hashes.
        """
        self._stack = ExitStack()
        self.refused = refused
        self.on_measured: Progress = lambda _: None
        self.paths = {key: path for key, (path, _, _) in opened.items()}
        self.files = {key: file for key, (_, _, file) in opened.items()}
        self.infos = {key: ClipInfo(stem(file.name), form) for key, (_, form, file) in opened.items()}
        self._hashes = {key: f"xxh128:{hash_file(path)}" for key, path in self.paths.items()} if identify else {}
        self.engine = Engine(Sheet(Plan(), self.infos, self._hashes or None), self.files.__getitem__)

    @classmethod
    def open(
        cls,
        paths: Sequence[Path],
        *,
        within: Path | None = None,
        identify: bool = False,
        skip: bool = False,
        salvage: bool = False,
    ) -> Self:
        """Open files, whose sources are called 0, 1, 2 …, until the session is closed. `within` is the folder for
        working copies of what is no PCM WAV, of which nothing is left afterwards; to `skip` is to leave out what can't
        be read, which `refused` then lists; to `salvage` is to take what can be read of incomplete files.

        Raises NotFoundError, NotAudioError, BrokenAudioError, LimitError or DiskFullError for a file, unless skipped.
        """
        with ExitStack() as stack:
            refused: list[tuple[Path, Error]] = []
            if skip:
                taken, refused = stack.enter_context(open_readable(paths, salvage=salvage))
            else:
                files = stack.enter_context(open_files(paths, within, salvage=salvage))
                taken = [(path, *file) for path, file in zip(paths, files, strict=True)]
            session = cls({str(n): file for n, file in enumerate(taken)}, refused, identify=identify)
            session._stack = stack.pop_all()
        return session

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Close the files, and remove their working copies."""
        self._stack.close()

    @property
    def sheet(self) -> Sheet:
        """The worksheet, worked out."""
        return self.engine.sheet

    def add_steps(self, *steps: Step) -> None:
        """Add lines at the end of the worksheet. Raises TurnInputError where one can't take its inputs; then none is
        added.
        """
        self.engine = self.engine.with_plan(*steps)

    @cached_property
    def measures(self) -> "Mapping[str, Measures]":
        """Measures of the files, and of what merging those that belong together would make, by clips' keys."""
        from wedge_turn.core.findings import find_clips_to_measure
        from wedge_turn.core.measure import measure_signal

        def measure(turn: Merge | None, refs: tuple[str, ...]) -> "Measures":
            clip = self.engine.preview(turn, refs) if turn else self.engine.clip(refs[0])
            return measure_signal(clip, damaged=clip.damaged)

        wanted = find_clips_to_measure(self.sheet, list(self.paths), self._folders)
        with ThreadPoolExecutor(MEASURED_AT_ONCE) as pool:
            under_way = {key: pool.submit(measure, *clip) for key, clip in wanted.items()}
            for n, _ in enumerate(as_completed(under_way.values()), 1):
                self.on_measured(n / len(under_way))
            return {key: one.result() for key, one in under_way.items()}

    def get_measures(self, key: str) -> "Measures":
        """The measures of a file."""
        return self.measures[self.sheet.key(source_ref(key))]

    @cached_property
    def judgements(self) -> "Mapping[str, Judgement]":
        """What there is to say about each file, by the references of the sources."""
        from wedge_turn.core.findings import evaluate_clip

        return {
            source_ref(key): evaluate_clip(info.name, info.form, self.get_measures(key), self.files[key].recorded)
            for key, info in self.infos.items()
        }

    def compare_files(self) -> "dict[str, list[FileFinding]]":
        """What the files say about each other, by the keys of the files."""
        from wedge_turn.core.findings import SessionFile, evaluate_session

        return evaluate_session(
            [
                SessionFile(key, info.name, folder, info.form, self.get_measures(key))
                for (key, info), folder in zip(self.infos.items(), self._folders, strict=True)
            ]
        )

    def describe(self, *, measured: bool = True) -> "JobOverview":
        """Which files belong together, and what there is to say about that and about each line; where they are not
        `measured`, by names and times alone.
        """
        from wedge_turn.core.findings import describe

        return describe(self.sheet, list(self.paths), self._folders, lambda _: self.measures if measured else {})

    def prepare(self) -> "Preparation":
        """What the files need: lines that are safe to add unheard, and questions."""
        from wedge_turn.core.findings import prepare

        return prepare(self.sheet, self.describe(), self.judgements)

    def find_beforehand(self) -> "Iterator[FileFinding]":
        """What should be known before anything is written: sound tracks of films that are not read, and what to expect
        of each centre.
        """
        from wedge_turn.core.findings import find_tracks_left_out

        for file in self.files.values():
            yield from find_tracks_left_out(file.name, file.recorded)
        for step in self.sheet.plan.steps:
            if isinstance(step.turn, Centre):
                from wedge_turn.core.findings import expect_centre, find_in_centre, find_voice, measure_excerpts

                clip, name = self.engine.clip(step.inputs[0]), self.sheet.info(step.inputs[0]).name
                yield from find_in_centre(
                    name, clip.form, measure_excerpts(clip), expect_centre(clip), step.turn.method
                )
                if step.turn.method == "voice":
                    yield find_voice(name, clip, step.turn.position)

    def deliver(
        self,
        order: Order,
        folder: Path,
        progress: Progress = lambda _: None,
        executor: Executor | None = None,
        *,
        resume: bool = False,
    ) -> Manifest:
        """Write what is ordered into `folder`, proved. With an `executor` its workers write the files. To `resume` is
        to reuse what an earlier run that could be resumed wrote there and would be the same again, by the hashes of the
        sources, for which the session must identify them.

        Raises what `wedge_turn.core.delivery.deliver` raises; then no file is left behind and none is replaced.
        """
        folders = _distinct_folders(list(self.paths.values()))
        origins = {
            key: Origin(check_given_name(path.name), within, self._hashes.get(key, ""))
            for (key, path), within in zip(self.paths.items(), folders, strict=True)
        }
        order = replace(order, origins=origins)
        if resume:
            order = replace(order, replaces_own=True, replaces_damaged=True)
        earlier = folder if resume else None
        return deliver(self.engine, order, folder, progress, tuple(self.paths.values()), earlier, executor=executor)

    def list_paths(self, refs: Sequence[str]) -> tuple[Path, ...]:
        """The files that clips are made from, those of the first clip first."""
        keys = [key for ref in refs for key in sorted(self.sheet.origins([ref]), key=int)]
        return tuple(self.paths[key] for key in dict.fromkeys(keys))

    @property
    def _folders(self) -> list[str]:
        return [str(path.parent) for path in self.paths.values()]


def turn_files(
    paths: Sequence[Path],
    plan: Callable[[Sequence[ClipInfo]], Plan],
    folder: Path,
    order: Callable[[tuple[str, ...]], Order],
    progress: Progress,
    beforehand: "Callable[[FileFinding], None]" = lambda _: None,
    executor: Executor | None = None,
    *,
    resume: bool = False,
    salvage: bool = False,
) -> Manifest:
    """Deliver all results of a plan on files into `folder`.

    `plan` is given what the files are; `order` is given the references of the results and says how they are written.
    `beforehand` is told what should be known before anything is written. With an `executor` its workers write the
    files, which then must see the folder too. `resume` is as for `Session.deliver`, `salvage` as for
    `Session.open`.
    """
    with ExitStack() as stack:
        within = stack.enter_context(_make_folder(folder)) if executor else None
        session = stack.enter_context(Session.open(paths, within=within, identify=resume, salvage=salvage))
        session.add_steps(*plan(list(session.infos.values())).steps)
        for finding in session.find_beforehand():
            beforehand(finding)
        ends = tuple(session.sheet.list_ends())
        return session.deliver(order(ends), folder, progress, executor, resume=resume)


@contextmanager
def _make_folder(folder: Path) -> Iterator[Path]:
    """A folder that others see too; what had to be made of it is gone again where nothing comes into it."""
    new = find_missing_folders(folder)
    folder.mkdir(parents=True, exist_ok=True)
    try:
        yield folder
    finally:
        remove_empty(new)


def _distinct_folders(paths: Sequence[Path]) -> list[str]:
    """For each file as much of its folder as tells it from others of its name; nothing where it has its name alone."""
    named: defaultdict[str, set[Path]] = defaultdict(set)
    for path in paths:
        named[path.name].add(path.absolute())
    folders: list[str] = []
    for path in (path.absolute() for path in paths):
        same = named[path.name] - {path}
        depth = 1
        while any(other.parts[-depth:] == path.parts[-depth:] for other in same):
            depth += 1
        folders.append("/".join(path.parts[-depth:-1]))
    return [check_given_folder(folder) if folder else "" for folder in folders]
