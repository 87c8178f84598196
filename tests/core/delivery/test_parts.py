"""Deliveries whose files are written by the workers of an executor: the same files, the same proofs, the same ends."""

import shutil
import tempfile
import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from support.helpers import left_behind, noise, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import Copy, Manifest, Order, deliver, verify, writing
from wedge_turn.core.delivery.hashing import write_whole
from wedge_turn.core.errors import Error, MissingError, ProofFailedError, StoppedError
from wedge_turn.core.naming import Naming
from wedge_turn.core.turns import ClipInfo, Level, Merge, Split, Swap, Trim
from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref, step_ref

FRAMES = 30_000


@pytest.fixture
def engine(tmp_path: Path) -> Engine:
    """Two stereo files, split; the second one's sides raised and merged the other way round; and a file besides."""
    names = {"0": "lamp", "1": "bell", "2": "spare"}
    paths = {key: write_wav(tmp_path / f"{name}.wav", noise(int(key), FRAMES, 2)) for key, name in names.items()}
    files = {key: WavFile(path) for key, path in paths.items()}
    steps = (
        Step(id="a", turn=Split(), inputs=(source_ref("0"),)),
        Step(id="b", turn=Split(), inputs=(source_ref("1"),)),
        Step(id="c", turn=Level(gains_db=(1.5,)), inputs=(step_ref("b", 0),)),
        Step(id="d", turn=Merge(), inputs=(step_ref("c", 0), step_ref("b", 1)), names=("bell turned",)),
        Step(id="e", turn=Swap(), inputs=(step_ref("d", 0),)),
    )
    infos = {key: ClipInfo(name, files[key].form) for key, name in names.items()}
    hashes = {key: f"hash of {name}" for key, name in names.items()}
    return Engine(Sheet(Plan(steps=steps), infos, hashes), files.__getitem__)


def order(engine: Engine, tmp_path: Path, **how: object) -> Order:
    spare = tmp_path / "spare.wav"
    return Order(tuple(engine.sheet.list_ends()), copies=(Copy(spare, "spare.wav", WavFile(spare).form),), **how)  # type: ignore[arg-type]


def comparable(manifest: Manifest) -> str:
    return manifest.model_copy(update={"made": None}).model_dump_json(indent=1)


@pytest.mark.parametrize(
    "how",
    [
        {},
        {"depth": "16"},
        {"container": "flac"},
        {"range": Trim(start="480s", end="9600s")},
        {"container": "aiff", "depth": "16"},
    ],
    ids=str,
)
def test_workers_write_what_one_process_writes(how: dict[str, object], engine: Engine, tmp_path: Path) -> None:
    alone = deliver(engine, order(engine, tmp_path, **how), tmp_path / "alone")
    told: list[str] = []
    shares: list[float] = []
    with ThreadPoolExecutor(2) as workers:
        parts = deliver(
            engine, order(engine, tmp_path, **how), tmp_path / "parts",
            shares.append, finished=told.append, executor=workers,
        )  # fmt: skip
    assert comparable(parts) == comparable(alone)
    assert left_behind(tmp_path / "parts") == left_behind(tmp_path / "alone")
    for file in alone.files:
        assert (tmp_path / "parts" / file.name).read_bytes() == (tmp_path / "alone" / file.name).read_bytes()
    assert verify(tmp_path / "parts") == []
    assert sorted(told) == sorted(file.name for file in alone.files)
    assert shares == sorted(shares)
    assert shares[-1] == 1.0


def test_a_worker_makes_no_folder_anew_that_was_removed_with_a_stopped_delivery(
    engine: Engine, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What is stopped is removed; a worker that is about to write then must not bring its folder back."""
    make = tempfile.mkdtemp

    def make_too_late(prefix: str, dir: Path) -> str:  # as `tempfile` names it
        if prefix == "part-":
            shutil.rmtree(tmp_path / "new", ignore_errors=True)
            return str(dir / "part-1")
        return make(prefix=prefix, dir=dir)

    monkeypatch.setattr(tempfile, "mkdtemp", make_too_late)
    in_folders = order(engine, tmp_path, naming=Naming(pattern="Takes/{name}"))
    with ThreadPoolExecutor(1) as workers, pytest.raises((Error, OSError)):
        deliver(engine, in_folders, tmp_path / "new" / "out", executor=workers)
    assert not (tmp_path / "new").exists()


def test_workers_take_over_what_an_earlier_delivery_holds(engine: Engine, tmp_path: Path) -> None:
    deliver(engine, order(engine, tmp_path), tmp_path / "first")
    (tmp_path / "first" / "lamp_L.wav").write_bytes(b"changed since")
    with ThreadPoolExecutor(2) as workers:
        again = deliver(
            engine, order(engine, tmp_path), tmp_path / "second", earlier=tmp_path / "first", executor=workers
        )
    kept = {file.name for file in again.files if file.kept}
    assert kept == {file.name for file in again.files} - {"lamp_L.wav", "lamp_R.wav"}, "sides are written together"
    assert verify(tmp_path / "second") == []


def test_a_worker_s_proof_speaks(engine: Engine, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """One bit is turned in what a worker writes: nothing arrives."""
    lock, turned = threading.Lock(), threading.Event()

    def turning(fd: int, data: bytes) -> None:
        wrong = bytearray(data)
        with lock:
            if len(data) > 10_000 and not turned.is_set():
                turned.set()
                wrong[5_000] ^= 1
        write_whole(fd, bytes(wrong))

    monkeypatch.setattr(writing, "write_whole", turning)
    with ThreadPoolExecutor(2) as workers, pytest.raises(ProofFailedError):
        deliver(engine, order(engine, tmp_path), tmp_path / "out", executor=workers)
    assert turned.is_set()
    assert not (tmp_path / "out").exists()


def test_a_stop_and_a_failure_leave_nothing(engine: Engine, tmp_path: Path) -> None:
    def stop(_share: float) -> None:
        raise StoppedError("stopped")

    with ThreadPoolExecutor(2) as workers, pytest.raises(StoppedError, match="stopped"):
        deliver(engine, order(engine, tmp_path), tmp_path / "out", stop, executor=workers)
    assert not (tmp_path / "out").exists()
    wanted = order(engine, tmp_path)
    (tmp_path / "bell.wav").rename(tmp_path / "elsewhere.wav")
    with ThreadPoolExecutor(1) as workers, pytest.raises((MissingError, FileNotFoundError), match="bell"):
        deliver(engine, wanted, tmp_path / "out", executor=workers)
    assert not (tmp_path / "out").exists()


def test_a_worker_ends_once_its_delivery_is_gone(
    engine: Engine, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The hidden folder is removed while a worker writes into it: it says so, and leaves nothing either."""
    removed = threading.Event()

    def writing_after_the_end(fd: int, data: bytes) -> None:
        for staging in (tmp_path / "out").glob(".wedge-turn-*"):
            shutil.rmtree(staging)
            removed.set()
        write_whole(fd, data)

    monkeypatch.setattr(writing, "write_whole", writing_after_the_end)
    with ThreadPoolExecutor(1) as workers, pytest.raises((StoppedError, FileNotFoundError, ProofFailedError)):
        deliver(engine, order(engine, tmp_path), tmp_path / "out", executor=workers)
    assert removed.is_set()
    assert not (tmp_path / "out").exists()
