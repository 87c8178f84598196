"""`make learn`: teaches the learned mask (core/centre/learned.py) on mixes made here, and keeps its weights there.

The mixes are of another make than those of `bench/centre.py`, by which the mask is judged: other leads (also with the
intonation and consonants of speech), chance instruments of a sound font (package timgm6mb-soundfont) and of the demo,
pans, rooms, and doubled voices that come late on one side. Everything is seeded. What is wanted of a line is the share
g of the mix X that comes nearest the lead V, g = Re⟨V, X⟩ / |X|²; lines count by their energy, mixes by what the
wedge errs on them, so that a decibel is worth the same on each. Adam: Kingma and Ba, ICLR 2015 (from memory). Takes a
quarter of an hour.
"""

import sys
from concurrent.futures import ProcessPoolExecutor
from functools import cache
from itertools import pairwise
from pathlib import Path
from typing import Final

import numpy as np
import scipy.signal
from numpy.random import Generator
from numpy.typing import NDArray

from bench.centre import Block, panned
from bench.soundfont import Player, instruments
from wedge_turn.core.centre import kernels, learned
from wedge_turn.core.centre.learned import Layers, Singles
from wedge_turn.demo.sounds import A, E, I, O, hertz
from wedge_turn.demo.synth import BELL, Wave, noise, put, reed, room, shaped, struck, sung

