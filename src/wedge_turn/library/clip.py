"""Clips: files, arrays, and what turns make of them."""

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
from wedge_turn.core.delivery import MEDIA_TYPES, DepthChoice, Order, find_container
from wedge_turn.core.errors import BadRequestError, ExistsError
from wedge_turn.core.form import EncodingName, Form, check_limits
from wedge_turn.core.naming import check_given_name
from wedge_turn.core.scratch import scratch_folder
from wedge_turn.core.session import Session
from wedge_turn.core.turns import AnyTurn, Split, Turn
from wedge_turn.core.worksheet import Step, Stretch, source_ref, step_ref
from wedge_turn.library.delivery import Delivery

AnyPath = str | os.PathLike[str]
_IDS: Final = count(1)
_STORED: Final[dict[str, EncodingName]] = {
    "uint8": "u8", "int16": "s16", "int32": "s32", "float32": "f32", "float64": "f64",
}  # fmt: skip


@dataclass(frozen=True, eq=False)
class _Source:
    """A file that is open until nobody needs it."""

    id: str
    path: Path
    form: Form
    file: WavFile

    @classmethod
    def open(cls, path: Path, folder: str | None = None, *, salvage: bool = False) -> Self:
        """`folder` is a temporary one that the file lies in, and goes with it."""
        with ExitStack() as stack:
            if folder:
                stack.callback(shutil.rmtree, folder, ignore_errors=True)
            ((form, file),) = stack.enter_context(open_files([path], salvage=salvage))
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
    def open(cls, path: AnyPath, *, salvage: bool = False) -> "Clip":
        """A file as a clip; to `salvage` is to take what can be read of an incomplete file.

        Raises `Error` where the file isn't there or can't be read.

        >>> Clip.open("kick.wav").channels
        2
        """
        source = _Source.open(Path(path), salvage=salvage)
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
        outputs = build_session(sources.values(), lines).sheet.outputs(step)
        results = tuple(Clip(step_ref(step.id, n), list(sources.values()), lines) for n in range(len(outputs)))
        return results if isinstance(turn, Split) or len(results) > 1 else results[0]

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

    def _session(self) -> Session:
        return build_session(self._sources, self._steps)


def build_session(sources: Iterable[_Source], steps: Sequence[Step]) -> Session:
    """What computes and writes clips of these sources and lines. Raises TurnInputError."""
    session = Session({source.id: (source.path, source.form, source.file) for source in sources})
    session.add_steps(*steps)
    return session


def open(path: AnyPath, *, salvage: bool = False) -> Clip:
    """A file as a clip: `Clip.open`.

    >>> open("kick.wav").rate
    48000
    """
    return Clip.open(path, salvage=salvage)
