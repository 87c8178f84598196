"""Uploads that survive a lost connection, as an independent client of the tus protocol sees them (tuspy)."""

import base64
import errno
import os
import socket
import threading
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from tusclient.client import TusClient

from support.helpers import Json, kept_files, left_behind, noise, write_wav
from support.serving import asked, job_on, served
from support.waiting import PATIENCE, until
from wedge_turn.store.media import ImportedFile, Media
from wedge_turn.store.uploads import Arrived

TUS = {"Tus-Resumable": "1.0.0"}


def encoded_metadata(name: str, folder: str = "") -> str:
    return ",".join(f"{key} {base64.b64encode(value.encode()).decode()}" for key, value in
                    (("filename", name), ("folder", folder)) if value)  # fmt: skip


def announce(client: TestClient, job: Json, name: str, size: int, **more: str) -> str:
    headers = {**TUS, "Upload-Length": str(size), "Upload-Metadata": encoded_metadata(name, more.get("folder", ""))}
    answer = client.post(f"/api/jobs/{job['id']}/uploads", headers=headers)
    assert answer.status_code == 201, answer.text
    return answer.headers["location"]


def send(client: TestClient, location: str, offset: int, data: bytes):  # type: ignore[no-untyped-def]
    headers = {**TUS, "Upload-Offset": str(offset), "Content-Type": "application/offset+octet-stream"}
    return client.patch(location, content=data, headers=headers)


def test_an_independent_client_uploads_in_chunks_and_resumes(tmp_path: Path) -> None:
    path = write_wav(tmp_path / "quay.wav", noise(1, 200_000, 2))
    with served(tmp_path / "data") as port:
        job = job_on(port)
        tus = TusClient(f"http://127.0.0.1:{port}/api/jobs/{job}/uploads")
        with path.open("rb") as file:
            told_ = {"filename": "quay.wav", "folder": "day 1"}
            first = tus.uploader(file_stream=file, chunk_size=400_000, metadata=told_)
            first.upload_chunk()  # type: ignore[no-untyped-call]
        assert asked(port, "GET", f"/api/jobs/{job}/uploads")[1][0]["offset"] == 400_000
        with path.open("rb") as file:
            again = tus.uploader(file_stream=file, chunk_size=400_000, url=first.url)
            assert again.offset == 400_000
            again.upload()
        (source,) = asked(port, "GET", f"/api/jobs/{job}")[1]["sources"]
        assert (source["file"], source["folder"], source["frames"]) == ("quay.wav", "day 1", 200_000)
        assert asked(port, "GET", f"/api/jobs/{job}/uploads")[1] == []


def test_uploaded_bytes_survive_a_lost_connection_and_a_restart(tmp_path: Path) -> None:
    content = write_wav(tmp_path / "w.wav", noise(1, 500_000, 2)).read_bytes()
    with served(tmp_path / "data") as port:
        job = job_on(port)
        with socket.create_connection(("127.0.0.1", port)) as connection:
            head = (
                f"POST /api/jobs/{job}/uploads HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: {len(content)}\r\n"
                f"Upload-Length: {len(content)}\r\nUpload-Metadata: {encoded_metadata('w.wav')}\r\n"
                "Tus-Resumable: 1.0.0\r\n"
                "Content-Type: application/offset+octet-stream\r\n\r\n"
            )
            connection.sendall(head.encode() + content[:1_500_000])
        until(lambda: [upload["offset"] for upload in asked(port, "GET", f"/api/jobs/{job}/uploads")[1]] == [1_500_000])
    with served(tmp_path / "data") as port:
        (upload,) = asked(port, "GET", f"/api/jobs/{job}/uploads")[1]
        assert (upload["name"], upload["offset"]) == ("w.wav", 1_500_000)
        with (tmp_path / "w.wav").open("rb") as file:
            address = f"http://127.0.0.1:{port}/api/uploads/{upload['id']}"
            TusClient("").uploader(file_stream=file, url=address).upload()
        assert [s["frames"] for s in asked(port, "GET", f"/api/jobs/{job}")[1]["sources"]] == [500_000]


def test_offsets_that_do_not_fit_are_refused_and_nothing_is_lost(client: TestClient, job: Json, tmp_path: Path) -> None:
    content = write_wav(tmp_path / "w.wav", noise(1, 1_000, 1)).read_bytes()
    location = announce(client, job, "w.wav", len(content))
    assert send(client, location, 5, content[5:]).status_code == 409
    assert send(client, location, 0, content[:100]).headers["upload-offset"] == "100"
    head = client.head(location)
    assert (head.headers["upload-offset"], head.headers["upload-length"]) == ("100", str(len(content)))
    done = send(client, location, 100, content[100:])
    assert done.status_code == 204
    (source,) = client.get(f"/api/jobs/{job['id']}").json()["sources"]
    assert source["id"] == done.headers["wedge-turn-source"]
    # Whoever lost the last answer asks again, and is told the same.
    asked = client.head(location)
    assert asked.headers["upload-offset"] == asked.headers["upload-length"] == str(len(content))
    assert asked.headers["wedge-turn-source"] == source["id"]
    assert send(client, location, len(content), b"").status_code == 404


def test_an_empty_file_is_refused_by_its_name(client: TestClient, job: Json) -> None:
    told = {**TUS, "Upload-Length": "0", "Upload-Metadata": encoded_metadata("lamp.wav")}
    answer = client.post(f"/api/jobs/{job['id']}/uploads", headers=told)
    assert (answer.status_code, answer.json()["message"]) == (415, "lamp.wav is empty: 0 bytes")


