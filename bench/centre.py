"""`make bench-centre`: how well a voice and the centre are told from the rest, on mixes whose parts are known.

Three makes, none of which shares code or recordings with what the voice mask was taught on: eight songs of oscillators
and sung formants, made here, two of them with sampled instruments on their sides (package timgm6mb-soundfont, whose
font is one of the two that it was taught on); synthetic speech among oscillators, and recorded speech over records
(`bench/makes.py`). The voice with its room is what should be in the centre output, everything else what should be in
the sides. Figures are means over the mixes of a make, in decibels: SDR, the energy of a part over that of the error in
it, over both channels together; SI-SDR, the same after the best gain; and how much of the voice is left in the sides,
by projection; tests/test_bench.py checks these figures against mir_eval (Vincent, Gribonval and Févotte, 2006). Of
records without a voice nothing should be taken.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Final

import numpy as np
import scipy.signal
from numpy.typing import NDArray

from bench import makes
from bench.learn import packages
from bench.soundfont import sampled
from wedge_turn.core.centre import forecast_voice
from wedge_turn.core.centre.bands import shape_band
from wedge_turn.core.form import Form
from wedge_turn.core.pages import Pages
from wedge_turn.core.turns import Centre, ClipInfo
from wedge_turn.demo.sounds import A, E, I, O, hertz
from wedge_turn.demo.synth import BELL, noise, put, reed, room, shaped, struck, sung

RATE: Final = 44_100
SECONDS: Final = 12
NEARLY_MONO: Final = 0.15  # of the width of a record
TABLE: Final = Path(__file__).parent.parent / "docs" / "centre.md"
BEGIN: Final = "<!-- written by make bench-centre -->"
END: Final = "<!-- to here -->"
Block = NDArray[np.float64]
Parts = tuple[Block, Block]  # centre and sides


@dataclass(frozen=True)
class Song:
    """A mix: what its instruments do, and where they stand (−1 left … 1 right)."""

    seed: int
    key: int
    beat: float
    voice: int  # semitones above the key, an octave up
    wet: float
    pads: tuple[float, float]
    backing: float
    shaker: bool
    sampled: tuple[str, str] = ("", "")  # which samples of a sound font the sides play, if not reeds


SONGS: Final = (
    Song(1, 45, 0.52, 12, 0.2, (-0.8, 0.8), 0.0, False),
    Song(2, 48, 0.44, 19, 0.3, (-0.5, 0.9), 0.25, True),
    Song(3, 43, 0.6, 12, 0.15, (-1.0, 0.4), 0.2, False),
    Song(4, 52, 0.38, 7, 0.35, (-0.7, 0.6), 0.0, True),
    Song(5, 47, 0.5, 14, 0.25, (-0.35, 0.35), 0.3, False),
    Song(6, 41, 0.46, 24, 0.4, (-0.9, 0.7), 0.15, True),
    Song(7, 50, 0.55, 10, 0.2, (-0.75, 0.65), 0.0, True, ("string", "flute")),
    Song(8, 46, 0.42, 16, 0.3, (-0.6, 0.95), 0.2, False, ("piano", "string")),
)


def songs() -> list[Song]:
    """Those whose instruments are there."""
    return [song for song in SONGS if all(sampled(name, RATE) for name in song.sampled if name)]


def voices_of(song: Song) -> list[Callable[[float, float], NDArray[np.float64]]]:
    """What the left and right instruments play a pitch with."""
    return [(name and sampled(name, RATE)) or partial(reed, rate=RATE) for name in song.sampled]


def panned(wave: NDArray[np.float64], where: float) -> Block:
    """By the law of equal power."""
    angle = np.pi / 4 * (1 + where)
    return np.stack([np.cos(angle) * wave, np.sin(angle) * wave], axis=1)


def mixed(song: Song) -> Parts:
    """The lead with its room, and everything else, both stereo."""
    rng = np.random.default_rng(song.seed)
    frames = SECONDS * RATE
    lead, second, bass, drum = (np.zeros(frames) for _ in range(4))
    pads = [np.zeros(frames), np.zeros(frames)]
    voices = voices_of(song)
    scale = (0, 2, 4, 5, 7, 9, 11)
    at, degree = 0.3, 4
    while at < SECONDS - 1.2:
        length = song.beat * float(rng.choice([1, 1, 2, 3]))
        degree = int(np.clip(degree + rng.integers(-2, 3), 0, 6))
        pitch = np.full(int(length * RATE), hertz(song.key + song.voice + scale[degree]))
        put(lead, shaped(sung(pitch, (A, E, I, O)[int(rng.integers(4))], RATE, rng), 0.04, 0.08, RATE), at, RATE)
        if song.backing:
            harmony = sung(pitch * 2 ** (4 / 12), (A, O)[int(rng.integers(2))], RATE, rng)
            put(second, shaped(harmony, 0.06, 0.1, RATE), at, RATE)
        at += length + (song.beat if rng.random() < 0.25 else 0)
    for n in range(int(SECONDS / song.beat)):
        time = n * song.beat
        root = song.key - 12 + (0, 5, 7, 0)[n // 8 % 4]
        put(bass, struck(hertz(root), 1.2 * song.beat, RATE, [(1, 1, 0.8), (2, 0.5, 0.5), (3, 0.2, 0.3)]), time, RATE)
        beat = (
            struck(58, 0.25, RATE, [(1, 1, 0.2), (1.7, 0.3, 0.1)]) if n % 2 == 0 else noise(rng, 0.18, RATE, 200, 6_000)
        )
        put(drum, shaped(beat, 0.001, 0.14, RATE), time, RATE, 1.0 if n % 2 == 0 else 0.4)
        if song.shaker:
            put(
                pads[1],
                shaped(noise(rng, 0.06, RATE, 5_000, 12_000), 0.002, 0.05, RATE),
                time + song.beat / 2,
                RATE,
                0.3,
            )
        for pad, voice_of, steps in zip(pads, voices, ((0, 7), (4, 12)), strict=True):
            for step in steps:
                tone = voice_of(hertz(song.key + step), 0.9 * song.beat) if n % 3 else struck(
                    hertz(song.key + 12 + step), 1.0, RATE, BELL[1:])  # fmt: skip
                put(pad, tone, time, RATE, 0.25)
    for track, loud in (
        (lead, 0.3),
        (second, song.backing),
        (bass, 0.35),
        (drum, 0.4),
        (pads[0], 0.25),
        (pads[1], 0.25),
    ):
        np.multiply(track, loud / max(1e-9, float(np.abs(track).max())), out=track)
    voice = np.stack(room(lead, rng, RATE, 1.5, song.wet), axis=1)
    rest = panned(bass + drum, 0) * np.sqrt(2)
    for pad, where in zip(pads, song.pads, strict=True):
        rest = (
            rest + panned(pad, where) * np.sqrt(2) + 0.5 * (np.stack(room(pad, rng, RATE, 1.5, 0.3), 1) - pad[:, None])
        )
    if song.backing:
        wide = room(second, rng, RATE, 1.5, 0.4)
        late = int(0.019 * RATE)
        rest = rest + np.stack([wide[0], np.concatenate([np.zeros(late), wide[1][:-late]])], axis=1)
    return voice, rest


def ours(turn: Centre) -> Callable[[Block, Parts], Parts]:
    """The turn itself."""

    def run(mix: Block, _: Parts) -> Parts:
        form = Form(channels=2, frames=len(mix), rate=RATE, encoding="f64")

        def read(start: int, frames: int) -> Block:
            out = np.zeros((frames, 2))
            first, last = max(0, start), min(len(mix), start + frames)
            if last > first:
                out[first - start : last - start] = mix[first:last]
            return out

        computation = turn.model_copy(update={"keep": "both"}).computation(read, ClipInfo("mix", form))
        pages = Pages(computation.page, len(mix), computation.size)
        sides, centre = (pages.read(0, len(mix), part, 2) for part in computation.results)
        return centre, sides

    return run


N: Final = 4096
TRANSFORM: Final = scipy.signal.ShortTimeFFT(np.sqrt(scipy.signal.windows.hann(N, sym=False)), N // 4, RATE)


def masked(gain: Callable[[NDArray[np.complex128], Parts], NDArray[np.float64]], low: float, high: float = RATE / 2):  # type: ignore[no-untyped-def]
    """A method that multiplies the mix by a gain for each place of the spectrogram, within a band."""
    band = shape_band(RATE, N // 2 + 1, low, high)[:, None]

    def run(mix: Block, parts: Parts) -> Parts:
        spectra = np.stack([TRANSFORM.stft(mix[:, side]) for side in (0, 1)])
        masked_spectra = spectra * (gain(spectra, parts) * band)
        centre = np.stack([TRANSFORM.istft(masked_spectra[side], k1=len(mix)).real for side in (0, 1)], axis=1)
        return centre, mix - centre

    return run


def similarity(spectra: NDArray[np.complex128], _: Parts) -> NDArray[np.float64]:
    """2|L·R*| / (|L|² + |R|²), averaged over three frames: Avendano and Jot (2004), from memory."""
    left, right = spectra
    over = np.ones((1, 3)) / 3

    def smooth(x: NDArray[np.floating]) -> NDArray[np.float64]:
        return np.asarray(scipy.signal.convolve2d(x, over, "same"))

    cross = np.hypot(smooth((left * right.conj()).real), smooth((left * right.conj()).imag))
    like = 2 * cross / (smooth(np.abs(left) ** 2) + smooth(np.abs(right) ** 2) + 1e-12)
    return np.asarray(np.clip((like - 0.6) / 0.4, 0, 1) ** 2)


def ideal(_: NDArray[np.complex128], parts: Parts) -> NDArray[np.float64]:
    """The ratio mask of somebody who knows the parts."""
    voice, rest = (np.stack([np.abs(TRANSFORM.stft(part[:, s])) ** 2 for s in (0, 1)]) for part in parts)
    return np.asarray(voice / (voice + rest + 1e-12))


def mid_out(mix: Block, _: Parts) -> Parts:
    band = shape_band(RATE, N // 2 + 1, 240, RATE / 2)[:, None]
    middle = TRANSFORM.istft(TRANSFORM.stft(mix.mean(axis=1)) * band, k1=len(mix)).real
    centre = np.stack([middle, middle], axis=1)
    return centre, mix - centre


WEDGE: Final = "wedge, 240 Hz to 10 kHz"
VOICE: Final = "**voice**"
IDEAL: Final = "ideal ratio mask (knows the parts)"
SIMILARITY: Final = "similarity mask, 240 Hz to 10 kHz"
METHODS: Final[dict[str, Callable[[Block, Parts], Parts]]] = {
    "difference": ours(Centre(method="difference")),
    "difference, lows kept below 240 Hz": ours(Centre(method="difference", low_hz=240)),
    "mid removed above 240 Hz": mid_out,
    SIMILARITY: masked(similarity, 240, 10_000),
    WEDGE: ours(Centre(method="wedge", low_hz=240, high_hz=10_000)),
    "wedge, deep (0.5), from 180 Hz": ours(Centre(method="wedge", strength=0.5)),
    "wedge with drums protected": ours(Centre(method="wedge", low_hz=240, high_hz=10_000, protect_drums=True)),
    "wedge, the whole band": ours(Centre(method="wedge", low_hz=0, high_hz="max")),
    VOICE: ours(Centre()),
    "voice with drums protected": ours(Centre(protect_drums=True)),
    IDEAL: masked(ideal, 0),
}


def sdr(true: Block, estimate: Block) -> float:
    return float(10 * np.log10(np.sum(true**2) / np.sum((true - estimate) ** 2)))


def si_sdr(true: Block, found: Block) -> float:
    gain = float(np.sum(true * found) / np.sum(true**2))
    return sdr(gain * true, found)


def left_over(lead: Block, sides: Block) -> float:
    """The lead's share in the sides, by projection, in dB of the lead."""
    gain = float(np.sum(lead * sides) / np.sum(lead**2))
    return float(20 * np.log10(max(abs(gain), 1e-6)))


