"""Every format and encoding that the README names: read from a file of another library (PyAV, which is FFmpeg's), and
from one that nobody here wrote, and compared with what PyAV makes of it.

The files come from packages (`tests/fetch_recordings.sh`): npm audio-lena, the sources of mutagen and ear, scipy's
wheel.
"""

import re
import struct
from collections.abc import Callable
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
import scipy
from numpy.typing import NDArray

from support.helpers import noise, write_wav
from wedge_turn.core.audio import open_files
from wedge_turn.core.errors import BrokenAudioError, NoFramesError, NotAudioError
from wedge_turn.core.form import Form

README = (Path(__file__).parents[3] / "README.md").read_text("utf-8")
FRAMES = 48_000
Samples = NDArray[np.float64]


def ours(path: Path) -> tuple[Form, Samples]:
    with open_files([path]) as [(form, file)]:
        return form, file.read(0, file.form.frames)


def theirs(path: Path) -> Samples:
    """What PyAV decodes, as float64 (frames, channels)."""
    blocks = []
    with av.open(str(path)) as container:
        for frame in container.decode(audio=0):
            block = frame.to_ndarray()
            planar = frame.format.is_planar
            block = block.T if planar else block.reshape(-1, frame.layout.nb_channels)
            scale = {"i": 2.0 ** (8 * block.dtype.itemsize - 1), "u": 128.0, "f": 1.0}[block.dtype.kind]
            blocks.append((block.astype(np.float64) - (128 if block.dtype.kind == "u" else 0)) / scale)
    return np.concatenate(blocks)


def encoded(path: Path, codec: str, sound: Samples, container: str | None = None) -> Path:
    """Write a sound, (frames, 2), by PyAV."""
    with av.open(str(path), "w", format=container) as out:
        stream: Any = out.add_stream(codec, rate=48_000, layout="stereo")
        if codec in ("libopus", "libmp3lame"):
            stream.bit_rate = 256_000
        if codec == "libopus":  # which else turns the polarity of one channel where that saves bits
            stream.codec_context.options = {"apply_phase_inv": "0"}
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(sound.T), format="dblp", layout="stereo")
        frame.sample_rate = 48_000
        size = stream.codec_context.frame_size or 4_096
        resampler = av.AudioResampler(format=stream.format, layout="stereo", rate=48_000, frame_size=size)
        for part in [*resampler.resample(frame), *resampler.resample(None)]:
            part.pts = None
            out.mux(stream.encode(part))
        out.mux(stream.encode(None))
    return path


def music() -> Samples:
    """Notes of sixteen bits, which every encoding but 8 bits and the lossy ones holds as they are."""
    t = np.arange(FRAMES) / 48_000
    left = 0.3 * np.sin(2 * np.pi * 220 * t) + 0.1 * np.sin(2 * np.pi * 1_760 * t)
    right = 0.2 * np.sin(2 * np.pi * 330 * t * (1 + 0.01 * t))
    return np.rint(np.stack([left, right], axis=1) * 2**15) / 2**15


WRITTEN_ELSEWHERE = [
    ("a.wav", "pcm_u8", None, "8", "WAV", 2**-7), ("a.wav", "pcm_s16le", None, "16", "WAV", 0),
    ("a.wav", "pcm_s24le", None, "24", "WAV", 0), ("a.wav", "pcm_s32le", None, "32", "WAV", 0),
    ("a.wav", "pcm_f32le", None, "float", "WAV", 0), ("a.wav", "pcm_f64le", None, "double", "WAV", 0),
    ("a.aiff", "pcm_s16be", None, "16", "AIFF", 0), ("a.aiff", "pcm_s24be", None, "24", "AIFF", 0),
    ("a.flac", "flac", None, "16", "FLAC", 0), ("a.caf", "pcm_s24be", None, "24", "CAF", 0),
    ("a.w64", "pcm_s24le", None, "24", "W64", 0), ("a.au", "pcm_s16be", None, "16", "AU", 0),
    ("a.mp3", "libmp3lame", None, "24", "MP3", None), ("a.opus", "libopus", None, "24", "Opus", None),
]  # fmt: skip


@pytest.mark.parametrize(("name", "codec", "muxer", "depth", "container", "within"), WRITTEN_ELSEWHERE)
def test_files_that_another_library_wrote(
    name: str, codec: str, muxer: str | None, depth: str, container: str, within: float | None, tmp_path: Path
) -> None:
    sound = music()
    path = tmp_path / name
    encoded(path, codec, sound, muxer)
    form, read = ours(path)
    assert (form.channels, form.rate, form.stored.depth, form.container) == (2, 48_000, depth, container)
    if within is not None:
        assert form.frames == FRAMES
        assert np.abs(read - sound).max() <= within
        return
    assert abs(len(read) - FRAMES) < 2_000
    common = min(len(read), FRAMES) - 2_000
    for channel in range(2):
        assert np.corrcoef(read[1_000:common, channel], sound[1_000:common, channel])[0, 1] > 0.98


