"""`make bench-delivery`: a hundred stereo files of three minutes split with proofs, on one core and on two, against a
plain script; and fetched as a ZIP of more than 4 GiB, once whole and once from where it broke off.

Needs about 16 GB of disk for a few minutes.
"""

import hashlib
import http.client
import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, Final

from bench.material import write_notes
from bench.measuring import COMMAND, say

FILES: Final = 100
ROUNDS: Final = 3  # the quickest of each is told: whatever else a machine does only adds to it
DIFFERENT: Final = 4  # the others are the same under another name
RATE: Final = 48_000
BROKEN_OFF: Final = 2**32 + 12_345

PLAIN: Final = """
import sys, soundfile
from pathlib import Path
out = Path(sys.argv[1])
out.mkdir()
for source in map(Path, sys.argv[2:]):
    samples, rate = soundfile.read(source)
    for side, name in enumerate("LR"):
        soundfile.write(out / f"{source.stem}_{name}.wav", samples[:, side], rate, "PCM_24")
"""


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="wedge-turn-delivery-") as folder:
        sources = write_sources(Path(folder) / "in")
        split(sources, Path(folder), "on the disk", "–", "–")
        fetched(sources, Path(folder))
    # Without the disk, which takes the same time however many cores there are.
    with tempfile.TemporaryDirectory(prefix="wedge-turn-delivery-", dir="/dev/shm") as folder:
        split(write_sources(Path(folder) / "in"), Path(folder), "in memory", "≥ 1.7×", "≥ 8×")


def split(sources: list[Path], room: Path, where: str, cores: str, script: str) -> None:
    """All files split on one core and on two, and by the plain script."""
    out = room / "out"
    ours = [str(COMMAND), "apply", "split", *map(str, sources), "--out", str(out)]
    plainly = [sys.executable, "-c", PLAIN, str(out), *map(str, sources)]
    commands = [
        ["taskset", "-c", "0", *ours],
        ["taskset", "-c", "0,1", *ours],
        ["taskset", "-c", "0,1", *ours, "--processes", "2"],
    ]
    rounds = [[timed(command, out) for command in commands] for _ in range(ROUNDS)]
    one, two, processes = (min(took for took, _ in runs) for runs in zip(*rounds, strict=True))
    peak = max(used for runs in rounds for _, used in runs)
    plain = min(timed(plainly, out)[0] for _ in range(ROUNDS))
    shutil.rmtree(out)
    say(
        f"{FILES} files split with proofs {where}: one core / two cores",
        f"{one:.1f}/{two:.1f} = {one / two:.2f}×",
        cores,
    )
    say(
        f"{FILES} files split with proofs {where}: one core / two processes",
        f"{one:.1f}/{processes:.1f} = {one / processes:.2f}×",
        cores,
    )
    say(f"plain soundfile script / ours on two cores, {where}", f"{plain:.1f}/{two:.1f} = {plain / two:.1f}×", script)
    say("memory of the command at its highest", f"{peak:.0f} MB", "< 300 MB")


def write_sources(folder: Path) -> list[Path]:
    folder.mkdir()
    paths = [folder / f"take-{n:03}.wav" for n in range(FILES)]
    for n, path in enumerate(paths):
        if n < DIFFERENT:
            write_notes(path, 180 * RATE)
        else:
            path.hardlink_to(paths[n % DIFFERENT])
    return paths


def timed(command: list[str], out: Path) -> tuple[float, float]:
    """The seconds that a command takes, and its memory at its highest in MB; `out`, which it writes into, is removed
    before.
    """
    shutil.rmtree(out, ignore_errors=True)
    start = time.perf_counter()
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    _, status, used = os.wait4(process.pid, 0)
    took = time.perf_counter() - start
    process.returncode = os.waitstatus_to_exitcode(status)
    assert process.returncode == 0, f"{command[0]} failed"
    return took, used.ru_maxrss / 1024


