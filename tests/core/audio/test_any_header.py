"""Whatever a file's header says, it is read or refused by name: by each reader of ours, and by those of libraries."""

import os
import struct
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st

from support.helpers import RECORDINGS, bext, noise, write_wav
from support.mutations import FILES, mutated, original
from wedge_turn.core.audio import WavFile, import_file, open_files, open_readable
from wedge_turn.core.audio.riff import is_riff, read_layout
from wedge_turn.core.delivery import Order
from wedge_turn.core.errors import BadHeaderError, Error
from wedge_turn.core.metadata import (
    move_chunks,
    read_facts,
    read_flac_chunks,
    read_markers,
    read_recorded,
    read_starts,
    with_form,
)
from wedge_turn.core.metadata.claims import number_in, start_within
from wedge_turn.core.metadata.cues import read_points
from wedge_turn.core.metadata.ixml import parse_ixml, tracks_in
from wedge_turn.core.session import turn_files
from wedge_turn.core.worksheet import parse_turn, plan_turn

OURS = ("WAV", "WAV with bext", "RF64", "float WAV", "AIFF", "CAF", "FLAC", "W64")


@pytest.mark.parametrize("kind", OURS)
@settings(max_examples=60)
@given(data=st.data())
def test_our_readers_take_any_bytes(kind: str, data: st.DataObject, tmp_path: Path) -> None:
    """Directly, without what turns a surprise into a refusal."""
    path = tmp_path / "x"
    path.write_bytes(data.draw(mutated(kind)))
    for read in (read_markers, read_flac_chunks):
        about(read(path))
    about(read_starts(path, 48_000))
    fd = os.open(path, os.O_RDONLY)
    try:
        if is_riff(os.pread(fd, 12, 0)) and read_layout(fd, "x") is not None:
            with WavFile(path) as wav:
                about(wav.carried())
                wav.read(0, 10)
    except Error:
        pass
    finally:
        os.close(fd)


def about(chunks: tuple[tuple[bytes, bytes], ...]) -> None:
    """Everything that is made of what a file carries."""
    read_facts(chunks, 2, 48_000)
    read_recorded(chunks)
    read_points(chunks)
    with WavFile(RECORDINGS / "Front_Left.wav") as wav:
        with_form(move_chunks(chunks, -1_000, 5_000), wav.form.model_copy(update={"start_time": 7}))


@pytest.mark.parametrize("name", ["bext", "iXML", "cue ", "LIST", "smpl", "cart", "mark"])
@settings(max_examples=60)
@given(data=st.data())
def test_chunks_may_hold_anything(name: str, data: st.DataObject) -> None:
    good = {
        "bext": bext(48_000)[1],
        "iXML": b"<BWFXML><SPEED><AUDIO_BIT_DEPTH>24</AUDIO_BIT_DEPTH></SPEED><TRACK_LIST><TRACK><INTERLEAVE_INDEX>1"
        b"</INTERLEAVE_INDEX><NAME>boom</NAME></TRACK></TRACK_LIST><SYNC_POINT_LIST><SYNC_POINT><SYNC_POINT_TYPE>RELATIVE"
        b"</SYNC_POINT_TYPE><SYNC_POINT_LOW>48000</SYNC_POINT_LOW></SYNC_POINT></SYNC_POINT_LIST></BWFXML>",
        "cue ": struct.pack("<I", 1) + struct.pack("<II4sIII", 1, 5, b"data", 0, 0, 5),
        "smpl": struct.pack("<9I", *range(7), 1, 0) + struct.pack("<6I", 1, 0, 100, 200, 0, 0),
        "cart": bytes(684) + struct.pack("<4sI", b"MRK ", 480) + bytes(2_048),
    }.get(name, b"adtl")
    done = data.draw(st.lists(st.tuples(st.integers(0, len(good)), st.binary(max_size=8)), max_size=5))
    for at, piece in done:
        good = good[:at] + piece + good[at + len(piece) :]
    about(((name.encode(), good),))


