"""What the benchmarks run in processes of their own: `python -m bench.probes NAME ARGUMENTS...`."""

import hashlib
import resource
import shutil
import socket
import statistics
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import soundfile

from bench.material import write_mono, write_notes
from wedge_turn.core.audio import WavFile


def read(_room: str, source: str) -> None:
    soundfile.read(source, dtype="float64")


def survey(_room: str, source: str) -> None:
    from wedge_turn.core.measure import measure_signal as measure

    with WavFile(Path(source)) as wav:
        measure(wav)


def many_files(data: Path, folder: Path) -> dict[str, float]:
    """Take 500 files in, wait until they are measured, then merge all pairs and undo, several times."""
    import http.client
    import json

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
    return {"taken": taken, "action": statistics.median(actions), "wait": _wait(data)}


def _wait(data: Path) -> float:
    """Seconds that a read of a job takes while another is under way, less what it takes alone."""
    from sqlalchemy import text

    from wedge_turn.store import Store

    store = Store(data)
    (job,) = store.jobs.all()

    def read() -> float:
        start = time.perf_counter()
        store.worksheets.head(job.id)
        return time.perf_counter() - start

    alone = statistics.median(read() for _ in range(20))
    with store._database.reading() as reader:
        reader.execute(text("SELECT * FROM source")).all()
        beside = statistics.median(read() for _ in range(20))
    store.close()
    return max(0.0, beside - alone)


def plain_split(work: str, source: str) -> None:
    data, rate = soundfile.read(source)
    for n, side in enumerate("LR"):
        soundfile.write(f"{work}/plain_{side}.wav", data[:, n], rate, subtype="PCM_24")


def plain_merge(room: str, left: str, right: str) -> None:
    (a, rate), (b, _) = soundfile.read(left), soundfile.read(right)
    soundfile.write(f"{room}/plain.wav", np.stack([a, b], axis=1), rate, subtype="PCM_24")


def plain_encode(room: str, source: str) -> None:
    data, rate = soundfile.read(source)
    encoded = np.stack([(data[:, 0] + data[:, 1]) / 2, (data[:, 0] - data[:, 1]) / 2], axis=1)
    soundfile.write(f"{room}/plain.wav", encoded, rate, subtype="PCM_24")


def plain_flac(room: str, source: str) -> None:
    """Encodes and decodes again, block by block, as libsndfile does it by itself."""
    target = Path(room) / "plain.flac"
    with (
        soundfile.SoundFile(source) as wav,
        soundfile.SoundFile(target, "w", wav.samplerate, wav.channels, "PCM_24") as flac,
    ):
        while len(block := wav.read(65_536, dtype="int32")):
            flac.write(block)
    with soundfile.SoundFile(target) as flac:
        while len(flac.read(65_536, dtype="int32")):
            pass
    target.unlink()


def our_flac(room: str, *sources: str) -> None:
    _ours("swap", room, sources, container="flac")


def our_split(room: str, *sources: str) -> None:
    _ours("split", room, sources)


def our_merge(room: str, *sources: str) -> None:
    _ours("merge", room, sources)


def our_encode(room: str, *sources: str) -> None:
    _ours("encode", room, sources)


def _ours(turn: str, room: str, sources: tuple[str, ...], **how: Any) -> None:
    """What `wedge-turn apply` does with many files, and a server: by kernels that are loaded already."""
    from wedge_turn.cli.memory import collect_seldom, share_one_heap
    from wedge_turn.core.audio import load_byte_kernels
    from wedge_turn.core.delivery import Order
    from wedge_turn.core.session import turn_files
    from wedge_turn.core.worksheet import parse_turn, plan_turn

    share_one_heap()
    collect_seldom()
    load_byte_kernels()
    chosen = parse_turn(turn, {})
    turn_files(
        [Path(s) for s in sources],
        lambda infos: plan_turn(chosen, infos),
        Path(room) / "ours",
        lambda refs: Order(refs, **how),
        lambda _: None,
    )
    shutil.rmtree(Path(room) / "ours")


def spent(work: str, room: str, *paths: str) -> None:
    """Print the processor seconds of some work on the second half of the paths, after starting up with the first."""
    done, half = globals()[work.replace("-", "_")], len(paths) // 2
    done(room, *paths[:half])
    before = resource.getrusage(resource.RUSAGE_SELF)
    done(room, *paths[half:])
    after = resource.getrusage(resource.RUSAGE_SELF)
    print(after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime)


def copy(source: str, target: str) -> None:
    with Path(source).open("rb") as file, Path(target).open("wb") as out:
        shutil.copyfileobj(file, out, 2**20)


def pictures(source: str, folder: str) -> None:
    from wedge_turn.core.measure import draw_pictures

    with WavFile(Path(source)) as wav:
        draw_pictures(wav, Path(folder))


def upload(source: str, data: str) -> None:
    """Serve, and send a file to it from another process."""
    address, stop = _served(Path(data))
    job = _asked(f"{address}/api/jobs", "-d", '{"name": "bench"}', "-H", "content-type: application/json")
    sent = _asked(f"{address}/api/jobs/{job['id']}/sources?name=a.wav", "-T", source, "-X", "POST")
    query = f"clip={sent['ref']}&start=0&per=1048576&bins=9"
    look = f"{address}/api/jobs/{job['id']}/revisions/{job['head']}/waveform?{query}"
    subprocess.run(["curl", "-sf", look, "-o", "/dev/null"], check=True)
    stop()


