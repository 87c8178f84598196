"""Sound on disk, outside the database: each file once, under the BLAKE3 hash of its bytes.

BLAKE3 moves 5 GB/s here, SHA-256 370 MB/s (`make bench`), so that hashing costs an upload nothing.

    media/ab/abcd…        the file as it came in
    working/ab/abcd….wav  PCM of it, where it is no PCM WAV itself
    pictures/ab/abcd…     waveform and correlation, by the key of the clip
    deliveries/           what was written, by delivery

Whether a kept file is still what came in is checked by its size and modification time whenever it is opened, and by
its hash where these have changed, before it is delivered, and now and then (`tasks.janitor`). A working copy that is
gone or changed is made again.
"""

import os
import re
import shutil
import threading
from collections import OrderedDict
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Final

from sqlalchemy import delete, select

from wedge_turn.core.audio import WavFile, import_file
from wedge_turn.core.errors import ChangedError, MissingError
from wedge_turn.core.form import Form
from wedge_turn.core.metadata import Recorded
from wedge_turn.store.database import Database
from wedge_turn.store.rows import Medium, new_id
from wedge_turn.store.uploads import Arrived, hash_of

MAX_OPEN: Final = 1_000
_HASH: Final = re.compile(r"[0-9a-f]{64}")


@dataclass(frozen=True)
class ImportedFile:
    """A file that was recognised, before it is put in its place; `copy` is its working copy, where it needs one."""

    arrived: Arrived
    hash: str
    form: Form
    recorded: Recorded
    copy: Path | None

    def discard(self) -> None:
        if self.copy is not None:
            self.copy.unlink(missing_ok=True)


