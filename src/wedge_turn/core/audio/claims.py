"""How many frames the header of a file promises, read without any decoder, and what of it must say otherwise so that a
decoder reads what is present.

FLAC   STREAMINFO, 36 bits; 0 is unknown                     RFC 9639, 8.2
AIFF   COMM, and the size of SSND                            Apple, "Audio Interchange File Format", 1989 (from memory)
AU     the size of the data, in the header                  common practice, no source
W64    the size of the data chunk, 64 bits with its header   Sony, "Wave64" (from memory)
MP3    the frames that a Xing or Info header counts          common practice, no source
"""

import os
import struct
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Final

_FLAC_COUNT: Final = slice(21, 26)  # the low half of its first byte, and all of the others
_NEVER_FINISHED: Final = frozenset({0, 0xFFFFFFFF, 0xFFFFFFFFFFFFFFFF})
_MAX_CHUNKS: Final = 10_000
_W64_DATA: Final = bytes.fromhex("64617461f3acd3118cd100c04f8edb8a")
_W64_FMT: Final = bytes.fromhex("666d7420f3acd3118cd100c04f8edb8a")
_AU_WIDTHS: Final = {1: 1, 2: 1, 3: 2, 4: 3, 5: 4, 6: 4, 7: 8, 27: 1}  # bytes of a sample, by its encoding
_ID3: Final = 10  # bytes of the header of an ID3v2 tag
# By version (MPEG 2.5, -, 2, 1): samples of a frame of layer III.
_MP3_SAMPLES: Final = (576, 0, 576, 1152)


@dataclass(frozen=True)
class Claim:
    """What a header promises: `frames`, None where it was never finished. `present` is how many the file has room for,
    None where only decoding it says, and `patches` are bytes by offset with which a decoder reads these. In a whole
    file both numbers are the same. A file of up to `tolerance` frames less is whole.
    """

    frames: int | None
    present: int | None
    patches: Mapping[int, bytes] = field(default_factory=dict)
    tolerance: int = 0

    @property
    def is_broken(self) -> bool:
        """Whether the file is known to be too short, before it is decoded."""
        return self.present is not None and self.present != self.frames


def read_claim(path: Path) -> Claim | None:
    """What the header of a FLAC, AIFF, AU, W64 or MP3 promises; None of other files, and where it promises nothing."""
    with path.open("rb", buffering=0) as file:
        fd, size = file.fileno(), os.fstat(file.fileno()).st_size
        head = os.pread(fd, 64, 0)
        claims: dict[bytes, Callable[[int, int, bytes], Claim | None]] = {
            b"fLaC": _read_flac,
            b"FORM": _read_aiff,
            b".snd": _read_au,
            b"riff": _read_w64,
            b"ID3\x02": _read_mp3,
            b"ID3\x03": _read_mp3,
            b"ID3\x04": _read_mp3,
        }
        read = claims.get(head[:4]) or (_read_mp3 if head[:1] == b"\xff" else None)
        return read(fd, size, head) if read else None


def _read_flac(_fd: int, _size: int, head: bytes) -> Claim | None:
    if len(head) < _FLAC_COUNT.stop:
        return None
    count = head[_FLAC_COUNT]
    frames = int.from_bytes(count, "big") & (1 << 36) - 1
    # Without a number libsndfile reads all present are, and does not seek after each of its reads.
    return Claim(frames or None, None, {_FLAC_COUNT.start: bytes([count[0] & 0xF0]) + bytes(4)})


