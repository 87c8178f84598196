"""Nothing wrong is delivered: a bit that is lost on the way to the disk, or a sample that was computed wrong, stops
every delivery, whatever the turn, the depth and the kind of delivery.
"""

import errno
import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, get_args

import numpy as np
import pytest

from support.helpers import engine_on, example_engine, left_behind, noise, write_wav
from wedge_turn.core.audio import Block, WavFile, pcm
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import ContainerName, Copy, DepthChoice, Manifest, Order, containers, deliver, mixing
from wedge_turn.core.errors import ProofFailedError
from wedge_turn.core.form import EncodingName
from wedge_turn.core.turns import TURN_ADAPTER, TURNS, Trim
from wedge_turn.core.worksheet import source_ref

FRAMES = 1_503
DEPTHS: tuple[DepthChoice, ...] = get_args(DepthChoice)
CLIPPING = ("width", "matrix", "level", "polarity")


class Disk:
    """A disk that loses one bit in its n-th write; without a number it counts the writes."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch, lose_in: int | None = None) -> None:
        self.writes = 0
        self._real = os.write
        self._lose_in = lose_in
        monkeypatch.setattr(os, "write", self.write)

    def write(self, fd: int, data: memoryview) -> int:
        number, self.writes = self.writes, self.writes + 1
        if number != self._lose_in or len(data) == 0:
            return self._real(fd, data)
        wrong = bytearray(data)
        place = np.random.default_rng(number).integers(len(wrong) * 8)
        wrong[place // 8] ^= 1 << int(place % 8)
        return self._real(fd, wrong)


@contextmanager
def writes_that_are_lost(
    engine: Engine, order: Order, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> Iterator[tuple[int, int]]:
    """How many writes a delivery takes, and after which of them with a lost bit it was refused."""
    with monkeypatch.context() as patch:
        disk = Disk(patch)
        deliver(engine, order, folder / "good")
    refused = 0
    before = left_behind(folder)
    for number in range(disk.writes):
        with monkeypatch.context() as patch:
            Disk(patch, number)
            try:
                deliver(engine, order, folder / "bad")
            except ProofFailedError:
                refused += 1
    assert left_behind(folder) == before
    yield disk.writes, refused


@pytest.mark.parametrize("depth", DEPTHS)
@pytest.mark.parametrize("kind", TURNS)
def test_a_lost_bit_stops_every_delivery(
    kind: str, depth: DepthChoice, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """All results of a turn, one of them alone, and a range of one; in any write: header, samples or manifest."""
    engine = example_engine(kind, tmp_path, FRAMES)
    ends = tuple(engine.sheet.list_ends())
    orders = {Order(ends, depth), Order(ends[:1], depth), Order(ends[:1], depth, range=Trim(start="90s", end="1103s"))}
    for order in orders:
        with writes_that_are_lost(engine, order, tmp_path, monkeypatch) as (writes, refused):
            assert writes >= 3
            assert refused == writes
        for path in (tmp_path / "good").iterdir():
            path.unlink()


@pytest.mark.parametrize(("container", "depth"), [("flac", "16"), ("flac", "24"), ("aiff", "16"), ("aiff", "32")])
@pytest.mark.parametrize("kind", TURNS)
def test_a_lost_bit_stops_a_file_of_every_format(
    kind: str, container: ContainerName, depth: DepthChoice, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """In any write of the WAV that comes first, of the file itself, or of the manifest; but in a header that is written
    over later, where nothing wrong stays.
    """
    engine = example_engine(kind, tmp_path, FRAMES)
    order = Order(tuple(engine.sheet.list_ends()), depth, container=container)
    with monkeypatch.context() as patch:
        disk = Disk(patch)
        deliver(engine, order, tmp_path / "good")
    good = {path.name: path.read_bytes() for path in (tmp_path / "good").glob(f"*.{container}")}
    refused = 0
    for number in range(disk.writes):
        with monkeypatch.context() as patch:
            Disk(patch, number)
            try:
                deliver(engine, order, tmp_path / f"bad-{number}")
            except ProofFailedError:
                refused += 1
                continue
        there = {path.name: path.read_bytes() for path in (tmp_path / f"bad-{number}").glob(f"*.{container}")}
        assert there == good
    assert refused >= disk.writes - 2 * len(good)
    assert refused >= 4


@pytest.mark.parametrize("container", ["flac", "aiff"])
def test_a_file_that_decodes_to_something_else_stops_its_delivery(
    container: ContainerName, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """As a faulty encoder would leave it: well formed, and one sample wrong, or one too many."""
    engine = example_engine("swap", tmp_path, FRAMES)
    order = Order(tuple(engine.sheet.list_ends()), container=container)
    real = containers._blocks

    def wrong(block: Any) -> Any:
        block[7, 0] ^= 1 << 8
        return block

    for change in (wrong, lambda block: np.concatenate([block, block[-1:]])):
        calls: list[int] = []

        def blocks(wav: WavFile, change: Any = change, calls: list[int] = calls) -> Iterator[Any]:
            calls.append(1)
            return iter([change(block) if len(calls) == 1 else block for block in real(wav)])

        monkeypatch.setattr(containers, "_blocks", blocks)
        with pytest.raises(ProofFailedError, match="decode"):
            deliver(engine, order, tmp_path / "out")
        assert not (tmp_path / "out").exists()


def test_a_lost_bit_stops_a_copy(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    engine = example_engine("swap", tmp_path, FRAMES)
    copy = Copy(tmp_path / "0.wav", "0.wav", engine.sheet.info("source:0").form)
    with writes_that_are_lost(engine, Order((), copies=(copy,)), tmp_path, monkeypatch) as (writes, refused):
        assert writes >= 2
        assert refused == writes


@pytest.mark.parametrize("kind", CLIPPING)
def test_a_lost_bit_stops_a_delivery_that_clips(kind: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    engine = example_engine(kind, tmp_path, FRAMES, headroom=0)
    order = Order(tuple(engine.sheet.list_ends()), "24")
    manifest = deliver(engine, order, tmp_path / "clips")
    assert sum(manifest.files[0].clipped) > 0
    with writes_that_are_lost(engine, order, tmp_path, monkeypatch) as (writes, refused):
        assert refused == writes


@pytest.mark.parametrize("depth", DEPTHS)
@pytest.mark.parametrize("encoding", ["s16", "s24", "f32"])
def test_a_lost_bit_stops_a_source_delivered_as_it_is(
    encoding: EncodingName, depth: DepthChoice, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    headroom = 10 if encoding == "s16" else 2
    engine = example_engine("swap", tmp_path, FRAMES, headroom, encoding)
    with writes_that_are_lost(engine, Order((source_ref("0"),), depth), tmp_path, monkeypatch) as (writes, refused):
        assert refused == writes


def wrong_sample(block: Any, place: int, by: float) -> Any:
    changed = block.copy()
    changed.reshape(-1)[place] += by
    return changed


@pytest.mark.parametrize(
    ("kind", "depth", "steps"),
    [
        ("fold", "16", 3.5), ("level", "16", 3.5), ("width", "float", 2.0), ("centre", "24", 3.5),
        ("level", "float", 2.0), ("align", "float", 1.0),
    ],
)  # fmt: skip
def test_a_sample_that_was_computed_wrong_stops_a_delivery(
    kind: str, depth: DepthChoice, steps: float, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Off by more than rounding and dither explain: 3.5 steps, and of a float two units of its last place."""
    engine = example_engine(kind, tmp_path, FRAMES, encoding="f32")
    real = pcm.encode
    bits = {"16": 15, "24": 23, "float": 23}[depth]

    def encode(block: Any, *rest: Any, **named: Any) -> Any:
        place = int(np.argmax(np.abs(block)))
        highest = 2.0 ** np.floor(np.log2(np.abs(block.reshape(-1)[place])))
        unit = highest if depth == "float" else 1.0
        return real(
            wrong_sample(block, place, -np.sign(block.reshape(-1)[place]) * steps * unit / 2**bits), *rest, **named
        )

    order = Order(tuple(engine.sheet.list_ends()), depth)
    deliver(engine, order, tmp_path / "good")
    monkeypatch.setattr("wedge_turn.core.delivery.writing.encode", encode)
    with pytest.raises(ProofFailedError, match="does not match what was computed for it"):
        deliver(engine, order, tmp_path / "bad")


