"""One bit that is read wrong, once: of a source by what writes, of a source or a result by what proves. Nothing that
differs is delivered, and what can't be read is no reason to read something else.
"""

import errno
import os
from pathlib import Path
from typing import Any

import pytest

from support.helpers import example_engine, left_behind
from wedge_turn.core.delivery import MANIFEST, REPORT, Order, deliver
from wedge_turn.core.errors import Error, ProofFailedError
from wedge_turn.core.turns import TURNS

FRAMES = 1_503


class Reads:
    """The system's reads of files below a folder; the n-th of them gives one bit wrong, or an error of the disk."""

    def __init__(self, patch: pytest.MonkeyPatch, folder: Path, wrong: int | None = None, error: int = 0) -> None:
        self.count = 0
        self._real, self._folder, self._wrong, self._error = os.preadv, folder, wrong, error
        patch.setattr(os, "preadv", self)

    def __call__(self, fd: int, buffers: Any, at: int) -> int:
        got = self._real(fd, buffers, at)
        path = Path(f"/proc/self/fd/{fd}").readlink()
        if not path.is_relative_to(self._folder) or got < 600:
            return got
        number, self.count = self.count, self.count + 1
        if number == self._wrong:
            if self._error:
                raise OSError(self._error, os.strerror(self._error))
            memoryview(buffers[0]).cast("B")[500] ^= 4
        return got


def contents(folder: Path) -> dict[str, bytes]:
    return {path.name: path.read_bytes() for path in folder.iterdir() if path.name not in (MANIFEST, REPORT)}


@pytest.mark.parametrize("depth", ["same", "16"])
@pytest.mark.parametrize("kind", TURNS)
def test_a_bit_that_is_read_wrong_once_delivers_nothing_wrong(
    kind: str, depth: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    source = tmp_path / "source"
    source.mkdir()
    engine = example_engine(kind, source, FRAMES)
    order = Order(tuple(engine.sheet.list_ends()), depth)
    with monkeypatch.context() as patch:
        reads = Reads(patch, tmp_path)
        deliver(engine, order, tmp_path / "good")
    good, caught = contents(tmp_path / "good"), 0
    for n in range(reads.count):
        again, folder = example_engine(kind, source, FRAMES), tmp_path / f"{n}"
        with monkeypatch.context() as patch:
            Reads(patch, tmp_path, n)
            try:
                deliver(again, order, folder)
            except ProofFailedError:
                caught += 1
                assert not folder.exists()
                continue
        assert contents(folder) == good
    # Of the source and of the result by what proves; by what writes too, where the depth doesn't round it away.
    assert caught >= (2 if depth == "same" else 1)


@pytest.mark.parametrize("kind", ["split", "encode", "centre"])
def test_an_error_of_the_disk_fails_a_delivery_and_is_told(
    kind: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    source = tmp_path / "source"
    source.mkdir()
    engine = example_engine(kind, source, FRAMES)
    order = Order(tuple(engine.sheet.list_ends()))
    with monkeypatch.context() as patch:
        reads = Reads(patch, tmp_path)
        deliver(engine, order, tmp_path / "good")
    before = left_behind(tmp_path)
    assert reads.count >= 3
    for n in range(reads.count):
        again = example_engine(kind, source, FRAMES)
        with monkeypatch.context() as patch:
            Reads(patch, tmp_path, n, errno.EIO)
            with pytest.raises((Error, OSError), match=os.strerror(errno.EIO)):
                deliver(again, order, tmp_path / "bad")
    assert left_behind(tmp_path) == before
