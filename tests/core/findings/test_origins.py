"""What a file went through: spectra that end sharply, encoders and histories that name lossy coding."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import scipy.signal
import soundfile

from support.helpers import RECORDINGS
from wedge_turn.core.audio import WavFile, import_file
from wedge_turn.core.errors import Error
from wedge_turn.core.findings.origin import find_in_origin
from wedge_turn.core.form import Form
from wedge_turn.core.measure import Measures, measure_signal
from wedge_turn.core.metadata import Recorded


def looked_at(path: Path, to: Path) -> tuple[Form, Measures, list[str]]:
    accepted = import_file(path, path.name, lambda: to / f"{path.name}.copy")
    with WavFile(accepted.pcm) as file:
        measures = measure_signal(file)
    found = find_in_origin(path.stem, accepted.form, measures, accepted.recorded)
    return accepted.form, measures, [finding.code for finding in found]


@pytest.mark.parametrize(("level", "lowest", "highest"), [(0.5, 17_500, 19_200), (0.1, 19_500, 20_500)])
@pytest.mark.parametrize("name", ["loop_safari.flac", "mehackit_robot2.flac", "vinyl_rewind.flac", "sn_dub.flac"])
def test_a_lossy_copy_in_the_coat_of_a_wav_is_told(
    tmp_path: Path, recording: Callable[[str], Path], name: str, level: float, lowest: float, highest: float
) -> None:
    """Coded by LAME through libsndfile, and decoded by it."""
    samples, rate = soundfile.read(recording(name))
    mp3, wav = tmp_path / "copy.mp3", tmp_path / "copy.wav"
    soundfile.write(mp3, samples, rate, bitrate_mode="CONSTANT", compression_level=level)
    decoded, _ = soundfile.read(mp3)
    soundfile.write(wav, decoded, rate, subtype="PCM_24")
    _, measures, found = looked_at(wav, tmp_path)
    assert measures.sharp_end is not None
    assert lowest <= measures.sharp_end.hertz <= highest
    assert found == ["lossy-spectrum"]
    # Of what is lossy by its own format, that is nothing new.
    assert looked_at(mp3, tmp_path)[2] == []


def test_no_real_or_demo_file_that_is_not_lossy_is_taken_for_a_lossy_copy(
    tmp_path: Path,
    demo_files: dict[str, Path],
    recording: Callable[[str], Path],
) -> None:
    recording("lena-32.wav")
    real = [path for path in sorted(RECORDINGS.iterdir()) if path.suffix in (".flac", ".wav", ".aif", ".aiff")]
    told = []
    looked = 0
    for path in [*demo_files.values(), *real]:
        try:
            _, _, found = looked_at(path, tmp_path)
        except Error:
            continue  # some are broken on purpose
        looked += 1
        if set(found) & {"lossy-spectrum", "lossy-ancestor"}:
            told.append(path.name)
    assert looked > 100
    assert told == []


def test_a_gentle_low_pass_is_no_sharp_end(tmp_path: Path) -> None:
    rng = np.random.default_rng(1)
    noise = rng.standard_normal(4 * 48_000) * 0.1
    for order, ends in ((4, False), (40, True)):
        sos = scipy.signal.butter(order, 16_000, fs=48_000, output="sos")
        path = tmp_path / f"{order}.wav"
        soundfile.write(path, scipy.signal.sosfilt(sos, noise), 48_000, subtype="PCM_24")
        assert (looked_at(path, tmp_path)[1].sharp_end is not None) is ends


@pytest.mark.parametrize(
    ("recorded", "named"),
    [
        (Recorded(history=("A=MPEG1L3,F=48000,B=192", "A=PCM,F=48000")), "MPEG1L3"),
        (Recorded(history=("A=AAC,F=48000",)), "AAC"),
        (Recorded(encoder="LAME 64bits version 3.100"), "LAME 64bits version 3.100"),
        (Recorded(history=("A=PCM,F=48000,W=24,M=stereo,T=Wedge Turn; swap",)), None),
        (Recorded(history=("A=ANALOGUE,M=stereo,T=tape",)), None),
        (Recorded(encoder="Lavf62.3.100"), None),
        (Recorded(), None),
    ],
)
def test_a_history_that_names_lossy_coding(recorded: Recorded, named: str | None, tmp_path: Path) -> None:
    path = tmp_path / "a.wav"
    soundfile.write(path, np.zeros((100, 2)), 48_000, subtype="PCM_24")
    with WavFile(path) as file:
        found = find_in_origin("a", file.form, measure_signal(file), recorded)
    assert [finding.measured["coding"] for finding in found] == ([named] if named else [])
    assert all(finding.code == "lossy-ancestor" for finding in found)
