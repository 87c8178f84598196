"""What goes along with the sound: channel names, start times, history, markers; read by wavinfo, aifc and soundfile."""

import struct
import warnings
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import pytest
import soundfile
from wavinfo import WavInfoReader

from support.helpers import bext, engine_on, noise, quiet, write_wav
from wedge_turn.core.audio import WavFile, open_files
from wedge_turn.core.delivery import ContainerName, DepthChoice, Manifest, Order, deliver
from wedge_turn.core.form import EncodingName
from wedge_turn.core.metadata import Carried
from wedge_turn.core.turns import Align, AnyTurn, Encode, Merge, Split, Sum, Swap, Trim

with warnings.catch_warnings():  # it goes with Python 3.13; nothing else reads markers of an AIFF
    warnings.simplefilter("ignore", DeprecationWarning)
    import aifc

NOON = 12 * 3600 * 48_000 + 2**33  # more than 32 bits


def ixml(*names: str) -> bytes:
    tracks = "".join(
        f"<TRACK><CHANNEL_INDEX>{n}</CHANNEL_INDEX><INTERLEAVE_INDEX>{n}</INTERLEAVE_INDEX><NAME>{name}</NAME>"
        f"<FUNCTION>{name.upper()}</FUNCTION></TRACK>"
        for n, name in enumerate(names, 1)
    )
    return (
        '<?xml version="1.0" encoding="UTF-8"?><BWFXML><IXML_VERSION>1.61</IXML_VERSION><SCENE>12 – Kai</SCENE>'
        f"<SPEED><TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>{NOON >> 32}</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>"
        f"<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>{NOON & 0xFFFFFFFF}</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO></SPEED>"
        f"<TRACK_LIST><TRACK_COUNT>{len(names)}</TRACK_COUNT>{tracks}</TRACK_LIST></BWFXML>"
    ).encode() + b"\0"


def cues(*points: tuple[int, str, int]) -> Carried:
    """Points with a name and a length, by the layout of the Multimedia Programming Interface, 1991."""
    cue = struct.pack("<I", len(points))
    about = b"adtl"
    for n, (place, name, length) in enumerate(points, 1):
        cue += struct.pack("<II4sIII", n, place, b"data", 0, 0, place)
        text = name.encode() + b"\0"
        about += struct.pack("<4sII", b"labl", 4 + len(text), n) + text + bytes(len(text) & 1)
        if length:
            about += struct.pack("<4sIII4sHHHH", b"ltxt", 20, n, length, b"rgn ", 0, 0, 0, 0)
    return (b"cue ", cue), (b"LIST", about)


def source(path: Path, channels: int, *carried: tuple[bytes, bytes]) -> WavFile:
    return WavFile(write_wav(path, quiet(1, 1_000, channels), carried=carried))


def made(
    folder: Path,
    turn: AnyTurn,
    *files: WavFile,
    container: ContainerName = "wav",
    depth: DepthChoice = "same",
    names: list[str] | None = None,
) -> tuple[Manifest, list[Path]]:
    engine = engine_on(turn, *files, names=names or [file.path.stem for file in files])
    manifest = deliver(engine, Order(tuple(engine.sheet.list_ends()), depth, container=container), folder)
    return manifest, [folder / file.name for file in manifest.files]


def tracks(path: Path) -> list[tuple[str, str]]:
    """The number and the name of each track of a file's iXML, which must count them rightly."""
    root = ElementTree.fromstring(WavInfoReader(str(path)).ixml.source)
    listed = root.findall("TRACK_LIST/TRACK")
    assert root.findtext("TRACK_LIST/TRACK_COUNT") == str(len(listed))
    assert root.findtext("SCENE") == "12 – Kai"
    return [(track.findtext("INTERLEAVE_INDEX", ""), track.findtext("NAME", "")) for track in listed]


def points(path: Path) -> list[tuple[int, str | None, int | None]]:
    """The place, the name and the length of each cue point of a file."""
    read = WavInfoReader(str(path), info_encoding="utf-8").cues
    assert read is not None
    return [(place, read.label_and_note(name)[0], read.range(name)) for name, place in read.each_cue()]


