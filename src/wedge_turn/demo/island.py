"""More sounds of the island: what stands around the lighthouse, each from its own fixed seed."""

import numpy as np
from numpy.random import Generator

from wedge_turn.demo.sounds import A, E, I, O, hertz
from wedge_turn.demo.synth import (
    BELL,
    Wave,
    delayed,
    level,
    noise,
    normal,
    put,
    reed,
    room,
    seconds,
    shaped,
    struck,
    sung,
)  # fmt: skip


def _look_from_the_middle(parts: list[tuple[Wave, float]], rng: Generator, rate: int, fade: float) -> tuple[Wave, Wave]:
    """Mid (a cardioid to the front) and side (a figure-eight, positive lobe left) of waves at angles in degrees.

    The room comes from everywhere, and is heard by each microphone in its own way.
    """
    mid, side = np.zeros(parts[0][0].size), np.zeros(parts[0][0].size)
    for wave, angle in parts:
        turned = np.deg2rad(angle)
        mid += (0.5 + 0.5 * np.cos(turned)) * wave
        side += np.sin(turned) * wave
    everything = np.sum([wave for wave, _ in parts], axis=0)
    wet = room(everything, rng, rate, fade, 0.35)
    return mid + 0.6 * (wet[0] - everything), side + 0.45 * (wet[1] - everything)


def harmonium(rate: int) -> list[Wave]:
    """A harmonium in the keepers' room, by a microphone to the front and one sideways: 24 s, mid and side."""
    rng = np.random.default_rng(1875)
    chords = [
        (50, 57, 62, 66),
        (55, 59, 62, 67),
        (52, 59, 64, 67),
        (45, 57, 61, 64),
        (50, 57, 62, 69),
        (50, 54, 62, 66),
    ]
    low, middle, high = (np.zeros(24 * rate) for _ in range(3))
    for n, chord in enumerate(chords):
        for note, track in zip(chord, (low, middle, middle, high), strict=True):
            put(track, reed(hertz(note), 3.9, rate), 0.3 + 3.8 * n, rate, 0.3)
    bellows = shaped(noise(rng, 24, rate, 150, 900), 0.5, 1.0, rate) * (1 + np.sin(2 * np.pi * seconds(24, rate) / 3.8))
    parts = [(low, 18.0), (middle, -8.0), (high, -38.0), (0.004 * bellows, 60.0)]
    return normal(*_look_from_the_middle(parts, rng, rate, 1.3), peak_dbfs=-6)


def harbour_swell(rate: int) -> list[Wave]:
    """Swell against the quay, a chain, a far bell: 20 s, mid and side on one file."""
    rng = np.random.default_rng(1876)
    t = seconds(20, rate)
    swell = noise(rng, 20, rate, 60, 1200) * (0.35 + np.sin(np.pi * t / 5.2) ** 4)
    hiss = noise(rng, 20, rate, 1500, 9000) * (0.05 + 0.25 * np.sin(np.pi * (t - 0.6) / 5.2) ** 8)
    chain, bell = np.zeros(t.size), np.zeros(t.size)
    for at in np.cumsum(rng.uniform(0.15, 1.1, 26)):
        link = struck(rng.uniform(1900, 3400), 0.5, rate, [(1, 1, 0.25), (1.51, 0.7, 0.2), (2.3, 0.4, 0.15)])
        put(chain, link, at, rate, rng.uniform(0.02, 0.09))
    for at in (2.2, 7.4, 12.6, 17.8):
        put(bell, struck(hertz(64), 2.2, rate, BELL), at, rate, 0.16)
    parts = [(0.35 * swell, 12.0), (hiss, -14.0), (chain, -55.0), (bell, 35.0)]
    mid, side = _look_from_the_middle(parts, rng, rate, 1.1)
    return normal(mid, 0.5 * side, peak_dbfs=-5)


def boat_and_tower(rate: int) -> list[Wave]:
    """Two radio operators, one on each channel, each with the other's spill; the tower is 7 dB louder: 22 s."""
    rng = np.random.default_rng(1877)
    tracks = [np.zeros(22 * rate), np.zeros(22 * rate)]
    at, side = 0.5, 0
    while at < 19.5:
        pitch = (118.0, 205.0)[side]
        start = at
        for _ in range(int(rng.integers(4, 8))):
            for vowel in rng.permutation(4)[: int(rng.integers(1, 3))]:
                length = rng.uniform(0.11, 0.24)
                glide = pitch * np.linspace(rng.uniform(0.95, 1.15), rng.uniform(0.85, 1.0), int(length * rate))
                put(tracks[side], shaped(sung(glide, (A, E, I, O)[vowel], rate, rng), 0.02, 0.05, rate), at, rate)
                at += length * 0.9
            breath = noise(rng, 0.09, rate, 2200, 3400)
            put(tracks[side], shaped(breath, 0.01, 0.03, rate), at, rate, 0.3)
            at += rng.uniform(0.08, 0.2)
        click = shaped(noise(rng, 0.25, rate, 400, 3300), 0.002, 0.2, rate)
        put(tracks[side], click, at, rate, 0.5)
        open_ = noise(rng, at - start + 0.2, rate, 300, 3400)
        put(tracks[side], open_, start, rate, 0.05)
        at, side = at + 0.55, 1 - side
    loud = [float(np.sqrt(np.mean(track**2))) for track in tracks]
    far, near = tracks[0] / loud[0], tracks[1] / loud[1]
    spill, late = level(-24.0), int(0.004 * rate)
    hiss = [noise(rng, 22, rate, 60, 12_000) * level(-52.0) for _ in tracks]
    boat = near * level(7.0) + delayed(far, late) * spill + hiss[0]
    tower = far + delayed(near * level(7.0), late) * spill + hiss[1]
    return normal(boat, tower, peak_dbfs=-4)


