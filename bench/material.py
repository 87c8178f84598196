"""The files that the benchmarks read."""

from pathlib import Path

import numpy as np

from wedge_turn.core.audio import build_header
from wedge_turn.core.form import Form


def write_noise(path: Path, frames: int) -> None:
    """24-bit stereo at 48 kHz, made of the same million frames again and again."""
    form = Form(channels=2, frames=frames, rate=48_000, encoding="s24")
    noise = np.random.default_rng(1).integers(0, 256, 6_000_000, np.uint8).tobytes()
    with path.open("wb") as file:
        file.write(build_header(form))
        for at in range(0, frames, 1_000_000):
            file.write(noise[: 6 * min(1_000_000, frames - at)])


def write_notes(path: Path, frames: int) -> None:
    """24-bit stereo at 48 kHz of notes that come and go, with a peak now and then: as music is."""
    rng = np.random.default_rng(2)
    t = np.arange(1_000_000) / 48_000
    sides = []
    for pitches in ((110, 220, 331), (110, 277, 415)):
        wave = sum(np.sin(2 * np.pi * f * t) * np.exp(-((t * f / 97) % 1) * 4) for f in pitches)
        sides.append(wave + 0.05 * rng.standard_normal(t.size))
    block = np.stack(sides, axis=1)
    steps = np.rint(block / np.abs(block).max() * 8_000_000).astype("<i4")
    notes = steps.view(np.uint8).reshape(-1, 4)[:, :3].tobytes()
    form = Form(channels=2, frames=frames, rate=48_000, encoding="s24")
    with path.open("wb") as file:
        file.write(build_header(form))
        for at in range(0, frames, 1_000_000):
            file.write(notes[: 6 * min(1_000_000, frames - at)])


def write_mono(path: Path, frames: int, seed: int) -> None:
    form = Form(channels=1, frames=frames, rate=48_000, encoding="s24")
    path.write_bytes(build_header(form) + np.random.default_rng(seed).integers(0, 256, 3 * frames, np.uint8).tobytes())
