"""Clients that leave, or ask for a lot and don't read it, on a real socket."""

import http.client
import os
import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
import uvicorn

from support.helpers import noise, take, write_wav
from support.waiting import PATIENCE, until
from wedge_turn.api import clips
from wedge_turn.api.app import create_app
from wedge_turn.core.clips import Clip
from wedge_turn.store import Store

FRAMES = 1_200_000


class Served:
    """The application in this process, with one stereo file, so that a test can see what it computes."""

    def __init__(self, folder: Path) -> None:
        self.file = write_wav(folder / "w.wav", noise(1, FRAMES, 2))
        store = Store(folder / "data")
        job = store.jobs.create("Lamp")
        source = take(store, job.id, self.file.read_bytes())
        self.clip = f"/api/jobs/{job.id}/revisions/{job.head_id}/%s?clip=source:{source.id}"
        listening = socket.create_server(("127.0.0.1", 0))
        self.port = listening.getsockname()[1]
        self.app = create_app(store)
        self.connections: list[http.client.HTTPConnection] = []
        self.server = uvicorn.Server(uvicorn.Config(self.app, log_level="warning"))
        self.thread = threading.Thread(target=self.server.run, kwargs={"sockets": [listening]})
        self.thread.start()
        until(lambda: self.server.started and store.measures.judgements([source.id]))  # nothing else is under way

    def ask(self, what: str, start: int, frames: int) -> http.client.HTTPConnection:
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=PATIENCE)
        self.connections.append(connection)
        connection.request("GET", f"{self.clip % what}&start={start}&frames={frames}")
        return connection

    def waiting(self) -> int:
        waits: int = self.app.state.context.tasks.scheduler.waiting("look")
        return waits


@pytest.fixture
def served(tmp_path: Path) -> Iterator[Served]:
    running = Served(tmp_path)
    yield running
    for connection in running.connections:
        connection.close()
    running.server.should_exit = True
    running.thread.join()


@contextmanager
def held(monkeypatch: pytest.MonkeyPatch, name: str) -> Iterator[list[int]]:
    """Hold up a function of the API's clips; yields where the stretches begin that it is called for."""
    go_on, begun = threading.Event(), list[int]()
    real = getattr(clips, name)

    def hold(clip: Clip, start: int, frames: int) -> Any:
        begun.append(start)
        assert go_on.wait(PATIENCE)
        return real(clip, start, frames)

    monkeypatch.setattr(clips, name, hold)
    try:
        yield begun
    finally:
        go_on.set()


def test_work_for_clients_that_left_is_dropped(served: Served, monkeypatch: pytest.MonkeyPatch) -> None:
    threads = (os.cpu_count() or 2) + 2
    with held(monkeypatch, "analyse") as begun:
        staying = [served.ask("analysis", n, 1_000) for n in range(threads)]
        until(lambda: len(begun) == threads)
        leaving = [served.ask("analysis", 100 + n, 1_000) for n in range(10)]
        until(lambda: served.waiting() == 10)
        for connection in leaving:
            connection.close()
        staying.append(served.ask("analysis", 50, 1_000))
        until(lambda: served.waiting() == 11)
    assert [connection.getresponse().status for connection in staying] == [200] * (threads + 1)
    assert sorted(begun) == [*range(threads), 50]


def test_a_long_answer_is_read_no_further_than_its_client_reads(
    served: Served, monkeypatch: pytest.MonkeyPatch
) -> None:
    read: list[int] = []
    real = Clip.read

    def counted(clip: Clip, start: int, frames: int) -> Any:
        read.append(frames)
        return real(clip, start, frames)

    monkeypatch.setattr(clips, "STRETCH_SAMPLES", 20_000)
    monkeypatch.setattr(Clip, "read", counted)
    connection = served.ask("samples", 0, FRAMES)
    answer = connection.getresponse()
    first = answer.read(8)
    second = served.ask("samples", 0, 100)
    assert len(second.getresponse().read()) == 800
    assert sum(read) < FRAMES
    whole = np.frombuffer(first + answer.read(), "<f4").reshape(-1, 2)
    assert np.array_equal(whole, soundfile.read(served.file, dtype="float32")[0])
