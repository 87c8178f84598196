"""A server that other machines reach asks for its password: who has not said it is answered nothing."""

import contextlib
import http.client
import os
import ssl
import subprocess
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
import trustme
from fastapi.testclient import TestClient

from support.serving import COMMAND, served
from support.shell import run
from support.waiting import PATIENCE
from wedge_turn.api import tries
from wedge_turn.api.app import ROUTERS, create_app
from wedge_turn.api.context import HASHED_AT_ONCE
from wedge_turn.api.tries import LoginThrottle
from wedge_turn.core.errors import BadRequestError, TooManyTriesError
from wedge_turn.store import Store

WORD = "seven lamps on a quay"


@pytest.fixture
def store(tmp_path: Path) -> Store:
    kept = Store(tmp_path / "data")
    kept.access.set_password(WORD)
    return kept


@pytest.fixture
def guarded(store: Store) -> Iterator[TestClient]:
    with TestClient(create_app(store, "0.0.0.0", guarded=True), base_url="http://192.168.4.7") as client:
        yield client


def sign_in(client: TestClient, password: str = WORD) -> int:
    return client.post("/api/session", json={"password": password}).status_code


def test_nothing_of_the_api_is_answered_without_the_password(guarded: TestClient) -> None:
    """Every route, and paths that are none: what there is, is not to be found out either."""
    asked = 0
    for router in ROUTERS:
        for route in router.routes:
            path = getattr(route, "path", "")
            if path in ("/api/session", "/api/health"):
                continue
            for method in getattr(route, "methods", None) or ():
                answer = guarded.request(method, path.replace("{", "").replace("}", ""))
                assert answer.status_code == 401
                assert method == "HEAD" or answer.json()["code"] == "sign-in"
                asked += 1
    assert asked > 50
    assert guarded.get("/api/openapi.json").status_code == 401
    health = guarded.get("/api/health").json()
    assert (health["free"], health["waiting"]) == (None, None), "no more than whether it is there"


def test_signing_in_opens_and_signing_out_closes(guarded: TestClient) -> None:
    assert guarded.get("/api/session").json() == {"needed": True, "signed_in": False}
    answer = guarded.post("/api/session", json={"password": WORD})
    cookie = answer.headers["set-cookie"].lower()
    assert answer.status_code == 204
    assert {"httponly", "samesite=strict", "path=/"} <= set(cookie.split("; "))
    assert "secure" not in cookie, "there is no TLS here"
    assert guarded.get("/api/jobs").status_code == 200
    assert guarded.get("/api/session").json() == {"needed": True, "signed_in": True}
    token = guarded.cookies["wedge-turn"]
    assert guarded.delete("/api/session").status_code == 204
    assert guarded.get("/api/jobs").status_code == 401
    guarded.cookies.set("wedge-turn", token)
    assert guarded.get("/api/jobs").status_code == 401, "a cookie that was kept is worth nothing"


def test_over_tls_the_cookie_is_for_tls_alone(store: Store) -> None:
    with TestClient(create_app(store, "0.0.0.0", guarded=True), base_url="https://192.168.4.7") as client:
        assert "secure" in client.post("/api/session", json={"password": WORD}).headers["set-cookie"].lower()


