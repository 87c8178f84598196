"""Taking over from an earlier delivery what would be written again byte for byte."""

import contextlib
import os
import shutil
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Self

from wedge_turn.core.delivery.copies import Copy
from wedge_turn.core.delivery.file_findings import OF_FILES
from wedge_turn.core.delivery.hashing import hash_file
from wedge_turn.core.delivery.manifest import (
    DeliveredFile,
    Evidence,
    Manifest,
    ManifestFinding,
    StepProof,
    read_manifest,
)
from wedge_turn.core.errors import Error


@dataclass(frozen=True)
class ReusedFile:
    """Files that are reused, with their proofs, their findings and the evidence of the proofs."""

    files: list[DeliveredFile]
    proofs: list[StepProof]
    findings: list[ManifestFinding]
    evidence: list[Evidence]


class ReusableFiles:
    """An earlier delivery in its folder. Files are taken over by a second name where they `may_link`, which nobody must
    do who could edit one of the two; otherwise they are copied.
    """

    def __init__(self, folder: Path, manifest: Manifest, *, may_link: bool) -> None:
        self.folder, self.may_link = folder, may_link
        self._manifest = manifest
        self._files = {file.name: file for file in manifest.files}

    @classmethod
    def at(cls, folder: Path | None, *, may_link: bool) -> Self | None:
        """The delivery that a folder holds; None without one that can be read."""
        if folder is None:
            return None
        with contextlib.suppress(Error, OSError):
            return cls(folder, read_manifest(folder), may_link=may_link)
        return None

    def take(self, wanted: Mapping[str, str], staging: Path) -> ReusedFile | None:
        """Take over files that are written together, by name and key; None unless all of them are there, are still what
        was written, and were proved.
        """
        names = set(wanted)
        files = [self._files[name] for name in wanted if name in self._files]
        proofs = [proof for proof in self._manifest.proofs if names >= set(proof.files)]
        proved = {name for proof in proofs for name in proof.files}
        if proved != names or any(not file.key or file.key != wanted[file.name] for file in files):
            return None
        if not all(self._put(file, staging) for file in files):
            for name in names:
                (staging / name).unlink(missing_ok=True)
            return None
        findings = [f for f in self._manifest.findings if f.code in OF_FILES and names & set(f.files)]
        evidence = [e for e in self._manifest.evidence if names >= {file.name for file in e.files}]
        return ReusedFile([file.model_copy(update={"kept": True}) for file in files], proofs, findings, evidence)

    def take_copy(self, copy: Copy, name: str, staging: Path) -> DeliveredFile | None:
        """Take over a file that is a source as it came; None unless it is there and still the same as the source."""
        file = self._files.get(name)
        if file is None or not file.copied or file.xxh128 != hash_file(copy.path) or not self._put(file, staging):
            return None
        return file.model_copy(update={"kept": True})

    def _put(self, file: DeliveredFile, staging: Path) -> bool:
        """Put a file among those that are about to be delivered, if it is what it was."""
        source, target = self.folder / file.name, staging / file.name
        target.unlink(missing_ok=True)
        try:
            if hash_file(source) != file.xxh128:
                return False
            if self.may_link and _link(source, target):
                return True
            with source.open("rb") as reading, target.open("xb") as writing:
                shutil.copyfileobj(reading, writing)
                writing.flush()
                os.fsync(writing.fileno())
            return hash_file(target) == file.xxh128
        except OSError:
            return False


def _link(source: Path, target: Path) -> bool:
    """Give a file a second name; False where it can't have one, as on another disk."""
    try:
        target.hardlink_to(source)
    except OSError:
        return False
    return True
