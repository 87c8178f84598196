"""Deliveries and proofs: exact on the written files, all or nothing, and honest when something is lost."""

import errno
import json
import os
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import soundfile
from wavinfo import WavInfoReader

from support.helpers import bext, engine_on, left_behind, noise, read_ints, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import MANIFEST, REPORT, Order, deliver, read_manifest, verify
from wedge_turn.core.errors import (
    BadRequestError,
    DiskFullError,
    ExistsError,
    NotFoundError,
    ProofFailedError,
    StoppedError,
)
from wedge_turn.core.form import ENCODINGS, EncodingName
from wedge_turn.core.turns import Merge, Split


def split_of(path: Path) -> Engine:
    return engine_on(Split(), WavFile(path), names=[path.stem])


def everything(engine: Engine, **how: object) -> Order:
    return Order(tuple(engine.sheet.list_ends()), **how)  # type: ignore[arg-type]


@pytest.mark.parametrize("encoding", ENCODINGS)
@pytest.mark.parametrize("channels", [2, 3, 8])
@pytest.mark.parametrize("frames", [1, 7, 40_000])
def test_split_in_every_encoding_is_exact(encoding: EncodingName, channels: int, frames: int, tmp_path: Path) -> None:
    bits = 24 if ENCODINGS[encoding].is_float else ENCODINGS[encoding].bits
    ints = noise(channels, frames, channels, bits)
    source = write_wav(tmp_path / "whole.wav", ints, encoding=encoding)
    before = source.read_bytes()
    engine = split_of(source)
    manifest = deliver(engine, everything(engine), tmp_path / "out")
    (proof,) = manifest.proofs
    assert (proof.proof.kind, proof.proof.exact, proof.proof.residual_dbfs) == ("round-trip", True, None)
    assert proof.proof.samples == frames * channels
    for channel, file in enumerate(manifest.files):
        written, rate = soundfile.read(tmp_path / "out" / file.name, dtype="float64", always_2d=True)
        assert (written.shape, rate) == ((frames, 1), 48_000)
        assert np.array_equal(written[:, 0] * 2.0 ** (bits - 1), ints[:, channel])
    assert source.read_bytes() == before
    assert verify(tmp_path / "out") == []


def test_merge_is_proved_by_its_split_with_start_times(tmp_path: Path) -> None:
    a = write_wav(tmp_path / "a.wav", noise(1, 70_001, 1), carried=(bext(10_000), (b"iXML", b"<a/>")))
    b = write_wav(tmp_path / "b.wav", noise(2, 70_001, 1), carried=(bext(10_016),))
    engine = engine_on(Merge(), WavFile(a), WavFile(b), names=["lamp_L", "lamp_R"])
    manifest = deliver(engine, everything(engine), tmp_path / "out")
    assert manifest.proofs[0].proof.exact
    written = tmp_path / "out" / "lamp.wav"
    assert np.array_equal(read_ints(written)[:70_001, 0], read_ints(a)[:, 0])
    assert np.array_equal(read_ints(written)[16:, 1], read_ints(b)[:, 0])
    info = WavInfoReader(str(written))
    assert (info.bext.time_reference, info.bext.description.strip("\0")) == (10_000, "Lamp")
    assert manifest.files[0].start_time == 10_000
    with WavFile(written) as wav:
        assert dict(wav.carried())[b"iXML"] == b"<a/>"


def test_a_trim_is_proved_over_its_range(tmp_path: Path) -> None:
    files = [WavFile(write_wav(tmp_path / f"{n}.wav", noise(n, 900 - 200 * n, 1))) for n in (0, 1)]
    engine = engine_on(Merge(length="trim"), *files, names=["x_L", "x_R"])
    proof = deliver(engine, everything(engine), tmp_path / "out").proofs[0].proof
    assert (proof.exact, proof.samples) == (True, 1400)


def test_a_single_result_is_compared_with_the_computation(tmp_path: Path) -> None:
    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 999, 2)))
    manifest = deliver(engine, Order(("step:only:1",)), tmp_path / "out")
    assert [p.proof.kind for p in manifest.proofs] == ["recomputed"]
    assert np.array_equal(read_ints(tmp_path / "out" / "w_R.wav"), noise(1, 999, 2)[:, 1:])


def test_a_shallower_depth_reports_its_loss(tmp_path: Path) -> None:
    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 5_000, 2)))
    manifest = deliver(engine, everything(engine, depth="16", dither=False), tmp_path / "out")
    proof = manifest.proofs[0].proof
    assert not proof.exact
    assert proof.bits == 16
    # Rounding is off by half a step of 16 bits at most, but where the highest values clip by up to a whole one.
    assert proof.residual_dbfs is not None
    assert 20 * np.log10(0.49 * 2.0**-15) < proof.residual_dbfs <= 20 * np.log10(2.0**-15) + 0.01
    rounded = np.clip(np.rint(noise(1, 5_000, 2) / 256), -32768, 32767)
    assert np.array_equal(read_ints(tmp_path / "out" / "w_L.wav", 16)[:, 0], rounded[:, 0])
    clipped = int((np.rint(noise(1, 5_000, 2) / 256) > 32767).sum())
    assert sum(sum(file.clipped) for file in manifest.files) == clipped > 0
    assert "clipped" in [f.code for f in manifest.findings]


