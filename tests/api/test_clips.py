"""What the API says of clips to look at and listen to, and of the pages that explain, against NumPy and SciPy."""

import math
from pathlib import Path

import numpy as np
import pytest
import scipy.signal
from fastapi.testclient import TestClient

from support.asking import add, floats, send
from support.helpers import Json, noise, write_wav
from wedge_turn.demo import why

RATE = 48_000


def song(client: TestClient, job: Json, tmp_path: Path) -> Json:
    """A tone in the middle, another on the left, noise on the right; 24 bit."""
    t = np.arange(3 * RATE) / RATE
    middle, left = 0.3 * np.sin(2 * np.pi * 997 * t), 0.2 * np.sin(2 * np.pi * 2_500 * t)
    right = 0.02 * np.random.default_rng(1).standard_normal(len(t))
    ints = np.rint(np.stack([middle + left, middle + right], axis=1) * 2**23).astype(np.int64)
    return send(client, job, write_wav(tmp_path / "evening.wav", ints))


def revision(job: Json) -> str:
    return f"/api/jobs/{job['id']}/revisions/{job['head']}"


def test_audio_of_sides_and_centre_is_what_the_core_computes(client: TestClient, job: Json, tmp_path: Path) -> None:
    source = song(client, job, tmp_path)
    view = add(client, job, "centre", [source["ref"]], keep="both", method="wedge")
    sides, centre = view["steps"][0]["outputs"]
    parts = [floats(client, view, "samples", clip=one["ref"], start=0, frames=3 * RATE) for one in (sides, centre)]
    whole = floats(client, view, "samples", clip=source["ref"], start=0, frames=3 * RATE)
    assert np.abs(parts[0] + parts[1] - whole).max() < 1e-6
    alone = floats(client, view, "samples", clip=centre["ref"], start=70_001, frames=999)
    assert np.array_equal(alone, parts[1][140_002 : 140_002 + 1_998])
    # The tone in the middle is most of the centre.
    power = np.abs(np.fft.rfft(parts[1][::2])) ** 2
    assert power[2_985:2_998].sum() > 0.99 * power.sum()


def test_before_a_clip_and_after_it_there_is_silence(client: TestClient, job: Json, tmp_path: Path) -> None:
    source = song(client, job, tmp_path)
    view = add(client, job, "trim", [source["ref"]], start="1000s", end="2000s")
    whole = floats(client, view, "samples", clip=source["ref"], start=0, frames=3_000).reshape(-1, 2)
    trimmed = view["steps"][0]["outputs"][0]["ref"]
    around = floats(client, view, "samples", clip=trimmed, start=-1_000, frames=3_000).reshape(-1, 2)
    assert not around[:1_000].any()
    assert not around[2_000:].any()
    assert np.array_equal(around[1_000:2_000], whole[1_000:2_000])


def test_the_map_shines_where_the_sound_is(client: TestClient, job: Json, tmp_path: Path) -> None:
    source = song(client, job, tmp_path)
    view = client.get(f"/api/jobs/{job['id']}").json()
    shown = floats(client, view, "map", clip=source["ref"], start=0, frames=3 * RATE).reshape(96, 61)
    row, column = np.unravel_index(int(np.argmax(shown)), shown.shape)
    assert abs(int(column) - 30) <= 1
    # 2.5 kHz is only on the left, so that it shines at the other rows' left end.
    assert shown[row + 1 :, 0].max() > shown.max() - 12
    beyond = client.get(f"{revision(view)}/map", params={"clip": source["ref"], "start": 0, "frames": 3 * RATE + 1})
    assert (beyond.status_code, beyond.json()["code"]) == (422, "bad-request")


def test_loudness_is_given_in_pairs_for_each_tenth_of_a_second(client: TestClient, job: Json, tmp_path: Path) -> None:
    source = song(client, job, tmp_path)
    view = client.get(f"/api/jobs/{job['id']}").json()
    shown = floats(client, view, "loudness", clip=source["ref"], first=5, count=600).reshape(-1, 2)
    assert len(shown) == 25  # the song has three seconds
    assert abs(shown[-1, 0] - shown[-1, 1]) < 1  # it is steady
    beyond = client.get(f"{revision(view)}/loudness", params={"clip": source["ref"], "first": 30, "count": 1})
    assert (beyond.status_code, beyond.json()["code"]) == (422, "bad-request")


