"""Mixes with known parts to judge the centre by, of makes that share neither code nor sounds with what the voice mask
was taught on (bench/learn): plain synthetic speech among struck strings, saws and bells, and recorded speech over
records.
"""

import subprocess
import tempfile
from pathlib import Path
from typing import Final

import numpy as np
import scipy.signal
import soundfile
from numpy.random import Generator
from numpy.typing import NDArray

from bench.learn import packages

Block = NDArray[np.float64]
Parts = tuple[Block, Block]  # the voice, and everything else
RATE: Final = 44_100
SECONDS: Final = 10
FRAMES: Final = RATE * SECONDS
# Voices that no song of bench/learn is sung by.
_VOICES: Final = ("en-gb-scotland+m7", "en+f5", "pt+m2", "ro+f1", "el+m4", "fi+f3", "tr+m6", "id+f2")
_TEXTS: Final = (
    "the tide table hangs beside the lamp room door and nobody has read it since the autumn",
    "two ropes of hemp, four tins of paint, a ladder, and the key of the old boat house",
    "when the wind comes round to the north the whole stair begins to hum a little",
)


def spoken(seed: int) -> Parts:
    """A synthetic speaker in the middle, dry or in a small room, and a band of oscillators around."""
    rng = np.random.default_rng([seed, 7_001])
    voice = _said(_VOICES[seed % len(_VOICES)], str(rng.choice(_TEXTS)), int(rng.integers(25, 75)))
    voice = np.pad(voice, (int(rng.uniform(0.1, 0.8) * RATE), FRAMES))[:FRAMES]
    lead = _echoing(rng, 0.1 * voice / (np.sqrt(np.mean(voice**2)) + 1e-9), float(rng.choice([0, 0.15, 0.3])))
    beat, key = 60 / rng.uniform(80, 130), int(rng.integers(36, 48))
    rest = np.zeros((FRAMES, 2))
    for n in range(int(SECONDS / beat)):
        root = key + (0, 5, 7, 3)[n // 4 % 4]
        _add(rest, _string(_hertz(root), 0.8 * beat), n * beat, 0.0, 0.5)
        _add(rest, _thud(rng) if n % 2 == 0 else _crack(rng), n * beat, float(rng.uniform(-0.05, 0.05)), 0.35)
        for step, where in ((12, -0.8), (16, 0.6), (19, -0.4)):
            tone = _saw if where > 0 else _string
            _add(rest, tone(_hertz(root + step), 0.9 * beat), (n + 0.5 * (step == 16)) * beat, where, 0.18)
        if n % 4 == 0:
            _add(rest, _bell(_hertz(root + 36), 2.0), n * beat, 0.9, 0.12)
    return lead, 0.12 * rest / np.sqrt(np.mean(rest**2))


def over_records(seed: int, width: float = 1.0) -> Parts:
    """Recorded words in the middle, as a desk would have them, over a stretch of a record, made narrower or not."""
    rng = np.random.default_rng([seed, 7_002])
    records = [path for path in packages.files(packages.JUDGING.records) if soundfile.info(path).duration > 40]
    path = records[seed * 5 % len(records)]
    start = float(rng.uniform(8, soundfile.info(path).duration - SECONDS - 5))
    rest = _read(path, start, SECONDS) @ (np.array([[1 + width, 1 - width], [1 - width, 1 + width]]) / 2)
    rest = 0.12 * rest / np.sqrt(np.mean(rest**2))
    words = packages.files(packages.JUDGING.speech)
    folder = words[int(rng.integers(len(words)))].parent
    same, voice, at = [word for word in words if word.parent == folder], np.zeros(FRAMES), float(rng.uniform(0, 0.6))
    while at < SECONDS - 0.5:
        said = _read(same[int(rng.integers(len(same)))], 0, 6).mean(axis=1)
        begin = int(at * RATE)
        length = min(len(said), FRAMES - begin)
        voice[begin : begin + length] += said[:length] / (np.sqrt(np.mean(said**2)) + 1e-6)
        at += len(said) / RATE + float(rng.uniform(0.1, 0.7))
    return _echoing(rng, 0.12 * voice / np.sqrt(np.mean(voice**2)), float(rng.choice([0.05, 0.15, 0.3]))), rest


def records(count: int) -> list[Block]:
    """Stretches of stereo records without a voice, for what a voice mask takes where there is none."""
    paths = [path for path in packages.files(packages.JUDGING.records) if soundfile.info(path).duration > 40]
    blocks = (_read(path, 20, SECONDS) for path in paths[:: max(1, len(paths) // (2 * count))])
    return [block for block in blocks if np.abs(block[:, 0] - block[:, 1]).max() > 1e-4][:count]


def _said(voice: str, text: str, pitch: int) -> Block:
    with tempfile.NamedTemporaryFile(suffix=".wav") as file:
        subprocess.run(["espeak-ng", "-v", voice, "-p", str(pitch), "-w", file.name, text], check=True)
        return np.asarray(_read(Path(file.name), 0, SECONDS).mean(axis=1))


def _read(path: Path, start: float, seconds: float) -> Block:
    with soundfile.SoundFile(path) as file:
        file.seek(min(file.frames, int(start * file.samplerate)))
        block = file.read(int(seconds * file.samplerate), always_2d=True)[:, :2]
        rate = file.samplerate
    block = np.repeat(block, 2, axis=1) if block.shape[1] == 1 else block
    return np.asarray(block if rate == RATE else scipy.signal.resample_poly(block, RATE, rate, axis=0))


def _echoing(rng: Generator, mono: Block, wet: float) -> Block:
    """The voice in the middle, with late sound that differs in each ear."""
    time = np.arange(int(0.7 * RATE)) / RATE
    tail = rng.standard_normal((len(time), 2)) * np.exp(-time / 0.16)[:, None]
    tail /= np.sqrt(np.sum(tail**2, axis=0))
    late = scipy.signal.fftconvolve(mono[:, None], tail, axes=0)[: len(mono)]
    return np.asarray(mono[:, None] + wet * late)


def _add(block: Block, wave: Block, at: float, where: float, gain: float) -> None:
    angle, start = np.pi / 4 * (1 + where), int(at * RATE)
    length = min(len(wave), len(block) - start)
    if length > 0:
        block[start : start + length, 0] += gain * np.cos(angle) * wave[:length]
        block[start : start + length, 1] += gain * np.sin(angle) * wave[:length]


def _hertz(key: float) -> float:
    return float(440 * 2 ** ((key - 69) / 12))


def _string(pitch: float, seconds: float) -> Block:
    """Partials of a stiff string, each dying at its own pace."""
    time = np.arange(int((seconds + 0.3) * RATE)) / RATE
    wave = np.zeros(len(time))
    for n in range(1, 16):
        partial = n * pitch * np.sqrt(1 + 0.0004 * n * n)
        if partial < RATE / 2.2:
            wave += np.sin(2 * np.pi * partial * time) * np.exp(-time * (1.5 + 0.6 * n)) / n
    return wave * np.minimum(1, time / 0.002)


def _saw(pitch: float, seconds: float) -> Block:
    time = np.arange(int(seconds * RATE)) / RATE
    wave = 2 * ((pitch * time) % 1) - 1
    low = scipy.signal.butter(2, min(6 * pitch, 9_000), fs=RATE, output="sos")
    swell = np.minimum(1, time / 0.03) * np.minimum(1, (seconds - time) / 0.05)
    return np.asarray(scipy.signal.sosfilt(low, wave) * swell)


def _bell(pitch: float, seconds: float) -> Block:
    time = np.arange(int(seconds * RATE)) / RATE
    bend = 2.5 * np.exp(-time / 0.5) * np.sin(2 * np.pi * 1.4 * pitch * time)
    return np.asarray(np.sin(2 * np.pi * pitch * time + bend) * np.exp(-time / 0.7))


def _thud(rng: Generator) -> Block:
    time = np.arange(int(0.3 * RATE)) / RATE
    phase = 2 * np.pi * (rng.uniform(45, 60) * time - 3 * np.exp(-time / 0.03))
    return np.asarray(np.sin(phase) * np.exp(-time / 0.09))


def _crack(rng: Generator) -> Block:
    time = np.arange(int(0.2 * RATE)) / RATE
    high = scipy.signal.butter(2, 900, "high", fs=RATE, output="sos")
    return np.asarray(scipy.signal.sosfilt(high, rng.standard_normal(len(time))) * np.exp(-time / 0.05) * 0.5)
