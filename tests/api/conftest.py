"""An application of its own, with one job, for each test over HTTP."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from support.helpers import Json
from wedge_turn.api.app import create_app
from wedge_turn.store import Store
from wedge_turn.tasks import measuring


@pytest.fixture
def client(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[TestClient]:
    monkeypatch.setattr(measuring, "DEBOUNCE_SECONDS", 0.02)
    with TestClient(create_app(Store(tmp_path / "data")), base_url="http://127.0.0.1") as opened:
        yield opened


@pytest.fixture
def job(client: TestClient) -> Json:
    created: Json = client.post("/api/jobs", json={"name": "Lamp"}).json()
    return created
