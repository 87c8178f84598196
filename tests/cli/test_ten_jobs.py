"""A day at a shell: ten jobs on files that other libraries wrote, each checked by NumPy alone."""

import json
import re
from pathlib import Path

import numpy as np
import pytest
import soundfile

from support.helpers import bext, noise, write_wav
from support.movies import rising, write_movie
from support.shell import run

RATE = 48_000


def sound(seed: int, seconds: float, channels: int = 1, rate: int = RATE) -> np.ndarray:
    """Music, as far as samples go: it has a low end and 24 bits."""
    white = noise(seed, round(seconds * rate), channels) / 2**25
    return np.round((0.5 * white + 0.5 * np.roll(white, 1, axis=0)) * 2**23) / 2**23


def save(path: Path, samples: np.ndarray, rate: int = RATE, subtype: str = "PCM_24") -> Path:
    path.parent.mkdir(parents=True, exist_ok=True)
    soundfile.write(path, samples, rate, subtype)
    return path


def load(path: Path) -> np.ndarray:
    return np.asarray(soundfile.read(path, dtype="float64", always_2d=True)[0])


def done(*arguments: object) -> str:
    """What a command printed, which must have gone well."""
    told = run(*arguments)
    assert told.returncode == 0, told.stderr
    return told.stdout


def advised(printed: str, about: str) -> list[str]:
    """What `inspect` says to type about something."""
    (line,) = [line for line in printed.splitlines() if about in line]
    return line.split("→ ")[1].split()


def test_1_pairs_of_a_session_are_found_and_merged(tmp_path: Path) -> None:
    sides = {name: sound(n, 0.5) for n, name in enumerate(("OH Left", "OH Right", "room.L", "room.R", "kick"))}
    for name, samples in sides.items():
        save(tmp_path / f"{name}.wav", samples)
    told = done("inspect", tmp_path)
    assert "OH: left OH Left.wav, right OH Right.wav" in told.replace(f"{tmp_path}/", "")
    pairs = [tmp_path / f"{name}.wav" for name in sides if name != "kick"]
    done("apply", "merge", *pairs, "--out", tmp_path / "out")
    for name, left, right in (("OH", "OH Left", "OH Right"), ("room", "room.L", "room.R")):
        assert np.array_equal(load(tmp_path / "out" / f"{name}.wav"), np.hstack([sides[left], sides[right]]))


def test_2_a_surround_mix_comes_of_monos(tmp_path: Path) -> None:
    names = ("Left", "Right", "Center", "Sub", "Left Surround", "Right Surround")
    monos = {name: sound(n, 0.5) for n, name in enumerate(names)}
    paths = [save(tmp_path / f"mix {name}.wav", samples) for name, samples in monos.items()]
    done("apply", "merge", *reversed(paths), "--out", tmp_path / "out")
    (made,) = (tmp_path / "out").glob("*.wav")
    assert np.array_equal(load(made), np.hstack([monos[name] for name in names]))
    assert made.read_bytes()[40:44] == (0x60F).to_bytes(4, "little")  # dwChannelMask


def test_3_a_poly_file_is_split_by_the_names_it_gives(tmp_path: Path) -> None:
    tracks = "".join(
        f"<TRACK><CHANNEL_INDEX>{n}</CHANNEL_INDEX><NAME>{name}</NAME></TRACK>"
        for n, name in enumerate(("Boom", "Ben/Lav", "Plant"), 1)
    )
    ixml = f"<BWFXML><TRACK_LIST><TRACK_COUNT>3</TRACK_COUNT>{tracks}</TRACK_LIST></BWFXML>".encode()
    ints = noise(3, RATE, 3)
    take = write_wav(tmp_path / "12A-3.wav", ints, carried=((b"iXML", ixml), bext(36_000 * RATE)))
    done("apply", "split", take, "--out", tmp_path / "out")
    for n, name in enumerate(("Boom", "Ben-Lav", "Plant")):
        (path,) = (tmp_path / "out").glob(f"*{name}.wav")
        assert np.array_equal(load(path)[:, 0] * 2**23, ints[:, n])


def test_4_spill_is_lowered_where_it_was_suggested(tmp_path: Path) -> None:
    turns = np.arange(24 * RATE) // (3 * RATE) % 2
    one, two = sound(1, 24)[:, 0] * (turns == 0), sound(2, 24)[:, 0] * (turns == 1)
    take = save(tmp_path / "two voices.wav", np.stack([one + 0.05 * two, two + 0.05 * one], 1) + 1e-5 * sound(3, 24, 2))
    done("apply", *done("suggest", "hushes", take).split(), take, "--out", tmp_path / "out")
    before, after = load(take), load(tmp_path / "out" / take.name)
    quiet = slice(4 * RATE, 5 * RATE)
    assert np.allclose(after[quiet, 0], before[quiet, 0] * 10 ** (-12 / 20), atol=2e-7)
    assert np.array_equal(after[quiet, 1], before[quiet, 1])


def test_5_mid_and_side_become_left_and_right(tmp_path: Path) -> None:
    mid, side = (np.round(sound(n, 0.5) * 2**21) / 2**23 for n in (1, 2))
    paths = [save(tmp_path / f"atmos {name}.wav", samples) for name, samples in (("mid", mid), ("side", side))]
    done("apply", "decode", *paths, "--out", tmp_path / "out")
    (made,) = (tmp_path / "out").glob("*.wav")
    assert np.array_equal(load(made), np.hstack([mid + side, mid - side]))


