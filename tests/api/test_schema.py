"""Whatever the API's own document allows to be asked, it answers as documented, and never with a fault of its own.

Requests are made up by Schemathesis from the document; half of them with names of things that are there, so that they
come past the door.
"""

from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import Any

import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import given, settings
from hypothesis import strategies as st
from schemathesis.core.result import Ok
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from support.asking import add, finished, send
from support.helpers import Json, quiet, write_wav
from wedge_turn.api.app import create_app, openapi
from wedge_turn.store import Store

EXAMPLES = 60 if settings.get_current_profile_name() == "searching" else 5
ENDLESS = "get /api/events"  # a stream for as long as its window is open
CHECKS = [
    schemathesis.checks.not_a_server_error,
    status_code_conformance,
    content_type_conformance,
    response_schema_conformance,
]


@cache
def operations() -> dict[str, Any]:
    schema = schemathesis.openapi.from_dict(openapi())
    found = list(schema.get_all_operations())
    readable = [result.ok() for result in found if isinstance(result, Ok)]
    assert len(readable) == len(found)
    return {f"{operation.method} {operation.path}": operation for operation in readable}


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    store = Store(tmp_path_factory.mktemp("schema") / "data")
    with TestClient(create_app(store), base_url="http://127.0.0.1", raise_server_exceptions=False) as opened:
        yield opened


@pytest.fixture(scope="module")
def made() -> list[Json]:
    return []


@pytest.fixture
def there(client: TestClient, made: list[Json], tmp_path: Path) -> Json:
    """Names of things that are there: those of the test before, unless it has deleted some."""
    last = made[-1] if made else {}
    kept = ("jobs/{job_id}/sources/{source_id}", "deliveries/{delivery_id}", "recipes/{recipe_id}")
    if not last or any(client.get(f"/api/{path.format(**last)}").status_code != 200 for path in kept):
        made.append(things(client, tmp_path))
    return made[-1]


def things(client: TestClient, folder: Path) -> Json:
    """A job with a file, a line and a delivery, and a recipe: names of what is there, by what a request calls
    them.
    """
    job: Json = client.post("/api/jobs", json={"name": "Lamp"}).json()
    other: Json = client.post("/api/jobs", json={"name": "Bell"}).json()
    source = send(client, job, write_wav(folder / "bell.wav", quiet(1, 2_000, 2)))
    view = add(client, job, "split", [source["ref"]])
    order = {"revision": view["head"]}
    delivery = finished(client, client.post(f"/api/jobs/{job['id']}/deliveries", json=order).json())
    line = view["steps"][0]["id"]
    lines = {"job": job["id"], "revision": view["head"], "steps": [line], "name": "Sides"}
    recipe: Json = client.post("/api/recipes", json=lines).json()
    return {
        "job_id": job["id"], "source_id": source["id"], "step_id": line, "revision_id": view["head"],
        "delivery_id": delivery["id"], "base": view["head"], "revision": view["head"], "since": view["head"],
        "clip": source["ref"], "inputs": [source["ref"]], "refs": [f"step:{line}:0"], "steps": [line],
        "sources": [source["id"]], "from_job": other["id"], "start": 0, "frames": 500, "per": 1, "bins": 100,
        "recipe_id": recipe["id"], "recipe": recipe["id"], "job": other["id"],
    }  # fmt: skip


def with_names(asked: Any, names: Json, called: str = "") -> Any:
    """A request in which what is called like something that is there is that thing."""
    if called in names and type(asked) is type(names[called]):
        return names[called]
    if isinstance(asked, dict):
        return {key: with_names(value, names, key) for key, value in asked.items()}
    return [with_names(value, names) for value in asked] if isinstance(asked, list) else asked


@pytest.mark.parametrize("name", [name for name in operations() if name != ENDLESS])
def test_every_answer_is_a_documented_one(name: str, client: TestClient, there: Json) -> None:
    operation = operations()[name]

    @settings(max_examples=EXAMPLES)
    @given(case=operation.as_strategy(), known=st.booleans())
    def answered(case: Any, known: bool) -> None:
        if known:
            head = client.get(f"/api/jobs/{there['job_id']}").json().get("head", "")
            names = {**there, "base": head, "revision": head}
            case.path_parameters = with_names(case.path_parameters, names)
            case.query, case.body = with_names(case.query, names), with_names(case.body, names)
        request = case.as_transport_kwargs(base_url="http://127.0.0.1")
        request.pop("cookies", None)
        content = request.pop("data", None)
        answer = client.request(**request, content=content)
        case.validate_response(answer, checks=CHECKS)

    answered()
