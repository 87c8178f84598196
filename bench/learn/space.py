"""Where a sound stands and what a desk does to it: pans, rooms, widening, levels, equalisers, compression."""

import numpy as np
import scipy.signal
from numpy.random import Generator

from bench.learn import FRAMES, RATE
from bench.learn.instruments import Wave


def panned(wave: Wave, where: float) -> Wave:
    """(frames, 2) of a mono wave, −1 left … 1 right, by the law of equal power; the middle has the wave itself."""
    angle = (where + 1) * np.pi / 4
    return np.stack([wave * np.cos(angle), wave * np.sin(angle)], axis=1) * np.sqrt(2)


def either_way(rng: Generator) -> float:
    return float(rng.choice([-1, 1]))


def delayed(wave: Wave, seconds: float) -> Wave:
    """By any fraction of a sample."""
    size = len(wave) + 4_096
    turn = np.exp(-2j * np.pi * np.fft.rfftfreq(size, 1 / RATE) * seconds)
    return np.asarray(np.fft.irfft(np.fft.rfft(wave, size) * turn, size)[: len(wave)])


def room(rng: Generator, wave: Wave, seconds: float) -> Wave:
    """(frames, 2): the sound of a room alone, of a mono wave; noise that dies away, duller as it goes."""
    frames = int(1.1 * seconds * RATE)
    time = np.arange(frames) / RATE
    shared = float(rng.choice([0, 0, rng.uniform(0, 0.5)]))  # the same in both ears
    answer = np.sqrt(1 - shared) * rng.standard_normal((frames, 2))
    answer += np.sqrt(shared) * rng.standard_normal((frames, 1))
    answer *= (10 ** (-3 * time / seconds))[:, None]
    if rng.random() < 0.3:
        answer *= np.minimum(1, time / rng.uniform(0.01, 0.06))[:, None]
    dull = scipy.signal.sosfilt(
        scipy.signal.butter(1, rng.uniform(2_500, 9_000), fs=RATE, output="sos"), answer, axis=0
    )
    late = np.clip(time / (0.5 * seconds), 0, 1)[:, None]
    answer = (1 - late) * answer + late * dull
    high = scipy.signal.butter(1, rng.uniform(80, 400), "high", fs=RATE, output="sos")
    answer = scipy.signal.sosfilt(high, answer, axis=0)
    if rng.random() < 0.5:
        for _ in range(int(rng.integers(3, 9))):
            tap = int(rng.uniform(0.003, 0.07) * RATE) % frames
            answer[tap, int(rng.integers(2))] += either_way(rng) * rng.uniform(0.5, 3)
    answer /= np.sqrt(np.sum(answer**2, axis=0))
    before = np.zeros((int(rng.uniform(0, 0.06) * RATE), 2))
    return np.concatenate([before, scipy.signal.fftconvolve(wave[:, None], answer, axes=0)])[: len(wave)]


def loudness(wave: Wave) -> float:
    """The RMS of those tenths of a second that aren't silent."""
    power = np.sum(wave**2, axis=1) if wave.ndim == 2 else wave**2
    tenths = power[: len(power) // 4_410 * 4_410].reshape(-1, 4_410).mean(axis=1)
    return float(np.sqrt(np.mean(tenths[tenths >= 1e-3 * tenths.max()]) + 1e-20))


def at_level(wave: Wave, decibels: float) -> Wave:
    return np.asarray(wave * (10 ** (decibels / 20) / (loudness(wave) + 1e-9)))


def equalised(rng: Generator, wave: Wave, deep: float = 6.0) -> Wave:
    """A tilt and up to three bells, zero phase."""
    size = len(wave) + 8_192
    hertz = np.maximum(np.fft.rfftfreq(size, 1 / RATE), 20)
    gain = rng.uniform(-1.2, 1.2) * np.log2(hertz / 1_000)
    for _ in range(int(rng.integers(0, 4))):
        away = np.log2(hertz / (100 * 2 ** rng.uniform(0, 6.6))) / rng.uniform(0.3, 1.2)
        gain = gain + rng.uniform(-deep, deep) * np.exp(-(away**2))
    factor = 10 ** (np.clip(gain, -15, 12) / 20)
    factor = factor[:, None] if wave.ndim == 2 else factor
    return np.asarray(np.fft.irfft(np.fft.rfft(wave, size, axis=0) * factor, size, axis=0)[: len(wave)])


def compressed(rng: Generator, wave: Wave) -> Wave:
    peak = np.abs(wave).max(axis=1) if wave.ndim == 2 else np.abs(wave)
    slow = scipy.signal.butter(1, rng.uniform(5, 30), fs=RATE, output="sos")
    level = np.sqrt(scipy.signal.sosfiltfilt(slow, peak**2).clip(1e-12))
    over = np.maximum(level / (loudness(wave) * rng.uniform(0.5, 1.2) + 1e-9), 1)
    gain = over ** (1 / rng.uniform(2, 8) - 1)
    return np.asarray(wave * (gain[:, None] if wave.ndim == 2 else gain))


def widened(rng: Generator, wave: Wave) -> Wave:
    """(frames, 2): copies that sway in time, other ones in each channel, as of a chorus or of double tracks."""
    time, out, copies = np.arange(len(wave)), np.zeros((len(wave), 2)), int(rng.integers(1, 4))
    for channel in (0, 1):
        for _ in range(copies):
            sway = rng.uniform(0.5, 3) * np.sin(2 * np.pi * rng.uniform(0.15, 0.9) * time / RATE + rng.uniform(0, 6))
            out[:, channel] += np.interp(time - (rng.uniform(4, 20) + sway) * 1e-3 * RATE, time, wave)
    if rng.random() < 0.4:
        out += panned(wave, float(rng.uniform(-0.5, 0.5))) * copies * rng.uniform(0.3, 1)
    return out


def placed(rng: Generator, stereo: Wave, again: Wave | None = None) -> Wave:
    """(frames, 2) off the middle: panned, as the font has it, widened, by a spaced pair, or with `again` opposite."""
    mono, kind = stereo.mean(axis=1), rng.random()
    away = rng.choice([rng.uniform(0.12, 0.35), rng.uniform(0.35, 0.75), rng.uniform(0.7, 1)], p=[0.3, 0.4, 0.3])
    where = either_way(rng) * float(away)
    if kind < 0.5:
        return panned(mono, where)
    if kind < 0.66:
        return stereo if rng.random() < 0.5 else stereo[:, ::-1]
    if kind < 0.82:
        return widened(rng, mono)
    if kind < 0.9 or again is None:
        pair, late = panned(mono, 0.6 * where), rng.uniform(0.2, 1.1) * 1e-3
        channel = 0 if where > 0 else 1
        pair[:, channel] = delayed(pair[:, channel], late)
        return pair
    width = rng.uniform(0.7, 1)
    return panned(mono, -width) + panned(again.mean(axis=1), width)


def echoes(rng: Generator, stereo: Wave, beat: float) -> Wave:
    """(frames, 2): three repeats in the middle, or to and fro."""
    step, gain = int(beat * rng.choice([0.25, 0.5, 0.75, 1]) * RATE), rng.uniform(0.1, 0.35)
    out, to_and_fro = np.zeros_like(stereo), rng.random() < 0.5
    for n in range(1, 4):
        if n * step < len(stereo):
            where = (0.8 if n % 2 else -0.8) if to_and_fro else 0.0
            out[n * step :] += panned(gain**n * stereo[: len(stereo) - n * step].mean(axis=1), where)
    return out


def silence() -> Wave:
    return np.zeros((FRAMES, 2))