RATE: Final = 44_100
SIZE: Final = 4_096
SECONDS: Final = 9
FRAMES: Final = SECONDS * RATE
BAND: Final = slice(9, 1_115)  # lines from 100 Hz to 12 kHz
MIXES: Final = 520
LINES_OF_A_MIX: Final = 20_000
HIDDEN: Final = (40, 28)
STEPS: Final = 16_000
BATCH: Final = 4_096
RATE_OF_LEARNING: Final = 3e-3
FILE: Final = Path(learned.__file__).with_name(learned.WEIGHTS)
NAMES: Final = ("guitar", "organ", "violin", "harp", "marimba", "oboe", "horn", "cello", "vibe", "koto", "sitar")
SCALE: Final = (0, 2, 4, 5, 7, 9, 11, 12, 14)
TRANSFORM: Final = scipy.signal.ShortTimeFFT(np.sqrt(scipy.signal.windows.hann(SIZE, sym=False)), SIZE // 2, RATE)


@cache
def players() -> dict[str, Player]:
    return instruments(NAMES, RATE)


def voice(rng: Generator, key: int, beat: float, *, sampled: bool) -> Wave:
    """A melody, sung, spoken, or played by some instrument."""
    track, at, degree = np.zeros(FRAMES), float(rng.uniform(0.1, 0.6)), int(rng.integers(0, 7))
    size = float(rng.uniform(0.85, 1.2))  # of the throat
    player = players()[str(rng.choice(NAMES))] if sampled and rng.random() < 0.2 else None
    spoken = player is None and rng.random() < 0.5
    while at < SECONDS - 1:
        length = float(rng.uniform(0.08, 0.35)) if spoken else beat * float(rng.choice([0.5, 1, 1, 2, 3]))
        degree = int(np.clip(degree + rng.integers(-3, 4), 0, 8))
        pitch = hertz(key + SCALE[degree])
        if player is not None:
            wave = player(pitch, length)
        else:
            wave = _syllable(rng, pitch, length, size, spoken=spoken)
            if rng.random() < (0.8 if spoken else 0.5):
                hiss = noise(rng, float(rng.uniform(0.04, 0.12)), RATE, float(rng.uniform(1_500, 4_000)), 10_000)
                loud = float(rng.uniform(0.1, 0.5)) / float(np.abs(hiss).max())
                put(track, shaped(hiss, 0.005, 0.03, RATE), max(0.0, at - 0.06), RATE, loud)
        put(track, wave, at, RATE, float(rng.uniform(0.5, 1)) / max(1e-9, float(np.abs(wave).max())))
        at += length + (beat if rng.random() < 0.2 else 0) + (float(rng.uniform(0, 0.15)) if spoken else 0)
    return track


def _syllable(rng: Generator, pitch: float, length: float, size: float, *, spoken: bool) -> Wave:
    frames = int(length * RATE)
    bends = np.zeros(frames)
    if spoken:
        bends = np.cumsum(rng.standard_normal(frames)) / np.sqrt(frames) * 0.3
        bends += float(rng.uniform(-0.4, 0.4)) * np.linspace(0, 1, frames)
    elif rng.random() < 0.3:
        bends = 0.08 * np.exp(-np.arange(frames) / RATE / 0.06)
    vowel = [(f * size, width * float(rng.uniform(0.8, 1.5))) for f, width in (A, E, I, O)[int(rng.integers(4))]]
    made = sung(pitch * 2.0**bends, vowel, RATE, rng)
    return shaped(made, float(rng.uniform(0.01, 0.08)), 0.08, RATE)


def mixed(seed: int) -> tuple[Block, Block]:
    """The lead with its room, and everything else."""
    rng = np.random.default_rng(10_000 + seed)
    key, beat = int(rng.integers(40, 54)), float(rng.uniform(0.35, 0.65))
    lead = _at(voice(rng, key + int(rng.choice([7, 12, 12, 19, 24])), beat, sampled=True), 0.1, rng, 0.25, 0.25)
    lead_in_room = _roomy(lead, rng, 0.6, 2.4, float(rng.choice([0.05, 0.15, 0.25, 0.35, 0.45])))
    rest = _rhythm(rng, key, beat)
    for _ in range(int(rng.integers(2, 6))):
        track = _at(_backed(rng, key, beat), 0.05, rng, 0.4, 0.3)
        where = float(rng.choice([-1, 1]) * rng.choice([0.3, 0.5, 0.7, 0.85, 1.0]))
        wet = _roomy(track, rng, 0.6, 2.0, float(rng.uniform(0.1, 0.4))) - track[:, None]
        rest = rest + 1.2 * panned(track, where) + 0.5 * wet
    return lead_in_room, rest + _doubled(rng, key, beat, lead)


def _rhythm(rng: Generator, key: int, beat: float) -> Block:
    bass, drum, hat = (np.zeros(FRAMES) for _ in range(3))
    partials = [(1.0, 1.0, 0.8), (2.0, float(rng.uniform(0.2, 0.7)), 0.5), (3.0, float(rng.uniform(0.1, 0.5)), 0.3)]
    every = int(rng.integers(4, 9))
    for n in range(int(SECONDS / beat)):
        root = key - 12 + (0, 5, 7, 0, 9, 3)[n // every % 6]
        put(bass, struck(hertz(root), 1.2 * beat, RATE, partials), n * beat, RATE)
        kick = struck(float(rng.uniform(50, 70)), 0.25, RATE, [(1, 1, 0.2), (1.7, 0.3, 0.1)])
        snare = 0.5 * shaped(noise(rng, 0.18, RATE, 200, 7_000), 0.001, 0.14, RATE)
        put(drum, kick if n % 2 == 0 else snare, n * beat, RATE)
        put(hat, shaped(noise(rng, 0.06, RATE, 5_000, 14_000), 0.002, 0.05, RATE), (n + 0.5) * beat, RATE)
    made = np.sqrt(2) * panned(_at(bass, 0.08, rng, 0.3, 0.2), 0)
    made = made + np.sqrt(2) * panned(_at(drum, 0.06, rng, 0.4, 0.2), float(rng.uniform(-0.1, 0.1)))
    if rng.random() < 0.6:
        made = made + panned(_at(hat, 0.02, rng, 0.3, 0.2), float(rng.uniform(-1, 1)))
    return np.asarray(made)


def _backed(rng: Generator, key: int, beat: float) -> Wave:
    """Chords of some instrument."""
    kind, track = str(rng.choice(["reed", "bell", *NAMES])), np.zeros(FRAMES)
    steps = rng.choice([0, 3, 4, 7, 12, 16, 19], int(rng.integers(1, 4)), replace=False)
    every, tied = int(rng.integers(1, 4)), float(rng.uniform(0.5, 1.8))
    for n in range(0, int(SECONDS / beat), every):
        if rng.random() < 0.15:
            continue
        moved, length = int(rng.choice([0, 0, 5, 7, -3])), every * beat * tied
        for step in steps:
            pitch = hertz(key + int(step) + moved)
            if kind == "bell":
                wave = struck(2 * pitch, 1.0, RATE, BELL[1:])
            else:
                wave = reed(pitch, length, RATE) if kind == "reed" else players()[kind](pitch, length)
            at = n * beat + float(rng.uniform(0, 0.01))
            put(track, wave, at, RATE, 1 / max(1e-9, float(np.abs(wave).max())))
    return track


def _doubled(rng: Generator, key: int, beat: float, lead: Wave) -> Block:
    """A second voice: wide, or the same on both sides and late on one of them; or none."""
    style, loud = str(rng.choice(["none", "wide", "double", "late", "late"])), 10 ** float(rng.uniform(-0.5, 0.15))
    made = np.zeros((FRAMES, 2))
    if style == "wide":
        for side in (-1, 1):
            track = _level(voice(rng, key + 12, beat, sampled=False), 0.05 * loud)
            wet = _roomy(track, rng, 1.5, 1.5, 0.4) - track[:, None]
            made = made + panned(track, side * float(rng.uniform(0.5, 1))) + 0.5 * wet
    elif style != "none":
        again = lead if style == "double" else voice(rng, key + int(rng.choice([7, 12, 16, 19])), beat, sampled=True)
        made = _roomy(_level(again, 0.07 * loud), rng, 0.8, 2.0, float(rng.uniform(0.1, 0.5)))
        late, side = int(rng.uniform(0.004, 0.035) * RATE), int(rng.integers(2))
        made[:, side] = np.concatenate([np.zeros(late), made[:-late, side]])
    return made


def _roomy(track: Wave, rng: Generator, shortest: float, longest: float, wet: float) -> Block:
    return np.stack(room(track, rng, RATE, float(rng.uniform(shortest, longest)), wet), axis=1)


def _at(track: Wave, loud: float, rng: Generator, less: float, more: float) -> Wave:
    return _level(track, loud * 10 ** float(rng.uniform(-less, more)))


def _level(track: Wave, loud: float) -> Wave:
    return np.asarray(track * (loud / max(1e-9, float(np.sqrt(np.mean(track**2))))))


def spectra(block: Block) -> NDArray[np.complex64]:
    """(2, frames, lines) of a stereo block."""
    return np.stack([TRANSFORM.stft(block[:, side]).T for side in (0, 1)]).astype(np.complex64)


def looked_at(mix: NDArray[np.complex64]) -> Singles:
    both, lean, apart, across = (np.empty(mix.shape[1:], np.float32) for _ in range(4))
    left, right = (np.ascontiguousarray(side) for side in mix)
    kernels.energies(left, right, both, lean, apart, across)
    return learned.features(both, lean, apart, across, 1.0, RATE / SIZE)


def lines_of(seed: int) -> tuple[Singles, Singles, Singles]:
    """Of chosen lines of a mix: what is seen, what is wanted, and how much it counts."""
    lead, rest = (spectra(part) for part in mixed(seed))
    mix = lead + rest
    told = looked_at(mix)[:, :, BAND]
    lead, mix = lead[:, :, BAND], mix[:, :, BAND]
    energy = np.sum(np.abs(mix) ** 2, axis=0)
    wanted = np.clip(np.sum((lead * mix.conj()).real, axis=0) / (energy + 1e-12), 0, 1)
    formula = told[-1]  # the wedge's own gain is the last of the features
    errs = float(np.sum(np.abs(lead - formula * mix) ** 2))
    share = (energy / energy.sum()).ravel()
    chance = share**0.7 / np.sum(share**0.7)
    rng = np.random.default_rng(seed)
    chosen = rng.choice(share.size, LINES_OF_A_MIX, p=chance)
    counts = share[chosen] / chance[chosen]
    counts *= float(energy.sum()) / errs / counts.mean()
    return (
        told.reshape(learned.FEATURES, -1)[:, chosen].T,
        wanted.ravel()[chosen].astype(np.float32),
        counts.astype(np.float32),
    )


def trained(seen: Singles, wanted: Singles, counts: Singles) -> Layers:
    """Layers fitted by Adam with a rate that falls along a cosine; the features' means and spreads are built in."""
    rng = np.random.default_rng(0)
    mean, spread = seen.mean(axis=0), seen.std(axis=0) + 1e-6
    sizes = (seen.shape[1], *HIDDEN, 1)
    layers = [
        ((rng.standard_normal((a, b)) * np.sqrt(2 / a)).astype(np.float32), np.zeros(b, np.float32))
        for a, b in pairwise(sizes)
    ]
    first, second = ([[np.zeros_like(p) for p in layer] for layer in layers] for _ in range(2))
    running = 0.0
    for step in range(1, STEPS + 1):
        chosen = rng.integers(0, len(seen), BATCH)
        made = [(seen[chosen] - mean) / spread]
        for n, (weights, bias) in enumerate(layers):
            out = made[-1] @ weights + bias
            made.append(np.maximum(out, 0) if n < len(layers) - 1 else 1 / (1 + np.exp(-out)))
        share = made[-1][:, 0]
        off = share - wanted[chosen]
        running += 0.01 * (float(np.mean(counts[chosen] * off**2)) - running)
        back = (2 * counts[chosen] * off * share * (1 - share) / BATCH)[:, None].astype(np.float32)
        rate = RATE_OF_LEARNING * 0.5 * (1 + np.cos(np.pi * step / STEPS))
        for n in reversed(range(len(layers))):
            slopes = (made[n].T @ back, back.sum(axis=0))
            if n:
                back = (back @ layers[n][0].T) * (made[n] > 0)
            for part, slope, mean_slope, square in zip(layers[n], slopes, first[n], second[n], strict=True):
                mean_slope[...] += 0.1 * (slope - mean_slope)
                square[...] += 0.001 * (slope**2 - square)
                part[...] -= rate * (mean_slope / (1 - 0.9**step)) / (np.sqrt(square / (1 - 0.999**step)) + 1e-8)
        if step % 1_000 == 0:
            print(f"{step:>7} {running:.4f}", flush=True)
    weights, bias = layers[0]
    layers[0] = (weights / spread[:, None], bias - (mean / spread) @ weights)
    return [(w.astype(np.float32), b.astype(np.float32)) for w, b in layers]


def main() -> None:
    with ProcessPoolExecutor() as pool:
        parts = list(zip(*pool.map(lines_of, range(MIXES), chunksize=4), strict=True))
    seen, wanted, counts = (np.concatenate(part) for part in parts)
    layers = trained(seen, wanted, np.minimum(counts, np.quantile(counts, 0.9995)))
    kept = {
        f"{what}{n}": part
        for n, layer in enumerate(layers)
        for what, part in zip(("weights", "bias"), layer, strict=True)
    }
    np.savez(FILE, **kept)  # type: ignore[arg-type]  # the stubs take any name for `allow_pickle`
    print(f"{sum(part.size for part in kept.values()):,} weights in {FILE.name}")
    sys.stdout.flush()


if __name__ == "__main__":
    main()
