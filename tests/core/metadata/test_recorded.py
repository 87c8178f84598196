"""What files say of their recording: iXML, the lines of bext, CodingHistory, time code, markers of CAF and Wave64."""

import struct
from pathlib import Path

import pytest
import soundfile
from wavinfo import WavInfoReader

from support.helpers import bext, quiet, write_wav
from wedge_turn.core.audio import WavFile, open_files
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import Order, deliver
from wedge_turn.core.form import FrameRate, format_clock, format_time_code_of, parse_frame_rate, parse_time_code
from wedge_turn.core.form.timecode import format_time_code
from wedge_turn.core.metadata import Recorded
from wedge_turn.core.turns import AnyTurn, ClipInfo, Merge, Split
from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref

DROP = FrameRate(frames=30_000, seconds=1001, drop=True)
IXML = b"""<?xml version="1.0"?><BWFXML><PROJECT>Kettle Island Light</PROJECT><SCENE>12A</SCENE><TAKE>3</TAKE>
<TAPE>K0914</TAPE><NOTE>wind &amp; gulls</NOTE><SPEED><TIMECODE_RATE>30000/1001</TIMECODE_RATE>
<TIMECODE_FLAG>DF</TIMECODE_FLAG><TIMESTAMP_SAMPLE_RATE>96000</TIMESTAMP_SAMPLE_RATE>
<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>1</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>
<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>64000</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO></SPEED>
<TRACK_LIST><TRACK><INTERLEAVE_INDEX>2</INTERLEAVE_INDEX><NAME>rail/aft</NAME><FUNCTION>spot</FUNCTION></TRACK>
<TRACK><INTERLEAVE_INDEX>1</INTERLEAVE_INDEX><NAME>gangway</NAME></TRACK></TRACK_LIST></BWFXML>"""


def lines(*said: str, history: str = "") -> tuple[bytes, bytes]:
    """A bext chunk with such a description, by the layout of EBU Tech 3285."""
    description = "\r\n".join(said).encode()
    head = struct.pack("<256s32s32s10s8sQH", description, b"Kettle", b"R1", b"2026-09-14", b"10:00:00", 96_000, 1)
    return b"bext", head.ljust(602, b"\0") + history.encode()


def results(files: list[WavFile], turn: AnyTurn, to: Path) -> list[Path]:
    infos = {str(n): ClipInfo(file.path.stem, file.form) for n, file in enumerate(files)}
    step = Step(id="only", turn=turn, inputs=tuple(source_ref(key) for key in infos))
    engine = Engine(Sheet(Plan(steps=(step,)), infos), lambda key: files[int(key)])
    deliver(engine, Order(tuple(engine.sheet.list_ends())), to)
    return sorted(to.glob("*.wav"))


def test_ixml_says_scene_take_channels_rate_and_start(tmp_path: Path) -> None:
    path = write_wav(tmp_path / "poly.wav", quiet(1, 500, 2), carried=((b"iXML", IXML),))
    with WavFile(path) as file:
        form, recorded = file.form, file.recorded
    assert recorded == Recorded(project="Kettle Island Light", scene="12A", take="3", tape="K0914", note="wind & gulls")
    assert form.labels == ("gangway", "rail/aft")
    assert form.start_time == (2**32 + 64_000) // 2  # the chunk counts at 96 kHz
    assert form.frame_rate == DROP
    seen = WavInfoReader(str(path)).ixml
    assert (seen.project, seen.scene, seen.take, seen.tape) == ("Kettle Island Light", "12A", "3", "K0914")
    assert sorted((track.interleave_index, track.name) for track in seen.track_list) == [
        ("1", "gangway"), ("2", "rail/aft"),
    ]  # fmt: skip


def test_split_calls_its_results_as_the_file_does(tmp_path: Path) -> None:
    file = WavFile(write_wav(tmp_path / "poly.wav", quiet(1, 500, 2), carried=((b"iXML", IXML),)))
    paths = results([file], Split(), tmp_path / "out")
    assert [path.name for path in paths] == ["poly_gangway.wav", "poly_rail-aft.wav"]
    assert [track.name for path in paths for track in WavInfoReader(str(path)).ixml.track_list] == [
        "gangway", "rail/aft",
    ]  # fmt: skip


def test_the_lines_of_bext_are_read_and_rewritten(tmp_path: Path) -> None:
    said = lines("sSPEED=025.000-ND", "sTAKE=04", "sSCENE=P4", "sTRK1=boom", "sTRK2=bell", "sNOTE=quiet sea")
    file = WavFile(write_wav(tmp_path / "poly.wav", quiet(1, 500, 3), carried=(said,)))
    assert file.form.labels == ("boom", "bell", "")
    assert (file.recorded.scene, file.recorded.take, file.recorded.note) == ("P4", "04", "quiet sea")
    assert format_time_code_of(file.form) == "00:00:02:00"
    paths = results([file], Split(), tmp_path / "out")
    assert [path.name for path in paths] == ["poly_1.wav", "poly_2.wav", "poly_3.wav"]  # one has no name
    second = WavInfoReader(str(paths[1])).bext.description
    assert "sTRK1=bell" in second
    assert "sTRK2" not in second
    assert "boom" not in second
    assert "sSCENE=P4" in second


def test_merged_files_keep_the_names_of_their_channels_in_ixml(tmp_path: Path) -> None:
    files = [
        WavFile(write_wav(tmp_path / f"{name}.wav", quiet(n, 500, 1), carried=(lines(f"sTRK1={name}"),)))
        for n, name in enumerate(("boom", "bell", "radio"))
    ]
    (path,) = results(files, Merge(order="given", layout="discrete"), tmp_path / "out")
    assert [track.name for track in WavInfoReader(str(path)).ixml.track_list] == ["boom", "bell", "radio"]
    with open_files([path]) as [(form, _)]:
        assert form.labels == ("boom", "bell", "radio")


