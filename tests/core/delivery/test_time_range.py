"""One range for a whole delivery, in the files' own time and in recorded time."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pytest

from support.helpers import Ints, bext, quiet, read_ints, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import Manifest, Order, deliver
from wedge_turn.core.errors import OutsideRangeError
from wedge_turn.core.turns import AnyTurn, Centre, ClipInfo, Encode, Split, Swap, Trim
from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref

RATE = 48_000
TEN = 10 * 3_600 * RATE  # ten in the morning, in samples since midnight


class Session:
    """Stereo noise recorded at different times, each file with one line of the worksheet."""

    def __init__(self, folder: Path, turn: AnyTurn, *files: tuple[int | None, int]) -> None:
        """`files` are a start time in samples since midnight and a length."""
        self.ints: list[Ints] = [quiet(n, frames, 2) for n, (_, frames) in enumerate(files)]
        self._wavs = [
            WavFile(write_wav(folder / f"take-{n}.wav", ints, carried=() if start is None else (bext(start),)))
            for n, (ints, (start, _)) in enumerate(zip(self.ints, files, strict=True))
        ]
        steps = [Step(id=f"line-{n}", turn=turn, inputs=(source_ref(str(n)),)) for n in range(len(files))]
        infos = {str(n): ClipInfo(f"take-{n}", wav.form) for n, wav in enumerate(self._wavs)}
        self.engine = Engine(Sheet(Plan(steps=tuple(steps)), infos), lambda i: self._wavs[int(i)])

    def delivered(self, folder: Path, trim: Trim | None, refs: Sequence[str] = ()) -> Manifest:
        return deliver(self.engine, Order(tuple(refs or self.engine.sheet.list_ends()), range=trim), folder)


def test_files_of_one_session_are_cut_alike_by_the_clock(tmp_path: Path) -> None:
    """The second recorder began a second later, the third ended before the range did."""
    session = Session(tmp_path, Swap(), (TEN, 4 * RATE), (TEN + RATE, 4 * RATE), (TEN, 2 * RATE))
    trim = Trim(start=36_001.5, end=36_003.0, time="recorded")
    manifest = session.delivered(tmp_path / "out", trim)
    spans = [(72_000, 144_000), (24_000, 96_000), (72_000, 96_000)]
    for file, ints, (start, end) in zip(manifest.files, session.ints, spans, strict=True):
        assert np.array_equal(read_ints(tmp_path / "out" / file.name), ints[start:end, ::-1])
        assert file.start_time == TEN + 72_000
    assert [file.name for file in manifest.files] == ["take-0.wav", "take-1.wav", "take-2.wav"]
    assert all(proved.proof.exact and proved.proof.kind == "round-trip" for proved in manifest.proofs)
    assert manifest.proofs[1].turn == "swap"
    assert manifest.proofs[1].sentence.endswith(
        "Keeps take-1 from 10:00:01.500 to 10:00:03.000 in recorded time: 72,000 of 192,000 samples."
    )


def test_a_range_of_the_day_goes_on_past_midnight(tmp_path: Path) -> None:
    """From ten seconds to midnight until ten after it: of a take before, one across it, and one of the new day."""
    midnight = 24 * 3_600 * RATE
    session = Session(
        tmp_path,
        Swap(),
        (midnight - 12 * RATE, 4 * RATE),
        (midnight - RATE, 3 * RATE),
        (8 * RATE, 4 * RATE),
    )
    trim = Trim(start=86_390.0, end=10.0, time="recorded")
    manifest = session.delivered(tmp_path / "out", trim)
    spans = [(2 * RATE, 4 * RATE), (0, 3 * RATE), (0, 2 * RATE)]
    for file, ints, (start, end) in zip(manifest.files, session.ints, spans, strict=True):
        assert np.array_equal(read_ints(tmp_path / "out" / file.name), ints[start:end, ::-1])
    (tmp_path / "noon").mkdir()
    noon = Session(tmp_path / "noon", Swap(), (TEN, RATE))
    with pytest.raises(OutsideRangeError):
        noon.delivered(tmp_path / "none", trim)


def test_in_the_files_own_time_each_is_cut_at_the_same_place(tmp_path: Path) -> None:
    session = Session(tmp_path, Split(), (TEN, 5_000), (None, 4_000))
    manifest = session.delivered(tmp_path / "out", Trim(start="1000s", end="4500s"))
    assert [(file.frames, file.start_time) for file in manifest.files] == [(3_500, TEN + 1_000)] * 2 + [
        (3_000, None)
    ] * 2
    for n, file in enumerate(manifest.files):
        written = read_ints(tmp_path / "out" / file.name)[:, 0]
        assert np.array_equal(written, session.ints[n // 2][1_000:4_500, n % 2])


@pytest.mark.parametrize("turn", [Encode(), Centre()])
def test_a_range_is_the_same_stretch_of_the_whole_delivery(turn: AnyTurn, tmp_path: Path) -> None:
    """To the bit, of turns that mix and turns that look at windows; dithers differ, so none is added."""
    session = Session(tmp_path, turn, (None, 60_000))
    refs = tuple(session.engine.sheet.list_ends())
    whole = deliver(session.engine, Order(refs, dither=False), tmp_path / "whole")
    trim = Trim(start="7001s", end="50003s")
    cut = deliver(session.engine, Order(refs, dither=False, range=trim), tmp_path / "cut")
    for whole_file, cut_file in zip(whole.files, cut.files, strict=True):
        written = read_ints(tmp_path / "cut" / cut_file.name)
        assert np.array_equal(written, read_ints(tmp_path / "whole" / whole_file.name)[7_001:50_003])


def test_a_recording_over_midnight_is_cut_by_the_time_of_day(tmp_path: Path) -> None:
    """It began five seconds before midnight; from 0:00:01 to 0:00:02 are its seconds 6 and 7."""
    session = Session(tmp_path, Swap(), (86_395 * RATE, 10 * RATE), (0, 3 * RATE))
    manifest = session.delivered(tmp_path / "out", Trim(start=1, end=2, time="recorded"))
    first, second = (read_ints(tmp_path / "out" / file.name) for file in manifest.files)
    assert np.array_equal(first, session.ints[0][6 * RATE : 7 * RATE, ::-1])
    assert np.array_equal(second, session.ints[1][RATE : 2 * RATE, ::-1])
    assert "from 00:00:01.000 to 00:00:02.000" in manifest.proofs[0].sentence


def test_files_outside_the_range_are_named_before_anything_is_written(tmp_path: Path) -> None:
    session = Session(tmp_path, Swap(), (TEN, RATE), (TEN + 60 * RATE, RATE), (None, RATE), (TEN + RATE, RATE))
    trim = Trim(start=36_000, end=36_002, time="recorded")
    with pytest.raises(OutsideRangeError) as refused:
        session.delivered(tmp_path / "out", trim)
    assert refused.value.message == (
        "take-1 was recorded from 10:01:00.000 to 10:01:01.000: none of it is in the range; nor can 1 more file be"
        " trimmed to it"
    )
    assert not (tmp_path / "out").exists()
    manifest = session.delivered(tmp_path / "out", trim, ["step:line-0:0", "step:line-3:0"])
    assert [file.frames for file in manifest.files] == [RATE, RATE]