def test_invalid_samples_are_reported_and_written_as_silence(tmp_path: Path) -> None:
    data = np.array([[0.5, np.nan], [np.inf, 0.25]], np.float32)
    soundfile.write(tmp_path / "w.wav", data, 48_000, subtype="FLOAT")
    engine = split_of(tmp_path / "w.wav")
    manifest = deliver(engine, everything(engine), tmp_path / "out")
    assert [(f.code, f.measured) for f in manifest.findings] == [("damaged", {"samples": 2})]
    assert soundfile.read(tmp_path / "out" / "w_L.wav")[0].tolist() == [0.5, 0.0]


def test_a_file_that_was_not_written_right_is_never_delivered(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    real = os.write

    def faulty(fd: int, data: memoryview) -> int:
        # A disk that loses a bit in every large write, which only reading back can show.
        if len(data) > 1000:
            data = memoryview(bytes(data[:500]) + bytes([data[500] ^ 1]) + bytes(data[501:]))
        return real(fd, data)

    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 3_000, 2)))
    monkeypatch.setattr(os, "write", faulty)
    with pytest.raises(ProofFailedError, match=r"w_L\.wav"):
        deliver(engine, everything(engine), tmp_path / "out")
    monkeypatch.undo()
    assert left_behind(tmp_path) == ["w.wav"]
    assert not (tmp_path / "out").exists()


def test_a_full_disk_is_named_and_leaves_nothing(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    free = 4_000
    real = os.write

    def full(fd: int, data: memoryview) -> int:
        nonlocal free
        if free <= 0:
            raise OSError(errno.ENOSPC, "No space left on device")
        written = real(fd, data[:free])
        free -= written
        return written

    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 3_000, 2)))
    monkeypatch.setattr(os, "write", full)
    with pytest.raises(DiskFullError, match=r"w_L\.wav could not be written"):
        deliver(engine, everything(engine), tmp_path / "out")
    monkeypatch.undo()
    assert left_behind(tmp_path) == ["w.wav"]


def test_a_disk_too_small_is_reported_before_writing(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 50_000, 2)))
    asked: list[int] = []

    def full(_fd: int, _start: int, size: int) -> None:
        asked.append(size)
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(os, "posix_fallocate", full)
    monkeypatch.setattr(os, "write", lambda *_: pytest.fail("written nevertheless"))
    with pytest.raises(DiskFullError, match=r"w_L\.wav could not be written"):
        deliver(engine, everything(engine), tmp_path / "out")
    monkeypatch.undo()
    assert asked == [44 + 3 * 50_000]
    assert left_behind(tmp_path) == ["w.wav"]


def test_a_file_system_that_promises_no_room_is_written_to_all_the_same(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 3_001, 2)))

    def unknown(*_: int) -> None:
        raise OSError(errno.EOPNOTSUPP, "Operation not supported")

    monkeypatch.setattr(os, "posix_fallocate", unknown)
    (proof,) = deliver(engine, everything(engine), tmp_path / "out").proofs
    assert proof.proof.exact
    assert verify(tmp_path / "out") == []


def test_sources_are_read_once_and_results_read_back(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """By what writes once, block by block; when the files are flushed, by what proves once more, tile by tile, with the
    results as they are on the disk.
    """
    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 600_000, 2)))
    happened: list[str] = []
    write, read, flush = os.write, os.preadv, os.fsync

    def writing(fd: int, data: object) -> int:
        happened.append("w")
        return write(fd, data)  # type: ignore[arg-type]

    def reading(fd: int, buffers: object, at: int) -> int:
        happened.append("r")
        return read(fd, buffers, at)  # type: ignore[arg-type]

    def flushing(fd: int) -> None:
        happened.append("f")
        flush(fd)

    monkeypatch.setattr(os, "write", writing)
    monkeypatch.setattr(os, "preadv", reading)
    monkeypatch.setattr(os, "fsync", flushing)
    for module in ("writer", "record"):  # the report's pictures are read besides
        monkeypatch.setattr(f"wedge_turn.core.delivery.{module}.draw_outline", lambda _: [])
    (proof,) = deliver(engine, everything(engine), tmp_path / "out").proofs
    assert proof.proof.exact
    # Both headers; of each block the source once and both sides; both files flushed. Five blocks of each result, ten
    # tiles of the source. Manifest, report, folder.
    assert "".join(happened) == "ww" + 3 * "rww" + "ff" + (2 * 5 + 10) * "r" + "wf" + "wf" + "f"


