"""Eight seconds of music as stems, three ways: arranged for sound fonts, played by oscillators, or a record with a
voice in its middle.
"""

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Final

import numpy as np
import scipy.signal
import soundfile
from numpy.random import Generator

from bench.learn import FRAMES, RATE, SECONDS, packages
from bench.learn.arranging import Score, bass_figure, figure
from bench.learn.instruments import Note, Wave, font, hits, recording
from bench.learn.space import (
    at_level,
    compressed,
    echoes,
    either_way,
    equalised,
    loudness,
    panned,
    placed,
    room,
    silence,
    widened,
)  # fmt: skip
from bench.learn.voices import Voice, formant_voice, hertz, style, voice

Stems = dict[str, Wave]  # by name, (FRAMES, 2) each
LEAD: Final = "lead"
_BASSES: Final = (32, 33, 33, 34, 35, 36, 37, 38, 39, 43, 58, 87)
_KITS: Final = (0, 0, 0, 8, 16, 24, 25, 32, 40)
_LOUD_GUITARS: Final = (29, 30)
_SOLOISTS: Final = (
    29, 30, 30, 27, 26, 56, 57, 59, 60, 61, 64, 65, 66, 68, 71, 73, 75, 40, 42, 22, 80, 81, 11, 0, 4, 16,
)  # fmt: skip
_PROGRAMS: Final = (
    *range(8), *range(8, 15), *range(16, 24), *range(24, 32), *range(24, 32), *range(40, 47), *range(48, 52), 48, 48,
    0, 0, 4, *range(52, 55), *range(56, 80), 80, 81, 85, *range(88, 96), 104, 105, 107, 110,
)  # fmt: skip
_EIGHTHS: Final = tuple(n / 2 for n in range(8))
_SIXTEENTHS: Final = tuple(n / 4 for n in range(16))


@dataclass(frozen=True)
class Song:
    stems: Stems
    about: str


def song(seed: int, sounds: packages.Sounds) -> Song:
    """The same song for the same seed: 4 of 10 arranged, 3 by oscillators, 3 with a record."""
    rng = np.random.default_rng([20_261_126, seed])
    kind = seed % 10
    if kind in (2, 6, 9) and _records(sounds):
        return _over_a_record(rng, sounds)
    made = _oscillators(rng, sounds) if kind in (1, 5, 8) else _arranged(rng, sounds)
    gain = 10 ** (rng.uniform(-6, 3) / 20)
    stems = made.stems
    if rng.random() < 0.1:  # as after a lossy coder: no highs
        low = scipy.signal.butter(8, rng.uniform(10_500, 16_500), fs=RATE, output="sos")
        stems = {name: scipy.signal.sosfilt(low, stem, axis=0) for name, stem in stems.items()}
    return Song({name: gain * stem for name, stem in stems.items()}, made.about)


def _arranged(rng: Generator, sounds: packages.Sounds) -> Song:
    score = Score(rng)
    notes, lowest, highest = _lead_notes(rng, score)
    lead, about = voice(rng, sounds, notes)
    stems = {LEAD: _lead(rng, lead, score.beat)}
    if rng.random() < 0.93:
        line = score.accompaniment(bass_figure(rng), int(rng.choice([28, 36, 36])), 95)
        bass = font(sounds).play(rng, int(rng.choice(_BASSES)), line).mean(axis=1)
        bass = equalised(rng, bass) if rng.random() < 0.4 else bass
        stems["bass"] = panned(at_level(bass, rng.normal(-19.5, 2.2)), 0)
    drums, rooms = _drums(rng, sounds, score)
    stems["drums"] = drums
    first, second = _accompaniment(rng, sounds, score)
    if rng.random() < 0.3:
        stems["solo"] = _solo(rng, sounds, score)
    if rng.random() < 0.05:
        stems["applause"] = _applause(rng)
    dry = first + second
    if rng.random() < 0.75 and np.abs(dry).max() > 1e-4:
        around = room(rng, dry.sum(axis=1), float(rng.uniform(0.4, 2.6)))
        rooms = rooms + at_level(around, 20 * np.log10(loudness(dry)) - rng.uniform(8, 20))
    stems |= {"first": first, "second": second, "rooms": rooms}
    if rng.random() < 0.4:
        melody = notes if rng.random() < 0.5 else score.melody(lowest, highest, "slow", 0.3)
        stems["backing"] = _backing(rng, sounds, melody)
    return Song(stems, f"arranged, {about}")


