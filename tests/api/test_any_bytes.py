"""A job can be opened after any bytes whatever were uploaded into it, and everything that is sent is a number."""

import json
import struct
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from hypothesis import given, settings
from hypothesis import strategies as st

from support.asking import add
from support.helpers import Json
from support.waiting import until
from wedge_turn.core.form import ENCODINGS

extremes = st.sampled_from(
    (
        *(0.0, -0.0, 1.0, -1.0, 1e-45, -1e-38, 0.5, 1e6, -1e6, 1.1e6, 1e8, 1e19, 3e38, -3e38, 1e39, 1e200, 1e308),
        *(float("inf"), float("-inf"), float("nan")),
    )
)


def refuse_constant(constant: str) -> None:
    raise AssertionError(f"{constant} was sent")


def numbers_only(text: str) -> Any:
    """The JSON, which may hold neither NaN nor infinity."""
    return json.loads(text, parse_constant=refuse_constant)


def wav(kind: str, rate: int, channels: int, samples: list[float]) -> bytes:
    """A WAV written by hand, independently of the code under test."""
    encoding = ENCODINGS[kind]  # type: ignore[index]
    frames = len(samples) // channels
    values = np.array(samples[: frames * channels])
    with np.errstate(all="ignore"):
        if encoding.is_float:
            data = values.astype("<f4" if kind == "f32" else "<f8").tobytes()
        else:
            clipped = np.clip(np.nan_to_num(values, posinf=1, neginf=-1), -1, 1 - 2.0 ** (1 - encoding.bits))
            ints = np.rint(clipped * 2.0 ** (encoding.bits - 1)).astype(np.int64)
            shift = 128 if kind == "u8" else 0
            data = b"".join(((int(i) + shift) % 2**encoding.bits).to_bytes(encoding.width, "little") for i in ints)
    align = channels * encoding.width
    fmt = struct.pack(
        "<HHIIHH",
        3 if encoding.is_float else 1,
        channels,
        rate,
        min(rate * align, 2**32 - 1),
        align,
        8 * encoding.width,
    )
    body = b"WAVEfmt " + struct.pack("<I", 16) + fmt + b"data" + struct.pack("<I", len(data)) + data
    return b"RIFF" + struct.pack("<I", len(body)) + body + b"\0" * (len(data) % 2)


wavs = st.builds(
    wav,
    st.sampled_from(list(ENCODINGS)),
    st.sampled_from([1_000, 8_000, 11_025, 44_100, 48_000, 96_000, 192_000, 768_000]),
    st.integers(1, 6) | st.just(64),
    st.lists(extremes | st.floats(-1, 1), min_size=1, max_size=400),
)


def looked_at(client: TestClient, job: Json) -> Json:
    """The job when everything in it was measured, or is said to be none that can be."""

    def look() -> Json | None:
        answer = client.get(f"/api/jobs/{job['id']}")
        assert answer.status_code == 200, answer.text
        view: Json = numbers_only(answer.text)
        return view if all(source["measured"] or source["problem"] for source in view["sources"]) else None

    return until(look)


@settings(max_examples=40)
@given(content=wavs | st.binary(max_size=300), other=wavs)
def test_a_job_is_readable_after_any_upload(client: TestClient, content: bytes, other: bytes) -> None:
    job = client.post("/api/jobs", json={"name": "Anything"}).json()
    base = f"/api/jobs/{job['id']}"
    for name, data in (("x_L.wav", content), ("x_R.wav", other), ("y.wav", other)):
        taken = client.post(f"{base}/sources", params={"name": name}, content=data)
        assert taken.status_code in (201, 415, 422), taken.text
    view = looked_at(client, job)
    for source in view["sources"]:
        details = client.get(f"{base}/sources/{source['id']}")
        assert details.status_code == 200, details.text
        numbers_only(details.text)
        frames = source["frames"]
        query = {"clip": source["ref"], "start": 0, "frames": min(frames, 50)}
        heard = client.get(f"{base}/revisions/{view['head']}/samples", params=query)
        assert np.isfinite(np.frombuffer(heard.content, "<f4")).all()
        shown = {"clip": source["ref"], "start": 0, "per": 1024, "bins": 4}
        for picture in ("waveform", "correlation"):
            drawn = client.get(f"{base}/revisions/{view['head']}/{picture}", params=shown)
            assert np.isfinite(np.frombuffer(drawn.content, "<f4")).all()
        if source["channels"] <= 2:
            numbers_only(client.get(f"{base}/revisions/{view['head']}/analysis", params=query).text)
        if source["channels"] == 2:
            numbers_only(
                client.get(f"{base}/revisions/{view['head']}/expectation", params={"clip": source["ref"]}).text
            )
            answer = client.get(f"{base}/revisions/{view['head']}/map", params=query)
            assert np.isfinite(np.frombuffer(answer.content, "<f4")).all()
    client.delete(base)


@pytest.mark.parametrize("size", [1e6, 1e5, 0.9])
def test_the_loudest_floats_that_are_no_damage_go_through_everything(
    client: TestClient, job: Json, size: float
) -> None:
    """Full blocks of the largest samples that are taken: spectra, field, map and centre stay numbers."""
    rng = np.random.default_rng(1)
    samples = (size * np.sign(rng.standard_normal(2 * 96_000))).tolist()
    client.post(f"/api/jobs/{job['id']}/sources", params={"name": "loud.wav"}, content=wav("f32", 48_000, 2, samples))
    view = looked_at(client, job)
    ref = view["sources"][0]["ref"]
    view = add(client, job, "centre", [ref], keep="both")
    view = add(client, job, "level", [ref], gains_db=[48])
    at = f"/api/jobs/{job['id']}/revisions/{view['head']}"
    for clip in (ref, *view["ends"]):
        query = {"clip": clip, "start": 0, "frames": 96_000}
        for what in ("samples", "map"):
            found = client.get(f"{at}/{what}", params=query)
            assert np.isfinite(np.frombuffer(found.content, "<f4")).all(), (clip, what)
        for what in ("analysis", "measures"):
            answer = client.get(f"{at}/{what}", params=query)
            assert answer.status_code == 200
            numbers_only(answer.text)


def test_four_levels_of_48_db_can_be_measured(client: TestClient, job: Json) -> None:
    content = wav("s16", 48_000, 2, [0.5, -0.25] * 2_000)
    client.post(f"/api/jobs/{job['id']}/sources", params={"name": "up.wav"}, content=content)
    view = looked_at(client, job)
    ref = view["sources"][0]["ref"]
    for _ in range(4):
        view = add(client, job, "level", [ref], gains_db=[48])
        ref = view["steps"][-1]["outputs"][0]["ref"]
    answer = client.get(f"/api/jobs/{job['id']}/revisions/{view['head']}/measures", params={"clip": ref})
    assert answer.status_code == 200
    assert numbers_only(answer.text)["measures"]["whole"]["peak_dbfs"] == 120
