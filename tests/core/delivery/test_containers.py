"""FLAC and AIFF: what they hold, what travels in them, and that independent readers find the same samples."""

import errno
import struct
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
import soundfile
from wavinfo import WavInfoReader

from support.helpers import bext, delivered, engine_on, left_behind, noise, quiet, write_wav
from support.shell import run
from wedge_turn.core.audio import WavFile
from wedge_turn.core.delivery import MANIFEST, REPORT, ContainerName, Order, deliver, hashing, read_manifest, verify
from wedge_turn.core.delivery.containers import AIFF, FLAC
from wedge_turn.core.errors import BadRequestError, DiskFullError
from wedge_turn.core.form import EncodingName, Form
from wedge_turn.core.turns import Swap, Trim


def info(**tags: str) -> bytes:
    """A LIST chunk of type INFO, by the layout of RIFF 1.0."""
    body = b"INFO"
    for tag, text in tags.items():
        data = text.encode() + b"\0"
        body += struct.pack("<4sI", tag.encode(), len(data)) + data + b"\0" * (len(data) & 1)
    return body


def read_with_av(path: Path) -> tuple[np.ndarray, dict[str, str]]:
    """Samples as integers at the top of 32 bits, and tags, as FFmpeg reads them."""
    with av.open(str(path)) as opened:
        blocks = [frame.to_ndarray() for frame in opened.decode(audio=0)]
        channels = opened.streams.audio[0].codec_context.channels
        planar = opened.streams.audio[0].codec_context.format.is_planar
    whole = np.concatenate(blocks, axis=1)
    samples = whole.T if planar else whole.reshape(-1, channels)
    with av.open(str(path)) as opened:
        tags = {key.lower(): text for key, text in {**opened.metadata, **opened.streams.audio[0].metadata}.items()}
    return samples.astype(np.int64) << (32 - 8 * samples.dtype.itemsize), tags


@pytest.mark.parametrize("channels", [1, 2, 6, 8])
@pytest.mark.parametrize(("container", "bits"), [("flac", 16), ("flac", 24), ("aiff", 16), ("aiff", 24), ("aiff", 32)])
def test_independent_readers_find_the_same_samples(
    container: ContainerName, bits: int, channels: int, tmp_path: Path
) -> None:
    ints = noise(1, 70_001, channels, bits)
    encoding: EncodingName = {16: "s16", 24: "s24"}.get(bits, "s32")  # type: ignore[assignment]
    source = WavFile(write_wav(tmp_path / "in.wav", ints, encoding=encoding))
    engine = engine_on(Trim(), source, names=["in"])
    manifest = deliver(engine, Order(tuple(engine.sheet.list_ends()), container=container), tmp_path / "out")
    (file,) = manifest.files
    path = tmp_path / "out" / file.name
    assert (path.suffix, file.container, file.frames) == (f".{container}", container.upper(), 70_001)
    expected = ints.astype(np.int64) << (32 - bits)
    assert np.array_equal(soundfile.read(path, dtype="int32", always_2d=True)[0], expected)
    by_av, _ = read_with_av(path)
    assert np.array_equal(by_av, expected)
    assert manifest.proofs[0].proof.exact
    assert f"The {container.upper()} decodes to exactly these samples." in manifest.proofs[0].proof.statement
    assert verify(tmp_path / "out") == []


@pytest.mark.parametrize("encoding", ["s16", "s24", "s32", "f32", "f64"])
@pytest.mark.parametrize("channels", [1, 2, 6])
def test_a_bw64_has_sizes_of_64_bits_and_the_same_samples(
    encoding: EncodingName, channels: int, tmp_path: Path
) -> None:
    """By ITU-R BS.2088: `BW64`, then ds64 first, 32-bit sizes that say to look there. Read by FFmpeg, not by us."""
    source = WavFile(write_wav(tmp_path / "in.wav", quiet(1, 5_001, channels), encoding=encoding, carried=(bext(96),)))
    engine = engine_on(Trim(), source, names=["in"])
    manifest = deliver(engine, Order(tuple(engine.sheet.list_ends()), container="bw64"), tmp_path / "out")
    (file,) = manifest.files
    path = tmp_path / "out" / file.name
    assert (path.suffix, file.container, file.start_time) == (".wav", "BW64", 96)
    head = path.read_bytes()[:48]
    assert head[:16] == b"BW64\xff\xff\xff\xffWAVEds64"
    riff_size, data_size, frames = struct.unpack_from("<QQQ", head, 20)
    assert (riff_size, frames) == (path.stat().st_size - 8, 5_001)
    assert data_size == 5_001 * channels * source.encoding.width
    with av.open(str(path)) as opened:
        blocks = [frame.to_ndarray() for frame in opened.decode(audio=0)]
    samples = np.concatenate(blocks, axis=1).reshape(-1, channels)
    expected = source.read(0, 5_001)
    full = 1.0 if samples.dtype.kind == "f" else 2.0 ** (8 * samples.dtype.itemsize - 1)
    assert np.array_equal(samples.astype(np.float64) / full, expected)
    assert manifest.proofs[0].proof.exact
    assert verify(tmp_path / "out") == []
    path.write_bytes(path.read_bytes()[:-7] + b"changed")
    assert [finding.code for finding in verify(tmp_path / "out")] == ["changed"]


