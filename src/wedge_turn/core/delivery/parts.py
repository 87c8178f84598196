"""Parts of a delivery that are written by another process or machine, which has the same folders and nothing else.

Each attempt at a part is written into a folder of its own within the hidden one of the delivery. Where a worker is lost
another does the same part again, and what the first has left is removed with the hidden folder.
"""

import tempfile
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import FIRST_COMPLETED, Executor, Future, wait
from contextlib import ExitStack
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Final

from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery.copies import Copy
from wedge_turn.core.delivery.manifest import SourceFile
from wedge_turn.core.delivery.order import Order
from wedge_turn.core.delivery.placing import make_folder_within
from wedge_turn.core.delivery.record import WrittenGroup, describe_source
from wedge_turn.core.delivery.reuse import ReusableFiles
from wedge_turn.core.delivery.writer import Writer, count_samples
from wedge_turn.core.delivery.writing import Watch
from wedge_turn.core.errors import StoppedError
from wedge_turn.core.metadata import Recorded
from wedge_turn.core.worksheet import Sheet

LOOKS_EVERY: Final = 0.2  # seconds until it is seen that the delivery was stopped


@dataclass(frozen=True)
class Pcm:
    """Where the samples of a source lie, what messages call it, and what it says about its recording."""

    path: Path
    name: str
    recorded: Recorded

    @classmethod
    def of(cls, file: WavFile) -> "Pcm":
        return cls(file.path.absolute(), file.name, file.recorded)

    def opened(self) -> WavFile:
        return WavFile(self.path, self.name, recorded=self.recorded)


@dataclass(frozen=True)
class Part:
    """Clips that are written together, or a copy, with all that this takes. `names` and `clip_keys` are by the
    references of clips, `copies` by the names of their files; `looked_at` are the sources that it tells of.
    """

    sheet: Sheet
    pcm: Mapping[str, Pcm]
    order: Order
    names: Mapping[str, str]
    clip_keys: Mapping[str, str]
    copies: Mapping[str, Copy]
    looked_at: tuple[str, ...]
    within: Path
    earlier: Path | None
    may_link: bool

    @property
    def samples(self) -> int:
        """How many samples are gone through until it is done."""
        clips = (count_samples(self.order, self.sheet.info(ref).form, copied=False) for ref in self.order.refs)
        return sum(clips) + sum(count_samples(self.order, copy.form, copied=True) for copy in self.copies.values())


@dataclass(frozen=True)
class WrittenPart:
    """The folder that a part was written into, what it holds, and what is told of sources, by their ids."""

    folder: Path
    made: WrittenGroup
    sources: dict[str, SourceFile]


def build_part(writer: Writer, refs: Sequence[str], copies: Mapping[str, Copy], looked_at: Sequence[str]) -> Part:
    """What these clips or copies of a delivery take, to be written below the folder of `writer`."""
    engine, order, earlier = writer.engine, writer.order, writer.earlier
    sheet = engine.sheet.subset(refs)
    origins = {key: order.origins[key] for key in sheet.sources if key in order.origins}
    return Part(
        sheet,
        {key: Pcm.of(engine.file(key)) for key in sheet.sources},
        replace(order, refs=tuple(refs), copies=(), origins=origins),
        {ref: writer.names[ref] for ref in refs},
        {ref: writer.clip_keys[ref] for ref in refs},
        {name: replace(copy, path=copy.path.absolute()) for name, copy in copies.items()},
        tuple(looked_at),
        writer.folder.absolute(),
        earlier.folder.absolute() if earlier else None,
        earlier.may_link if earlier else False,
    )


def write_part(part: Part) -> WrittenPart:
    """Write a part and prove it, wherever this runs. Raises what `Writer` raises, StoppedError or OSError where the
    folder of the delivery is gone, as it is once that was stopped.
    """
    folder = Path(tempfile.mkdtemp(prefix="part-", dir=part.within))

    def watch(_samples: int) -> None:
        if not folder.exists():
            raise StoppedError("The delivery was stopped")

    for name in (*part.names.values(), *part.copies):
        make_folder_within(folder, (folder / name).parent)
    with ExitStack() as stack:
        files = {key: stack.enter_context(pcm.opened()) for key, pcm in part.pcm.items()}
        engine = Engine(part.sheet, files.__getitem__)
        earlier = ReusableFiles.at(part.earlier, may_link=part.may_link)
        writer = Writer(engine, part.order, part.names, part.clip_keys, folder, earlier)
        if part.copies:
            ((name, copy),) = part.copies.items()
            written = writer.copy(copy, name, watch)
        else:
            written = writer.clips(part.order.refs, watch)
        sources = {key: describe_source(engine, part.order, key) for key in part.looked_at}
    return WrittenPart(folder, written, sources)


def write_parts(
    parts: Sequence[Part], executor: Executor, watch: Watch, finished: Callable[[WrittenGroup], object]
) -> list[WrittenPart]:
    """Have parts written, each by whoever has time, and gather their files; what became of them, in their order.

    Raises what the first to fail has raised, or what `watch` raises; what has not been begun is given up then.
    """
    futures: dict[Future[WrittenPart], Part] = {}
    try:
        for part in parts:
            futures[executor.submit(write_part, part)] = part
        waiting = set(futures)
        while waiting:
            done, waiting = wait(waiting, LOOKS_EVERY, FIRST_COMPLETED)
            watch(0)
            for future in done:
                part, written = futures[future], future.result()
                for file in written.made.files.values():
                    (written.folder / file.name).rename(part.within / file.name)
                watch(part.samples)
                finished(written.made)
    finally:
        for future in futures:
            future.cancel()
    return [future.result() for future in futures]
