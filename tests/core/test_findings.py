"""What is said about a file, and what is not: every finding on a signal made for it, none on ordinary ones."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import scipy.signal
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import quiet, write_wav
from signals import LATE, ONE, RATE, TWO, Memory, music, stereo
from wedge_turn.core.audio.encoding import EncodingName
from wedge_turn.core.engine import Clip, clip_of
from wedge_turn.core.findings import FileFinding, findings_of
from wedge_turn.core.intake import opened
from wedge_turn.core.measure.survey import survey
from wedge_turn.core.naming import stem
from wedge_turn.core.pair_findings import pair_findings


def findings_in(
    samples: np.ndarray, name: str = "sea", encoding: EncodingName = "s24", damaged: int = 0
) -> list[FileFinding]:
    signal = Memory(samples, encoding)
    return findings_of(name, signal.form, survey(signal, damaged=damaged))


def codes(*given_: object, **more: object) -> list[str]:
    return [noted.code for noted in findings_in(*given_, **more)]  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("code", "samples", "turn"),
    [
        ("dual-mono", stereo(ONE, ONE), "fold"),
        ("nearly-mono", stereo(ONE, ONE + 0.002 * TWO), "fold"),
        ("silent-channel", stereo(ONE, 0 * ONE), "fold"),
        ("silent-channel", stereo(1e-6 * TWO, ONE), "fold"),
        ("opposite-polarity", stereo(ONE, -0.9 * ONE + 0.05 * TWO), "polarity"),
        ("opposite-polarity", stereo(ONE, -ONE), "polarity"),
        ("delay", stereo(ONE, 0.8 * LATE), "align"),
        ("delay", stereo(LATE, ONE), "align"),
        ("level-difference", stereo(ONE, 0.4 * TWO), "split"),
        ("level-difference", stereo(0.3 * ONE, ONE + 0.1 * TWO), "level"),
        ("mid-side-like", stereo(ONE, 0.2 * scipy.signal.hilbert(ONE).imag), "decode"),
        ("empty", np.zeros((RATE, 2)), None),
        ("dc-offset", stereo(ONE + 0.02, TWO), None),
    ],
)  # fmt: skip
def test_each_finding_on_its_own_signal(code: str, samples: np.ndarray, turn: str | None) -> None:
    (finding,) = findings_in(samples)
    assert finding.code == code
    assert (finding.remedy.turn.kind if finding.remedy else None) == turn
    assert finding.message.endswith((".", ")"))


def test_figures_are_in_the_sentences() -> None:
    (late,) = findings_in(stereo(ONE, LATE))
    assert late.measured["samples"] == 37
    assert "37 samples (0.77 ms) later" in late.message
    (nearly,) = findings_in(stereo(ONE, ONE + 0.002 * TWO))
    assert float(nearly.measured["difference_db"]) < -40
    (upside,) = findings_in(stereo(ONE, -0.9 * ONE + 0.05 * TWO))
    assert "would lose" in upside.message
    (everything,) = findings_in(stereo(ONE, -ONE))
    assert "a mono sum would lose everything" in everything.message


def test_floats_beyond_full_scale_and_no_numbers() -> None:
    (over,) = findings_in(stereo(3 * ONE, 3 * TWO), encoding="f32")
    assert over.code == "over-full-scale"
    assert over.remedy is not None
    gain = over.remedy.turn.gains_db[0]  # type: ignore[union-attr]
    assert np.abs(3 * stereo(ONE, TWO)).max() * 10 ** (gain / 20) <= 1
    assert codes(stereo(ONE, TWO), encoding="f32", damaged=3) == ["damaged"]


def test_clipping_is_found_in_runs_at_full_scale() -> None:
    top = (2**23 - 1) / 2**23
    assert codes(np.clip(stereo(4 * ONE, 0.5 * TWO), -1, top))[0] in {"clipped", "level-difference"}
    assert "clipped" in codes(np.clip(stereo(4 * ONE, 4 * TWO), -1, top))
    assert codes(np.clip(stereo(ONE, TWO) * top / np.abs(ONE).max(), -1, top)) == []


def test_a_name_that_says_mid_and_side_counts_for_something() -> None:
    swell = stereo(ONE, 0.5 * TWO)
    assert codes(swell, name="swell_ms") == ["mid-side-like"]
    assert codes(swell, name="teams") == codes(swell) == []


@given(seed=st.integers(0, 10_000), width=st.floats(0.15, 1), lean=st.floats(-4, 4), reverb=st.floats(0, 0.5))
@settings(max_examples=40)
def test_an_ordinary_stereo_file_has_no_finding(seed: int, width: float, lean: float, reverb: float) -> None:
    """A centre, something on each side, a room: whatever their shares, there is nothing to say."""
    centre, left, right = (music(seed + n, 4.0) for n in range(3))
    rng = np.random.default_rng(seed)
    sides = []
    for own, gain in ((left, lean / 2), (right, -lean / 2)):
        dry = (centre + width * own) * 10 ** (gain / 20)
        tail = rng.standard_normal(RATE // 2) * np.exp(-np.arange(RATE // 2) / RATE * 12)
        tail /= np.sqrt(np.sum(tail**2))
        sides.append(dry + reverb * scipy.signal.fftconvolve(dry, tail)[: dry.size])
    block = stereo(*sides)
    assert codes(block / np.abs(block).max() * 0.9) == []


def test_pairs_have_findings_of_their_own() -> None:
    def said(left: np.ndarray, right: np.ndarray, encoding: EncodingName = "s24") -> list[str]:
        signal = Memory(stereo(left, right), encoding)
        return [noted.code for noted in pair_findings(["a_L", "a_R"], signal.form, survey(signal))]

    assert said(ONE, TWO) == said(ONE, 0.7 * TWO) == []
    assert said(ONE, 0.3 * TWO) == ["level-differs"]
    # The same sound in both shows a small difference for what it is.
    assert said(ONE, 0.8 * LATE) == ["delay", "level-differs"]
    assert said(ONE, -ONE) == ["opposite-polarity"]
    assert said(3 * ONE, 3 * TWO, "f32") == ["would-clip"]


def test_a_channel_is_called_as_its_file_calls_it(tmp_path: Path) -> None:
    ints = quiet(1, 9_600, 6)
    ints[:, 3] = 0
    path = write_wav(tmp_path / "surround.wav", ints, mask=0x3F)
    with opened([path]) as [(form, file)]:
        measures = survey(file)
        (found,) = [one for one in findings_of("surround", form, measures) if one.code == "silent-channel"]
        assert found.message == "LFE is silent."
        named = form.model_copy(update={"labels": ("boom", "rail", "bell", "radio", "", "")})
        (found,) = [one for one in findings_of("poly", named, measures) if one.code == "silent-channel"]
        assert (found.label, found.message) == ("radio silent", "Radio is silent.")


# What the demo's files promise (the rest of them promise nothing).
PROMISED = {
    "harbour-swell_ms": ["mid-side-like"],
    "boat-and-tower": ["level-difference"],
    "landing-stage": ["polarity-changes"],
    "foghorn": ["opposite-polarity"],
    "winch": ["dual-mono"],
    "wind-gauge": ["silent-channel"],
}


def test_demo_files_have_exactly_their_findings(demo_files: dict[str, Path]) -> None:
    paths = list(demo_files.values())
    assert len(paths) == 23
    with opened(paths) as files:
        said = {}
        for path, (form, file) in zip(paths, files, strict=True):
            clip = Clip(form, clip_of(file).channels)
            said[path.stem] = [noted.code for noted in findings_of(stem(path.name), form, survey(clip))]
    assert {name: found_codes for name, found_codes in said.items() if found_codes} == PROMISED


# What was found in recordings nobody here wrote, and looked at by eye: see the table in docs/architecture.md.
REAL = {
    "vinyl_hiss.flac": ["opposite-polarity"],
    "perc_bell.flac": ["opposite-polarity"],
    "loop_mika.flac": ["nearly-mono"],
    "Marimbach.ogg": [],
    "M1F1-float32-AFsp.wav": ["bits-used"],
    "Front_Left.wav": [],
    "tabla_ghe2.flac": ["dc-offset"],
    "bd_ada.flac": ["clipped"],
    "loop_amen.flac": [],
}


@pytest.mark.parametrize("name", REAL)
def test_real_recordings(name: str, recording: Callable[[str], Path]) -> None:
    path = recording(name)
    with opened([path]) as [(form, file)]:
        clip = Clip(form, clip_of(file).channels)
        measures = survey(clip)
        assert [noted.code for noted in findings_of(stem(name), form, measures)] == REAL[name]
    if name == "vinyl_hiss.flac":
        assert measures.sides is not None
        assert measures.sides.correlation == pytest.approx(-0.73, abs=0.01)
        assert measures.sides.mono_fold_loss_db == pytest.approx(8.6, abs=0.1)
