"""Files that a delivery takes along byte for byte, proved by their hashes."""

import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from xxhash import xxh3_128

from wedge_turn.core.delivery.hashing import hash_stored, write_whole
from wedge_turn.core.delivery.writing import WrittenFile
from wedge_turn.core.errors import ProofFailedError, naming_disk_errors
from wedge_turn.core.form import Form

_BLOCK: Final = 1 << 20


@dataclass(frozen=True)
class Copy:
    """A file on disk, its form, the name that its copy is to have, and the folder it came from."""

    path: Path
    name: str
    form: Form
    folder: str = ""

    @property
    def place(self) -> str:
        """The name with its folder."""
        return f"{self.folder}/{self.name}" if self.folder else self.name


def write_copy(copy: Copy, to: Path, watch: Callable[[int], None]) -> WrittenFile:
    """Copy a file, flush it and read it back. `watch` is told of its samples, three times over all.

    Raises ProofFailedError where it isn't the same, DiskFullError, or what `watch` raises.
    """
    digest = xxh3_128()
    samples, size, reported = copy.form.frames * copy.form.channels, max(1, copy.path.stat().st_size), 0
    with copy.path.open("rb", buffering=0) as source, naming_disk_errors(to.name), to.open("xb", buffering=0) as target:
        while block := source.read(_BLOCK):
            digest.update(block)
            write_whole(target.fileno(), block)
            share = 2 * samples * len(block) // size
            watch(share)
            reported += share
        os.fsync(target.fileno())
    stored, read_back = hash_stored(to)
    if stored != digest.hexdigest():
        raise ProofFailedError(f"{to.name} could not be read back as it was written")
    watch(max(0, 3 * samples - reported))
    return WrittenFile(stored, [0] * copy.form.channels, 0.0, read_back)