def judged(mixes: list[Parts], method: Callable[[Block, Parts], Parts]) -> NDArray[np.float64]:
    """Means over mixes: SDR of centre and sides, SI-SDR of both, voice left in the sides."""
    figures = []
    for parts in mixes:
        centre, sides = method(parts[0] + parts[1], parts)
        row = [sdr(parts[0], centre), sdr(parts[1], sides), si_sdr(parts[0], centre), si_sdr(parts[1], sides)]
        figures.append([*row, left_over(parts[0], sides)])
    return np.asarray(np.mean(figures, axis=0))


def table(title: str, mixes: list[Parts], names: Iterable[str]) -> str:
    """A make's methods and figures, as Markdown; printed as they come."""
    print(f"{title}: {len(mixes)} mixes", flush=True)
    lines = [
        "| method | SDR centre / sides | SI-SDR centre / sides | voice left in sides |",
        "| --- | --- | --- | --- |",
    ]
    for name in names:
        m = judged(mixes, METHODS[name])
        print(f"  {name:<42}" + "".join(f"{value:8.1f}" for value in m), flush=True)
        lines.append(f"| {name} | {m[0]:.1f} / {m[1]:.1f} | {m[2]:.1f} / {m[3]:.1f} | {m[4]:.0f} |")
    return f"## {title}, {len(mixes)} mixes\n\n" + "\n".join(lines) + "\n"