def test_a_spectrum_matches_a_periodogram(client: TestClient, job: Json, tmp_path: Path) -> None:
    source = song(client, job, tmp_path)
    view = client.get(f"/api/jobs/{job['id']}").json()
    query = {"clip": source["ref"], "start": 0, "frames": 3 * RATE}
    report = client.get(f"{revision(view)}/analysis", params=query).json()
    left = np.array(report["left"], float)
    at = round(997 / report["step_hz"])
    assert left[at - 1 : at + 2].max() == pytest.approx(20 * math.log10(0.3), abs=1.5)  # scalloping of a Hann window
    samples = floats(client, view, "samples", **query).reshape(-1, 2)
    hertz, power = scipy.signal.periodogram(samples[:, 0], RATE, window="hann", scaling="spectrum")
    assert hertz[np.argmax(power)] == pytest.approx(int(np.argmax(left)) * report["step_hz"], abs=report["step_hz"])
    assert report["correlation"] == pytest.approx(float(np.corrcoef(samples.T)[0, 1]), abs=0.02)
    assert sum(report["field"]) == pytest.approx(1, abs=1e-3)


def test_the_expectation_of_a_centre(client: TestClient, job: Json, tmp_path: Path) -> None:
    tone = np.rint(2**21 * np.sin(np.arange(RATE) / 9))[:, None].astype(np.int64)
    same = send(client, job, write_wav(tmp_path / "same.wav", np.hstack([tone, tone])))
    unrelated = send(client, job, write_wav(tmp_path / "apart.wav", np.hstack([noise(n, RATE, 1, 22) for n in (1, 2)])))
    upside = send(client, job, write_wav(tmp_path / "upside.wav", np.hstack([tone, -tone])))
    view = client.get(f"/api/jobs/{job['id']}").json()
    said = {}
    for source in (same, unrelated, upside):
        told = client.get(f"{revision(view)}/expectation", params={"clip": source["ref"], "method": "wedge"}).json()
        said[source["name"]] = [finding["code"] for finding in told["findings"]]
        assert all(source["name"] in finding["message"] for finding in told["findings"])
    assert said["same"] == ["all-centre"]
    assert "no-centre" in said["apart"]
    assert "opposite-polarity" in said["upside"]


def test_the_forecast_of_a_voice(client: TestClient, job: Json, tmp_path: Path) -> None:
    """White noise has no voice; the demo's song, whose lead is sung, has."""
    sung = np.rint(why.sound("song") * 2**23).astype(np.int64)
    hiss = send(client, job, write_wav(tmp_path / "hiss.wav", noise(1, RATE, 2, 22)))
    song = send(client, job, write_wav(tmp_path / "song.wav", sung))
    three = send(client, job, write_wav(tmp_path / "three.wav", noise(2, RATE, 3, 22)))
    view = client.get(f"/api/jobs/{job['id']}").json()
    of_hiss, of_song, of_three = (
        client.get(f"{revision(view)}/forecast", params={"clip": source["ref"]}) for source in (hiss, song, three)
    )
    assert of_hiss.json()["message"].startswith("Hardly any voice in the middle: ")
    assert of_hiss.json()["forecast"]["better"] == "wedge"
    assert "clear of everything else" in of_song.json()["message"]
    assert of_song.json()["forecast"]["better"] == "voice"
    assert of_three.status_code == 422
    assert "two channels" in of_three.json()["message"]
    aside = client.get(f"{revision(view)}/forecast", params={"clip": song["ref"], "position": 0.8}).json()
    assert "at the chosen position" in aside["message"]
    assert aside["forecast"]["in_the_middle"] < of_song.json()["forecast"]["in_the_middle"]
    beyond = client.get(f"{revision(view)}/forecast", params={"clip": song["ref"], "position": 2})
    assert beyond.status_code == 422


def test_two_clips_side_by_side_are_one_picture(client: TestClient, job: Json, tmp_path: Path) -> None:
    """A merge's two mono files, looked at together: what is shown is what the merge would show."""
    left, right = (noise(n, 9_000, 1) for n in (5, 6))
    refs = [send(client, job, write_wav(tmp_path / f"a_{s}.wav", x))["ref"] for s, x in (("L", left), ("R", right))]
    view = add(client, job, "merge", refs)
    merged = view["steps"][0]["outputs"][0]["ref"]
    for what, query in (("waveform", {"per": 256, "bins": 40}), ("correlation", {"per": 1_024, "bins": 9})):
        together = floats(client, view, what, clip=refs, start=0, **query)
        assert np.array_equal(together, floats(client, view, what, clip=merged, start=0, **query), equal_nan=True)
    slow = send(client, job, write_wav(tmp_path / "slow.wav", left, rate=44_100))
    now = client.get(f"/api/jobs/{job['id']}").json()
    answer = client.get(f"{revision(now)}/samples?clip={refs[0]}&clip={slow['ref']}&start=0&frames=10")
    assert answer.status_code == 422
    assert "sample rates" in answer.json()["message"]


