"""Teaching the voice mask.

The error of an excerpt is what the mask leaves of the lead or takes of the rest, after overlap-add; its energy over
that of the mix, in decibels, is the mean of the two signal-to-distortion ratios up to a constant, since what is not
centre is sides. AdamW: Loshchilov and Hutter, ICLR 2019; cosine schedule; running mean of the weights. Which weights
are kept is decided by songs of voices, fonts and records that no excerpt uses.
"""

import queue
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Final

import numpy as np
import scipy.fft
import torch
from torch import Tensor

from bench.learn.excerpts import HOP, SIZE, WINDOW, Batch, Excerpts, spectra
from bench.learn.network import VoiceNetwork, load, save
from bench.learn.shelf import CHOOSING, TEACHING, Shelf
from bench.learn.songs import LEAD
from wedge_turn.core.centre.voice import network as application
from wedge_turn.core.centre.voice.bands import LINES
from wedge_turn.core.centre.voice.features import compute_features

FILE: Final = Path(application.__file__).with_name(f"voice-{application.LATEST}.npz")
FRAMES: Final = 120  # of an excerpt
BATCH: Final = 5
CHECK_EVERY: Final = 500.0  # seconds
_FLOOR: Final = 2e-3  # an error this far below the mix, −27 dB, is as good as none


@dataclass(frozen=True)
class Plan:
    """How long to teach, at which rate at its highest, and from which weights on: of this version, one before it, or
    chance.
    """

    minutes: float = 75.0
    rate: float = 2.5e-3
    start: Path | None = FILE
    seed: int = 0


def teach(plan: Plan, out: Path = FILE) -> None:
    torch.manual_seed(plan.seed)
    network = VoiceNetwork()
    supply = _supply(Excerpts(Shelf(TEACHING), plan.seed + 1, FRAMES))
    if plan.start:
        load(network, plan.start, ((batch.of_bands, batch.of_lines) for batch in supply))
    network.to(memory_format=torch.channels_last)
    chosen = Shelf(CHOOSING)
    best = sum(judged(network, chosen)) if plan.start else -np.inf
    print(f"To begin with {best / 2:.2f} dB", flush=True)
    network.train()
    optimiser = torch.optim.AdamW(network.parameters(), plan.rate, weight_decay=1e-3)
    average = {name: value.clone() for name, value in network.state_dict().items()}
    begun = checked = time.monotonic()
    running, step = 0.0, 0
    while (passed := (time.monotonic() - begun) / (60 * plan.minutes)) < 1:
        for group in optimiser.param_groups:
            group["lr"] = plan.rate * min(1, (step + 1) / 60) * _falling(passed) + 1e-5
        loss = loss_of(network, next(supply))
        optimiser.zero_grad()
        loss.backward()
        torch.nn.utils.clip_grad_norm_(network.parameters(), 5.0)
        optimiser.step()
        step += 1
        running += (loss.item() - running) * max(0.02, 1 / step)
        _average(average, network, min(0.995, (step + 1) / (step + 10)))
        if time.monotonic() - checked > CHECK_EVERY or passed > 0.999:
            best = _keep(network, average, chosen, best, out, f"{step:>6} steps, loss {running:.2f}")
            checked = time.monotonic()
    _keep(network, average, chosen, best, out, f"{step:>6} steps, loss {running:.2f}, the end")


