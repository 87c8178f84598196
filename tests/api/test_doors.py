"""Who may ask what: hosts, origins, sizes; every failure is a Problem; nothing comes from outside."""

import json
import re
import sqlite3
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from support.asking import add, send
from support.helpers import Json, noise, write_wav
from wedge_turn.api.app import create_app
from wedge_turn.api.doors import MAX_BODY_BYTES
from wedge_turn.store import Store
from wedge_turn.store.media import Media


@pytest.mark.parametrize(
    "host", ["evil.example", "evil.example:8470", "127.0.0.1.evil.example", "", "[::2]:8470", "10.0.0.7"]
)
def test_other_hosts_are_refused(client: TestClient, host: str) -> None:
    """A name that somebody else lets point here (DNS rebinding), also with an Origin to match."""
    for method in ("GET", "POST"):
        answer = client.request(method, "/api/jobs", headers={"Host": host, "Origin": f"http://{host}"})
        assert (answer.status_code, answer.json()["code"]) == (421, "other-host")


@pytest.mark.parametrize("host", ["127.0.0.1", "127.0.0.1:8470", "localhost:8470", "[::1]:8470", "LOCALHOST"])
def test_its_own_hosts_are_served(client: TestClient, host: str) -> None:
    assert client.get("/api/health", headers={"Host": host}).status_code == 200


def test_beyond_this_machine_addresses_are_served_and_foreign_names_are_not(tmp_path: Path) -> None:
    app = create_app(Store(tmp_path / "data"), "0.0.0.0")
    with TestClient(app, base_url="http://192.168.7.9:8470") as client:
        assert client.get("/api/health").status_code == 200
        assert client.get("/api/health", headers={"Host": "evil.example"}).status_code == 421


@pytest.mark.parametrize(
    "headers",
    [
        {"Origin": "https://elsewhere.example"}, {"Origin": "null"}, {"Origin": "evil://127.0.0.1"},
        {"Origin": "http://127.0.0.1:9999"}, {"Sec-Fetch-Site": "cross-site"}, {"Sec-Fetch-Site": "same-site"},
    ],
)  # fmt: skip
def test_other_pages_cannot_write_even_without_an_origin(client: TestClient, headers: dict[str, str]) -> None:
    answer = client.post("/api/jobs", json={"name": "x"}, headers=headers)
    assert (answer.status_code, answer.json()["code"]) == (403, "other-site")
    assert client.get("/api/jobs").json() == []


def test_own_pages_and_scripts_may_write(client: TestClient) -> None:
    for headers in ({"Origin": "http://127.0.0.1", "Sec-Fetch-Site": "same-origin"}, {}):
        assert client.post("/api/jobs", json={"name": "x"}, headers=headers).status_code == 201


