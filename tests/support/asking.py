"""What tests ask of the API over HTTP: take a file in, add a turn, read numbers, wait for a delivery."""

from pathlib import Path

import numpy as np
from fastapi.testclient import TestClient

from support.helpers import Json
from support.waiting import until


def send(client: TestClient, job: Json, path: Path, name: str | None = None) -> Json:
    answer = client.post(
        f"/api/jobs/{job['id']}/sources", params={"name": name or path.name}, content=path.read_bytes()
    )
    assert answer.status_code == 201, answer.text
    source: Json = answer.json()
    return source


def add(client: TestClient, job: Json, kind: str, inputs: list[str], **settings: object) -> Json:
    head = client.get(f"/api/jobs/{job['id']}").json()["head"]
    body = {"base": head, "steps": [{"turn": {"kind": kind, **settings}, "inputs": inputs}]}
    answer = client.post(f"/api/jobs/{job['id']}/steps", json=body)
    assert answer.status_code == 201, answer.text
    after: Json = answer.json()
    return after


def go(client: TestClient, job: Json, where: str) -> Json:
    """Undo, redo, or restore a revision, from where the job is."""
    base = client.get(f"/api/jobs/{job['id']}").json()["head"]
    answer = client.post(f"/api/jobs/{job['id']}/{where}", params={"base": base})
    assert answer.status_code == 200, answer.text
    after: Json = answer.json()
    return after


def floats(client: TestClient, view: Json, what: str, **query: object) -> np.ndarray:
    answer = client.get(f"/api/jobs/{view['id']}/revisions/{view['head']}/{what}", params=query)  # type: ignore[arg-type]
    assert answer.status_code == 200, answer.text
    return np.frombuffer(answer.content, "<f4")


def finished(client: TestClient, delivery: Json) -> Json:

    def look() -> Json | None:
        now: Json = client.get(f"/api/deliveries/{delivery['id']}").json()
        return now if now["state"] not in ("waiting", "writing") else None

    return until(look)