def test_the_track_list_names_the_channels_that_are_there(tmp_path: Path) -> None:
    file = source(tmp_path / "poly.wav", 3, (b"iXML", ixml("Boom", "Lav", "Room")))
    _, split = made(tmp_path / "split", Split(), file)
    assert [tracks(path) for path in split] == [[("1", "Boom")], [("1", "Lav")], [("1", "Room")]]

    pair = source(tmp_path / "pair.wav", 2, (b"iXML", ixml("Boom", "Lav")))
    _, (swapped,) = made(tmp_path / "swap", Swap(), pair)
    assert tracks(swapped) == [("1", "Lav"), ("2", "Boom")]
    _, (encoded,) = made(tmp_path / "encode", Encode(), pair)
    assert tracks(encoded) == [("1", ""), ("2", "")], "a mix of both has neither's name"

    left = source(tmp_path / "a_L.wav", 1, (b"iXML", ixml("Near")))
    right = source(tmp_path / "a_R.wav", 1, (b"iXML", ixml("Far")))
    _, (merged,) = made(tmp_path / "merge", Merge(), left, right)
    assert tracks(merged) == [("1", "Near"), ("2", "Far")]


def test_start_times_move_in_every_chunk_that_has_one(tmp_path: Path) -> None:
    file = source(tmp_path / "in.wav", 2, bext(NOON), (b"iXML", ixml("Boom", "Lav")))
    _, (path,) = made(tmp_path / "out", Trim(start="100s", end="500s"), file)
    speed = ElementTree.fromstring(WavInfoReader(str(path)).ixml.source).find("SPEED")
    assert speed is not None
    high = speed.findtext("TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI", "")
    low = speed.findtext("TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO", "")
    assert int(high) << 32 | int(low) == NOON + 100 == WavInfoReader(str(path)).bext.time_reference


def chunks_of(path: Path) -> dict[bytes, bytes]:
    """The chunks of a small WAV, walked by these few lines."""
    data, found, at = path.read_bytes(), {}, 12
    while at + 8 <= len(data):
        name, size = struct.unpack_from("<4sI", data, at)
        found[name] = data[at + 8 : at + 8 + size]
        at += 8 + size + size % 2
    return found


def smpl(*loops: tuple[int, int]) -> tuple[bytes, bytes]:
    """A sampler chunk with loops from a first to a last sample; note 60, and four bytes of the sampler's own."""
    body = struct.pack("<9I", 0, 0, 20_833, 60, 0, 0, 0, len(loops), 4)
    return b"smpl", body + b"".join(struct.pack("<6I", n, 0, *loop, 0, 0) for n, loop in enumerate(loops)) + b"mine"


def cart(*timers: tuple[bytes, int]) -> tuple[bytes, bytes]:
    """A cart chunk of 2,048 bytes with timers at offset 684 (AES46-2002)."""
    set_ = b"".join(struct.pack("<4sI", *timer) for timer in timers)
    return b"cart", (b"0101" + b"Lamp".ljust(680, b"\0") + set_).ljust(2_048, b"\0")


def sync_points(*points: tuple[str, int]) -> tuple[bytes, bytes]:
    listed = "".join(
        f"<SYNC_POINT><SYNC_POINT_TYPE>{kind}</SYNC_POINT_TYPE><SYNC_POINT_LOW>{place & 0xFFFFFFFF}</SYNC_POINT_LOW>"
        f"<SYNC_POINT_HIGH>{place >> 32}</SYNC_POINT_HIGH></SYNC_POINT>"
        for kind, place in points
    )
    count = f"<SYNC_POINT_COUNT>{len(points)}</SYNC_POINT_COUNT>"
    return b"iXML", (
        "<BWFXML><SPEED><AUDIO_BIT_DEPTH>24</AUDIO_BIT_DEPTH></SPEED>"
        f"<SYNC_POINT_LIST>{count}{listed}</SYNC_POINT_LIST></BWFXML>"
    ).encode()


COUNTING = (
    smpl((100, 199), (0, 49), (400, 899)),
    cart((b"MRKs", 100), (b"EOD ", 900), (b"\0\0\0\0", 7), (b"SEC1", 20)),
    sync_points(("RELATIVE", 100), ("RELATIVE", 10), ("ABSOLUTE", NOON)),
)


