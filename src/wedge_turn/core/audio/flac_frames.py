"""Where the frames of a FLAC start, found by their headers, so that reading can go on after damage (RFC 9639, 9.1)."""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from wedge_turn.core.audio.spliced import SplicedFile

_STREAMINFO: Final = slice(8, 42)
_COUNT_AND_MD5: Final = slice(13, 34)  # within STREAMINFO, from the byte that also holds bits of the depth
_BLOCK: Final = 1 << 20
_MAX_HEADER: Final = 16  # bytes
_SIZES: Final = {1: 192, **{n: 144 << n for n in range(2, 6)}, **{n: 1 << n for n in range(8, 16)}}


@dataclass(frozen=True)
class FlacFrame:
    """A frame's place in the file, and the number of its first sample."""

    offset: int
    sample: int


def find_frames(path: Path, after: int) -> Iterator[FlacFrame]:
    """What looks like the header of a frame that starts after a sample, in the order of the file."""
    with path.open("rb") as file:
        head = file.read(_STREAMINFO.stop)
        smallest, largest = (int.from_bytes(head[at : at + 2], "big") for at in (8, 10))
        file.seek(0)
        before, tail = 0, b""
        while block := file.read(_BLOCK):
            text = tail + block
            at = text.find(b"\xff", 0, len(text) - _MAX_HEADER)
            while at >= 0:
                if text[at + 1] & 0xFE == 0xF8:
                    sample = _read_header(text[at : at + _MAX_HEADER], largest if smallest == largest else None)
                    if sample is not None and sample > after:
                        yield FlacFrame(before + at, sample)
                at = text.find(b"\xff", at + 1, len(text) - _MAX_HEADER)
            tail = text[-_MAX_HEADER:]
            before += len(text) - len(tail)


def open_from_frame(path: Path, frame: FlacFrame) -> SplicedFile:
    """A FLAC that starts with this frame, without a length or a checksum in its header."""
    with path.open("rb") as file:
        info = bytearray(file.read(_STREAMINFO.stop)[_STREAMINFO])
    info[_COUNT_AND_MD5] = bytes([info[_COUNT_AND_MD5.start] & 0xF0]) + bytes(20)
    return SplicedFile(path, [b"fLaC\x80\0\0\x22" + bytes(info), (frame.offset, path.stat().st_size - frame.offset)])


def _read_header(header: bytes, block_size: int | None) -> int | None:
    """The number of the first sample, None where these bytes are no header. `block_size` is that of all but the last
    frame, where they share one.
    """
    size_code, rate_code, channels, depth = header[2] >> 4, header[2] & 15, header[3] >> 4, header[3] >> 1 & 7
    if size_code == 0 or rate_code == 15 or channels > 10 or depth == 3 or header[3] & 1:
        return None
    number, at = _read_number(header, 4)
    if number is None:
        return None
    stored = 1 if size_code == 6 else 2 if size_code == 7 else 0
    size = int.from_bytes(header[at : at + stored], "big") + 1 if stored else _SIZES[size_code]
    at += stored + (1 if rate_code == 12 else 2 if rate_code in (13, 14) else 0)
    if at >= len(header) or _crc8(header[:at]) != header[at]:
        return None
    return number if header[1] & 1 else number * (block_size or size)


def _read_number(header: bytes, at: int) -> tuple[int | None, int]:
    """A number coded as UTF-8 codes characters, up to 36 bits long, and where it ends."""
    first = header[at]
    if first < 0x80:
        return first, at + 1
    length = 8 - (~first & 0xFF).bit_length() if first < 0xFF else 8
    if not 2 <= length <= 7:
        return None, at
    number = first & (1 << 7 - length) - 1
    for byte in header[at + 1 : at + length]:
        if byte & 0xC0 != 0x80:
            return None, at
        number = number << 6 | byte & 0x3F
    return number, at + length


def _crc8(data: bytes) -> int:
    """Of the polynomial x^8 + x^2 + x + 1."""
    crc = 0
    for byte in data:
        crc ^= byte
        for _ in range(8):
            crc = (crc << 1 ^ 7) & 0xFF if crc & 0x80 else crc << 1
    return crc
