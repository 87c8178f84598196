"""Trim: to the sample, with its start time and cue points moved as RIFF has them."""

import struct
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from support.helpers import bext, delivered, engine_on, noise, read_ints, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import Order, deliver
from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.metadata import Carried, move_chunks
from wedge_turn.core.turns import Align, ClipInfo, Split, Trim
from wedge_turn.core.worksheet import Plan, Sheet, Step, parse_turn

RATE = 48_000


def cue(*points: tuple[int, int]) -> tuple[bytes, bytes]:
    """A cue chunk of points (id, sample), by the layout of Microsoft's specification of 1991."""
    body = b"".join(struct.pack("<II4sIII", point, place, b"data", 0, 0, place) for point, place in points)
    return b"cue ", struct.pack("<I", len(points)) + body


def adtl(*parts: tuple[bytes, bytes]) -> tuple[bytes, bytes]:
    chunk_bytes = (name + struct.pack("<I", len(body)) + body + bytes(len(body) % 2) for name, body in parts)
    return b"LIST", b"adtl" + b"".join(chunk_bytes)


def label(point: int, text: bytes) -> tuple[bytes, bytes]:
    return b"labl", struct.pack("<I", point) + text + b"\0"


def region(point: int, length: int) -> tuple[bytes, bytes]:
    return b"ltxt", struct.pack("<II4s4H", point, length, b"rgn ", 0, 0, 0, 0)


def test_a_trim_is_exact_and_its_start_time_and_points_move(tmp_path: Path) -> None:
    ints = noise(1, 4_000, 2)
    points = cue((1, 100), (2, 1_000), (7, 3_200))
    about = adtl(label(1, b"slate"), label(2, b"verse"), region(2, 5_000))
    wav = WavFile(write_wav(tmp_path / "st.wav", ints, carried=(bext(9_000), points, about)))
    engine = engine_on(Trim(start="900s", end="2900s"), wav, names=["st"])
    manifest = deliver(engine, Order(("step:only:0",)), tmp_path / "out")
    written = WavFile(tmp_path / "out" / manifest.files[0].name)
    assert np.array_equal(read_ints(written.path), ints[900:2_900])
    assert written.form.start_time == 9_900
    (proof,) = manifest.proofs
    assert (proof.proof.exact, proof.proof.kind, proof.proof.samples) == (True, "round-trip", 4_000)
    assert proof.proof.statement.startswith("Converted back and compared with what was kept of st: all 4,000 samples")
    carried = dict(written.carried())
    assert carried[b"cue "] == cue((2, 100))[1]
    assert carried[b"LIST"] == adtl(label(2, b"verse"), region(2, 1_900))[1]


@pytest.mark.parametrize(
    ("settings", "expected"),
    [
        ({"start": "0.01", "end": "0.02"}, (480, 960)),
        ({"start": "480s"}, (480, 2_000)),
        ({"end": "960s"}, (0, 960)),
        ({"start": "0.01", "end": "99"}, (480, 2_000)),
        ({"end": "0:00.03"}, (0, 1_440)),
        ({"start": "0:00:00.02", "end": "1:00:00"}, (960, 2_000)),
        ({}, (0, 2_000)),
    ],
)
def test_places_are_seconds_or_samples(settings: dict[str, str], expected: tuple[int, int], tmp_path: Path) -> None:
    ints = noise(2, 2_000, 3)
    turn = parse_turn("trim", settings)
    _, path = delivered(tmp_path, turn, ints)
    assert np.array_equal(read_ints(path), ints[slice(*expected)])


def test_an_empty_range_is_refused_with_the_length(tmp_path: Path) -> None:
    wav = WavFile(write_wav(tmp_path / "a.wav", noise(1, 480, 1)))
    with pytest.raises(TurnInputError, match=r"a is 0\.010 s long \(480 samples\): the range starts at 0\.020 s"):
        engine_on(Trim(start=0.02), wav, names=["a"])
    with pytest.raises(TurnInputError, match="the range ends before it starts"):
        engine_on(Trim(start="9s", end="9s"), wav, names=["a"])


