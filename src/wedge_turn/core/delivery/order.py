"""What to deliver and how: depths, dither, the range of time, and the names of the files."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Final, Literal

import numpy as np

from wedge_turn.core.audio import full_scale, step_size
from wedge_turn.core.clips import Clip, Engine
from wedge_turn.core.delivery.containers import BY_NAME, Container, ContainerName, get_extension
from wedge_turn.core.delivery.copies import Copy
from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.form import BY_DEPTH, Encoding, Form
from wedge_turn.core.naming import Facts, Naming, make_file_names, needs_channel, split_name
from wedge_turn.core.turns import Trim
from wedge_turn.core.worksheet import parse_ref

DepthChoice = Literal["same", "16", "24", "32", "float"]
_FIRST_BLOCK: Final = 4_096
_BLOCK: Final = 65_536


@dataclass(frozen=True)
class Origin:
    """A source as the user knows it: its file's name, the folder it came from, and its hash with the algorithm before
    it; either is empty where it isn't known.
    """

    name: str
    folder: str = ""
    hash: str = ""

    @property
    def place(self) -> str:
        """The name with its folder."""
        return f"{self.folder}/{self.name}" if self.folder else self.name


@dataclass(frozen=True)
class Order:
    """References to clips, and how to write them. Dither is added only where a depth does not hold the samples; `range`
    is what each clip is trimmed to, the whole of it where there is none. `copies` are files that go along as they are;
    `job` is the name that patterns have for it; `origins` are the sources by their ids, and with `folders` each file
    goes into the folder that its first source came from. `replaces_own` lets it replace what an earlier delivery wrote
    there, while that is still what was written, and with `replaces_damaged` what of it can't be read any more.
    """

    refs: tuple[str, ...]
    depth: DepthChoice = "same"
    dither: bool = True
    range: Trim | None = None
    overwrite: bool = False
    copies: tuple[Copy, ...] = ()
    container: ContainerName = "wav"
    naming: Naming = field(default_factory=Naming)
    job: str = ""
    folders: bool = False
    replaces_own: bool = False
    replaces_damaged: bool = False
    origins: Mapping[str, Origin] = field(default_factory=dict, compare=False)

    @property
    def other(self) -> Container | None:
        """The format that is not WAV, where it isn't."""
        return BY_NAME[self.container]

    @property
    def wave(self) -> Literal["WAV", "BW64"]:
        """What files are written as before they are encoded in another format, if they are."""
        return "BW64" if self.container == "bw64" else "WAV"


def name_files(engine: Engine, order: Order) -> list[str]:
    """The names the files of an order will have, in the order of its references, then of its copies; with their folders
    before them, after `/`, where those are kept.
    """
    today = datetime.now().astimezone().date().isoformat()
    names = [order.naming.name(_facts(engine, order, n, ref, today)) for n, ref in enumerate(order.refs, 1)]
    ending = get_extension(order.container)
    names_wanted = [*((name, ending) for name in names), *(split_name(copy.name) for copy in order.copies)]
    if not order.folders:
        return make_file_names(names_wanted)
    folders = [_folder_of(engine, order, ref) for ref in order.refs] + [copy.folder for copy in order.copies]
    return _in_folders(folders, names_wanted)


def _folder_of(engine: Engine, order: Order, ref: str) -> str:
    made_from = engine.sheet.origins([ref])
    first = next(key for key in engine.sheet.sources if key in made_from)
    return order.origins[first].folder if first in order.origins else ""


def _in_folders(folders: Sequence[str], wanted: Sequence[tuple[str, str]]) -> list[str]:
    """Safe names that differ within their folder, with the folder before them; folders are named in the same way."""
    names = [""] * len(wanted)

    def fill(inside: str, parts: Mapping[int, Sequence[str]]) -> None:
        """Name what lies in one folder: `parts` are the folders that each place has still before it."""
        below = list(dict.fromkeys(rest[0] for rest in parts.values() if rest))
        in_place = [place for place, rest in parts.items() if not rest]
        safe = make_file_names([*((part, "") for part in below), *(wanted[place] for place in in_place)])
        for place, name in zip(in_place, safe[len(below) :], strict=True):
            names[place] = inside + name
        for part, name in zip(below, safe, strict=False):
            fill(f"{inside}{name}/", {place: rest[1:] for place, rest in parts.items() if rest[:1] == [part]})

    fill("", {place: [part for part in folder.split("/") if part] for place, folder in enumerate(folders)})
    return names


def _facts(engine: Engine, order: Order, number: int, ref: str, today: str) -> Facts:
    info = engine.sheet.info(ref)
    kind, key, _ = parse_ref(ref)
    step_size = engine.sheet.plan.step(key) if kind == "step" else None
    inputs = engine.sheet.inputs(step_size) if step_size else []
    base = inputs[0].name if len(inputs) == 1 else info.name
    suffix = info.name.removeprefix(base) if info.name.startswith(base) else ""
    named = needs_channel(order.naming.pattern) and info.form.channels == 1
    return Facts(
        name=info.name,
        suffix=suffix,
        turn=step_size.turn.kind if step_size else "",
        channel=("".join(info.form.labels) or "".join(info.form.speakers) or suffix.lstrip("_-. ")) if named else "",
        n=number,
        job=order.job,
        date=today,
        rate=f"{info.form.rate / 1000:g}",
        depth=choose_encoding(info.form, order.depth).depth,
    )


def list_refusals(engine: Engine, order: Order) -> dict[str, str]:
    """Why clips of an order can't be written in its format, by their references."""
    reasons: dict[str, str] = {}
    if order.other is not None:
        for ref in order.refs:
            form = engine.clip(ref).form
            reason = order.other.refusal(form, choose_encoding(form, order.depth))
            if reason:
                reasons[ref] = reason
    return reasons


def check_format(engine: Engine, order: Order) -> None:
    """Raises BadRequestError, naming the first of them, where clips can't be written in the order's format."""
    if refused := list_refusals(engine, order):
        ref, reason = next(iter(refused.items()))
        more = f" (and {len(refused) - 1} more)" if len(refused) > 1 else ""
        raise BadRequestError(f"{engine.sheet.info(ref).name} can't be delivered{more}: {reason}")


def choose_encoding(form: Form, depth: DepthChoice) -> Encoding:
    """The encoding a clip is written in: its own, or the one asked for."""
    return form.stored if depth == "same" else BY_DEPTH[depth]


def is_exact_in(clip: Clip, encoding: Encoding) -> bool:
    """Whether an encoding holds every sample of a clip as it is: because its turns need no more bits, or because its
    samples happen to fit, as 24-bit samples in a float file do. Reads the clip up to the first sample that does not.
    """
    if clip.fits(encoding):
        return True
    if encoding.is_float:
        return False
    low, high = full_scale(encoding)
    at, frames = 0, _FIRST_BLOCK
    while at < clip.form.frames:
        block = clip.read(at, min(frames, clip.form.frames - at))
        steps = block / step_size(encoding)
        if (steps != np.rint(steps)).any() or block.min() < low or block.max() > high:
            return False
        at, frames = at + frames, _BLOCK
    return True
