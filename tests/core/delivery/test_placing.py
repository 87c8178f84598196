"""Files take their places whole or not at all: killed at any moment, two at once, on disks without links or locks."""

import errno
import multiprocessing
import os
import signal
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile

from support.helpers import left_behind
from wedge_turn.core import scratch
from wedge_turn.core.delivery import MANIFEST, Order, find_unlisted, placing, read_manifest, verify
from wedge_turn.core.delivery.placing import move_all
from wedge_turn.core.errors import BadRequestError, ExistsError, StoppedError
from wedge_turn.core.scratch import PREFIX, UNFINISHED, lock_folder, remove_abandoned, scratch_folder
from wedge_turn.core.session import turn_files
from wedge_turn.core.worksheet import parse_turn, plan_turn

FILES = 3
RESULTS = [f"t{n}_{side}.wav" for n in range(FILES) for side in "LR"]
fork = multiprocessing.get_context("fork")


@pytest.fixture
def takes(tmp_path: Path) -> list[Path]:
    """Stereo files that soundfile wrote."""
    paths = []
    for n in range(FILES):
        paths.append(tmp_path / f"t{n}.wav")
        samples = np.random.default_rng(n).integers(-(2**20), 2**20, (3_000, 2), dtype=np.int32) << 8
        soundfile.write(paths[-1], samples, 48_000, subtype="PCM_24")
    return paths


def split(paths: list[Path], out: Path, *, resume: bool = False, flip: bool = False, **order: Any) -> None:
    """`apply split`, or what would be other files of the same names."""
    turn = parse_turn("split", {})

    def plan(infos: Any) -> Any:
        made = plan_turn(turn, infos)
        if not flip:
            return made
        inverted = [step.model_copy(update={"id": f"{step.id}-i", "turn": parse_turn("polarity", {"channels": "both"})})
                    for step in made.steps]  # fmt: skip
        after = [one.model_copy(update={"inputs": (f"step:{new.id}:0",)})
                 for one, new in zip(made.steps, inverted, strict=True)]  # fmt: skip
        return made.model_copy(update={"steps": (*inverted, *after)})

    turn_files(paths, plan, out, lambda refs: Order(refs, **order), lambda _: None, resume=resume)


def in_a_process(do: Callable[[], object]) -> int:
    """The exit status of a process that does something, negative where a signal ended it."""

    def act() -> None:
        try:
            do()
        except BaseException:
            os._exit(1)
        os._exit(0)

    process = fork.Process(target=act)
    process.start()
    process.join(120)
    assert process.exitcode is not None
    return process.exitcode


def killed_after(moves: int, monkeypatch: pytest.MonkeyPatch, do: Callable[[], object]) -> None:
    """Do something in a process that is killed once so many files have taken their places."""
    real, done = placing._move, 0

    def move(*given: Any, **named: Any) -> Any:
        nonlocal done
        if done == moves:
            os.kill(os.getpid(), signal.SIGKILL)
        done += 1
        return real(*given, **named)

    with monkeypatch.context() as patch:
        patch.setattr(placing, "_move", move)
        assert in_a_process(do) == -signal.SIGKILL