def _lead_notes(rng: Generator, score: Score) -> tuple[list[Note], int, int]:
    lowest = int(rng.integers(41, 52) if rng.random() < 0.5 else rng.integers(53, 63))
    highest = lowest + int(rng.integers(9, 17))
    pace = str(rng.choice(["fast", "middling", "middling", "slow"]))
    return score.melody(lowest, highest, pace, rng.uniform(0.05, 0.3)), lowest, highest


def _lead(rng: Generator, wave: Wave, beat: float) -> Wave:
    """The voice as a desk leaves it: in the middle or nearly, its room and echoes with it, now and then widened."""
    wave = wave + 1e-9 * rng.standard_normal(len(wave))
    wave = equalised(rng, wave) if rng.random() < 0.5 else wave
    wave = compressed(rng, wave) if rng.random() < 0.5 else wave
    if rng.random() < 0.12:
        wave = np.tanh(rng.uniform(2, 8) / (np.abs(wave).max() + 1e-9) * wave)
    level = rng.normal(-17.3, 1.7)
    dry = at_level(panned(wave, float(rng.choice([0, 0, 0, rng.uniform(-0.06, 0.06)]))), level)
    lead = dry
    if rng.random() < 0.85:
        below = float(rng.choice([rng.uniform(5, 12), rng.uniform(10, 22)]))
        lead = lead + at_level(room(rng, dry.mean(axis=1), float(rng.uniform(0.4, 2.8))), level - below)
    if rng.random() < 0.15:
        lead = lead + echoes(rng, dry, beat)
    if rng.random() < 0.1:
        lead = lead + at_level(widened(rng, dry.mean(axis=1)), level - rng.uniform(4, 12))
    if rng.random() < 0.12:  # doubled, in the middle too
        again = widened(rng, dry.mean(axis=1)).mean(axis=1)
        lead = lead + at_level(panned(again, 0), level - rng.uniform(1, 7))
    return lead


def _drums(rng: Generator, sounds: packages.Sounds, score: Score) -> tuple[Wave, Wave]:
    """What stands in the middle, and hats, cymbals and the drums' room around it."""
    kit, recorded = int(rng.choice(_KITS)), rng.random() < 0.5

    def struck(kind: str, keys: tuple[int, ...], beats: tuple[float, ...], velocity: float = 100) -> Wave:
        times = [score.time(4 * bar + beat) for bar in range(score.bars) for beat in beats]
        hit = hits(rng, sounds, kind, [time for time in times if 0 <= time < SECONDS]) if recorded else None
        key = int(rng.choice(keys))
        return hit if hit is not None else font(sounds).play(rng, kit, score.strokes(key, beats, velocity), drums=True)

    def some(beats: tuple[float, ...], count: int) -> tuple[float, ...]:
        return tuple(sorted(float(at) for at in rng.choice(beats, count, replace=False)))

    middle, around = silence(), silence()
    if rng.random() < 0.85:
        kick = struck("kick", (35, 36), some(_EIGHTHS, int(rng.integers(1, 5))), 110).mean(axis=1)
        middle = middle + panned(at_level(kick, rng.normal(-20.5, 3)), 0)
        if rng.random() < 0.85:
            backbeat = ((1.0, 3.0), (2.0,), (1.0, 2.5, 3.0))[int(rng.integers(3))]
            snare = struck("snare", (38, 40, 37, 39), backbeat, 105).mean(axis=1)
            snare = equalised(rng, snare) if rng.random() < 0.4 else snare
            level = rng.normal(-22, 3)
            middle = middle + panned(at_level(snare, level), float(rng.choice([0, 0, rng.uniform(-0.15, 0.15)])))
            if rng.random() < 0.7:
                around = around + at_level(room(rng, snare, float(rng.uniform(0.3, 1.4))), level - rng.uniform(8, 20))
        if rng.random() < 0.25:
            hat = struck("hat", (42, 44, 46, 51), _EIGHTHS, 80).mean(axis=1)
            middle = middle + panned(at_level(hat, rng.normal(-30, 3)), 0)
        if rng.random() < 0.15:
            tom = struck("tom", (41, 45, 48, 47), some(_SIXTEENTHS, 4), 95).mean(axis=1)
            middle = middle + panned(at_level(tom, rng.normal(-25, 3)), float(rng.uniform(-0.3, 0.3)))
        middle = compressed(rng, middle) if rng.random() < 0.3 else middle
    if rng.random() < 0.8:
        beats = (_EIGHTHS, (0.0, 1.0, 2.0, 3.0), _SIXTEENTHS, (0.5, 1.5, 2.5, 3.5))[int(rng.integers(4))]
        hat = struck("hat", (42, 44, 46, 51, 54, 70, 69), beats, 80).mean(axis=1)
        around = around + panned(at_level(hat, rng.normal(-30, 3)), float(rng.uniform(-1, 1)))
    if rng.random() < 0.25:
        around = around + at_level(struck("crash", (49, 57, 51), (0.0,), 95), rng.normal(-29, 3))
    if rng.random() < 0.2:
        other = struck("tom", (60, 61, 62, 63, 64, 67, 68, 75, 76), some(_SIXTEENTHS, 5), 90).mean(axis=1)
        around = around + panned(at_level(other, rng.normal(-27, 3)), either_way(rng) * rng.uniform(0.25, 1))
    return middle, around


