"""Deliveries say what is so: start times, causes, findings; and replace all of what is there, or nothing."""

import os
import resource
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from wavinfo import WavInfoReader

from support.helpers import bext, engine_on, left_behind, noise, read_ints, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.audio.descriptors import DescriptorCache, OpenFile
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import MANIFEST, Order, deliver, find_unlisted, read_manifest, verify
from wedge_turn.core.errors import BadRequestError, ChangedError, ExistsError, TruncatedError, TurnInputError
from wedge_turn.core.turns import TURN_ADAPTER, ClipInfo, Decode, Merge, Split
from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref, step_ref


def chain(kinds: list[dict[str, Any]], *files: WavFile, names: list[str]) -> Engine:
    """An engine for turns one after the other, each on the first result of the one before."""
    steps, inputs = [], tuple(source_ref(str(n)) for n in range(len(files)))
    for n, settings in enumerate(kinds):
        steps.append(Step(id=f"s{n}", turn=TURN_ADAPTER.validate_python(settings), inputs=inputs))
        inputs = (step_ref(f"s{n}", 0),)
    infos = {str(n): ClipInfo(name, file.form) for n, (name, file) in enumerate(zip(names, files, strict=True))}
    return Engine(Sheet(Plan(steps=tuple(steps)), infos), lambda i: files[int(i)])


@pytest.mark.parametrize("with_start", [0, 1])
@pytest.mark.parametrize("then", [[], ["swap"], ["split"], ["swap", "fold"], ["encode", "decode", "swap"]])
def test_the_start_of_one_of_two_files_is_that_of_the_result(with_start: int, then: list[str], tmp_path: Path) -> None:
    """Whichever has it, and whatever follows; it is said that the other has none."""
    files = [
        WavFile(
            write_wav(tmp_path / f"a_{s}.wav", noise(n, 500, 1, 22), carried=(bext(48_000),) if n == with_start else ())
        )
        for n, s in enumerate("LR")
    ]
    kinds: list[dict[str, Any]] = [{"kind": "merge"}, *({"kind": kind} for kind in then)]
    engine = chain(kinds, *files, names=["a_L", "a_R"])
    last = step_ref(f"s{len(then)}", 0)
    assert engine.sheet.info(last).form.start_time == 48_000
    manifest = deliver(engine, Order((last,)), tmp_path / "out")
    assert manifest.files[0].start_time == 48_000
    assert WavInfoReader(str(tmp_path / "out" / manifest.files[0].name)).bext.time_reference == 48_000
    about = engine.sheet.outcomes["s0"].findings
    assert [finding.code for finding in about] == ["start-unknown"]
    assert f"a_{'RL'[with_start]} has no timestamp" in about[0].message


def test_takes_of_mid_and_side_are_lined_up_and_their_differences_said(tmp_path: Path) -> None:
    mid = WavFile(write_wav(tmp_path / "h_mid.wav", noise(1, 900, 1, 20), carried=(bext(1_000),)))
    side = WavFile(write_wav(tmp_path / "h_side.wav", noise(2, 700, 1, 20), carried=(bext(1_016),)))
    engine = engine_on(Decode(), mid, side, names=["h_mid", "h_side"])
    assert [f.code for f in engine.sheet.outcomes["only"].findings] == ["length-differs", "start-differs"]
    manifest = deliver(engine, Order(tuple(engine.sheet.list_ends())), tmp_path / "out")
    written = read_ints(tmp_path / "out" / manifest.files[0].name)
    assert np.array_equal(written[:16, 0], noise(1, 900, 1, 20)[:16, 0])
    assert np.array_equal(written[16:716].sum(axis=1), 2 * noise(1, 900, 1, 20)[16:716, 0])


def test_takes_that_do_not_overlap_are_no_mid_and_side(tmp_path: Path) -> None:
    mid = WavFile(write_wav(tmp_path / "h_mid.wav", noise(1, 900, 1), carried=(bext(0),)))
    side = WavFile(write_wav(tmp_path / "h_side.wav", noise(2, 900, 1), carried=(bext(5_000),)))
    with pytest.raises(TurnInputError, match="do not overlap"):
        engine_on(Decode(), mid, side, names=["h_mid", "h_side"])


def split_of(path: Path) -> Engine:
    return engine_on(Split(), WavFile(path), names=[path.stem])


def everything(engine: Engine, **how: Any) -> Order:
    return Order(tuple(engine.sheet.list_ends()), **how)


@pytest.mark.parametrize("fails_at", [0, 1, 2])
def test_replacing_is_all_or_nothing(fails_at: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Whichever move fails, the manifest's too, the folder holds what it held before, to the byte."""
    out = tmp_path / "out"
    first = split_of(write_wav(tmp_path / "w.wav", noise(1, 300, 2)))
    deliver(first, everything(first), out)
    before = {path.name: path.read_bytes() for path in out.iterdir()}
    second = split_of(write_wav(tmp_path / "w.wav", noise(2, 400, 2)))
    moves, real = 0, Path.replace

    def replace(path: Path, target: Path) -> Path:
        nonlocal moves
        if not target.name.startswith(".replaced-") and path.parent != out:
            moves += 1
            if moves == fails_at + 1:
                raise OSError(5, "Input/output error", str(path))
        return real(path, target)

    with monkeypatch.context() as patch:
        patch.setattr(Path, "replace", replace)
        with pytest.raises(OSError, match="Input/output"):
            deliver(second, everything(second, overwrite=True), out)
    assert {path.name: path.read_bytes() for path in out.iterdir()} == before
    assert verify(out) == []
    deliver(second, everything(second, overwrite=True), out)
    assert verify(out) == []
    assert len(read_ints(out / "w_L.wav")) == 400


def test_a_folder_of_the_name_of_a_file_is_never_replaced(tmp_path: Path) -> None:
    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 300, 2)))
    (tmp_path / "out" / "w_L.wav").mkdir(parents=True)
    (tmp_path / "out" / "w_L.wav" / "mine.txt").write_text("mine")
    with pytest.raises(ExistsError):
        deliver(engine, everything(engine, overwrite=True), tmp_path / "out")
    assert left_behind(tmp_path / "out") == ["w_L.wav/mine.txt"]


