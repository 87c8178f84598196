"""Voices: recorded syllables and spoken words re-sung by a vocoder, recorded speech as it is, and formant synthesis.

The vocoder is WORLD (Morise, Yokomori and Ozawa, IEICE Trans. 2016) in the package pyworld.
"""

import subprocess
import tempfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Final

import numpy as np
import scipy.signal
from numpy.random import Generator
from numpy.typing import NDArray

from bench.learn import FRAMES, RATE, SECONDS, packages
from bench.learn.instruments import Note, Wave, recording

_STEP: Final = 0.005  # seconds from one analysis of WORLD to the next
_BINS: Final = 1_025
_TAIL: Final = 3 * RATE
_TEXT: Final = (
    "over the hills and far away shine on me tonight never let the river run what do you know about love sixteen "
    "stones beside the fire take it back to the old town follow you home dancing in a summer rain every breath a "
    "question hold on my friend we were young and bright as day chasing shadows through the street open up your window"
)
# Formants of five vowels: centre and half width in Hz, common practice (Peterson and Barney, JASA 1952, from memory).
_VOWELS: Final = (
    ((750, 90), (1200, 110), (2600, 160)),
    ((480, 70), (1900, 120), (2550, 160)),
    ((310, 60), (2250, 130), (3000, 180)),
    ((460, 70), (850, 90), (2500, 160)),
    ((320, 60), (700, 80), (2400, 150)),
)


@dataclass(frozen=True)
class Syllable:
    """WORLD's analysis of a syllable, every 5 ms: pitch, log envelope, aperiodicity, and what part is voiced."""

    pitch: NDArray[np.float64]
    envelope: NDArray[np.float64]
    noise: NDArray[np.float64]
    first: int
    last: int


@dataclass(frozen=True)
class Style:
    """How a voice sings or speaks: size of the throat, breath, vibrato (cents, Hz), wander (cents), glide (s), and how
    many of its syllables of formants have a consonant.
    """

    throat: float
    breath: float
    vibrato: float
    rate: float
    wander: float
    glide: float
    consonants: float
    spoken: bool
    whispered: bool


Voice = Callable[..., tuple[Wave, str]]


def style(rng: Generator, *, may_speak: bool = True) -> Style:
    return Style(
        throat=float(rng.choice([1, rng.uniform(0.84, 1.2)])),
        breath=float(rng.choice([0, 0, 0.05, 0.15])),
        vibrato=float(rng.choice([rng.uniform(0, 15), rng.uniform(0, 60)])),
        rate=float(rng.uniform(4.6, 6.4)),
        wander=float(rng.uniform(4, 22)),
        glide=float(rng.choice([0.01, rng.uniform(0.03, 0.15)])),
        consonants=float(rng.choice([0, 0, 0.5])),
        spoken=bool(rng.random() < 0.2) and may_speak,
        whispered=bool(rng.random() < 0.04),
    )


def voice(
    rng: Generator, sounds: packages.Sounds, notes: Sequence[Note], how: Style | None = None, *, anything: bool = True
) -> tuple[Wave, str]:
    """(FRAMES,) and what it is: a sung voice, or of `anything` speech and formants too."""
    how = how or style(rng)
    kind = rng.random() if anything else 1.0
    if kind < 0.12:
        return formants(rng, notes, how), "formants"
    if kind < 0.4 and sounds.speech:
        return speech(rng, sounds), "speech"
    banks = [*sounds.syllables, *(f"espeak:{name}" for name in sounds.espeak)]
    bank = banks[int(rng.integers(len(banks)))]
    return sung(rng, syllables(bank), notes, how), bank


def formant_voice(
    rng: Generator,
    sounds: packages.Sounds,  # noqa: ARG001  # called like `voice`
    notes: Sequence[Note],
    how: Style | None = None,
    *,
    anything: bool = True,  # noqa: ARG001
) -> tuple[Wave, str]:
    """(FRAMES,) and what it is: a voice of formants."""
    return formants(rng, notes, how or style(rng)), "formants"


def hertz(key: float) -> float:
    return float(440 * 2 ** ((key - 69) / 12))


@cache
def _speech(sounds: packages.Sounds) -> list[Path]:
    """Recorded words, so that each folder (a speaker, mostly) has the same chance: at most 40 of each."""
    by_folder: dict[Path, list[Path]] = {}
    for path in packages.files(sounds.speech):
        by_folder.setdefault(path.parent, []).append(path)
    return [path for paths in by_folder.values() for path in paths[:40]]


def speech(rng: Generator, sounds: packages.Sounds) -> Wave:
    """(FRAMES,): recorded words of one folder with pauses between them, as they are or a little higher or lower."""
    paths = _speech(sounds)
    first = paths[int(rng.integers(len(paths)))]
    same = [path for path in paths if path.parent == first.parent]
    speed = float(rng.choice([1, 1, rng.uniform(0.88, 1.14)]))
    out, at = np.zeros(FRAMES), float(rng.uniform(0, 1))
    while at < SECONDS - 0.3:
        words = recording(same[int(rng.integers(len(same)))], 6).mean(axis=1)
        if speed != 1:
            words = np.interp(np.arange(0, len(words) - 1, speed), np.arange(len(words)), words)
        start = int(at * RATE)
        length = min(len(words), FRAMES - start)
        out[start : start + length] += words[:length] / (np.sqrt(np.mean(words**2)) + 1e-6) * 0.1
        at += len(words) / RATE + float(rng.uniform(0.05, 0.9))
    return out


