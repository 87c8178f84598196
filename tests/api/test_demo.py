"""The demo's job, made while the application runs."""

import shutil
from collections.abc import Sequence
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from support.helpers import noise, write_wav
from support.waiting import until
from wedge_turn.demo import job as demo_job
from wedge_turn.demo.files import RECORDINGS

NAMES = [name for recording in RECORDINGS for name in recording.names]


@pytest.fixture
def quick(monkeypatch: pytest.MonkeyPatch) -> None:
    """The same names with short sounds: how the demo sounds is tested elsewhere."""

    def write(folder: Path, on_progress: object) -> Sequence[Path]:
        first = write_wav(folder / f"{NAMES[0]}.wav", noise(1, 1_000, 1))
        others = [Path(shutil.copy(first, folder / f"{name}.wav")) for name in NAMES[1:]]
        assert callable(on_progress)
        on_progress(0.5)
        return [first, *others]

    monkeypatch.setattr(demo_job, "write_demo_files", write)


@pytest.mark.usefixtures("quick")
def test_the_demo_is_made_once_and_again_after_it_was_deleted(client: TestClient) -> None:
    assert client.get("/api/demo").json() == {"state": "none", "progress": 0, "job": None}
    made = []
    for _ in range(2):
        assert client.post("/api/demo").status_code == 202
        made.append(until(lambda: client.get("/api/demo").json()["job"]))
    assert made[0] == made[1]
    job = client.get(f"/api/jobs/{made[0]}").json()
    assert (job["name"], len(job["sources"]), len(job["steps"])) == ("Kettle Island Light", len(NAMES), 2)
    client.delete(f"/api/jobs/{made[0]}")
    client.post("/api/demo")
    again = until(lambda: (demo := client.get("/api/demo").json())["state"] == "ready" and demo["job"])
    assert again != made[0]


def test_a_demo_that_cannot_be_made_says_so_and_can_be_tried_again(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fail(*_: object) -> Sequence[Path]:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(demo_job, "write_demo_files", fail)
    client.post("/api/demo")
    assert until(lambda: client.get("/api/demo").json()["state"] == "failed")
    assert client.post("/api/demo").json()["state"] == "making"
    assert client.get("/api/jobs").json() == []
