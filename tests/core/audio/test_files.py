"""Reading and writing files: headers that lie, chunks that travel, files too large for 32 bits, other formats."""

import os
import struct
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import scipy.io
import soundfile
from hypothesis import given
from hypothesis import strategies as st
from wavinfo import WavInfoReader

from support.helpers import bext, noise, read_ints, write_wav
from wedge_turn.core.audio import WavFile, build_header, file_size, import_file
from wedge_turn.core.errors import (
    BadHeaderError,
    Error,
    LimitError,
    NoFramesError,
    NotAudioError,
    TruncatedError,
)
from wedge_turn.core.form import Form
from wedge_turn.core.metadata import with_form

SCIPY = Path(scipy.io.__file__).parent / "tests" / "data"


def taken(path: Path, tmp_path: Path, name: str = "given.wav") -> tuple[Form, Path]:
    accepted = import_file(path, name, lambda: tmp_path / "working copy")
    return accepted.form, accepted.pcm


def riff(*chunks: tuple[bytes, bytes], size: int | None = None, magic: bytes = b"RIFF") -> bytes:
    body = b"".join(struct.pack("<4sI", name, len(data)) + data + b"\0" * (len(data) & 1) for name, data in chunks)
    return struct.pack("<4sI4s", magic, 4 + len(body) if size is None else size, b"WAVE") + body


def fmt(channels: int = 2, rate: int = 48_000, bits: int = 16, tag: int = 1, align: int | None = None) -> bytes:
    block = channels * bits // 8 if align is None else align
    return struct.pack("<HHIIHH", tag, channels, rate, min(rate * block, 2**32 - 1), block % 65536, bits)


BROKEN: dict[str, tuple[bytes, type[Error]]] = {
    "empty": (b"", NotAudioError),
    "text": (b"<html><body>not found</body></html>" * 50, NotAudioError),
    "header only": (riff((b"fmt ", fmt()), (b"data", b"")), NoFramesError),
    "ends early": (riff((b"fmt ", fmt()), (b"data", b"\1\2\3\4" * 100))[:-100], TruncatedError),
    "size of 4 GiB": (riff((b"fmt ", fmt())) + struct.pack("<4sI", b"data", 0xFFFFFFFF) + b"1234", TruncatedError),
    "no channels": (riff((b"fmt ", fmt(channels=0)), (b"data", b"1234")), LimitError),
    "1024 channels": (riff((b"fmt ", fmt(channels=1024)), (b"data", b"1234" * 1024)), LimitError),
    "rate of 1 Hz": (riff((b"fmt ", fmt(rate=1)), (b"data", b"1234")), LimitError),
    "rate of 2 GHz": (riff((b"fmt ", fmt(rate=2**31 - 1)), (b"data", b"1234")), LimitError),
    "no data": (riff((b"fmt ", fmt())), BadHeaderError),
    "two data": (riff((b"fmt ", fmt()), (b"data", b"1234"), (b"data", b"1234")), BadHeaderError),
    "data before fmt": (riff((b"data", b"1234"), (b"fmt ", fmt())), BadHeaderError),
    "fmt of 8 bytes": (riff((b"fmt ", fmt()[:8]), (b"data", b"1234")), BadHeaderError),
    "RF64 without ds64": (
        riff((b"fmt ", fmt()), magic=b"RF64") + struct.pack("<4sI", b"data", 2**32 - 1),
        NoFramesError,
    ),
    "ds64 of 4 bytes": (riff((b"ds64", b"1234"), (b"fmt ", fmt()), (b"data", b"12"), magic=b"RF64"), BadHeaderError),
}


@pytest.mark.parametrize("kind", BROKEN)
def test_broken_files_are_refused_by_name(kind: str, tmp_path: Path) -> None:
    content, error = BROKEN[kind]
    path = tmp_path / "x"
    path.write_bytes(content)
    with pytest.raises(error) as raised:
        taken(path, tmp_path, "lamp.wav")
    assert "lamp.wav" in raised.value.message
    assert str(tmp_path) not in raised.value.message
    assert [p.name for p in tmp_path.iterdir()] == ["x"]


