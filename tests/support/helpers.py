"""What tests share: real files made in a temporary folder, read by soundfile, which is not ours."""

import struct
from pathlib import Path
from typing import Any

import numpy as np
import soundfile
from numpy.typing import NDArray

from wedge_turn.core.audio import WavFile, build_header, build_trailer, encode
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import Manifest, Order, deliver
from wedge_turn.core.form import ENCODINGS, EncodingName, Form
from wedge_turn.core.metadata import Carried
from wedge_turn.core.turns import TURN_ADAPTER, TURNS, AnyTurn, ClipInfo
from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref
from wedge_turn.store import Store
from wedge_turn.store.rows import Source

RECORDINGS = Path(__file__).parents[2] / "build" / "recordings"
Ints = NDArray[np.int64]


def noise(seed: int, frames: int, channels: int, bits: int = 24) -> Ints:
    """Integers over the whole range of so many bits, the lowest and the highest value among them."""
    samples = np.random.default_rng(seed).integers(-(2 ** (bits - 1)), 2 ** (bits - 1), (frames, channels))
    samples.flat[0], samples.flat[-1] = -(2 ** (bits - 1)), 2 ** (bits - 1) - 1
    return samples


def quiet(seed: int, frames: int, channels: int, bits: int = 24) -> Ints:
    """Integers with so much headroom that nothing here clips."""
    return noise(seed, frames, channels, bits - 2)


def bext(start: int, version: int = 1, loudness: tuple[int, ...] = (0, 0, 0, 0, 0)) -> tuple[bytes, bytes]:
    """A broadcast chunk by the layout of EBU Tech 3285, written independently of the code under test."""
    body = struct.pack("<256s32s32s10s8sQH64s5h", b"Lamp", b"Kettle", b"R1", b"2026-09-14", b"19:42:10", start, version,
                       bytes(64), *loudness)  # fmt: skip
    return b"bext", body.ljust(602, b"\0")


def write_wav(
    path: Path, ints: Ints, rate: int = 48_000, encoding: EncodingName = "s24", carried: Carried = (), mask: int = 0
) -> Path:
    """Write integers (for floats: as fractions of 2^23) as a WAV of this encoding."""
    stored = ENCODINGS[encoding]
    form = Form(channels=ints.shape[1], frames=len(ints), rate=rate, encoding=encoding, speaker_mask=mask)
    raw, _ = encode(ints / 2.0 ** ((24 if stored.is_float else stored.bits) - 1), stored)
    path.write_bytes(build_header(form, carried) + raw.tobytes() + build_trailer(form))
    return path


def read_ints(path: Path, bits: int = 24) -> Ints:
    """Samples of a file as integers of so many bits, read by soundfile."""
    data, _ = soundfile.read(path, dtype="int32", always_2d=True)
    return np.asarray(data, np.int64) >> (32 - bits)


def engine_on(turn: AnyTurn, *files: WavFile, names: list[str] | None = None) -> Engine:
    """An engine for one turn on files, whose clips are called by `names`."""
    ids = [str(n) for n in range(len(files))]
    file_names = names or [f"file {i}" for i in ids]
    infos = {i: ClipInfo(name, file.form) for i, name, file in zip(ids, file_names, files, strict=True)}
    plan = Plan(steps=(Step(id="only", turn=turn, inputs=tuple(source_ref(i) for i in ids)),))
    sheet = Sheet(plan, infos)
    sheet.require(["only"])
    return Engine(sheet, lambda i: files[int(i)])


def example_engine(kind: str, folder: Path, frames: int, headroom: int = 2, encoding: EncodingName = "s24") -> Engine:
    """An engine for the example of a turn on noise with so many bits of headroom; its lowest and highest values are
    there at 0.
    """
    example = TURNS[kind].example
    files = [
        WavFile(write_wav(folder / f"{n}.wav", noise(n, frames, count, 24 - headroom), encoding=encoding))
        for n, count in enumerate(example.channels)
    ]
    turn = TURN_ADAPTER.validate_python({"kind": kind, **example.settings})
    return engine_on(turn, *files, names=["a", "b"][: len(files)])


def delivered(folder: Path, turn: AnyTurn, *files: Ints, names: list[str] | None = None, bits: int = 24,
              **order: object) -> tuple[Manifest, Path]:  # fmt: skip
    """One turn of files of these samples, delivered; and where its first file lies."""
    encoding = {16: "s16", 24: "s24", 32: "s32"}[bits]
    folder.mkdir(exist_ok=True, parents=True)
    wavs = [WavFile(write_wav(folder / f"{n}.wav", ints, encoding=encoding)) for n, ints in enumerate(files)]  # type: ignore[arg-type]
    engine = engine_on(turn, *wavs, names=names or [f"in{n}" for n in range(len(files))])
    manifest = deliver(engine, Order(tuple(engine.sheet.list_ends()), **order), folder / "out")  # type: ignore[arg-type]
    return manifest, folder / "out" / manifest.files[0].name


def take(store: Store, job_id: str, content: bytes, name: str = "w.wav") -> Source:
    """Take a file of these bytes into a job."""
    upload = store.uploads.receive(job_id, name, [content])
    with store.uploads.arrived(upload) as arrived:
        return store.add_source(job_id, arrived)


def kept_files(data: Path) -> list[str]:
    """Files below a data folder but those of the store itself."""
    own = ("sqlite3", "in-use", "reserve")
    return [name for name in left_behind(data) if not any(mark in name for mark in own)]


def left_behind(folder: Path) -> list[str]:
    """Every file below a folder, hidden ones too."""
    return sorted(str(p.relative_to(folder)) for p in folder.rglob("*") if p.is_file())


Json = dict[str, Any]
