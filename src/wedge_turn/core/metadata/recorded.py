"""What a file says about its recording: scene and take, the names of its channels, its frame rate, its history.

Read from iXML where there is any, else from the lines that recorders put into the description of bext (`sSCENE=12A`,
`sTRK1=boom`, `sSPEED=025.000-ND`: common practice, no source), and from CodingHistory (EBU R 98-1999). iXML's element
names are those of its specification (from memory).
"""

import re
import struct
from collections.abc import Mapping
from fractions import Fraction
from typing import Final
from xml.etree.ElementTree import Element

from pydantic import BaseModel, ConfigDict

from wedge_turn.core.form import MAX_RATE, FrameRate, parse_frame_rate
from wedge_turn.core.metadata.chunks import Carried
from wedge_turn.core.metadata.claims import number_in, start_within
from wedge_turn.core.metadata.ixml import Track, parse_ixml, text_of, tracks_in
from wedge_turn.core.metadata.tags import info_entries

_DESCRIPTION, _ORIGINATOR, _DATE, _REFERENCE_AT, _HISTORY_AT = slice(0, 256), slice(256, 288), slice(320, 330), 338, 602
# A lower-case letter before the key says which make of recorder wrote it.
_LINE: Final = re.compile(r"^[a-z]?([A-Z]{3,9}[0-9]{0,2})=(.*)$")
_TRACK_KEY: Final = re.compile(r"TRK([1-9][0-9]?)")
MAX_TEXT: Final = 1_000  # characters of a text that is shown
_MAX_LABEL: Final = 60
_HALF: Final = 2**32 - 1  # of a number in two halves


class SoundTrack(BaseModel):
    """One of several sound tracks of a movie, in the order of its channels."""

    model_config = ConfigDict(frozen=True)

    name: str
    channels: int


class Recorded(BaseModel):
    """What a file says about itself; empty where it says nothing.

    `history` are the lines of CodingHistory, `encoder` is what wrote a compressed file. `sound_tracks` are those of a
    movie that has several, `left_out` the names of those that aren't read, and `picture` says that it has one to show.
    """

    model_config = ConfigDict(frozen=True)

    project: str = ""
    scene: str = ""
    take: str = ""
    tape: str = ""
    note: str = ""
    recorder: str = ""
    date: str = ""
    encoder: str = ""
    history: tuple[str, ...] = ()
    sound_tracks: tuple[SoundTrack, ...] = ()
    left_out: tuple[str, ...] = ()
    picture: bool = False

    def explain_left_out(self, name: str) -> str:
        """Which sound tracks of a film called so aren't read, in a sentence; empty where all are."""
        if not self.left_out:
            return ""
        reason = f"Not read, because its sample rate is another: {', '.join(self.left_out)} of {name}."
        return f"{reason} Ask for it as a file of its own."


def read_recorded(chunks: Carried) -> Recorded:
    """What the chunks of a file say about its recording."""
    bext = next((body for name, body in chunks if name == b"bext"), b"")
    root = _ixml(chunks)
    lines = _lines(bext)
    tags = {tag: text for name, body in chunks if name == b"LIST" for tag, text in info_entries(body)}
    history = bext[_HISTORY_AT:].decode("utf-8", "replace").split("\0")[0]
    return Recorded(
        **{key: _read_field(root, element) or _cut(lines.get(element, "")) for key, element in _TEXTS.items()},
        recorder=_text(bext[_ORIGINATOR]),
        date=_text(bext[_DATE]),
        encoder=_cut(tags.get(b"ISFT", "")),
        history=tuple(_cut(line) for line in history.splitlines() if line.strip()),
    )


_TEXTS: Final = {"project": "PROJECT", "scene": "SCENE", "take": "TAKE", "tape": "TAPE", "note": "NOTE"}


def read_facts(chunks: Carried, channels: int, rate: int) -> dict[str, object]:
    """What the chunks of a file add to its form: start time, frame rate and the names of its channels."""
    tracks = list_track_names(chunks)
    labels = tuple(_cut(tracks[n].name)[:_MAX_LABEL] if n in tracks else "" for n in range(channels))
    return {
        "start_time": start_in(chunks, rate),
        "frame_rate": frame_rate_in(chunks),
        "labels": labels if any(labels) else (),
    }