class Media:
    def __init__(self, root: Path, database: Database) -> None:
        self._root = root
        self._originals = str(root / "media")
        self._database = database
        self._opened: OrderedDict[str, WavFile] = OrderedDict()
        self._lock = threading.Lock()
        self._restoring = threading.Lock()
        self._facts_lock = threading.Lock()
        self._known: dict[str, Medium] | None = None
        self._damaged: set[str] = set()  # found changed by their hash, though size and time say nothing
        for name in ("media", "working", "pictures", "deliveries"):
            (root / name).mkdir(parents=True, exist_ok=True)

    def import_file(self, arrived: Arrived) -> ImportedFile:
        """Decide what a file is. Raises what `import_file` raises; nothing is kept yet."""
        hashed = arrived.hash
        accepted = import_file(
            arrived.path, arrived.name, lambda: self._temporary_copy(hashed), salvage=arrived.salvage
        )
        copy = None if accepted.pcm == arrived.path else accepted.pcm
        return ImportedFile(arrived, hashed, accepted.form, accepted.recorded, copy)

    def place(self, imported: ImportedFile) -> None:
        """Keep a file under its hash. One of this content that is kept already stays, for who is reading it; where it
        is gone or no longer what it was, this takes its place.
        """
        media, working = self.original(imported.hash), self._working(imported.hash)
        if self.problem(imported.hash, imported.arrived.name) is None and (imported.copy is None or working.exists()):
            return
        if imported.copy is not None:
            imported.copy.replace(working)
        media.parent.mkdir(parents=True, exist_ok=True)
        imported.arrived.path.replace(media)
        self._damaged.discard(imported.hash)
        self._note(imported.hash, imported.hash if imported.copy is None else hash_of(working))
        self._close(imported.hash)

    def open(self, media: str, name: str) -> WavFile:
        """The PCM of a kept file. Raises MissingError or ChangedError where it is not what came in."""
        with self._lock:
            file = self._opened.get(media)
            if file is not None:
                self._opened.move_to_end(media)
                return file
        path = self._checked_pcm(media, name)
        restore = None if path == self.original(media) else partial(self._restore, media, name)
        file = WavFile(path, name, restore=restore)
        with self._lock:
            self._opened[media] = file
            while len(self._opened) > MAX_OPEN:
                self._opened.popitem(last=False)
            return file

    def problem(self, media: str, name: str) -> str | None:
        """Why a kept file cannot be used, in a sentence; None where it is what came in, as far as size and time say."""
        try:
            self._check(media, name)
        except (MissingError, ChangedError) as error:
            self._close(media)
            return error.message
        return None

    def verify(self, media: str, name: str) -> None:
        """Check a kept file, and the PCM that is read of it, by their hashes. Raises MissingError or ChangedError."""
        facts = self._facts(media)
        path = self.original(media)
        if not path.exists():
            self._close(media)
            raise MissingError(f"{name} is missing from the data folder")
        if hash_of(path) != media:
            self._close(media)
            self._damaged.add(media)
            raise ChangedError(f"{name} has changed in the data folder since it was added")
        if facts is not None and facts.pcm_hash != media:
            working = self._working(media)
            if not working.exists() or hash_of(working) != facts.pcm_hash:
                self._close(media)
                self._make_working_copy(media, name)

    def _restore(self, media: str, name: str) -> None:
        """Make a working copy again unless it is there as it was. Raises MissingError or ChangedError."""
        facts, working = self._check(media, name), self._working(media)
        if working.exists() and hash_of(working) == facts.pcm_hash:
            return
        self._make_working_copy(media, name)
        if hash_of(working) != facts.pcm_hash:
            raise ChangedError(f"{name} is decoded otherwise than when it was added")

    def chunks(self, media: str, name: str) -> list[tuple[str, int]]:
        """The chunks of a WAV as it came in, and their sizes; none of other formats."""
        facts = self._facts(media)
        if facts is not None and facts.pcm_hash != media:
            return []
        return [(chunk.name.decode("latin-1"), chunk.size) for chunk in self.open(media, name).chunks]

    def forget(self, media: str) -> None:
        """Remove a file that no job has any more, with its pictures."""
        self._close(media)
        self.original(media).unlink(missing_ok=True)
        self._working(media).unlink(missing_ok=True)
        shutil.rmtree(self.pictures(media), ignore_errors=True)
        with self._facts_lock:
            with self._database.changing() as session:
                session.execute(delete(Medium).where(Medium.hash == media))
            if self._known is not None:
                self._known.pop(media, None)

    def clear_working_copy(self, media: str) -> None:
        """Remove the working copy of a file whose original is there. Who reads it now reads it to the end; who reads
        on later has it made again.
        """
        if self.original(media).exists():
            self._working(media).unlink(missing_ok=True)
            with self._lock:
                file = self._opened.get(media)
            if file is not None:
                file.close()

    def hashes(self) -> set[str]:
        """The hashes of all files that are kept."""
        return {path.name for path in (self._root / "media").glob("*/*") if _HASH.fullmatch(path.name)}

    def original(self, media: str) -> Path:
        """The file as it came in."""
        return self._root / "media" / media[:2] / media

    def pictures(self, key: str) -> Path:
        return self._root / "pictures" / key[:2] / key

    def delivery(self, delivery_id: str) -> Path:
        return self._root / "deliveries" / delivery_id

    def remove_delivery(self, delivery_id: str) -> None:
        shutil.rmtree(self.delivery(delivery_id), ignore_errors=True)

    def _checked_pcm(self, media: str, name: str) -> Path:
        facts = self._check(media, name)
        if facts.pcm_hash == media:
            return self.original(media)
        working = self._working(media)
        if not working.exists():
            self._make_working_copy(media, name)
        return working

    def _check(self, media: str, name: str) -> Medium:
        try:
            facts = os.stat(f"{self._originals}/{media[:2]}/{media}")  # noqa: PTH116  # for hundreds of files at a time
        except FileNotFoundError:
            raise MissingError(f"{name} is missing from the data folder") from None
        if media in self._damaged:
            raise ChangedError(f"{name} has changed in the data folder since it was added")
        noted = self._facts(media)
        if noted is None or (facts.st_size, facts.st_mtime_ns) != (noted.bytes, noted.modified_ns):
            if hash_of(self.original(media)) != media:
                raise ChangedError(f"{name} has changed in the data folder since it was added")
            working = self._working(media)
            pcm_hash = noted.pcm_hash if noted else hash_of(working) if working.exists() else media
            noted = self._note(media, pcm_hash)
        return noted

    def _make_working_copy(self, media: str, name: str) -> None:
        """Decode a kept file again; who comes meanwhile waits."""
        with self._restoring:
            copy = self._temporary_copy(media)
            with suppress(FileNotFoundError):
                # An incomplete one was taken in as it is.
                import_file(self.original(media), name, lambda: copy, salvage=True)
                copy.replace(self._working(media))
            self._note(media, hash_of(self._working(media)))

    def _facts(self, media: str) -> Medium | None:
        """What is known of a kept file; read once, because this process alone writes it."""
        with self._facts_lock:
            if self._known is None:
                with self._database.reading() as session:
                    self._known = {row.hash: row for row in session.scalars(select(Medium))}
            return self._known.get(media)

    def _note(self, media: str, pcm_hash: str) -> Medium:
        facts = self.original(media).stat()
        row = Medium(hash=media, bytes=facts.st_size, modified_ns=facts.st_mtime_ns, pcm_hash=pcm_hash)
        with self._facts_lock:
            with self._database.changing() as session:
                session.merge(row)
            if self._known is not None:
                self._known[media] = row
        return row

    def _close(self, media: str) -> None:
        with self._lock:
            file = self._opened.pop(media, None)
        if file is not None:
            file.close()

    def _working(self, media: str) -> Path:
        return self._root / "working" / media[:2] / f"{media}.wav"

    def _temporary_copy(self, media: str) -> Path:
        working = self._working(media)
        working.parent.mkdir(parents=True, exist_ok=True)
        return working.with_suffix(f".{new_id()}")
