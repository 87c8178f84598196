"""What the benchmarks run in processes of their own: `python -m bench.probes NAME ARGUMENTS...`."""

import hashlib
import resource
import shutil
import socket
import subprocess
import sys
import threading
import time
from pathlib import Path
from typing import Any

import numpy as np
import soundfile

from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.wavfile import WavFile, header


def write_noise(path: Path, frames: int) -> None:
    """24-bit stereo at 48 kHz, made of the same million frames again and again."""
    form = Form(channels=2, frames=frames, rate=48_000, encoding="s24")
    noise = np.random.default_rng(1).integers(0, 256, 6_000_000, np.uint8).tobytes()
    with path.open("wb") as file:
        file.write(header(form))
        for at in range(0, frames, 1_000_000):
            file.write(noise[: 6 * min(1_000_000, frames - at)])


def write_notes(path: Path, frames: int) -> None:
    """24-bit stereo at 48 kHz of notes that come and go, with a peak now and then: as music is."""
    rng = np.random.default_rng(2)
    t = np.arange(1_000_000) / 48_000
    sides = []
    for pitches in ((110, 220, 331), (110, 277, 415)):
        made = sum(np.sin(2 * np.pi * f * t) * np.exp(-((t * f / 97) % 1) * 4) for f in pitches)
        sides.append(made + 0.05 * rng.standard_normal(t.size))
    block = np.stack(sides, axis=1)
    steps = np.rint(block / np.abs(block).max() * 8_000_000).astype("<i4")
    notes = steps.view(np.uint8).reshape(-1, 4)[:, :3].tobytes()
    form = Form(channels=2, frames=frames, rate=48_000, encoding="s24")
    with path.open("wb") as file:
        file.write(header(form))
        for at in range(0, frames, 1_000_000):
            file.write(notes[: 6 * min(1_000_000, frames - at)])


def read(source: str) -> None:
    soundfile.read(source, dtype="float64")


def survey(source: str) -> None:
    from wedge_turn.core.measure.survey import survey as measure

    with WavFile(Path(source)) as wav:
        measure(wav)


def many_files(data: Path, folder: Path) -> dict[str, float]:
    """Take 500 files in, wait until they are measured, then merge all pairs and undo, several times."""
    import http.client
    import json
    import statistics

    folder.mkdir()
    for n in range(500):
        write_mono(folder / f"take-{n // 2:03}_{'LR'[n % 2]}.wav", 480_000, n)
    address, stop = _served(data)

    def asked(method: str, path: str, body: bytes | None = None) -> dict[str, Any]:
        connection = http.client.HTTPConnection(address.removeprefix("http://"), timeout=60)
        headers = {"Content-Type": "application/json"} if body and body[:1] == b"{" else {}
        connection.request(method, path, body, headers)
        answer = connection.getresponse().read()
        connection.close()
        parsed: dict[str, Any] = json.loads(answer)
        return parsed

    job = asked("POST", "/api/jobs", b'{"name": "many"}')
    start = time.perf_counter()
    for path in sorted(folder.iterdir()):
        asked("POST", f"/api/jobs/{job['id']}/sources?name={path.name}", path.read_bytes())
    while not all(source["measured"] for source in asked("GET", f"/api/jobs/{job['id']}")["sources"]):
        time.sleep(0.5)
    taken = time.perf_counter() - start
    time.sleep(10)  # the pairs are measured
    actions = []
    for _ in range(5):
        now = asked("GET", f"/api/jobs/{job['id']}")
        steps = [{"turn": group["turn"], "inputs": group["members"]} for group in now["groups"]]
        for what, body in (("steps", {"base": now["head"], "steps": steps}), ("undo", {})):
            start = time.perf_counter()
            asked("POST", f"/api/jobs/{job['id']}/{what}", json.dumps(body).encode())
            actions.append(time.perf_counter() - start)
    stop()
    return {"taken": taken, "action": statistics.median(actions)}


def write_mono(path: Path, frames: int, seed: int) -> None:
    form = Form(channels=1, frames=frames, rate=48_000, encoding="s24")
    path.write_bytes(header(form) + np.random.default_rng(seed).integers(0, 256, 3 * frames, np.uint8).tobytes())