def _accompaniment(rng: Generator, sounds: packages.Sounds, score: Score) -> tuple[Wave, Wave]:
    """Two stems of what stands beside the lead; in 15 of 100 songs a wall of guitars, left and right."""
    stems = silence(), silence()
    if rng.random() < 0.15:
        notes = score.accompaniment(figure(rng), int(rng.choice([40, 45, 52])), 100)
        for n, where in enumerate((-1.0, 1.0)):
            double = [note._replace(start=note.start + rng.normal(0, 0.012)) for note in notes]
            guitar = font(sounds).play(rng, int(rng.choice(_LOUD_GUITARS)), double).mean(axis=1)
            guitar = np.tanh(rng.uniform(1, 6) * guitar / (np.abs(guitar).max() + 1e-9))
            stems[n][:] += at_level(panned(guitar, where * rng.uniform(0.6, 1)), rng.normal(-19, 2))
    for n in range(int(rng.integers(2, 6))):
        octave, strum = int(rng.choice([48, 52, 57, 60, 64, 67, 72])), float(rng.choice([0, 0, 0.012]))
        notes, program = score.accompaniment(figure(rng), octave, 85, strum), int(rng.choice(_PROGRAMS))
        played = font(sounds).play(rng, program, notes)
        if np.abs(played).max() < 1e-4:
            continue
        again = None
        if rng.random() < 0.3:
            sloppy = [note._replace(start=note.start + rng.normal(0, 0.012)) for note in notes]
            again = font(sounds).play(rng, program, sloppy)
        stereo = placed(rng, played, again)
        stereo = equalised(rng, stereo) if rng.random() < 0.3 else stereo
        stereo = compressed(rng, stereo) if rng.random() < 0.15 else stereo
        stems[n % 2][:] += at_level(stereo, rng.normal(-24, 2.5))
    return stems


def _solo(rng: Generator, sounds: packages.Sounds, score: Score) -> Wave:
    """A loud instrument in the middle, which is not the voice."""
    lowest = int(rng.integers(45, 66))
    notes = score.melody(lowest, lowest + 17, str(rng.choice(["fast", "middling", "slow"])), rng.uniform(0.05, 0.5))
    played = font(sounds).play(rng, int(rng.choice(_SOLOISTS)), notes).mean(axis=1) + 1e-9
    played = equalised(rng, played) if rng.random() < 0.5 else played
    level = rng.normal(-21, 2.5)
    dry = at_level(panned(played, float(rng.choice([0, 0, rng.uniform(-0.2, 0.2)]))), level)
    return dry + at_level(room(rng, played, float(rng.uniform(0.4, 2.4))), level - rng.uniform(6, 20))


def _applause(rng: Generator) -> Wave:
    """Many hands, each a short burst of noise somewhere between left and right, in a hall."""
    out = silence()
    for _ in range(int(rng.integers(150, 1_500))):
        centre = rng.uniform(900, 4_000)
        hand = panned(_burst(rng, 0.02, 0.6 * centre, 1.6 * centre), float(rng.uniform(-1, 1)))
        at = int(rng.integers(0, FRAMES - len(hand)))
        out[at : at + len(hand)] += hand * rng.uniform(0.2, 1)
    out = out + at_level(room(rng, out.sum(axis=1), float(rng.uniform(1, 2.5))), 20 * np.log10(loudness(out)))
    return at_level(out, rng.normal(-27, 4))


