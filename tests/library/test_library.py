"""The library as users of Python have it: its documents run, its clips hold what they should, its errors say where."""

import doctest
import gc
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import soundfile

import wedge_turn
import wedge_turn as wt
from wedge_turn.library import clip, files, session

RATE = 48_000
GUIDE = Path(__file__).parents[2] / "docs" / "python.md"
NAMES = {
    "DC", "Align", "Centre", "Clip", "Decode", "Delivery", "Encode", "Error", "Fold", "Inspection", "Level", "Matrix",
    "Merge", "Polarity", "Resample", "Session", "Split", "Stretch", "Sum", "Swap", "Trim", "Width", "apply", "deliver",
    "inspect", "merge", "open", "prep", "split", "verify",
}  # fmt: skip


def noise(seed: int, channels: int = 1) -> np.ndarray:
    return np.random.default_rng(seed).standard_normal((RATE, channels)) / 8


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    """The files that the documents speak of."""
    (tmp_path / "takes").mkdir()
    soundfile.write(tmp_path / "kick.wav", np.repeat(noise(0), 2, axis=1), RATE, subtype="PCM_24")
    for seed, name in enumerate(("a_L", "a_R"), 1):
        for path in (tmp_path / f"{name}.wav", tmp_path / "takes" / f"{name}.wav"):
            soundfile.write(path, noise(seed), RATE, subtype="PCM_24")
    monkeypatch.chdir(tmp_path)
    yield tmp_path
    gc.collect()  # clips that nobody has any more close their files


def test_exported_names_are_these() -> None:
    assert set(wedge_turn.__all__) == NAMES
    assert all(getattr(wedge_turn, name).__doc__ for name in NAMES)


@pytest.mark.usefixtures("folder")
def test_examples_in_the_guide_run() -> None:
    assert (
        doctest.testfile(
            str(GUIDE), module_relative=False, optionflags=doctest.ELLIPSIS | doctest.IGNORE_EXCEPTION_DETAIL
        ).failed
        == 0
    )


@pytest.mark.usefixtures("folder")
def test_examples_in_docstrings_run() -> None:
    names = {name: getattr(wt, name) for name in NAMES}
    results = [doctest.testmod(module, extraglobs=names) for module in (clip, files, session)]
    assert sum(result.attempted for result in results) > 15
    assert not any(result.failed for result in results)


def test_every_public_function_and_method_has_an_example() -> None:
    finder = doctest.DocTestFinder()
    tests = [test for module in (clip, files, session) for test in finder.find(module, "library")]
    with_examples = {test.name.removeprefix("library.") for test in tests if test.examples}
    wanted = {"apply", "deliver", "inspect", "merge", "open", "prep", "split", "verify", "Session"}
    assert wanted | {f"Clip.{name}" for name in ("open", "from_array", "read", "apply", "write")} <= with_examples


@pytest.mark.parametrize("dtype", ["uint8", "int16", "int32", "float32", "float64"])
def test_arrays_come_back_as_they_went_in(dtype: str, tmp_path: Path) -> None:
    rng = np.random.default_rng(4)
    if np.dtype(dtype).kind == "f":
        samples = rng.uniform(-1, 1, (1_001, 3)).astype(dtype)
        expected = samples.astype(np.float64)
    else:
        limits = np.iinfo(dtype)
        samples = rng.integers(limits.min, limits.max, (1_001, 3), dtype=dtype, endpoint=True)
        middle = 128 if dtype == "uint8" else 0
        expected = (samples.astype(np.float64) - middle) / 2.0 ** (limits.bits - 1)
    clip = wt.Clip.from_array(samples, rate=44_100)
    assert np.array_equal(clip.read(), expected)
    assert np.array_equal(clip.read(-2, 4), np.concatenate([np.zeros((2, 3)), expected[:2]]))
    (written,) = clip.write(tmp_path / "copy.wav").files
    back, rate = soundfile.read(written, dtype="float64", always_2d=True)
    assert rate == 44_100
    assert np.array_equal(back, expected)


def test_one_channel_may_be_given_flat() -> None:
    assert wt.Clip.from_array(np.zeros(8), rate=8_000).read().shape == (8, 1)