def answer_times(data: Path, folder: Path) -> dict[str, float]:
    """Median seconds of an answer over HTTP: stretches of a merged clip, of five turns and of the wedge; the map."""
    import http.client
    import json

    from wedge_turn.demo import ensure_demo_job
    from wedge_turn.store import Store

    store = Store(data)
    ensure_demo_job(store)
    (demo,) = store.jobs.all()
    store.close()
    write_notes(folder / "notes.wav", 60 * 48_000)
    address, stop = _served(data)
    connection = http.client.HTTPConnection(address.removeprefix("http://"))

    _settled()

    def asked(method: str, path: str, body: bytes | None = None) -> bytes:
        headers = {"Content-Type": "application/json"} if body and body[:1] == b"{" else {}
        connection.request(method, path, body, headers)
        response = connection.getresponse()
        answer = response.read()
        assert response.status < 300, answer
        return answer

    def median(revision: str, query: str, frames: int, step: int) -> float:
        took = []
        for n in range(30):
            start = time.perf_counter()
            asked("GET", f"{revision}/{query}&start={n * step}&frames={frames}")
            took.append(time.perf_counter() - start)
        return statistics.median(took)

    bell = f"/api/jobs/{demo.id}/revisions/{demo.head_id}"
    times = {"merged": median(bell, "samples?clip=step:bell:0", 96_000, 9_000)}
    job = json.loads(asked("POST", "/api/jobs", b'{"name": "notes"}'))
    at = f"/api/jobs/{job['id']}"
    source = json.loads(asked("POST", f"{at}/sources?name=notes.wav", (folder / "notes.wav").read_bytes()))["ref"]
    kinds = ("swap", "polarity", "encode", "decode", "width", "centre")
    ref, refs = source, {}
    for kind in kinds:
        now = json.loads(asked("GET", at))
        into = source if kind == "centre" else ref
        body = {"base": now["head"], "steps": [{"turn": {"kind": kind}, "inputs": [into]}]}
        now = json.loads(asked("POST", f"{at}/steps", json.dumps(body).encode()))
        ref = refs[kind] = now["steps"][-1]["outputs"][0]["ref"]
    head = f"{at}/revisions/{now['head']}"
    times["five turns"] = median(head, f"samples?clip={refs['width']}", 24_000, 48_000)
    times["wedge"] = median(head, f"samples?clip={refs['centre']}", 96_000, 90_000)
    times["map"] = median(head, f"map?clip={source}", 30 * 48_000, 40_000)
    stop()
    return times


def wedge_rates() -> tuple[float, float]:
    """Times real time on one core: the wedge, and scipy's transforms alone with the same window and hop."""
    import scipy.signal

    from wedge_turn.core.centre import Extraction, Shape, window_size
    from wedge_turn.core.pages import PAGE

    rate, pages = 44_100, 10
    wave = 0.1 * np.random.default_rng(3).standard_normal((PAGE * (pages + 2), 2))

    def read(start: int, frames: int) -> np.ndarray:
        out = np.zeros((frames, 2))
        first, last = max(start, 0), min(start + frames, len(wave))
        out[first - start : last - start] = wave[first:last]
        return out

    wedge, size = Extraction(read, rate, len(wave), Shape()), window_size(rate)
    window = np.sqrt(scipy.signal.windows.hann(size, sym=False))
    transform = scipy.signal.ShortTimeFFT(window, size // 2, rate)

    def ours() -> None:
        for page in range(pages):
            wedge.page(page * PAGE)

    def theirs() -> None:
        transform.istft(transform.stft(wave[: PAGE * pages].T))

    took: dict[Callable[[], None], list[float]] = {ours: [], theirs: []}
    for turn in range(6):  # in turns, so that the machine's moods meet both; the first is warming up
        for work, spent in took.items():
            start = time.process_time()
            work()
            if turn:
                spent.append(time.process_time() - start)
    first_page, second_page = (PAGE * pages / rate / statistics.median(spent) for spent in took.values())
    return first_page, second_page


def chain_times(source: str, room: str) -> dict[str, float]:
    """Processor seconds of delivering one turn, and five turns, of a file, with their proof."""
    from wedge_turn.core.audio import open_files
    from wedge_turn.core.clips import Engine
    from wedge_turn.core.delivery import Order, deliver
    from wedge_turn.core.turns import TURN_ADAPTER, ClipInfo
    from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref

    found = {}
    for name, kinds in (("five", ("swap", "polarity", "swap", "polarity", "encode")), ("one", ("encode",))):
        ref, steps = source_ref("0"), []
        for n, kind in enumerate(kinds):
            steps.append(Step(id=f"s{n}", turn=TURN_ADAPTER.validate_python({"kind": kind}), inputs=(ref,)))
            ref = f"step:s{n}:0"
        took = []
        for _ in range(3):
            with open_files([Path(source)]) as ((form, reader),):
                sheet = Sheet(Plan(steps=tuple(steps)), {"0": ClipInfo("a", form)})
                start = time.process_time()
                deliver(Engine(sheet, lambda _: reader), Order((ref,)), Path(room) / "chain")
                took.append(time.process_time() - start)
            shutil.rmtree(Path(room) / "chain")
        found[name] = sorted(took)[1]
    return found


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
    from wedge_turn.tasks.readiness import preload

    preload()
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


def _settled() -> None:
    """Wait until the server, which runs in this process, has drawn and measured what it found at its start."""
    spent = -1.0
    while time.process_time() - spent > 0.05:
        spent = time.process_time()
        time.sleep(0.5)


def _asked(address: str, *how: str) -> dict[str, str]:
    import json

    answer = subprocess.run(["curl", "-sf", address, *how], check=True, capture_output=True)
    parsed: dict[str, str] = json.loads(answer.stdout)
    return parsed


if __name__ == "__main__":
    globals()[sys.argv[1].replace("-", "_")](*sys.argv[2:])
