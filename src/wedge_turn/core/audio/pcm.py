"""Between raw PCM bytes and float64 blocks of shape (frames, channels).

Decoding and encoding an unchanged block returns the same bytes for every encoding.

A float sample that is NaN, infinite or beyond ±10^6 (+120 dBFS) is **damage**: no converter and no mix makes one. It
becomes silence when decoded, so nothing downstream ever sees one, and `count_damaged` counts them. What is made here is
held within the same limit when it is written as float, and counted as clipped where it went beyond.

Quantising rounds to nearest, ties to even (IEEE 754 rounding), and counts what does not fit. Triangular dither of
±1 step makes the error independent of the signal in mean and variance: Lipshitz, Wannamaker and Vanderkooy,
J. Audio Eng. Soc. 40 (1992).
"""

from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from wedge_turn.core.audio import kernels
from wedge_turn.core.form import Encoding
from wedge_turn.core.jit import use_kernel

LIMIT: Final = 1e6  # +120 dBFS
Block = NDArray[np.float64]
Raw = NDArray[np.uint8]


def decode(raw: Raw, encoding: Encoding, channels: int) -> Block:
    """Samples of whole frames of raw bytes, as float64 (frames, channels)."""
    match encoding.name:
        case "u8":
            flat = (raw.astype(np.float64) - 128.0) / 128.0
        case "s16":
            flat = raw.view("<i2") / 32768.0
        case "s24":
            flat = np.empty(raw.size // 3)
            _unpack_s24(raw, flat, 2.0**-23)
        case "s32":
            flat = raw.view("<i4") / 2147483648.0
        case "f32":
            flat = raw.view("<f4").astype(np.float64)
        case "f64":
            flat = raw.view("<f8").astype(np.float64)
    if encoding.is_float:
        damaged = ~(np.abs(flat) <= LIMIT)
        if damaged.any():
            flat[damaged] = 0.0
    return flat.reshape(-1, channels)


def integers_at_top(raw: Raw, encoding: Encoding) -> NDArray[np.int32]:
    """Integers of whole samples at the top of 32 bits, one for each."""
    match encoding.name:
        case "u8":
            return (raw.astype(np.int32) - 128) << 24
        case "s16":
            return raw.view("<i2").astype(np.int32) << 16
        case "s24":
            integers = np.empty(raw.size // 3, np.int32)
            integers_s24(raw, integers)
            integers <<= 8
            return integers
        case "s32":
            return raw.view("<i4")
        case _:
            raise ValueError(f"{encoding.name} holds no integers")


def integers_s24(raw: Raw, out: NDArray[np.int32]) -> None:
    """24-bit integers as they are; `out` is flat, one value for three bytes of `raw`."""
    _unpack_s24(raw, out, 1)


def _unpack_s24(raw: Raw, out: NDArray[Any], scale: Any) -> None:
    if not use_kernel(raw.size):
        np.multiply(_integers_s24(raw), scale, out=out)
        return
    whole_groups = raw.size // 24 * 24
    kernels.words_to_integers(raw[:whole_groups].view(np.uint64), out, scale)
    if whole_groups < raw.size:
        kernels.bytes_to_integers(raw, whole_groups // 3, out, scale)


def _integers_s24(raw: Raw) -> NDArray[np.int32]:
    """24-bit integers by NumPy: four bytes from every third on, of which the last is shifted out."""
    integers = np.empty(raw.size // 3, np.int32)
    if integers.size:
        integers[:-1] = np.ndarray(integers.size - 1, "<i4", raw, strides=(3,))
        integers[-1:].view(np.uint8)[:3] = raw[-3:]  # no fourth byte lies behind it
        integers <<= 8
        integers >>= 8
    return integers


def count_damaged(raw: Raw, encoding: Encoding) -> int:
    """How many float samples are NaN, infinite or beyond ±10^6."""
    if not encoding.is_float:
        return 0
    samples = raw.view("<f4" if encoding.name == "f32" else "<f8")
    return int(np.count_nonzero(~(np.abs(samples) <= LIMIT)))


def full_scale(encoding: Encoding) -> tuple[float, float]:
    """The lowest and the highest sample that an encoding stores: full scale of integers, ±10^6 of floats."""
    return (-LIMIT, LIMIT) if encoding.is_float else (-1.0, 1.0 - step_size(encoding))


def step_size(encoding: Encoding) -> float:
    """The distance between two neighbouring samples of an integer encoding; full scale is 1."""
    return 2.0 ** (1 - encoding.bits)


def quantise_block(block: Block, encoding: Encoding | None) -> Block:
    """Samples rounded to an integer encoding, not clipped; floats, and what has no encoding, as they are."""
    if encoding is None or encoding.is_float:
        return block
    size = step_size(encoding)
    on_grid: Block = np.rint(block / size) * size
    return on_grid


def encode(
    block: Block, encoding: Encoding, dither: int | None = None, start: int = 0, *, sparing: bool = False
) -> tuple[Raw, NDArray[np.int64]]:
    """Raw bytes of a (frames, channels) block, and how many samples clipped in each channel.

    `dither` is the seed of triangular noise of ±1 step that is added before rounding; with `start`, the block's first
    frame in the file, the noise is the same however the file is cut into blocks. None rounds alone. `sparing`
    leaves samples that the encoding holds as they are.
    """
    channels = block.shape[1]
    if encoding.is_float:
        over = np.abs(block) > LIMIT
        clipped = np.count_nonzero(over, axis=0) if over.any() else np.zeros(channels, np.int64)
        stored = (np.clip(block, -LIMIT, LIMIT) if clipped.any() else block).astype(
            "<f4" if encoding.name == "f32" else "<f8"
        )
        return stored.reshape(-1).view(np.uint8), clipped
    flat, clipped = np.empty(block.size, np.int32), np.zeros(channels, np.int64)
    seed: Any = np.uint64(dither or 0)  # 64 bits, all of them
    scale = 2.0 ** (encoding.bits - 1)
    kernels.quantise(block.reshape(-1), scale, dither is not None, sparing, seed, start, flat, clipped)
    match encoding.name:
        case "u8":
            return (flat + 128).astype(np.uint8), clipped
        case "s16":
            return flat.astype("<i2").view(np.uint8), clipped
        case "s32":
            return flat.view(np.uint8), clipped
        case _:
            raw = np.empty(flat.size * 3, np.uint8)
            kernels.encode_s24(flat, raw)
            return raw, clipped
