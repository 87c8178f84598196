"""The library for users of Python: files and arrays as clips, turns on them, deliveries with their proofs.

A clip is lazy: nothing is computed until it is read or written, and then only what is asked for. What is written is
proved as everything else is; `Error` and what descends from it is raised where something is refused or fails.
"""

import os
import shutil
import tempfile
import weakref
from collections.abc import Iterable, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from itertools import count
from pathlib import Path
from typing import Any, Final, Self, cast, overload

import numpy as np
from numpy.typing import ArrayLike, NDArray

from wedge_turn.core.audio import WavFile, build_header, open_files
from wedge_turn.core.batch import Choice, PreparedFolder, Tree, Verification, prepare_tree, verify_tree
from wedge_turn.core.delivery import (
    MEDIA_TYPES,
    ContainerName,
    DepthChoice,
    Manifest,
    ManifestFinding,
    Order,
    Progress,
    StepProof,
    find_container,
)
from wedge_turn.core.errors import BadRequestError, ExistsError, NotFoundError
from wedge_turn.core.findings import FileFinding
from wedge_turn.core.form import EncodingName, Form, check_limits
from wedge_turn.core.measure import Measures
from wedge_turn.core.metadata import Recorded
from wedge_turn.core.naming import check_given_name, parse_naming
from wedge_turn.core.scratch import scratch_folder
from wedge_turn.core.session import Session as _Session
from wedge_turn.core.session import turn_files
from wedge_turn.core.turns import AnyTurn, Merge, Split, Turn
from wedge_turn.core.worksheet import Step, Stretch, plan_turn, source_ref, step_ref

AnyPath = str | os.PathLike[str]
_IDS: Final = count(1)
_STORED: Final[dict[str, EncodingName]] = {
    "uint8": "u8", "int16": "s16", "int32": "s32", "float32": "f32", "float64": "f64",
}  # fmt: skip


@dataclass(frozen=True)
class Delivery:
    """Files that were written and proved.

    Attributes
    ----------
    folder : Path
        Where they lie.
    manifest : Manifest
        Everything about them, as `wedge-turn-manifest.json` has it.
    """

    folder: Path
    manifest: Manifest

    @property
    def files(self) -> list[Path]:
        """The files, in the order of their clips."""
        return [self.folder / file.name for file in self.manifest.files]

    @property
    def proofs(self) -> list[StepProof]:
        """What was proved: `proof.statement` says it in a sentence."""
        return self.manifest.proofs

    @property
    def findings(self) -> list[ManifestFinding]:
        """What should be known about the files: what clipped, what could not go along."""
        return self.manifest.findings


@dataclass(frozen=True)
class Inspection:
    """What a file is and holds.

    Attributes
    ----------
    name : str
        The file's name, without its ending.
    form : Form
        Channels, frames, rate in Hz, depth, format and start time.
    measures : Measures
        Levels, loudness, correlation and the like; dB relative to full scale.
    recorded : Recorded
        What the file says about its recording.
    findings : tuple of FileFinding
        What should be known about it, each with a code, a sentence and the turn that deals with it.
    """

    name: str
    form: Form
    measures: Measures
    recorded: Recorded
    findings: tuple[FileFinding, ...]


@dataclass(frozen=True, eq=False)
class _Source:
    """A file that is open until nobody needs it."""

    id: str
    path: Path
    form: Form
    file: WavFile

    @classmethod
    def open(cls, path: Path, folder: str | None = None) -> Self:
        """`folder` is a temporary one that the file lies in, and goes with it."""
        with ExitStack() as stack:
            if folder:
                stack.callback(shutil.rmtree, folder, ignore_errors=True)
            ((form, file),) = stack.enter_context(open_files([path]))
            source = cls(f"file-{next(_IDS)}", path, form, file)
            weakref.finalize(source, stack.pop_all().close)
        return source