@pytest.mark.parametrize("moves", [0, 1, 4, len(RESULTS), len(RESULTS) + 1])
def test_a_later_run_finishes_what_was_killed_while_moving(
    takes: list[Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch, moves: int
) -> None:
    out = tmp_path / "out"
    killed_after(moves, monkeypatch, lambda: split(takes, out, resume=True))
    if (out / MANIFEST).exists():
        assert [finding.code for finding in verify(out)] == ["interrupted"]
    split(takes, out, resume=True)
    assert sorted(file.name for file in read_manifest(out).files) == RESULTS
    assert (verify(out), find_unlisted(out), list(out.glob(f"{PREFIX}*"))) == ([], [], [])
    for path in takes:
        samples, _ = soundfile.read(path, dtype="int32")
        for side, name in enumerate("LR"):
            assert np.array_equal(soundfile.read(out / f"{path.stem}_{name}.wav", dtype="int32")[0], samples[:, side])


@pytest.mark.parametrize("moves", [0, 1, 4, len(RESULTS), len(RESULTS) + 1])
@pytest.mark.parametrize("links", [True, False])
def test_no_name_is_empty_when_replacing_is_killed(
    takes: list[Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch, moves: int, *, links: bool
) -> None:
    out = tmp_path / "out"
    split(takes, out)
    old = {name: (out / name).read_bytes() for name in RESULTS}
    if not links:
        monkeypatch.setattr(Path, "hardlink_to", without_links)
    killed_after(moves, monkeypatch, lambda: split(takes, out, overwrite=True, flip=True))
    assert [name for name in RESULTS if not (out / name).exists()] == []
    before = sum((out / name).read_bytes() == old[name] for name in RESULTS)
    assert before == max(0, len(RESULTS) - moves)
    # Any later delivery into the folder finishes it first, also one that is then refused.
    with pytest.raises(ExistsError):
        split(takes, out)
    assert not any((out / name).read_bytes() == old[name] for name in RESULTS)
    assert (verify(out), list(out.glob(f"{PREFIX}*"))) == ([], [])


def without_links(*_: object) -> None:
    raise OSError(errno.EPERM, "Operation not permitted")


def test_a_failed_move_takes_everything_back(
    takes: list[Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    out = tmp_path / "out"
    split(takes, out)
    old = {path.name: path.read_bytes() for path in out.iterdir()}
    real, moved = Path.replace, 0

    def replace(path: Path, target: Path) -> Path:
        nonlocal moved
        moved += target.parent == out
        if moved == 5:
            raise OSError(errno.EIO, "Input/output error")
        return real(path, target)

    with monkeypatch.context() as patch:
        patch.setattr(Path, "replace", replace)
        with pytest.raises(OSError, match="Input/output"):
            split(takes, out, overwrite=True, flip=True)
    assert {path.name: path.read_bytes() for path in out.iterdir()} == old


def test_two_deliveries_into_one_folder_both_arrive_in_the_manifest(takes: list[Path], tmp_path: Path) -> None:
    out = tmp_path / "out"
    out.mkdir()
    processes = []
    with lock_folder(out):  # so that all of them are ready to move at the same moment
        for path in takes:
            processes.append(fork.Process(target=split, args=([path], out)))
            processes[-1].start()
    for process in processes:
        process.join(120)
        assert process.exitcode == 0
    assert sorted(file.name for file in read_manifest(out).files) == RESULTS
    assert (verify(out), find_unlisted(out)) == ([], [])


def test_who_waits_for_a_folder_can_be_stopped(takes: list[Path], tmp_path: Path) -> None:
    out = tmp_path / "out"
    out.mkdir()

    def stop(_share: float) -> None:
        raise StoppedError("stopped")

    with lock_folder(out), pytest.raises(StoppedError):
        turn_files(takes, lambda infos: plan_turn(parse_turn("split", {}), infos), out, Order, stop)
    assert left_behind(out) == []


def test_a_folder_is_locked_by_a_file_where_folders_can_not_be(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """As on a share over NFS, where only files that are open for writing can be locked."""
    real = scratch._try_lock

    def try_lock(fd: int) -> bool:
        if os.path.isdir(f"/proc/self/fd/{fd}"):  # noqa: PTH112
            raise OSError(errno.EBADF, "Bad file descriptor")
        return real(fd)

    monkeypatch.setattr(scratch, "_try_lock", try_lock)
    waited: list[int] = []

    def waiting() -> None:
        waited.append(1)
        raise StoppedError("stopped")

    with lock_folder(tmp_path), pytest.raises(StoppedError), lock_folder(tmp_path, waiting):
        pass
    assert waited == [1]


def test_an_unreadable_manifest_is_met_before_anything_is_written(takes: list[Path], tmp_path: Path) -> None:
    out = tmp_path / "out"
    out.mkdir()
    (out / MANIFEST).write_text("[" * 200_000)
    shares: list[float] = []
    with pytest.raises(BadRequestError, match="cannot be read"):
        turn_files(takes, lambda infos: plan_turn(parse_turn("split", {}), infos), out, Order, shares.append)
    assert (left_behind(out), shares) == ([MANIFEST], [])


def test_no_folder_stays_where_nothing_could_be_written(
    takes: list[Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def refuse(**_: object) -> str:
        raise OSError(errno.EROFS, "Read-only file system")

    monkeypatch.setattr("tempfile.mkdtemp", refuse)
    with pytest.raises(OSError, match="Read-only"):
        split(takes, tmp_path / "new" / "out")
    assert not (tmp_path / "new").exists()


@pytest.fixture
def elsewhere(tmp_path: Path) -> Iterator[Path]:
    """A hidden folder that another process holds."""
    ready, done = fork.Event(), fork.Event()

    def hold() -> None:
        with scratch_folder(tmp_path) as folder:
            (folder / "half.wav").write_text("half")
            os.utime(folder, (0, 0))
            ready.set()
            done.wait(60)

    process = fork.Process(target=hold)
    process.start()
    assert ready.wait(60)
    (path,) = tmp_path.glob(f"{PREFIX}*")
    yield path
    done.set()
    process.join(60)


def test_a_folder_in_use_is_never_cleared_away(elsewhere: Path, tmp_path: Path) -> None:
    """However long its files have been growing."""
    remove_abandoned(tmp_path)
    assert left_behind(elsewhere) == [".in-use", "half.wav"]


def test_what_killed_processes_left_is_cleared_away_but_for_only_copies(tmp_path: Path) -> None:
    for name, content in (("old", "half.wav"), ("new", "half.wav"), ("moving", UNFINISHED), ("v1", ".replaced-3")):
        (tmp_path / f"{PREFIX}{name}").mkdir()
        (tmp_path / f"{PREFIX}{name}" / content).write_text("mine")
        if name != "new":
            os.utime(tmp_path / f"{PREFIX}{name}", (0, 0))
    remove_abandoned(tmp_path)
    assert sorted(path.name for path in tmp_path.iterdir()) == [f"{PREFIX}{name}" for name in ("moving", "new", "v1")]


def test_working_copies_of_a_killed_command_are_cleared_away(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from wedge_turn.core.audio import open_files

    monkeypatch.setattr("tempfile.tempdir", str(tmp_path / "tmp"))
    (tmp_path / "tmp").mkdir()
    path = tmp_path / "a.flac"
    soundfile.write(path, np.zeros((100, 2)), 48_000)

    def be_killed() -> None:
        with open_files([path]):
            os.kill(os.getpid(), signal.SIGKILL)

    assert in_a_process(be_killed) == -signal.SIGKILL
    (copy,) = (tmp_path / "tmp").iterdir()
    os.utime(copy, (0, 0))
    with open_files([path]):
        assert copy not in list((tmp_path / "tmp").iterdir())
    assert list((tmp_path / "tmp").iterdir()) == []


@pytest.mark.parametrize(
    "note", ["", "[" * 100_000, '{"names": ["../escaped.wav"], "replacing": []}', '{"names": 7}', "{}"]
)
def test_a_note_that_names_no_files_of_the_folder_is_refused(takes: list[Path], tmp_path: Path, note: str) -> None:
    out = tmp_path / "out"
    (out / f"{PREFIX}x").mkdir(parents=True)
    (out / f"{PREFIX}x" / UNFINISHED).write_text(note)
    (tmp_path / "escaped.wav").write_text("mine")
    with pytest.raises(BadRequestError, match=f"left in {PREFIX}x can't be read"):
        split(takes, out)
    assert (tmp_path / "escaped.wav").read_text() == "mine"


def test_a_file_that_came_to_a_name_since_is_never_replaced(
    takes: list[Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    out = tmp_path / "out"
    killed_after(2, monkeypatch, lambda: split(takes, out, resume=True))
    (out / "t2_R.wav").write_text("mine")
    with pytest.raises(ExistsError, match=r"t2_R\.wav already exists, and a delivery that was interrupted") as refused:
        split(takes, out, resume=True)
    assert "Move t2_R.wav elsewhere" in refused.value.help
    (out / "t2_R.wav").rename(tmp_path / "elsewhere.wav")
    split(takes, out, resume=True)
    assert (verify(out), find_unlisted(out)) == ([], [])


def test_files_are_moved_whole_or_not_at_all(tmp_path: Path) -> None:
    staging, folder = tmp_path / "staging", tmp_path / "folder"
    staging.mkdir()
    folder.mkdir()
    for name in ("a", "b"):
        (staging / name).write_text(f"new {name}")
    (folder / "b").write_text("mine")
    with pytest.raises(ExistsError):
        move_all(staging, folder, ["a", "b"], set())
    assert left_behind(folder) == ["b"]
    assert (folder / "b").read_text() == "mine"
