"""Tags between formats: a LIST chunk of type INFO (Microsoft, RIFF 1.0) and what libsndfile calls the same."""

import struct
from collections.abc import Iterator, Mapping
from typing import Final

from wedge_turn.core.audio.carried import Carried

# What LIST INFO calls a tag, and what libsndfile does.
TAGS: Final = {
    b"INAM": "title", b"IART": "artist", b"IPRD": "album", b"ICRD": "date", b"ICMT": "comment", b"ICOP": "copyright",
    b"IGNR": "genre", b"ITRK": "tracknumber",
}  # fmt: skip


def info_entries(body: bytes) -> list[tuple[bytes, str]]:
    """The entries of a LIST chunk of type INFO; none of another."""
    entries, at = [], 4
    if body[:4] != b"INFO":
        return []
    while at + 8 <= len(body):
        name, size = struct.unpack_from("<4sI", body, at)
        text = body[at + 8 : at + 8 + size].split(b"\0")[0].decode("utf-8", "replace").strip()
        entries.append((name, text))
        at += 8 + size + (size & 1)
    return entries


def tags_of(carried: Carried) -> Iterator[tuple[str, str]]:
    """The tags among chunks, by libsndfile's names."""
    for name, body in carried:
        if name == b"LIST":
            yield from ((TAGS[tag], text) for tag, text in info_entries(body) if tag in TAGS and text)


def info_chunk(tags: Mapping[str, str]) -> Carried:
    """The chunk that holds these tags, given by libsndfile's names; none where there are none."""
    body = b""
    for name, tag in TAGS.items():
        if text := tags.get(tag, "").strip():
            data = text.encode("utf-8", "replace") + b"\0"
            body += struct.pack("<4sI", name, len(data)) + data + b"\0" * (len(data) & 1)
    return ((b"LIST", b"INFO" + body),) if body else ()
