"""Resampling, on files that libsndfile wrote, by measures of its own and against SciPy.

Passband and stopband are measured by sines, as AES17-2015 measures converters (from memory). The limits are those that
libsoxr states of its very high quality (passband 0.91, 28 bit), with room for the 24 bits that are written.
"""

import json
import math
import struct
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import scipy.signal
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from support.helpers import engine_on, noise, write_wav
from support.shell import run
from wedge_turn.core.audio import WavFile
from wedge_turn.core.delivery import MANIFEST
from wedge_turn.core.form import Form
from wedge_turn.core.turns import ClipInfo, Merge, Resample, resample
from wedge_turn.core.worksheet import plan_turn

PAIRS = [(44_100, 48_000), (48_000, 44_100), (96_000, 44_100), (44_100, 192_000), (48_000, 47_952), (88_200, 44_100)]


def resampled(path: Path, samples: np.ndarray, old: int, new: int, depth: str = "float") -> np.ndarray:
    """Samples from file to file by the command."""
    soundfile.write(path, samples, old, "DOUBLE" if depth == "float" else "PCM_24")
    out = path.parent / f"{path.stem} at {new}"
    done = run("apply", "resample", path, "--set", f"rate={new}", "--depth", depth, "--out", out)
    assert done.returncode == 0, done.stderr
    assert "identical" in done.stdout
    made, rate = soundfile.read(out / path.name, dtype="float64", always_2d=True)
    assert rate == new
    assert len(made) == -(-len(samples) * new // old)
    return np.asarray(made, np.float64)


def sine(hertz: float, rate: int, seconds: float) -> np.ndarray:
    return 0.5 * np.sin(2 * np.pi * hertz * np.arange(round(seconds * rate)) / rate)


@pytest.mark.parametrize(("old", "new"), PAIRS)
def test_sines_keep_level_and_place_and_what_is_above_the_band_is_gone(old: int, new: int, tmp_path: Path) -> None:
    half = min(old, new) / 2
    heard = [20.0, 997.0, 0.5 * half, 0.8 * half, 0.9 * half]
    gone = [1.02 * half, 1.3 * half] if old > 1.4 * new else []
    seconds = 3.0
    made = resampled(tmp_path / "sines.wav", np.stack([sine(f, old, seconds) for f in (*heard, *gone)], 1), old, new)
    inner = slice(new // 10, -new // 10)
    for n, hertz in enumerate(heard):
        wanted = sine(hertz, new, seconds)
        off = np.abs(made[inner, n] - wanted[: len(made)][inner]).max() / 0.5
        assert off < (10 ** (0.01 / 20) - 1 if hertz > 0.55 * half else 1e-6)
    for n in range(len(heard), len(heard) + len(gone)):
        assert np.abs(made[inner, n]).max() < 0.5 * 10 ** (-150 / 20)


@pytest.mark.parametrize(("old", "new"), PAIRS)
def test_an_impulse_stays_where_it_was_and_is_symmetric(old: int, new: int, tmp_path: Path) -> None:
    samples = np.zeros(2 * old)
    samples[old] = 0.5  # at one second, which both rates have a sample at
    made = resampled(tmp_path / "impulse.wav", samples, old, new)[:, 0]
    assert np.abs(made).argmax() == new
    assert np.abs(made[new - 2_000 : new][::-1] - made[new + 1 : new + 2_001]).max() < 1e-7
    assert made.sum() / new == pytest.approx(0.5 / old, rel=1e-6)  # the level of direct current


def test_a_sweep_is_the_sweep_at_the_new_rate(tmp_path: Path) -> None:
    """From 20 Hz to 18 kHz, through every page of the computation."""
    old, new, seconds = 44_100, 48_000, 10

    def sweep(rate: int) -> np.ndarray:
        t = np.arange(seconds * rate) / rate
        return 0.5 * scipy.signal.chirp(t, 20, seconds, 18_000, "logarithmic")

    made = resampled(tmp_path / "sweep.wav", sweep(old), old, new)[:, 0]
    off = np.abs(made - sweep(new))[new // 10 : -new // 10]
    assert off[: 6 * new].max() < 1e-6
    assert off.max() < 1e-3


@pytest.mark.parametrize(("old", "new"), PAIRS)
def test_scipy_makes_the_same_of_noise_below_the_edge(old: int, new: int, tmp_path: Path) -> None:
    taps = scipy.signal.firwin(401, 0.25 * min(old, new), fs=old, window=("kaiser", 12))
    samples = scipy.signal.oaconvolve(noise(3, 2 * old, 1)[:, 0] / 2**25, taps, "same")
    made = resampled(tmp_path / "noise.wav", samples, old, new, "24")[:, 0]
    up, down = new // math.gcd(old, new), old // math.gcd(old, new)
    window: list[float] = scipy.signal.firwin(
        128 * max(up, down) + 1, 1 / max(up, down), window=("kaiser", 14.0)
    ).tolist()
    other = scipy.signal.resample_poly(samples, up, down, window=window)  # type: ignore[call-overload]  # taps, too
    inner = slice(new // 10, -new // 10)
    assert np.abs(made[inner] - other[: len(made)][inner]).max() < 2e-6


@given(cuts=st.lists(st.integers(-300, 80_000), max_size=5), new=st.sampled_from([8_000, 44_100, 47_999, 48_000]))
def test_a_stretch_alone_equals_the_same_stretch_of_the_whole(tmp_path: Path, cuts: list[int], new: int) -> None:
    wav = WavFile(write_wav(tmp_path / "a.wav", noise(0, 70_001, 2), rate=22_050))
    clip = engine_on(Resample(rate=new), wav, names=["a"]).clip("step:only:0")
    whole = clip.read(-300, clip.form.frames + 600)
    edges = sorted({-300, *(min(cut, clip.form.frames) for cut in cuts), clip.form.frames + 300})
    pieces = [clip.read(a, b - a) for a, b in pairwise(edges)]
    assert np.vstack(pieces).tobytes() == whole.tobytes()
    assert not whole[:300].any()
    assert not whole[-300:].any()


def test_start_time_cue_points_loops_and_ixml_move_along(tmp_path: Path) -> None:
    points = b"".join(struct.pack("<II4sIII", n, at, b"data", 0, 0, at) for n, at in enumerate((0, 44_100, 66_150), 1))
    region = struct.pack("<II4s4H", 2, 22_050, b"rgn ", 0, 0, 0, 0)
    adtl = b"adtl" + b"ltxt" + struct.pack("<I", len(region)) + region
    loop = struct.pack("<6I", 0, 0, 441, 44_099, 0, 0)
    sampler = struct.pack("<9I", 0, 0, 22_676, 60, 0, 0, 0, 1, 0) + loop
    ixml = (
        b"<BWFXML><SPEED><FILE_SAMPLE_RATE>44100</FILE_SAMPLE_RATE><TIMESTAMP_SAMPLE_RATE>44100</TIMESTAMP_SAMPLE_RATE>"
        b"<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>0</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>"
        b"<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>1587600000</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO></SPEED></BWFXML>"
    )
    stamp = bytes(338) + struct.pack("<QH", 36_000 * 44_100, 1) + bytes(254)
    carried = ((b"bext", stamp), (b"cue ", struct.pack("<I", 3) + points), (b"LIST", adtl), (b"smpl", sampler))
    take = write_wav(tmp_path / "take.wav", noise(1, 88_200, 1), rate=44_100, carried=(*carried, (b"iXML", ixml)))
    done = run("apply", "resample", take, "--set", "rate=48000", "--out", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    wav = WavFile(tmp_path / "out" / "take.wav")
    assert (wav.form.start_time, wav.form.frames, wav.form.rate) == (36_000 * 48_000, 96_000, 48_000)
    chunks = dict(wav.carried())
    places = [struct.unpack_from("<I", chunks[b"cue "], 4 + 24 * n + 20)[0] for n in range(3)]
    assert places == [0, 48_000, 72_000]
    assert struct.unpack_from("<I", chunks[b"LIST"], 4 + 8 + 4)[0] == 24_000
    assert struct.unpack_from("<I", chunks[b"smpl"], 8)[0] == pytest.approx(1e9 / 48_000, abs=1)
    assert struct.unpack_from("<6I", chunks[b"smpl"], 36)[2:4] == (480, 47_999)
    for said in (b"<FILE_SAMPLE_RATE>48000<", b"<TIMESTAMP_SAMPLE_RATE>48000<", b"_LO>1728000000<"):
        assert said in chunks[b"iXML"]


def test_a_start_between_two_samples_is_rounded_and_said() -> None:
    form = Form(channels=1, frames=44_100, rate=44_100, encoding="s24", start_time=44_101)
    outcome = Resample(rate=48_000).outcome([ClipInfo("take", form)])
    assert outcome.outputs[0].form.start_time == 48_001
    (finding,) = outcome.findings
    assert (finding.code, finding.measured) == ("start-rounded", {"samples": -0.088})


def test_at_its_own_rate_a_file_stays_what_it_is(tmp_path: Path) -> None:
    take = write_wav(tmp_path / "take.wav", noise(1, 5_000, 2))
    assert run("apply", "resample", take, "--set", "rate=48k", "--out", tmp_path / "out").returncode == 0
    before, after = (soundfile.read(path, dtype="int32")[0] for path in (take, tmp_path / "out" / "take.wav"))
    assert np.array_equal(before, after)


def test_files_at_two_rates_are_refused_until_a_rate_is_chosen(tmp_path: Path) -> None:
    left, right = tmp_path / "gull_L.wav", tmp_path / "gull_R.wav"
    for path, rate in ((left, 44_100), (right, 48_000)):
        soundfile.write(path, sine(997, rate, 3) + 0.1 * noise(2, 3 * rate, 1)[:, 0] / 2**25, rate, "PCM_24")
    refused = run("apply", "merge", left, right, "--out", tmp_path / "none")
    assert (refused.returncode, "--rate lowest" in refused.stderr) == (1, True)
    assert "--rate lowest" in run("inspect", left, right).stdout
    for choice, rate in (("lowest", 44_100), ("highest", 48_000), (right, 48_000), ("96k", 96_000)):
        out = tmp_path / f"at {rate} by {Path(choice).name}"
        done = run("apply", "merge", left, right, "--rate", choice, "--out", out)
        assert done.returncode == 0, done.stderr
        made, written = soundfile.read(out / "gull.wav", dtype="float64")
        assert written == rate
        for n, path in enumerate((left, right)):
            own, old = soundfile.read(path, dtype="float64")
            if old == rate:
                assert np.array_equal(made[:, n], own)  # what is at that rate already is not even dithered
        assert np.abs(made[rate:-rate, 0] - sine(997, rate, 3)[rate:-rate]).max() < 0.2
        assert run("verify", out, "--sources", tmp_path).returncode == 0
    assert run("apply", "merge", left, right, "--rate", "fast", "--out", tmp_path / "none").returncode == 2


def test_a_rate_can_be_given_as_a_file(tmp_path: Path) -> None:
    phone = write_wav(tmp_path / "phone.wav", noise(1, 4_410, 1), rate=44_100)
    recorder = write_wav(tmp_path / "recorder.wav", noise(1, 9_600, 1), rate=96_000)
    assert run("apply", "resample", phone, "--set", f"rate={recorder}", "--out", tmp_path / "out").returncode == 0
    assert soundfile.info(tmp_path / "out" / "phone.wav").samplerate == 96_000
    manifest = json.loads((tmp_path / "out" / MANIFEST).read_text("utf-8"))
    assert manifest["proofs"][0]["sentence"] == "Resamples phone from 44,100 Hz to 96,000 Hz."


def test_only_what_is_at_another_rate_is_resampled_first() -> None:
    infos = [ClipInfo(name, Form(channels=1, frames=100, rate=rate, encoding="s24"))
             for name, rate in (("a_L", 44_100), ("a_R", 48_000))]  # fmt: skip
    steps = plan_turn(Merge(), infos, rate="highest").steps
    assert [(step.turn, step.inputs) for step in steps] == [
        (Resample(rate=48_000), ("source:0",)),
        (Merge(), ("step:rate-0:0", "source:1")),
    ]


def test_a_range_cannot_be_resampled_alone(tmp_path: Path) -> None:
    take = write_wav(tmp_path / "take.wav", noise(0, 5_000, 1))
    done = run("apply", "resample", take, "--set", "rate=44100", "--only", "0.01-0.05", "--out", tmp_path / "out")
    assert (done.returncode, "differs in length, rate or channels" in done.stderr) == (1, True)


def test_a_seam_that_is_torn_is_found_by_the_proof(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Pages that know nothing of their neighbours: what writes and what computes afresh agree on them."""
    take = write_wav(tmp_path / "take.wav", noise(1, 20 * 44_100, 1), rate=44_100)
    monkeypatch.setattr(resample, "CONTEXT", 0)
    done = run("apply", "resample", take, "--out", tmp_path / "out")
    assert (done.returncode, "was resampled wrongly (frame" in done.stderr) == (1, True)
    assert not (tmp_path / "out").exists()