def fetched(sources: list[Path], room: Path) -> None:
    """The delivery of all files as a ZIP, over HTTP on this machine."""
    with subprocess.Popen(
        [str(COMMAND), "serve", "--data", str(room / "data"), "--port", "0"], stdout=subprocess.PIPE, text=True
    ) as server:
        try:
            assert server.stdout is not None
            server_at = Server(int(server.stdout.readline().split("/")[2].split(":")[1]))
            job = server_at.asked("POST", "/api/jobs", {"name": "Bench"})["id"]
            for path in sources:
                server_at.send(f"/api/jobs/{job}/sources?name={path.name}", path)
            view = server_at.asked("GET", f"/api/jobs/{job}")
            steps = [{"turn": {"kind": "split"}, "inputs": [source["ref"]]} for source in view["sources"]]
            view = server_at.asked("POST", f"/api/jobs/{job}/steps", {"base": view["head"], "steps": steps})
            took = seconds(lambda: server_at.deliver(job, view["head"]))
            say(f"delivered by the server: {FILES} files split with proofs", f"{took:.1f} s", "–")
            again = seconds(lambda: server_at.deliver(job, view["head"]))
            say("delivered again without a change / the first time", f"{again / took:.2f}×", "–")
            delivery = server_at.asked("GET", f"/api/jobs/{job}/deliveries")[0]["id"]
            address = f"/api/deliveries/{delivery}/archive"
            start = time.perf_counter()
            size, whole = server_at.digest(address)
            rate = size / (time.perf_counter() - start) / 1e6
            say(f"ZIP of {size / 2**30:.1f} GiB over HTTP", f"{rate:.0f} MB/s", "≥ 300 MB/s")
            head = server_at.digest(address, stop=BROKEN_OFF)[1]
            rest = server_at.digest(address, f"bytes={BROKEN_OFF}-", after=head)
            assert rest[1].hexdigest() == whole.hexdigest(), "what came after the break is not the rest of it"
            say("broken off beyond 4 GiB and fetched from there", "the same bytes", "–")
            status = Path(f"/proc/{server.pid}/status").read_text()
            peak = next(int(line.split()[1]) for line in status.splitlines() if line.startswith("VmHWM")) / 1024
            say("memory of the server at its highest", f"{peak:.0f} MB", "< 300 MB")
        finally:
            server.terminate()


class Server:
    def __init__(self, port: int) -> None:
        self._port = port

    def _answer(self, method: str, path: str, body: Any = None, headers: dict[str, str] | None = None) -> Any:
        connection = http.client.HTTPConnection("127.0.0.1", self._port, timeout=600)
        connection.request(method, path, body, headers or {})
        return connection.getresponse()

    def asked(self, method: str, path: str, body: object = None) -> Any:
        told = json.dumps(body).encode() if body is not None else None
        return json.loads(self._answer(method, path, told, {"Content-Type": "application/json"}).read())

    def send(self, path: str, file: Path) -> None:
        with file.open("rb") as opened:
            headers = {"Content-Length": str(file.stat().st_size)}
            assert self._answer("POST", path, opened, headers).status == 201

    def deliver(self, job: str, head: str) -> None:
        started = self.asked("POST", f"/api/jobs/{job}/deliveries", {"revision": head})
        while True:
            now = self.asked("GET", f"/api/deliveries/{started['id']}")
            if now["state"] not in ("waiting", "writing"):
                assert now["state"] == "done", now["error"]
                return
            time.sleep(0.05)

    def digest(self, path: str, part: str = "", stop: int | None = None, after: Any = None) -> tuple[int, Any]:
        """How many bytes are answered, and the hash of them, after what came before; no more than up to `stop`."""
        digest, count = after or hashlib.blake2b(), 0
        answer = self._answer("GET", path, headers={"Range": part} if part else {})
        while block := answer.read(1 << 20 if stop is None else min(1 << 20, stop - count)):
            digest.update(block)
            count += len(block)
        answer.close()
        return count, digest


def seconds(act: Callable[[], object]) -> float:
    start = time.perf_counter()
    act()
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
