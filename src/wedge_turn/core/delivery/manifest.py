"""What a folder of delivered files holds, as a file in it, and checking the files against it."""

import hashlib
import json
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Final, Literal

from pydantic import BaseModel, ValidationError
from xxhash import xxh3_128

from wedge_turn.core.audio.encoding import DepthName
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.errors import BadRequestError, NotFoundError, WedgeTurnError
from wedge_turn.core.proof import Proof
from wedge_turn.core.turns import Finding

MANIFEST: Final = "wedge-turn-manifest.json"
Progress = Callable[[float], None]  # is told the share that is done, 0 to 1; may raise StoppedError


class DeliveredFile(BaseModel):
    """One written file. `made_of` names what went in, `xxh128` is the XXH3 checksum of the whole file."""

    name: str
    channels: int
    frames: int
    rate: int
    depth: DepthName
    start_time: int | None
    bytes: int
    xxh128: str
    made_of: list[str]
    clip_key: str
    clipped: list[int]
    dithered: bool = False


class StepProof(BaseModel):
    """The proof of one step, with the files it was taken from."""

    turn: str
    sentence: str
    files: list[str]
    key: str
    proof: Proof


class Manifest(BaseModel):
    """What a folder of delivered files holds; `wedge-turn verify` checks the files against it."""

    format: Literal["wedge-turn-manifest"] = "wedge-turn-manifest"
    version: Literal[1] = 1
    made: datetime
    files: list[DeliveredFile]
    proofs: list[StepProof]
    findings: list[Finding] = []


def joined(folder: Path, new: Manifest) -> Manifest:
    """The manifest of the folder with these files added; entries of overwritten files are replaced."""
    if not (folder / MANIFEST).exists():
        return new
    old = read_manifest(folder)
    names = {file.name for file in new.files}
    return Manifest(
        made=new.made,
        files=[f for f in old.files if f.name not in names] + new.files,
        proofs=[p for p in old.proofs if not names & set(p.files)] + new.proofs,
        findings=old.findings + new.findings,
    )


def verify(folder: Path, progress: Progress = lambda _: None) -> list[Finding]:
    """Check a delivery against its manifest; an empty list says that every file is as it was written."""
    manifest = read_manifest(folder)
    findings: list[Finding] = []
    for n, file in enumerate(manifest.files):
        path = folder / file.name
        try:
            with WavFile(path, file.name) as wav:
                form = wav.form
            if hash_file(path) != file.xxh128:
                findings.append(Finding(code="changed", message=f"{file.name} is not as it was written"))
            elif (form.channels, form.frames, form.rate) != (file.channels, file.frames, file.rate):
                findings.append(Finding(code="changed", message=f"{file.name} is not what the manifest says"))
        except FileNotFoundError:
            findings.append(Finding(code="missing", message=f"{file.name} is missing"))
        except WedgeTurnError as error:
            findings.append(Finding(code="changed", message=error.message))
        progress((n + 1) / len(manifest.files))
    return findings


def read_manifest(folder: Path) -> Manifest:
    """Raises NotFoundError where the folder has no manifest, BadRequestError where it cannot be read."""
    try:
        return Manifest.model_validate_json((folder / MANIFEST).read_bytes())
    except FileNotFoundError:
        raise NotFoundError(f"{folder.name} holds no {MANIFEST}: it is no delivery") from None
    except (ValidationError, json.JSONDecodeError):
        raise BadRequestError(f"The {MANIFEST} in {folder.name} cannot be read") from None


def hash_file(path: Path) -> str:
    """XXH3 checksum of a file, 128 bits, in hexadecimal."""
    with path.open("rb", buffering=0) as file:
        digest: str = hashlib.file_digest(file, xxh3_128).hexdigest()
        return digest
