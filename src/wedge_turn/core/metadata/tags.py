"""Tags between formats: a LIST chunk of type INFO (Microsoft, RIFF 1.0) and what libsndfile calls the same."""

import struct
from collections.abc import Iterator, Mapping
from typing import Final

from wedge_turn.core.metadata.chunks import Carried

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


def read_tags(carried: Carried) -> Iterator[tuple[str, str]]:
    """The tags among chunks, by libsndfile's names."""
    for name, body in carried:
        if name == b"LIST":
            yield from ((TAGS[tag], text) for tag, text in info_entries(body) if tag in TAGS and text)


def with_tags(chunks: Carried, tags: Mapping[str, str]) -> Carried:
    """The chunks with a LIST chunk of type INFO that holds these tags, given by libsndfile's names, and the entries
    for which there is no such name.
    """
    others = [entry for name, body in chunks if name == b"LIST" for entry in info_entries(body) if entry[0] not in TAGS]
    entries = [(name, tags.get(tag, "").strip()) for name, tag in TAGS.items()] + others
    body = b"".join(_entry(name, text) for name, text in entries if text)
    rest = tuple((name, content) for name, content in chunks if name != b"LIST" or content[:4] != b"INFO")
    return (*rest, (b"LIST", b"INFO" + body)) if body else rest


def _entry(name: bytes, text: str) -> bytes:
    data = text.encode("utf-8", "replace") + b"\0"
    return struct.pack("<4sI", name, len(data)) + data + bytes(len(data) & 1)
