"""A tree of many folders: gone on with, streamed, on several processes, and on a cluster whose workers come and go."""

import hashlib
import json
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import soundfile

from support.clusters import ended, joined, killed_once_written, scheduling, worker
from support.helpers import Json, noise, quiet, read_ints, write_wav
from support.shell import run
from wedge_turn import __version__
from wedge_turn.core.batch import Tree, prepare_tree
from wedge_turn.core.batch.tree import JOURNAL
from wedge_turn.core.errors import BadRequestError, StoppedError
from wedge_turn.tasks import cluster

FOLDERS = 6


@pytest.fixture
def tree(tmp_path: Path) -> Path:
    """Folders with a pair, a dual mono file and one that is none."""
    for n in range(FOLDERS):
        folder = tmp_path / "archive" / f"reel {n}"
        folder.mkdir(parents=True)
        for side in "LR":
            write_wav(folder / f"oh_{side}.wav", quiet(n, 2_000, 1))
        write_wav(folder / "gtr.wav", quiet(n, 2_000, 1).repeat(2, axis=1))
        (folder / "notes.wav").write_text("no sound")
    return tmp_path / "archive"


def streamed(*arguments: object, status: int = 1) -> list[Json]:
    done = run("prep", *arguments, "--json-lines")
    assert done.returncode == status, done.stderr
    return [json.loads(line) for line in done.stdout.splitlines()]


def contents(folder: Path) -> dict[str, str]:
    """The hash of every written sound, by its place; not of what a killed worker left half done, which is hidden."""
    written = {path.relative_to(folder): path for path in folder.rglob("*.wav")}
    return {
        str(place): hashlib.sha256(path.read_bytes()).hexdigest()
        for place, path in written.items()
        if not any(part.startswith(".") for part in place.parts)
    }


def test_things_are_told_line_by_line_and_summed_up(tree: Path, tmp_path: Path) -> None:
    lines = streamed(tree, "--out", tmp_path / "out")
    kinds = [next(iter(line)) for line in lines]
    assert {kind: kinds.count(kind) for kind in set(kinds)} == {
        "output": 2 * FOLDERS, "refused": FOLDERS, "summary": 1,
    }  # fmt: skip
    summary = lines[-1]["summary"]
    assert summary["turns"] == {"merge": FOLDERS, "fold": FOLDERS}
    assert summary["found"] == {"pair": FOLDERS, "dual-mono": FOLDERS}
    assert (summary["proved"], summary["identical"], summary["refused"]) == (2 * FOLDERS, 2 * FOLDERS, FOLDERS)
    report = (tmp_path / "out" / "wedge-turn-report.txt").read_text("utf-8")
    assert f"Done: pair {FOLDERS}, dual-mono {FOLDERS}." in report


def test_a_dry_run_tells_its_lines_and_writes_nothing(tree: Path, tmp_path: Path) -> None:
    lines = streamed(tree, "--out", tmp_path / "out", "--dry-run")
    assert sum("line" in line for line in lines) == 2 * FOLDERS
    assert not (tmp_path / "out").exists()


