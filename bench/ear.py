"""What the ear minds in a separated voice and means over whole files don't show; a part of `make bench-centre`.

- *Smoothing*: the mask averaged over so many frames along time, and what that does to all of the following.
- *Musical noise*: the kurtosis of the power of what stays in the sides, place by place between 200 Hz and 4 kHz, over
  that of what should be there, as log ratio; 0 is none, and single tones that twitter raise it (Uemura et al., IWAENC
  2008, from memory).
- *Before onsets*: how loud the kept voice is in the 50 ms before a consonant or word sets in after silence, over the
  50 ms after it, in dB; a mask that knows the parts shows what the transform itself smears.
- *First and last second*: SDR there of a stretch cut out of its mix, less that of the same second within the whole mix.
"""

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from typing import Final

import numpy as np
import scipy.ndimage
import scipy.signal
import scipy.stats
from numpy.typing import NDArray

from bench.centre import IDEAL, METHODS, RATE, SECONDS, TRANSFORM, VOICE, Block, Parts, sdr
from wedge_turn.core.centre.voice import network, recent

FRAMES: Final = (1, 3, 5)
LEGEND: Final = """On recorded speech over records. Musical noise: how much more the power of what stays varies than it
should (log of the ratio of kurtosis); 0 is none. Before onsets: the kept voice in the 50 ms before it sets in, over the
50 ms after."""
_NEAR: Final = RATE // 20  # 50 ms


def table(mixes: Sequence[Parts]) -> str:
    """The figures as Markdown; printed as they come."""
    lines = [
        "| mask | SDR centre / sides | musical noise | before onsets |",
        "| --- | --- | --- | --- |",
    ]
    for frames in FRAMES:
        name = "voice, as it is" if frames == 1 else f"voice, averaged over {frames} frames"
        with smoothed(frames):
            lines.append(_row(name, mixes, METHODS[VOICE]))
    lines.append(_row(IDEAL, mixes, METHODS[IDEAL]))
    first, last = edges(mixes)
    text = f"Cut out of its mix, a stretch loses {first:.1f} dB in its first second and {last:.1f} dB in its last."
    print(f"  {text}", flush=True)
    return "## Heard closely\n\n" + "\n".join(lines) + f"\n\n{LEGEND}\n\n{text}\n"


def _row(name: str, mixes: Sequence[Parts], method: Callable[[Block, Parts], Parts]) -> str:
    figures = []
    for voice, rest in mixes:
        centre, sides = method(voice + rest, (voice, rest))
        before = before_onsets(voice, centre)
        figures.append([sdr(voice, centre), sdr(rest, sides), musical_noise(rest, sides), before])
    m = np.nanmean(figures, axis=0)
    print(f"  {name:<42}" + "".join(f"{value:8.2f}" for value in m), flush=True)
    return f"| {name} | {m[0]:.1f} / {m[1]:.1f} | {m[2]:.2f} | {m[3]:.0f} dB |"


@contextmanager
def smoothed(frames: int) -> Iterator[None]:
    """The voice mask averaged over so many frames along time."""
    plain, asked = network.compute_shares, recent.get_shares

    def averaged(
        left: network.Spectra, right: network.Spectra, version: int, before: int = 0, after: int = 0
    ) -> NDArray[np.float32]:
        shares = plain(left, right, version, before, after)
        return np.asarray(scipy.ndimage.uniform_filter1d(shares, frames, axis=0), np.float32)

    recent.get_shares = averaged
    try:
        yield
    finally:
        recent.get_shares = asked


def musical_noise(true: Block, found: Block) -> float:
    """Log ratio of the kurtosis of the power of what was found over that of what should be there."""
    lines = slice(int(200 * TRANSFORM.mfft / RATE), int(4_000 * TRANSFORM.mfft / RATE))

    def kurtosis(block: Block) -> float:
        power = np.abs(TRANSFORM.stft(block.mean(axis=1))[lines]) ** 2
        return float(np.mean(scipy.stats.kurtosis(power, axis=1, fisher=False)))

    return float(np.log(kurtosis(found) / kurtosis(true)))


def onsets(voice: Block) -> list[int]:
    """Where the voice sets in after 100 ms that are 40 dB below its loudest 10 ms."""
    step = RATE // 100
    count = len(voice) // step
    level = 10 * np.log10(np.mean(voice[: count * step].reshape(count, -1) ** 2, axis=1) + 1e-12)
    loud = level > level.max() - 25
    quiet = level < level.max() - 40
    starts = [n for n in range(10, count - 10) if loud[n] and not loud[n - 1] and quiet[n - 10 : n - 1].all()]
    return [n * step for n in starts]


def before_onsets(voice: Block, centre: Block) -> float:
    """Energy of the kept voice before its onsets over that of the voice after them, in dB; NaN where there are none."""
    ratios = [
        np.sum(centre[at - _NEAR : at] ** 2) / np.sum(voice[at : at + _NEAR] ** 2)
        for at in onsets(voice)
        if at >= _NEAR
    ]
    return float(10 * np.log10(np.mean(ratios))) if ratios else float("nan")


def edges(mixes: Sequence[Parts]) -> tuple[float, float]:
    """What the first and the last second of a stretch lose against the whole, in dB."""
    start, stop = 3 * RATE, (SECONDS - 3) * RATE
    losses = []
    for voice, rest in mixes:
        part = voice[start:stop], rest[start:stop]
        alone = METHODS[VOICE](part[0] + part[1], part)[1]
        whole = METHODS[VOICE](voice + rest, (voice, rest))[1][start:stop]
        ends = slice(0, RATE), slice(stop - start - RATE, stop - start)
        losses.append([sdr(part[1][end], whole[end]) - sdr(part[1][end], alone[end]) for end in ends])
    first, last = np.mean(losses, axis=0)
    return round(float(first), 1) + 0.0, round(float(last), 1) + 0.0  # no −0.0