@pytest.mark.parametrize(
    ("turn", "by", "frames"), [(Trim(start="50s", end="600s"), -50, 550), (Align(delay=(0, 30)), 0, 1_030)]
)
def test_loops_timers_and_sync_points_stay_where_they_were_set(
    turn: AnyTurn, by: int, frames: int, tmp_path: Path
) -> None:
    _, (path,) = made(tmp_path / "out", turn, source(tmp_path / "in.wav", 2, *COUNTING))
    written = chunks_of(path)
    count = struct.unpack_from("<I", written[b"smpl"], 28)[0]
    loops = [struct.unpack_from("<II", written[b"smpl"], 36 + 24 * n + 8) for n in range(count)]
    inside = [(a, b) for a, b in ((100, 199), (0, 49), (400, 899)) if a + by >= 0 and b + by < frames]
    assert loops == [(a + by, b + by) for a, b in inside]
    assert struct.unpack_from("<I", written[b"smpl"], 12) == (60,)
    assert written[b"smpl"].endswith(b"mine")
    timers = [struct.unpack_from("<4sI", written[b"cart"], 684 + 8 * n) for n in range(4)]
    assert timers == [
        (use, place + by) if any(use) and 0 <= place + by <= frames else (bytes(4), 7 if not any(use) else 0)
        for use, place in ((b"MRKs", 100), (b"EOD ", 900), (bytes(4), 7), (b"SEC1", 20))
    ]
    listed = ElementTree.fromstring(written[b"iXML"]).findall("SYNC_POINT_LIST/SYNC_POINT")
    places = [
        (
            one.findtext("SYNC_POINT_TYPE"),
            int(one.findtext("SYNC_POINT_HIGH", "")) << 32 | int(one.findtext("SYNC_POINT_LOW", "")),
        )
        for one in listed
    ]
    moved = [("RELATIVE", place + by) for place in (100, 10) if place + by >= 0]
    assert places == [*moved, ("ABSOLUTE", NOON)]
    assert ElementTree.fromstring(written[b"iXML"]).findtext("SYNC_POINT_LIST/SYNC_POINT_COUNT") == str(len(places))


@pytest.mark.parametrize(("depth", "said"), [("same", "24"), ("16", "16"), ("32", "32"), ("float", "32")])
def test_ixml_says_the_depth_that_is_written(depth: DepthChoice, said: str, tmp_path: Path) -> None:
    _, (path,) = made(tmp_path / "out", Swap(), source(tmp_path / "in.wav", 2, sync_points()), depth=depth)
    assert ElementTree.fromstring(chunks_of(path)[b"iXML"]).findtext("SPEED/AUDIO_BIT_DEPTH") == said


@pytest.mark.parametrize(("encoding", "bits"), [("u8", 8), ("s24", 24), ("f32", 32), ("f64", 64)])
def test_coding_history_says_the_bits_of_a_sample(encoding: EncodingName, bits: int, tmp_path: Path) -> None:
    file = WavFile(
        write_wav(tmp_path / "in.wav", quiet(1, 100, 2, 8 if bits == 8 else 24), encoding=encoding, carried=(bext(0),))
    )
    _, (path,) = made(tmp_path / "out", Swap(), file)
    assert WavInfoReader(str(path)).bext.coding_history == f"A=PCM,F=48000,W={bits},M=stereo,T=Wedge Turn; swap\r\n"


@pytest.mark.parametrize("has_it", [0, 1])
def test_a_pair_of_which_one_has_a_bext_keeps_it(has_it: int, tmp_path: Path) -> None:
    files = [source(tmp_path / f"a_{s}.wav", 1, *([bext(4_800)] if n == has_it else [])) for n, s in enumerate("LR")]
    manifest, (path,) = made(tmp_path / "out", Merge(), *files)
    said = WavInfoReader(str(path)).bext
    assert (said.time_reference, said.originator, manifest.files[0].start_time) == (4_800, "Kettle", 4_800)
    assert [finding.code for finding in manifest.findings] == ["start-unknown"]


@pytest.mark.parametrize("has_it", [0, 1])
def test_a_sum_starts_when_either_says(has_it: int, tmp_path: Path) -> None:
    files = [source(tmp_path / f"{n}.wav", 1, *([bext(4_800)] if n == has_it else [])) for n in range(2)]
    manifest, (path,) = made(tmp_path / "out", Sum(), *files)
    assert (manifest.files[0].start_time, WavInfoReader(str(path)).bext.time_reference) == (4_800, 4_800)


def test_starts_of_two_files_of_one_name_are_compared(tmp_path: Path) -> None:
    files = [source(tmp_path / f"{n}.wav", 1, bext(100 * n)) for n in range(2)]
    manifest, _ = made(tmp_path / "out", Merge(order="given"), *files, names=["kick", "kick"])
    assert "start-differs" in [finding.code for finding in manifest.findings]


@pytest.mark.parametrize(
    "broken", [b"<BWFXML><TRACK_LIST>", b"<!DOCTYPE x [<!ENTITY a 'b'>]><BWFXML/>", b"\xff\xfe\x00"]
)
def test_ixml_that_cannot_be_read_stays_out_and_is_named(broken: bytes, tmp_path: Path) -> None:
    file = source(tmp_path / "in.wav", 2, (b"iXML", broken))
    manifest, (path,) = made(tmp_path / "out", Swap(), file)
    assert [chunk for chunk, _ in WavFile(path).carried()] == []
    assert [finding.message for finding in manifest.findings] == ["in.wav: iXML of the source could not be kept."]


