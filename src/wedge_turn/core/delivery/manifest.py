"""What a folder of delivered files holds, as a file in it, and checking the files against it.

Versions: 1 named for each file what it was made of and kept findings without their files; 2 says where a file was read
back from, and to which files a finding belongs; 3 in which format each is, what it was made from and by which lines; 4
all that it takes to prove the files again. An older manifest is brought up to date when it is read.
"""

import json
import os
from collections.abc import Callable
from datetime import datetime
from pathlib import Path, PurePosixPath
from typing import Any, Final, Literal

from pydantic import BaseModel, ValidationError

from wedge_turn.core.audio import WavFile
from wedge_turn.core.delivery.hashing import hash_file
from wedge_turn.core.delivery.placing import find_interrupted
from wedge_turn.core.delivery.proof import Proof, ReadBack
from wedge_turn.core.errors import BadRequestError, Error, NotFoundError
from wedge_turn.core.form import BrokenOff, DepthName, EncodingName, Form
from wedge_turn.core.naming import is_inside
from wedge_turn.core.turns import Finding
from wedge_turn.proof import Step

MANIFEST: Final = "wedge-turn-manifest.json"
REPORT: Final = "wedge-turn-report.html"
# What was done with a whole folder, in words.
FOLDER_REPORT: Final = "wedge-turn-report.txt"
Progress = Callable[[float], None]  # is told the share that is done, 0 to 1; may raise StoppedError


class DeliveredFile(BaseModel):
    """One written file. `name` has the folders it lies in, after `/`; `xxh128` is the XXH3 checksum of the whole file;
    `clipped` counts samples by channel; `read_back` says whether the proof read the disk or the system's cache, None
    where that was not noted; `copied` that the file is a source as it came, byte for byte; `container` is its format;
    `sources` are the names of what it was made from. `key` stands for all that decides its bytes and `clip_key` for
    what decides its samples before a range or a depth is chosen, both empty where sources were not identified; `kept`
    says that it was taken over from an earlier delivery. `outline` is a picture of each channel: base64 of signed
    bytes, lowest and highest sample by turns, 127 at full scale.
    """

    name: str
    channels: int
    frames: int
    rate: int
    depth: DepthName
    start_time: int | None
    bytes: int
    xxh128: str
    clipped: list[int]
    dithered: bool = False
    read_back: ReadBack | None = None
    copied: bool = False
    container: str = "WAV"
    sources: list[str] = []
    key: str = ""
    clip_key: str = ""
    kept: bool = False
    outline: list[str] = []


class SourceFile(BaseModel):
    """A file that delivered ones were made from. `name` has the folders it came from; `hash` names its algorithm and is
    empty where the file was not identified; `pcm` is the XXH3 checksum of the WAV that its samples were read from, the
    file itself where it is one, empty in what earlier versions stored; `broken_off` says how much of it there was.
    """

    name: str
    channels: int
    frames: int
    rate: int
    depth: DepthName
    container: str
    start_time: int | None
    hash: str = ""
    pcm: str = ""
    broken_off: BrokenOff | None = None
    outline: list[str] = []


class Line(BaseModel):
    """One line of the worksheet as it was: what was done, with all settings, over which stretch, and why."""

    sentence: str
    turn: dict[str, Any]
    over: dict[str, Any] | None = None
    reason: str = ""
    inputs: list[str]
    results: list[str]
    files: list[str]


class ManifestFinding(Finding):
    """A finding with the files that it is about."""

    files: tuple[str, ...]


class StepProof(BaseModel):
    """The proof of one step, with the files it was taken from."""

    turn: str
    sentence: str
    files: list[str]
    key: str
    proof: Proof


class ProvedSource(BaseModel):
    """A source that files were proved by, and the XXH3 checksum of the WAV that its samples were read from."""

    name: str
    channels: int
    frames: int
    rate: int
    encoding: EncodingName
    pcm: str = ""


class ProvedFile(BaseModel):
    """A file as it was proved: the WAV that it is, or that it was encoded from. `seed` is that of its dither, in
    hexadecimal, empty where there is none; `sparing` leaves samples without it that the depth holds.
    """

    name: str
    ref: str
    channels: int
    frames: int
    rate: int
    encoding: EncodingName
    mask: int
    container: Literal["WAV", "BW64"]
    seed: str = ""
    sparing: bool = False
    clipped: list[int]


class Evidence(BaseModel):
    """By what numbers files that were written together were proved, so that with the sources they can be proved again,
    anywhere. Sources and steps are called by their ids.
    """

    sources: dict[str, ProvedSource]
    steps: dict[str, Step]
    files: list[ProvedFile]


class Manifest(BaseModel):
    """What a folder of delivered files holds; `wedge-turn verify` checks the files against it."""

    format: Literal["wedge-turn-manifest"] = "wedge-turn-manifest"
    version: Literal[4] = 4
    application: str = ""
    job: str = ""
    made: datetime
    files: list[DeliveredFile]
    proofs: list[StepProof]
    findings: list[ManifestFinding] = []
    sources: list[SourceFile] = []
    lines: list[Line] = []
    evidence: list[Evidence] = []


def summarize(manifest: Manifest) -> Manifest:
    """The manifest without outlines and evidence, which are most of it."""
    bare: dict[str, Any] = {"outline": []}
    return manifest.model_copy(
        update={
            "files": [file.model_copy(update=bare) for file in manifest.files],
            "sources": [source.model_copy(update=bare) for source in manifest.sources],
            "evidence": [],
        }
    )