@pytest.mark.parametrize("kind", ["encode", "width", "matrix", "fold", "sum", "decode", "polarity"])
def test_a_mix_of_integers_that_was_computed_wrong_stops_a_delivery(
    kind: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    engine = example_engine(kind, tmp_path, FRAMES)
    order = Order(tuple(engine.sheet.list_ends()), "24")
    deliver(engine, order, tmp_path / "good")
    real = mixing.IntegerMix.read

    def read(self: mixing.IntegerMix, *rest: Any) -> mixing.Mix:
        mixed = real(self, *rest)
        value = int.from_bytes(mixed.raw[300:303].tobytes(), "little", signed=True)
        wrong = (value - 3 if value > 0 else value + 3).to_bytes(3, "little", signed=True)
        raw = mixed.raw.copy()
        raw[300:303] = np.frombuffer(wrong, np.uint8)
        return mixing.Mix(raw, mixed.clipped)

    monkeypatch.setattr(mixing.IntegerMix, "read", read)
    with pytest.raises(ProofFailedError, match="does not match what was computed for it"):
        deliver(engine, order, tmp_path / "bad")


def floats(folder: Path, samples: Any) -> WavFile:
    path = write_wav(folder / "floats.wav", np.zeros((len(samples), samples.shape[1]), np.int64), encoding="f32")
    content = bytearray(path.read_bytes())
    content[-samples.size * 4 :] = samples.astype("<f4").tobytes()
    path.write_bytes(content)
    return WavFile(path)


def delivered(engine: Engine, folder: Path, **how: Any) -> tuple[Manifest, Block]:
    manifest = deliver(engine, Order(tuple(engine.sheet.list_ends()), **how), folder / "out")
    with WavFile(folder / "out" / manifest.files[0].name) as wav:
        return manifest, wav.read(0, wav.form.frames)


def test_no_proof_is_of_a_number_that_is_none(tmp_path: Path) -> None:
    """Damage is silence in what is written, counted, and told by the proof of the file that holds such a place."""
    samples = np.full((40, 2), 0.25, np.float32)
    samples[3, 0], samples[4, 1], samples[5, 0], samples[6, 0] = np.nan, np.inf, 1e7, -1e30
    for kind in ("swap", "level", "width"):
        turn = TURN_ADAPTER.validate_python({"kind": kind, **TURNS[kind].example.settings})
        engine = engine_on(turn, floats(tmp_path, samples), names=["hiss"])
        manifest, written = delivered(engine, tmp_path / kind)
        assert np.isfinite(written).all()
        assert "4 samples of the source were damaged" in manifest.proofs[0].proof.statement
        assert [f.measured["samples"] for f in manifest.findings if f.code == "damaged"] == [4]


def test_samples_beyond_the_highest_float_are_clipped_and_counted(tmp_path: Path) -> None:
    engine = engine_on(
        TURN_ADAPTER.validate_python({"kind": "level", "gains_db": (48,)}),
        floats(tmp_path, np.array([[1e5, -1e5], [0.5, 0.25]], np.float32)),
        names=["loud"],
    )
    manifest, written = delivered(engine, tmp_path)
    assert np.array_equal(written[0], [1e6, -1e6])
    assert manifest.files[0].clipped == [1, 1]
    assert "beyond which a sample counts as damage" in manifest.findings[0].message


@pytest.mark.parametrize(
    ("samples", "depth", "why"),
    [
        ([-1.0, 0.5], "24", "exactly +1.0, one step above the highest 24-bit sample"),
        ([0.999999, 0.5], "16", "less than one step below full scale, and rounding to 16 bits"),
        ([1.5, 0.5], "24", "full scale up to 3.52 dB"),
        ([1.0001, 0.5], "24", "full scale by less than 0.01 dB"),
    ],
)
def test_clipping_is_reported_by_its_cause(samples: list[float], depth: DepthChoice, why: str, tmp_path: Path) -> None:
    turn = "polarity" if samples[0] == -1 else "swap"
    settings = {"channels": "both"} if turn == "polarity" else {}
    file = floats(tmp_path, np.array([[value, 0.0] for value in samples], np.float32))
    engine = engine_on(TURN_ADAPTER.validate_python({"kind": turn, **settings}), file, names=["top"])
    manifest, _ = delivered(engine, tmp_path, depth=depth, dither=False)
    (finding,) = [f for f in manifest.findings if f.code == "clipped"]
    assert "1 sample was clipped" in finding.message
    assert why in finding.message


@pytest.mark.parametrize(("bits", "depth", "dithered"), [(16, "16", False), (17, "16", True), (24, "24", False)])
def test_dither_is_added_only_where_a_sample_does_not_fit(
    bits: int, depth: DepthChoice, dithered: bool, tmp_path: Path
) -> None:
    """So many bits in a 24-bit file and in a float file: a last sample that does not fit is found, too."""
    ints = noise(5, 70_000, 2, 16) << 8
    ints[-1, 1] = 1 << (24 - bits)
    encodings: tuple[EncodingName, ...] = ("s24", "f32")
    for encoding in encodings:
        folder = tmp_path / encoding
        folder.mkdir()
        path = write_wav(folder / "few.wav", ints, encoding=encoding)
        engine = engine_on(TURN_ADAPTER.validate_python({"kind": "swap"}), WavFile(path), names=["few"])
        manifest, written = delivered(engine, folder, depth=depth)
        assert manifest.files[0].dithered is dithered
        assert np.array_equal(written * 2**23, ints[:, ::-1]) is not dithered


def test_the_proof_says_where_it_read_the_file_back_from(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    engine = example_engine("swap", tmp_path, FRAMES)
    order = Order(tuple(engine.sheet.list_ends()))
    disk = deliver(engine, order, tmp_path / "disk")
    real = os.open

    def open_in_cache(path: Any, flags: int, *rest: Any, **named: Any) -> int:
        if flags & os.O_DIRECT:
            raise OSError(errno.EINVAL, "Invalid argument")
        return real(path, flags, *rest, **named)

    monkeypatch.setattr(os, "open", open_in_cache)
    cache = deliver(engine, order, tmp_path / "cache")
    assert cache.files[0].read_back == "cache"
    assert "system cache" in cache.proofs[0].proof.statement
    assert ("system cache" in disk.proofs[0].proof.statement) == (disk.files[0].read_back == "cache")


@pytest.mark.parametrize("container", get_args(ContainerName))
def test_a_disk_that_does_not_give_back_what_was_written_stops_a_delivery(
    container: ContainerName, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Though the system's cache still has it."""
    engine = example_engine("split", tmp_path, FRAMES)
    real = os.preadv

    def preadv(fd: int, *rest: Any) -> int:
        if fcntl.fcntl(fd, fcntl.F_GETFL) & os.O_DIRECT:
            raise OSError(errno.EIO, "Input/output error")
        return real(fd, *rest)

    monkeypatch.setattr(os, "preadv", preadv)
    with pytest.raises(OSError, match=r"Input/output error: .*\.(wav|flac|aiff|aif)'"):
        deliver(engine, Order(tuple(engine.sheet.list_ends()), container=container), tmp_path / "out")
    assert not (tmp_path / "out").exists()


def test_a_chain_of_gains_ends_where_samples_would_be_no_numbers(tmp_path: Path) -> None:
    from wedge_turn.core.errors import TurnInputError
    from wedge_turn.core.turns import ClipInfo
    from wedge_turn.core.worksheet import Plan, Sheet, Step

    wav = WavFile(write_wav(tmp_path / "w.wav", noise(1, 10, 2)))
    level = TURN_ADAPTER.validate_python({"kind": "level", "gains_db": (48,)})

    def chain(count: int) -> Plan:
        inputs = [source_ref("0"), *(f"step:s{n}:0" for n in range(count))]
        return Plan(steps=tuple(Step(id=f"s{n}", turn=level, inputs=(inputs[n],)) for n in range(count)))

    infos = {"0": ClipInfo("w", wav.form)}
    engine = Engine(Sheet(chain(4), infos), lambda _: wav)
    assert np.abs(engine.clip("step:s3:0").read(0, 10)).max() == 1e6
    with pytest.raises(TurnInputError, match="more than 240 dB"):
        Sheet(Plan(), infos).with_step(*chain(6).steps)