def test_existing_files_stay_and_a_clash_leaves_nothing(tmp_path: Path) -> None:
    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 100, 2)))
    out = tmp_path / "out"
    out.mkdir()
    (out / "w_R.wav").write_text("mine")
    with pytest.raises(ExistsError, match=r"w_R\.wav already exists"):
        deliver(engine, everything(engine), out)
    assert left_behind(out) == ["w_R.wav"]
    assert (out / "w_R.wav").read_text() == "mine"
    deliver(engine, everything(engine, overwrite=True), out)
    assert verify(out) == []


def test_a_name_taken_meanwhile_is_not_overwritten(tmp_path: Path) -> None:
    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 100, 2)))
    out = tmp_path / "out"

    def somebody_else(_share: float) -> None:
        (out / "w_R.wav").write_text("theirs")

    with pytest.raises(ExistsError, match=r"w_R\.wav already exists"):
        deliver(engine, everything(engine), out, somebody_else)
    # The left side had been moved to its place already, into a folder that is ours; what came into it is not.
    assert left_behind(out) == ["w_R.wav"]
    assert (out / "w_R.wav").read_text() == "theirs"


def test_a_memory_card_without_hard_links_is_written_to_all_the_same(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def refused(path: Path, _target: Path) -> None:
        raise PermissionError(errno.EPERM, "Operation not permitted", str(path))

    monkeypatch.setattr(Path, "hardlink_to", refused)
    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 100, 2)))
    out = tmp_path / "out"
    deliver(engine, everything(engine), out)
    assert verify(out) == []
    assert left_behind(out) == ["w_L.wav", "w_R.wav", MANIFEST, REPORT]

    def somebody_else(_share: float) -> None:
        (tmp_path / "new" / "w_R.wav").write_text("theirs")

    with pytest.raises(ExistsError, match=r"w_R\.wav already exists"):
        deliver(engine, everything(engine), tmp_path / "new", somebody_else)
    assert left_behind(tmp_path / "new") == ["w_R.wav"]


def test_a_stop_leaves_nothing(tmp_path: Path) -> None:
    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 200_000, 2)))
    shares: list[float] = []

    def stop_half_way(share: float) -> None:
        shares.append(share)
        if share > 0.5:
            raise StoppedError("stopped")

    with pytest.raises(StoppedError):
        deliver(engine, everything(engine), tmp_path / "out", stop_half_way)
    assert shares == sorted(shares)
    assert left_behind(tmp_path) == ["w.wav"]


def test_a_second_delivery_adds_to_the_manifest(tmp_path: Path) -> None:
    for name in ("a", "b"):
        engine = split_of(write_wav(tmp_path / f"{name}.wav", noise(1, 100, 2)))
        deliver(engine, everything(engine), tmp_path / "out")
    assert [f.name for f in read_manifest(tmp_path / "out").files] == ["a_L.wav", "a_R.wav", "b_L.wav", "b_R.wav"]


def test_verify_reports_changed_and_missing_files(tmp_path: Path) -> None:
    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 100, 2)))
    out = tmp_path / "out"
    deliver(engine, everything(engine), out)
    content = bytearray((out / "w_L.wav").read_bytes())
    content[-1] ^= 1
    (out / "w_L.wav").write_bytes(content)
    (out / "w_R.wav").unlink()
    assert [(f.code, f.message.split()[0]) for f in verify(out)] == [("changed", "w_L.wav"), ("missing", "w_R.wav")]
    with pytest.raises(NotFoundError):
        verify(tmp_path)
    (out / MANIFEST).write_text("{")
    with pytest.raises(BadRequestError):
        verify(out)


def test_clips_of_one_name_get_files_of_their_own(tmp_path: Path) -> None:
    engine = engine_on(
        Split(endings=("x", "X")), WavFile(write_wav(tmp_path / "w.wav", noise(1, 10, 2))), names=["../w"]
    )
    manifest = deliver(engine, everything(engine), tmp_path / "out")
    assert [f.name for f in manifest.files] == ["_wx.wav", "_wX (2).wav"]
    assert json.loads((tmp_path / "out" / MANIFEST).read_text())["format"] == "wedge-turn-manifest"


def test_nothing_chosen_is_refused(tmp_path: Path) -> None:
    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 10, 2)))
    with pytest.raises(BadRequestError):
        deliver(engine, Order(()), tmp_path / "out")


def test_real_recordings_merge_and_come_back(recording: Callable[[str], Path], tmp_path: Path) -> None:
    """The spoken names of the sides (Debian alsa-utils): left is on the left, and both return."""
    files = [WavFile(recording(f"Front_{side}.wav")) for side in ("Right", "Left")]
    engine = engine_on(Merge(), *files, names=["Front_Right", "Front_Left"])
    manifest = deliver(engine, everything(engine), tmp_path / "out")
    assert manifest.proofs[0].proof.exact
    merged, _ = soundfile.read(tmp_path / "out" / "Front.wav", dtype="int16")
    left, _ = soundfile.read(recording("Front_Left.wav"), dtype="int16")
    assert np.array_equal(merged[: len(left), 0], left)