@pytest.mark.parametrize(
    ("samples", "said"),
    [
        (np.zeros((2, 2, 2)), "(frames, channels)"),
        (np.zeros((0, 2)), "(frames, channels)"),
        (np.zeros((4, 2), np.int64), "int64"),
        (np.array([[0.0], [np.nan]]), "NaN"),
    ],
)
def test_samples_that_make_no_clip_are_refused(samples: np.ndarray, said: str) -> None:
    with pytest.raises(wt.Error, match=said.replace("(", r"\(").replace(")", r"\)")):
        wt.Clip.from_array(samples, rate=RATE)


def test_clips_of_different_files_go_into_one_turn(folder: Path) -> None:
    left, right = wt.open("a_L.wav"), wt.open("a_R.wav")
    merged = left.apply(wt.Merge(), right)
    encoded = merged.apply(wt.Encode())
    (written,) = encoded.write("ms.wav").files
    ms, _ = soundfile.read(folder / written)
    one, two = (soundfile.read(folder / f"a_{channel}.wav")[0] for channel in "LR")
    assert np.allclose(ms, np.stack([(one + two) / 2, (one - two) / 2], axis=1), atol=2.0**-23)
    assert sorted(path.name for path in folder.iterdir()) == ["a_L.wav", "a_R.wav", "kick.wav", "ms.wav", "takes"]


def test_a_range_limits_a_turn(folder: Path) -> None:
    song = wt.open(folder / "kick.wav")
    quiet = song.apply(wt.Level(gains_db=(-100.0,)), over=wt.Stretch(start=0.25, end=0.5, fade_ms=0)).read()
    assert np.abs(quiet[12_000:24_000]).max() < 1e-5
    assert np.array_equal(quiet[24_000:], song.read(24_000))


def test_a_file_is_never_replaced_unasked(folder: Path) -> None:
    before = (folder / "a_L.wav").read_bytes()
    with pytest.raises(wt.Error) as refused:
        wt.open("kick.wav").apply(wt.Fold()).write("a_L.wav")
    assert refused.value.code == "exists"
    with pytest.raises(wt.Error) as again:
        wt.split("kick.wav", out="."), wt.split("kick.wav", out=".")
    assert again.value.code == "exists"
    assert (folder / "a_L.wav").read_bytes() == before
    wt.open("kick.wav").apply(wt.Fold()).write("a_L.wav", overwrite=True)
    assert (folder / "a_L.wav").read_bytes() != before


def test_errors_say_which_file_and_line(folder: Path) -> None:
    (folder / "note.wav").write_bytes(b"no sound")
    with pytest.raises(wt.Error) as broken:
        wt.Session("kick.wav", "note.wav")
    assert (broken.value.code, broken.value.file) == ("not-audio", "note.wav")
    turned = wt.open("kick.wav").apply(wt.Swap())
    with pytest.raises(wt.Error) as refused:
        turned.apply(wt.Merge())
    assert (refused.value.code, refused.value.line) == ("turn-input", 2)


def test_a_session_finds_clips_by_name(folder: Path) -> None:
    with wt.Session("a_L.wav", folder / "takes" / "a_L.wav", "kick.wav") as session:
        assert session["kick"].channels == 2
        for name, said in (("a_L", "2 clips"), ("snare", "no clip")):
            with pytest.raises(wt.Error, match=said):
                session[name]
        with pytest.raises(wt.Error, match="which of the 3"):
            session.add(wt.Swap())


def test_progress_stops_the_work_and_leaves_nothing(folder: Path) -> None:
    def stop(share: float) -> None:
        raise KeyboardInterrupt(share)

    with pytest.raises(KeyboardInterrupt):
        wt.split("kick.wav", out="stopped", progress=stop)
    assert not (folder / "stopped").exists()


def test_a_changed_file_is_found_by_verify(folder: Path) -> None:
    (left, _) = wt.split("kick.wav", out="mono").files
    assert wt.verify("mono", sources=folder).ok
    data = bytearray(left.read_bytes())
    data[-1] ^= 1
    left.write_bytes(data)
    assert not wt.verify("mono").ok


def test_temporary_files_of_arrays_go_with_their_clips(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    clip = wt.Clip.from_array(np.zeros((8, 2)), rate=RATE)
    left, right = clip.apply(wt.Split())
    del clip, left
    gc.collect()
    assert right.read().shape == (8, 1)
    assert list(tmp_path.iterdir())
    del right
    gc.collect()
    assert list(tmp_path.iterdir()) == []