@cache
def syllables(bank: str) -> list[Syllable]:
    """Those of a language of klettres-data, or words by a voice of espeak-ng; the same ones every time."""
    rng = np.random.default_rng(len(bank))
    if bank.startswith("espeak:"):
        words = sorted(set(_TEXT.split()))[:40]
        waves = [_espeak(bank[7:], word, int(rng.integers(20, 80)), int(rng.integers(110, 180))) for word in words]
    else:
        paths = packages.files((f"klettres/{bank}/syllab/*.ogg",)) or packages.files((f"klettres/{bank}/alpha/*.ogg",))
        waves = [recording(paths[int(n)], 3).mean(axis=1) for n in rng.permutation(len(paths))[:26]]
    analysed = [analysis for analysis in map(_analysed, waves) if analysis is not None]
    if not analysed:
        raise FileNotFoundError(f"no syllables in {bank}")
    return analysed


def _espeak(name: str, words: str, pitch: int, speed: int) -> Wave:
    with tempfile.NamedTemporaryFile(suffix=".wav") as file:
        said = ["espeak-ng", "-v", name, "-p", str(pitch), "-s", str(speed), "-w", file.name, words]
        subprocess.run(said, check=True)
        return recording(Path(file.name), 5).mean(axis=1)


def _analysed(wave: Wave) -> Syllable | None:
    import pyworld  # `make learn` alone installs it

    wave = scipy.signal.sosfilt(scipy.signal.butter(2, 60, "high", fs=RATE, output="sos"), wave)
    level = np.sqrt(scipy.signal.fftconvolve(wave**2, np.ones(882) / 882, "same").clip(0))
    loud = np.flatnonzero(level > 0.05 * level.max())
    wave = np.ascontiguousarray(wave[max(loud[0] - 882, 0) : loud[-1] + 1_323][: 2 * RATE])
    rough, times = pyworld.dio(wave, RATE, f0_floor=65, f0_ceil=500)
    pitch = pyworld.stonemask(wave, rough, times, RATE)
    voiced = np.flatnonzero(pitch > 0)
    if len(voiced) < 24:
        return None
    envelope = pyworld.cheaptrick(wave, pitch, times, RATE, fft_size=2 * (_BINS - 1))
    noise = pyworld.d4c(wave, pitch, times, RATE, fft_size=2 * (_BINS - 1))
    if not (np.isfinite(envelope).all() and np.isfinite(noise).all()):
        return None
    return Syllable(pitch, np.log(envelope + 1e-16), noise, int(voiced[0]), int(voiced[-1]))


