"""The inner loops of the wedge, compiled once by Numba; float32, which adds up to −120 dBFS and better."""

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.jit import kernel

Singles = NDArray[np.float32]
Spectra = NDArray[np.complex64]


@kernel(fastmath={"contract", "nnan", "ninf", "nsz", "arcp"})
def measure_energies(
    left: Spectra, right: Spectra, both: Singles, lean: Singles, difference: Singles, across: Singles
) -> None:
    """Of each frame and line: A + B, A − B, |L − R|² and Im(L·R*), with A = |L|², B = |R|²; all (frames, lines)."""
    for f in range(left.shape[0]):
        for j in range(left.shape[1]):
            lr, li, rr, ri = left[f, j].real, left[f, j].imag, right[f, j].real, right[f, j].imag
            a, b = lr * lr + li * li, rr * rr + ri * ri
            dr, di = lr - rr, li - ri
            both[f, j] = a + b
            lean[f, j] = a - b
            difference[f, j] = dr * dr + di * di
            across[f, j] = li * rr - lr * ri


# How much of the centre of a channel is its own, the rest what both channels make together.
OWN = 0.5


@kernel(error_model="numpy", fastmath={"contract", "nnan", "ninf", "nsz", "arcp"})
def extract(
    left: Spectra,
    right: Spectra,
    both: Singles,
    lean: Singles,
    difference: Singles,
    across: Singles,
    band: Singles,
    strength: float,
    opening: float,
    depth: float,
    centre_left: Spectra,
    centre_right: Spectra,
) -> None:
    """The centre of each frame but the first and the last, (frames − 2, lines), of either channel.

    Energies are averaged over three frames.
    """
    zero, half, one, two = np.float32(0.0), np.float32(0.5), np.float32(1.0), np.float32(2.0)
    tiny = np.float32(1e-30)
    width = np.float32(1.0 / opening)
    power = np.float32(strength)
    usual = abs(strength - 1.5) < 1e-6  # a root is far quicker than a power
    own, shared = np.float32(OWN), np.float32(0.5 * (1.0 - OWN))
    for f in range(centre_left.shape[0]):
        for j in range(centre_left.shape[1]):
            total = both[f, j] + both[f + 1, j] + both[f + 2, j] + tiny
            unlike = difference[f, j] + difference[f + 1, j] + difference[f + 2, j]
            # A room turns the phase of a note in each ear; what goes together all the same is forgiven a part of it.
            real = half * (total - unlike)
            turned = across[f, j] + across[f + 1, j] + across[f + 2, j]
            if real > zero:
                unlike -= real * (one - real / (np.sqrt(real * real + turned * turned) + tiny))
            square = min(one, max(zero, half * unlike / total))
            gain = max(zero, one - np.sqrt(square) * width)
            if band[j] == zero or gain == zero:
                centre_left[f, j] = centre_right[f, j] = 0.0
                continue
            gain = gain * np.sqrt(gain) if usual else gain**power
            leans = lean[f, j] + lean[f + 1, j] + lean[f + 2, j]
            k = np.float32(0.6) * leans / total / (two * square + np.float32(0.02))
            k = min(one, max(-one, k))
            gain *= band[j] * np.float32(depth)
            together = shared * ((one - k) * left[f + 1, j] + (one + k) * right[f + 1, j])
            centre_left[f, j] = (own * left[f + 1, j] + together) * gain
            centre_right[f, j] = (own * right[f + 1, j] + together) * gain


@kernel()
def cut_frames(signal: Singles, hop: int, window: Singles, out: Singles) -> None:
    """Frames of one channel at multiples of the hop, times the window; `out` is (frames, size)."""
    for f in range(out.shape[0]):
        at = f * hop
        for n in range(out.shape[1]):
            out[f, n] = signal[at + n] * window[n]


@kernel()
def overlap_add(frames: Singles, hop: int, window: Singles, first: int, out: Singles) -> None:
    """Add windowed frames into `out`, whose sample 0 lies `first` samples after the start of frame 0."""
    for f in range(frames.shape[0]):
        at = f * hop - first
        for n in range(max(0, -at), min(frames.shape[1], out.size - at)):
            out[at + n] += frames[f, n] * window[n]


@kernel(fastmath={"contract", "nnan", "ninf", "nsz"})
def measure_power(left: Spectra, right: Spectra) -> Singles:
    """|L|² + |R|² of each frame and line."""
    out = np.empty(left.shape, np.float32)
    for f in range(left.shape[0]):
        for j in range(left.shape[1]):
            lr, li, rr, ri = left[f, j].real, left[f, j].imag, right[f, j].real, right[f, j].imag
            out[f, j] = lr * lr + li * li + rr * rr + ri * ri
    return out


def warm_up() -> None:
    """Compile everything for the types it is called with."""
    spectra, singles = np.zeros((3, 4), np.complex64), np.zeros((3, 4), np.float32)
    measure_energies(spectra, spectra, *(singles.copy() for _ in range(4)))
    centres = spectra[:1].copy(), spectra[1:2].copy()
    extract(spectra, spectra, singles, singles, singles, singles, singles[0], 1.5, 1.0, 1.0, *centres)
    measure_power(spectra, spectra)
    cut_frames(np.zeros(8, np.float32), 2, np.ones(4, np.float32), singles)
    overlap_add(singles, 2, np.ones(4, np.float32), 0, np.zeros(8, np.float32))