def test_findings_belong_to_the_files_that_are_there(tmp_path: Path) -> None:
    """A clean file that replaces a clipped one is not called clipped; the findings of others stay."""
    out = tmp_path / "out"
    loud = split_of(write_wav(tmp_path / "w.wav", noise(1, 300, 2)))
    deliver(loud, everything(loud, depth="16"), out)
    other = split_of(write_wav(tmp_path / "v.wav", noise(3, 300, 2)))
    deliver(other, everything(other, depth="16"), out)
    assert {name for finding in read_manifest(out).findings for name in finding.files} >= {"w_R.wav", "v_R.wav"}
    quiet = split_of(write_wav(tmp_path / "w.wav", noise(2, 300, 2, 20)))
    deliver(quiet, everything(quiet, depth="16", overwrite=True), out)
    left = {name for finding in read_manifest(out).findings for name in finding.files}
    assert "v_R.wav" in left
    assert not {"w_L.wav", "w_R.wav"} & left


def test_a_source_is_never_overwritten_by_a_result(tmp_path: Path) -> None:
    (tmp_path / "same").mkdir()
    path = write_wav(tmp_path / "same" / "st.wav", noise(1, 99, 2))
    before = path.read_bytes()
    engine = engine_on(TURN_ADAPTER.validate_python({"kind": "swap"}), WavFile(path), names=["st"])
    with pytest.raises(BadRequestError, match=r"st\.wav would overwrite its own source"):
        deliver(engine, everything(engine, overwrite=True), tmp_path / "same", sources=[path])
    assert path.read_bytes() == before


def test_more_files_than_a_process_may_open(tmp_path: Path) -> None:
    """Sources are opened when they are read: six hundred of them with three hundred descriptors."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    paths = [write_wav(tmp_path / f"{n:03}_{s}.wav", noise(n, 40, 1)) for n in range(300) for s in "LR"]
    resource.setrlimit(resource.RLIMIT_NOFILE, (300, hard))
    try:
        files = [WavFile(path) for path in paths]
        infos = {
            str(n): ClipInfo(path.stem, file.form) for n, (path, file) in enumerate(zip(paths, files, strict=True))
        }
        steps = tuple(
            Step(id=f"m{n}", turn=Merge(), inputs=(source_ref(str(2 * n)), source_ref(str(2 * n + 1))))
            for n in range(300)
        )
        engine = Engine(Sheet(Plan(steps=steps), infos), lambda i: files[int(i)])
        manifest = deliver(engine, everything(engine), tmp_path / "out")
    finally:
        resource.setrlimit(resource.RLIMIT_NOFILE, (soft, hard))
    assert len(manifest.files) == 300
    assert all(proof.proof.exact for proof in manifest.proofs)


def test_a_file_that_is_replaced_while_its_descriptor_is_closed_is_noticed(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("wedge_turn.core.audio.wavfile.DESCRIPTORS", DescriptorCache(limit=1))
    one = WavFile(write_wav(tmp_path / "one.wav", noise(1, 100, 1)))
    two = WavFile(write_wav(tmp_path / "two.wav", noise(2, 100, 1)))
    assert one.read(0, 100).any()  # opened again, and still itself
    assert two.read(0, 100).any()
    write_wav(tmp_path / "new.wav", noise(3, 100, 1)).replace(tmp_path / "one.wav")
    with pytest.raises(ChangedError, match=r"one\.wav was changed or removed"):
        one.read(0, 100)


def test_a_file_that_is_cut_while_it_is_read_is_named(tmp_path: Path) -> None:
    wav = WavFile(write_wav(tmp_path / "w.wav", noise(1, 5_000, 1)))
    with (tmp_path / "w.wav").open("r+b") as file:
        file.truncate(600)
    with pytest.raises(TruncatedError, match=r"w\.wav was truncated while it was read"):
        wav.read(0, 5_000)


def test_a_descriptor_is_closed_by_its_last_holder(tmp_path: Path) -> None:
    path = tmp_path / "x"
    path.write_bytes(b"x")
    cache = DescriptorCache(limit=1)
    first = OpenFile(path)
    cache.put(1, first)
    cache.put(2, OpenFile(path))
    assert cache.get(1) is None
    assert os.pread(first.fd, 1, 0) == b"x"  # still open: somebody holds it
    fd = first.fd
    del first
    with pytest.raises(OSError, match="Bad file descriptor"):
        os.fstat(fd)


def test_a_manifest_leads_out_of_no_folder(tmp_path: Path) -> None:
    engine = split_of(write_wav(tmp_path / "w.wav", noise(1, 300, 2)))
    out = tmp_path / "out"
    deliver(engine, everything(engine), out)
    good = (out / MANIFEST).read_text()
    for name in ("../w.wav", "/etc/passwd", "w\\u0000.wav", "a/../../b.wav", "a//b.wav", ""):
        (out / MANIFEST).write_text(good.replace("w_L.wav", name))
        with pytest.raises(BadRequestError, match=r"names a file outside the folder|cannot be read"):
            verify(out)
    (out / MANIFEST).write_text(good)
    (out / "other.wav").write_text("x")
    assert find_unlisted(out) == ["other.wav"]
    assert verify(out) == []