def test_tags_travel_and_what_does_not_is_named(tmp_path: Path) -> None:
    carried = (
        (b"bext", bext(48_000 * 3600)[1]),
        (b"LIST", info(INAM="Kettle", IART="Lamp", ICMT="take 2", ISFT="recorder")),
        (b"iXML", b"<BWFXML/>"),
    )
    source = WavFile(write_wav(tmp_path / "in.wav", noise(1, 100, 2), carried=carried))
    engine = engine_on(Swap(), source, names=["in"])
    formats: tuple[ContainerName, ...] = ("flac", "aiff")
    starts = []
    for container in formats:
        order = Order(tuple(engine.sheet.list_ends()), container=container)
        manifest = deliver(engine, order, tmp_path / container)
        _, tags = read_with_av(tmp_path / container / manifest.files[0].name)
        assert {tags["title"], tags.get("artist", tags.get("author")), tags["comment"]} == {"Kettle", "Lamp", "take 2"}
        if container == "aiff":
            (finding,) = manifest.findings
            assert finding.message == (
                "in.aiff: AIFF can't store the start time, the broadcast extension (bext), other LIST entries "
                "and iXML from the source."
            )
        starts.append(manifest.files[0].start_time)
    assert starts == [48_000 * 3600, None]
    kept = deliver(engine, Order(tuple(engine.sheet.list_ends())), tmp_path / "wav")
    assert kept.findings == []


@pytest.mark.parametrize(
    ("container", "encoding", "channels", "rate", "reason"),
    [
        ("flac", "f32", 2, 48_000, "FLAC holds integers of up to 24 bits, not float samples: choose a depth"),
        ("flac", "s32", 2, 48_000, "FLAC holds integers of up to 24 bits, not 32-bit samples: choose a depth"),
        ("flac", "s24", 9, 48_000, "FLAC holds up to 8 channels, not 9"),
        ("flac", "s24", 2, 96_001, "FLAC holds sample rates above 65,535 Hz in steps of 10 Hz, not 96,001"),
        ("flac", "s24", 2, 700_000, "FLAC holds sample rates of up to 655,350 Hz, not 700,000"),
        ("aiff", "f64", 2, 48_000, "AIFF holds integers of up to 32 bits, not float samples: choose a depth"),
    ],
)
def test_what_a_format_cannot_hold_is_refused_before_anything_is_written(
    container: ContainerName, encoding: EncodingName, channels: int, rate: int, reason: str, tmp_path: Path
) -> None:
    source = WavFile(write_wav(tmp_path / "in.wav", quiet(1, 100, channels), rate, encoding))
    engine = engine_on(Trim(), source, names=["in"])
    refs = tuple(engine.sheet.list_ends())
    with pytest.raises(BadRequestError) as refused:
        deliver(engine, Order(refs, container=container), tmp_path / "out")
    assert refused.value.message.endswith(reason)
    assert not (tmp_path / "out").exists()


def test_a_depth_makes_it_fit(tmp_path: Path) -> None:
    source = WavFile(write_wav(tmp_path / "in.wav", quiet(1, 3_000, 2), encoding="f32"))
    engine = engine_on(Swap(), source, names=["in"])
    manifest = deliver(engine, Order(tuple(engine.sheet.list_ends()), "16", container="flac"), tmp_path / "out")
    assert (manifest.files[0].depth, manifest.files[0].dithered) == ("16", True)
    assert soundfile.info(tmp_path / "out" / "in.flac").subtype == "PCM_16"


def test_an_aiff_beyond_its_sizes_is_refused() -> None:
    form = Form(channels=2, frames=2**30, rate=48_000, encoding="s24")
    assert AIFF.refusal(form, form.stored) == "AIFF holds up to 4.3 GB"
    assert FLAC.refusal(form, form.stored) is None


