"""Recordings that broke off: refused, and taken as far as they go where that is asked for. libsndfile wrote the whole
ones; what is salvaged is compared with what libsndfile reads of those.
"""

import struct
from pathlib import Path

import numpy as np
import pytest
import soundfile
from numpy.typing import NDArray

from support.helpers import noise
from wedge_turn.core.audio import open_files
from wedge_turn.core.audio.flac_frames import find_frames
from wedge_turn.core.audio.spliced import SplicedFile
from wedge_turn.core.errors import Error, NoFramesError, TruncatedError
from wedge_turn.core.form import BrokenOff, Form

RATE, FRAMES = 48_000, 96_000
SOUND = noise(7, FRAMES, 2) / 2**25
FORMATS = {
    "wav": ("WAV", "PCM_24"),
    "float.wav": ("WAVEX", "FLOAT"),
    "rf64": ("RF64", "PCM_16"),
    "aiff": ("AIFF", "PCM_24"),
    "au": ("AU", "PCM_16"),
    "w64": ("W64", "PCM_24"),
    "flac": ("FLAC", "PCM_16"),
    "mp3": ("MP3", "MPEG_LAYER_III"),
}
WIDTHS = {"PCM_16": 2, "PCM_24": 3, "FLOAT": 4}


def whole(folder: Path, ending: str) -> Path:
    container, subtype = FORMATS[ending]
    path = folder / f"whole.{ending}"
    soundfile.write(path, SOUND, RATE, subtype, format=container)
    return path


def read(path: Path, *, salvage: bool = True) -> tuple[Form, NDArray[np.float64]]:
    with open_files([path], salvage=salvage) as [(form, file)]:
        return form, file.read(0, form.frames)


def cut(path: Path, size: int) -> Path:
    broken = path.with_name(f"{size}-{path.name}")
    broken.write_bytes(path.read_bytes()[:size])
    return broken


@pytest.mark.parametrize("ending", FORMATS)
def test_whole_files_are_not_said_to_have_broken_off(tmp_path: Path, ending: str) -> None:
    form, samples = read(whole(tmp_path, ending), salvage=False)
    assert (form.frames, form.broken_off) == (FRAMES, None)
    assert len(samples) == FRAMES


