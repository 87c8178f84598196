"""What a shell may do to the commands: signals, full disks, closed pipes, names of any bytes; one line, and nothing
left.
"""

import json
import os
import re
import signal
import subprocess
import sys
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile

from support.helpers import left_behind, noise, write_wav
from support.shell import run
from support.waiting import PATIENCE, until
from wedge_turn.core.delivery import MANIFEST
from wedge_turn.store import Store

COMMAND = Path(sys.executable).parent / "wedge-turn"


def run_alone(*arguments: Any) -> subprocess.CompletedProcess[str]:
    """Run a command in a process of its own."""
    command: list[Any] = [COMMAND, *arguments]
    return subprocess.run(command, capture_output=True, text=True, check=False)


def one_line(done: subprocess.CompletedProcess[str], status: int = 1) -> str:
    """What was said on stderr: one line, no traceback, and a status."""
    assert done.returncode == status, done.stderr
    assert done.stderr.count("\n") == 1, done.stderr
    assert "Traceback" not in done.stderr
    assert done.stderr.startswith("wedge-turn: ")
    assert len(done.stderr) > len("wedge-turn: : \n")
    return done.stderr


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGHUP, signal.SIGINT])
def test_a_signal_leaves_nothing_and_is_said(number: signal.Signals, tmp_path: Path) -> None:
    """In the middle of a delivery, with a working copy in the temporary folder."""
    temporary = tmp_path / "tmp"
    temporary.mkdir()
    soundfile.write(tmp_path / "long.flac", np.zeros((4_000_000, 2), np.int16), 48_000)
    command: list[Any] = [COMMAND, "apply", "centre", tmp_path / "long.flac", "--out", tmp_path / "out"]
    environment = {**os.environ, "TMPDIR": str(temporary)}
    with subprocess.Popen(
        command, env=environment, stderr=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    ) as process:
        until(lambda: list((tmp_path / "out").glob(".wedge-turn-*/*.wav")) or process.poll() is not None)
        process.send_signal(number)
        _, said = process.communicate(timeout=60)
    assert said.endswith("\nwedge-turn: stopped\n")
    assert process.returncode == 128 + number
    assert left_behind(temporary) == []
    assert left_behind(tmp_path) == ["long.flac"]
    assert not (tmp_path / "out").exists()


def test_a_result_never_overwrites_its_source(tmp_path: Path) -> None:
    source = write_wav(tmp_path / "st.wav", noise(1, 50, 2))
    before = source.read_bytes()
    refused = run("apply", "swap", source, "--out", tmp_path, "--overwrite")
    assert "would overwrite its own source" in one_line(refused)
    assert source.read_bytes() == before
    assert left_behind(tmp_path) == ["st.wav"]


def test_more_clips_than_a_turn_takes_are_refused(tmp_path: Path) -> None:
    files = [write_wav(tmp_path / f"{n}.wav", noise(n, 10, 1)) for n in range(65)]
    refused = run(
        "apply", "merge", *files, "--out", tmp_path / "out", "--set", "order=given", "--set", "layout=discrete"
    )
    assert "merge takes at most 64 clips at a time; 65 were given" in one_line(refused)


def test_a_name_that_is_no_utf_8_is_read_and_shown(tmp_path: Path) -> None:
    odd = Path(os.fsdecode(os.fsencode(tmp_path) + b"/caf\xe9.wav"))
    write_wav(tmp_path / "plain.wav", noise(1, 50, 2)).rename(odd)
    shown = run_alone("inspect", odd)
    assert (shown.returncode, "caf\ufffd.wav: stereo" in shown.stdout) == (0, True)
    assert json.loads(run("inspect", odd, "--json").stdout)["files"][0]["channels"] == 2
    assert run("apply", "split", odd, "--out", tmp_path / "out").returncode == 0
    assert len(list((tmp_path / "out").glob("*.wav"))) == 2


def test_findings_beyond_the_limits_of_a_turn_are_shown(tmp_path: Path) -> None:
    """One channel far below the other: the level that would even it out is beyond what level takes."""
    loud = noise(1, 48_000, 1, 22)
    both = np.hstack([loud, loud >> 10])
    done = run("inspect", write_wav(tmp_path / "leak.wav", both))
    assert done.returncode == 0
    assert "louder than" in done.stdout


