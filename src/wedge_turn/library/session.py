"""Clips that are delivered together."""

from pathlib import Path
from typing import Any, Self, Unpack

from wedge_turn.core.errors import BadRequestError, NotFoundError
from wedge_turn.core.turns import Turn
from wedge_turn.core.worksheet import Stretch
from wedge_turn.library.clip import AnyPath, Clip, build_session
from wedge_turn.library.delivery import Delivery, Options, get_progress, order_clips


def deliver(out: AnyPath, *clips: Clip, **options: Unpack[Options]) -> Delivery:
    """Write clips into a folder, prove them, and put a manifest and a report beside them.

    Parameters
    ----------
    out : path
        The folder; it is made where it isn't there.
    *clips : Clip
        What to write.
    format : "wav", "bw64", "flac" or "aiff"
        In which format.
    depth : "same", "16", "24", "32" or "float"
        "same" is for each clip the depth that holds it.
    dither : bool
        Whether samples that the depth doesn't hold are dithered.
    name : str
        A pattern for the names, as "{n:03}_{name}".
    overwrite : bool
        Whether files of the same names are replaced.
    progress : callable
        Is told the share that is done, 0 to 1; what it raises stops the work.

    Returns
    -------
    Delivery

    Raises `Error` (exists, disk-full, proof-failed); then no file is left behind and none is replaced.

    >>> deliver("sides", *Clip.open("kick.wav").apply(Split()), depth="16").manifest.files[0].depth
    '16'
    """
    sources = {source.id: source for clip in clips for source in clip._sources}
    steps = {step.id: step for clip in clips for step in clip._steps}
    session = build_session(sources.values(), sorted(steps.values(), key=lambda step: int(step.id.rpartition("-")[2])))
    order = order_clips(tuple(clip._ref for clip in clips), options)
    return Delivery(Path(out), session.deliver(order, Path(out), get_progress(options)))


class Session:
    """Files with turns on them that are delivered together.

    Parameters
    ----------
    *files : path
        Audio files and films with sound; they are never changed.

    Raises `Error` for a file that can't be read.

    >>> with Session("a_L.wav", "a_R.wav") as s:
    ...     stereo = s.add(Merge(), s["a_L"], s["a_R"])
    ...     [path.name for path in s.deliver("out", format="flac").files]
    ['a.flac']
    """

    def __init__(self, *files: AnyPath) -> None:
        self.clips = [Clip.open(file) for file in files]
        self.results: list[Clip] = []

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.clips, self.results = [], []

    def __getitem__(self, name: str) -> Clip:
        """The file or result of this name. Raises `Error` (not-found) where there is none, or more than one."""
        matches = [clip for clip in (*self.clips, *self.results) if clip.name == name]
        if len(matches) != 1:
            names = ", ".join(clip.name for clip in (*self.clips, *self.results))
            problem = "There is no clip" if not matches else f"There are {len(matches)} clips"
            raise NotFoundError(f"{problem} called {name}", help=f"There are {names}.")
        return matches[0]

    def add(self, turn: Turn, *clips: Clip, over: Stretch | None = None) -> Any:
        """Add a turn on clips, or on the only file where none are given.

        Returns what `Clip.apply` does, and raises what it raises.
        """
        inputs = clips or self.clips
        if not clips and len(inputs) != 1:
            raise BadRequestError(f"{turn.kind}: say which of the {len(inputs)} files it is applied to")
        result = inputs[0].apply(turn, *inputs[1:], over=over)
        self.results += result if isinstance(result, tuple) else [result]
        return result

    def deliver(self, out: AnyPath, *clips: Clip, **options: Unpack[Options]) -> Delivery:
        """Write clips into a folder: all results that no later turn takes where none are given. Options are those of
        the function `deliver`.
        """
        used = {ref for clip in self.results for step in clip._steps for ref in step.inputs}
        chosen = clips or tuple(clip for clip in self.results if clip._ref not in used)
        return deliver(out, *chosen, **options)
