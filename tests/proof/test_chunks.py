"""What a file carries besides its samples is proved too: each promise is broken in turn, and the delivery fails."""

import struct
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from support.helpers import bext, engine_on, left_behind, noise, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import Order, deliver, writer
from wedge_turn.core.delivery.writing import ToWrite
from wedge_turn.core.errors import ProofFailedError
from wedge_turn.core.turns import AnyTurn, Encode, Merge, Split, Trim

START = 36_000 * 48_000
Carried = tuple[tuple[bytes, bytes], ...]
TURNS_TRIED: tuple[AnyTurn, ...] = (Split(), Encode(), Merge(order="given"), Trim(start="100s", end="1400s"))


def cue(*points: tuple[int, int]) -> tuple[bytes, bytes]:
    """Points by their ids and places (IBM and Microsoft, 1991)."""
    return b"cue ", struct.pack("<I", len(points)) + b"".join(
        struct.pack("<II4sIII", point, place, b"data", 0, 0, place) for point, place in points
    )


def engine(turn: AnyTurn, folder: Path) -> Engine:
    carried = (bext(START), cue((1, 200), (2, 1_300), (3, 1_499)), (b"note", b"Kettle Island"))
    channels = 1 if turn.kind == "merge" else 2
    files = [
        WavFile(write_wav(folder / f"{n}.wav", noise(n, 1_500, channels), carried=carried))
        for n in range(2 if turn.kind == "merge" else 1)
    ]
    return engine_on(turn, *files)


def _changed(name: bytes, change: Callable[[bytes], bytes | None]) -> Callable[[Carried], Carried]:
    def wrong(chunks: Carried) -> Carried:
        bodies = ((kind, change(body) if kind == name else body) for kind, body in chunks)
        return tuple((kind, body) for kind, body in bodies if body is not None)

    return wrong


def _at(place: int, add: int, size: int = 4) -> Callable[[bytes], bytes]:
    def wrong(body: bytes) -> bytes:
        value = int.from_bytes(body[place : place + size], "little") + add
        return body[:place] + value.to_bytes(size, "little") + body[place + size :]

    return wrong


BROKEN: dict[str, tuple[Callable[[Carried], Carried], str]] = {
    "a chunk is left out": (_changed(b"note", lambda _: None), "doesn't carry the chunk note"),
    "a chunk is changed": (_changed(b"note", lambda body: body[:-1] + b"!"), "doesn't carry the chunk note"),
    "a start a sample late": (_changed(b"bext", _at(338, 1, 8)), "says that it starts at"),
    "another recorder": (_changed(b"bext", _at(256, 1)), "doesn't carry the bext"),
    "a cue point a sample late": (_changed(b"cue ", _at(4 + 20, 1)), "has its cue points in other places"),
    "a cue point of another name": (_changed(b"cue ", _at(4, 7)), "has its cue points in other places"),
    "cue points are left out": (_changed(b"cue ", lambda _: None), "has its cue points in other places"),
}


@pytest.mark.parametrize("container", ["wav", "bw64", "flac"])
@pytest.mark.parametrize("turn", TURNS_TRIED, ids=lambda turn: turn.kind)
def test_a_broken_promise_fails_the_delivery(
    turn: AnyTurn, container: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    work = engine(turn, tmp_path)
    order = Order(tuple(work.sheet.list_ends()), container=container, depth="24")
    deliver(work, order, tmp_path / "good")
    before = left_behind(tmp_path)
    real = ToWrite.carried.func  # type: ignore[attr-defined]
    for wrong, said in BROKEN.values():

        def carried(item: ToWrite, wrong: Callable[[Carried], Carried] = wrong) -> Carried:
            return wrong(real(item))

        with monkeypatch.context() as patch:
            patch.setattr(ToWrite, "carried", property(carried))
            with pytest.raises(ProofFailedError, match=said):
                deliver(engine(turn, tmp_path), order, tmp_path / "bad")
    assert left_behind(tmp_path) == before


def test_a_start_that_is_not_known_is_not_claimed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    wav = WavFile(write_wav(tmp_path / "w.wav", noise(1, 1_500, 2)))
    real = writer.Writer._to_write

    def claims(self: writer.Writer, *args: Any) -> ToWrite:
        item = real(self, *args)
        item.__dict__["carried"] = (bext(5),)
        return item

    monkeypatch.setattr(writer.Writer, "_to_write", claims)
    work = engine_on(Split(), wav)
    with pytest.raises(ProofFailedError, match="says when it starts, though that isn't known"):
        deliver(work, Order(tuple(work.sheet.list_ends())), tmp_path / "bad")