class Clip:
    """Sound with channels: a file, an array, or what a turn makes of other clips. It never changes.

    Make one with `Clip.open`, `Clip.from_array` or `apply`.
    """

    def __init__(self, ref: str, sources: Sequence[_Source], steps: Sequence[Step] = ()) -> None:
        self._ref, self._sources, self._steps = ref, tuple(sources), tuple(steps)

    @classmethod
    def open(cls, path: AnyPath) -> "Clip":
        """A file as a clip.

        Raises `Error` where the file isn't there or can't be read.

        >>> Clip.open("kick.wav").channels
        2
        """
        source = _Source.open(Path(path))
        return cls(source_ref(source.id), [source])

    @classmethod
    def from_array(cls, samples: ArrayLike, rate: int, name: str = "clip") -> "Clip":
        """Samples as a clip; they are copied.

        Parameters
        ----------
        samples : array of (frames, channels), or (frames,) of one channel
            float32 or float64 with full scale ±1, or uint8, int16 or int32 with the range of the type. The clip has the
            depth of the type; libraries that read 24-bit files into int32 put them at its top.
        rate : int
            Sample rate in Hz.
        name : str
            What the clip is called, and a file that is written of it.

        Raises `Error` for other shapes and types, and for floats that are no numbers.

        >>> import numpy as np
        >>> Clip.from_array(np.zeros((48_000, 2), np.int16), rate=48_000)
        <Clip clip: 2 channels, 48,000 frames at 48000 Hz>
        """
        array = np.asarray(samples)
        array = array[:, np.newaxis] if array.ndim == 1 else array
        if array.ndim != 2 or not array.size:
            raise BadRequestError(f"Samples must be (frames, channels), and these have the shape {np.shape(samples)}")
        if array.dtype.name not in _STORED:
            raise BadRequestError(
                f"Samples can't be {array.dtype.name}: give them as {', '.join(_STORED)} with full scale ±1 for floats"
            )
        if array.dtype.kind == "f" and not np.isfinite(array).all():
            raise BadRequestError("Samples must be numbers, and some of these are NaN or infinite")
        frames, channels = array.shape
        check_limits(name, channels, rate)
        form = Form(channels=channels, frames=frames, rate=rate, encoding=_STORED[array.dtype.name])
        folder = tempfile.mkdtemp(prefix="wedge-turn-array-")
        path = Path(folder) / f"{check_given_name(name)}.wav"
        with path.open("wb") as file:
            file.write(build_header(form))
            file.write(np.ascontiguousarray(array, array.dtype.newbyteorder("<")).data)
            file.write(bytes(array.nbytes & 1))
        source = _Source.open(path, folder)
        return cls(source_ref(source.id), [source])

    @property
    def name(self) -> str:
        """What it is called."""
        return self._session().sheet.info(self._ref).name

    @property
    def form(self) -> Form:
        """Channels, frames, rate in Hz, depth and start time."""
        return self._session().sheet.info(self._ref).form

    @property
    def channels(self) -> int:
        """How many channels it has."""
        return self.form.channels

    @property
    def frames(self) -> int:
        """How many samples each channel has."""
        return self.form.frames

    @property
    def rate(self) -> int:
        """Sample rate in Hz."""
        return self.form.rate

    def __repr__(self) -> str:
        form = self.form
        channels = "1 channel" if form.channels == 1 else f"{form.channels} channels"
        return f"<Clip {self.name}: {channels}, {form.frames:,} frames at {form.rate} Hz>"

    def read(self, start: int = 0, frames: int | None = None) -> NDArray[np.float64]:
        """Samples of a stretch, computed now; full scale is ±1.

        Parameters
        ----------
        start : int
            The first frame.
        frames : int, optional
            How many; all that follow where none are given. Outside the clip there is silence.

        Returns
        -------
        array of float64, (frames, channels)

        >>> Clip.open("kick.wav").read(0, 4).shape
        (4, 2)
        """
        clip = self._session().engine.clip(self._ref)
        return clip.read(start, max(0, clip.form.frames - start) if frames is None else frames)

    @overload
    def apply(self, turn: Split, *others: "Clip", over: Stretch | None = None) -> tuple["Clip", ...]: ...
    @overload
    def apply(self, turn: Turn, *others: "Clip", over: Stretch | None = None) -> Any: ...
    def apply(self, turn: Turn, *others: "Clip", over: Stretch | None = None) -> Any:
        """What a turn makes of this clip, and of others that go in with it.

        Parameters
        ----------
        turn : Turn
            With its settings: `Swap()`, `Fold(take="left")`, …
        *others : Clip
            Further inputs, as `Merge` takes them.
        over : Stretch, optional
            The range that the turn is limited to.

        Returns
        -------
        Clip, or a tuple of them where the turn makes several: `Split`, and `Centre(keep="both")`

        Raises `Error` (turn-input, rate-differs) where the turn doesn't take these clips.

        >>> left, right = Clip.open("kick.wav").apply(Split())
        >>> left.apply(Merge(), right).channels
        2
        """
        inputs = (self, *others)
        step = Step(
            id=f"line-{next(_IDS)}",
            turn=cast(AnyTurn, turn),
            inputs=tuple(clip._ref for clip in inputs),
            over=over,
        )
        sources = {source.id: source for clip in inputs for source in clip._sources}
        steps = {step.id: step for clip in inputs for step in clip._steps}
        lines = (*sorted(steps.values(), key=lambda step: int(step.id.rpartition("-")[2])), step)
        outputs = _build_session(sources.values(), lines).sheet.outputs(step)
        made = tuple(Clip(step_ref(step.id, n), list(sources.values()), lines) for n in range(len(outputs)))
        return made if isinstance(turn, Split) or len(made) > 1 else made[0]

    def write(
        self, path: AnyPath, *, depth: DepthChoice = "same", dither: bool = True, overwrite: bool = False
    ) -> Delivery:
        """Write the clip into one file, and prove it.

        Parameters
        ----------
        path : path
            The file; its ending says in which format: .wav, .flac, .aif or .aiff.
        depth : "same", "16", "24", "32" or "float"
            "same" is the depth that holds the clip.
        dither : bool
            Whether samples that the depth doesn't hold are dithered.
        overwrite : bool
            Whether a file of that name is replaced.

        Returns
        -------
        Delivery

        Raises `Error` (exists, disk-full, proof-failed); then nothing is written.

        >>> clip = Clip.open("kick.wav").apply(Split())[0]
        >>> clip.write("left.wav").proofs[0].proof.exact
        True
        """
        path = Path(path)
        container = find_container(path.suffix)
        if container is None:
            endings = ", ".join(MEDIA_TYPES)
            raise BadRequestError(f"{path.name} must have an ending that says in which format it is: {endings}")
        if path.exists() and not overwrite:
            raise ExistsError(f"{path.name} already exists")
        with scratch_folder(path.absolute().parent) as folder:
            order = Order((self._ref,), depth, dither=dither, container=container)
            manifest = self._session().deliver(order, folder)
            (file,) = manifest.files
            (folder / file.name).replace(path)
        renamed = [file.model_copy(update={"name": path.name})]
        return Delivery(path.parent, manifest.model_copy(update={"files": renamed}))

    def _session(self) -> _Session:
        return _build_session(self._sources, self._steps)


