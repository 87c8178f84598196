"""What only a real server on a real socket shows: uploads that break off, a full disk, the event stream, a restart."""

import http.client
import json
import socket
import subprocess
from pathlib import Path

from helpers import left_behind, noise, write_wav
from serving import COMMAND, asked, job_on, served
from waiting import until


def stored_files(data: Path) -> list[str]:
    return [f for f in left_behind(data) if "sqlite3" not in f and f != "in-use"]


def test_an_interrupted_upload_leaves_nothing_behind_and_stops_no_other(tmp_path: Path) -> None:
    content = write_wav(tmp_path / "w.wav", noise(1, 500_000, 2)).read_bytes()
    with served(tmp_path / "data") as port:
        job = job_on(port)
        with socket.create_connection(("127.0.0.1", port)) as connection:
            request = f"POST /api/jobs/{job}/sources?name=w.wav HTTP/1.1"
            head = f"{request}\r\nHost: 127.0.0.1\r\nContent-Length: {len(content)}\r\n\r\n"
            connection.sendall(head.encode() + content[:1_500_000])
            until(lambda: stored_files(tmp_path / "data"))
        until(lambda: not stored_files(tmp_path / "data"))
        assert asked(port, "POST", f"/api/jobs/{job}/sources?name=w.wav", content)[0] == 201


def test_a_full_disk_is_reported_by_file_and_leaves_nothing_behind(tmp_path: Path) -> None:
    content = write_wav(tmp_path / "w.wav", noise(1, 500_000, 2)).read_bytes()
    with served(tmp_path / "data", largest_file=2_000_000) as port:
        job = job_on(port)
        status, problem = asked(port, "POST", f"/api/jobs/{job}/sources?name=w.wav", content)
        assert (status, problem["code"]) == (507, "disk-full")
        assert "w.wav" in str(problem["message"])
        assert stored_files(tmp_path / "data") == []
        assert asked(port, "POST", f"/api/jobs/{job}/sources?name=again.wav", content)[0] == 507
        small = write_wav(tmp_path / "s.wav", noise(1, 1_000, 2)).read_bytes()
        assert asked(port, "POST", f"/api/jobs/{job}/sources?name=s.wav", small)[0] == 201


def test_events_reach_other_windows(tmp_path: Path) -> None:
    with served(tmp_path / "data") as port:
        job = job_on(port)
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
        connection.request("GET", "/api/events")
        stream = connection.getresponse()
        assert stream.readline() == b"event: hello\n"
        asked(port, "PATCH", f"/api/jobs/{job}", b'{"name": "Stairs"}')
        lines = [stream.readline().decode() for _ in range(8)]
        assert "event: job-changed\n" in lines
        assert any(line.startswith("data:") and json.loads(line[5:]).get("job") == job for line in lines)
        connection.close()


def test_a_second_server_on_the_same_address_says_so(tmp_path: Path) -> None:
    with served(tmp_path / "data") as port:
        second = subprocess.run(
            [COMMAND, "serve", "--data", tmp_path / "other", "--port", str(port)],
            capture_output=True, text=True, timeout=60, check=False,
        )  # fmt: skip
    assert second.returncode == 1
    assert "is Wedge Turn running already?" in second.stderr
    assert second.stderr.count("\n") == 1
    assert not (tmp_path / "other").exists()


def test_a_server_that_is_ended_does_not_wait_for_open_windows(tmp_path: Path) -> None:
    """Their event streams end at once, and cleanly."""
    command = [str(COMMAND), "serve", "--port", "0", "--data", str(tmp_path / "data")]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True) as server:
        assert server.stdout is not None
        port = int(server.stdout.readline().split("/")[2].split(":")[1])
        stream = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        stream.request("GET", "/api/events")
        answer = stream.getresponse()
        assert answer.readline() == b"event: hello\n"
        server.terminate()
        answer.read()
        stream.close()
        _, said = server.communicate(timeout=60)
    assert "Traceback" not in said
    assert "exceeded" not in said
