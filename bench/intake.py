"""`make bench-intake`: how fast the sound of a movie is taken in, and in how much memory.

A movie of 10 minutes at 1920x1080 with stereo sound is made through PyAV, which takes eight minutes. Its pictures are
noise that moves, so that the file is as large as a camera's.
"""

import subprocess
import sys
import tempfile
import time
from fractions import Fraction
from pathlib import Path
from typing import Final

import av
import numpy as np

from bench.measuring import say

MINUTES: Final = 10
RATE: Final = 48_000
ONE: Final = """
import resource, sys, time
from pathlib import Path
from wedge_turn.core.intake import take_in
start = time.perf_counter(), time.process_time()
form = take_in(Path(sys.argv[1]), "film.mp4", lambda: Path(sys.argv[2])).form
print(form.frames / form.rate, time.perf_counter() - start[0], time.process_time() - start[1],
      resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000)
"""


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="wedge-turn-intake-") as folder:
        movie = Path(folder, "film.mp4")
        begun = time.perf_counter()
        write(movie)
        made = f"made in {time.perf_counter() - begun:.0f} s"
        say("a movie of 10 minutes, 1080p, with stereo AAC", f"{movie.stat().st_size / 1e6:.0f} MB", made)
        command = [sys.executable, "-c", ONE, str(movie), str(Path(folder, "copy.wav"))]
        done = subprocess.run(command, check=True, capture_output=True, text=True)
        seconds, clock, processor, memory = map(float, done.stdout.split())
        say("taken in, by the clock", f"{seconds / clock:.0f} x real time", "40")
        say("taken in, by processor time", f"{seconds / processor:.0f} x real time", "40")
        say("memory at its highest", f"{memory:.0f} MB", "under 300")


def write(path: Path) -> None:
    rng = np.random.default_rng(1)
    grains = [rng.integers(0, 255, (1080, 1920, 3), np.uint8) // 6 + 90 for _ in range(4)]
    with av.open(path, "w", format="mp4") as movie:
        picture = movie.add_stream("mpeg4", rate=25)
        picture.width, picture.height, picture.pix_fmt, picture.bit_rate = 1920, 1080, "yuv420p", 8_000_000
        picture.gop_size = 50
        sound = movie.add_stream("aac", rate=RATE, layout="stereo")
        t = np.arange(1024) / RATE
        for n in range(MINUTES * 60 * 25):
            frame = np.roll(grains[n // 25 % 4], n % 25 * 8, axis=1)
            movie.mux(picture.encode(av.VideoFrame.from_ndarray(frame, format="rgb24")))
        movie.mux(picture.encode(None))
        for at in range(0, MINUTES * 60 * RATE, 1024):
            wave = 0.3 * np.sin(2 * np.pi * 220 * (t + at / RATE)) + 0.02 * rng.standard_normal((2, 1024))
            heard = av.AudioFrame.from_ndarray(wave.astype(np.float32), format="fltp", layout="stereo")
            heard.sample_rate, heard.pts, heard.time_base = RATE, at, Fraction(1, RATE)
            movie.mux(sound.encode(heard))
        movie.mux(sound.encode(None))


if __name__ == "__main__":
    main()
