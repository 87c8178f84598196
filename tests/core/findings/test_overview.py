"""Advice never fails: whatever was measured, a job can be shown; and what is offered deals with what was found."""

import logging
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from support.helpers import engine_on, write_wav
from support.signals import LATE, ONE, TWO, Memory, stereo
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import make_clip
from wedge_turn.core.findings import describe, evaluate_clip, find_clips_to_measure, overview
from wedge_turn.core.findings.file import find_in_file
from wedge_turn.core.findings.overview import NOT_JUDGED
from wedge_turn.core.findings.pair import find_in_pair
from wedge_turn.core.form import ENCODINGS, Form
from wedge_turn.core.measure import Measures, StereoMeasures, measure_signal
from wedge_turn.core.measure.measures import ChannelLevels, Delay
from wedge_turn.core.turns import ClipInfo
from wedge_turn.core.worksheet import Plan, Sheet

numbers = st.floats(allow_nan=False, allow_infinity=False, width=64)
any_numbers = st.floats(allow_nan=True, allow_infinity=True)


def measures_of(number: st.SearchStrategy[float]) -> st.SearchStrategy[Measures]:
    maybe = st.none() | number
    levels = st.builds(
        ChannelLevels, peak_dbfs=maybe, true_peak_dbtp=maybe, rms_dbfs=maybe, loudness_lufs=maybe, crest_db=maybe,
        dc=number, steady_dc=number, clipped_runs=st.integers(0, 2**40), clipped_samples=st.integers(0, 2**40),
    )  # fmt: skip
    delay = st.builds(Delay, samples=st.integers(-(2**40), 2**40), confidence=number, runner_up=number)
    sides = st.builds(
        StereoMeasures, identical=st.booleans(), correlation=maybe, balance_db=maybe, mono_fold_loss_db=maybe,
        side_to_mid_db=maybe, difference_db=maybe, coherence=number, envelope_correlation=maybe, delay=delay,
        field=st.just([]), fold_dbfs=st.just({}),
    )  # fmt: skip
    two = st.lists(levels, min_size=2, max_size=2)
    return st.builds(
        Measures, whole=levels, channels=two, sides=st.none() | sides, damaged=st.integers(0, 2**40),
        bits_used=st.none() | st.integers(1, 32),
    )  # fmt: skip


forms = st.builds(
    Form, channels=st.just(2), frames=st.integers(1, 2**50), rate=st.integers(1_000, 768_000),
    encoding=st.sampled_from(list(ENCODINGS)),
)  # fmt: skip


@settings(max_examples=300)
@given(name=st.text(max_size=40), form=forms, measures=measures_of(numbers))
def test_findings_of_any_measures(name: str, form: Form, measures: Measures) -> None:
    for finding in [*find_in_file(name, form, measures), *find_in_pair(["a", "b"], form, measures)]:
        assert finding.message
        assert finding.label


@settings(max_examples=200)
@given(form=forms, measures=measures_of(any_numbers))
def test_unmeasured_files_have_no_judgement(form: Form, measures: Measures) -> None:
    judgement = evaluate_clip("sea", form, measures)
    assert judgement.problem in (None, NOT_JUDGED)