def test_a_setting_of_a_turn_without_any_is_refused_in_a_whole_sentence(tmp_path: Path) -> None:
    source = write_wav(tmp_path / "st.wav", noise(1, 50, 2))
    assert "swap has no setting called x; it has none" in one_line(
        run("apply", "swap", source, "--out", "o", "--set", "x=1"), status=2
    )


@pytest.mark.skipif(not Path("/dev/full").exists(), reason="no device that is always full")
def test_an_output_that_cannot_be_written_is_said(tmp_path: Path) -> None:
    source = write_wav(tmp_path / "st.wav", noise(1, 50, 2))
    with Path("/dev/full").open("w") as full:
        done = subprocess.run([COMMAND, "inspect", source], stdout=full, stderr=subprocess.PIPE, text=True, check=False)
    assert "the output could not be written: No space left on device" in one_line(done)


def test_a_pipe_that_is_closed_is_no_traceback(tmp_path: Path) -> None:
    files = [write_wav(tmp_path / f"{n}.wav", noise(n, 10, 1)) for n in range(3)]
    reading, writing = os.pipe()
    os.close(reading)
    done = subprocess.run([COMMAND, "inspect", *files], stdout=writing, stderr=subprocess.PIPE, text=True, check=False)
    os.close(writing)
    assert (done.returncode, done.stderr) == (1, "")


@pytest.mark.parametrize("target", ["/proc/nothing/here", "file.txt/out"])
def test_a_folder_that_cannot_be_written_to_is_named(target: str, tmp_path: Path) -> None:
    (tmp_path / "file.txt").write_text("mine")
    source = write_wav(tmp_path / "st.wav", noise(1, 50, 2))
    one_line(run("apply", "split", source, "--out", target, cwd=tmp_path))
    assert left_behind(tmp_path) == ["file.txt", "st.wav"]


def test_a_manifest_is_verified_in_good_english(tmp_path: Path) -> None:
    source = write_wav(tmp_path / "st.wav", noise(1, 50, 2))
    out = tmp_path / "out"
    assert run("apply", "split", source, "--out", out).returncode == 0
    assert run("verify", out).stdout == "All 2 files are unchanged.\n"
    (out / "notes.txt").write_text("mine")
    assert run("verify", out).stdout == "All 2 files are unchanged.\nNot in the manifest: notes.txt\n"
    manifest = json.loads((out / MANIFEST).read_text())
    (out / MANIFEST).write_text(json.dumps({**manifest, "files": [], "proofs": []}))
    assert run("verify", out).stdout.startswith("The manifest lists no files.\n")
    (out / MANIFEST).write_text(json.dumps(manifest).replace("st_L.wav", "st\\u0000.wav"))
    assert "names a file outside the folder" in one_line(run("verify", out))


def test_the_server_names_a_folder_that_it_cannot_use(tmp_path: Path) -> None:
    data = tmp_path / "data"
    (data / "media" / "ab").mkdir(parents=True)
    (data / "media" / "ab" / ("ab" * 32)).write_bytes(b"kept")
    assert "1 kept file and no" in one_line(run_alone("serve", "--data", data, "--port", "0"))
    (data / "wedge-turn.sqlite3").write_bytes(b"no database" * 500)
    assert "is damaged" in one_line(run_alone("serve", "--data", data, "--port", "0"))


@contextmanager
def started(*arguments: object) -> Iterator["subprocess.Popen[str]"]:
    """A server; it is gone afterwards, also where a test fails."""
    command: list[Any] = [COMMAND, "serve", "--port", "0", *arguments]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True) as server:
        try:
            yield server
        finally:
            server.kill()


