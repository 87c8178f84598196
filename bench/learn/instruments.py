"""Instruments of a sound font, played by libfluidsynth (package libfluidsynth3), and drums of single recorded hits."""

import ctypes
from collections.abc import Sequence
from functools import cache
from pathlib import Path
from typing import Final, NamedTuple

import numpy as np
import scipy.signal
import soundfile
from numpy.random import Generator
from numpy.typing import NDArray

from bench.learn import FRAMES, RATE, SECONDS, packages

Wave = NDArray[np.float64]
DRUM_CHANNEL: Final = 9
DRUM_BANK: Final = 128


class Note(NamedTuple):
    """Start and length in seconds, MIDI key, velocity 1 … 127."""

    start: float
    length: float
    key: int
    velocity: float


class Font:
    """A synthesiser without reverb and chorus, with every font of one purpose loaded once."""

    def __init__(self, fonts: Sequence[Path]) -> None:
        self._library = _library()
        settings = ctypes.c_void_p(self._library.new_fluid_settings())
        self._library.fluid_settings_setnum(settings, b"synth.sample-rate", ctypes.c_double(RATE))
        self._library.fluid_settings_setnum(settings, b"synth.gain", ctypes.c_double(0.4))
        for effect in (b"synth.reverb.active", b"synth.chorus.active"):
            self._library.fluid_settings_setint(settings, effect, 0)
        self._synth = ctypes.c_void_p(self._library.new_fluid_synth(settings))
        self._ids = [self._library.fluid_synth_sfload(self._synth, str(path).encode(), 0) for path in fonts]
        if not self._ids or min(self._ids) < 0:
            raise FileNotFoundError(f"a sound font can't be loaded: {', '.join(map(str, fonts))}")

    def play(self, rng: Generator, program: int, notes: Sequence[Note], *, drums: bool = False) -> Wave:
        """(FRAMES, 2): the notes, played by a General MIDI program of one of the fonts."""
        font = self._ids[0 if len(self._ids) == 1 or rng.random() < 0.6 else 1]
        channel = DRUM_CHANNEL if drums else 0
        self._library.fluid_synth_system_reset(self._synth)
        bank = DRUM_BANK if drums else 0
        if self._library.fluid_synth_program_select(self._synth, channel, font, bank, program) != 0:
            self._library.fluid_synth_program_select(self._synth, channel, font, bank, 0)
        events: list[tuple[int, int, int, int]] = []
        for note in notes:
            start = max(note.start, 0.0)
            if start < SECONDS and note.length > 0.02:
                events.append((int(start * RATE), 1, note.key, int(np.clip(note.velocity, 1, 127))))
                events.append((int((start + note.length) * RATE), 0, note.key, 0))
        out, at = np.zeros((2, FRAMES), np.float32), 0
        for frame, on, key, velocity in [*sorted(events), (FRAMES, 0, 0, 0)]:
            end = min(frame, FRAMES)
            if end > at:
                left, right = (ctypes.c_void_p(channel_out.ctypes.data) for channel_out in out)
                self._library.fluid_synth_write_float(self._synth, end - at, left, at, 1, right, at, 1)
                at = end
            if on:
                self._library.fluid_synth_noteon(self._synth, channel, key, velocity)
            else:
                self._library.fluid_synth_noteoff(self._synth, channel, key)
        return out.T.astype(np.float64)


@cache
def _library() -> ctypes.CDLL:
    library = ctypes.CDLL("libfluidsynth.so.3")
    library.new_fluid_settings.restype = library.new_fluid_synth.restype = ctypes.c_void_p
    return library


@cache
def font(sounds: packages.Sounds) -> Font:
    return Font(packages.files(sounds.fonts))


@cache
def _hits(sounds: packages.Sounds) -> dict[str, list[Path]]:
    """Recorded hits by kind, as far as their names tell."""
    words = {
        "kick": ("kick", "bd", "bass"), "snare": ("snare", "sd", "clap", "rim", "stick"), "hat": ("hat", "hh", "ride"),
        "crash": ("crash", "cymb"), "tom": ("tom", "conga", "bongo"),
    }  # fmt: skip
    paths = packages.files(sounds.drums)
    return {kind: [p for p in paths if any(w in p.stem.lower() for w in some)] for kind, some in words.items()}


def hits(rng: Generator, sounds: packages.Sounds, kind: str, times: Sequence[float]) -> Wave | None:
    """(FRAMES, 2): one recorded hit at each time, a little louder or softer; None where there are none of its kind."""
    paths = _hits(sounds)[kind]
    if not paths:
        return None
    hit = recording(paths[int(rng.integers(len(paths)))], 2.5)
    out = np.zeros((FRAMES, 2))
    for time in times:
        start = int(max(0.0, time) * RATE)
        length = min(len(hit), FRAMES - start)
        if length > 0:
            out[start : start + length] += hit[:length] * 10 ** (rng.normal(0, 1.5) / 20)
    return out


def recording(path: Path, seconds: float, start: float = 0.0) -> Wave:
    """(frames, 2): up to so many seconds of a file, at RATE."""
    with soundfile.SoundFile(path) as file:
        file.seek(min(file.frames, int(start * file.samplerate)))
        block = file.read(int(seconds * file.samplerate), always_2d=True)[:, :2]
        rate = file.samplerate
    if block.shape[1] == 1:
        block = np.repeat(block, 2, axis=1)
    if rate != RATE:
        block = scipy.signal.resample_poly(block, RATE, rate, axis=0)
    return np.asarray(block)
