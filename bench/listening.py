"""`make bench-listening`: how long a setting takes to be heard, and what live pictures cost, in Chromium at 1280x800.

From the event of a control to the first sample at the graph's output that is not what would have been there without
it: what was heard is compared with the clip as it was, asked from the API. The page's own count of what was heard may
lag by a few milliseconds when the control moves, which makes the time longer, never shorter.
"""

import json
import statistics
import subprocess
import tempfile
import time
import urllib.request
from collections.abc import Callable
from contextlib import ExitStack
from pathlib import Path
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray
from playwright.sync_api import Page, sync_playwright

from bench.measuring import COMMAND
from wedge_turn.demo.job import NAME

RATE: Final = 44_100
CHANGES: Final = 48
CHANGES_OF_VOICE: Final = 12  # the whole clip is computed to compare with, each time
LONGEST: Final = RATE
RECORDER: Final = Path(__file__).parent.parent / "tests" / "browser" / "recorder.js"
SLIDE: Final = """([label, value]) => {
  const slider = [...document.querySelectorAll("label")].find((one) => one.textContent === label).control;
  Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(slider, value);
  const heard = window.heard[0].length;
  slider.dispatchEvent(new Event("input", { bubbles: true }));
  return heard;
}"""
PRESS: Final = """([name, key]) => {
  const handle = document.querySelector(`[role=slider][aria-label="${name}"]`);
  const heard = window.heard[0].length;
  handle.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true }));
  return heard;
}"""


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="wedge-turn-listening-") as folder, ExitStack() as stack:
        command = [str(COMMAND), "serve", "--demo", "--data", folder, "--port", "0"]
        server = stack.enter_context(subprocess.Popen(command, stdout=subprocess.PIPE, text=True))
        stack.callback(server.terminate)
        assert server.stdout is not None
        address = server.stdout.readline().split()[4].rstrip("/")
        chromium = stack.enter_context(sync_playwright()).chromium.launch(
            executable_path="/usr/bin/chromium-headless-shell",
            args=["--no-sandbox", "--autoplay-policy=no-user-gesture-required"],
        )
        stack.callback(chromium.close)
        page = chromium.new_page(viewport={"width": 1280, "height": 800}, bypass_csp=True)
        page.add_init_script(path=RECORDER)
        page.goto(address)
        page.get_by_role("link", name=NAME).click()
        page.wait_for_url("**/jobs/**")
        wedge = [("Wedge: position", ("ArrowLeft", "ArrowRight")[n // 3 % 2]) for n in range(CHANGES)]
        for name, turn, control, moves in (
            ("width", "width", SLIDE, [("Width", f"{1.5 - 0.1 * (n % 2):g}") for n in range(CHANGES)]),
            ("voice", "centre", SLIDE, [("Amount", f"{0.9 - 0.3 * (n % 2):g}") for n in range(CHANGES_OF_VOICE)]),
            ("wedge", "centre", PRESS, wedge),
        ):
            page.goto(page.url.split("?")[0])  # with the picture it opens with: a wedge leaves the map on the page
            page.get_by_role("button", name="Play (Space)").wait_for()
            page.keyboard.press("/")
            page.keyboard.type("evening-song")
            page.get_by_role("grid", name="Files").get_by_role("row", name="evening-song").click()
            page.keyboard.press("t")
            page.keyboard.type(turn)
            page.keyboard.press("Enter")
            page.evaluate("document.activeElement.blur()")  # Home is the page's then, and not the list's
            if name == "wedge":
                page.get_by_label("Method", exact=True).select_option("wedge")
                page.get_by_role("slider", name="Wedge: position").wait_for()
            time.sleep(3)  # what the turn itself brings is drawn
            took = heard_after(page, address, control, moves)
            print(
                f"{name}, from the control to its first sample: median {statistics.median(took):.0f} ms,"
                f" {min(took):.0f} to {max(took):.0f} of {len(took)}   wanted < 150 ms, each < 250 ms",
                flush=True,
            )
            frames, busy = pictures(page)
            print(f"{name}, live pictures: {frames:.0f} a second, main thread {busy:.0%}   wanted ≥ 57, < 50%")
            page.keyboard.press("Space")


def heard_after(page: Page, address: str, control: str, moves: list[tuple[str, str]]) -> list[float]:
    """Start to play; milliseconds from each move of a control to the first sample that is another."""
    job = f"{address}/api/jobs/{page.url.split('/jobs/')[1].split('/')[0].split('?')[0]}"
    page.evaluate("window.heard = [[], []]")
    page.keyboard.press("Space")
    now = asked(job)
    clip = now["steps"][-1]["outputs"][0]
    ref = clip["ref"]
    ahead, took = 0, []
    for move in moves:
        head = asked(job)["head"]
        if ahead + page.evaluate("window.heard[0].length") > clip["frames"] - 5 * RATE:
            page.keyboard.press("Home")
            time.sleep(0.5)
        # Anew each time: where a busy machine had to wait, what is heard is late from then on.
        ahead = frames_ahead(page, samples(job, head, ref, 0, clip["frames"]))
        heard: int = page.evaluate(control, list(move))
        page.wait_for_function("(n) => window.heard[0].length > n", arg=heard + LONGEST)
        sound = page.evaluate(f"(n) => window.heard.map((ear) => ear.slice(n, n + {LONGEST}))", heard)
        differs = np.abs(np.array(sound, np.float32).T - samples(job, head, ref, ahead + heard)).max(axis=1) > 1e-5
        took.append(1000 * int(np.flatnonzero(differs)[0]) / RATE)
    return took


def frames_ahead(page: Page, clip: NDArray[np.float32]) -> int:
    """By how many frames what was heard lies behind the start of a clip; waits until it is the clip that is heard."""
    while True:
        length: int = page.evaluate("window.heard[0].length")
        page.wait_for_function("(n) => window.heard[0].length > n + 5000", arg=length)
        piece = np.array(page.evaluate("(n) => window.heard.map((ear) => ear.slice(n, n + 1000))", length)).T
        if np.abs(piece).max() < 0.01:
            continue  # silence is everywhere
        for n in np.flatnonzero((np.abs(clip[:-1000] - piece[0]) < 1e-6).all(axis=1)):
            if np.abs(clip[n : n + 1000] - piece).max() < 1e-6:
                return int(n) - length


def pictures(page: Page) -> tuple[float, float]:
    """Frames drawn in a second while playing, and the share of it that the main thread works."""
    worked = main_thread(page)
    start, before = time.perf_counter(), worked()
    frames: int = page.evaluate("""() => new Promise((done) => {
      let frames = 0;
      const end = performance.now() + 3000;
      const next = () => (performance.now() < end ? (frames++, requestAnimationFrame(next)) : done(frames));
      requestAnimationFrame(next);
    })""")
    passed = time.perf_counter() - start
    return frames / passed, (worked() - before) / passed


def main_thread(page: Page) -> Callable[[], float]:
    """Asks for the seconds that the main thread of a page has worked so far."""
    session = page.context.new_cdp_session(page)
    session.send("Performance.enable")

    def worked() -> float:
        metrics = session.send("Performance.getMetrics")["metrics"]
        return float(next(metric["value"] for metric in metrics if metric["name"] == "TaskDuration"))

    return worked


def asked(url: str) -> dict[str, Any]:
    with urllib.request.urlopen(url) as answer:
        report: dict[str, Any] = json.loads(answer.read())
    return report


def samples(job: str, revision: str, ref: str, start: int, frames: int = LONGEST) -> NDArray[np.float32]:
    """What a clip holds in a revision from a frame on."""
    with urllib.request.urlopen(
        f"{job}/revisions/{revision}/samples?clip={ref}&start={start}&frames={frames}"
    ) as answer:
        return np.frombuffer(answer.read(), "<f4").reshape(-1, 2)


if __name__ == "__main__":
    main()