def test_a_disk_that_is_full_says_so(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Of the WAV there was room for all, of the FLAC there is none."""
    source = WavFile(write_wav(tmp_path / "in.wav", noise(1, 90_000, 2)))
    engine = engine_on(Swap(), source, names=["in"])
    real = hashing.write_whole

    def full(fd: int, data: bytes | memoryview) -> None:
        if len(data) > 8_000:
            raise OSError(errno.ENOSPC, "No space left on device")
        real(fd, data)

    monkeypatch.setattr(hashing, "write_whole", full)
    before = left_behind(tmp_path)
    with pytest.raises(DiskFullError, match=r"in\.flac"):
        deliver(engine, Order(tuple(engine.sheet.list_ends()), container="flac"), tmp_path / "out")
    assert left_behind(tmp_path) == before


def test_a_changed_file_is_found_and_an_older_manifest_is_read(tmp_path: Path) -> None:
    _, path = delivered(tmp_path, Swap(), noise(1, 5_000, 2), names=["in"], container="flac")
    assert read_manifest(path.parent).files[0].container == "FLAC"
    content = bytearray(path.read_bytes())
    content[-3] ^= 1
    path.write_bytes(content)
    (finding,) = verify(path.parent)
    assert finding.message == "in.flac has changed since it was written"


def test_the_commands_write_them(tmp_path: Path) -> None:
    (tmp_path / "in").mkdir()
    left, right = (write_wav(tmp_path / "in" / f"oh_{side}.wav", noise(n, 500, 1)) for n, side in enumerate("LR"))
    done = run("apply", "merge", left, right, "--out", tmp_path / "apply", "--format", "aiff")
    assert done.returncode == 0, done.stderr
    assert left_behind(tmp_path / "apply") == ["oh.aiff", MANIFEST, REPORT]
    done = run("prep", tmp_path / "in", "--out", tmp_path / "prep", "--format", "flac")
    assert done.returncode == 0, done.stderr
    assert "oh.flac" in left_behind(tmp_path / "prep")
    refused = run("apply", "merge", left, right, "--out", tmp_path / "no", "--format", "flac", "--depth", "float")
    assert (refused.returncode, "FLAC holds integers" in refused.stderr) == (1, True)


@pytest.mark.parametrize("container", ["flac", "aiff"])
def test_eight_bits_are_signed_there(container: ContainerName, tmp_path: Path) -> None:
    ints = noise(1, 3_000, 2, 8)
    engine = engine_on(Swap(), WavFile(write_wav(tmp_path / "in.wav", ints, encoding="u8")), names=["in"])
    manifest = deliver(engine, Order(tuple(engine.sheet.list_ends()), container=container), tmp_path / "out")
    path = tmp_path / "out" / manifest.files[0].name
    assert soundfile.info(path).subtype == "PCM_S8"
    found = soundfile.read(path, dtype="int32", always_2d=True)[0]
    assert np.array_equal(found >> 24, ints[:, ::-1])


def write_with_av(path: Path, codec: str, ints: np.ndarray, **tags: str) -> Path:
    """A file as FFmpeg writes it, of 16-bit samples."""
    with av.open(str(path), "w") as out:
        out.metadata.update(tags)
        stream: Any = out.add_stream(codec, rate=48_000, layout="stereo")
        frame = av.AudioFrame.from_ndarray(ints.astype(np.int16).reshape(1, -1), format="s16", layout="stereo")
        frame.sample_rate = 48_000
        size = stream.codec_context.frame_size or len(ints)
        resampler = av.AudioResampler(stream.codec_context.format, "stereo", 48_000, size)
        for part in (*resampler.resample(frame), *resampler.resample(None), None):
            for packet in stream.encode(part):
                out.mux(packet)
    return path


def test_tags_of_other_formats_travel_into_every_format(tmp_path: Path) -> None:
    tags = {"title": "Gull pass", "artist": "Kettle Island", "album": "Light", "date": "2026"}
    ints = noise(1, 4_000, 2, 16)
    source = write_with_av(tmp_path / "gull.flac", "flac", ints, **tags)
    for container in ("wav", "flac", "aiff"):
        out = tmp_path / container
        done = run("apply", "swap", source, "--out", out, "--format", container)
        assert done.returncode == 0, done.stderr
        (path,) = out.glob(f"*.{container}")
        assert np.array_equal(soundfile.read(path, dtype="int16", always_2d=True)[0], ints[:, ::-1])
        if container == "wav":
            info_of = WavInfoReader(str(path)).info
            assert info_of is not None
            assert (info_of.title, info_of.artist) == ("Gull pass", "Kettle Island")
        else:
            _, found = read_with_av(path)
            assert found["title"] == "Gull pass"
            assert container == "aiff" or (found["album"], found["date"]) == ("Light", "2026")


@pytest.mark.parametrize(("name", "codec"), [("a.mp3", "libmp3lame"), ("a.opus", "libopus"), ("a.aiff", "pcm_s16be")])
def test_tags_of_lossy_files_and_of_aiff_are_read(name: str, codec: str, tmp_path: Path) -> None:
    source = write_with_av(tmp_path / name, codec, noise(1, 48_000, 2, 14), title="Gull pass")
    done = run("apply", "swap", source, "--out", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    found = WavInfoReader(str(tmp_path / "out" / "a.wav")).info
    assert found is not None
    assert found.title == "Gull pass"