def manifest_schema() -> dict[str, Any]:
    """The JSON Schema of a manifest's file."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Manifest.model_json_schema()}


def upgraded(stored: dict[str, Any]) -> dict[str, Any]:
    """A stored manifest as the present version has it."""
    if stored.get("version") in (2, 3):
        return {**stored, "version": 4}
    if stored.get("version") != 1:
        return stored
    names = [file["name"] for file in stored["files"]]

    def about(message: str) -> list[str]:
        return [name for name in names if message.startswith(f"{name}:")] or names

    dropped = ("made_of", "clip_key")
    return {
        **stored,
        "version": 4,
        "files": [{key: value for key, value in file.items() if key not in dropped} for file in stored["files"]],
        "findings": [{**finding, "files": about(finding["message"])} for finding in stored.get("findings", [])],
    }


def merge_manifests(folder: Path, new: Manifest) -> Manifest:
    """The manifest of the folder with these files added; what is said of overwritten files is replaced."""
    if not (folder / MANIFEST).exists():
        return new
    old = read_manifest(folder)
    names = {file.name for file in new.files}
    files = [file for file in old.files if file.name not in names] + new.files
    used = {name for file in files for name in file.sources} - {source.name for source in new.sources}
    return new.model_copy(
        update={
            "files": files,
            "proofs": [p for p in old.proofs if not names & set(p.files)] + new.proofs,
            "findings": [f for f in old.findings if not names & set(f.files)] + new.findings,
            "sources": [source for source in old.sources if source.name in used] + new.sources,
            "lines": [line for line in old.lines if not names & set(line.files)] + new.lines,
            "evidence": [e for e in old.evidence if not names & {file.name for file in e.files}] + new.evidence,
        }
    )


def verify(folder: Path, progress: Progress = lambda _: None) -> list[ManifestFinding]:
    """Check a delivery against its manifest; an empty list says that every file is as it was written."""
    manifest = read_manifest(folder)
    findings: list[ManifestFinding] = []
    for n, file in enumerate(manifest.files):
        if (wrong := _find_change(folder / file.name, file)) is not None:
            findings.append(_find_renamed(folder, file) or wrong if wrong.code == "missing" else wrong)
        progress((n + 1) / len(manifest.files))
    if find_interrupted(folder):
        message = "A delivery into this folder was interrupted while its files took their places: run it again"
        findings.append(ManifestFinding(code="interrupted", message=message, files=()))
    return findings


def _find_renamed(folder: Path, file: DeliveredFile) -> ManifestFinding | None:
    """A missing file that lies in the folders of its delivery under another name; None where it doesn't."""
    for name in find_unlisted(folder):
        path = folder / name
        if path.stat().st_size == file.bytes and hash_file(path) == file.xxh128:
            message = f"{file.name} has been renamed to {name}"
            return ManifestFinding(code="renamed", message=message, files=(file.name,))
    return None


def _find_change(path: Path, file: DeliveredFile) -> ManifestFinding | None:
    """What is wrong with one file; None where it is as it was written."""

    def finding(code: str, message: str) -> ManifestFinding:
        return ManifestFinding(code=code, message=message, files=(file.name,))

    try:
        # Of what is no WAV, and of a copy of any format, its hash says all there is to say.
        form = None if file.copied or file.container not in ("WAV", "BW64") else _form_of(path, file.name)
        if hash_file(path) != file.xxh128:
            return finding("changed", f"{file.name} has changed since it was written")
        if form and (form.channels, form.frames, form.rate) != (file.channels, file.frames, file.rate):
            return finding("changed", f"{file.name} does not match the manifest")
    except FileNotFoundError:
        return finding("missing", f"{file.name} is missing")
    except OSError as error:
        return finding("unreadable", f"{file.name} cannot be read: {error.strerror}")
    except Error as error:
        return finding("changed", error.message)
    return None


def _form_of(path: Path, name: str) -> Form:
    with WavFile(path, name) as wav:
        return wav.form


def find_deliveries(folder: Path) -> list[Path]:
    """The folders of a tree that hold a manifest, the tree's own first."""
    folders = [Path(at) for at, _, files in os.walk(folder) if MANIFEST in files]
    return sorted(folders, key=lambda path: path.parts)


def find_unlisted(folder: Path) -> list[str]:
    """Files of a delivery's folders that its manifest does not name."""
    listed = [file.name for file in read_manifest(folder).files]
    listed_names = {MANIFEST, REPORT, FOLDER_REPORT, *listed}
    inside = {PurePosixPath("."), *(PurePosixPath(name).parent for name in listed)}
    unlisted = [
        (place / path.name).as_posix()
        for place in inside
        if (folder / place).is_dir()
        for path in (folder / place).iterdir()
        if path.is_file()
    ]
    return sorted(set(unlisted) - listed_names)


def read_manifest(folder: Path) -> Manifest:
    """Raises NotFoundError where the folder has no manifest, BadRequestError where it cannot be read."""
    try:
        manifest = read_manifest_of(json.loads((folder / MANIFEST).read_bytes()))
    except (FileNotFoundError, NotADirectoryError):
        raise NotFoundError(f"{folder.name or folder} has no {MANIFEST}: it is not a delivery") from None
    except (ValidationError, ValueError, KeyError, TypeError, AttributeError, RecursionError):
        raise BadRequestError(
            f"The {MANIFEST} in {folder.name or folder} cannot be read",
            help="It is damaged, or from a later version. Choose another folder, or move it away.",
        ) from None
    for file in manifest.files:
        if not is_inside(file.name):
            raise BadRequestError(
                f"The {MANIFEST} in {folder.name or folder} names a file outside the folder",
                help="It was not written like that: don't trust this folder.",
            )
    return manifest


def read_manifest_of(stored: dict[str, Any]) -> Manifest:
    """A manifest from JSON of any version. Raises ValidationError, KeyError or TypeError for what is none."""
    return Manifest.model_validate(upgraded(stored))