def test_a_wrong_password_is_refused_and_too_many_are_not_even_looked_at(
    guarded: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    looked = 0
    real = guarded.app.state.context.store.access.is_password  # type: ignore[attr-defined]

    def counting(password: str) -> bool:
        nonlocal looked
        looked += 1
        return bool(real(password))

    monkeypatch.setattr(guarded.app.state.context.store.access, "is_password", counting)  # type: ignore[attr-defined]
    assert [sign_in(guarded, f"wrong {n}") for n in range(tries.TRIES)] == [403] * tries.TRIES
    assert (sign_in(guarded), looked) == (429, tries.TRIES)
    assert guarded.post("/api/session", json={"password": "x" * 2_000}).status_code == 422


def test_tries_are_counted_by_address_and_in_all_and_forgotten_after_a_minute() -> None:
    now = 0.0
    counted = LoginThrottle(lambda: now)
    counted.was_right(counted.begin("known"))
    for _ in range(tries.TRIES):
        counted.begin("a")
    with pytest.raises(TooManyTriesError):
        counted.begin("a")
    for n in range(tries.MAX_ATTEMPTS - tries.TRIES):
        counted.begin(f"other {n}")
    with pytest.raises(TooManyTriesError):
        counted.begin("b")
    for _ in range(tries.TRIES):
        counted.begin("known")  # others' wrong passwords keep nobody out who has said the right one
    with pytest.raises(TooManyTriesError):
        counted.begin("known")
    now = tries.WINDOW + 0.1
    counted.begin("a")


def test_many_wrong_passwords_at_once_are_no_more_than_one_after_the_other(
    guarded: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    looked, at_once, most = 0, 0, 0
    lock = threading.Lock()

    def slow(_: str) -> bool:
        nonlocal looked, at_once, most
        with lock:
            looked, at_once = looked + 1, at_once + 1
            most = max(most, at_once)
        time.sleep(0.05)
        with lock:
            at_once -= 1
        return False

    monkeypatch.setattr(guarded.app.state.context.store.access, "is_password", slow)  # type: ignore[attr-defined]
    with ThreadPoolExecutor(20) as pool:
        answers = list(pool.map(lambda n: sign_in(guarded, f"wrong {n}"), range(40)))
    assert looked == tries.TRIES
    assert sorted(answers) == [403] * tries.TRIES + [429] * (40 - tries.TRIES)
    assert most <= HASHED_AT_ONCE


def test_an_older_cookie_beside_the_right_one_locks_nobody_out(guarded: TestClient) -> None:
    assert sign_in(guarded) == 204
    token = guarded.cookies["wedge-turn"]
    guarded.cookies.clear()
    for cookies in (f"wedge-turn={token}; wedge-turn=old", f"wedge-turn=old; other=1; wedge-turn={token}"):
        assert guarded.get("/api/jobs", headers={"Cookie": cookies}).status_code == 200
    assert guarded.get("/api/jobs", headers={"Cookie": f"x{token}; wedge-turn=old"}).status_code == 401
    assert guarded.get("/api", follow_redirects=False).status_code == 401


def test_what_happens_is_told_no_longer_to_who_has_signed_out(tmp_path: Path) -> None:
    """On a real server: what a stream tells arrives as it happens."""
    kept = Store(tmp_path / "data")
    kept.access.set_password(WORD)
    token, other = kept.access.sign_in(), kept.access.sign_in()
    kept.close()
    with served(tmp_path / "data", "--host", "0.0.0.0") as port, contextlib.ExitStack() as closing:

        def ask(method: str, path: str, who: str, body: bytes | None = None) -> http.client.HTTPResponse:
            connection = closing.enter_context(
                contextlib.closing(http.client.HTTPConnection("127.0.0.1", port, timeout=PATIENCE))
            )
            headers = {"Cookie": f"wedge-turn={who}", "Content-Type": "application/json"}
            connection.request(method, path, body, headers)
            return connection.getresponse()

        stream = ask("GET", "/api/events", token)
        lines = (line for line in stream if line.startswith(b"event:"))
        assert next(lines) == b"event: hello\n"
        assert ask("DELETE", "/api/session", token).status == 204
        assert ask("POST", "/api/jobs", other, b'{"name": "Lamp"}').status == 201
        assert list(lines) == [b"event: signed-out\n"]


def test_a_changed_password_signs_everybody_out(store: Store, tmp_path: Path) -> None:
    token = store.access.sign_in()
    store.close()
    again = Store(tmp_path / "data")
    assert again.access.is_signed_in(token), "a restart signs nobody out"
    again.access.set_password("another one, as long")
    assert not again.access.is_signed_in(token)
    assert not again.access.is_password(WORD)
    assert again.access.is_password("another one, as long")
    with pytest.raises(BadRequestError, match="10 to 1,000 characters"):
        again.access.set_password("short")
    again.close()


def test_what_is_stored_lets_nobody_in(store: Store, tmp_path: Path) -> None:
    token = store.access.sign_in()
    store.close()
    content = b"".join(path.read_bytes() for path in (tmp_path / "data").glob("*.sqlite3*"))
    assert WORD.encode() not in content
    assert token.encode() not in content
    assert b"$argon2id$" in content


def test_on_this_machine_alone_nobody_is_asked(client: TestClient) -> None:
    assert client.get("/api/session").json() == {"needed": False, "signed_in": False}
    assert client.get("/api/jobs").status_code == 200


def test_beyond_this_machine_it_does_not_serve_without_a_password(tmp_path: Path) -> None:
    done = run("serve", "--host", "0.0.0.0", "--port", "0", "--data", tmp_path / "data")
    assert (done.returncode, "no password is set" in done.stderr) == (1, True)


def test_tls_and_a_password_from_the_environment(tmp_path: Path) -> None:
    authority = trustme.CA()
    certificate = authority.issue_cert("127.0.0.1")
    pem, key = tmp_path / "it.pem", tmp_path / "it.key"
    certificate.cert_chain_pems[0].write_to_path(pem)
    certificate.private_key_pem.write_to_path(key)
    command = [str(COMMAND), "serve", "--host", "0.0.0.0", "--port", "0", "--data", str(tmp_path / "data")]
    command += ["--certificate", str(pem), "--key", str(key)]
    environment = {**os.environ, "WEDGE_TURN_PASSWORD": WORD}
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=environment) as server:
        try:
            assert server.stdout is not None
            line = server.stdout.readline()
            assert "https://0.0.0.0:" in line
            port = int(line.split("0.0.0.0:")[1].split("/")[0])
            trusting = ssl.create_default_context()
            authority.configure_trust(trusting)
            with pytest.raises(urllib.error.HTTPError, match="401"):
                urllib.request.urlopen(f"https://127.0.0.1:{port}/api/jobs", context=trusting)
        finally:
            server.terminate()


def test_a_file_may_be_as_large_as_the_server_takes(tmp_path: Path) -> None:
    small = create_app(Store(tmp_path / "data"), largest_file=1_000_000)
    with TestClient(small, base_url="http://127.0.0.1") as client:
        job = client.post("/api/jobs", json={"name": "Lamp"}).json()["id"]
        whole = client.post(f"/api/jobs/{job}/sources?name=a.wav", content=b"x" * 1_000_001)
        assert (whole.status_code, whole.json()["code"]) == (413, "too-large")
        counted = client.post(f"/api/jobs/{job}/sources?name=a.wav", content=iter([b"x" * 600_000] * 2))
        assert (counted.status_code, counted.json()["message"]) == (413, "This server takes files of up to 0.001 GB")
        told = {"Tus-Resumable": "1.0.0", "Upload-Length": "1000001", "Upload-Metadata": ""}
        announced = client.post(f"/api/jobs/{job}/uploads", headers=told)
        assert announced.status_code == 413
        assert list((tmp_path / "data" / "arriving").iterdir()) == []
