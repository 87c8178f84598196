"""Excerpts to teach on: the lead of one song over the rest of the same or another, gains, widths, speeds, coding and
mastering by chance, so that no two are alike.
"""

import io
from typing import Final, NamedTuple

import numpy as np
import scipy.fft
import scipy.ndimage
import scipy.signal
import soundfile
import torch
from numpy.typing import NDArray
from torch import Tensor

from bench.learn import RATE
from bench.learn.shelf import Shelf
from bench.learn.songs import LEAD
from wedge_turn.core.centre.voice.bands import LINES
from wedge_turn.core.centre.voice.features import compute_features

Singles = NDArray[np.float32]
SIZE: Final = 4_096
HOP: Final = SIZE // 2
WINDOW: Final = np.sqrt(scipy.signal.windows.hann(SIZE, sym=False)).astype(np.float32)
_DROPPED: Final = {
    "bass": 0.07,
    "drums": 0.08,
    "first": 0.12,
    "second": 0.12,
    "solo": 0.3,
    "applause": 0.3,
    "rooms": 0.15,
    "backing": 0.1,
}
_NO_LEAD: Final = 0.04
_FORMANTS: Final = 0.15  # leads of formants, besides those that come by chance


class Batch(NamedTuple):
    """Spectra of the lead and of the mix, (batch, 2, frames, lines); features of the mix as the network takes them."""

    lead: Tensor
    mix: Tensor
    of_bands: Tensor
    of_lines: Tensor


def samples(frames: int) -> int:
    return (frames - 1) * HOP + SIZE


def spectra(wave: Singles) -> NDArray[np.complex64]:
    """(2, frames, LINES) of (2, samples)."""
    framed = np.lib.stride_tricks.sliding_window_view(wave, SIZE, axis=-1)[..., ::HOP, :] * WINDOW
    return np.ascontiguousarray(scipy.fft.rfft(framed, axis=-1)[..., :LINES])