def loss_of(network: VoiceNetwork, batch: Batch) -> Tensor:
    """The mean over a batch of 10·log10(error / mix), dB."""
    share = torch.sigmoid(network(batch.of_bands, batch.of_lines))[:, None]
    error = share * batch.mix - batch.lead
    above = torch.zeros(*error.shape[:-1], SIZE // 2 + 1 - LINES, dtype=error.dtype)
    frames = torch.fft.irfft(torch.cat([error, above], -1), SIZE, dim=-1) * torch.from_numpy(WINDOW)
    added = frames[:, :, 1:, :HOP] + frames[:, :, :-1, HOP:]
    # Of a windowed frame the energy over its lines is SIZE/4 of that over its samples (both halves of the spectrum).
    wrong = (added**2).sum((1, 2, 3)) * (SIZE / 2)
    whole = (batch.mix.real**2 + batch.mix.imag**2).sum((1, 2, 3)) + 1e-3
    return (10 * torch.log10(wrong / whole + _FLOOR)).mean()


def judged(network: VoiceNetwork, shelf: Shelf) -> tuple[float, float]:
    """Mean SDR of lead and rest over the songs of a shelf, dB."""
    network.eval()
    figures = []
    for name in shelf.names:
        stored, factors = shelf.song(name)
        waves = {stem: stored[n].T.astype(np.float32) * factor for n, (stem, factor) in enumerate(factors.items())}
        lead = waves.pop(LEAD)
        rest = np.sum(list(waves.values()), axis=0)
        centre = _centre(network, lead + rest)
        figures.append([_sdr(lead, centre), _sdr(rest, lead + rest - centre)])
    network.train()
    centre_sdr, sides_sdr = np.mean(figures, axis=0)
    return float(centre_sdr), float(sides_sdr)


def _centre(network: VoiceNetwork, mix: np.ndarray) -> np.ndarray:
    padded = np.pad(mix, ((0, 0), (HOP, HOP + -mix.shape[1] % HOP)))
    spectrum = spectra(padded)
    of_bands, of_lines = compute_features(spectrum[0], spectrum[1])
    with torch.no_grad():
        seen = (
            torch.from_numpy(of_bands)[None].permute(0, 3, 1, 2),
            torch.from_numpy(of_lines)[None].permute(0, 1, 3, 2),
        )
        share = torch.sigmoid(network(*seen))[0].numpy()
    whole = np.zeros((2, spectrum.shape[1], SIZE // 2 + 1), np.complex64)
    whole[..., :LINES] = share * spectrum
    frames = scipy.fft.irfft(whole, SIZE, axis=-1) * WINDOW
    out = np.zeros(padded.shape, np.float32)
    for n in range(frames.shape[1]):
        out[:, n * HOP : n * HOP + SIZE] += frames[:, n]
    return out[:, HOP : HOP + mix.shape[1]]


def _sdr(true: np.ndarray, estimate: np.ndarray) -> float:
    return float(10 * np.log10(np.sum(true**2) / np.sum((true - estimate) ** 2)))


def _falling(passed: float) -> float:
    """1 for the first fifth, then down along a cosine."""
    return float(0.5 * (1 + np.cos(np.pi * min(1, max(0, passed - 0.2) / 0.8))))


def _average(average: dict[str, Tensor], network: VoiceNetwork, share: float) -> None:
    with torch.no_grad():
        for name, value in network.state_dict().items():
            if value.is_floating_point():
                average[name].mul_(share).add_(value, alpha=1 - share)
            else:
                average[name].copy_(value)


def _keep(
    network: VoiceNetwork, average: dict[str, Tensor], chosen: Shelf, best: float, out: Path, about: str
) -> float:
    """Judge the averaged weights and write them if they are the best so far; returns the best sum of both figures."""
    now = {name: value.clone() for name, value in network.state_dict().items()}
    network.load_state_dict(average)
    centre, sides = judged(network, chosen)
    if centre + sides > best:
        save(network, out)
    network.load_state_dict(now)
    print(f"{about}: {centre:.2f} / {sides:.2f} dB{' (kept)' if centre + sides > best else ''}", flush=True)
    return max(best, centre + sides)


def _supply(excerpts: Excerpts) -> Iterator[Batch]:
    """Batches, made ahead by a thread of their own."""
    ahead: queue.Queue[Batch] = queue.Queue(3)

    def fill() -> None:
        while True:
            ahead.put(excerpts.batch(BATCH))

    threading.Thread(target=fill, daemon=True).start()
    while True:
        yield ahead.get()