def test_measures_are_those_of_the_clip_that_was_asked_for(client: TestClient, job: Json, tmp_path: Path) -> None:
    ints = noise(3, RATE, 2, 20)
    source = send(client, job, write_wav(tmp_path / "w.wav", ints))
    view = add(client, job, "fold", [source["ref"]], take="sum", law="full")
    folded = view["steps"][0]["outputs"][0]["ref"]
    told = client.get(f"{revision(view)}/measures", params={"clip": folded}).json()["measures"]
    peak = np.abs(ints.sum(axis=1)).max() / 2**23
    assert told["whole"]["peak_dbfs"] == pytest.approx(20 * math.log10(peak), abs=1e-3)
    assert told["sides"] is None
    details = client.get(f"/api/jobs/{job['id']}/sources/{source['ref'].split(':')[1]}").json()
    assert details["measures"]["sides"]["fold_dbfs"]["full"] == pytest.approx(told["whole"]["rms_dbfs"], abs=1e-3)


@pytest.mark.parametrize(("degrees", "gain", "level"), [(0, 0, 6.02), (90, 0, 3.01), (180, 0, None), (120, 0, 0.0),
                                                        (180, 1, 20 * math.log10(10 ** (1 / 20) - 1))])  # fmt: skip
def test_two_sines_add_up_as_vectors_do(client: TestClient, degrees: float, gain: float, level: float | None) -> None:
    """|1 + g·e^(−jφ)|, arithmetic: equal and half a period apart they are silence."""
    told = client.get("/api/why/sines", params={"degrees": degrees, "gain_db": gain}).json()
    assert told["sum_db"] == (None if level is None else pytest.approx(level, abs=0.01))
    assert told["correlation"] == pytest.approx(math.cos(math.radians(degrees)), abs=1e-3)
    one, two, both = (np.array(told[name]) for name in ("one", "two", "both"))
    assert np.allclose(one + two, both, atol=2e-4)
    if level is None:
        assert not both.any()


def test_sum_laws_measured_on_real_signals(client: TestClient) -> None:
    """Equal sides sum to +6.02 dB, unrelated ones of equal power to +3.01 dB; each law takes its part of it off."""
    for law in client.get("/api/why/laws").json():
        equal = {"same": 6.02, "unrelated": 3.01}[law["sound"]]
        assert law["levels"]["full"] == pytest.approx(equal, abs=0.15)
        assert law["levels"]["power"] == pytest.approx(equal - 3.01, abs=0.15)
        assert law["levels"]["average"] == pytest.approx(equal - 6.02, abs=0.15)
        heard = np.frombuffer(client.get(f"/api/why/sounds/{law['sound']}").content, "<f4").reshape(-1, 2)
        assert len(heard) == 6 * RATE
        rho = float(np.corrcoef(heard.T)[0, 1])
        assert rho == pytest.approx(1 if law["sound"] == "same" else 0, abs=0.03)


def test_the_song_of_the_explanation_loses_its_lead(client: TestClient) -> None:
    heard = {
        name: np.frombuffer(client.get(f"/api/why/sounds/{name}").content, "<f4").reshape(-1, 2)
        for name in (
            "song", "song-difference", "song-lows-kept", "song-sides", "song-centre",
            "song-without-voice", "song-voice",
        )
    }  # fmt: skip
    below = scipy.signal.butter(4, 100, fs=RATE, output="sos")
    bass = {name: float(np.sum(scipy.signal.sosfilt(below, block[:, 0]) ** 2)) for name, block in heard.items()}
    assert all(np.abs(block).max() <= 1 for block in heard.values())
    # The difference has lost the bass, and has it back where the lows are kept.
    assert bass["song-difference"] < 0.01 * bass["song"]
    assert bass["song-lows-kept"] > 20 * bass["song-difference"]
    assert np.array_equal(heard["song-difference"][:, 0], heard["song-difference"][:, 1])
    assert not np.array_equal(heard["song-sides"][:, 0], heard["song-sides"][:, 1])
    # What was taken as voice and what stays are the song, with bass and drum where they were.
    parts = heard["song-without-voice"] + heard["song-voice"]
    assert np.abs(parts - heard["song"]).max() < 1e-5
    assert bass["song-without-voice"] > 0.9 * bass["song"]
    assert bass["song-voice"] < 0.02 * bass["song"]
    assert client.get("/api/why/sounds/nothing").status_code == 422
