"""`make bench-folder`: a folder of 60 files of three minutes (20 pairs, 6 dual mono, 2 with a silent channel, 12
ordinary stereo): `wedge-turn prep` on every core and on one, and the same folder from the drop to its delivery in
Chromium.

Needs about 7 GB of disk for a few minutes.
"""

import os
import re
import shutil
import subprocess
import tempfile
import time
from collections.abc import Callable
from contextlib import ExitStack
from pathlib import Path
from typing import Final

import numpy as np
import soundfile
from playwright.sync_api import sync_playwright

from bench.measuring import COMMAND

RATE: Final = 48_000
FRAMES: Final = 180 * RATE
PAIRS, DUAL, SILENT, STEREO = 20, 6, 2, 12


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="wedge-turn-folder-") as folder:
        room = Path(folder)
        session = write_session(room / "session")
        one = seconds(lambda: prepared(session, room, 1))
        several = seconds(lambda: prepared(session, room, os.cpu_count() or 1))
        print(f"prep of 60 files: {several:.1f} s   wanted < 45 s; on one core {one:.1f} s, {one / several:.2f} times"
              "   wanted > 1.5")  # fmt: skip
        print(
            f"dropped, prepared, delivered and proved in the browser: {in_browser(session, room):.1f} s   wanted < 60 s"
        )


def write_session(folder: Path) -> Path:
    """Notes with their overtones over soft noise, no two alike."""
    folder.mkdir()
    rng = np.random.default_rng(5)
    t = np.arange(FRAMES) / RATE

    def wave() -> np.ndarray:
        note = 110 * 2 ** (rng.integers(0, 36) / 12)
        tones = sum(np.sin(2 * np.pi * note * k * t + rng.uniform(0, 6)) / k**2 for k in range(1, 5))
        return 0.2 * tones * (0.6 + 0.4 * np.sin(2 * np.pi * 0.3 * t)) + 0.01 * rng.standard_normal(FRAMES)

    def write(name: str, *channels: np.ndarray) -> None:
        soundfile.write(folder / f"{name}.wav", np.stack(channels, axis=1), RATE, "PCM_24")

    for n in range(PAIRS):
        first = wave()
        write(f"pair-{n:02}_L", first)
        write(f"pair-{n:02}_R", 0.5 * first + wave())
    for n in range(DUAL):
        write(f"dual-{n}", *[wave()] * 2)
    for n in range(SILENT):
        write(f"silent-{n}", wave(), np.zeros(FRAMES))
    for n in range(STEREO):
        first = wave()
        write(f"stereo-{n:02}", first, 0.5 * first + wave())
    return folder


def prepared(session: Path, room: Path, cores: int) -> None:
    out = room / "out"
    command = ["taskset", "-c", ",".join(map(str, range(cores))), str(COMMAND), "prep", str(session), "--out", str(out)]
    subprocess.run(command, check=True, capture_output=True)
    shutil.rmtree(out)


def in_browser(session: Path, room: Path) -> float:
    """From the moment the folder is given to the moment its delivery is done."""
    with ExitStack() as stack:
        command = [str(COMMAND), "serve", "--data", str(room / "data"), "--port", "0"]
        server = stack.enter_context(subprocess.Popen(command, stdout=subprocess.PIPE, text=True))
        stack.callback(server.terminate)
        assert server.stdout is not None
        address = server.stdout.readline().split()[4].rstrip("/")
        chromium = stack.enter_context(sync_playwright()).chromium.launch(
            executable_path="/usr/bin/chromium-headless-shell", args=["--no-sandbox"]
        )
        stack.callback(chromium.close)
        page = chromium.new_page(viewport={"width": 1280, "height": 800})
        page.set_default_timeout(300_000)
        page.goto(address)
        page.get_by_label("Job name").fill("Session")
        page.get_by_label("Job name").press("Enter")
        folder = page.locator("input[webkitdirectory]")
        folder.wait_for(state="attached")

        def deliver() -> None:
            folder.set_input_files(session)
            page.get_by_role("button", name=f"Add {PAIRS + DUAL + SILENT} safe turns").click()
            page.get_by_role("button", name="Review and deliver…").click()
            page.get_by_text(re.compile("Include .* files not used by any line")).click()
            page.get_by_role("button", name=re.compile("Deliver .* files")).click()
            page.get_by_text("Download all as ZIP").wait_for()

        return seconds(deliver)


def seconds(act: Callable[[], None]) -> float:
    start = time.perf_counter()
    act()
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