def test_a_refused_upload_is_a_problem_and_discarded(client: TestClient, job: Json, tmp_path: Path) -> None:
    location = announce(client, job, "notes.wav", 11)
    answer = send(client, location, 0, b"not a sound")
    assert (answer.status_code, answer.json()["code"]) == (415, "not-audio")
    assert "notes.wav" in answer.json()["message"]
    too_much = announce(client, job, "w.wav", 10)
    assert send(client, too_much, 0, b"x" * 11).json()["code"] == "bad-request"
    given_up = announce(client, job, "w.wav", 10)
    assert client.delete(given_up).status_code == 204
    assert kept_files(tmp_path / "data") == []
    for metadata in ("filename !!!", encoded_metadata("../..")):
        headers = {**TUS, "Upload-Length": "10", "Upload-Metadata": metadata}
        assert client.post(f"/api/jobs/{job['id']}/uploads", headers=headers).status_code == 422


def test_the_same_file_again_is_recognised_by_its_content(client: TestClient, job: Json, tmp_path: Path) -> None:
    content = write_wav(tmp_path / "w.wav", noise(1, 1_000, 1)).read_bytes()
    ids = [
        send(client, announce(client, job, name, len(content), folder=folder), 0, content).headers["wedge-turn-source"]
        for name, folder in (("w.wav", ""), ("w.wav", ""), ("w.wav", "b"), ("v.wav", ""))
    ]
    assert ids[0] == ids[1]
    assert len(set(ids)) == len(client.get(f"/api/jobs/{job['id']}").json()["sources"]) == 3
    assert len(left_behind(tmp_path / "data" / "media")) == 1


def test_a_repeated_last_chunk_is_refused_during_intake(
    client: TestClient, job: Json, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """As a client does whose answer got lost: the file is taken in once."""
    content = write_wav(tmp_path / "w.wav", noise(1, 1_000, 1)).read_bytes()
    location = announce(client, job, "w.wav", len(content))
    taking, go_on, real = threading.Event(), threading.Event(), Media.import_file

    def slow(self: Media, arrived: Arrived) -> ImportedFile:
        taking.set()
        go_on.wait(PATIENCE)
        return real(self, arrived)

    monkeypatch.setattr(Media, "import_file", slow)
    answers: list[int] = []
    first = threading.Thread(target=lambda: answers.append(send(client, location, 0, content).status_code))
    first.start()
    assert taking.wait(PATIENCE)
    for offset in (0, len(content)):
        again = send(client, location, offset, content[offset:])
        assert (again.status_code, again.json()["code"]) == (409, "conflict")
    go_on.set()
    first.join()
    assert answers == [204]
    assert len(client.get(f"/api/jobs/{job['id']}").json()["sources"]) == 1


def test_an_upload_resumes_after_a_full_disk(
    client: TestClient, job: Json, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    content = write_wav(tmp_path / "w.wav", noise(1, 1_000, 1)).read_bytes()
    location = announce(client, job, "w.wav", len(content))
    send(client, location, 0, content[:900])
    real = os.write

    def full(fd: int, data: bytes) -> int:
        if len(data) > 500:
            raise OSError(errno.ENOSPC, "No space left on device")
        return real(fd, data)

    with monkeypatch.context() as patch:
        patch.setattr(os, "write", full)
        refused = send(client, location, 900, content[900:])
    assert (refused.status_code, refused.json()["code"]) == (507, "disk-full")
    offset = int(client.head(location).headers["upload-offset"])
    assert offset == 900
    assert send(client, location, offset, content[offset:]).status_code == 204


def test_an_upload_into_a_job_that_is_deleted_is_answered_and_leaves_nothing(
    client: TestClient, job: Json, tmp_path: Path
) -> None:
    content = write_wav(tmp_path / "w.wav", noise(1, 1_000, 1)).read_bytes()
    location = announce(client, job, "w.wav", len(content))
    send(client, location, 0, content[:900])
    client.delete(f"/api/jobs/{job['id']}")
    assert send(client, location, 900, content[900:]).status_code == 404
    assert kept_files(tmp_path / "data") == []


def test_what_is_there_of_a_recording_that_broke_off_is_taken_where_it_is_asked_for(
    client: TestClient, job: Json, tmp_path: Path
) -> None:
    content = write_wav(tmp_path / "tide.wav", noise(1, 96_000, 2)).read_bytes()[:-192_000]
    refused = send(client, announce(client, job, "tide.wav", len(content)), 0, content)
    assert refused.status_code == 422
    assert refused.json()["code"] == "truncated"
    assert refused.json()["usable"] == "0:01.333 of 0:02.000"
    assert kept_files(tmp_path / "data") == []
    metadata = f"{encoded_metadata('tide.wav')},salvage {base64.b64encode(b'yes').decode()}"
    headers = {**TUS, "Upload-Length": str(len(content)), "Upload-Metadata": metadata}
    location = client.post(f"/api/jobs/{job['id']}/uploads", headers=headers).headers["location"]
    assert send(client, location, 0, content).status_code == 204
    (source,) = client.get(f"/api/jobs/{job['id']}").json()["sources"]
    assert source["frames"] == 64_000
    until(lambda: client.get(f"/api/jobs/{job['id']}").json()["sources"][0]["measured"])
    findings = client.get(f"/api/jobs/{job['id']}").json()["sources"][0]["findings"]
    assert "The file is incomplete: 0:01.333 of 0:02.000" in findings[0]["message"]
    (original,) = (tmp_path / "data" / "media").glob("*/*")
    assert original.read_bytes() == content