def test_it_goes_on_where_it_stopped_and_skips_what_has_not_changed(tree: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"

    def stop(share: float) -> None:
        if share > 0.4:
            raise StoppedError("stopped")

    with pytest.raises(StoppedError):
        list(prepare_tree(Tree(tree, out, resume=True), progress=stop))
    before = contents(out)
    assert 0 < len(before) < 2 * FOLDERS
    summary = streamed(tree, "--out", out, "--resume")[-1]["summary"]
    done_before = len(before) // 2
    assert summary["unchanged"] == 4 * done_before
    assert summary["files"] == 2 * (FOLDERS - done_before)
    write_wav(tree / "reel 1" / "gtr.wav", quiet(99, 2_000, 1).repeat(2, axis=1))
    again = streamed(tree, "--out", out, "--resume")[-1]["summary"]
    assert (again["files"], again["unchanged"]) == (2, 4 * (FOLDERS - 1))
    fresh = tmp_path / "fresh"
    streamed(tree, "--out", fresh)
    assert contents(out) == contents(fresh)
    assert all(run("verify", folder).returncode == 0 for folder in out.iterdir() if folder.is_dir())


def test_other_settings_or_a_lost_result_are_done_again(tree: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    streamed(tree, "--out", out, "--resume")
    assert streamed(tree, "--out", out, "--resume", "--depth", "16")[-1]["summary"]["unchanged"] == 0
    (out / "reel 2" / "wedge-turn-manifest.json").unlink()
    (out / "reel 2" / "oh.wav").unlink()
    (out / "reel 2" / "gtr.wav").unlink()
    assert streamed(tree, "--out", out, "--resume", "--depth", "16")[-1]["summary"]["files"] == 2
    with (out / JOURNAL).open("a") as journal:
        journal.write('{"folder": "reel 3", "finger')  # as a process leaves it that is killed
    last = streamed(tree, "--out", out, "--resume", "--depth", "16", status=0)[-1]["summary"]
    assert last["unchanged"] == 4 * FOLDERS


def test_what_is_gone_or_damaged_is_written_again(tree: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    streamed(tree, "--out", out, "--resume")
    good = contents(out)
    (out / "reel 0" / "oh.wav").unlink()
    cut = out / "reel 1" / "gtr.wav"
    cut.write_bytes(cut.read_bytes()[:-700])
    (out / "reel 2" / "oh.wav").write_bytes(b"no sound at all")
    (out / "reel 3" / "wedge-turn-manifest.json").unlink()
    for left in ("oh.wav", "gtr.wav"):
        (out / "reel 3" / left).unlink()
    (out / "reel 4" / "oh.wav").touch()  # as a backup does: it is what it was
    assert streamed(tree, "--out", out, "--resume")[-1]["summary"]["files"] == 2 * 4
    assert contents(out) == good
    assert streamed(tree, "--out", out, "--resume", status=0)[-1]["summary"]["files"] == 0


def test_what_somebody_has_edited_is_left_as_it_is(tree: Path, tmp_path: Path) -> None:
    """While its sources are the same nothing is said of it; once they are not, its folder is passed by."""
    out = tmp_path / "out"
    streamed(tree, "--out", out, "--resume")
    edited = out / "reel 0" / "oh.wav"
    samples, rate = soundfile.read(edited, dtype="int32")
    soundfile.write(edited, samples[:-100], rate, "PCM_24")
    mine = edited.read_bytes()
    assert streamed(tree, "--out", out, "--resume", status=0)[-1]["summary"]["unchanged"] == 4 * FOLDERS
    for reel in ("reel 0", "reel 1"):
        write_wav(tree / reel / "oh_L.wav", noise(7, 2_000, 1))
    done = run("prep", tree, "--out", out, "--resume")
    (line,) = [line for line in done.stderr.splitlines() if "oh.wav" in line]
    assert done.returncode == 1
    assert line.endswith("reel 0: oh.wav has been changed since it was delivered there")
    assert edited.read_bytes() == mine
    assert np.array_equal(read_ints(out / "reel 1" / "oh.wav")[:, :1], noise(7, 2_000, 1)), "the others go on"


def test_a_link_to_nowhere_is_skipped_with_and_without_resume(tree: Path, tmp_path: Path) -> None:
    (tree / "reel 0" / "lost.wav").symlink_to(tmp_path / "gone.wav")
    for options in ((), ("--resume",)):
        done = run("prep", tree, "--out", tmp_path / f"out{len(options)}", *options)
        assert (done.returncode, "lost.wav does not exist or is not a file" in done.stderr) == (1, True)
    assert (tmp_path / "out1" / "reel 0" / "oh.wav").exists()


def test_several_processes_make_the_same(tree: Path, tmp_path: Path) -> None:
    one, two = (streamed(tree, "--out", tmp_path / str(n), "--processes", n) for n in (1, 2))
    assert contents(tmp_path / "1") == contents(tmp_path / "2")
    assert [next(iter(line)) for line in one] == [next(iter(line)) for line in two], "in the same order"


@pytest.fixture
def scheduler() -> Iterator[str]:
    with scheduling() as address:
        yield address


def test_a_cluster_makes_the_same_also_when_a_worker_is_lost(tree: Path, tmp_path: Path, scheduler: str) -> None:
    one, other = worker(scheduler), worker(scheduler)
    joined(scheduler, 2)
    lost = killed_once_written(one, tmp_path / "out")
    lines = streamed(tree, "--out", tmp_path / "out", "--cluster", scheduler)
    assert lost.is_set()
    assert lines[-1]["summary"]["files"] == 2 * FOLDERS
    streamed(tree, "--out", tmp_path / "alone")
    assert contents(tmp_path / "out") == contents(tmp_path / "alone")
    ended(one, other)


def test_workers_that_cannot_do_the_work_are_refused_by_name(tree: Path, tmp_path: Path, scheduler: str) -> None:
    refused = run("prep", tree, "--out", tmp_path / "out", "--cluster", scheduler)
    assert (refused.returncode, "No worker has joined" in refused.stderr) == (1, True)
    old = worker(scheduler, "import wedge_turn", "wedge_turn.__version__ = '0.0.9'")
    joined(scheduler, 1)
    refused = run("prep", tree, "--out", tmp_path / "out", "--cluster", scheduler)
    assert (refused.returncode, f"has Wedge Turn 0.0.9, this is {__version__}" in refused.stderr) == (1, True)
    ended(old)


def test_a_scheduler_that_does_not_answer_is_named(tree: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(cluster, "ANSWERS_WITHIN", 1)
    nobody = pytest.raises(BadRequestError, match="No scheduler answers at")
    with nobody, cluster.connected("tcp://127.0.0.1:9", [tree], None):
        pass


def test_a_folder_that_a_worker_does_not_see_is_named(
    tree: Path, tmp_path: Path, scheduler: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    blind = worker(scheduler, "from wedge_turn.tasks import cluster", "cluster.sees = lambda path: 'archive' in path")
    joined(scheduler, 1)
    refused = run("prep", tree, "--out", tmp_path / "out", "--cluster", scheduler)
    assert (refused.returncode, "doesn't see the folder out" in refused.stderr) == (1, True)
    assert not (tmp_path / "out").exists()
    ended(blind)
    # And where the last one leaves, what waits ends, instead of waiting for ever.
    monkeypatch.setattr(cluster, "ALONE_FOR", 0.2)
    last = worker(scheduler)
    joined(scheduler, 1)
    with cluster.connected(scheduler, [tree], None) as executor:
        future = executor.submit(time.sleep, 600)
        last.kill()
        last.wait()
        with pytest.raises(BadRequestError, match="No worker is left"):
            future.result(60)