def list_track_names(chunks: Carried) -> Mapping[int, Track]:
    """What is said of the channels of a file, by their numbers from 0."""
    root = _ixml(chunks)
    tracks = tracks_in(root) if root is not None else {}
    return tracks or _line_tracks(chunks)


def _line_tracks(chunks: Carried) -> dict[int, Track]:
    bext = next((body for name, body in chunks if name == b"bext"), b"")
    keys = ((_TRACK_KEY.fullmatch(key), text) for key, text in _lines(bext).items())
    return {int(key[1]) - 1: Track(_cut(text)) for key, text in keys if key and text}


def with_track_lines(body: bytes, tracks: tuple[Track, ...]) -> bytes:
    """A bext chunk whose description names these channels, where it named any before."""
    lines = _text(body[_DESCRIPTION]).splitlines()
    matches = [_LINE.match(line) for line in lines]
    named = [n for n, line in enumerate(matches) if line and _TRACK_KEY.fullmatch(line[1])]
    if not named:
        return body
    prefix = lines[named[0]].split("TRK")[0]
    new = [f"{prefix}TRK{n}={track.name}" for n, track in enumerate(tracks, 1) if track.name]
    other_lines = [line for n, line in enumerate(lines) if n not in named]
    at = sum(1 for n in range(named[0]) if n not in named)
    text = "\r\n".join([*other_lines[:at], *new, *other_lines[at:]]).encode("utf-8", "replace")[:256]
    return text.ljust(256, b"\0") + body[256:]


def frame_rate_in(chunks: Carried) -> FrameRate | None:
    """The frame rate that the start time is counted in, where the file says one."""
    root = _ixml(chunks)
    if root is not None and (frame_rate := parse_frame_rate(text_of(root, "SPEED/TIMECODE_RATE"))):
        drop = text_of(root, "SPEED/TIMECODE_FLAG").upper() == "DF"
        return frame_rate.model_copy(update={"drop": drop and frame_rate.can_drop_frames})
    bext = next((body for name, body in chunks if name == b"bext"), b"")
    rate, _, flag = _lines(bext).get("SPEED", "").partition("-")
    frame_rate = parse_frame_rate(rate)
    return frame_rate and frame_rate.model_copy(
        update={"drop": flag.upper().startswith("DF") and frame_rate.can_drop_frames}
    )


def start_in(chunks: Carried, rate: int) -> int | None:
    """When a file starts, in samples after midnight: TimeReference of bext, 64 bits at offset 338 (EBU Tech 3285), else
    the time stamp of iXML; None where that can be no start time.
    """
    for name, body in chunks:
        if name == b"bext" and len(body) >= _REFERENCE_AT + 8:
            return start_within(struct.unpack_from("<Q", body, _REFERENCE_AT)[0], rate)
    root = _ixml(chunks)
    if root is None:
        return None
    high = number_in(text_of(root, "SPEED/TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI") or "0", _HALF)
    low = number_in(text_of(root, "SPEED/TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO"), _HALF)
    counted = number_in(text_of(root, "SPEED/TIMESTAMP_SAMPLE_RATE"), MAX_RATE)
    if high is None or low is None:
        return None
    samples = (high << 32) + low
    return start_within(round(Fraction(samples * rate, counted)) if counted else samples, rate)


def _ixml(chunks: Carried) -> Element | None:
    return next((parse_ixml(body) for name, body in chunks if name == b"iXML"), None)


def _read_field(root: Element | None, name: str) -> str:
    return "" if root is None else _cut(text_of(root, name))


def _lines(bext: bytes) -> dict[str, str]:
    matches = (_LINE.match(line.strip()) for line in _text(bext[_DESCRIPTION]).splitlines())
    return {line[1]: line[2].strip() for line in matches if line}


def _text(field: bytes) -> str:
    return field.split(b"\0")[0].decode("utf-8", "replace").strip()


def _cut(text: str) -> str:
    return "".join(letter if letter.isprintable() else " " for letter in text.strip())[:MAX_TEXT]
