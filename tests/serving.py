"""The real application on a real socket, for tests."""

import http.client
import json
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

COMMAND = Path(sys.executable).parent / "wedge-turn"


@contextmanager
def served(data: Path, largest_file: int | None = None) -> Iterator[int]:
    """Serve on a free port; files may grow no larger than `largest_file`, as on a disk with so much room."""
    limit = f"ulimit -f {largest_file // 1024}; " if largest_file else ""
    command = ["bash", "-c", f'{limit}exec "$0" serve --data "$1" --port 0', str(COMMAND), str(data)]
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
