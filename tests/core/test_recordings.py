"""Turns on recordings nobody here made: what is heard after them is what was promised, on the written file.

Debian alsa-utils: the sides' names, spoken. npm wav: a man on the left (about 110 Hz), a woman on the right (about
267 Hz). Debian sonic-pi-samples: hiss and bells whose sides go against each other. `tests/fetch_recordings.sh` fetches.
"""

import math
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import soundfile

from support.helpers import engine_on
from wedge_turn.core.audio import WavFile, open_files
from wedge_turn.core.clips import Clip, Engine, make_clip
from wedge_turn.core.delivery import Manifest, Order, deliver
from wedge_turn.core.measure import measure_signal
from wedge_turn.core.turns import AnyTurn, Centre, ClipInfo, Decode, Encode, Fold, Merge, Polarity, Swap
from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref

Find = Callable[[str], Path]


def chain(files: dict[str, WavFile], *turns: AnyTurn) -> Engine:
    """Turns one after the other, the first on all files."""
    steps, inputs = [], tuple(source_ref(name) for name in files)
    for n, turn in enumerate(turns):
        steps.append(Step(id=f"s{n}", turn=turn, inputs=inputs))
        inputs = (f"step:s{n}:0",)
    infos = {name: ClipInfo(name, file.form) for name, file in files.items()}
    return Engine(Sheet(Plan(steps=tuple(steps)), infos), lambda name: files[name])


def delivered(engine: Engine, folder: Path) -> tuple[Manifest, np.ndarray]:
    manifest = deliver(engine, Order(tuple(engine.sheet.list_ends())), folder)
    data, _ = soundfile.read(folder / manifest.files[0].name, always_2d=True)
    return manifest, data


def pitch(wave: np.ndarray, rate: int) -> float:
    """The fundamental of a voice in Hz: the highest peak of its autocorrelation between 70 and 400 Hz."""
    loud = wave - wave.mean()
    like = np.fft.irfft(np.abs(np.fft.rfft(loud, 2 * len(loud))) ** 2)
    first, last = rate // 400, rate // 70
    return rate / float(first + np.argmax(like[first:last]))


def test_spoken_sides_change_places(recording: Find, tmp_path: Path) -> None:
    names = ("Front_Left", "Front_Right")
    files = {name: WavFile(recording(f"{name}.wav")) for name in names}
    manifest, swapped = delivered(chain(files, Merge(), Swap()), tmp_path / "out")
    assert all(proof.proof.exact for proof in manifest.proofs)
    for column, name in ((1, "Front_Left"), (0, "Front_Right")):
        spoken, _ = soundfile.read(recording(f"{name}.wav"))
        assert np.array_equal(swapped[: len(spoken), column], spoken)
        assert not swapped[len(spoken) :, column].any()


@pytest.mark.parametrize(("take", "hertz"), [("left", 110), ("right", 267)])
def test_both_speakers_end_up_in_both_channels(take: str, hertz: float, recording: Find, tmp_path: Path) -> None:
    file = WavFile(recording("M1F1-float32-AFsp.wav"))
    engine = engine_on(Fold(take=take), file, names=["talk"])
    manifest, mono = delivered(engine, tmp_path / "out")
    both, rate = soundfile.read(recording("M1F1-float32-AFsp.wav"))
    assert mono.shape == (len(both), 1)
    assert np.array_equal(mono[:, 0], both[:, ("left", "right").index(take)])
    assert manifest.proofs[0].proof.exact
    assert pitch(mono[:, 0], rate) == pytest.approx(hertz, rel=0.12)


def test_the_loss_of_a_sum_is_undone_by_inverting(recording: Find, tmp_path: Path) -> None:
    """The sides correlate by −0.73: their sum is 8.6 dB below them. Flipped, it is not, and nothing is invented."""
    with open_files([recording("vinyl_hiss.flac")]) as [(form, file)]:
        before = measure_signal(Clip(form, make_clip(file).channels)).sides
        assert isinstance(file, WavFile)
        summed = {}
        for name, turns in (("as it is", ()), ("flipped", (Polarity(channels="right"),))):
            _, mono = delivered(chain({"hiss": file}, *turns, Fold(take="sum")), tmp_path / name)
            summed[name] = 10 * math.log10(float(np.mean(mono**2)))
        both, _ = soundfile.read(recording("vinyl_hiss.flac"))
    assert before is not None
    one_side = 10 * math.log10(float(np.mean(both**2)))
    assert one_side - summed["as it is"] == pytest.approx(before.mono_fold_loss_db, abs=0.05)
    assert before.mono_fold_loss_db == pytest.approx(8.6, abs=0.1)
    flipped = 10 * math.log10(float(np.mean(((both[:, 0] - both[:, 1]) / 2) ** 2)))
    assert summed["flipped"] == pytest.approx(flipped, abs=0.01)
    assert summed["flipped"] > summed["as it is"] + 7


def test_speech_round_trips_through_mid_side(recording: Find, tmp_path: Path) -> None:
    file = WavFile(recording("M1F1-float32-AFsp.wav"))
    _, back = delivered(chain({"talk": file}, Encode(), Decode()), tmp_path / "out")
    source, _ = soundfile.read(recording("M1F1-float32-AFsp.wav"))
    assert np.array_equal(back, source)


def test_of_two_speakers_aside_the_wedge_takes_nothing_where_one_is_silent(recording: Find) -> None:
    """Neither stands in the middle: what the centre holds is far below what stays."""
    file = WavFile(recording("M1F1-float32-AFsp.wav"))
    engine = engine_on(Centre(method="wedge", keep="both"), file, names=["talk"])
    sides, centre = (engine.clip(f"step:only:{n}").read(0, file.form.frames) for n in (0, 1))
    assert 10 * math.log10(np.mean(centre**2) / np.mean(sides**2)) < -15
    assert np.abs(sides + centre - file.read(0, file.form.frames)).max() < 1e-12