def test_stereo_pairs_stay_together_in_a_split_by_parts(tmp_path: Path) -> None:
    names = ("mix left", "mix right", "boom")
    said = lines(*(f"sTRK{n}={name}" for n, name in enumerate(names, 1)))
    file = WavFile(write_wav(tmp_path / "film.wav", quiet(1, 500, 3), carried=(said,)))
    paths = results([file], Split(parts=(2, 1)), tmp_path / "out")
    assert [(path.name, soundfile.info(path).channels) for path in paths] == [
        ("film_boom.wav", 1), ("film_mix.wav", 2),
    ]  # fmt: skip


@pytest.mark.parametrize("body", [b"", b"<BWFXML", b"<!DOCTYPE a><BWFXML/>", b"\xff\xfe\x00", b"<A>" * 5_000])
def test_ixml_that_cannot_be_read_says_nothing(tmp_path: Path, body: bytes) -> None:
    file = WavFile(write_wav(tmp_path / "odd.wav", quiet(1, 500, 2), carried=((b"iXML", body),)))
    assert file.recorded == Recorded()
    assert file.form.labels == ()
    assert file.form.start_time is None


def test_coding_history_is_read(tmp_path: Path) -> None:
    said = lines(history="A=MPEG1L3,F=48000,B=192,M=stereo\r\nA=PCM,F=48000,W=24\r\n\0\0")
    file = WavFile(write_wav(tmp_path / "old.wav", quiet(1, 500, 2), carried=(said,)))
    assert file.recorded.history == ("A=MPEG1L3,F=48000,B=192,M=stereo", "A=PCM,F=48000,W=24")


@pytest.mark.parametrize(
    ("frame", "code"),
    # SMPTE ST 12-1 (from memory): ten minutes hold 17,982 frames, an hour 107,892.
    [(0, "00:00:00;00"), (1_799, "00:00:59;29"), (1_800, "00:01:00;02"), (17_981, "00:09:59;29"),
     (17_982, "00:10:00;00"), (107_892, "01:00:00;00")],
)  # fmt: skip
def test_drop_frame_time_code(frame: int, code: str) -> None:
    samples = -(-frame * 1001 * 48_000 // 30_000)
    assert format_time_code(samples, 48_000, DROP) == code
    assert parse_time_code(code, 48_000, DROP) == pytest.approx(samples, abs=1)


def test_time_code_without_drop_runs_slower_than_the_clock() -> None:
    rate = FrameRate(frames=30_000, seconds=1001)
    assert format_time_code(3600 * 48_000, 48_000, rate) == "00:59:56:12"
    assert format_time_code(36_000 * 48_000 + 1_920, 48_000, FrameRate(frames=25, seconds=1)) == "10:00:00:01"
    assert format_clock(36_000 * 48_000 + 12_000, 48_000) == "10:00:00.250"


@pytest.mark.parametrize(
    ("text", "rate"),
    [("25", (25, 1)), ("025.000", (25, 1)), ("29.97", (30_000, 1001)), ("23.98", (24_000, 1001)),
     ("30000/1001", (30_000, 1001)), ("24/1", (24, 1)), ("0", None), ("1/0", None), ("fast", None), ("9999999", None)],
)  # fmt: skip
def test_frame_rates_as_they_are_written(text: str, rate: tuple[int, int] | None) -> None:
    found = parse_frame_rate(text)
    assert (found and (found.frames, found.seconds)) == rate


def test_a_frame_rate_is_said_as_people_do() -> None:
    rates = (FrameRate(frames=25, seconds=1), FrameRate(frames=24_000, seconds=1001), DROP)
    assert [rate.text for rate in rates] == ["25", "23.976", "29.97 drop-frame"]


def test_a_marker_of_a_caf_says_when_it_starts(tmp_path: Path) -> None:
    path = tmp_path / "mark.caf"
    soundfile.write(path, quiet(1, 4_800, 1) / 2**23, 48_000, subtype="PCM_24")
    data = path.read_bytes()
    marker = struct.pack(">IdIbbbbII", 0, 960.0, 1, 10, 0, 0, 12, 0, 0)
    body = struct.pack(">II", 2, 1) + marker  # 25 frames a second
    at = data.index(b"data")
    path.write_bytes(data[:at] + b"mark" + struct.pack(">q", len(body)) + body + data[at:])
    with open_files([path]) as [(form, _)]:
        assert form.start_time == 36_000 * 48_000 + 12 * 1_920 - 960
        assert format_time_code_of(form) == "10:00:00:11"


def test_the_bext_of_a_wave64_says_when_it_starts(tmp_path: Path) -> None:
    path = tmp_path / "long.w64"
    soundfile.write(path, quiet(1, 4_800, 1) / 2**23, 48_000, subtype="PCM_24", format="W64")
    data = path.read_bytes()
    tail = bytes.fromhex("f3acd3118cd100c04f8edb8a")
    _, body = bext(123_456)
    chunk = b"bext" + tail + struct.pack("<Q", 24 + len(body)) + body
    at = data.index(b"data" + tail)
    path.write_bytes(data[:at] + chunk + bytes(-len(chunk) % 8) + data[at:])
    with open_files([path]) as [(form, file)]:
        assert form.start_time == 123_456
        assert file.recorded.recorder == "Kettle"