def _backing(rng: Generator, sounds: packages.Sounds, melody: list[Note], sing: Voice = voice) -> Wave:
    """Other voices: a choir, one that is late in one channel, or a double left and right."""
    level, kind, how = rng.normal(-26, 2.5), str(rng.choice(["choir", "late", "double"])), style(rng, may_speak=False)

    def second_voice(intervals: tuple[int, ...], sloppy: float) -> Wave:
        step = int(rng.choice(intervals))
        notes = [n._replace(start=n.start + rng.normal(0, sloppy), key=n.key + step) for n in melody]
        return sing(rng, sounds, notes, how, anything=False)[0]

    out = silence()
    if kind == "choir":
        for _ in range(int(rng.integers(1, 4))):
            singer = panned(second_voice((-12, -5, -3, 3, 4, 5, 7, 12), 0.015), either_way(rng) * rng.uniform(0.2, 1))
            out = out + at_level(singer, level)
        return out + at_level(room(rng, out.sum(axis=1), float(rng.uniform(0.6, 2.2))), level - rng.uniform(4, 14))
    if kind == "late":
        second = second_voice((-5, 3, 4, 7, 12), 0.015)
        out = at_level(panned(second, 0), level)
        out = out + at_level(room(rng, second, float(rng.uniform(0.8, 2))), level - rng.uniform(5, 14))
        late, channel = int(rng.uniform(0.004, 0.035) * RATE), int(rng.integers(2))
        out[:, channel] = np.concatenate([np.zeros(late), out[:-late, channel]])
        return out
    for way in (-1, 1):
        out = out + at_level(panned(second_voice((0,), 0.02), way * rng.uniform(0.6, 1)), level)
    return out


def _oscillators(rng: Generator, sounds: packages.Sounds) -> Song:
    """Reeds, plucked strings (Karplus and Strong, Computer Music Journal 1983), bells and noise drums."""
    score = Score(rng)
    notes, *_ = _lead_notes(rng, score)
    lead, about = formant_voice(rng, sounds, notes) if rng.random() < 0.6 else voice(rng, sounds, notes)
    stems = {LEAD: _lead(rng, lead, score.beat)}
    bass = _played(rng, "bell", score.accompaniment(bass_figure(rng), 33, 95), ring=0.5)
    stems["bass"] = panned(at_level(bass, rng.normal(-19, 2)), 0)
    drum = np.zeros(FRAMES)
    for note in score.strokes(0, (0.0, 2.0)):
        _add(drum, _kick(rng), note.start)
    for note in score.strokes(0, (1.0, 3.0)):
        _add(drum, _burst(rng, 0.16, 200, 7_000), note.start)
    hat = np.zeros(FRAMES)
    for note in score.strokes(0, _EIGHTHS):
        _add(hat, _burst(rng, 0.05, 5_000, 14_000), note.start)
    stems["drums"] = at_level(panned(drum, float(rng.uniform(-0.1, 0.1))), rng.normal(-21, 3))
    stems["rooms"] = at_level(panned(hat, float(rng.uniform(-1, 1))), rng.normal(-30, 3))
    first, second = silence(), silence()
    for n in range(int(rng.integers(2, 5))):
        kind, octave = (
            str(rng.choice(["reed", "plucked", "bell", "frequency modulation"])),
            int(rng.choice([48, 55, 60, 67])),
        )
        track = _played(rng, kind, score.accompaniment(figure(rng), octave, 85), ring=1.0)
        stereo = placed(rng, panned(track, 0))
        wet = at_level(room(rng, track, float(rng.uniform(0.6, 2))), -rng.uniform(6, 18)) if rng.random() < 0.7 else 0
        (first, second)[n % 2][:] += at_level(at_level(stereo, 0) + wet, rng.normal(-23, 2.5))
    stems |= {"first": first, "second": second}
    if rng.random() < 0.5:
        stems["backing"] = _backing(rng, sounds, notes, formant_voice if rng.random() < 0.6 else voice)
    return Song(stems, f"oscillators, {about}")


