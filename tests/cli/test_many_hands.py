"""Commands and a server that have others write: several processes, or the workers of a cluster, some of which are lost;
and files that an earlier run has written already.
"""

import json
import os
import signal
import subprocess
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

import numpy as np
import pytest
import soundfile

from support.clusters import ended, joined, killed_once_written, scheduling, worker
from support.helpers import Json, noise, quiet, read_ints, take, write_wav
from support.serving import COMMAND, asked, served
from support.shell import run
from support.waiting import until
from wedge_turn.core.delivery import verify
from wedge_turn.core.turns import Split
from wedge_turn.core.worksheet import Plan, Step, source_ref
from wedge_turn.store import Store

FILES = 8
RECIPE: Json = {
    "format": "wedge-turn-recipe",
    "version": 1,
    "name": "Sides of each",
    "roles": [{"id": "both", "label": "stereo", "channels": 2}],
    "lines": [{"id": "1", "turn": {"kind": "split"}, "inputs": ["role:both"]}],
}


@pytest.fixture
def sources(tmp_path: Path) -> list[Path]:
    """Stereo files, one of them FLAC by libsndfile, of which there is a working copy."""
    (tmp_path / "in").mkdir()
    files = [write_wav(tmp_path / "in" / f"bell {n}.wav", noise(n, 5_000, 2)) for n in range(FILES - 1)]
    soundfile.write(tmp_path / "in" / "gong.flac", quiet(9, 5_000, 2) / 2.0**23, 48_000, subtype="PCM_24")
    return [*files, tmp_path / "in" / "gong.flac"]


def test_a_signal_stops_all_processes_and_leaves_nothing(tmp_path: Path) -> None:
    """From the keyboard it comes to every process of the command at once."""
    files = [write_wav(tmp_path / f"long {n}.wav", noise(n, 2_000_000, 2)) for n in range(6)]
    out = tmp_path / "new" / "out"
    command = [str(COMMAND), "apply", "split", *map(str, files), "--out", str(out), "--processes", "2"]
    with subprocess.Popen(command, stderr=subprocess.PIPE, text=True, start_new_session=True) as running:
        until(lambda: list(out.glob(".wedge-turn-*/part-*/*.wav")))
        os.killpg(running.pid, signal.SIGINT)
        try:
            _, said = running.communicate(timeout=60)
        finally:
            with suppress(ProcessLookupError):
                os.killpg(running.pid, signal.SIGKILL)
    assert (running.returncode, said) == (130, "wedge-turn: stopped\n")
    assert not (tmp_path / "new").exists()


def test_a_process_that_is_ended_from_outside_is_told_as_that(tmp_path: Path) -> None:
    """As the system does where memory runs out."""
    files = [write_wav(tmp_path / f"long {n}.wav", noise(n, 2_000_000, 2)) for n in range(6)]
    out = tmp_path / "new" / "out"
    command = [str(COMMAND), "apply", "split", *map(str, files), "--out", str(out), "--processes", "2"]
    with subprocess.Popen(command, stderr=subprocess.PIPE, text=True, start_new_session=True) as running:
        try:
            until(lambda: list(out.glob(".wedge-turn-*/part-*/*.wav")))
            children = [grandchild for child in children_of(running.pid) for grandchild in children_of(child)]
            os.kill(children[0], signal.SIGKILL)
            _, said = running.communicate(timeout=60)
        finally:
            with suppress(ProcessLookupError):
                os.killpg(running.pid, signal.SIGKILL)
    assert running.returncode == 1
    assert said.startswith("wedge-turn: One of the processes was ended from outside")
    assert not (tmp_path / "new").exists()


def children_of(pid: int) -> list[int]:
    tasks = Path(f"/proc/{pid}/task").glob("*/children")
    return [int(child) for task in tasks for child in task.read_text().split()]


@pytest.fixture
def recipe(tmp_path: Path) -> Path:
    path = tmp_path / "sides.json"
    path.write_text(json.dumps(RECIPE), "utf-8")
    return path


@pytest.fixture
def scheduler() -> Iterator[str]:
    with scheduling() as address:
        yield address


def contents(folder: Path) -> dict[str, bytes]:
    return {path.name: path.read_bytes() for path in folder.iterdir() if path.suffix == ".wav"}


def test_several_processes_write_what_one_writes(sources: list[Path], tmp_path: Path) -> None:
    one = run("apply", "split", *sources, "--out", tmp_path / "one", "--depth", "16", "--json")
    two = run("apply", "split", *sources, "--out", tmp_path / "two", "--depth", "16", "--json", "--processes", 2)
    assert (one.returncode, two.returncode) == (0, 0), two.stderr
    assert len(contents(tmp_path / "one")) == 2 * FILES
    assert contents(tmp_path / "one") == contents(tmp_path / "two")
    assert json.loads(one.stdout)["proof"] == json.loads(two.stdout)["proof"]
    assert sorted(path.name for path in (tmp_path / "two").iterdir() if path.name.startswith(".")) == []


