"""Delivering once more: what is the same is taken over, what changed is written, and the two can be compared."""

import os
from pathlib import Path
from typing import Any

import pytest

from support.helpers import left_behind, noise, quiet, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import (
    MANIFEST,
    REPORT,
    Copy,
    Manifest,
    Order,
    Origin,
    cannot_clip,
    compare_deliveries,
    deliver,
    find_unlisted,
    hash_file,
    list_gain_reductions,
    read_manifest,
    verify,
)
from wedge_turn.core.errors import ExistsError
from wedge_turn.core.turns import AnyTurn, ClipInfo, Encode, Level, Split, Swap
from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref
from wedge_turn.core.worksheet.sheet import _settings


class Job:
    """Two stereo files that are known by their hashes, each turned once."""

    def __init__(self, folder: Path) -> None:
        self.paths = [write_wav(folder / f"{name}.wav", quiet(n, 5_000, 2)) for n, name in enumerate(("bell", "sea"))]
        self.origins = {str(n): Origin(path.name, hash=hash_file(path)) for n, path in enumerate(self.paths)}

    def engine(self, *turns: AnyTurn) -> Engine:
        files = [WavFile(path) for path in self.paths]
        infos = {str(n): ClipInfo(file.path.stem, file.form) for n, file in enumerate(files)}
        steps = (Step(id=f"line-{n}", turn=turn, inputs=(source_ref(str(n)),)) for n, turn in enumerate(turns))
        hashes = {key: origin.hash for key, origin in self.origins.items()}
        return Engine(Sheet(Plan(steps=tuple(steps)), infos, hashes), lambda key: files[int(key)])

    def delivered(
        self, to: Path, *turns: AnyTurn, earlier: Path | None = None, may_link: bool = False, **how: Any
    ) -> Manifest:
        engine = self.engine(*turns)
        order = Order(tuple(engine.sheet.list_ends()), origins=self.origins, **how)
        return deliver(engine, order, to, earlier=earlier, may_link=may_link)


@pytest.fixture
def job(tmp_path: Path) -> Job:
    return Job(tmp_path)


def kept(manifest: Manifest) -> dict[str, bool]:
    return {file.name: file.kept for file in manifest.files}


def inodes(folder: Path) -> dict[str, int]:
    return {path.name: path.stat().st_ino for path in folder.glob("*.wav")}


def test_only_what_has_changed_is_written_again(job: Job, tmp_path: Path) -> None:
    first = job.delivered(tmp_path / "one", Split(), Swap())
    turns = Split(), Level(gains_db=(-6,))
    second = job.delivered(tmp_path / "two", *turns, earlier=tmp_path / "one", may_link=True)
    assert kept(second) == {"bell_L.wav": True, "bell_R.wav": True, "sea.wav": False}
    assert verify(tmp_path / "two") == []
    one, two = inodes(tmp_path / "one"), inodes(tmp_path / "two")
    assert (one["bell_L.wav"] == two["bell_L.wav"], one["sea.wav"] == two["sea.wav"]) == (True, False)
    assert second.proofs[0].proof == first.proofs[0].proof


def test_editing_a_reused_file_leaves_the_earlier_delivery_alone(job: Job, tmp_path: Path) -> None:
    """As a program does that writes tags or markers into the file in place."""
    job.delivered(tmp_path / "one", Split())
    assert all(kept(job.delivered(tmp_path / "two", Split(), earlier=tmp_path / "one")).values())
    with (tmp_path / "two" / "bell_L.wav").open("r+b") as file:
        file.seek(-1, os.SEEK_END)
        file.write(b"!")
    assert verify(tmp_path / "one") == []
    assert [finding.code for finding in verify(tmp_path / "two")] == ["changed"]


@pytest.mark.parametrize("how", [{"depth": "16"}, {"container": "flac"}])
def test_another_depth_or_format_is_written_again(job: Job, tmp_path: Path, how: dict[str, Any]) -> None:
    job.delivered(tmp_path / "one", Split())
    assert not any(kept(job.delivered(tmp_path / "two", Split(), earlier=tmp_path / "one", **how)).values())