def plain_split(room: str, source: str) -> None:
    data, rate = soundfile.read(source)
    for n, side in enumerate("LR"):
        soundfile.write(f"{room}/plain_{side}.wav", data[:, n], rate, subtype="PCM_24")


def plain_merge(room: str, left: str, right: str) -> None:
    (a, rate), (b, _) = soundfile.read(left), soundfile.read(right)
    soundfile.write(f"{room}/plain.wav", np.stack([a, b], axis=1), rate, subtype="PCM_24")


def plain_encode(room: str, source: str) -> None:
    data, rate = soundfile.read(source)
    encoded = np.stack([(data[:, 0] + data[:, 1]) / 2, (data[:, 0] - data[:, 1]) / 2], axis=1)
    soundfile.write(f"{room}/plain.wav", encoded, rate, subtype="PCM_24")


def copy(source: str, target: str) -> None:
    with Path(source).open("rb") as file, Path(target).open("wb") as out:
        shutil.copyfileobj(file, out, 2**20)


def pictures(source: str, folder: str) -> None:
    from wedge_turn.core.measure.pictures import draw

    with WavFile(Path(source)) as wav:
        draw(wav, Path(folder))


def upload(source: str, data: str) -> None:
    """Serve, and send a file to it from another process."""
    address, stop = _served(Path(data))
    job = _asked(f"{address}/api/jobs", "-d", '{"name": "bench"}', "-H", "content-type: application/json")
    sent = _asked(f"{address}/api/jobs/{job['id']}/sources?name=a.wav", "-T", source, "-X", "POST")
    query = f"clip={sent['ref']}&start=0&per=1048576&bins=9"
    look = f"{address}/api/jobs/{job['id']}/revisions/{job['head']}/waveform?{query}"
    subprocess.run(["curl", "-sf", look, "-o", "/dev/null"], check=True)
    stop()


def stretch_times(data: Path) -> list[float]:
    """How long each of many stretches of 2 s of a merged clip takes, over HTTP."""
    import http.client

    from wedge_turn.demo import ensure_demo_job
    from wedge_turn.store import Store

    store = Store(data)
    ensure_demo_job(store)
    (job,) = store.jobs()
    store.close()
    address, stop = _served(data)
    connection = http.client.HTTPConnection(address.removeprefix("http://"))
    took = []
    for n in range(60):
        start = time.perf_counter()
        path = f"/api/jobs/{job.id}/revisions/{job.head_id}/samples?clip=step:bell:0&start={n * 9_000}&frames=96000"
        connection.request("GET", path)
        assert len(connection.getresponse().read()) == 96_000 * 2 * 4
        took.append(time.perf_counter() - start)
    stop()
    return took


def hash_rates(block: bytes) -> tuple[float, float]:
    """MB/s of BLAKE3 and SHA-256."""
    from blake3 import blake3

    rates = []
    for hasher in (blake3(), hashlib.sha256()):
        start = time.process_time()
        for _ in range(200):
            hasher.update(block)
        rates.append(200 / (time.process_time() - start))
    return rates[0], rates[1]


def peak(*command: str) -> None:
    """Run a command and print its peak memory in kB."""
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss)


def _served(data: Path):  # type: ignore[no-untyped-def]
    import uvicorn

    from wedge_turn.api.app import create_app
    from wedge_turn.store import Store

    listening = socket.socket()
    listening.bind(("127.0.0.1", 0))
    listening.listen()
    server = uvicorn.Server(uvicorn.Config(create_app(Store(data)), log_level="warning"))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listening]}, daemon=True)
    thread.start()

    def stop() -> None:
        server.should_exit = True
        thread.join()

    return f"http://127.0.0.1:{listening.getsockname()[1]}", stop


def _asked(address: str, *how: str) -> dict[str, str]:
    import json

    answer = subprocess.run(["curl", "-sf", address, *how], check=True, capture_output=True)
    parsed: dict[str, str] = json.loads(answer.stdout)
    return parsed


if __name__ == "__main__":
    globals()[sys.argv[1].replace("-", "_")](*sys.argv[2:])
