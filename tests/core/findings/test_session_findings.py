"""What the files of a job say about each other. Thresholds are common practice, no source."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from support.helpers import quiet, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.findings import SessionFile
from wedge_turn.core.findings.session import find_in_session
from wedge_turn.core.form import EncodingName
from wedge_turn.core.measure import measure_signal
from wedge_turn.core.turns import Level, Resample

HOUR = 3600 * 8_000


class Folder:
    """Files of a session at 8 kHz, measured, by their names."""

    def __init__(self, at: Path) -> None:
        self.at = at
        self.files: list[SessionFile] = []

    def add(
        self,
        name: str,
        samples: np.ndarray | None = None,
        *,
        start: int | None = HOUR,
        rate: int = 8_000,
        encoding: EncodingName = "s24",
        folder: str = "",
    ) -> None:
        ints = quiet(len(self.files) + 1, rate, 1) if samples is None else samples
        if encoding == "s16":
            ints = ints >> 8
        with WavFile(write_wav(self.at / f"{len(self.files)}.wav", ints, rate, encoding)) as file:
            form = file.form.model_copy(update={"start_time": start and start * rate // 8_000})
            self.files.append(SessionFile(name, name, folder, form, measure_signal(file)))

    def found(self) -> dict[str, list[str]]:
        return {name: [one.code for one in found] for name, found in find_in_session(self.files).items()}

    def message(self, name: str) -> str:
        return " ".join(one.message for one in find_in_session(self.files)[name])


@pytest.fixture
def folder(tmp_path: Path) -> Folder:
    return Folder(tmp_path)


def test_an_ordinary_session_has_no_finding(folder: Folder) -> None:
    for name in ("boom", "bell", "radio", "kit_L", "kit_R", "take_01", "take_02", "take_03"):
        folder.add(name)
    assert folder.found() == {}


def test_another_rate_depth_and_length_are_said_of_the_odd_one(folder: Folder) -> None:
    for name in ("boom", "bell", "radio", "rail"):
        folder.add(name)
    folder.add("phone", rate=11_025)
    assert folder.found() == {"phone": ["other-rate"]}
    assert folder.message("phone") == (
        "phone is at 11.025 kHz; the 4 others that start with it are at 8 kHz. Ask for it at 8 kHz, or resample it."
    )
    (finding,) = find_in_session(folder.files)["phone"]
    assert finding.remedy is not None
    assert finding.remedy.turn == Resample(rate=8_000)
    folder.files.pop()
    folder.add("wire", encoding="s16")
    folder.add("cut", quiet(9, 6_000, 1))
    assert folder.found() == {"wire": ["other-depth"], "cut": ["other-length"]}
    assert "cut is 0.2 s shorter than the 5 others" in folder.message("cut")


def test_files_without_a_start_are_compared_where_nearly_all_are_of_one_length(folder: Folder) -> None:
    for name in ("boom", "bell", "radio", "rail"):
        folder.add(name, start=None)
    folder.add("wire", start=None, encoding="s16")
    assert folder.found() == {"wire": ["other-depth"]}
    for n in range(3):
        folder.add(f"song {'abc'[n]}", quiet(20 + n, 9_000 + 900 * n, 1), start=None)
    assert folder.found() == {}


def test_a_start_that_contradicts_its_neighbours(folder: Folder) -> None:
    for name in ("boom", "bell", "radio"):
        folder.add(name)
    folder.add("rail", start=2 * HOUR)
    assert folder.found() == {"rail": ["other-start"]}
    assert "rail starts at 02:00:00.000; the 3 others of its length start at 01:00:00.000" in folder.message("rail")


def test_a_start_out_of_the_order_of_its_number(folder: Folder) -> None:
    for n, start in enumerate((1, 2, 9, 4, 5), 1):
        folder.add(f"take_{n}", quiet(n, 5_000 + 700 * n, 1), start=start * HOUR)
    assert folder.found() == {"take_3": ["other-start"]}


def test_half_of_a_pair(folder: Folder) -> None:
    folder.add("kit_R")
    folder.add("hat_L")
    folder.add("hat_R")
    folder.add("Kit left", folder="another")
    assert folder.found() == {"kit_R": ["half-missing"], "Kit left": ["half-missing"]}
    assert "kit_R is named as right and has no kit_L" in folder.message("kit_R")
    assert "has no Kit right" in folder.message("Kit left")


def test_left_and_right_that_hold_the_same_samples(folder: Folder) -> None:
    same = quiet(1, 8_000, 1)
    folder.add("kit_L", same)
    folder.add("kit_R", same)
    folder.add("hat_L")
    folder.add("hat_R")
    assert folder.found() == {"kit_L": ["twin"], "kit_R": ["twin"]}
    folder.files = folder.files[:2]
    silence = np.zeros((8_000, 1), np.int64)
    folder.add("sea_L", silence)
    folder.add("sea_R", silence)
    assert set(folder.found()) == {"kit_L", "kit_R"}


def test_a_gap_in_numbering(folder: Folder) -> None:
    for n in (1, 2, 3, 5, 6):
        folder.add(f"take_{n:02}", quiet(n, 5_000 + 100 * n, 1), start=None)
    assert folder.found() == {"take_05": ["number-missing"]}
    assert "Before take_05 the number 04 is missing: 5 of 6 files are here" in folder.message("take_05")
    for name in ("mic 57", "mic 121", "mic 414"):
        folder.add(name, quiet(40, 3_000, 1), start=None)
    assert set(folder.found()) == {"take_05"}


def test_a_gain_that_was_turned_is_in_every_file_at_one_moment(folder: Folder) -> None:
    """Each file is unlike the others, and all fall by 6 dB after 12 s."""
    rate, seconds = 8_000, 30
    for n, name in enumerate(("boom", "bell", "radio")):
        rng = np.random.default_rng(n)
        wave = rng.standard_normal(rate * seconds) * (1 + 0.2 * np.sin(np.arange(rate * seconds) / (900 + 70 * n)))
        wave[12 * rate :] *= 10 ** (-6 / 20)
        folder.add(name, np.rint(wave * 2**19).astype(np.int64)[:, None])
    assert folder.found() == {name: ["gain-changed"] for name in ("boom", "bell", "radio")}
    (finding,) = find_in_session(folder.files)["bell"]
    assert finding.measured["seconds"] == pytest.approx(12, abs=0.2)
    assert finding.measured["change_db"] == pytest.approx(-6, abs=0.3)
    assert finding.remedy is not None
    assert isinstance(finding.remedy.turn, Level)
    assert finding.remedy.turn.gains_db[0] == pytest.approx(6, abs=0.3)
    assert finding.remedy.over is not None
    # One file that goes on as it was: somebody played more softly.
    rng = np.random.default_rng(9)
    folder.add("rail", np.rint(rng.standard_normal(rate * seconds) * 2**19).astype(np.int64)[:, None])
    assert folder.found() == {}


def test_files_that_are_not_measured_yet_are_not_judged_by_their_samples(folder: Folder) -> None:
    same = quiet(1, 8_000, 1)
    folder.add("kit_L", same)
    folder.add("kit_R", same)
    folder.files[1] = replace(folder.files[1], measures=None)
    assert folder.found() == {}