def _played(rng: Generator, kind: str, notes: list[Note], ring: float) -> Wave:
    track, ratio = np.zeros(FRAMES), float(rng.choice([1, 2, 3, 1.41]))
    step, most, slope = int(rng.choice([1, 2])), int(rng.integers(5, 25)), rng.uniform(0.9, 1.5)
    beating, attack = float(rng.choice([0, rng.uniform(0.3, 1.5)])), rng.uniform(0.02, 0.15)  # Hz apart, s
    for note in notes:
        pitch, frames = hertz(note.key), int((note.length + (ring if kind != "reed" else 0)) * RATE)
        time = np.arange(frames) / RATE
        if kind == "reed":
            harmonics = range(1, int(min(most, 9_000 / pitch)) + 1, step)
            wave = sum(np.sin(2 * np.pi * n * (pitch + beating) * time) / n**slope for n in harmonics)
            if beating:
                wave = wave + sum(np.sin(2 * np.pi * n * (pitch - beating) * time) / n**slope for n in harmonics)
            wave = wave * np.minimum(1, time / attack) * np.minimum(1, (time[-1] - time) / 0.05)
        elif kind == "plucked":
            period = max(2, int(RATE / pitch))
            start = np.zeros(frames)
            start[:period] = rng.uniform(-1, 1, min(period, frames))
            string = np.zeros(period + 2)
            string[0], string[period], string[period + 1] = 1, -0.4985, -0.4985
            wave = scipy.signal.lfilter([1], string, start)
        elif kind == "bell":
            parts = ((1.0, 1.0, 0.8), (2.0, 0.5, 0.5), (3.01, 0.25, 0.3), (4.2, 0.12, 0.2))
            wave = sum(a * np.exp(-time / (d * ring)) * np.sin(2 * np.pi * r * pitch * time) for r, a, d in parts)
        else:
            bend = 3 * np.exp(-time / 0.4) * np.sin(2 * np.pi * ratio * pitch * time)
            wave = np.exp(-time / 0.8) * np.sin(2 * np.pi * pitch * time + bend)
        _add(track, np.asarray(wave) * note.velocity / 100, note.start)
    return track


def _kick(rng: Generator) -> Wave:
    time = np.arange(int(0.25 * RATE)) / RATE
    return np.sin(2 * np.pi * rng.uniform(48, 70) * (time + 0.02 * np.exp(-time / 0.02))) * np.exp(-time / 0.08)


def _burst(rng: Generator, seconds: float, low: float, high: float) -> Wave:
    band = scipy.signal.butter(2, [low, high], "bandpass", fs=RATE, output="sos")
    frames = int(seconds * RATE)
    return np.asarray(scipy.signal.sosfilt(band, rng.standard_normal(frames)) * np.exp(-np.arange(frames) / frames * 5))


def _add(track: Wave, wave: Wave, start: float) -> None:
    at = max(0, int(start * RATE))
    fits = min(len(wave), len(track) - at)
    if fits > 0:
        track[at : at + fits] += wave[:fits]


@cache
def _records(sounds: packages.Sounds) -> list[tuple[Path, float]]:
    """Stereo music of at least 20 s, and its length in seconds."""
    stereo = []
    for path in packages.files(sounds.records):
        about = soundfile.info(path)
        if about.channels == 2 and about.duration > 20:
            stereo.append((path, about.duration))
    return stereo


def _over_a_record(rng: Generator, sounds: packages.Sounds) -> Song:
    """A stretch of a record as it is, and a voice over it, as loud as voices are; half of them speak."""
    records = _records(sounds)
    path, seconds = records[int(rng.integers(len(records)))]
    record = recording(path, SECONDS + 0.1, float(rng.uniform(1, seconds - SECONDS - 2)))[:FRAMES]
    record = np.concatenate([record, np.zeros((FRAMES - len(record), 2))])
    record = record + 1e-6 * rng.standard_normal(record.shape)
    score = Score(rng)
    notes, *_ = _lead_notes(rng, score)
    lead, about = voice(rng, sounds, notes)
    level = 20 * np.log10(loudness(record))
    level = float(np.clip(level, -40, -8))
    stems = {LEAD: at_level(_lead(rng, lead, score.beat), level + rng.normal(1, 3.5)), "record": record}
    if rng.random() < 0.08:
        stems["applause"] = at_level(_applause(rng), level - rng.uniform(3, 15))
    return Song(stems, f"{path.stem}, {about}")