class Excerpts:
    """An endless, seeded supply."""

    def __init__(self, shelf: Shelf, seed: int, frames: int) -> None:
        self._shelf = shelf
        self._rng = np.random.default_rng(seed)
        self._samples = samples(frames)
        self._formants = shelf.find("formants")

    def batch(self, count: int) -> Batch:
        rows = [self._row() for _ in range(count)]
        lead, mix, of_bands, of_lines = (torch.from_numpy(np.stack(part)) for part in zip(*rows, strict=True))
        return Batch(lead, mix, of_bands.permute(0, 3, 1, 2), of_lines.permute(0, 1, 3, 2))

    def _row(self) -> tuple[NDArray[np.complex64], NDArray[np.complex64], Singles, Singles]:
        lead, mix = (spectra(np.ascontiguousarray(_cut_out(wave).T)) for wave in self.excerpt())
        if self._rng.random() < 0.25:
            tilt = self._rng.uniform(-1.5, 1.5) * np.log2(np.maximum(np.arange(LINES), 2) / 93)
            gain = (10 ** (tilt / 20)).astype(np.float32)
            lead, mix = lead * gain, mix * gain
        return lead, mix, *compute_features(mix[0], mix[1])

    def excerpt(self) -> tuple[Singles, Singles]:
        """The lead, and the mix that it is part of, (samples, 2) each."""
        rng, names = self._rng, self._shelf.names
        name, speed = self._any(self._formants if rng.random() < _FORMANTS else names), self._speed()
        sings = rng.random() > _NO_LEAD
        lead, at = self._cut(name, {LEAD: self._gain(2.5)} if sings else {}, speed)
        kind = rng.random()
        if kind < 0.35:
            rest, _ = self._cut(name, self._gains(name), speed, at)
        elif kind < 0.75:
            other = self._any(names)
            rest, _ = self._cut(other, self._gains(other), self._speed())
        else:
            rest = np.zeros_like(lead)
            for other in (self._any(names), self._any(names)):
                some = {stem: gain for stem, gain in self._gains(other).items() if rng.random() < 0.5}
                rest += self._cut(other, some, self._speed())[0]
        if rng.random() < 0.5:
            lead, rest = lead[:, ::-1], rest[:, ::-1]
        width = rng.random()
        if width < 0.35:
            rest = _width(rest, float(rng.uniform(0.35, 1.3)))
        elif width < 0.55:  # narrow to nearly mono
            rest = _width(rest, float(rng.uniform(0, 0.35)))
        lead, mix = self._mastered(lead, lead + rest)
        volume = np.float32(self._gain(5))
        return lead * volume, mix * volume

    def _mastered(self, lead: Singles, mix: Singles) -> tuple[Singles, Singles]:
        """What happens to a mix as a whole: compression in 1 of 3, limiting in 1 of 6, a lossy coder in 1 of 8."""
        rng = self._rng
        if rng.random() < 0.33:
            level = np.sqrt(scipy.ndimage.uniform_filter1d(np.sum(mix**2, axis=1), RATE // 10) + 1e-9)
            level /= np.sqrt(np.mean(level**2))
            gain = (np.maximum(level, 0.3) ** -float(rng.uniform(0.2, 0.6))).astype(np.float32)[:, None]
            lead, mix = lead * gain, mix * gain
        if rng.random() < 0.17:
            peak = scipy.ndimage.maximum_filter1d(np.abs(mix).max(axis=1), 441)
            peak = scipy.ndimage.uniform_filter1d(peak, 441)
            most = float(np.quantile(peak, rng.uniform(0.3, 0.9))) + 1e-6
            gain = np.minimum(1, most / np.maximum(peak, 1e-9)).astype(np.float32)[:, None]
            lead, mix = lead * gain, mix * gain
        if rng.random() < 0.12:
            mix = coded(mix, str(rng.choice(["MP3", "OGG"])), float(rng.uniform(0.3, 0.9)))
        return lead, mix

    def _any(self, names: list[str]) -> str:
        return names[int(self._rng.integers(len(names)))]

    def _speed(self) -> float:
        return float(self._rng.choice([1, self._rng.uniform(0.87, 1.15)]))

    def _gain(self, spread: float) -> float:
        return float(10 ** (self._rng.normal(0, spread) / 20))

    def _gains(self, name: str) -> dict[str, float]:
        stems = (stem for stem in self._shelf.song(name)[1] if stem != LEAD)
        return {stem: self._gain(2.5) for stem in stems if self._rng.random() >= _DROPPED.get(stem, 0.03)}

    def _cut(self, name: str, gains: dict[str, float], speed: float, at: int | None = None) -> tuple[Singles, int]:
        """Stems of a song by their gains, (samples, 2), from frame `at` or anywhere, and that frame."""
        stored, factors = self._shelf.song(name)
        need = int(self._samples * speed) + 2
        at = int(self._rng.integers(0, max(1, stored.shape[1] - need))) if at is None else at
        there = min(need, stored.shape[1] - at)
        out = np.zeros((there, 2), np.float32)
        for n, (stem, factor) in enumerate(factors.items()):
            if stem in gains:
                out += stored[n, at : at + need] * np.float32(gains[stem] * factor)
        if speed != 1:
            place = np.arange(self._samples) * speed
            below = place.astype(np.int64).clip(0, there - 2)
            share = (place - below).astype(np.float32)[:, None]
            out = out[below] * (1 - share) + out[below + 1] * share
        out = out[: self._samples]
        return np.pad(out, ((0, self._samples - len(out)), (0, 0))), at


def _cut_out(wave: Singles) -> Singles:
    """Silence where the first and the last frame reach beyond it, as at the ends of a file."""
    out = wave.copy()
    out[:HOP], out[-HOP:] = 0, 0
    return out


def _width(wave: Singles, width: float) -> Singles:
    return np.asarray(wave @ (np.array([[1 + width, 1 - width], [1 - width, 1 + width]], np.float32) / 2))


def coded(mix: Singles, container: str, quality: float) -> Singles:
    """What a lossy coder (MP3, or Vorbis as OGG) leaves of a mix, in its place; quality 0 … 1."""
    loudest = float(np.abs(mix).max())
    if loudest == 0:
        return mix
    file = io.BytesIO()
    subtype = {"MP3": "MPEG_LAYER_III", "OGG": "VORBIS"}[container]
    with soundfile.SoundFile(file, "w", RATE, 2, subtype, format=container, compression_level=1 - quality) as out:
        for start in range(0, len(mix), 65_536):
            out.write(mix[start : start + 65_536] / loudest * 0.7)
    file.seek(0)
    back = soundfile.read(file, dtype="float32", always_2d=True)[0]
    late = _lateness(mix[:, 0], back[:, 0])
    back = np.pad(back[late:], ((0, max(0, len(mix) - len(back) + late)), (0, 0)))[: len(mix)]
    return np.asarray(back * (loudest / 0.7), np.float32)


def _lateness(before: Singles, after: Singles) -> int:
    """Samples by which a coder is late, by cross-correlation."""
    size = scipy.fft.next_fast_len(len(before) + len(after))
    like = scipy.fft.irfft(scipy.fft.rfft(after, size) * np.conj(scipy.fft.rfft(before, size)), size)
    return int(np.argmax(like[:4_096]))