def test_files_that_cannot_be_judged_are_logged_and_shown(
    monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def broken(*_: object) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr(overview, "find_in_file", broken)
    measures = measure_signal(Memory(stereo(ONE, TWO)))
    with caplog.at_level(logging.ERROR):
        judgement = evaluate_clip("gull", Memory(stereo(ONE, TWO)).form, measures)
    assert (judgement.findings, judgement.problem) == ((), NOT_JUDGED)
    assert "gull" in caplog.text


@pytest.mark.parametrize(
    ("code", "samples"),
    [
        ("dual-mono", stereo(ONE, ONE)),
        ("nearly-mono", stereo(ONE, ONE + 0.002 * TWO)),
        ("silent-channel", stereo(ONE, 0 * ONE)),
        ("opposite-polarity", stereo(ONE, -0.9 * ONE + 0.05 * TWO)),
        ("delay", stereo(ONE, 0.8 * LATE)),
        ("level-difference", stereo(0.3 * ONE, ONE + 0.1 * TWO)),
        ("unrelated-channels", stereo(ONE, 0.4 * TWO)),
        ("over-full-scale", stereo(3 * ONE, 2 * TWO)),
    ],
)
def test_every_remedy_removes_its_finding(code: str, samples: np.ndarray, tmp_path: Path) -> None:
    ints = np.rint(samples * 2**23).astype(np.int64)
    wav = WavFile(write_wav(tmp_path / "sea.wav", ints, encoding="f32" if np.abs(samples).max() > 1 else "s24"))
    clip = make_clip(wav)
    (finding,) = [each for each in find_in_file("sea", wav.form, measure_signal(clip)) if each.code == code]
    assert finding.remedy is not None
    engine = engine_on(finding.remedy.turn, wav, names=["sea"])
    for ref in engine.sheet.list_ends():
        after, info = engine.clip(ref), engine.sheet.info(ref)
        assert code not in [each.code for each in find_in_file(info.name, info.form, measure_signal(after))]


@pytest.mark.parametrize("down_db", [47, 49, 55, 65, 80, 120])
@pytest.mark.parametrize("noise", [0.0, 1e-7])
def test_crosstalk_breaks_no_file_and_no_pair(down_db: int, noise: float, tmp_path: Path) -> None:
    """One channel far below the other, of the same sound or not: as two files, and as one."""
    quiet = ONE * 10 ** (-down_db / 20) + noise * TWO
    both = np.rint(stereo(ONE, quiet) * 2**23).astype(np.int64)
    whole = WavFile(write_wav(tmp_path / "whole.wav", both))
    find_in_file("whole", whole.form, measure_signal(make_clip(whole)))
    files = [WavFile(write_wav(tmp_path / f"mic_{s}.wav", both[:, [n]])) for n, s in enumerate("LR")]
    infos = {str(n): ClipInfo(f"mic_{'LR'[n]}", file.form) for n, file in enumerate(files)}
    sheet = Sheet(Plan(), infos)
    from wedge_turn.core.clips import Engine

    engine = Engine(sheet, lambda i: files[int(i)])
    wanted = find_clips_to_measure(sheet, list(infos), ["", ""])
    measured: dict[str, Any] = {
        key: measure_signal(engine.preview(turn, refs) if turn else engine.clip(refs[0]))
        for key, (turn, refs) in wanted.items()
    }
    (group,) = describe(sheet, list(infos), ["", ""], lambda _: measured).groups
    assert group.judgement.problem is None


def test_a_channel_far_below_what_any_file_holds_is_no_error() -> None:
    """A random search came upon it: 6,166 dB between two channels."""

    def levels(lufs: float) -> ChannelLevels:
        return ChannelLevels(
            peak_dbfs=0.0, true_peak_dbtp=None, rms_dbfs=0.0, loudness_lufs=lufs, crest_db=None, dc=0.0, steady_dc=0.0,
            clipped_runs=0, clipped_samples=0,
        )  # fmt: skip

    sides = StereoMeasures(
        identical=False, correlation=0.0, balance_db=6.0, mono_fold_loss_db=None, side_to_mid_db=None,
        difference_db=None, coherence=0.0, envelope_correlation=None,
        delay=Delay(samples=0, inverted=False, confidence=0.0, runner_up=0.0), bands=[], field=[], fold_dbfs={},
    )  # fmt: skip
    measures = Measures(
        whole=levels(0.0), channels=[levels(-6_166.0), levels(0.0)], sides=sides, damaged=0, bits_used=None, samples=""
    )
    assert find_in_file("sea", Form(channels=2, frames=1, rate=48_000, encoding="s24"), measures)
