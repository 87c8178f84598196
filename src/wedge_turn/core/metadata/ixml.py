"""iXML: what a recorder writes about a file, here the names of its channels and when it starts.

    BWFXML / TRACK_LIST / TRACK_COUNT, then TRACK: CHANNEL_INDEX, INTERLEAVE_INDEX (from 1), NAME, FUNCTION
    BWFXML / SPEED / TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI and _LO, 32 bits each
    BWFXML / BEXT / BWF_TIME_REFERENCE_HIGH and _LOW, the same
    BWFXML / SPEED / AUDIO_BIT_DEPTH
    BWFXML / SYNC_POINT_LIST / SYNC_POINT_COUNT, then SYNC_POINT: SYNC_POINT_TYPE (RELATIVE to the file's start, or
    ABSOLUTE), SYNC_POINT_LOW and _HIGH, in samples

Element names are those of the iXML specification (revision 2.0 on; from memory). A chunk that can't be read as XML, or
that declares a document type, is never changed: what it says of a file that has changed isn't known.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Final
from xml.etree import ElementTree
from xml.etree.ElementTree import Element, SubElement

from wedge_turn.core.form import FrameRate
from wedge_turn.core.metadata.claims import number_in, number_within
from wedge_turn.core.metadata.moves import Move

MAX_BYTES: Final = 1 << 20  # bytes; what recorders write is a few thousand
MAX_TRACKS: Final = 10_000
_DECLARES: Final = re.compile(rb"<!(DOCTYPE|ENTITY)", re.IGNORECASE)
_LIST, _TRACK = "TRACK_LIST", "TRACK"
_SYNC_LIST, _SYNC_POINT = "SYNC_POINT_LIST", "SYNC_POINT"
_COUNTED_AT: Final = "TIMESTAMP_SAMPLE_RATE"
_STARTS: Final = (
    ("SPEED", "TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI", "TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO"),
    ("BEXT", "BWF_TIME_REFERENCE_HIGH", "BWF_TIME_REFERENCE_LOW"),
)


@dataclass(frozen=True)
class Track:
    """What is said of one channel: its name and its function, either empty where nothing is."""

    name: str = ""
    function: str = ""


def tracks_in(root: Element) -> dict[int, Track]:
    """What an iXML chunk says of the channels of its file, by their numbers from 0."""
    tracks: dict[int, Track] = {}
    for track in root.iterfind(f"{_LIST}/{_TRACK}"):
        place = number_in(text_of(track, "INTERLEAVE_INDEX") or text_of(track, "CHANNEL_INDEX"), MAX_TRACKS)
        if place:
            tracks[place - 1] = Track(text_of(track, "NAME"), text_of(track, "FUNCTION"))
    return tracks


def with_tracks(body: bytes, tracks: Sequence[Track]) -> bytes | None:
    """The chunk for a file with these channels; None where it can't be read. One without a list of tracks is
    returned as it is.
    """
    root = parse_ixml(body)
    if root is None:
        return None
    listed = root.find(_LIST)
    if listed is None:
        return body
    others = [child for child in listed if child.tag not in ("TRACK_COUNT", _TRACK)]
    listed.clear()
    listed.extend(_described(tracks))
    listed.extend(others)
    return _written(root)


def make_ixml(tracks: Sequence[Track]) -> bytes:
    """A chunk that says the names of these channels, and nothing else."""
    root = Element("BWFXML")
    SubElement(root, "IXML_VERSION").text = "2.0"
    if tracks:
        SubElement(root, _LIST).extend(_described(tracks))
    return _written(root)


def with_ixml_facts(body: bytes, facts: Mapping[str, str], rate: FrameRate) -> bytes:
    """A chunk that can be read, with texts by the names of their elements, and the frame rate that its file's start
    time is counted in.
    """
    root = ElementTree.fromstring(body)
    for name, text in facts.items():
        SubElement(root, name).text = text
    speed = SubElement(root, "SPEED")
    SubElement(speed, "TIMECODE_RATE").text = f"{rate.frames}/{rate.seconds}"
    SubElement(speed, "TIMECODE_FLAG").text = "DF" if rate.drop else "NDF"
    return _written(root)


def with_form(body: bytes, start_time: int | None, rate: int, bits: int) -> bytes | None:
    """The chunk for a file of this rate and depth that starts `start_time` samples after midnight, or at a time that
    isn't known; None where it can't be read.
    """
    root = parse_ixml(body)
    if root is None:
        return None
    changed = False
    for place, fact in (("SPEED/AUDIO_BIT_DEPTH", bits), ("SPEED/FILE_SAMPLE_RATE", rate)):
        element = root.find(place)
        if element is not None:
            element.text, changed = str(fact), True
    for parent, high, low in _STARTS:
        element = root.find(parent)
        if element is None or element.find(low) is None:
            continue
        changed = True
        parts: dict[str, int | None] = {
            high: None if start_time is None else start_time >> 32,
            low: None if start_time is None else start_time & 0xFFFFFFFF,
        }
        if element.find(_COUNTED_AT) is not None:
            parts[_COUNTED_AT] = rate
        for name, value in parts.items():
            child = element.find(name)
            if value is None and child is not None:
                element.remove(child)
            elif value is not None:
                (SubElement(element, name) if child is None else child).text = str(value)
    return _written(root) if changed else body


def with_moved_sync_points(body: bytes, move: Move) -> bytes:
    """The chunk for a file whose samples are moved: sync points that count from the file's start go along, those that
    lie outside it go. One that can't be read is returned as it is.
    """
    root = parse_ixml(body)
    listed = None if root is None else root.find(_SYNC_LIST)
    if root is None or listed is None:
        return body
    for point in listed.findall(_SYNC_POINT):
        if text_of(point, "SYNC_POINT_TYPE").upper() != "RELATIVE":
            continue
        high, low = (number_in(text_of(point, f"SYNC_POINT_{half}") or "0", 2**32 - 1) for half in ("HIGH", "LOW"))
        place = None if high is None or low is None else number_within(move.place((high << 32) + low), move.frames)
        if place is None:
            listed.remove(point)
            continue
        for half, value in (("HIGH", place >> 32), ("LOW", place & 0xFFFFFFFF)):
            child = point.find(f"SYNC_POINT_{half}")
            (SubElement(point, f"SYNC_POINT_{half}") if child is None else child).text = str(value)
    count = listed.find("SYNC_POINT_COUNT")
    if count is not None:
        count.text = str(len(listed.findall(_SYNC_POINT)))
    return _written(root)


def parse_ixml(body: bytes) -> Element | None:
    """A chunk as XML; None where it can't be read."""
    text = body.rstrip(b"\0 \r\n\t")
    if len(text) > MAX_BYTES or _DECLARES.search(text):
        return None
    try:
        return ElementTree.fromstring(text)
    except (ElementTree.ParseError, ValueError, LookupError):
        return None


def _described(tracks: Sequence[Track]) -> Iterable[Element]:
    count = Element("TRACK_COUNT")
    count.text = str(len(tracks))
    yield count
    for number, track in enumerate(tracks, 1):
        element = Element(_TRACK)
        for name, text in (
            ("CHANNEL_INDEX", str(number)),
            ("INTERLEAVE_INDEX", str(number)),
            ("NAME", track.name),
            ("FUNCTION", track.function),
        ):
            if text:
                SubElement(element, name).text = text
        yield element


def _written(root: Element) -> bytes:
    return bytes(ElementTree.tostring(root, encoding="UTF-8", xml_declaration=True))


def text_of(element: Element, name: str) -> str:
    """The text of an element within another; empty where there is none."""
    return (element.findtext(name) or "").strip()
