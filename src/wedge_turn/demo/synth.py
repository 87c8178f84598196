"""Small instruments to make the demo from: all arrays are float64, one-dimensional, at a given rate."""

import numpy as np
import scipy
from numpy.random import Generator
from numpy.typing import NDArray

Wave = NDArray[np.float64]


def seconds(length: float, rate: int) -> Wave:
    """A time axis."""
    return np.arange(int(length * rate)) / rate


def noise(rng: Generator, length: float, rate: int, low: float, high: float) -> Wave:
    """Noise between two frequencies in Hz."""
    band = scipy.signal.butter(2, [low, min(high, 0.45 * rate)], "bandpass", fs=rate, output="sos")
    wave: Wave = scipy.signal.sosfilt(band, rng.standard_normal(int(length * rate)))
    return wave


def struck(pitch: float, length: float, rate: int, partials: list[tuple[float, float, float]]) -> Wave:
    """Something struck: partials as (ratio to the pitch, amplitude, seconds to fade by 60 dB)."""
    t = seconds(length, rate)
    ringing = sum(a * np.sin(2 * np.pi * pitch * ratio * t) * np.exp(-6.9 * t / fade) for ratio, a, fade in partials)
    attack = np.minimum(1, t / 0.002)
    return np.asarray(ringing * attack)


BELL = [
    (0.5, 0.5, 5.0),
    (1, 1, 3.5),
    (1.19, 0.6, 2.6),
    (1.5, 0.35, 2.2),
    (2, 0.7, 1.8),
    (2.66, 0.3, 1.0),
    (3.01, 0.25, 0.8),
]


def reed(pitch: float, length: float, rate: int) -> Wave:
    """A reed organ's note, with the slow beating of its two reeds."""
    t = seconds(length, rate)
    wave = np.zeros_like(t)
    for detune in (-0.6, 0.7):
        for n in range(1, 9):
            wave += np.sin(2 * np.pi * (pitch + detune) * n * t + n) / n**1.3
    return shaped(wave * (1 + 0.08 * np.sin(2 * np.pi * 4.1 * t)), 0.12, 0.3, rate)


def sung(pitches: Wave, vowel: list[tuple[float, float]], rate: int, rng: Generator) -> Wave:
    """A voice-like sound: a pulse at a gliding pitch (Hz at each sample) through formants (frequency, bandwidth)."""
    t = np.arange(pitches.size) / rate
    vibrato = 1 + 0.006 * np.sin(2 * np.pi * 5.3 * t) * np.minimum(1, t / 0.4)
    phase = np.cumsum(pitches * vibrato) / rate
    source = sum(np.sin(2 * np.pi * n * phase) / n for n in range(1, 25))
    source = source + 0.05 * rng.standard_normal(pitches.size)
    wave = np.zeros_like(t)
    for centre, width in vowel:
        band = scipy.signal.butter(1, [centre - width, centre + width], "bandpass", fs=rate, output="sos")
        wave += scipy.signal.sosfilt(band, source)
    return wave


def shaped(wave: Wave, attack: float, release: float, rate: int) -> Wave:
    """Fade a note in and out, in seconds."""
    t = np.arange(wave.size) / rate
    return np.asarray(wave * np.minimum(1, t / attack) * np.minimum(1, (t[-1] - t) / release if wave.size > 1 else 1))


def room(wave: Wave, rng: Generator, rate: int, fade: float, wet: float) -> tuple[Wave, Wave]:
    """A wave in a room, as two microphones apart hear it: what they share is the direct sound, not the reverb."""
    ears = []
    for _ in range(2):
        t = seconds(fade, rate)
        tail = rng.standard_normal(t.size) * np.exp(-6.9 * t / fade)
        tail[: int(0.008 * rate)] = 0
        tail = scipy.signal.sosfilt(scipy.signal.butter(1, 4500, "lowpass", fs=rate, output="sos"), tail)
        tail /= np.sqrt(np.sum(tail**2))
        ears.append(wave + wet * scipy.signal.fftconvolve(wave, tail)[: wave.size])
    return ears[0], ears[1]


def put(track: Wave, wave: Wave, at: float, rate: int, gain: float = 1.0) -> None:
    """Add a wave into a track at a time in seconds; what goes past the end is cut."""
    start = int(at * rate)
    stop = min(track.size, start + wave.size)
    track[start:stop] += gain * wave[: stop - start]


def delayed(wave: Wave, samples: int) -> Wave:
    """The wave so many samples later, at the same length."""
    return np.concatenate([np.zeros(samples), wave[: wave.size - samples]])


def level(decibels: float) -> float:
    return float(10 ** (decibels / 20))


def normal(*waves: Wave, peak_dbfs: float) -> list[Wave]:
    """Waves scaled together so that the highest peak among them stands at a level."""
    highest = max(float(np.abs(wave).max()) for wave in waves)
    return [wave * (level(peak_dbfs) / highest) for wave in waves]
