"""The layers of the voice mask, float32. Sizes are written frames × bands × channels; beyond an edge lies silence.

Products of matrices are left to NumPy, a few frames at a time, so that what a layer needs stays in the processor's
cache. Convolution as a product with unrolled columns: Chellapilla, Puri and Simard, IWFHR 2006 (from memory).
"""

from typing import Final

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.centre.voice.bands import FRACTION, LOWER
from wedge_turn.core.jit import kernel

Singles = NDArray[np.float32]
_TOGETHER: Final = 4  # frames in a product


def convolution(x: Singles, weights: Singles, bias: Singles, *, step: int = 1, dilation: int = 1) -> Singles:
    """Rectified convolution of x, (frames, bands, n), with weights (frames, bands, n, m) and bias (m,).

    Returns (frames, bands / step, m). `step` is along bands, `dilation` along frames.
    """
    tall, wide, channels, out_channels = weights.shape
    frames, bands, _ = x.shape
    above, beside = dilation * (tall // 2), wide // 2
    padded = np.zeros((frames + 2 * above, bands + 2 * beside, channels), np.float32)
    padded[above : above + frames, beside : beside + bands] = x
    out_bands = (bands + 2 * beside - wide) // step + 1
    by_frame, by_band, by_channel = padded.strides
    rows = np.lib.stride_tricks.as_strided(
        padded, (len(padded), out_bands, wide * channels), (by_frame, by_band * step, by_channel), writeable=False
    )
    matrix = np.ascontiguousarray(weights.reshape(-1, out_channels))
    columns = np.empty((_TOGETHER, out_bands, tall, wide * channels), np.float32)
    out = np.empty((frames, out_bands, out_channels), np.float32)
    for start in range(0, frames, _TOGETHER):
        count = min(_TOGETHER, frames - start)
        for t in range(tall):
            columns[:count, :, t] = rows[start + t * dilation : start + t * dilation + count]
        part = out[start : start + count].reshape(-1, out_channels)
        np.matmul(columns[:count].reshape(count * out_bands, -1), matrix, out=part)
        part += bias
        np.maximum(part, 0, out=part)
    return out


def mix(x: Singles, weights: Singles, bias: Singles, *, rectified: bool = False) -> Singles:
    """The channels of x, (…, n), mixed by weights (n, m) and bias (m,): (…, m)."""
    out = x.reshape(-1, x.shape[-1]) @ weights
    out += bias
    if rectified:
        np.maximum(out, 0, out=out)
    return out.reshape(*x.shape[:-1], -1)


def residual(x: Singles, near: tuple[Singles, Singles], back: tuple[Singles, Singles], dilation: int) -> Singles:
    """Rectified x + mix(convolution(x)), of the size of x."""
    out = mix(convolution(x, *near, dilation=dilation), *back)
    out += x
    return np.maximum(out, 0, out=out)


def across(
    x: Singles,
    narrow: tuple[Singles, Singles],
    whole: tuple[Singles, Singles],
    apart: tuple[Singles, Singles],
    widen: tuple[Singles, Singles],
) -> Singles:
    """x, (frames, bands, n), plus what all bands of a frame say together: mixed down to few channels, all of a frame
    through two full layers, and mixed back to n.
    """
    few = mix(x, *narrow, rectified=True)
    flat = few.reshape(len(few), -1)
    across_bands = mix(mix(flat, *whole, rectified=True), *apart, rectified=True)
    return x + mix(across_bands.reshape(few.shape), *widen)


def upward(x: Singles, lift: tuple[Singles, Singles], level: Singles, smooth: tuple[Singles, Singles]) -> Singles:
    """x, (frames, bands, n), to twice the bands: mixed, repeated, `level` (frames, 2 bands, m) added, and convolved."""
    out = np.repeat(mix(x, *lift), 2, axis=1)
    out += level
    return convolution(np.maximum(out, 0, out=out), *smooth)


def shares(
    context: Singles, seen: Singles, first: Singles, second: tuple[Singles, Singles], third: tuple[Singles, Singles]
) -> Singles:
    """How much of each line is voice, 0 … 1, (frames, lines).

    `context` is (frames, 1 + h, bands): a first opinion, and h figures that `seen`, the features of lines (frames, n,
    lines), are judged with; `first` is (n, h), `second` (h, h) and (h,), `third` (h, 1) and (1,).
    """
    hidden, lines = first.shape[1], seen.shape[2]
    (inner, inner_bias), (last, last_bias) = second, third
    spread, hid = np.empty((1 + hidden, lines), np.float32), np.empty((hidden, lines), np.float32)
    out = np.empty((len(seen), lines), np.float32)
    w1, w2, w3 = (np.ascontiguousarray(weights.T) for weights in (first, inner, last))
    for frame in range(len(seen)):
        _spread(context[frame], LOWER, FRACTION, spread)
        np.matmul(w1, seen[frame], out=hid)
        hid += spread[1:]
        np.maximum(hid, 0, out=hid)
        inside = w2 @ hid
        inside += inner_bias[:, None]
        np.maximum(inside, 0, out=inside)
        logits = (w3 @ inside)[0]
        logits += spread[0]
        logits += last_bias
        _squash(logits, out[frame])
    return out


@kernel()
def _spread(bands, lower, fraction, out):  # type: ignore[no-untyped-def]
    """From bands to lines, linearly between the bands' centres."""
    for n in range(out.shape[0]):
        for line in range(out.shape[1]):
            at = bands[n, lower[line]]
            out[n, line] = at + fraction[line] * (bands[n, lower[line] + 1] - at)


@kernel(fastmath={"contract", "arcp"})
def _squash(logits, out):  # type: ignore[no-untyped-def]
    for n in range(out.size):
        out[n] = np.float32(1) / (np.float32(1) + np.exp(-logits[n]))