def test_6_what_inspect_says_to_type_mends_the_file(tmp_path: Path) -> None:
    rest = sound(4, 8)[:, 0]
    pair = np.stack([rest + 0.02, -np.roll(rest, 37)], 1)[100:-100]
    take = save(tmp_path / "snare.wav", pair)
    turn = advised(done("inspect", take), "DC offset")
    done("apply", turn[0], take, *turn[1:], "--out", tmp_path / "no dc")
    turn = done("suggest", "delay", tmp_path / "no dc" / "snare.wav").split()
    done("apply", *turn, tmp_path / "no dc" / "snare.wav", "--out", tmp_path / "aligned")
    turn = advised(done("inspect", tmp_path / "aligned" / "snare.wav"), "polarity")
    done("apply", turn[0], tmp_path / "aligned" / "snare.wav", *turn[1:], "--out", tmp_path / "mended")
    mended = load(tmp_path / "mended" / "snare.wav")[40:-40]
    apart = mended[:, 0] - mended[:, 1]
    assert np.abs(apart).max() < 1e-3
    assert np.ptp(apart) < 1e-6  # the offset that the noise has by itself is in both


def test_7_a_pair_at_two_rates_is_merged_at_one(tmp_path: Path) -> None:
    seconds = 2
    tones = {rate: 0.4 * np.sin(2 * np.pi * 440 * np.arange(seconds * rate) / rate) for rate in (44_100, RATE)}
    paths = [save(tmp_path / f"phone_{side}.wav", tones[rate], rate) for side, rate in (("L", 44_100), ("R", RATE))]
    assert run("apply", "merge", *paths, "--out", tmp_path / "none").returncode == 1
    done("apply", "merge", *paths, "--rate", "highest", "--out", tmp_path / "out")
    made = load(tmp_path / "out" / "phone.wav")[2_000:-2_000]
    assert np.abs(made[:, 0] - made[:, 1]).max() < 1e-6


def test_8_the_same_minute_is_cut_from_every_recorder(tmp_path: Path) -> None:
    speed = b"<BWFXML><SPEED><TIMECODE_RATE>25/1</TIMECODE_RATE></SPEED></BWFXML>"
    takes = {}
    for n, name in enumerate(("boom", "radio")):
        ints = noise(n, 10 * RATE, 1)
        start = (36_000 + n) * RATE
        takes[name] = ints
        write_wav(tmp_path / f"{name}.wav", ints, carried=(bext(start), (b"iXML", speed)))
    done("apply", "trim", tmp_path, "--set", "start=10:00:03:05", "--set", "end=10:00:05:00", "--out", tmp_path / "out")
    for n, name in enumerate(takes):
        first = (3 - n) * RATE + 5 * 1_920
        assert np.array_equal(load(tmp_path / "out" / f"{name}.wav") * 2**23, takes[name][first : (5 - n) * RATE])


def test_9_the_sound_of_a_film_is_taken_out_by_track(tmp_path: Path) -> None:
    tracks = [rising(9_600), rising(9_600, 2, RATE // 2)]
    film = write_movie(tmp_path / "reel 2.mov", "mov", "pcm_f32le", tracks)
    turn = advised(done("inspect", film), "sound tracks")
    done("apply", turn[0], film, *turn[1:], "--out", tmp_path / "out")
    made = [load(path) for path in sorted((tmp_path / "out").glob("*.wav"))]
    assert len(made) == 2
    for one, track in zip(made, tracks, strict=True):
        assert np.array_equal(one, track.T)


def test_10_a_folder_is_prepared_checked_and_found_out_when_it_was_touched(tmp_path: Path) -> None:
    folder, out = tmp_path / "from the studio", tmp_path / "prepared"
    mono = sound(1, 1)
    save(folder / "drums" / "gtr.wav", np.hstack([mono, mono]))
    save(folder / "drums" / "oh_L.wav", sound(2, 1))
    save(folder / "drums" / "oh_R.wav", sound(3, 1))
    broken = save(folder / "vox" / "vox.wav", sound(4, 2))
    broken.write_bytes(broken.read_bytes()[:-60_000])
    (folder / "notes.txt").write_text("bass is DI only")
    assert "--salvage" in run("prep", folder, "--out", tmp_path / "none").stderr
    done("prep", folder, "--out", out, "--salvage")
    assert np.array_equal(load(out / "drums" / "gtr.wav"), mono)
    assert np.array_equal(load(out / "drums" / "oh.wav"), np.hstack([sound(2, 1), sound(3, 1)]))
    assert (out / "vox" / "vox.wav").read_bytes() == broken.read_bytes()
    assert run("verify", out).returncode == 0
    gtr = out / "drums" / "gtr.wav"
    gtr.write_bytes(gtr.read_bytes()[:-1] + b"\x01")
    (out / "drums" / "oh.wav").rename(out / "drums" / "overheads.wav")
    told = run("verify", out)
    assert told.returncode == 1
    assert re.search(r"gtr\.wav.*changed", told.stderr)
    assert re.search(r"oh\.wav.*overheads\.wav", told.stderr)
    report = json.loads(run("verify", out, "--json").stdout)
    assert not report["ok"]


@pytest.mark.parametrize("job", ["merge", "swap"])
def test_nothing_of_it_changes_a_source(job: str, tmp_path: Path) -> None:
    paths = [save(tmp_path / f"a_{side}.wav", sound(n, 0.2, 1 if job == "merge" else 2)) for n, side in enumerate("LR")]
    before = [path.read_bytes() for path in paths]
    done("apply", job, *paths, "--out", tmp_path / "out")
    assert [path.read_bytes() for path in paths] == before