def test_a_recipe_is_run_by_a_cluster_also_when_a_worker_is_lost(
    sources: list[Path], recipe: Path, tmp_path: Path, scheduler: str
) -> None:
    one, other = worker(scheduler), worker(scheduler)
    joined(scheduler, 2)
    lost = killed_once_written(one, tmp_path / "out")
    done = run("run", recipe, *sources, "--out", tmp_path / "out", "--cluster", scheduler, "--json")
    assert done.returncode == 0, done.stderr
    assert lost.is_set()
    assert run("run", recipe, *sources, "--out", tmp_path / "alone").returncode == 0
    assert contents(tmp_path / "out") == contents(tmp_path / "alone")
    assert np.array_equal(read_ints(tmp_path / "out" / "gong_L.wav"), quiet(9, 5_000, 2)[:, :1])
    assert verify(tmp_path / "out") == []
    ended(one, other)


def test_a_server_has_a_cluster_write_its_deliveries(tmp_path: Path, scheduler: str) -> None:
    store = Store(tmp_path / "data")
    job = store.jobs.create("Harbour")
    source = take(store, job.id, write_wav(tmp_path / "bell.wav", noise(1, 9_000, 2)).read_bytes(), "bell.wav")
    split = Step(id="a", turn=Split(), inputs=(source_ref(source.id),))
    head = store.worksheets.add(job.id, job.head_id, Plan(steps=(split,)), "Split").id
    store.close()

    def delivered(port: int) -> Json:
        status, started = asked(port, "POST", f"/api/jobs/{job.id}/deliveries", json.dumps({"revision": head}).encode())
        assert status == 202, started

        def look() -> Json | None:
            now: Json = asked(port, "GET", f"/api/deliveries/{started['id']}")[1]
            return now if now["state"] in ("done", "failed") else None

        return until(look)

    with served(tmp_path / "data", "--cluster", scheduler) as port:
        alone = delivered(port)
        assert (alone["state"], "No worker has joined the cluster" in alone["error"]["message"]) == ("failed", True)
        hand = worker(scheduler)
        joined(scheduler, 1)
        done = delivered(port)
        ended(hand)
    assert done["state"] == "done", done
    folder = tmp_path / "data" / "deliveries" / done["id"]
    assert verify(folder) == []
    for side, name in enumerate(("bell_L.wav", "bell_R.wav")):
        assert np.array_equal(read_ints(folder / name), noise(1, 9_000, 2)[:, side : side + 1])


def test_a_run_goes_on_with_what_an_earlier_one_wrote(sources: list[Path], recipe: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    how = "--out", out, "--resume"
    assert run("run", recipe, *sources, *how).returncode == 0
    before = {path.name: path.stat().st_ino for path in out.glob("*.wav")}
    write_wav(sources[2], noise(77, 5_000, 2))
    again = run("run", recipe, *sources, *how)
    assert again.returncode == 0, again.stderr
    kept = {Path(line.removesuffix("  unchanged")).name for line in again.stdout.splitlines() if "unchanged" in line}
    assert kept == set(before) - {"bell 2_L.wav", "bell 2_R.wav"}
    assert {name for name, inode in before.items() if (out / name).stat().st_ino == inode} == kept
    assert np.array_equal(read_ints(out / "bell 2_L.wav"), noise(77, 5_000, 2)[:, :1])
    assert verify(out) == []
    other = run("run", recipe, *sources, *how, "--depth", "16", "--json")
    assert not any(file.get("kept") for file in json.loads(other.stdout)["outputs"]), "another depth is written anew"
    damaged, edited = out / "bell 0_L.wav", out / "bell 1_L.wav"
    damaged.write_bytes(damaged.read_bytes()[:-10])
    assert run("run", recipe, *sources, *how, "--depth", "16").returncode == 0
    assert verify(out) == []
    mine = write_wav(edited, noise(5, 100, 1)).read_bytes()
    refused = run("run", recipe, *sources, *how)
    assert (refused.returncode, "bell 1_L.wav has been changed since" in refused.stderr) == (1, True)
    assert edited.read_bytes() == mine


def test_without_it_files_that_are_there_are_in_the_way(sources: list[Path], tmp_path: Path) -> None:
    how = "apply", "split", *sources, "--out", tmp_path / "out"
    assert run(*how, "--resume").returncode == 0
    refused = run(*how)
    assert (refused.returncode, "already exists" in refused.stderr) == (1, True)
    replaced = run(*how, "--overwrite", "--json")
    assert not any(file.get("kept") for file in json.loads(replaced.stdout)["outputs"])