def _build_session(sources: Iterable[_Source], steps: Sequence[Step]) -> _Session:
    """What computes and writes clips of these sources and lines. Raises TurnInputError."""
    session = _Session({source.id: (source.path, source.form, source.file) for source in sources})
    session.add_steps(*steps)
    return session


def open(path: AnyPath) -> Clip:
    """A file as a clip: `Clip.open`.

    >>> open("kick.wav").rate
    48000
    """
    return Clip.open(path)


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
        found = [clip for clip in (*self.clips, *self.results) if clip.name == name]
        if len(found) != 1:
            names = ", ".join(clip.name for clip in (*self.clips, *self.results))
            problem = "There is no clip" if not found else f"There are {len(found)} clips"
            raise NotFoundError(f"{problem} called {name}", help=f"There are {names}.")
        return found[0]

    def add(self, turn: Turn, *clips: Clip, over: Stretch | None = None) -> Any:
        """Add a turn on clips, or on the only file where none are given.

        Returns what `Clip.apply` does, and raises what it raises.
        """
        inputs = clips or self.clips
        if not clips and len(inputs) != 1:
            raise BadRequestError(f"{turn.kind}: say which of the {len(inputs)} files it is applied to")
        made = inputs[0].apply(turn, *inputs[1:], over=over)
        self.results += made if isinstance(made, tuple) else [made]
        return made

    def deliver(self, out: AnyPath, *clips: Clip, **options: Any) -> Delivery:
        """Write clips into a folder: all results that no later turn takes where none are given. Options are those of
        the function `deliver`.
        """
        used = {ref for clip in self.results for step in clip._steps for ref in step.inputs}
        chosen = clips or tuple(clip for clip in self.results if clip._ref not in used)
        return deliver(out, *chosen, **options)


def deliver(
    out: AnyPath,
    *clips: Clip,
    format: ContainerName = "wav",
    depth: DepthChoice = "same",
    dither: bool = True,
    name: str = "{name}",
    overwrite: bool = False,
    progress: Progress = lambda _: None,
) -> Delivery:
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
    session = _build_session(sources.values(), sorted(steps.values(), key=lambda step: int(step.id.rpartition("-")[2])))
    order = Order(
        tuple(clip._ref for clip in clips),
        depth,
        dither=dither,
        overwrite=overwrite,
        container=format,
        naming=parse_naming(name),
    )
    return Delivery(Path(out), session.deliver(order, Path(out), progress))


