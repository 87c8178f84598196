"""What came from elsewhere: a recorder's file of the pier, a film of the ferry, a postcard. Each from a fixed seed."""

import numpy as np

from wedge_turn.demo.sounds import A, E, I, O, hertz
from wedge_turn.demo.synth import BELL, Wave, delayed, noise, normal, put, reed, room, seconds, shaped, struck, sung

POLY_NAMES = ("gangway", "bollard", "under pier", "rail", "bell buoy", "radio")


def pier_poly(rate: int) -> list[Wave]:
    """Six microphones on the pier, on one recorder: 14 s."""
    rng = np.random.default_rng(1883)
    length = 14
    t = seconds(length, rate)
    wash = noise(rng, length, rate, 70, 1_300) * (0.45 + 0.35 * np.sin(2 * np.pi * t / 4.7))
    tracks = [np.zeros(t.size) for _ in POLY_NAMES]
    for n in range(18):
        put(tracks[0], struck(140, 0.3, rate, [(1, 1, 0.07), (2.6, 0.4, 0.04)]), 0.5 + 0.72 * n, rate, 0.6)
    for at in np.cumsum(rng.uniform(0.6, 1.9, 9)):
        put(tracks[1], shaped(noise(rng, 0.5, rate, 180, 700), 0.05, 0.4, rate), at, rate, 0.7)
        put(tracks[2], struck(72, 0.9, rate, [(1, 1, 0.5), (1.6, 0.4, 0.3)]), at + 0.1, rate, 0.8)
    for at in np.cumsum(rng.uniform(0.3, 1.2, 14)):
        put(tracks[3], struck(rng.uniform(1_500, 2_300), 0.4, rate, [(1, 1, 0.2), (2.1, 0.5, 0.1)]), at, rate, 0.2)
    for at in (1.1, 4.4, 7.9, 11.2):
        put(tracks[4], struck(hertz(59), 2.6, rate, BELL), at, rate, 0.5)
    at = 2.0
    for vowel in (A, E, O, I, A, O, E):
        glide = 132 * np.linspace(1.1, 0.92, int(0.28 * rate))
        put(tracks[5], shaped(sung(glide, vowel, rate, rng), 0.03, 0.08, rate), at, rate)
        at += 0.31
    parts = [track + share * wash for track, share in zip(tracks, (0.3, 0.4, 0.8, 0.25, 0.15, 0.05), strict=True)]
    return normal(*parts, peak_dbfs=-7)


def ferry(rate: int) -> list[Wave]:
    """The ferry passes from left to right, as the camera's own microphones heard it: 12 s."""
    rng = np.random.default_rng(1884)
    t = seconds(12, rate)
    engine = sum(np.sin(2 * np.pi * 41 * n * t + n) / n for n in range(1, 10)) * (1 + 0.3 * np.sin(2 * np.pi * 6.8 * t))
    horn = np.zeros(t.size)
    for ratio in (1, 1.26, 1.5):
        put(horn, shaped(reed(156 * ratio, 1.7, rate), 0.15, 0.5, rate), 3.4, rate, 0.5)
    boat = 0.5 * engine + horn + 0.3 * noise(rng, 12, rate, 300, 2_500)
    near = np.exp(-(((t - 6) / 4.5) ** 2)) * 0.85 + 0.15
    place = np.clip((t - 3) / 6, 0, 1) * np.pi / 2
    sea = [0.04 * noise(rng, 12, rate, 90, 3_000) for _ in range(2)]
    left, right = boat * near * np.cos(place), boat * near * np.sin(place)
    late = int(0.0004 * rate)
    return normal(
        left + 0.06 * delayed(right, late) + sea[0], right + 0.06 * delayed(left, late) + sea[1], peak_dbfs=-5
    )


def postcard(rate: int) -> list[Wave]:
    """A tune on the harmonium, read over by a keeper in the middle: 12 s."""
    rng = np.random.default_rng(1885)
    tune, voice = np.zeros(12 * rate), np.zeros(12 * rate)
    for n, note in enumerate((62, 66, 69, 67, 66, 64, 62, 57)):
        put(tune, reed(hertz(note), 1.5, rate), 0.2 + 1.4 * n, rate, 0.35)
        put(tune, reed(hertz(note - 12), 1.5, rate), 0.2 + 1.4 * n, rate, 0.2)
    at = 1.0
    for n in range(26):
        glide = 121 * np.linspace(rng.uniform(1.0, 1.15), 0.93, int(0.24 * rate))
        put(voice, shaped(sung(glide, (A, O, E, I)[n % 4], rate, rng), 0.03, 0.06, rate), at, rate)
        at += 0.29 if n % 5 else 0.6
    left, right = room(tune, rng, rate, 1.2, 0.35)
    return normal(left + 0.8 * voice, right + 0.8 * voice, peak_dbfs=-4)