def taken() -> str:
    """What the voice mask and the wedge take of records without a voice, in the vocal range, as Markdown."""
    band = scipy.signal.butter(4, [200, 4_000], "bandpass", fs=RATE, output="sos")
    blocks = makes.records(8)
    lines = ["| method | mid that goes, 200 Hz to 4 kHz | side that goes |", "| --- | --- | --- |"]
    for name in (WEDGE, VOICE):
        figures = []
        for block in blocks:
            sides = METHODS[name](block, (block, block))[1]
            before, after = (scipy.signal.sosfilt(band, x, axis=0) for x in (block, sides))
            mid, side = (10 * np.log10(np.sum(m(after) ** 2) / np.sum(m(before) ** 2)) for m in (_mid, _side))
            figures.append([mid, side])
        mid, side = np.mean(figures, axis=0)
        print(f"  records, {name:<30} {mid:8.1f} {side:8.1f}", flush=True)
        lines.append(f"| {name} | {mid:.1f} dB | {side:.1f} dB |")
    return f"## Records without a voice, {len(blocks)} stretches\n\n" + "\n".join(lines) + "\n"


def tabulate_forecasts(makes_of: dict[str, list[Parts]]) -> str:
    """Forecasts against what comes of them, as Markdown."""
    lines = [
        "| mixes | SDR expected | SDR of the centre | off by, mean | better method named |",
        "| --- | --- | --- | --- | --- |",
    ]
    for name, mixes in makes_of.items():
        forecasts = [forecast_voice(voice + rest, RATE) for voice, rest in mixes]
        of_voice, of_wedge = (
            np.array([sdr(parts[0], METHODS[method](parts[0] + parts[1], parts)[0]) for parts in mixes])
            for method in (VOICE, WEDGE)
        )
        expected = np.array([forecast.expected_db for forecast in forecasts])
        named = np.array([forecast.better == "voice" for forecast in forecasts])
        right = np.sum(named == (of_voice > of_wedge))
        off = np.abs(expected - of_voice).mean()
        print(f"  forecast, {name:<32} {expected.mean():8.1f} {of_voice.mean():8.1f} {off:8.1f} {right}", flush=True)
        lines.append(
            f"| {name} | {expected.mean():.1f} | {of_voice.mean():.1f} | {off:.1f} | {right} of {len(mixes)} |"
        )
    return "## Forecasts\n\n" + "\n".join(lines) + "\n"