def test_serving_beyond_this_machine_without_tls_is_warned_of(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("WEDGE_TURN_PASSWORD", "seven lamps on a quay")
    for host, warned in (("127.0.0.1", False), ("0.0.0.0", True)):
        with started("--data", tmp_path / host, "--host", host) as server:
            assert server.stdout is not None
            assert server.stdout.readline().startswith("Wedge Turn is at http://")
            server.terminate()
            _, said = server.communicate(timeout=60)
        assert ("without TLS the password can be read on its way" in said) == warned


def workers_of(pid: int) -> list[int]:
    """Processes whose parent this is."""
    statuses = []
    for status in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = status.read_text().rpartition(")")[2].split()
        except OSError:
            continue
        if int(fields[1]) == pid:
            statuses.append(int(status.parent.name))
    return statuses


def test_the_page_answers_while_the_demo_is_made(tmp_path: Path) -> None:
    with started("--demo", "--data", tmp_path / "data") as server:
        assert server.stdout is not None
        address = re.search(r"http://\S+/", server.stdout.readline())
        assert address is not None
        page = urllib.request.urlopen(address[0], timeout=PATIENCE).read()
        demo = json.loads(urllib.request.urlopen(address[0] + "api/demo", timeout=PATIENCE).read())
        jobs = json.loads(urllib.request.urlopen(address[0] + "api/jobs", timeout=PATIENCE).read())
        assert b"Wedge Turn" in page
        assert (demo["state"], jobs) == ("making", [])


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGKILL])
def test_an_interrupted_first_start_can_be_repeated(number: signal.Signals, tmp_path: Path) -> None:
    """No half of the demo's job, no worker that goes on, no address that stays taken."""
    with started("--demo", "--data", tmp_path / "data") as server:
        children = until(lambda: [pid for pid in workers_of(server.pid) if _is_worker(pid)])
        server.send_signal(number)
        server.communicate(timeout=60)
    until(lambda: not any(Path(f"/proc/{pid}").exists() and not _is_zombie(pid) for pid in children))
    store = Store(tmp_path / "data")
    assert store.jobs.all() == []
    store.close()


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGHUP, signal.SIGINT])
def test_a_signal_is_heard_while_an_object_is_collected(number: signal.Signals) -> None:
    """Python drops what is raised there; so a stop could be lost, and a server went on."""
    script = f"""
import os, time, weakref
from wedge_turn.cli.stopping import leave_on_signals
class Thing: pass
leave_on_signals()
thing = Thing()
collected = weakref.ref(thing, lambda _: os.kill(os.getpid(), {int(number)}))
try:
    del thing
    time.sleep(60)
finally:
    print("cleaned up")
"""
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=50, check=False)
    assert (done.returncode, done.stdout) == (128 + number, "cleaned up\n")
    assert done.stderr == "wedge-turn: stopped\n"


def _is_worker(pid: int) -> bool:
    try:
        return b"multiprocessing" in Path(f"/proc/{pid}/cmdline").read_bytes()
    except OSError:
        return False


def _is_zombie(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] == "Z"
    except OSError:
        return True


def test_numba_is_not_loaded_where_no_kernel_is_needed(tmp_path: Path) -> None:
    out = tmp_path / "out"
    run("apply", "split", write_wav(tmp_path / "st.wav", noise(1, 50, 2)), "--out", out)
    script = "import sys; from wedge_turn.cli.main import app; app(['verify', sys.argv[1]], standalone_mode=False)"
    command = [sys.executable, "-c", f"{script}; print('numba' in sys.modules)", str(out)]
    printed = subprocess.run(command, capture_output=True, text=True, check=True).stdout
    assert printed == "All 2 files are unchanged.\nFalse\n"


def test_times_have_minutes_and_seconds_as_a_clock_has(tmp_path: Path) -> None:
    take = write_wav(tmp_path / "take.wav", noise(1, 96_000, 1))
    for right in ("0:00-0:01.5", "0:00:00-0:00:01"):
        assert run("apply", "trim", take, "--trim", right, "--overwrite", "--out", tmp_path / "out").returncode == 0
    assert "starts at 5400.000 s" in run("apply", "trim", take, "--set", "start=90:00", "--out", tmp_path / "o").stderr
    for wrong in ("0:00-9:99", "0:00-1:60:00", "0:61-end"):
        refused = run("apply", "trim", take, "--trim", wrong, "--out", tmp_path / "none")
        assert (refused.returncode, f"“{wrong}” isn't a range" in refused.stderr) == (2, True)
