"""What only a real server on a real socket shows: uploads that break off, a full disk, the event stream, a restart."""

import http.client
import json
import socket
import subprocess
from contextlib import suppress
from pathlib import Path

from support.helpers import Json, kept_files, noise, write_wav
from support.serving import COMMAND, asked, job_on, served, served_on_small_disk
from support.waiting import until


def test_an_interrupted_upload_leaves_nothing_behind_and_stops_no_other(tmp_path: Path) -> None:
    content = write_wav(tmp_path / "w.wav", noise(1, 500_000, 2)).read_bytes()
    with served(tmp_path / "data") as port:
        job = job_on(port)
        with socket.create_connection(("127.0.0.1", port)) as connection:
            request = f"POST /api/jobs/{job}/sources?name=w.wav HTTP/1.1"
            head = f"{request}\r\nHost: 127.0.0.1\r\nContent-Length: {len(content)}\r\n\r\n"
            connection.sendall(head.encode() + content[:1_500_000])
            until(lambda: kept_files(tmp_path / "data"))
        until(lambda: not kept_files(tmp_path / "data"))
        assert asked(port, "POST", f"/api/jobs/{job}/sources?name=w.wav", content)[0] == 201


def test_a_full_disk_is_reported_by_file_and_leaves_nothing_behind(tmp_path: Path) -> None:
    """On a disk that is really full: files, deliveries and edits are refused, and go on once there is room again."""
    content = write_wav(tmp_path / "w.wav", noise(1, 1_000_000, 2)).read_bytes()
    with served_on_small_disk(tmp_path / "data", 10_000_000) as (port, data):
        job = job_on(port)
        status, source = asked(port, "POST", f"/api/jobs/{job}/sources?name=w.wav", content)
        assert status == 201
        before = kept_files(data)
        status, problem = asked(port, "POST", f"/api/jobs/{job}/sources?name=more.wav", content[:-1])
        assert (status, problem["code"]) == (507, "disk-full")
        assert "more.wav" in str(problem["message"])
        assert [file for file in kept_files(data) if file.startswith(("media", "arriving"))] == before[:1]

        def edit(kind: str) -> tuple[int, Json]:
            head = asked(port, "GET", f"/api/jobs/{job}")[1]["head"]
            body = {"base": head, "steps": [{"turn": {"kind": kind}, "inputs": [source["ref"]]}]}
            return asked(port, "POST", f"/api/jobs/{job}/steps", json.dumps(body).encode())

        status, view = edit("split")
        assert status == 201
        order = json.dumps({"revision": view["head"]}).encode()
        _, started = asked(port, "POST", f"/api/jobs/{job}/deliveries", order)

        def ended() -> Json | None:
            now: Json = asked(port, "GET", f"/api/deliveries/{started['id']}")[1]
            return now if now["state"] not in ("waiting", "writing") else None

        failed = until(ended)
        assert (failed["state"], failed["error"]["code"]) == ("failed", "disk-full")
        assert [file for file in kept_files(data) if file.startswith("deliveries")] == []

        until(lambda: asked(port, "GET", f"/api/jobs/{job}")[1]["sources"][0]["measured"])
        with suppress(OSError), (data / "filling").open("wb", buffering=0) as filling:
            while True:
                filling.write(bytes(4096))
        status, problem = edit("swap")
        assert (status, problem["code"]) == (507, "disk-full")
        (data / "filling").unlink()
        status, view = edit("swap")
        assert (status, [line["turn"]["kind"] for line in view["steps"]]) == (201, ["split", "swap"])


def test_on_a_full_disk_a_delivery_a_file_and_a_job_can_be_deleted(tmp_path: Path) -> None:
    content, more = (write_wav(tmp_path / "w.wav", noise(n, 100_000, 2)).read_bytes() for n in (1, 2))
    with served_on_small_disk(tmp_path / "data", 80_000_000) as (port, data):
        job, other = job_on(port), job_on(port)
        for one in (job, other):
            assert asked(port, "POST", f"/api/jobs/{one}/sources?name={one}.wav", content)[0] == 201
        _, source = asked(port, "POST", f"/api/jobs/{job}/sources?name=w.wav", more)
        until(lambda: all(s["measured"] for s in asked(port, "GET", f"/api/jobs/{job}")[1]["sources"]))
        edit = {"base": asked(port, "GET", f"/api/jobs/{job}")[1]["head"]}
        edit["steps"] = [{"turn": {"kind": "split"}, "inputs": [source["ref"]]}]
        _, view = asked(port, "POST", f"/api/jobs/{job}/steps", json.dumps(edit).encode())
        order = json.dumps({"revision": view["head"]}).encode()
        delivery = asked(port, "POST", f"/api/jobs/{job}/deliveries", order)[1]["id"]
        until(lambda: asked(port, "GET", f"/api/deliveries/{delivery}")[1]["state"] == "done")
        with suppress(OSError), (data / "filling").open("wb", buffering=0) as filling:
            while True:
                filling.write(bytes(4096))
        assert asked(port, "POST", "/api/jobs", b'{"name": "Bell"}')[0] == 507
        assert asked(port, "DELETE", f"/api/deliveries/{delivery}")[0] == 204
        assert asked(port, "DELETE", f"/api/jobs/{other}")[0] == 204
        head = asked(port, "GET", f"/api/jobs/{job}")[1]["head"]
        assert asked(port, "DELETE", f"/api/jobs/{job}/sources/{source['id']}?base={head}")[0] == 200
        assert [one["id"] for one in asked(port, "GET", "/api/jobs")[1]] == [job]
        (data / "filling").unlink()
        assert asked(port, "POST", "/api/jobs", b'{"name": "Bell"}')[0] == 201


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


def test_a_server_gets_ready_for_a_window_and_ends_in_spite_of_it(tmp_path: Path) -> None:
    """What compiles kernels is loaded once a window is open, not before; and its event stream ends at once, cleanly."""
    command = [str(COMMAND), "serve", "--port", "0", "--data", str(tmp_path / "data")]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True) as server:
        assert server.stdout is not None
        port = int(server.stdout.readline().split("/")[2].split(":")[1])
        maps = Path(f"/proc/{server.pid}/maps")
        asked(port, "GET", "/api/jobs")
        assert "llvmlite" not in maps.read_text()
        stream = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        stream.request("GET", "/api/events")
        answer = stream.getresponse()
        assert answer.readline() == b"event: hello\n"
        until(lambda: "llvmlite" in maps.read_text())
        server.terminate()
        answer.read()
        stream.close()
        _, said = server.communicate(timeout=60)
    assert "Traceback" not in said
    assert "exceeded" not in said
