"""Mixes of integers against NumPy on whole arrays: what is written, and what of it is found to differ."""

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from support.helpers import Ints, noise, write_wav
from wedge_turn.core.audio import WavFile, encode
from wedge_turn.core.audio.pcm import decode
from wedge_turn.core.clips import Clip, make_clip
from wedge_turn.core.clips.engine import apply
from wedge_turn.core.delivery.mixing import TILE, IntegerMix, Mix
from wedge_turn.core.form import ENCODINGS, EncodingName
from wedge_turn.core.turns import MatrixOutcome, Output

FRAMES = 500
gains = st.sampled_from([0.0, 0.25, 0.5, -0.5, 1.0, -1.0, 0.3, -0.7])
squares = st.lists(st.lists(gains, min_size=2, max_size=2), min_size=2, max_size=2).map(np.array)
ORDERS = [np.array(rows, float) for rows in ([[1, 0], [0, 1]], [[0, 1], [1, 0]], [[-1, 0], [0, 1]], [[0, -1], [-1, 0]])]


def stereo(folder: Path, seed: int, frames: int = FRAMES, encoding: EncodingName = "s24") -> tuple[Clip, Ints]:
    ints = noise(seed, frames, 2, {"s16": 16, "s24": 24, "s32": 32}[encoding]) // 2
    return make_clip(WavFile(write_wav(folder / f"{seed}-{encoding}.wav", ints, encoding=encoding))), ints


def turned(clip: Clip, matrix: np.ndarray) -> Clip:
    (made,) = apply(MatrixOutcome((Output("x", clip.form),), matrix, (0, 0), clip.form.frames), [clip])
    return made


def ints_of(mixed: Mix, encoding: EncodingName) -> Ints:
    stored = ENCODINGS[encoding]
    return np.rint(decode(mixed.raw, stored, 2) * 2.0 ** (stored.bits - 1)).astype(np.int64)


@pytest.mark.parametrize(("encoding", "into"), [("s16", "s16"), ("s24", "s24"), ("s32", "s32"), ("s24", "s32")])
@pytest.mark.parametrize("frames", [FRAMES, 480])
@given(matrix=squares)
def test_a_mix_is_the_rounded_product(
    encoding: EncodingName,
    into: EncodingName,
    frames: int,
    tmp_path_factory: pytest.TempPathFactory,
    matrix: np.ndarray,
) -> None:
    clip, ints = stereo(tmp_path_factory.mktemp("mix"), 1, encoding=encoding)
    mix = IntegerMix.of(turned(clip, matrix), ENCODINGS[into])
    if not matrix.any():
        assert mix is None
        return
    assert mix is not None
    mixed = mix.read(0, frames)
    exact = ints[:frames] @ matrix.T * 2.0 ** (ENCODINGS[into].bits - ENCODINGS[encoding].bits)
    highest = 2.0 ** (ENCODINGS[into].bits - 1)
    # Gains like 0.3 are not exact: a product may lie on either side of a half.
    assert np.abs(ints_of(mixed, into) - np.clip(exact, -highest, highest - 1)).max() <= 0.5 + 1e-6
    assert mixed.clipped.tolist() == ((np.rint(exact) > highest - 1) | (np.rint(exact) < -highest)).sum(axis=0).tolist()


@pytest.mark.parametrize("matrix", [[[-1.0, 0.0], [0.0, 1.0]], [[-0.5, -0.5], [0.5, -0.5]]])
@pytest.mark.parametrize("into", ["s24", "s32"])
def test_the_lowest_value_inverted_is_clipped_and_counted(
    matrix: list[list[float]], into: EncodingName, tmp_path: Path
) -> None:
    ints = noise(6, 480, 2) // 2
    ints[100] = -(2**23)
    clip = make_clip(WavFile(write_wav(tmp_path / "lowest.wav", ints)))
    mix = IntegerMix.of(turned(clip, np.array(matrix)), ENCODINGS[into])
    assert mix is not None
    made = mix.read(0, 480)
    highest = 2 ** (ENCODINGS[into].bits - 1)
    exact = np.rint(ints @ np.array(matrix).T * (highest / 2**23)).astype(np.int64)
    assert np.array_equal(ints_of(made, into), np.clip(exact, -highest, highest - 1))
    assert made.clipped.tolist() == [1, 0]


def test_tiles_join_without_a_seam(tmp_path: Path) -> None:
    clip, ints = stereo(tmp_path, 4, frames=3 * TILE + 9)
    mix = IntegerMix.of(turned(clip, ORDERS[1]), ENCODINGS["s24"])
    assert mix is not None
    for start, frames in ((0, len(ints)), (0, 3 * TILE), (0, TILE + 8), (TILE - 5, 10), (TILE - 5, 1_032)):
        assert np.array_equal(ints_of(mix.read(start, frames), "s24"), ints[start : start + frames, ::-1])


@pytest.mark.parametrize("into", ["s16", "s24"])
@pytest.mark.parametrize("frames", [FRAMES - 1, 5 * TILE])
@pytest.mark.parametrize("matrix", [[[0.65, 0.35], [-0.3, 1.3]], [[0.5, 0.5]], [[1.2, 0.0], [0.0, 0.4], [0.3, -0.3]]])
def test_dither_is_the_same_as_where_samples_are_floats(
    into: EncodingName, frames: int, matrix: list[list[float]], tmp_path: Path
) -> None:
    """With clipping among it, in tiles and in what makes no whole one, of as many channels as there are."""
    clip, _ = stereo(tmp_path, 1, 8 * TILE)
    form = clip.form.model_copy(update={"channels": len(matrix), "speaker_mask": 0})
    (made,) = apply(MatrixOutcome((Output("x", form),), 2 * np.array(matrix), (0, 0), form.frames), [clip])
    mix = IntegerMix.of(made, ENCODINGS[into])
    assert mix is not None
    mixed = mix.read(2 * TILE, frames, dither=7)
    slow, clipped = encode(made.read(2 * TILE, frames), ENCODINGS[into], dither=7, start=2 * TILE)
    assert mixed.raw.tobytes() == slow.tobytes()
    assert mixed.clipped.tolist() == clipped.tolist()
    assert clipped.any() == (len(matrix) != 1)