def sung(rng: Generator, bank: Sequence[Syllable], notes: Sequence[Note], how: Style) -> Wave:
    """(FRAMES,): one syllable a note, its vowel drawn out, at the note's pitch or with the intonation of speech."""
    out, before = np.zeros(FRAMES + _TAIL), 0.0
    for note in notes:
        syllable = bank[int(rng.integers(len(bank)))]
        length = max(int(note.length / _STEP), 12)
        begin = syllable.first + int(0.35 * (syllable.last - syllable.first))
        end = syllable.first + int(0.65 * (syllable.last - syllable.first))
        skipped = max(0, begin - length // 2 - 4)
        tail = min(len(syllable.pitch) - end, max(length // 3, 6))
        drawn = np.linspace(begin, end, max(length - begin - tail, 4))
        place = np.concatenate([np.arange(skipped, begin), drawn, np.linspace(end, end + tail - 1, tail)])
        target = hertz(note.key)
        pitch = _intonation(rng, len(place), target, before or 0.97 * target, begin * _STEP / 2, how)
        wave = _resung(syllable, place, pitch, how)
        fade = min(int(0.04 * RATE), len(wave) // 3)
        wave[-fade:] *= np.linspace(1, 0, fade)
        wave[:200] *= np.linspace(0, 1, 200)
        wave *= note.velocity / 1_000 / (np.sqrt(np.mean(wave**2)) + 1e-9)
        start = max(0, int((note.start - 0.6 * (begin - skipped) * _STEP) * RATE))
        fits = min(len(wave), len(out) - start)
        out[start : start + fits] += wave[:fits]
        before = target
    return out[:FRAMES]


def _resung(syllable: Syllable, place: Wave, pitch: Wave, how: Style) -> Wave:
    import pyworld

    last = len(syllable.pitch) - 1
    lower = np.floor(place).astype(int).clip(0, last)
    upper, share = (lower + 1).clip(0, last), (place - np.floor(place))[:, None]
    envelope = (1 - share) * syllable.envelope[lower] + share * syllable.envelope[upper]
    noise = (1 - share) * syllable.noise[lower] + share * syllable.noise[upper]
    if how.throat != 1:
        source = np.clip(np.arange(_BINS) / how.throat, 0, _BINS - 1)
        bin_below = source.astype(int).clip(0, _BINS - 2)
        weight = source - bin_below
        envelope = envelope[:, bin_below] * (1 - weight) + envelope[:, bin_below + 1] * weight
    voiced = np.where((syllable.pitch[lower] > 0) & (not how.whispered), pitch, 0.0)
    noise = np.clip(noise + how.breath, 0.001, 1)
    wave = pyworld.synthesize(voiced, np.ascontiguousarray(np.exp(envelope)), np.ascontiguousarray(noise), RATE)
    return np.asarray(wave)


def _intonation(rng: Generator, steps: int, target: float, before: float, late: float, how: Style) -> Wave:
    """The pitch of a note at each step: a glide from the note before it, vibrato and wander; or that of speech."""
    time = np.arange(steps) * _STEP
    if how.spoken:
        bend = np.cumsum(rng.standard_normal(steps)) / np.sqrt(steps) * 300
        bend += rng.uniform(-400, 300) * np.linspace(0, 1, steps)
        return np.asarray(target * 2 ** (bend / 1_200))
    glide = np.clip((time - late) / how.glide, 0, 1)
    glide = glide * glide * (3 - 2 * glide)
    rate = how.rate + rng.uniform(-0.4, 0.4)
    cents = how.vibrato * np.sin(2 * np.pi * rate * time + rng.uniform(0, 6)) * np.clip((time - 0.2) / 0.3, 0, 1)
    cents = cents + scipy.signal.lfilter([0.1], [1, -0.9], rng.standard_normal(steps)) * how.wander
    return np.asarray(np.exp((1 - glide) * np.log(before) + glide * np.log(target)) * 2 ** (cents / 1_200))


def formants(rng: Generator, notes: Sequence[Note], how: Style) -> Wave:
    """(FRAMES,): harmonics and hiss through the formants of a vowel a note, now and then a consonant before it."""
    out, before = np.zeros(FRAMES + _TAIL), 0.0
    for note in notes:
        frames = max(int(note.length * RATE), 1_500)
        time, target = np.arange(frames) / RATE, hertz(note.key)
        glide = np.clip(time / how.glide, 0, 1)
        cents = how.vibrato * np.sin(2 * np.pi * how.rate * time) * np.clip(time / 0.4, 0, 1)
        pitch = (before or target) ** (1 - glide) * target**glide * 2 ** (cents / 1_200)
        if how.spoken:
            walk = np.cumsum(rng.standard_normal(frames)) / np.sqrt(frames) * 0.3
            pitch = pitch * 2 ** (walk + rng.uniform(-0.4, 0.3) * np.linspace(0, 1, frames))
        phase, slope = 2 * np.pi * np.cumsum(pitch) / RATE, rng.uniform(0.8, 1.3)
        source = 10 ** rng.uniform(-2.5, -0.7) * rng.standard_normal(frames)
        for harmonic in range(1, int(min(40, 9_000 / target)) + 1):
            source += np.sin(harmonic * phase) / harmonic**slope
        wave = 0.02 * source
        for centre, half in _vowel(rng):
            band = [centre * how.throat - half, centre * how.throat + half]
            wave = wave + scipy.signal.sosfilt(scipy.signal.butter(1, band, "bandpass", fs=RATE, output="sos"), source)
        wave *= np.minimum(1, time / rng.uniform(0.01, 0.08)) * np.minimum(1, (time[-1] - time) / 0.08)
        start = max(0, int(note.start * RATE))
        fits = min(frames, len(out) - start)
        out[start : start + fits] += wave[:fits] * note.velocity / 1_000 / (np.sqrt(np.mean(wave**2)) + 1e-9)
        if rng.random() < how.consonants:
            hiss = _consonant(rng)
            start = max(0, start - int(0.7 * len(hiss)))
            out[start : start + len(hiss)] += hiss
        before = target
    return out[:FRAMES]


def _vowel(rng: Generator) -> list[tuple[float, float]]:
    """Formants as (centre, half width) in Hz: those of a vowel, or between two, with or without those above."""
    first, second = (_VOWELS[int(rng.integers(len(_VOWELS)))] for _ in range(2))
    share, width = float(rng.choice([0, rng.random()])), float(rng.uniform(0.6, 1.4))
    between = [
        (centre ** (1 - share) * other**share, width * half)
        for (centre, half), (other, _) in zip(first, second, strict=True)
    ]
    return [*between, (3_500, 250)][: int(rng.choice([2, 3, 4, 4]))]


def _consonant(rng: Generator) -> Wave:
    frames = int(rng.uniform(0.04, 0.13) * RATE)
    band = scipy.signal.butter(2, [rng.uniform(1_500, 4_500), 11_000], "bandpass", fs=RATE, output="sos")
    hiss = scipy.signal.sosfilt(band, rng.standard_normal(frames)) * np.hanning(frames)
    return np.asarray(hiss * rng.uniform(0.006, 0.036) / (hiss.std() + 1e-9))
