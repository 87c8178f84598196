"""Searches along time over HTTP: hushes, delays, blends, and lines that are limited to a range."""

from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from support.conversation import RATE, conversation
from support.helpers import Json, write_wav


@pytest.fixture
def talk(client: TestClient, tmp_path_factory: pytest.TempPathFactory) -> Json:
    """A job with a conversation in it, as the API shows it."""
    ints = np.rint(conversation(2, 12).samples * 2**22).astype(np.int64)
    file = write_wav(tmp_path_factory.mktemp("talk") / "talk.wav", ints)
    job = client.post("/api/jobs", json={"name": "Talk"}).json()
    client.post(f"/api/jobs/{job['id']}/sources?name=talk.wav", content=file.read_bytes())
    shown: Json = client.get(f"/api/jobs/{job['id']}").json()
    return shown


def asked(client: TestClient, job: Json, what: str, **query: object) -> Any:
    address = f"/api/jobs/{job['id']}/revisions/{job['head']}/{what}"
    params: Any = {"clip": job["sources"][0]["ref"], **query}
    return client.get(address, params=params).json()


def test_hushes_are_suggested_by_a_threshold_that_fits_or_is_given(client: TestClient, talk: Json) -> None:
    suggestion = asked(client, talk, "hushes")
    assert suggestion["hushes"]
    assert all(0 <= hush["start"] < hush["end"] <= 12 * RATE for hush in suggestion["hushes"])
    assert asked(client, talk, "hushes", threshold_db=40) == {"threshold_db": 40.0, "hushes": []}


def test_a_delay_and_a_blend_are_measured(client: TestClient, talk: Json) -> None:
    (late,) = asked(client, talk, "lateness")
    assert late["channel"] == 2
    assert len(late["curve"]) > 100
    blend = asked(client, talk, "blending", share=0.4, delay=3.5, flip=True)
    assert [band["hertz"] for band in blend["bands"]] == [63, 125, 250, 500, 1_000, 2_000, 4_000, 8_000]
    assert blend["best"]["confidence"] == late["confidence"]
    assert blend["best"]["delay"] == pytest.approx(-late["samples"], abs=0.25)


def test_a_line_is_limited_to_a_range_and_let_go_again(client: TestClient, talk: Json) -> None:
    line = {"turn": {"kind": "swap"}, "inputs": [talk["sources"][0]["ref"]], "over": {"start": "48000s", "end": 2.5}}
    job = client.post(f"/api/jobs/{talk['id']}/steps", json={"steps": [line], "base": talk["head"]}).json()
    (step,) = job["steps"]
    assert (step["verb"], step["takes_place"]) == ("swap, over a range", True)
    assert step["over"] == {"start": "48000s", "end": 2.5, "fade_ms": 10.0}
    assert "Only from 1.000 s to 2.500 s" in step["sentence"]
    address = f"/api/jobs/{talk['id']}/steps/{step['id']}"
    (step,) = client.patch(address, json={"over": None, "base": job["head"]}).json()["steps"]
    assert step["over"] is None
    assert step["exact"]
    refused = client.patch(
        address, json={"turn": {"kind": "trim"}, "over": {"start": 1, "end": 0.5}, "base": job["head"]}
    )
    assert refused.status_code in (409, 422)


def test_a_delivery_is_planned_and_refused_by_its_range(client: TestClient, talk: Json) -> None:
    line = {"turn": {"kind": "swap"}, "inputs": [talk["sources"][0]["ref"]]}
    job = client.post(f"/api/jobs/{talk['id']}/steps", json={"steps": [line], "base": talk["head"]}).json()
    address, order = f"/api/jobs/{job['id']}/deliveries", {"revision": job["head"]}

    def planned(**trim: Any) -> Json:
        asked = {**order, "range": {"kind": "trim", **trim}}
        (file,) = client.post(f"{address}/plan", json=asked).json()
        file["status"] = client.post(address, json=asked).status_code
        return dict(file)

    inside = planned(start="96000s", end=3.5)
    assert (inside["frames"], inside["outside"], inside["status"]) == (72_000, None, 202)
    assert inside["bytes"] < 72_000 * 6 + 1_000
    beyond = planned(start=60)
    assert beyond["outside"].startswith("talk is 12.000 s long (576,000 samples): the range starts at 60.000 s")
    assert beyond["status"] == 422
    assert planned(start=0, time="recorded")["outside"] == "talk has no timestamp"
    (delivery, *_) = client.get(address).json()
    assert delivery["range"] == {"kind": "trim", "start": "96000s", "end": 3.5, "time": "file"}
