"""Real files of every format, by other programs, with bytes of their headers changed, lost or added."""

import struct
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import soundfile
from hypothesis import strategies as st

from support.helpers import RECORDINGS

# A short one of each; W64, RF64 and AU, which no package has, are written by libsndfile.
FILES = {
    "WAV": "Front_Left.wav", "WAV with bext": "rect_24bit_bext.wav", "RF64": "rect_24bit_rf64.wav",
    "float WAV": "lena-32.wav", "AIFF": "lena-24.aiff", "AIFF with ID3": "with-id3.aif", "CAF": "lena-f32.caf",
    "FLAC": "drum_cowbell.flac",
    "Ogg Vorbis": "camera_click.ogg", "Opus": "example.opus", "MP3": "bad-xing.mp3", "AAC": "lena.aac",
    "M4A": "has-tags.m4a", "ALAC": "alac.m4a", "MP4": "bikes.mp4", "WebM": "lena-vorbis.webm",
    "WavPack": "silence-44-s.wv", "W64": "", "AU": "",
}  # fmt: skip
HEAD = 4_096  # bytes in which most of the damage is done
MOST = 60_000  # bytes of a file
WORDS = (0, 1, 0x7F, 0xFF, 0x7FFF, 0xFFFF, 2**31 - 1, 2**31, 2**32 - 1, 2**62, 2**63 - 1, 2**63, 2**64 - 1)


@cache
def original(kind: str) -> bytes:
    if FILES[kind]:
        return (RECORDINGS / FILES[kind]).read_bytes()[:MOST]
    with TemporaryDirectory() as folder:
        path = Path(folder, "x")
        samples = np.random.default_rng(1).uniform(-0.5, 0.5, (4_000, 2))
        soundfile.write(path, samples, 48_000, subtype="PCM_24", format=kind)
        return path.read_bytes()


def _number(word: int, size: int, *, big: bool) -> bytes:
    return struct.pack(">Q" if big else "<Q", word)[-size if big else 0 : None if big else size]


places = st.one_of(st.integers(0, 200), st.integers(0, HEAD), st.integers(0, MOST))
pieces = st.one_of(
    st.binary(min_size=1, max_size=8),
    st.builds(_number, st.sampled_from(WORDS), st.sampled_from([1, 2, 4, 8]), big=st.booleans()),
)
changes = st.tuples(st.sampled_from(["set", "set", "set", "insert", "delete", "cut", "append"]), places, pieces)


def changed(content: bytes, done: list[tuple[str, int, bytes]]) -> bytes:
    for what, place, piece in done:
        at = min(place, len(content))
        match what:
            case "set":
                content = content[:at] + piece + content[at + len(piece) :]
            case "insert":
                content = content[:at] + piece + content[at:]
            case "delete":
                content = content[:at] + content[at + len(piece) :]
            case "cut":
                content = content[: max(at, 12)]
            case _:
                content += piece * 8
    return content


def mutated(kind: str) -> st.SearchStrategy[bytes]:
    return st.lists(changes, min_size=1, max_size=6).map(lambda done: changed(original(kind), done))
