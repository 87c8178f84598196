"""The sounds of the lighthouse, each from its own fixed seed."""

import numpy as np

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

A, E, I, O = (  # noqa: E741 - vowels
    [(750.0, 90.0), (1200.0, 110.0), (2600.0, 160.0)],
    [(480.0, 70.0), (1900.0, 120.0), (2550.0, 160.0)],
    [(310.0, 60.0), (2250.0, 130.0), (3000.0, 180.0)],
    [(460.0, 70.0), (850.0, 90.0), (2500.0, 160.0)],
)


def hertz(note: int) -> float:
    """Equal temperament, A4 = note 69 = 440 Hz."""
    return float(440 * 2 ** ((note - 69) / 12))


def lamp_bell(rate: int) -> list[Wave]:
    """The bell beside the lamp, heard by two microphones a hand's breadth apart: 20 s."""
    rng = np.random.default_rng(1871)
    near, far = np.zeros(20 * rate), np.zeros(20 * rate)
    tune = [(0.5, 74), (2.0, 71), (3.5, 67), (5.0, 69), (7.4, 62), (10.0, 69), (11.5, 71), (13.0, 74), (14.5, 67)]
    for at, note in tune:
        bell = struck(hertz(note), 5.5, rate, BELL) * rng.uniform(0.8, 1)
        put(near, bell, at, rate)
        put(far, bell, at + rng.uniform(2e-4, 6e-4), rate, level(-1.5))
    left, right = room(near, rng, rate, 2.4, 0.5), room(far, rng, rate, 2.4, 0.5)
    rattle = noise(rng, 20, rate, 2000, 6000) * 0.004
    return normal(left[0] + rattle, right[1] + rattle[::-1], peak_dbfs=-4)


def tower_stairs(rate: int) -> list[Wave]:
    """Steps up the iron stairs; the right microphone is 14 samples late and 1.8 dB lower: 18 s."""
    rng = np.random.default_rng(1872)
    steps = np.zeros(18 * rate)
    at, n = 0.4, 0
    while at < 16.5:
        iron = struck(
            190 + 14 * (n % 4), 0.9, rate, [(1, 0.6, 0.3), (2.76, 0.5, 0.5), (5.4, 0.4, 0.35), (8.9, 0.2, 0.2)]
        )
        thud = shaped(noise(rng, 0.12, rate, 60, 900), 0.002, 0.1, rate)
        put(steps, iron * 0.5, at, rate, rng.uniform(0.6, 1))
        put(steps, thud, at, rate, rng.uniform(1, 1.5))
        at, n = at + rng.uniform(0.52, 0.62) + (1.1 if n % 12 == 11 else 0), n + 1
    wet, _ = room(steps, rng, rate, 1.6, 0.45)
    (left,) = normal(wet, peak_dbfs=-5)
    return [left, delayed(left, 14) * level(-1.8)]


def gull_pass(rate: int) -> list[Wave]:
    """A gull flies from left to right over the sea: 16 s."""
    rng = np.random.default_rng(1873)
    gull = np.zeros(16 * rate)
    for call in range(3):
        for n in range(5 - call):
            t = seconds(0.42, rate)
            pitch = (900 + 60 * call) * (1 + 0.55 * np.sin(np.pi * np.minimum(1, t / 0.3)) ** 2) * 0.985**n
            put(gull, shaped(sung(pitch, A, rate, rng), 0.03, 0.15, rate), 1.2 + 4.7 * call + 0.5 * n, rate)
    where = np.clip((seconds(16, rate) - 0.5) / 15, 0, 1) * np.pi / 2
    sea = [
        noise(rng, 16, rate, 80, 2500) * (1 + 0.5 * np.sin(2 * np.pi * seconds(16, rate) / 6.5 + p)) for p in (0, 0.8)
    ]
    near, far = room(gull, rng, rate, 1.1, 0.2)
    gain = 0.05 * float(np.abs(gull).max())
    return normal(near * np.cos(where) + gain * sea[0], far * np.sin(where) + gain * sea[1], peak_dbfs=-3)


def evening_song(rate: int) -> list[Wave]:
    """The keepers' evening song: a lead, bass and drum in the centre, harmonium left, bells right: 32 s."""
    lead, rest = evening_song_parts(rate)
    return [a + b for a, b in zip(lead, rest, strict=True)]


def evening_song_parts(rate: int) -> tuple[list[Wave], list[Wave]]:
    """The lead in its room, and everything else, left and right, as they are in the song."""
    rng = np.random.default_rng(1874)
    length, beat = 32.0, 0.5
    lead, second, bass, drum, harmonium, bells = (np.zeros(int(length * rate)) for _ in range(6))
    chords = [(50, (62, 66, 69)), (55, (62, 67, 71)), (57, (61, 64, 69)), (50, (62, 66, 69))]
    notes = {note: reed(hertz(note - 12), 4 * beat, rate) for _, chord in chords for note in chord}
    for bar in range(16):
        root, chord = chords[(bar // 2) % 4]
        start = bar * 4 * beat
        for note in chord:
            put(harmonium, notes[note], start, rate, 0.25)
        for n in range(4):
            put(
                bass,
                struck(hertz(root - 12), 0.6, rate, [(1, 1, 0.7), (2, 0.4, 0.4), (3, 0.15, 0.2)]),
                start + n * beat,
                rate,
            )
            drop = (
                struck(60, 0.3, rate, [(1, 1, 0.25), (1.6, 0.3, 0.1)])
                if n % 2 == 0
                else noise(rng, 0.2, rate, 180, 4000)
            )
            put(drum, shaped(drop, 0.001, 0.15, rate), start + n * beat, rate, 0.9 if n % 2 == 0 else 0.35)
        for n, note in enumerate((*chord, chord[1])):
            put(bells, struck(hertz(note + 12), 1.6, rate, BELL[1:]), start + (n + 0.5) * beat, rate, 0.3)
    melody = [(62, 2), (66, 1), (69, 1), (71, 3), (69, 1), (67, 2), (71, 1), (74, 1), (73, 2), (69, 2),
              (64, 2), (67, 1), (66, 1), (64, 3), (62, 1), (66, 2), (62, 2)]  # fmt: skip
    at = 4 * beat
    for verse in range(2):
        for n, (note, beats) in enumerate(melody):
            pitch = np.full(int(beats * beat * rate), hertz(note - 12))
            for track, change in ((lead, 1.0), (second, 2 ** (4 / 12) if verse else 0)):
                if change:
                    sound = shaped(sung(pitch * change, (A, O, E, I, O)[n % 5], rate, rng), 0.05, 0.09, rate)
                    put(track, sound, at, rate)
            at += beats * beat
    for track, loud in ((lead, 0.5), (second, 0.16), (bass, 0.34), (drum, 0.4), (harmonium, 0.25), (bells, 0.2)):
        np.multiply(track, loud / float(np.abs(track).max()), out=track)
    voice = room(lead, rng, rate, 1.8, 0.25)
    rest = [bass + drum, bass + drum]
    for track, to_left, to_right, wet in ((harmonium, 1.0, 0.25, 0.3), (bells, 0.2, 1.0, 0.4)):
        a, b = room(track, rng, rate, 1.8, wet)
        rest = [rest[0] + to_left * a, rest[1] + to_right * b]
    wide = room(second, rng, rate, 1.8, 0.5)
    rest = [rest[0] + wide[0], rest[1] + delayed(wide[1], int(0.021 * rate))]
    loudest = max(float(np.abs(a + b).max()) for a, b in zip(voice, rest, strict=True))
    gain = level(-1.5) / loudest
    return [gain * wave for wave in voice], [gain * wave for wave in rest]