def apply(
    turn: Turn,
    *files: AnyPath,
    out: AnyPath,
    over: Stretch | None = None,
    format: ContainerName = "wav",
    depth: DepthChoice = "same",
    dither: bool = True,
    name: str = "{name}",
    overwrite: bool = False,
    progress: Progress = lambda _: None,
) -> Delivery:
    """Apply a turn to files, as `wedge-turn apply` does: to each, or to those that belong together by their names.

    Parameters
    ----------
    turn : Turn
        With its settings: `Encode()`, `Centre(keep="sides")`, …
    *files : path
        Audio files and films with sound; they are never changed.
    out : path
        The folder to write into; it is made where it isn't there.
    over : Stretch, optional
        The range that the turn is limited to.
    format, depth, dither, name, overwrite, progress
        As for `deliver`.

    Returns
    -------
    Delivery

    Raises what `deliver` raises, and `Error` (turn-input, rate-differs) where the turn doesn't take these files.

    >>> apply(Encode(), "kick.wav", out="ms", depth="24").proofs[0].proof.depth
    '24-bit'
    """
    manifest = turn_files(
        [Path(file) for file in files],
        lambda infos: plan_turn(cast(AnyTurn, turn), infos, over),
        Path(out),
        lambda refs: Order(
            refs, depth, dither=dither, overwrite=overwrite, container=format, naming=parse_naming(name)
        ),
        progress,
    )
    return Delivery(Path(out), manifest)


def split(file: AnyPath, *, out: AnyPath, **options: Any) -> Delivery:
    """Split a file into one mono file for each channel. Options are those of `apply`.

    >>> [path.name for path in split("kick.wav", out="split").files]
    ['kick_L.wav', 'kick_R.wav']
    """
    return apply(Split(), file, out=out, **options)


def merge(left: AnyPath, right: AnyPath, *, out: AnyPath, **options: Any) -> Delivery:
    """Merge two mono files into a stereo file. Options are those of `apply`.

    >>> merge("a_L.wav", "a_R.wav", out="merged").files[0].name
    'a.wav'
    """
    return apply(Merge(), left, right, out=out, **options)


def inspect(file: AnyPath) -> Inspection:
    """What a file is and holds, measured now.

    Raises `Error` where the file isn't there or can't be read.

    >>> [finding.code for finding in inspect("kick.wav").findings]
    ['dual-mono']
    """
    with _Session.open([Path(file)]) as session:
        info, judgement = session.infos["0"], session.judgements[source_ref("0")]
        return Inspection(
            info.name, info.form, session.get_measures("0"), session.files["0"].recorded, judgement.findings
        )


def prep(
    folder: AnyPath,
    out: AnyPath,
    *,
    only: Sequence[str] = (),
    skip: Sequence[str] = (),
    format: ContainerName = "wav",
    depth: DepthChoice = "same",
    overwrite: bool = False,
    progress: Progress = lambda _: None,
) -> list[PreparedFolder]:
    """Prepare a folder and all within it, as `wedge-turn prep` does: merge what belongs together, fold dual mono and
    silent channels, split by channel names, copy the rest; what needs ears is a question.

    Parameters
    ----------
    folder, out : path
        Where the files are, which are never changed, and where the prepared ones go.
    only, skip : sequence of str
        Codes of findings, or turns: what alone is done, or left out.
    format, depth, overwrite, progress
        As for `deliver`.

    Returns
    -------
    list of PreparedFolder
        Each with its `files`, `questions` and what was `refused`.

    >>> [file.path.name for file in prep("takes", "ready")[0].files]
    ['a.wav']
    """
    tree = Tree(Path(folder), Path(out), Choice(frozenset(only), frozenset(skip)), depth, format, overwrite=overwrite)
    return list(prepare_tree(tree, progress=progress))


def verify(folder: AnyPath, sources: AnyPath | None = None, progress: Progress = lambda _: None) -> Verification:
    """Check the files of a delivery, or of every delivery in a tree, against their manifests.

    Parameters
    ----------
    folder : path
        Where they lie.
    sources : path, optional
        A folder with the files that they were made from, under whatever names: every sample is proved again.
    progress : callable
        Is told the share that is done, 0 to 1; what it raises stops the work.

    Returns
    -------
    Verification
        `ok`, and what was found.

    >>> verify(split("kick.wav", out="checked").folder).ok
    True
    """
    return verify_tree(Path(folder), Path(sources) if sources is not None else None, progress)