# What each file is, and how close PyAV's reading is: None where the two do not even agree on where the sound begins.
FROM_OTHER_PACKAGES = [
    ("lena.mp3", "MP3", 1, 541_184, 2e-4), ("lame.mp3", "MP3", 2, 2_717, 2e-4), ("xing.mp3", "MP3", 2, 89_856, None),
    ("silence-44-s-mpeg2.mp3", "MP3", 2, 88_433, 2e-4), ("silence-44-s-mpeg25.mp3", "MP3", 2, 44_217, 2e-4),
    ("vbri.mp3", "MP3", 2, 18_078, None), ("lena.ogg", "Ogg Vorbis", 1, 541_184, 2e-4),
    ("multipage-setup.ogg", "Ogg Vorbis", 2, 182_080, 2e-4), ("lena.opus", "Opus", 1, 589_044, 1e-3),
    ("example.opus", "Opus", 1, 545_026, None), ("lena.flac", "FLAC", 1, 541_184, 0),
    ("no-tags.flac", "FLAC", 2, 162_496, 0), ("vinyl_hiss.flac", "FLAC", 2, None, 0),
    ("lena.aiff", "AIFF", 1, 542_144, 0), ("lena-24.aiff", "AIFF", 1, 541_184, 0),
    ("lena-32.aiff", "AIFF", 1, 541_184, 0), ("8k-4ch-1s-silence.aif", "AIFF", 4, 8_000, 0),
    ("lena-alaw.aiff", "AIFF", 1, 98_174, 0), ("lena-ulaw.aiff", "AIFF", 1, 98_174, 0),
    ("lena.caf", "CAF", 1, 541_184, 0), ("lena-f32.caf", "CAF", 1, 541_184, 0),
    ("rect_16bit.wav", "WAV", 2, 22_050, 0), ("rect_24bit.wav", "WAV", 2, 22_050, 0),
    ("rect_32bit.wav", "WAV", 2, 22_050, 0), ("rect_24bit_rf64.wav", "WAV", 2, 22_050, 0),
    ("lena-32.wav", "WAV", 1, 541_184, 0), ("M1F1-float32-AFsp.wav", "WAV", 2, None, 0),
    ("M1F1-float64-AFsp.wav", "WAV", 2, None, 0), ("Front_Left.wav", "WAV", 1, None, 0),
]  # fmt: skip


@pytest.mark.parametrize(("name", "container", "channels", "frames", "within"), FROM_OTHER_PACKAGES)
def test_files_from_other_packages(
    name: str,
    container: str,
    channels: int,
    frames: int | None,
    within: float | None,
    recording: Callable[[str], Path],
) -> None:
    form, read = ours(recording(name))
    assert (form.container, form.channels, len(read)) == (container, channels, form.frames)
    assert frames in (None, form.frames)
    other = theirs(recording(name))
    if within is not None:
        assert len(other) == form.frames
        assert np.abs(read - other).max() <= within
    elif len(other) == form.frames:
        assert np.corrcoef(read[:, 0], other[:, 0])[0, 1] > 0.99


@pytest.mark.parametrize("name", ["test-44100Hz-le-1ch-4bytes.wav", "test-8000Hz-le-1ch-1byte-ulaw.wav"])
def test_wav_files_of_scipys_own_tests(name: str) -> None:
    path = Path(scipy.__file__).parent / "io/tests/data" / name
    if path.exists():  # a wheel that is stripped of its tests has none
        form, read = ours(path)
        assert len(read) == form.frames > 0


@pytest.mark.parametrize(
    ("name", "error"),
    [
        ("emptyfile.mp3", NotAudioError), ("too-short.mp3", NotAudioError), ("lame397v9short.mp3", NoFramesError),
        ("rect_24bit_noriff.wav", NotAudioError), ("rect_24bit_wrong_fmt_size.wav", BrokenAudioError),
    ],
)  # fmt: skip
def test_broken_files_from_other_packages(name: str, error: type[Exception], recording: Callable[[str], Path]) -> None:
    with pytest.raises(error, match=re.escape(name)):
        ours(recording(name))


def flac_saying(path: Path, frames: int) -> Path:
    """A FLAC whose STREAMINFO says another number of frames than it holds (36 bits at bit 172: RFC 9639, 8.2)."""
    content = bytearray(encoded(path, "flac", music()).read_bytes())
    (packed,) = struct.unpack(">Q", content[18:26])
    content[18:26] = struct.pack(">Q", packed >> 36 << 36 | frames)
    path.write_bytes(content)
    return path


def test_a_flac_without_a_number_of_frames_is_read_to_its_end(tmp_path: Path) -> None:
    form, read = ours(flac_saying(tmp_path / "stream.flac", 0))
    assert form.frames == FRAMES
    assert np.array_equal(read, music())


@pytest.mark.parametrize("claimed", [100, FRAMES - 1, FRAMES + 1, 2**36 - 1])
def test_a_flac_that_holds_another_number_of_frames_is_refused(claimed: int, tmp_path: Path) -> None:
    with pytest.raises(BrokenAudioError, match=f"should have {claimed:,} frames but (has|ends after) {FRAMES:,}"):
        ours(flac_saying(tmp_path / "lies.flac", claimed))


def test_bw64_is_read_as_rf64_is(tmp_path: Path) -> None:
    """ITU-R BS.2088: RF64 under another name."""
    ints = noise(3, 500, 2)
    plain = write_wav(tmp_path / "plain.wav", ints).read_bytes()
    fmt, data = plain[12:36], plain[44:]
    ds64 = b"ds64" + struct.pack("<IQQQI", 28, 0, len(data), 500, 0)
    for letters in (b"BW64", b"RF64"):
        big = letters + b"\xff" * 4 + b"WAVE" + ds64 + fmt + b"data" + b"\xff" * 4 + data
        path = tmp_path / f"{letters.decode()}.wav"
        path.write_bytes(big)
        form, read = ours(path)
        assert form.frames == 500
        assert np.array_equal(read * 2**23, ints)


def test_the_readme_names_what_is_tested_here() -> None:
    named = {container for *_, container, _ in WRITTEN_ELSEWHERE} | {row[1] for row in FROM_OTHER_PACKAGES}
    for container in named | {"RF64", "BW64"}:
        assert container.removeprefix("Ogg ") in README, container