def _read_aiff(fd: int, size: int, head: bytes) -> Claim | None:
    if head[8:12] not in (b"AIFF", b"AIFC"):
        return None
    chunks = {name: (at, claimed) for name, at, claimed in _iff_chunks(fd, size)}
    if b"COMM" not in chunks or b"SSND" not in chunks:
        return None
    comm, (sound, claimed) = chunks[b"COMM"][0], chunks[b"SSND"]
    channels, frames, bits = struct.unpack(">hIh", os.pread(fd, 8, comm).ljust(8, b"\0"))
    align = channels * ((bits + 7) // 8)
    kind = os.pread(fd, 4, comm + 18) if head[8:12] == b"AIFC" else b"NONE"
    if align <= 0 or kind not in (b"NONE", b"sowt", b"twos", b"fl32", b"FL32", b"fl64", b"FL64", b"in24", b"in32"):
        return None
    room = size - sound - 8  # after the offset and the size of its blocks
    unfinished = frames in _NEVER_FINISHED or (claimed in _NEVER_FINISHED and room > 0)
    if not unfinished and frames * align <= room:
        return Claim(frames, frames)
    present = max(0, room) // align
    patches = {
        4: struct.pack(">I", min(sound + 8 + present * align - 8, 0xFFFFFFFF)),
        comm + 2: struct.pack(">I", present),
        sound - 4: struct.pack(">I", min(8 + present * align, 0xFFFFFFFF)),
    }
    return Claim(None if unfinished else frames, present, patches)


def _iff_chunks(fd: int, size: int) -> Iterator[tuple[bytes, int, int]]:
    """Name, place of the body and claimed size of each chunk, up to the first that reaches past the end."""
    at = 12
    for _ in range(_MAX_CHUNKS):
        if at + 8 > size:
            return
        name, claimed = struct.unpack(">4sI", os.pread(fd, 8, at))
        yield name, at + 8, claimed
        at += 8 + claimed + (claimed & 1)
        if name == b"SSND" and claimed in _NEVER_FINISHED:
            return


def _read_au(_fd: int, size: int, head: bytes) -> Claim | None:
    offset, claimed, encoding, _, channels = struct.unpack_from(">IIIII", head.ljust(24, b"\0"), 4)
    align = channels * _AU_WIDTHS.get(encoding, 0)
    if not align or claimed == 0xFFFFFFFF or claimed <= size - offset:  # a stream says no size
        return None
    present = max(0, size - offset) // align
    return Claim(claimed // align, present, {8: struct.pack(">I", present * align)})


def _read_w64(fd: int, size: int, _head: bytes) -> Claim | None:
    at, align = 40, 0
    for _ in range(_MAX_CHUNKS):
        if at + 24 > size:
            return None
        guid, claimed = struct.unpack("<16sQ", os.pread(fd, 24, at))
        if guid == _W64_FMT:
            align = int.from_bytes(os.pread(fd, 2, at + 24 + 12), "little")
        if guid == _W64_DATA:
            break
        at += max(24, claimed + 7 & ~7)
    else:
        return None
    if not align:
        return None
    room = size - at - 24
    unfinished = (claimed <= 24 and room >= align) or claimed in _NEVER_FINISHED
    frames, present = (claimed - 24) // align, room // align
    if not unfinished and frames <= present:
        return Claim(frames, frames)
    patches = {
        16: struct.pack("<Q", at + 24 + present * align),
        at + 16: struct.pack("<Q", 24 + present * align),
    }
    return Claim(None if unfinished else frames, present, patches)


def _read_mp3(fd: int, _size: int, head: bytes) -> Claim | None:
    at = 0
    if head[:3] == b"ID3":
        at = _ID3 + sum((byte & 0x7F) << 7 * n for n, byte in enumerate(reversed(head[6:10])))
    frame = os.pread(fd, 256, at)
    if len(frame) < 200 or frame[0] != 0xFF or frame[1] & 0xE6 != 0xE2:  # no frame of layer III
        return None
    version = frame[1] >> 3 & 3
    mono = frame[3] >> 6 == 3
    side = (17 if mono else 32) if version == 3 else (9 if mono else 17)
    tag = frame[4 + side :]
    if tag[:4] not in (b"Xing", b"Info") or not tag[7] & 1:
        return None
    count = int.from_bytes(tag[8:12], "big")
    # An encoder's name stands where the LAME extension has its delay and padding, which no decoder gives back.
    optional = 12 + 4 * (tag[7] >> 1 & 1) + 100 * (tag[7] >> 2 & 1) + 4 * (tag[7] >> 3 & 1)
    gapless = tag[optional + 21 : optional + 24]
    frames = count * _MP3_SAMPLES[version]
    if len(gapless) == 3 and tag[optional : optional + 4].isalnum():
        frames -= (gapless[0] << 4 | gapless[1] >> 4) + ((gapless[1] & 0xF) << 8 | gapless[2])
    # Encoders differ by a frame or two in what they count.
    return Claim(frames, None, tolerance=3 * _MP3_SAMPLES[version]) if count else None