def _mid(block: Block) -> Block:
    return np.asarray(block[:, 0] + block[:, 1])


def _side(block: Block) -> Block:
    return np.asarray(block[:, 0] - block[:, 1])


def main() -> None:
    from bench import ear

    packages.fetch(packages.JUDGING)
    sung, spoken = [mixed(song) for song in songs()], [makes.spoken(n) for n in range(8)]
    speech, narrow = ([makes.over_records(n, width) for n in range(12)] for width in (1.0, NEARLY_MONO))
    compared = (SIMILARITY, WEDGE, VOICE)
    tables = [
        table("Songs of oscillators", sung, METHODS),
        table("Synthetic speech among oscillators", spoken, compared),
        table("Recorded speech over records", speech, compared),
        table("Recorded speech over records that are nearly mono", narrow, compared),
        taken(),
        tabulate_forecasts(
            {"oscillators": sung, "synthetic speech": spoken, "recorded speech": speech, "nearly mono": narrow}
        ),
        ear.table(speech),
    ]
    text = TABLE.read_text("utf-8")
    before, _, after = text.partition(BEGIN)
    TABLE.write_text(f"{before}{BEGIN}\n\n{chr(10).join(tables)}\n{END}{after.partition(END)[2]}", "utf-8")


if __name__ == "__main__":
    main()
