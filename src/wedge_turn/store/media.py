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

from blake3 import blake3

from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.errors import NotFoundError, naming_disk_errors
from wedge_turn.core.intake import take_in
from wedge_turn.store.rows import new_id

MOST_OPEN: Final = 128


class Arriving:
    """A file on its way in. Left without `keep`, it is gone."""

    def __init__(self, folder: Path, name: str) -> None:
        self.name = name
        self.path = folder / new_id()
        self.size = 0
        self._hash = blake3()
        self._file = self.path.open("xb", buffering=0)

    def write(self, data: bytes) -> None:
        """Add bytes. Raises DiskFullError naming the file."""
        with naming_disk_errors(self.name):
            left = memoryview(data)
            while left:
                left = left[os.write(self._file.fileno(), left) :]
        self._hash.update(data)
        self.size += len(data)

    @property
    def hash(self) -> str:
        return self._hash.hexdigest()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, tb: TracebackType | None) -> None:
        self._file.close()
        self.path.unlink(missing_ok=True)


class Media:
    def __init__(self, root: Path) -> None:
        self._root = root
        self._open: OrderedDict[str, WavFile] = OrderedDict()
        self._lock = threading.Lock()
        shutil.rmtree(root / "arriving", ignore_errors=True)
        for name in ("media", "working", "pictures", "arriving", "deliveries"):
            (root / name).mkdir(parents=True, exist_ok=True)

    def arriving(self, name: str) -> Arriving:
        return Arriving(self._root / "arriving", name)

    def keep(self, arrived: Arriving) -> Form:
        """Decide what a file is and keep it. Raises what `take_in` raises; then nothing is kept."""
        media, working = self._media(arrived.hash), self._working(arrived.hash)

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
