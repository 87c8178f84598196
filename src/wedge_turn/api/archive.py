"""A folder as one ZIP, not compressed, made while it is sent: the same bytes every time, so that a download goes on
where it broke off (RFC 9110, section 14). Beyond 4 GiB it is a ZIP64.
"""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from fastapi import Response
from fastapi.responses import StreamingResponse
from zipstream import ZipStream

from wedge_turn.api.headers import as_file

# Of more digits than any file has bytes is no range: the whole is sent, as RFC 9110 has it.
_RANGE: Final = re.compile(r"bytes=(\d{0,18})-(\d{0,18})")


@dataclass(frozen=True)
class Archive:
    """Files of a folder, by their names in it, under a title that is the name of the ZIP and of the folder in it. `tag`
    stands for their content.
    """

    folder: Path
    names: Sequence[str]
    title: str
    tag: str

    def response(self, byte_range: str | None, if_range: str | None) -> Response:
        """All of it, or the part that was asked for: from a byte on, up to one, or the last bytes."""
        size, etag = len(self._zip()), f'"{self.tag}"'
        headers = {"Accept-Ranges": "bytes", "ETag": etag, **as_file(f"{self.title}.zip")}
        part = _RANGE.fullmatch(byte_range) if byte_range and if_range in (None, etag) else None
        if part is None or not any(part.groups()):
            return self._streamed(0, size, 200, headers)
        first, last = part.groups()
        start = int(first) if first else max(0, size - int(last))
        stop = min(size, int(last) + 1) if first and last else size
        if start >= stop:
            return Response(status_code=416, headers={"Content-Range": f"bytes */{size}"})
        headers["Content-Range"] = f"bytes {start}-{stop - 1}/{size}"
        return self._streamed(start, stop, 206, headers)

    def _streamed(self, start: int, stop: int, status: int, headers: dict[str, str]) -> Response:
        headers["Content-Length"] = str(stop - start)
        return StreamingResponse(self._bytes(start, stop), status, headers, media_type="application/zip")

    def _bytes(self, start: int, stop: int) -> Iterator[bytes]:
        """Bytes [start, stop). What comes before them is read too: the ZIP's end holds the checksum of every file."""
        at = 0
        for chunk in self._zip():
            first, last = max(start - at, 0), min(stop - at, len(chunk))
            if first < last:
                yield chunk if last - first == len(chunk) else chunk[first:last]
            at += len(chunk)
            if at >= stop:
                return

    def _zip(self) -> ZipStream:
        archive = ZipStream(sized=True)
        for name in self.names:
            archive.add_path(str(self.folder / name), f"{self.title}/{name}")
        return archive
