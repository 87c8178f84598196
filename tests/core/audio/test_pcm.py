"""Decoding and encoding: round trips to the bit, rounding, clipping, against soundfile as an independent reader."""

from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from support.helpers import noise, write_wav
from wedge_turn.core.audio import WavFile, encode, kernels, pcm
from wedge_turn.core.audio.pcm import count_damaged, decode
from wedge_turn.core.form import ENCODINGS, Encoding, EncodingName, common_encoding

INTEGERS: list[EncodingName] = ["u8", "s16", "s24", "s32"]


@pytest.mark.parametrize("name", INTEGERS)
@given(data=st.data())
def test_integer_bytes_come_back_unchanged(name: EncodingName, data: st.DataObject) -> None:
    encoding = ENCODINGS[name]
    raw = data.draw(arrays(np.uint8, st.integers(1, 40).map(lambda n: n * encoding.width)))
    again, clipped = encode(decode(raw, encoding, 1), encoding)
    assert again.tobytes() == raw.tobytes()
    assert clipped.sum() == 0


@pytest.mark.parametrize(("name", "dtype"), [("f32", "<f4"), ("f64", "<f8")])
def test_float_samples_round_trip_and_invalid_ones_are_silence(name: EncodingName, dtype: str) -> None:
    values = np.array([0.5, -1.5, 1e-30, np.nan, np.inf, -np.inf], dtype)
    raw = values.view(np.uint8)
    decoded = decode(raw, ENCODINGS[name], 1)[:, 0]
    assert decoded.tolist() == [0.5, -1.5, float(values[2]), 0.0, 0.0, 0.0]
    assert count_damaged(raw, ENCODINGS[name]) == 3
    assert encode(decoded[:3, None], ENCODINGS[name])[0].tobytes() == raw[: 3 * ENCODINGS[name].width].tobytes()


@pytest.mark.parametrize("name", INTEGERS)
def test_soundfile_reads_our_files(name: EncodingName, tmp_path: Path) -> None:
    bits = ENCODINGS[name].bits
    ints = noise(1, 501, 3, bits)
    path = write_wav(tmp_path / "a.wav", ints, encoding=name)
    read, rate = soundfile.read(path, dtype="int32")
    assert rate == 48_000
    assert np.array_equal(read >> (32 - bits), ints)
    with WavFile(path) as wav:
        assert np.array_equal(wav.read(0, 501), ints / 2.0 ** (bits - 1))


@pytest.mark.parametrize("name", INTEGERS)
def test_rounding_is_to_nearest_even_and_clipping_is_counted_by_channel(name: EncodingName) -> None:
    """Whatever the layout of the block in memory."""
    full = 2 ** (ENCODINGS[name].bits - 1)
    block = np.array([[0.5 / full, 1.0], [1.5 / full, -1.0], [-0.5 / full, 1.5], [0.6 / full, 0.0]])
    for laid_out in (block, np.asfortranarray(block)):
        raw, clipped = encode(laid_out, ENCODINGS[name])
        steps = np.rint(decode(raw, ENCODINGS[name], 2) * full).astype(int)
        assert steps.tolist() == [[0, full - 1], [2, -full], [0, full - 1], [1, 0]]
        assert clipped.tolist() == [0, 2]


@pytest.mark.parametrize("name", INTEGERS)
@given(cut=st.integers(1, 999), seed=st.integers(0, 2**64 - 1))
def test_dither_is_the_same_however_the_file_is_cut(name: EncodingName, cut: int, seed: int) -> None:
    encoding = ENCODINGS[name]
    block = np.linspace(-0.9, 0.9, 2_000).reshape(1_000, 2)
    whole, _ = encode(block, encoding, seed)
    parts = [encode(block[:cut], encoding, seed)[0], encode(block[cut:], encoding, seed, cut)[0]]
    assert np.concatenate(parts).tobytes() == whole.tobytes()
    error = (decode(whole, encoding, 2) - block) * 2 ** (encoding.bits - 1)
    assert np.abs(error).max() <= 1.5


@given(arrays(np.uint8, st.integers(1, 6).map(lambda n: n * 48)))
def test_split_by_words_equals_split_by_bytes(stereo: np.ndarray) -> None:
    left, right = np.zeros((2, stereo.size // 2), np.uint8)
    kernels.deinterleave_s24(stereo.view(np.uint64), left.view(np.uint64), right.view(np.uint64))
    frames = stereo.reshape(-1, 2, 3)
    assert (left.tobytes(), right.tobytes()) == (frames[:, 0].tobytes(), frames[:, 1].tobytes())
    again = np.zeros_like(stereo)
    kernels.interleave_s24(left.view(np.uint64), right.view(np.uint64), again.view(np.uint64))
    assert again.tobytes() == stereo.tobytes()


@pytest.mark.parametrize(
    ("given_names", "encoding"),
    [
        (["s16", "s24"], "s24"), (["u8", "s16"], "s16"), (["s24", "f32"], "f32"), (["s32", "f32"], "f64"),
        (["f32", "f64"], "f64"), (["s24", "s24"], "s24"),
    ],
)  # fmt: skip
def test_the_smallest_encoding_that_holds_all(given_names: list[EncodingName], encoding: EncodingName) -> None:
    encodings: list[Encoding] = [ENCODINGS[name] for name in given_names]
    assert common_encoding(encodings).name == encoding


@pytest.mark.parametrize("by_kernels", [True, False])
@pytest.mark.parametrize("samples", [0, 1, 7, 8, 9, 1_003])
def test_integers_are_the_same_by_kernels_and_by_numpy(
    samples: int, by_kernels: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(pcm, "use_kernel", lambda _size: by_kernels)
    extremes = [-(2**23), 2**23 - 1, -1, 0, 1]
    ints = np.array([*extremes, *noise(samples, 1_000, 1)[:, 0]])[:samples]
    raw = np.frombuffer(b"".join(int(n).to_bytes(3, "little", signed=True) for n in ints), np.uint8)
    assert np.array_equal(decode(raw, ENCODINGS["s24"], 1)[:, 0] * 2.0**23, ints)
    out = np.empty(samples, np.int32)
    pcm.integers_s24(raw, out)
    assert np.array_equal(out, ints)
