"""Sound on disk, outside the database: each file once, under the BLAKE3 hash of its bytes.

BLAKE3 moves 5 GB/s here, SHA-256 370 MB/s (`make bench`), so that hashing costs an upload nothing.

    media/ab/abcd…        the file as it came in
    working/ab/abcd….wav  PCM of it, where it is no PCM WAV itself
    pictures/ab/abcd…     waveform and correlation, by the key of the clip
    arriving/             uploads on their way
"""

import os
import shutil
import threading
from collections import OrderedDict
from pathlib import Path
from types import TracebackType
from typing import Final, Self

from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.errors import NotFoundError
from wedge_turn.core.intake import take_in
from wedge_turn.store.rows import new_id
from wedge_turn.store.uploads import Arrived, Uploads, append

MOST_OPEN: Final = 128


class Arriving(Arrived):
    """A file on its way in, all at once. Left without `keep`, it is gone."""

    def __init__(self, folder: Path, name: str) -> None:
        path = folder / new_id()
        self._fd = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o644)
        super().__init__(path, name)

    def write(self, data: bytes) -> None:
        """Add bytes. Raises DiskFullError naming the file."""
        append(self._fd, data, self.name)
        self.size += len(data)

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, tb: TracebackType | None) -> None:
        os.close(self._fd)
        self.path.unlink(missing_ok=True)


class Media:
    def __init__(self, root: Path) -> None:
        self._root = root
        self._open: OrderedDict[str, WavFile] = OrderedDict()
        self._lock = threading.Lock()
        for name in ("media", "working", "pictures", "deliveries"):
            (root / name).mkdir(parents=True, exist_ok=True)
        self.uploads = Uploads(root / "arriving")

    def arriving(self, name: str) -> Arriving:
        return Arriving(self._root / "arriving", name)

    def keep(self, arrived: Arrived, hashed: str) -> Form:
        """Decide what a file is and keep it under its hash. Raises what `take_in` raises; then nothing is kept."""
        media, working = self._media(hashed), self._working(hashed)

        def working_copy() -> Path:
            working.parent.mkdir(parents=True, exist_ok=True)
            return working.with_suffix(f".{new_id()}")

        form, pcm = take_in(arrived.path, arrived.name, working_copy)
        if pcm != arrived.path:
            pcm.replace(working)
        media.parent.mkdir(parents=True, exist_ok=True)
        arrived.path.replace(media)
        return form

    def pcm(self, media: str, name: str) -> WavFile:
        """The PCM of a kept file, opened; files stay open while somebody uses them or they were used lately.

        Raises NotFoundError where the file was taken away behind our back.
        """
        with self._lock:
            file = self._open.get(media)
            if file is None:
                working = self._working(media)
                try:
                    file = WavFile(working if working.exists() else self._media(media), name)
                except FileNotFoundError:
                    raise NotFoundError(f"{name} is gone from the folder where files are kept") from None
                self._open[media] = file
            self._open.move_to_end(media)
            while len(self._open) > MOST_OPEN:
                self._open.popitem(last=False)  # closed when its last reader lets go of it
            return file

    def chunks(self, media: str, name: str) -> list[tuple[str, int]]:
        """The chunks of a WAV as it came in, and their sizes; none of other formats."""
        path = self._media(media)
        if self._working(media).exists() or not path.exists():
            return []
        return [(chunk.name.decode("latin-1"), chunk.size) for chunk in self.pcm(media, name).chunks]

    def forget(self, media: str) -> None:
        """Remove a file that no job has any more."""
        with self._lock:
            self._open.pop(media, None)
        self._media(media).unlink(missing_ok=True)
        self._working(media).unlink(missing_ok=True)
        shutil.rmtree(self.pictures(media), ignore_errors=True)

    def pictures(self, key: str) -> Path:
        return self._root / "pictures" / key[:2] / key

    def delivery(self, delivery_id: str) -> Path:
        return self._root / "deliveries" / delivery_id

    def _media(self, media: str) -> Path:
        return self._root / "media" / media[:2] / media

    def _working(self, media: str) -> Path:
        return self._root / "working" / media[:2] / f"{media}.wav"