def test_chains_collapse_to_one_stretch_of_the_source(tmp_path: Path) -> None:
    wav = WavFile(write_wav(tmp_path / "st.wav", noise(3, 3_000, 2)))
    plan = Plan(
        steps=(
            Step(id="t", turn=Trim(start="500s", end="2500s"), inputs=("source:0",)),
            Step(id="s", turn=Split(), inputs=("step:t:0",)),
            Step(id="u", turn=Trim(start="100s", end="600s"), inputs=("step:s:1",)),
        )
    )
    engine = Engine(Sheet(plan, {"0": ClipInfo("st", wav.form)}), lambda _: wav)
    ((tap,),) = engine.clip("step:u:0").channels
    assert (tap.gain, tap.channel, tap.offset, tap.start, tap.stop) == (1.0, 1, -600, 0, 500)
    assert engine.sheet.outcomes["u"].exact


def test_points_move_with_any_turn_that_moves_the_sound(tmp_path: Path) -> None:
    wav = WavFile(write_wav(tmp_path / "st.wav", noise(3, 3_000, 2), carried=(cue((4, 700)),)))
    engine = engine_on(Align(delay=(20, 0)), wav, names=["st"])
    manifest = deliver(engine, Order(("step:only:0",)), tmp_path / "out")
    written = WavFile(tmp_path / "out" / manifest.files[0].name)
    assert dict(written.carried())[b"cue "] == cue((4, 720))[1]


@given(
    places=st.lists(st.integers(0, 2**31), max_size=5, unique=True),
    offset=st.integers(-(2**33), 2**33),
    frames=st.integers(0, 2**34),
)
def test_only_cue_points_within_the_range_are_kept(places: list[int], offset: int, frames: int) -> None:
    chunks: Carried = (cue(*enumerate(places)), adtl(*(label(n, b"x") for n in range(len(places)))), (b"note", b"?"))
    chunk_bodies = dict(move_chunks(chunks, offset, frames))
    kept = [(n, place + offset) for n, place in enumerate(places) if 0 <= place + offset <= min(frames, 2**32 - 1)]
    assert chunk_bodies[b"note"] == b"?"
    assert chunk_bodies.get(b"cue ") == (cue(*kept)[1] if kept else None)
    assert chunk_bodies.get(b"LIST") == (adtl(*(label(n, b"x") for n, _ in kept))[1] if kept else None)


@given(body=st.binary(max_size=200))
def test_no_bytes_of_a_file_stop_it(body: bytes) -> None:
    move_chunks(((b"cue ", body), (b"LIST", b"adtl" + body), (b"LIST", body)), 5, 100)


@pytest.mark.parametrize(
    ("trim", "message", "samples"),
    [
        (Trim(start=1.0, end=5.0), "st ends at 3.000 s, 2.000 s before the range does.", 2 * RATE),
        (Trim(start="10:00:01", end="10:00:04.5", time="recorded"),
         "st ends at 10:00:03.000, 1.500 s before the range does.", 3 * RATE // 2),
    ],
)  # fmt: skip
def test_a_range_that_goes_on_after_the_clip_says_so_in_the_manifest(
    tmp_path: Path, trim: Trim, message: str, samples: int
) -> None:
    wav = WavFile(write_wav(tmp_path / "st.wav", noise(1, 3 * RATE, 1), carried=(bext(36_000 * RATE),)))
    engine = engine_on(Trim(), wav, names=["st"])
    manifest = deliver(engine, Order(("step:only:0",), range=trim), tmp_path / "out")
    (finding,) = manifest.findings
    assert (finding.code, finding.message, finding.measured) == ("range-past-end", message, {"samples": samples})
    assert finding.files == (manifest.files[0].name,)


@pytest.mark.parametrize("end", [3.0, "end", 2.0, 3.0009])
def test_a_range_within_the_clip_says_nothing(tmp_path: Path, end: float | str) -> None:
    wav = WavFile(write_wav(tmp_path / "st.wav", noise(1, 3 * RATE, 1)))
    assert engine_on(Trim(start=1.0, end=end), wav, names=["st"]).sheet.outcomes["only"].findings == ()
