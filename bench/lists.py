"""`make bench-lists`: a job of 500 files and 300 turns in Chromium at 1280x800: how long it takes to open, how long
from a key in either list to the picture it draws, what a changed setting takes and adds, and what a page at rest costs.

Files and turns come by the API. A key is measured from its press to the picture that shows it.
"""

import io
import json
import sqlite3
import statistics
import subprocess
import tempfile
import time
import urllib.request
from contextlib import ExitStack
from pathlib import Path
from typing import Any, Final

import numpy as np
import soundfile
from playwright.sync_api import Page, sync_playwright

from bench.listening import asked, main_thread
from bench.measuring import COMMAND
from wedge_turn.store.database import FILE

FILES: Final = 500
TURNS: Final = 300
KEYS: Final = 40
OPENED: Final = """() => document.querySelectorAll("[role=grid] [role=row]").length > 5
  && document.querySelectorAll("[role=listbox][aria-label=Turns] [role=option]").length > 5"""
# The browser's own figure (Event Timing API, W3C), in steps of 8 ms; what it drew in less than 16 ms it does not tell.
WATCH: Final = """() => {
  window.keys = [];
  window.watch?.disconnect();
  window.watch = new PerformanceObserver((list) => {
    for (const entry of list.getEntries()) if (entry.name === "keydown") window.keys.push(entry.duration);
  });
  window.watch.observe({ type: "event", durationThreshold: 16 });
}"""


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="wedge-turn-lists-") as folder, ExitStack() as stack:
        command = [str(COMMAND), "serve", "--data", folder, "--port", "0"]
        server = stack.enter_context(subprocess.Popen(command, stdout=subprocess.PIPE, text=True))
        stack.callback(server.terminate)
        assert server.stdout is not None
        address = server.stdout.readline().split()[4].rstrip("/")
        job = big_job(address)
        chromium = stack.enter_context(sync_playwright()).chromium.launch(
            executable_path="/usr/bin/chromium-headless-shell", args=["--no-sandbox"]
        )
        stack.callback(chromium.close)
        page = chromium.new_page(viewport={"width": 1280, "height": 800})
        edits(address, job, Path(folder))
        page.goto(address)  # what every page shares is here
        took = []
        for _ in range(5):
            start = time.perf_counter()
            page.goto(f"{address}/jobs/{job}", wait_until="commit")
            page.wait_for_function(OPENED)
            took.append(time.perf_counter() - start)
        print(f"{FILES} files and {TURNS} turns, opened: median {statistics.median(took):.2f} s   wanted < 1.2 s")
        for name, selector in (("files", "[role=grid]"), ("turns", "[role=listbox][aria-label=Turns]")):
            page.locator(selector).click(position={"x": 60, "y": 10})
            time.sleep(3)
            keys = pressed(page, selector)
            print(
                f"a key in the list of {name}, drawn: median {statistics.median(keys):.0f} ms, nine of ten within"
                f" {keys[9 * KEYS // 10 - 1]:.0f} ms, all within {keys[-1]:.0f} ms   wanted < 50 ms"
            )
        time.sleep(15)  # what the keys asked for has come and gone
        print(f"a page at rest: {at_rest(page):.2%} of a core on its main thread   wanted < 1%")


def edits(address: str, job: str, data: Path) -> None:
    """How long the server takes to answer a changed setting, and what its revision adds to the database."""
    now = asked(f"{address}/api/jobs/{job}")
    line, head = now["steps"][7], now["head"]
    before, took = database_bytes(data), []
    for n in range(KEYS):
        body = {"base": head, "turn": {**line["turn"], "length": ("trim", "pad")[n % 2]}}
        start = time.perf_counter()
        changed = send(f"{address}/api/jobs/{job}/steps/{line['id']}", json.dumps(body).encode(), "PATCH")
        took.append(time.perf_counter() - start)
        head = changed["head"]
    grown = (database_bytes(data) - before) / KEYS
    print(f"a setting changed and answered: median {1000 * statistics.median(took):.0f} ms   wanted < 200 ms")
    print(f"what a changed setting adds to the database: {grown / 1000:.1f} kB   wanted < 5 kB")


def database_bytes(data: Path) -> int:
    with sqlite3.connect(data / FILE) as connection:
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        pages, free, size = (
            connection.execute(f"PRAGMA {name}").fetchone()[0] for name in ("page_count", "freelist_count", "page_size")
        )
    return int((pages - free) * size)


def pressed(page: Page, selector: str) -> list[float]:
    """Milliseconds from each of many presses of an arrow to the picture that it draws, the shortest first."""
    page.evaluate(WATCH)
    page.locator(selector).focus()
    for _ in range(KEYS):
        before = page.locator(selector).get_attribute("aria-activedescendant")
        page.keyboard.press("ArrowDown")
        time.sleep(0.15)
        if page.locator(selector).get_attribute("aria-activedescendant") == before:
            raise RuntimeError("no other row was selected")
    time.sleep(1)
    times: list[float] = page.evaluate("window.keys")
    return sorted([16.0] * (KEYS - len(times)) + times)


def big_job(address: str) -> str:
    """A job of files that are pairs by name, each merged, and some merged once more."""
    sent: dict[str, Any] = send(f"{address}/api/jobs", json.dumps({"name": "Many"}).encode())
    job = str(sent["id"])
    rng = np.random.default_rng(0)
    for n in range(FILES):
        buffer = io.BytesIO()
        soundfile.write(buffer, 0.1 * rng.standard_normal(4_800), 48_000, "PCM_16", format="WAV")
        name = f"take-{n // 2:03}_{'RL'[n % 2 == 0]}.wav"
        send(f"{address}/api/jobs/{job}/sources?name={name}", buffer.getvalue())
    now = asked(f"{address}/api/jobs/{job}")
    refs = [source["ref"] for source in now["sources"]]
    pairs = [refs[n : n + 2] for n in range(0, FILES, 2)]
    steps = [{"turn": {"kind": "merge"}, "inputs": pair, "names": []} for pair in (pairs + pairs)[:TURNS]]
    send(f"{address}/api/jobs/{job}/steps", json.dumps({"steps": steps, "base": now["head"]}).encode())
    while not all(source["measured"] for source in asked(f"{address}/api/jobs/{job}")["sources"]):
        time.sleep(0.5)
    return job


def at_rest(page: Page, seconds: float = 10) -> float:
    """The share of a core that the page's main thread works while nothing plays and nothing moves."""
    worked = main_thread(page)
    start, before = time.perf_counter(), worked()
    time.sleep(seconds)
    return (worked() - before) / (time.perf_counter() - start)


def send(url: str, body: bytes, method: str = "POST") -> dict[str, Any]:
    request = urllib.request.Request(url, body, {"content-type": "application/json"}, method=method)
    with urllib.request.urlopen(request) as answer:
        sent: dict[str, Any] = json.loads(answer.read())
    return sent


if __name__ == "__main__":
    main()
