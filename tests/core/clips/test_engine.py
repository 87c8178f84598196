"""The engine against a plain reference: numpy on whole arrays, one step after the other, for made worksheets."""

from dataclasses import dataclass

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from support.helpers import noise, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Engine, join_channels, make_clip
from wedge_turn.core.clips.engine import apply
from wedge_turn.core.errors import NotFoundError
from wedge_turn.core.turns import ClipInfo, MatrixOutcome, Merge, Output, Split
from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref, step_ref

LENGTHS = (4_000, 3_990, 2_017)


@dataclass
class Known:
    """What the reference knows of a clip: its samples and its start time."""

    samples: np.ndarray
    start: int


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> list[WavFile]:
    folder = tmp_path_factory.mktemp("sources")
    return [WavFile(write_wav(folder / f"{n}.wav", noise(n, length, 1))) for n, length in enumerate(LENGTHS)]


def merged(a: Known, b: Known, turn: Merge) -> Known:
    """Merge by its description, on whole arrays."""
    starts = (a.start, b.start) if turn.line_up == "recorded" else (0, 0)
    ends = [start + len(clip.samples) for start, clip in zip(starts, (a, b), strict=True)]
    if max(starts) >= min(ends):
        starts, ends = (0, 0), [len(a.samples), len(b.samples)]
        lined_up = False
    else:
        lined_up = turn.line_up == "recorded"
    first, last = (min(starts), max(ends)) if turn.length == "pad" else (max(starts), min(ends))
    out = np.zeros((last - first, 2))
    for column, (start, clip) in enumerate(zip(starts, (a, b), strict=True)):
        for t in range(max(first, start), min(last, start + len(clip.samples))):
            out[t - first, column] = clip.samples[t - start, 0]
    return Known(out, first if lined_up else a.start)


@given(data=st.data())
def test_random_worksheets_match_the_reference(files: list[WavFile], data: st.DataObject) -> None:
    starts = [data.draw(st.integers(0, 300), label=f"start {n}") for n in range(len(files))]
    infos = {
        str(n): ClipInfo(f"clip {n}", file.form.model_copy(update={"start_time": starts[n]}))
        for n, file in enumerate(files)
    }
    known = {source_ref(str(n)): Known(file.read(0, LENGTHS[n]), starts[n]) for n, file in enumerate(files)}
    steps: list[Step] = []
    for n in range(data.draw(st.integers(1, 5), label="steps")):
        monos = [ref for ref, clip in known.items() if clip.samples.shape[1] == 1]
        wides = [ref for ref, clip in known.items() if clip.samples.shape[1] == 2]
        if bool(wides) and data.draw(st.integers(0, 1), label="split"):
            ref = data.draw(st.sampled_from(wides))
            steps.append(Step(id=f"s{n}", turn=Split(), inputs=(ref,)))
            for channel in (0, 1):
                known[step_ref(f"s{n}", channel)] = Known(known[ref].samples[:, [channel]], known[ref].start)
        else:
            a, b = data.draw(st.sampled_from(monos)), data.draw(st.sampled_from(monos))
            recorded, pad = data.draw(st.integers(0, 1)), data.draw(st.integers(0, 1))
            turn = Merge(order="given", line_up="recorded" if recorded else "file", length="pad" if pad else "trim")
            steps.append(Step(id=f"s{n}", turn=turn, inputs=(a, b)))
            known[step_ref(f"s{n}", 0)] = merged(known[a], known[b], turn)
    engine = Engine(Sheet(Plan(steps=tuple(steps)), infos), lambda i: files[int(i)])
    for ref, expected in known.items():
        clip = engine.clip(ref)
        assert clip.form.frames == len(expected.samples)
        assert clip.form.start_time == expected.start
        assert np.array_equal(clip.read(0, clip.form.frames), expected.samples)
        assert all(len(taps) <= 1 for taps in clip.channels)
        assert not clip.read(clip.form.frames, 50).any()


@given(st.lists(st.sampled_from([0.0, 1.0, -1.0, 0.5, -0.25]), min_size=6, max_size=6), st.integers(-40, 40))
def test_any_matrix_is_summed_as_numpy_does(files: list[WavFile], entries: list[float], offset: int) -> None:
    matrix = np.array(entries).reshape(2, 3)
    form = files[0].form.model_copy(update={"channels": 2})
    outcome = MatrixOutcome((Output("x", form),), matrix, (0, offset, 0), 4_000)
    (clip,) = apply(outcome, [make_clip(file) for file in files])
    inputs = np.stack([file.read(-shift, 4_000)[:, 0] for file, shift in zip(files, (0, offset, 0), strict=True)])
    assert np.allclose(clip.read(0, 4_000), (matrix @ inputs).T, atol=1e-15)
    assert outcome.exact == bool(
        np.isin(np.abs(matrix), (0, 1)).all() and (np.count_nonzero(matrix, axis=1) <= 1).all()
    )


def test_side_by_side_counts_channels_through(files: list[WavFile]) -> None:
    together = join_channels([make_clip(file) for file in files])
    assert (together.form.channels, together.form.frames) == (3, 4_000)
    for n, file in enumerate(files):
        assert np.array_equal(together.read(0, 4_000)[:, [n]], file.read(0, 4_000))


def test_missing_clips_are_named(files: list[WavFile]) -> None:
    engine = Engine(Sheet(Plan(), {"0": ClipInfo("x", files[0].form)}), lambda _: files[0])
    assert engine.clip("source:0").form.frames == 4_000
    for ref in ("source:1", "step:none:0"):
        with pytest.raises(NotFoundError):
            engine.clip(ref)