@pytest.mark.parametrize("ending", FORMATS)
def test_what_is_there_of_a_file_cut_anywhere_is_that_of_the_whole(tmp_path: Path, ending: str) -> None:
    path = whole(tmp_path, ending)
    held = soundfile.read(path, always_2d=True, dtype="float64")[0]
    size, subtype = path.stat().st_size, FORMATS[ending][1]
    cuts = np.random.default_rng(3).integers(size // 20, size - 10, 8 if ending == "flac" else 16)
    for at in map(int, cuts):
        broken = cut(path, at)
        with pytest.raises(TruncatedError) as raised:
            read(broken, salvage=False)
        form, samples = read(broken)
        assert form.broken_off == BrokenOff(frames=form.frames, claimed=FRAMES)
        assert raised.value.usable == form.broken_off.describe(RATE)
        assert np.array_equal(samples, held[: form.frames])
        if subtype in WIDTHS and ending != "flac":
            # Nothing but the frame that is cut is lost: as much as the file has less, it has less of sound.
            lost = FRAMES - form.frames
            assert lost == -(-(size - at) // (2 * WIDTHS[subtype])) or ending == "float.wav"
        else:
            share = form.frames / FRAMES
            assert at / size - 0.1 < share < at / size + 0.1


@pytest.mark.parametrize("ending", FORMATS)
def test_a_file_cut_within_its_header_is_refused_in_words(tmp_path: Path, ending: str) -> None:
    path = whole(tmp_path, ending)
    for at in (1, 4, 11, 12, 20, 30, 43):
        with pytest.raises(Error) as raised:
            read(cut(path, at), salvage=False)
        assert path.name in raised.value.message


def never_finished(path: Path, size: bytes, left: int) -> Path:
    """As a recorder leaves a file that it writes to when it loses its power: with sizes that were never filled in."""
    content = bytearray(path.read_bytes()[:left])
    if path.suffix == ".w64":
        places = [16, content.index(b"data\xf3\xac\xd3\x11") + 16]
        size *= 2
    elif path.suffix == ".rf64":
        places = [content.index(b"ds64") + 8, content.index(b"ds64") + 16]
        size *= 2
    else:
        places = [4, content.index(b"data" if path.suffix == ".wav" else b"SSND") + 4]
        if path.suffix == ".aiff":
            places.append(content.index(b"COMM") + 10)
    for place in places:
        content[place : place + len(size)] = size
    broken = path.with_name(f"unfinished{path.suffix}")
    broken.write_bytes(content)
    return broken


@pytest.mark.parametrize("size", [b"\0\0\0\0", b"\xff\xff\xff\xff"])
@pytest.mark.parametrize("ending", ["wav", "rf64", "aiff", "w64"])
def test_a_recording_that_was_never_finished_is_taken_as_far_as_it_goes(
    tmp_path: Path, ending: str, size: bytes
) -> None:
    path = whole(tmp_path, ending)
    broken = never_finished(path, size, path.stat().st_size - 1_001)
    with pytest.raises(TruncatedError, match="was never finished"):
        read(broken, salvage=False)
    form, samples = read(broken)
    width = WIDTHS[FORMATS[ending][1]]
    assert form.frames == FRAMES - -(-1_001 // (2 * width))
    assert form.broken_off == BrokenOff(frames=form.frames)
    assert np.array_equal(samples, soundfile.read(path, always_2d=True)[0][: form.frames])


def test_a_last_frame_that_is_cut_is_not_taken(tmp_path: Path) -> None:
    path = whole(tmp_path, "wav")
    content = path.read_bytes()
    at = content.index(b"data") + 4
    path.write_bytes(content[:at] + struct.pack("<I", 6 * FRAMES - 2) + content[at + 4 : -2])
    with pytest.raises(TruncatedError):
        read(path, salvage=False)
    assert read(path)[0].broken_off == BrokenOff(frames=FRAMES - 1, claimed=FRAMES)


def test_a_file_without_samples_and_with_chunks_behind_them_is_empty_and_not_broken_off(tmp_path: Path) -> None:
    path = whole(tmp_path, "wav")
    head = path.read_bytes()
    at = head.index(b"data")
    path.write_bytes(head[: at + 4] + bytes(4) + b"LIST" + struct.pack("<I", 4) + b"INFO")
    for salvage in (False, True):
        with pytest.raises(NoFramesError):
            read(path, salvage=salvage)


def test_behind_a_gap_a_flac_goes_on_with_silence_as_long_as_was_lost(tmp_path: Path) -> None:
    path = whole(tmp_path, "flac")
    held = soundfile.read(path, always_2d=True)[0]
    content = bytearray(path.read_bytes())
    for place in (len(content) // 4, len(content) // 2):
        content[place : place + 3_000] = bytes(3_000)
    path.write_bytes(content)
    with pytest.raises(TruncatedError, match="cannot be read past frame 20,480") as raised:
        read(path, salvage=False)
    form, samples = read(path)
    same = (samples == held).all(1)
    lost = np.flatnonzero(~same)
    assert form.frames == FRAMES
    assert form.broken_off is not None
    assert len(lost) <= form.broken_off.silent <= 4 * 4_096  # libFLAC's blocks; a gap lies in one or two of them
    assert not samples[lost].any()
    assert "lost and silent" in raised.value.usable


def test_chunks_before_the_samples_stay_with_what_is_salvaged(tmp_path: Path) -> None:
    path = whole(tmp_path, "wav")
    content = path.read_bytes()
    bext = bytearray(602)
    bext[:7] = b"Harbour"
    bext[338:346] = struct.pack("<Q", 3_600 * RATE)
    head = content[:12] + struct.pack("<4sI", b"bext", len(bext)) + bext + content[12:-30_000]
    path.write_bytes(head)
    with open_files([path], salvage=True) as [(form, file)]:
        assert form.start_time == 3_600 * RATE
        assert (b"bext", bytes(bext)) in file.carried()


def test_a_spliced_file_reads_as_its_parts_one_after_the_other(tmp_path: Path) -> None:
    path = tmp_path / "x"
    path.write_bytes(bytes(range(100)))
    with SplicedFile(path, [b"ab", (10, 5), b"", (90, 10), b"z"]) as file:
        wanted = b"ab" + bytes(range(10, 15)) + bytes(range(90, 100)) + b"z"
        assert file.read() == wanted
        assert (file.seek(3), file.read(6)) == (3, wanted[3:9])
        assert (file.seek(-2, 2), file.read(), file.read()) == (len(wanted) - 2, wanted[-2:], b"")
    with SplicedFile.patching(path, {0: b"x", 50: b"yy"}) as file:
        assert file.read() == b"x" + bytes(range(1, 50)) + b"yy" + bytes(range(52, 100))


def test_the_frames_of_a_flac_are_found_by_their_headers_where_the_checksums_hold(tmp_path: Path) -> None:
    path = whole(tmp_path, "flac")
    found = list(find_frames(path, -1))
    assert [frame.sample for frame in found] == list(range(0, FRAMES, 4_096))
    content = bytearray(path.read_bytes())
    content[found[3].offset + 5] ^= 1  # the checksum of a header of four bytes and a number of one
    path.write_bytes(content)
    assert list(find_frames(path, -1)) == [*found[:3], *found[4:]]