def test_bodies_are_bounded_whether_they_say_their_length_or_not(client: TestClient) -> None:
    deep = b"[" * (MAX_BODY_BYTES + 1)

    def chunks() -> Iterator[bytes]:
        for at in range(0, len(deep), 65_536):
            yield deep[at : at + 65_536]

    started = time.monotonic()
    for body in (deep, chunks()):
        answer = client.post("/api/jobs", content=body, headers={"Content-Type": "application/json"})
        assert (answer.status_code, answer.json()["code"]) == (413, "too-large")
    # What a request says of its content opens nothing: where it goes does.
    for path in ("/api/session", "/api/recipes/import", "/api/jobs"):
        answer = client.post(path, content=deep, headers={"Content-Type": "application/offset+octet-stream"})
        assert (answer.status_code, answer.json()["code"]) == (413, "too-large")
    shallow = client.post(
        "/api/jobs", content=deep[: MAX_BODY_BYTES // 2], headers={"Content-Type": "application/json"}
    )
    assert shallow.status_code in (400, 422)
    assert time.monotonic() - started < 30


@pytest.mark.parametrize("name", ["\ud800", "a\ud800b", "x" * 201, "a\0b", "tab\there"])
def test_names_of_results_are_text_and_bounded(client: TestClient, job: Json, tmp_path: Path, name: str) -> None:
    source = send(client, job, write_wav(tmp_path / "w.wav", noise(1, 10, 2)))
    step = {"turn": {"kind": "swap"}, "inputs": [source["ref"]], "names": [name]}
    body = json.dumps({"base": job["head"], "steps": [step]})
    answer = client.post(f"/api/jobs/{job['id']}/steps", content=body, headers={"Content-Type": "application/json"})
    assert answer.status_code == 422
    assert client.get(f"/api/jobs/{job['id']}").json()["steps"] == []
    renamed = client.patch(
        f"/api/jobs/{job['id']}", content=json.dumps({"name": name}), headers={"Content-Type": "application/json"}
    )
    assert renamed.status_code == 422 or name == "tab\there"


def test_references_that_are_not_sources_are_refused_where_sources_are_meant(
    client: TestClient, job: Json, tmp_path: Path
) -> None:
    source = send(client, job, write_wav(tmp_path / "w.wav", noise(1, 10, 2)))
    view = add(client, job, "swap", [source["ref"]])
    step = view["steps"][0]["outputs"][0]["ref"]
    archive = {"base": view["head"], "refs": [step], "archived": True}
    pair = {"base": view["head"], "members": [step, source["ref"]]}
    assert client.post(f"/api/jobs/{job['id']}/archive", json=archive).status_code == 404
    assert client.post(f"/api/jobs/{job['id']}/pairings", json=pair).status_code == 404
    twice = {"revision": view["head"], "refs": [step, step]}
    assert client.post(f"/api/jobs/{job['id']}/deliveries", json=twice).json()["code"] == "bad-request"


def test_every_answer_has_its_security_headers(client: TestClient) -> None:
    for path in ("/", "/api/health", "/api/nothing", "/api/docs"):
        headers = client.get(path).headers
        assert headers["X-Content-Type-Options"] == "nosniff"
        assert headers["Referrer-Policy"] == "no-referrer"
        policy = headers["Content-Security-Policy"]
        assert "default-src 'self'" in policy
        assert "frame-ancestors 'none'" in policy
        assert "script-src" not in policy  # so that no script is let in but its own files
        assert not re.search(r"https?:", policy)


def test_the_documentation_of_the_api_needs_nothing_from_outside(client: TestClient) -> None:
    page = client.get("/api/docs").text
    assert "/api/jobs/{job_id}/steps" in page
    assert not re.search(r"(src|href)=\"(https?:)?//", page)
    assert "<script" not in page


@pytest.mark.parametrize(
    ("method", "path"), [("PUT", "/api/jobs"), ("DELETE", "/api/health"), ("PATCH", "/api/events")]
)
def test_a_method_that_a_path_does_not_take_is_named_as_that(client: TestClient, method: str, path: str) -> None:
    answer = client.request(method, path)
    assert (answer.status_code, answer.json()["code"]) == (405, "method-not-allowed")
    assert answer.headers["Allow"]
    assert client.get("/api/nothing/at/all").status_code == 404


@pytest.mark.parametrize(
    ("error", "status", "code"),
    [
        (OSError(28, "No space left on device"), 507, "disk-full"),
        (sqlite3.OperationalError("database or disk is full"), 507, "disk-full"),
        (PermissionError(13, "Permission denied", "/secret/place/file"), 500, "error"),
        (ZeroDivisionError("inner part at 0x7f00"), 500, "error"),
    ],
)
def test_an_internal_error_reveals_no_details(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, error: Exception, status: int, code: str
) -> None:
    """Whatever raises it: the disk, the database, or a mistake of ours."""
    with TestClient(
        create_app(Store(tmp_path / "data")), base_url="http://127.0.0.1", raise_server_exceptions=False
    ) as client:
        job = client.post("/api/jobs", json={"name": "Lamp"}).json()
        send(client, job, write_wav(tmp_path / "w.wav", noise(1, 10, 2)))

        def broken(*_: object) -> None:
            raise error

        monkeypatch.setattr(Media, "problem", broken)
        answer = client.get(f"/api/jobs/{job['id']}")
        assert (answer.status_code, answer.json()["code"]) == (status, code)
        assert "0x7f00" not in answer.text
        assert "/secret/place" not in answer.text


def test_unknown_upload_ids_are_not_found(client: TestClient) -> None:
    for upload_id in ("x" * 300, "0" * 32, "..%2F..%2Fwedge-turn"):
        assert client.head(f"/api/uploads/{upload_id}").status_code == 404
        assert client.delete(f"/api/uploads/{upload_id}").status_code == 404


def test_the_list_of_jobs_is_there_while_jobs_come_and_go(client: TestClient) -> None:
    """One query answers it: a job that is deleted meanwhile takes no other with it."""
    from threading import Thread

    def come_and_go() -> None:
        for n in range(30):
            created = client.post("/api/jobs", json={"name": f"job {n}"}).json()
            client.delete(f"/api/jobs/{created['id']}")

    thread = Thread(target=come_and_go)
    thread.start()
    while thread.is_alive():
        assert client.get("/api/jobs").status_code == 200
    thread.join()