def foghorn(rate: int) -> list[Wave]:
    """The foghorn, recorded with one cable wired the wrong way: the right channel is inverted: 18 s."""
    rng = np.random.default_rng(1878)
    horn = np.zeros(18 * rate)
    for at in (0.8, 6.8, 12.8):
        for ratio, loud in ((1, 1.0), (1.5, 0.35), (2.01, 0.3)):
            put(horn, shaped(reed(87 * ratio, 2.6, rate), 0.25, 0.7, rate), at, rate, loud)
        put(horn, shaped(reed(65, 0.9, rate), 0.1, 0.6, rate), at + 2.5, rate, 0.8)
    left, right = room(horn, rng, rate, 2.8, 0.3)
    return normal(left, -right, peak_dbfs=-3)


def landing_stage(rate: int) -> list[Wave]:
    """Steps and waves at the landing stage; at 9.5 s a cable is swapped, and the right channel is inverted: 16 s."""
    rng = np.random.default_rng(1882)
    waves = noise(rng, 16, rate, 80, 1_500) * (0.4 + 0.3 * np.sin(2 * np.pi * seconds(16, rate) / 5.3))
    steps = 0.15 * waves
    for n in range(26):
        put(steps, struck(160, 0.2, rate, [(1, 1, 0.05), (2.3, 0.5, 0.03)]), 0.4 + 0.58 * n, rate, 0.5)
    left, right = room(steps, rng, rate, 0.5, 0.15)
    swapped = int(9.5 * rate)
    right[swapped:] = -right[swapped:]
    return normal(left, right, peak_dbfs=-5)


def winch(rate: int) -> list[Wave]:
    """The winch of the supply boat, one microphone on both channels of a stereo file: 15 s."""
    rng = np.random.default_rng(1879)
    t = seconds(15, rate)
    speed = np.interp(t, [0, 1.5, 9, 11.5, 15], [0.1, 1, 1.1, 0.5, 0.05])
    turns = np.cumsum(speed) / rate
    hum = sum(np.sin(2 * np.pi * 46 * n * turns) / n for n in (1, 2, 3, 5, 8)) * np.minimum(1, 3 * speed)
    pawl = np.zeros(t.size)
    for click in np.flatnonzero(np.diff(np.floor(7 * turns)) > 0) / rate:
        put(pawl, struck(rng.uniform(900, 1100), 0.15, rate, [(1, 1, 0.06), (2.4, 0.6, 0.05)]), click, rate, 0.8)
    wet, _ = room(0.25 * hum + pawl + 0.02 * noise(rng, 15, rate, 100, 5000), rng, rate, 0.7, 0.25)
    (mono,) = normal(wet, peak_dbfs=-5)
    return [mono, mono]


def wind_gauge(rate: int) -> list[Wave]:
    """The cups of the wind gauge on the gallery; the right channel was never plugged in: 16 s."""
    rng = np.random.default_rng(1880)
    t = seconds(16, rate)
    gust = 0.55 + 0.3 * np.sin(2 * np.pi * t / 7.3) + 0.15 * np.sin(2 * np.pi * t / 2.9 + 1)
    wind = noise(rng, 16, rate, 70, 500) * gust + 0.4 * noise(rng, 16, rate, 500, 2600) * gust**3
    cups = np.cumsum(4.5 * gust) / rate
    squeak = np.zeros(t.size)
    for at in np.flatnonzero(np.diff(np.floor(cups)) > 0) / rate:
        put(squeak, struck(1310, 0.12, rate, [(1, 1, 0.09), (1.37, 0.5, 0.06)]), at, rate, 0.35)
    (left,) = normal(0.5 * wind + squeak, peak_dbfs=-6)
    return [left, np.zeros(left.size)]


def clock(rate: int) -> list[Wave]:
    """The clock in the watch room, by a microphone in front and one behind, which hears it inverted: 17 s."""
    rng = np.random.default_rng(1881)
    works = np.zeros(17 * rate)
    for n in range(32):
        tick = struck((2350, 1980)[n % 2], 0.12, rate, [(1, 1, 0.04), (1.73, 0.7, 0.03), (0.31, 0.8, 0.07)])
        put(works, tick, 0.4 + 0.5 * n, rate, rng.uniform(0.7, 0.9))
    for at in (8.1, 10.1, 12.1):
        put(works, struck(hertz(76), 3.5, rate, BELL), at, rate, 0.6)
    front, behind = room(works, rng, rate, 0.9, 0.2)
    dull = np.convolve(behind, np.ones(9) / 9)[: behind.size]
    return normal(front, -0.7 * dull, peak_dbfs=-4)


def beacon(rate: int) -> list[Wave]:
    """The lamp turns over four microphones at the corners of the gallery, the front ones first: 20 s."""
    rng = np.random.default_rng(1882)
    t = seconds(20, rate)
    round_ = 2 * np.pi * t / 5.0
    drive = sum(np.sin(2 * np.pi * 58 * n * t + n) / n for n in range(1, 9)) * (1 + 0.2 * np.sin(29 * round_))
    lens = noise(rng, 20, rate, 700, 2400)
    corners = []
    for corner in (-45, 45, -135, 135):
        near = np.maximum(0, np.cos(round_ - np.deg2rad(corner))) ** 2
        wet, _ = room(0.12 * drive + near * (0.5 * lens + 0.5 * drive), rng, rate, 1.6, 0.3)
        corners.append(wet + 0.02 * noise(rng, 20, rate, 60, 3000))
    return normal(*corners, peak_dbfs=-5)