def test_what_only_the_other_file_of_a_pair_has_is_named(tmp_path: Path) -> None:
    left = source(tmp_path / "a_L.wav", 1)
    right = source(tmp_path / "a_R.wav", 1, (b"cart", b"x" * 8))
    manifest, _ = made(tmp_path / "out", Merge(), left, right)
    assert [finding.message for finding in manifest.findings] == ["a.wav: cart of the source could not be kept."]


def test_what_was_done_is_added_to_the_coding_history(tmp_path: Path) -> None:
    name, body = bext(0)
    file = source(tmp_path / "in.wav", 2, (name, body + b"A=ANALOGUE,M=stereo,T=Lamp\r\n\0\0"))
    _, (left, _) = made(tmp_path / "split", Split(), file)
    assert WavInfoReader(str(left)).bext.coding_history == (
        "A=ANALOGUE,M=stereo,T=Lamp\r\nA=PCM,F=48000,W=24,M=mono,T=Wedge Turn; split\r\n"
    )
    assert WavInfoReader(str(left)).bext.originator == "Kettle"
    _, (again,) = made(tmp_path / "again", Trim(start="10s"), WavFile(left), depth="16")
    assert (
        WavInfoReader(str(again)).bext.coding_history.splitlines()[-1] == "A=PCM,F=48000,W=16,M=mono,T=Wedge Turn; trim"
    )


def test_a_flac_keeps_every_chunk_of_a_wav_and_gives_it_back(tmp_path: Path) -> None:
    carried = (
        bext(NOON),
        (b"iXML", ixml("Boom", "Lav")),
        *cues((200, "verse", 0), (600, "refrain", 150)),
        (b"odd ", b"123"),
    )
    file = source(tmp_path / "in.wav", 2, *carried)
    manifest, (path,) = made(tmp_path / "flac", Trim(), file, container="flac")
    assert (manifest.findings, manifest.files[0].start_time) == ([], NOON)
    assert np.array_equal(soundfile.read(path, dtype="int32")[0] >> 8, quiet(1, 1_000, 2))
    head = path.read_bytes()[:42]
    assert (head[:4], head[4] & 0x80) == (b"fLaC", 0), "STREAMINFO is not the last block"

    with open_files([path]) as [(form, wav)]:
        assert (form.start_time, form.container) == (NOON, "FLAC")
        _, (back,) = made(tmp_path / "wav", Trim(), wav, names=["in"])
    _, (straight,) = made(tmp_path / "straight", Trim(), file)
    read, expected = WavInfoReader(str(back)), WavInfoReader(str(straight))
    assert read.bext.time_reference == NOON
    assert read.ixml.source == expected.ixml.source
    assert points(back) == points(straight) == [(200, "verse", None), (600, "refrain", 150)]
    assert dict(WavFile(back).carried())[b"odd "] == b"123"


def test_a_flac_with_chunks_is_proved_like_any_other(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A byte of what goes in between is changed on its way to the disk."""
    from wedge_turn.core.delivery import hashing
    from wedge_turn.core.errors import ProofFailedError

    real = hashing.write_whole
    monkeypatch.setattr(hashing, "write_whole", lambda fd, data: real(fd, bytes(data).replace(b"Boom", b"Baam")))
    file = source(tmp_path / "in.wav", 2, (b"iXML", ixml("Boom", "Lav")))
    with pytest.raises(ProofFailedError):
        made(tmp_path / "out", Trim(), file, container="flac")
    assert not (tmp_path / "out").exists()


@pytest.mark.parametrize("frames", [999, 1_000])
def test_cue_points_become_markers_of_an_aiff_and_cue_points_again(frames: int, tmp_path: Path) -> None:
    ints = noise(1, frames, 1)
    marked = cues((600, "Refrain ü", 150), (200, "verse", 0))
    file = WavFile(write_wav(tmp_path / "in.wav", ints, carried=marked))
    manifest, (path,) = made(tmp_path / "aiff", Trim(), file, container="aiff")
    assert [finding.message for finding in manifest.findings] == [
        "in.aiff: AIFF can't store the lengths of regions from the source."
    ]
    with aifc.open(str(path)) as read:
        assert read.getmarkers() == [(1, 200, b"verse"), (2, 600, "Refrain ü".encode("mac-roman"))]
        assert read.getnframes() == frames
    assert np.array_equal(soundfile.read(path, dtype="int32", always_2d=True)[0] >> 8, ints)
    with open_files([path]) as [(_, wav)]:
        _, (back,) = made(tmp_path / "wav", Trim(), wav, names=["in"])
    assert points(back) == [(200, "verse", None), (600, "Refrain ü", None)]
