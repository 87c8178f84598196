"""What is said about a file, and what is not: every finding on a signal made for it, none on ordinary ones."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import scipy.signal
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st

from support.conversation import conversation
from support.helpers import quiet, write_wav
from support.signals import LATE, LEFT, ONE, RATE, RIGHT, TWO, Memory, music, stereo
from wedge_turn.core.audio import open_files
from wedge_turn.core.clips import Clip, make_clip
from wedge_turn.core.findings import FileFinding
from wedge_turn.core.findings.file import find_in_file
from wedge_turn.core.findings.pair import find_in_pair
from wedge_turn.core.findings.preparation import SAFE_FINDINGS
from wedge_turn.core.findings.stereo import OPPOSITE
from wedge_turn.core.form import EncodingName
from wedge_turn.core.measure import measure_signal
from wedge_turn.core.naming import stem
from wedge_turn.core.turns import Align, Fold, Polarity


def findings_in(
    samples: np.ndarray, name: str = "sea", encoding: EncodingName = "s24", damaged: int = 0
) -> list[FileFinding]:
    signal = Memory(samples, encoding)
    return find_in_file(name, signal.form, measure_signal(signal, damaged=damaged))


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
        ("level-difference", stereo(LEFT, 0.4 * RIGHT), "split"),
        ("level-difference", stereo(0.3 * ONE, ONE + 0.1 * TWO), "level"),
        ("mid-side-like", stereo(ONE, 0.2 * scipy.signal.hilbert(ONE).imag), "decode"),
        ("empty", np.zeros((RATE, 2)), None),
        ("dc-offset", stereo(LEFT + 0.02, RIGHT), "dc"),
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
    (over,) = findings_in(stereo(6 * LEFT, 6 * RIGHT), encoding="f32")
    assert over.code == "over-full-scale"
    assert over.remedy is not None
    gain = over.remedy.turn.gains_db[0]  # type: ignore[union-attr]
    assert np.abs(6 * stereo(LEFT, RIGHT)).max() * 10 ** (gain / 20) <= 1
    assert codes(stereo(LEFT, RIGHT), encoding="f32", damaged=3) == ["damaged"]


def test_clipping_is_found_in_runs_at_full_scale() -> None:
    top = (2**23 - 1) / 2**23
    assert codes(np.clip(stereo(8 * LEFT, RIGHT), -1, top))[0] in {"clipped", "level-difference"}
    assert "clipped" in codes(np.clip(stereo(8 * LEFT, 8 * RIGHT), -1, top))
    assert codes(np.clip(stereo(LEFT, RIGHT) * top / np.abs(LEFT).max(), -1, top)) == []


def test_a_name_that_says_mid_and_side_counts_for_something() -> None:
    swell = stereo(ONE, 0.5 * TWO)
    assert codes(swell, name="swell_ms") == ["mid-side-like"]
    assert "mid-side-like" not in codes(swell, name="teams") + codes(swell)


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


def test_a_channel_is_silent_by_its_peak() -> None:
    """Whatever the mean of the whole file: what rises above two steps of 16 bits is sound, and asked about."""
    frames = 20 * RATE
    loud = np.random.default_rng(1).standard_normal(frames) * 0.1

    def said(other: np.ndarray) -> FileFinding:
        (finding,) = findings_in(stereo(loud, other))
        return finding

    def burst(peak_dbfs: float, at: float, seconds: float) -> np.ndarray:
        sound = np.zeros(frames)
        t = np.arange(round(seconds * RATE)) / RATE
        sound[round(at * RATE) :][: len(t)] = 10 ** (peak_dbfs / 20) * np.sin(2 * np.pi * 440 * t)
        return sound

    hiss = np.random.default_rng(2).standard_normal(frames)
    for sound in (burst(-49, 17, 0.05), burst(-70, 12, 0.07), burst(-30, 10, 0.0005), 10 ** (-90 / 20) * hiss):
        finding = said(sound)
        assert finding.code == "nearly-silent-channel"
        assert finding.code not in SAFE_FINDINGS
        assert finding.remedy is not None
        assert finding.remedy.turn == Fold(take="left")
    assert "its loudest, −49.0 dBFS, is at 0:17.0." in said(burst(-49, 17, 0.05)).message
    for sound in (0 * hiss, 10 ** (-100 / 20) * hiss):
        assert said(sound).code == "silent-channel"


@pytest.mark.parametrize("rate_hz", [50.0, 49.93, 60.05])
def test_a_channel_of_hum_is_told_as_hum(rate_hz: float) -> None:
    t = np.arange(8 * RATE) / RATE
    hum = sum(np.sin(2 * np.pi * rate_hz * n * t + n) / n for n in (1, 2, 3, 5, 7)) * 0.004
    hum += np.random.default_rng(3).standard_normal(len(t)) * 1e-5
    speech = music(1, 8.0)
    (finding,) = findings_in(stereo(speech, hum))
    assert finding.code == "hum"
    assert f"Right holds nothing but mains hum: {round(rate_hz / 10) * 10} Hz and its harmonics" in finding.message
    assert finding.remedy is not None
    assert finding.remedy.turn == Fold(take="left")
    assert codes(np.asarray(hum)[:, None], name="lead") == ["hum"]
    # With as much of anything else in it, it is a channel with sound.
    assert "hum" not in codes(stereo(speech, hum + 0.2 * hum.std() / speech.std() * 2 * music(2, 8.0)))


@pytest.mark.parametrize("note_hz", [49.0, 61.74, 55.0, 98.0])
def test_a_note_of_bass_is_no_hum(note_hz: float) -> None:
    """G1, B1, A1 and G2, held with their harmonics."""
    t = np.arange(8 * RATE) / RATE
    note = sum(np.sin(2 * np.pi * note_hz * n * t) / n for n in (1, 2, 3, 4)) * 0.1
    assert "hum" not in codes(np.asarray(note)[:, None])


def test_a_second_microphone_late_and_inverted_is_told_as_both() -> None:
    """37 samples, the other way round, in a room: both turns in one click, and the sum of both is full again."""
    tail = np.random.default_rng(4).standard_normal(RATE // 4) * np.exp(-np.arange(RATE // 4) / RATE * 20)
    room = scipy.signal.fftconvolve(ONE, tail / np.sqrt(np.sum(tail**2)) * 0.2)[: ONE.size]
    back = -0.8 * LATE + room * 0.5
    (finding,) = findings_in(stereo(ONE, back))
    assert finding.code == "late-and-inverted"
    assert finding.message.startswith("Right is 37 samples (0.77 ms) later than left and inverted (confidence 0.")
    assert finding.remedy is not None
    assert finding.remedy.turn == Align(delay=(37, 0))
    assert finding.remedy.followed_by == (Polarity(channels="right"),)
    signal = Memory(stereo(ONE, back))
    assert find_in_pair(["a_L", "a_R"], signal.form, measure_signal(signal))[0].code == "late-and-inverted"


@pytest.mark.parametrize("by", [37.5, -60.5, 14.0])
def test_a_delay_is_given_to_half_a_sample(by: float) -> None:
    spectrum = np.fft.rfft(ONE, 2 * ONE.size)
    late = np.fft.irfft(spectrum * np.exp(-2j * np.pi * np.arange(spectrum.size) * by / (2 * ONE.size)))[: ONE.size]
    (finding,) = findings_in(stereo(ONE, late))
    assert finding.measured["samples"] == by


@pytest.mark.parametrize("name", ["Alarm synth.ogg", "Entropy.ogg", "Latin.ogg", "UBports.ogg", "Koto chords.ogg"])
def test_a_recorded_song_with_an_inverted_channel_is_told(name: str, recording: Callable[[str], Path]) -> None:
    """By its lows and bands where the whole alone would leave it in doubt; as it was recorded nothing is said."""
    samples, _ = soundfile.read(recording(name), always_2d=True)
    peak = np.abs(samples).max()
    assert "opposite-polarity" not in codes(samples / peak)
    (finding,) = [one for one in findings_in(samples / peak * [1, -1]) if one.code == "opposite-polarity"]
    assert finding.code not in SAFE_FINDINGS
    assert finding.remedy is not None
    assert finding.remedy.turn == Polarity(channels="right")
    if float(finding.measured["correlation"]) > OPPOSITE:
        assert "below 120 Hz, negative in every band" in finding.message


def test_two_recordings_on_one_file_are_told_as_that() -> None:
    talk = conversation(1, 30)
    finding = next(one for one in findings_in(talk.samples) if one.code == "unrelated-channels")
    assert "have nothing in common" in finding.message
    assert "one is quiet while the other sounds" in finding.message
    assert finding.remedy is not None
    assert [offer.turn.kind for offer in (finding.remedy, *finding.others)] == ["split", "level", "fold"]
    # Two takes at once: split alone, and one mix.
    both = findings_in(stereo(music(5, 12), music(6, 12)))
    assert [one.code for one in both] == ["unrelated-channels"]
    assert [offer.turn.kind for offer in both[0].others] == ["fold"]


def test_pairs_have_findings_of_their_own() -> None:
    def said(left: np.ndarray, right: np.ndarray, encoding: EncodingName = "s24") -> list[str]:
        signal = Memory(stereo(left, right), encoding)
        return [noted.code for noted in find_in_pair(["a_L", "a_R"], signal.form, measure_signal(signal))]

    assert said(ONE, TWO) == said(ONE, 0.7 * TWO) == []
    assert said(ONE, 0.3 * TWO) == ["level-differs"]
    # The same sound in both shows a small difference for what it is.
    assert said(ONE, 0.8 * LATE) == ["delay", "level-differs"]
    assert said(ONE, -ONE) == ["opposite-polarity"]
    assert said(6 * LEFT, 6 * RIGHT, "f32") == ["would-clip"]


def test_a_channel_is_called_as_its_file_calls_it(tmp_path: Path) -> None:
    ints = quiet(1, 9_600, 6)
    ints[:, 3] = 0
    path = write_wav(tmp_path / "surround.wav", ints, mask=0x3F)
    with open_files([path]) as [(form, file)]:
        measures = measure_signal(file)
        (found,) = [one for one in find_in_file("surround", form, measures) if one.code == "silent-channel"]
        assert found.message == "LFE is silent."
        named = form.model_copy(update={"labels": ("boom", "rail", "bell", "radio", "", "")})
        (found,) = [one for one in find_in_file("poly", named, measures) if one.code == "silent-channel"]
        assert (found.label, found.message) == ("radio silent", "Radio is silent.")


# What the demo's files promise (the rest of them promise nothing).
PROMISED = {
    "harbour-swell_ms": ["mid-side-like"],
    "boat-and-tower": ["unrelated-channels"],
    "landing-stage": ["polarity-changes"],
    "foghorn": ["opposite-polarity"],
    "winch": ["dual-mono"],
    "wind-gauge": ["silent-channel"],
}


def test_demo_files_have_exactly_their_findings(demo_files: dict[str, Path]) -> None:
    paths = list(demo_files.values())
    assert len(paths) == 23
    with open_files(paths) as files:
        said = {}
        for path, (form, file) in zip(paths, files, strict=True):
            clip = Clip(form, make_clip(file).channels)
            said[path.stem] = [noted.code for noted in find_in_file(stem(path.name), form, measure_signal(clip))]
    assert {name: found_codes for name, found_codes in said.items() if found_codes} == PROMISED


# What was found in recordings nobody here wrote, and looked at by eye: see the table in docs/architecture.md.
REAL = {
    "vinyl_hiss.flac": ["opposite-polarity"],
    "perc_bell.flac": ["opposite-polarity"],
    "loop_mika.flac": ["nearly-mono"],
    "Marimbach.ogg": [],
    "M1F1-float32-AFsp.wav": ["unrelated-channels", "bits-used"],
    "Front_Left.wav": [],
    "tabla_ghe2.flac": ["dc-offset"],
    "bd_ada.flac": ["clipped"],
    "loop_amen.flac": [],
}


@pytest.mark.parametrize("name", REAL)
def test_real_recordings(name: str, recording: Callable[[str], Path]) -> None:
    path = recording(name)
    with open_files([path]) as [(form, file)]:
        clip = Clip(form, make_clip(file).channels)
        measures = measure_signal(clip)
        assert [noted.code for noted in find_in_file(stem(name), form, measures)] == REAL[name]
    if name == "vinyl_hiss.flac":
        assert measures.sides is not None
        assert measures.sides.correlation == pytest.approx(-0.73, abs=0.01)
        assert measures.sides.mono_fold_loss_db == pytest.approx(8.6, abs=0.1)