@pytest.mark.parametrize("kind", FILES)
@settings(max_examples=25)
@given(data=st.data())
def test_a_damaged_file_is_read_or_refused_by_name(kind: str, data: st.DataObject, tmp_path: Path) -> None:
    path = tmp_path / "x"
    path.write_bytes(data.draw(mutated(kind)))
    copy = tmp_path / "copy"
    accepted, refusal = None, ""
    try:
        accepted = import_file(path, "take 7.wav", lambda: copy)
    except Error as error:
        refusal = str(error)
    if accepted is None:
        assert "take 7" in refusal
        assert str(tmp_path) not in refusal
        assert not copy.exists()
        return
    with WavFile(accepted.pcm, "take 7.wav", recorded=accepted.recorded) as wav:
        wav.read(0, 100)
        about(wav.carried())
    copy.unlink(missing_ok=True)


@pytest.mark.parametrize("kind", FILES)
def test_the_files_that_are_damaged_are_good_ones(kind: str, tmp_path: Path) -> None:
    path = tmp_path / "x"
    path.write_bytes((RECORDINGS / FILES[kind]).read_bytes() if FILES[kind] else original(kind))
    if kind == "MP4":  # a film without sound
        return
    assert import_file(path, "x", lambda: tmp_path / "copy").form.frames > 100


def w64(tail: bytes) -> bytes:
    return original("W64") + tail


@pytest.mark.parametrize(
    ("name", "content"),
    [
        ("ffs.w64", w64(b"\xff" * 64)),
        ("text.w64", w64(b"x" * 40)),
        ("huge.w64", w64(b"bext" + bytes(12) + struct.pack("<Q", 2**63))),
        ("huge.caf", (RECORDINGS / FILES["CAF"]).read_bytes() + b"mark" + struct.pack(">q", 2**62)),
    ],
)
def test_what_follows_the_last_chunk_is_no_reason_to_refuse_a_file(name: str, content: bytes, tmp_path: Path) -> None:
    (tmp_path / name).write_bytes(content)
    with open_files([tmp_path / name]) as ((form, _),):
        assert form.frames > 100


def test_an_index_of_thousands_of_digits_is_no_channel() -> None:
    root = parse_ixml(
        b"<BWFXML><TRACK_LIST><TRACK><INTERLEAVE_INDEX>" + b"9" * 5_000 + b"</INTERLEAVE_INDEX><NAME>x</NAME></TRACK>"
        b"<TRACK><INTERLEAVE_INDEX>0002</INTERLEAVE_INDEX><NAME>boom</NAME></TRACK></TRACK_LIST></BWFXML>"
    )
    assert root is not None
    assert {place: track.name for place, track in tracks_in(root).items()} == {1: "boom"}
    assert number_in("12", 10) is number_in("-1", 10) is number_in("１", 10) is number_in("", 10) is None


@pytest.mark.parametrize("start", [2**64 - 1, 2**63, 48_000 * 86_400 * 11])
def test_a_start_time_that_can_be_none_is_unknown(start: int, tmp_path: Path) -> None:
    """And the file is turned and delivered like one that has none."""
    path = write_wav(tmp_path / "a.wav", noise(1, 2_000, 2), carried=(bext(start),))
    with open_files([path]) as ((form, _),):
        assert form.start_time is None
    trim = parse_turn("trim", {"start": "0.01", "end": "0.02"})
    manifest = turn_files([path], lambda infos: plan_turn(trim, infos), tmp_path / "out", Order, lambda _: None)
    assert manifest.files[0].start_time is None
    assert "(bext) of the source could not be kept" in " ".join(finding.message for finding in manifest.findings)
    assert start_within(48_000 * 86_399, 48_000) == 48_000 * 86_399


def test_a_surprise_in_a_reader_is_a_refusal_and_stops_no_other_file(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    good = write_wav(tmp_path / "good.wav", noise(1, 100, 1))
    odd = tmp_path / "odd.flac"
    soundfile.write(odd, np.zeros((100, 1)), 48_000)

    def surprise(*_: object) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr("wedge_turn.core.audio.soundfile_import.read_flac_chunks", surprise)
    with open_readable([odd, good]) as (files, refused):
        assert [path for path, _, _ in files] == [good]
        ((path, error),) = refused
    assert path == odd
    assert isinstance(error, BadHeaderError)
    assert str(error) == "odd.flac cannot be read: what its header says makes no sense"
