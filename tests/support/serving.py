"""The real application on a real socket, for tests."""

import http.client
import json
import re
import subprocess
import sys
import urllib.request
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import Any

import pytest

from support.waiting import PATIENCE

COMMAND = Path(sys.executable).parent / "wedge-turn"


@contextmanager
def served(data: Path, *options: str) -> Iterator[int]:
    """Serve on a free port."""
    command = [str(COMMAND), "serve", "--data", str(data), "--port", "0", *options]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as server:
        try:
            assert server.stdout is not None
            yield int(server.stdout.readline().split("/")[2].split(":")[1])
        finally:
            server.terminate()


def asked(port: int, method: str, path: str, body: bytes | None = None) -> tuple[int, Any]:
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
    connection.request(method, path, body, {"Content-Type": "application/json"} if body else {})
    answer = connection.getresponse()
    content = answer.read()
    connection.close()
    return answer.status, json.loads(content) if content else {}


def job_on(port: int) -> str:
    return str(asked(port, "POST", "/api/jobs", b'{"name": "Lamp"}')[1]["id"])


@contextmanager
def served_on_small_disk(data: Path, room: int) -> Iterator[tuple[int, Path]]:
    """Serve from a disk of so many bytes, which the server alone has at `data`; the port, and where the disk is seen
    from here.
    """
    data.mkdir()
    mount = f'mount -t tmpfs -o size={room} disk "$0" && exec "$@"'
    inside = ["unshare", "--mount", "--map-root-user", "bash", "-c", mount, str(data)]
    if subprocess.run([*inside, "true"], capture_output=True, check=False).returncode:
        pytest.skip("this machine lets nobody mount a disk of their own")
    command = [*inside, str(COMMAND), "serve", "--data", str(data), "--port", "0"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as server:
        try:
            assert server.stdout is not None
            port = int(server.stdout.readline().split("/")[2].split(":")[1])
            yield port, Path(f"/proc/{server.pid}/root{data}")
        finally:
            server.terminate()


@contextmanager
def application(data: Path, port: int = 0) -> Iterator[str]:
    """The application on a data folder, with `Sessions` beside it to deliver to; yields its address."""
    command = [str(COMMAND), "serve", "--demo", "--data", str(data), "--port", str(port)]
    command += ["--deliver-to", str(data.parent / "Sessions")]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, bufsize=1) as served:
        try:
            assert served.stdout is not None
            address = re.search(r"http://\S+/", served.stdout.readline())
            assert address is not None
            # The socket listens before the application does: the first request waits until it is there.
            urllib.request.urlopen(address[0] + "api/health", timeout=PATIENCE).close()
            yield address[0]
        finally:
            served.terminate()


class Restartable:
    """An application that is ended and started again while a page looks at it."""

    def __init__(self, data: Path) -> None:
        self._data = data
        self._running = ExitStack()
        self.address = self._running.enter_context(application(data))

    def end(self) -> None:
        self._running.close()

    def start(self) -> None:
        port = int(self.address.rstrip("/").rpartition(":")[2])
        assert self._running.enter_context(application(self._data, port)) == self.address
