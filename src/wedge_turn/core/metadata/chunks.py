"""The chunks that travel with the sound from a source into what is made of it.

Everything travels but what describes the old samples or their layout. In bext (EBU Tech 3285) the
TimeReference is set to where the new file starts, and the loudness values of version 2 are marked as
unknown (0x7FFF) when they were set, because they were measured on another set of channels. What was done is added to
its CodingHistory as a line of its own (EBU R 98-1999: A coding, F sample rate, W bits, M mode, T free text).
"""

import struct
from typing import Final

from wedge_turn.core.form import Form
from wedge_turn.core.metadata import ixml

LEFT_BEHIND: Final = frozenset(
    {b"fmt ", b"data", b"fact", b"ds64", b"JUNK", b"junk", b"PAD ", b"FLLR", b"PEAK", b"levl", b"chna"}
)
# Chunks are held in memory while a file is written; a picture or a note is never larger than this.
MAX_CARRIED: Final = 16 * 1024 * 1024
_TIME_AT, _VERSION_AT, _LOUDNESS_AT, _HISTORY_AT = 338, 346, 412, 602
_MODES: Final = {1: "mono", 2: "stereo"}

Carried = tuple[tuple[bytes, bytes], ...]


def kind_of(name: bytes, body: bytes) -> bytes:
    """What a chunk is: its name, for a list with the name of its type, as in `LIST adtl`."""
    return name + b" " + body[:4] if name == b"LIST" else name


def with_form(chunks: Carried, form: Form) -> Carried:
    """The chunks with bext and iXML made true for a file of this form: its start time, its rate, its depth.

    Where no start time is known, bext is left behind: it cannot be written without one, and another would be false.
    """
    start_time, rate = form.start_time, form.rate
    moved: list[tuple[bytes, bytes]] = []
    for name, body in chunks:
        if name == b"bext":
            if start_time is not None:
                moved.append((name, _bext(body, start_time)))
        elif name == b"iXML":
            described = ixml.with_form(body, start_time, rate, 8 * form.stored.width)
            moved.append((name, body if described is None else described))
        else:
            moved.append((name, body))
    return tuple(moved)


def make_bext(start_time: int) -> bytes:
    """A bext chunk of version 1 that says when a file starts, and nothing else."""
    return struct.pack("<338xQH", start_time, 1).ljust(_HISTORY_AT, b"\0")


def with_history(chunks: Carried, form: Form, change: str) -> Carried:
    """The chunks with a line in the CodingHistory of bext: what a file of this form is now, and what was done."""
    fields = [("A", "PCM"), ("F", str(form.rate)), ("W", str(8 * form.stored.width))]
    fields += [("M", _MODES[form.channels])] if form.channels in _MODES else []
    line = ",".join(f"{key}={text}" for key, text in (*fields, ("T", f"Wedge Turn; {change}")))
    return tuple(
        (name, _with_line(body, line.encode("ascii"))) if name == b"bext" else (name, body) for name, body in chunks
    )


def _with_line(body: bytes, line: bytes) -> bytes:
    if len(body) < _HISTORY_AT:
        return body
    history = body[_HISTORY_AT:].rstrip(b"\0\r\n")
    lines = history + b"\r\n" if history else b""
    return body[:_HISTORY_AT] + lines + line + b"\r\n"


def _bext(body: bytes, start_time: int) -> bytes:
    if len(body) < _VERSION_AT + 2:
        return body
    new = bytearray(body)
    struct.pack_into("<Q", new, _TIME_AT, start_time)
    (version,) = struct.unpack_from("<H", new, _VERSION_AT)
    loudness = slice(_LOUDNESS_AT, _LOUDNESS_AT + 10)
    if version >= 2 and len(new) >= loudness.stop and any(new[loudness]):
        new[loudness] = struct.pack("<5h", *(5 * [0x7FFF]))
    return bytes(new)