@given(st.binary(max_size=300))
def test_no_bytes_lead_to_anything_but_a_file_or_an_error_of_ours(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "x"
    for start in (b"", riff((b"fmt ", fmt()))[:36], b"RF64\xff\xff\xff\xffWAVE", b"fLaC", b"FORM\0\0\1\0AIFF", b"OggS"):
        path.write_bytes(start + content)
        try:
            form, _ = taken(path, tmp_path)
        except Error as error:
            assert "given.wav" in error.message  # noqa: PT017 - either outcome is right
        else:
            assert form.frames > 0


def test_a_large_file_is_rf64_and_its_header_says_so() -> None:
    form = Form(channels=2, frames=2**30, rate=48_000, encoding="s24")
    written = build_header(form)
    assert written[:4] == b"RF64"
    assert written[12:16] == b"ds64"
    riff_size, data_size, frames = struct.unpack_from("<QQQ", written, 20)
    assert (data_size, frames) == (form.frames * 6, form.frames)
    assert riff_size + 8 == file_size(form)
    assert build_header(form.model_copy(update={"frames": 2**20}))[:4] == b"RIFF"


def test_a_sparse_rf64_of_5_gib_is_read_at_its_end(tmp_path: Path) -> None:
    form = Form(channels=2, frames=5 * 2**30 // 6, rate=48_000, encoding="s24")
    path = tmp_path / "long.wav"
    with path.open("wb") as file:
        file.write(build_header(form))
        file.seek((form.frames - 1) * 6, os.SEEK_CUR)
        file.write(bytes.fromhex("010203 ffffff"))
    with WavFile(path) as wav:
        assert wav.form.frames == form.frames
        assert (wav.read(form.frames - 1, 2) * 2**23).tolist() == [[0x030201, -1], [0, 0]]
    with soundfile.SoundFile(path) as independent:
        assert independent.frames == form.frames
        independent.seek(form.frames - 1)
        assert (independent.read(1, dtype="int32") >> 8).tolist() == [[0x030201, -1]]


def test_reading_past_either_end_gives_silence(tmp_path: Path) -> None:
    ints = noise(2, 10, 2)
    with WavFile(write_wav(tmp_path / "a.wav", ints)) as wav:
        block = wav.read(-3, 16) * 2**23
    assert np.array_equal(block, np.vstack([np.zeros((3, 2)), ints, np.zeros((3, 2))]))


def test_chunks_travel_and_bext_is_updated(tmp_path: Path) -> None:
    carried = (
        bext(1_000, version=2, loudness=(-2300, 500, -100, -1500, -2000)),
        (b"iXML", b"<BWFXML/>"),
        (b"odd ", b"123"),
    )
    path = write_wav(tmp_path / "a.wav", noise(3, 5, 1), carried=carried)
    with WavFile(path) as wav:
        assert wav.form.start_time == 1_000
        assert wav.carried() == carried
        moved = dict(with_form(wav.carried(), wav.form.model_copy(update={"start_time": 2_000})))
    assert struct.unpack_from("<Q", moved[b"bext"], 338) == (2_000,)
    # Measured on other channels, the loudness is unknown now: 0x7FFF by EBU Tech 3285.
    assert struct.unpack_from("<5h", moved[b"bext"], 412) == (0x7FFF,) * 5
    assert moved[b"iXML"] == b"<BWFXML/>"
    assert WavInfoReader(str(path)).bext.time_reference == 1_000


@pytest.mark.parametrize(
    ("suffix", "subtype", "encoding", "bits"),
    [
        ("aiff", "PCM_24", "s24", 24), ("flac", "PCM_16", "s16", 16), ("flac", "PCM_24", "s24", 24),
        ("caf", "PCM_32", "s32", 32), ("w64", "PCM_24", "s24", 24), ("wav", "PCM_U8", "u8", 8),
        ("aiff", "PCM_S8", "s16", 8), ("au", "PCM_16", "s16", 16),
    ],
)  # fmt: skip
def test_lossless_formats_keep_their_integers(
    suffix: str, subtype: str, encoding: str, bits: int, tmp_path: Path
) -> None:
    ints = noise(4, 3_000, 2, bits)
    path = tmp_path / f"a.{suffix}"
    soundfile.write(path, (ints << (32 - bits)).astype(np.int32), 44_100, subtype=subtype)
    form, pcm = taken(path, tmp_path)
    assert (form.encoding, form.frames, form.channels, form.rate) == (encoding, 3_000, 2, 44_100)
    assert np.array_equal(read_ints(pcm, 32), ints << (32 - bits))


def test_a_lossy_file_is_decoded_once_and_counted(tmp_path: Path) -> None:
    tone = 0.5 * np.sin(np.arange(48_000) * 0.05)
    soundfile.write(tmp_path / "a.ogg", tone, 48_000)
    form, pcm = taken(tmp_path / "a.ogg", tmp_path)
    # It has no depth of its own: 24 bit is what is made of it. What is heard is the decoder's floats.
    assert (form.container, form.encoding, form.frames) == ("Ogg Vorbis", "s24", 48_000)
    assert soundfile.info(pcm).subtype == "FLOAT"
    assert float(np.abs(soundfile.read(pcm)[0] - tone).max()) < 0.1


@pytest.mark.parametrize(
    ("name", "channels", "frames", "encoding"),
    [
        ("test-44100Hz-le-1ch-4bytes-rf64.wav", 1, 4410, "s32"),
        ("test-44100Hz-be-1ch-4bytes.wav", 1, 4410, "s32"),
        ("test-8000Hz-le-3ch-5S-24bit-rf64.wav", 3, 5, "s24"),
        ("test-8000Hz-le-3ch-5S-24bit.wav", 3, 5, "s24"),
        ("test-1234Hz-le-1ch-10S-20bit-extra.wav", 1, 10, "s24"),
        ("test-8000Hz-le-4ch-9S-12bit.wav", 4, 9, "s16"),
        ("test-48000Hz-2ch-64bit-float-le-wavex.wav", 2, 480, "f64"),
    ],
)
def test_odd_files_of_scipys_own_tests(name: str, channels: int, frames: int, encoding: str, tmp_path: Path) -> None:
    form, pcm = taken(SCIPY / name, tmp_path)
    assert (form.channels, form.frames, form.encoding) == (channels, frames, encoding)
    with WavFile(pcm) as wav:
        assert np.array_equal(wav.read(0, frames), soundfile.read(SCIPY / name, always_2d=True)[0])


def test_files_that_end_early_are_named(tmp_path: Path) -> None:
    with pytest.raises(TruncatedError, match=r"early\.wav should have .* frames but ends after"):
        taken(SCIPY / "test-44100Hz-le-1ch-4bytes-early-eof.wav", tmp_path, "early.wav")


def test_real_recordings_are_read_as_soundfile_reads_them(recording: Callable[[str], Path], tmp_path: Path) -> None:
    for name in ("Front_Left.wav", "Front_Right.wav", "M1F1-float64-AFsp.wav"):
        form, pcm = taken(recording(name), tmp_path)
        with WavFile(pcm) as wav:
            assert np.array_equal(wav.read(0, form.frames), soundfile.read(recording(name), always_2d=True)[0])