def test_what_another_revision_computed_is_written_again(
    job: Job, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    job.delivered(tmp_path / "one", Split(), Swap())
    before = job.engine(Split(), Swap()).sheet
    monkeypatch.setattr(Swap, "revision", Swap.revision + 1)
    _settings.cache_clear()
    second = job.delivered(tmp_path / "two", Split(), Swap(), earlier=tmp_path / "one")
    assert kept(second) == {"bell_L.wav": True, "bell_R.wav": True, "sea.wav": False}
    after = job.engine(Split(), Swap()).sheet
    changed = [ref for ref in before.list_ends() if before.key(ref) != after.key(ref)]
    assert changed == ["step:line-1:0"]  # so its pictures and measures are made anew, too
    monkeypatch.setattr("wedge_turn.core.delivery.record.FILES_REVISION", 1_000)
    third = job.delivered(tmp_path / "three", Split(), Swap(), earlier=tmp_path / "two")
    assert not any(kept(third).values())
    monkeypatch.undo()
    _settings.cache_clear()


def test_a_file_that_is_no_longer_what_was_written_is_written_again(job: Job, tmp_path: Path) -> None:
    """With both results of its line, which are proved together."""
    job.delivered(tmp_path / "one", Split(), Swap())
    damaged = tmp_path / "one" / "bell_R.wav"
    content = bytearray(damaged.read_bytes())
    content[-1] ^= 1
    damaged.write_bytes(content)
    second = job.delivered(tmp_path / "two", Split(), Swap(), earlier=tmp_path / "one")
    assert kept(second) == {"bell_L.wav": False, "bell_R.wav": False, "sea.wav": True}
    assert verify(tmp_path / "two") == []


def test_sources_that_are_not_identified_take_nothing_over(job: Job, tmp_path: Path) -> None:
    """Their keys say which file it was in a list, not what was in it."""
    engine = job.engine(Split())
    bare = Engine(Sheet(engine.sheet.plan, {"0": engine.sheet.info("source:0")}), lambda _: WavFile(job.paths[0]))
    order = Order(tuple(bare.sheet.list_ends()))
    deliver(bare, order, tmp_path / "one")
    assert not any(kept(deliver(bare, order, tmp_path / "two", earlier=tmp_path / "one")).values())


def test_a_copy_is_taken_over_while_its_source_is_the_same(job: Job, tmp_path: Path) -> None:
    path = write_wav(tmp_path / "spare.wav", noise(5, 100, 1))
    copies = (Copy(path, "spare.wav", WavFile(path).form),)
    job.delivered(tmp_path / "one", Split(), copies=copies)
    assert kept(job.delivered(tmp_path / "two", Split(), copies=copies, earlier=tmp_path / "one"))["spare.wav"]
    write_wav(path, noise(6, 100, 1))
    assert not kept(job.delivered(tmp_path / "three", Split(), copies=copies, earlier=tmp_path / "two"))["spare.wav"]


def test_on_another_disk_files_are_copied_and_checked(
    job: Job, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    job.delivered(tmp_path / "one", Split())

    def refuse(*_: Path) -> None:
        raise OSError(18, "Invalid cross-device link")

    with monkeypatch.context() as patch:
        patch.setattr("wedge_turn.core.delivery.placing._move_new", lambda source, target: source.rename(target))
        patch.setattr(Path, "hardlink_to", refuse)
        second = job.delivered(tmp_path / "two", Split(), earlier=tmp_path / "one")
    assert all(kept(second).values())
    assert verify(tmp_path / "two") == []
    assert inodes(tmp_path / "one")["bell_L.wav"] != inodes(tmp_path / "two")["bell_L.wav"]


def test_into_its_own_folder_only_the_changed_file_is_replaced(job: Job, tmp_path: Path) -> None:
    out = tmp_path / "out"
    job.delivered(out, Split(), Swap(), replaces_own=True)
    before = inodes(out)
    (out / "notes.txt").write_text("mine")
    again = job.delivered(out, Split(), Level(gains_db=(-6,)), replaces_own=True, earlier=out)
    assert kept(again) == {"bell_L.wav": True, "bell_R.wav": True, "sea.wav": False}
    assert {name for name, inode in inodes(out).items() if before[name] == inode} == {"bell_L.wav", "bell_R.wav"}
    assert (verify(out), find_unlisted(out)) == ([], ["notes.txt"])


def test_what_a_killed_process_left_there_is_removed_once_it_is_old(job: Job, tmp_path: Path) -> None:
    out = tmp_path / "out"
    job.delivered(out, Split(), replaces_own=True)
    for name in ("old", "new"):
        (out / f".wedge-turn-{name}").mkdir()
        (out / f".wedge-turn-{name}" / "half.wav").write_text("half")
    os.utime(out / ".wedge-turn-old", (0, 0))
    job.delivered(out, Split(), replaces_own=True, earlier=out)
    assert [path.name for path in out.glob(".wedge-turn-*")] == [".wedge-turn-new"], "somebody may be writing it"


@pytest.mark.parametrize("whose", ["changed", "foreign"])
def test_what_somebody_else_put_there_is_never_replaced(job: Job, tmp_path: Path, whose: str) -> None:
    out = tmp_path / "out"
    job.delivered(out, Split())
    if whose == "foreign":
        (out / MANIFEST).unlink()
    (out / "bell_L.wav").write_text("mine")
    reason = "has been changed since it was delivered there" if whose == "changed" else "already exists"
    with pytest.raises(ExistsError, match=reason):
        job.delivered(out, Split(), replaces_own=True, earlier=out)
    assert (out / "bell_L.wav").read_text() == "mine"


def test_two_deliveries_are_compared_file_by_file(job: Job, tmp_path: Path) -> None:
    def read(folder: str) -> Manifest:
        return read_manifest(tmp_path / folder)

    job.delivered(tmp_path / "one", Split(), Swap())
    job.delivered(tmp_path / "two", Split(), Level(gains_db=(-6,)), depth="16")
    job.delivered(tmp_path / "three", Split())
    changes = {one.name: one for one in compare_deliveries(read("one"), read("two"))}
    assert {name: one.change for name, one in changes.items()} == {
        "bell_L.wav": "written",
        "bell_R.wav": "written",
        "sea.wav": "samples",
    }
    assert changes["bell_L.wav"].detail == "24 → 16 bit"
    assert "before: " in changes["sea.wav"].detail
    assert "−6 dB" in changes["sea.wav"].detail
    assert [one.change for one in compare_deliveries(read("one"), read("three"))] == ["same", "same", "removed"]
    assert [one.change for one in compare_deliveries(read("three"), read("one"))] == ["same", "same", "added"]


def test_a_renamed_result_is_told_from_a_new_one(job: Job, tmp_path: Path) -> None:
    from wedge_turn.core.naming import Naming

    job.delivered(tmp_path / "one", Swap())
    job.delivered(tmp_path / "two", Swap(), naming=Naming(pattern="mix_{name}"))
    (change,) = compare_deliveries(read_manifest(tmp_path / "one"), read_manifest(tmp_path / "two"))
    assert (change.name, change.change, change.detail) == ("mix_bell.wav", "renamed", "was bell.wav")
    job.delivered(tmp_path / "three", Swap(), naming=Naming(pattern="mix_{name}"), depth="16")
    (change,) = compare_deliveries(read_manifest(tmp_path / "one"), read_manifest(tmp_path / "three"))
    assert (change.change, change.detail) == ("renamed", "was bell.wav, 24 → 16 bit")


def test_the_folders_of_the_sources_are_kept(job: Job, tmp_path: Path) -> None:
    job.origins = {"0": Origin("bell.wav", "Reel 1/Wide: 2"), "1": Origin("sea.wav", "Reel 1/WIDE: 2")}
    path = write_wav(tmp_path / "spare.wav", noise(5, 100, 1))
    copies = (Copy(path, "bell.wav", WavFile(path).form, "Reel 1/Wide: 2"),)
    manifest = job.delivered(tmp_path / "out", Swap(), Swap(), folders=True, copies=copies)
    assert [file.name for file in manifest.files] == [
        "Reel 1/Wide_ 2/bell.wav",
        "Reel 1/WIDE_ 2 (2)/sea.wav",
        "Reel 1/Wide_ 2/bell (2).wav",
    ], "names that differ by case only would be one folder elsewhere"
    assert manifest.files[0].sources == ["Reel 1/Wide: 2/bell.wav"]
    assert (verify(tmp_path / "out"), find_unlisted(tmp_path / "out")) == ([], [])
    (tmp_path / "out" / "Reel 1" / "Wide_ 2" / "more.txt").write_text("mine")
    assert find_unlisted(tmp_path / "out") == ["Reel 1/Wide_ 2/more.txt"]


def test_a_stopped_delivery_leaves_no_folders(job: Job, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    out = tmp_path / "out"
    out.mkdir()
    job.origins = {"0": Origin("bell.wav", "a/b"), "1": Origin("sea.wav", "c")}
    real, moved = os.link, []

    def failing(source: Path, target: Path, **_: object) -> None:
        moved.append(target)
        if len(moved) == 2:
            raise OSError(5, "Input/output error")
        real(source, target)

    monkeypatch.setattr(os, "link", failing)
    with pytest.raises(OSError, match="Input/output error"):
        job.delivered(out, Swap(), Swap(), folders=True)
    assert (left_behind(out), list(out.iterdir())) == ([], [])


def test_what_fits_for_sure_follows_from_the_peaks_of_the_sources(job: Job) -> None:
    sheet = job.engine(Split(), Encode()).sheet
    left, right, mid = sheet.list_ends()
    quiet_enough: dict[str, list[float | None]] = {"source:0": [-1.0, None], "source:1": [0.0, 0.0]}
    assert all(cannot_clip(sheet, ref, quiet_enough) for ref in (left, right, mid))
    assert not cannot_clip(sheet, mid, {"source:1": [1.0, 0.0]})
    assert not cannot_clip(sheet, left, {}), "nothing is known of its source"
    assert list_gain_reductions({left: 0.0, right: 1.23, mid: None}) == {left: 1.3, right: 1.3, mid: 0.0}


def test_the_report_of_the_same_delivery_is_the_same_but_for_its_time(job: Job, tmp_path: Path) -> None:
    for name in ("one", "two"):
        job.delivered(tmp_path / name, Split(), Level(gains_db=(6,)))
    pages = [(tmp_path / name / REPORT).read_text("utf-8") for name in ("one", "two")]
    times = [f"{read_manifest(tmp_path / name).made:%Y-%m-%d %H:%M:%S} UTC" for name in ("one", "two")]
    assert pages[0].replace(times[0], "") == pages[1].replace(times[1], "")
