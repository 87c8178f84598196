"""`make bench-kills`: a server is killed at random moments while files are added, lines are added and files delivered.

After each start everything that was answered must be there: files and lines, and deliveries whose files are what their
manifest says; and nothing half done may stand under a final name. Two servers are killed side by side; each begins anew
with an empty folder after fifty kills, so that looking through everything doesn't take longer and longer. KILLS=1000
takes an hour on a slow machine.
"""

import http.client
import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Final

import numpy as np
import soundfile

from bench.measuring import COMMAND
from wedge_turn.core.delivery import MANIFEST, verify

FRAMES: Final = 20_000
LONGEST: Final = 1.5  # seconds until a kill
PATIENCE: Final = 60.0  # seconds for a first delivery
SERVERS: Final = 2
ANEW_AFTER: Final = 50  # kills


@dataclass
class Answered:
    """What the server has said is done."""

    sources: set[str] = field(default_factory=set)
    revisions: set[str] = field(default_factory=set)
    delivered: set[str] = field(default_factory=set)


class Server:
    """The application in a process that may be killed at any time."""

    def __init__(self, data: Path) -> None:
        command = [str(COMMAND), "serve", "--data", str(data), "--port", "0"]
        self.process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
        assert self.process.stdout is not None
        self.port = int(self.process.stdout.readline().split("/")[2].split(":")[1])

    def ask(self, method: str, path: str, body: bytes | dict[str, Any] | None = None) -> Any:
        """The answer as JSON; raises OSError or HTTPException where the server is gone."""
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=60)
        content = json.dumps(body).encode() if isinstance(body, dict) else body
        kind = {"Content-Type": "application/json"} if isinstance(body, dict) else {}
        connection.request(method, path, content, kind)
        answer = connection.getresponse()
        told = answer.read()
        if answer.status >= 400:
            raise http.client.HTTPException(f"{method} {path}: {answer.status} {told[:200]!r}")
        return json.loads(told) if told else None


def main() -> None:
    kills = int(sys.argv[1]) if len(sys.argv) > 1 else 50
    random.seed(7)
    rounds = [min(ANEW_AFTER, kills - begun) for begun in range(0, kills, ANEW_AFTER)]
    done = Counter[str]()
    with ThreadPoolExecutor(SERVERS) as pool:
        for told in pool.map(killed, range(len(rounds)), rounds):
            done += told
            found = ", ".join(f"{done[what]} {what}" for what in ("files", "edits", "deliveries"))
            print(f"{done['kills']} kills: what was answered is there ({found})", flush=True)


def killed(number: int, kills: int) -> Counter[str]:
    """A server of its own, killed so many times; what it had answered and still had."""
    with tempfile.TemporaryDirectory(prefix="wedge-turn-kills-") as folder:
        data, answered = Path(folder) / "data", Answered()
        server = Server(data)
        job = str(server.ask("POST", "/api/jobs", {"name": "Kills"})["id"])
        for count in range(kills):
            until_killed(server, job, answered, Path(folder), 1_000 * number + count)
            server = Server(data)
            check(server, job, answered, data)
        server.process.terminate()
        server.process.wait()
    counts = {"files": answered.sources, "edits": answered.revisions, "deliveries": answered.delivered}
    return Counter(kills=kills, **{name: len(ids) for name, ids in counts.items()})


def until_killed(server: Server, job: str, answered: Answered, folder: Path, seed: int) -> None:
    """Add, edit and deliver on three threads until the kill. Every other kill waits for a first delivery, which takes
    longer than most servers live.
    """
    gone, delivered = threading.Event(), threading.Event()

    def again(act: Any) -> None:
        while not gone.is_set():
            try:
                act()
            except (OSError, http.client.HTTPException, ValueError, IndexError):
                time.sleep(0.01)  # nothing is there yet, somebody else was quicker, or the server is gone

    def add() -> None:
        path = folder / f"{seed}-{threading.get_ident()}.wav"
        rng = np.random.default_rng([seed, random.randrange(2**31)])
        soundfile.write(path, rng.normal(0, 0.1, (FRAMES, 2)), 48_000, "PCM_24")
        source = server.ask("POST", f"/api/jobs/{job}/sources?name=take-{time.monotonic_ns()}.wav", path.read_bytes())
        answered.sources.add(source["id"])

    def edit() -> None:
        view = server.ask("GET", f"/api/jobs/{job}")
        source = random.choice(view["sources"])
        step = {"turn": {"kind": random.choice(["split", "swap"])}, "inputs": [source["ref"]]}
        after = server.ask("POST", f"/api/jobs/{job}/steps", {"base": view["head"], "steps": [step]})
        answered.revisions.add(after["head"])

    def deliver() -> None:
        view = server.ask("GET", f"/api/jobs/{job}")
        refs = [
            clip["ref"] for line in random.sample(view["steps"], min(2, len(view["steps"]))) for clip in line["outputs"]
        ]
        started = server.ask("POST", f"/api/jobs/{job}/deliveries", {"revision": view["head"], "refs": refs})
        while True:
            now = server.ask("GET", f"/api/deliveries/{started['id']}")
            if now["state"] == "done":
                answered.delivered.add(started["id"])
                delivered.set()
            if now["state"] not in ("waiting", "writing"):
                return
            time.sleep(0.02)

    threads = [threading.Thread(target=again, args=(act,), daemon=True) for act in (add, edit, deliver)]
    for thread in threads:
        thread.start()
    if seed % 2:
        delivered.wait(PATIENCE)
    time.sleep(random.uniform(0.05, LONGEST))
    os.kill(server.process.pid, signal.SIGKILL)
    gone.set()
    server.process.wait()
    for thread in threads:
        thread.join()


def check(server: Server, job: str, answered: Answered, data: Path) -> None:
    view = server.ask("GET", f"/api/jobs/{job}")
    there = {source["id"]: source["problem"] for source in view["sources"]}
    lost = answered.sources - set(there)
    assert not lost, f"files that were answered are gone: {lost}"
    assert not any(there.values()), f"files that were answered are damaged: {there}"
    revisions = {one["id"] for one in server.ask("GET", f"/api/jobs/{job}/revisions")}
    assert answered.revisions <= revisions, "edits that were answered are gone"
    states = {one["id"]: one["state"] for one in server.ask("GET", f"/api/jobs/{job}/deliveries")}
    for delivery in answered.delivered:
        assert states[delivery] == "done", f"a delivery that was answered is {states[delivery]}"
    for folder in (data / "deliveries").iterdir():
        if (folder / MANIFEST).exists():
            assert verify(folder) == [], f"{folder.name} is not what its manifest says"
        elif states.get(folder.name) == "done":
            raise AssertionError(f"{folder.name} is done, and has no manifest")


if __name__ == "__main__":
    main()
