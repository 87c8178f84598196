"""Proving a delivery again from its manifest and a copy of its sources, years later and on another machine. Sources are
known by what they hold, whatever they are called and wherever they lie.
"""

from collections.abc import Collection, Iterable, Iterator, Mapping
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from wedge_turn.core.audio import WavFile, open_files, open_readable
from wedge_turn.core.delivery.hashing import hash_file
from wedge_turn.core.delivery.manifest import Evidence, Manifest, ManifestFinding, ProvedFile
from wedge_turn.core.delivery.proving import compute_afresh
from wedge_turn.core.errors import Error
from wedge_turn.core.turns import TURN_ADAPTER, ClipInfo
from wedge_turn.core.worksheet import Plan, Sheet, Step, Stretch
from wedge_turn.proof import Failure, File, Proved, Recipe, Source, prove


@dataclass(frozen=True)
class Statement:
    """What was proved of files, in a sentence."""

    files: list[str]
    statement: str


@dataclass
class ProvedAgain:
    proved: list[Statement] = field(default_factory=list)
    findings: list[ManifestFinding] = field(default_factory=list)


def prove_again(
    folder: Path, manifest: Manifest, sources: Mapping[str, WavFile], changed: Collection[str]
) -> ProvedAgain:
    """Prove the files of a delivery by sources, which are by the checksum of what they hold. Files that have `changed`
    are known not to be what was written.
    """
    again = ProvedAgain()
    changed = set(changed)
    in_evidence = {file.name for evidence in manifest.evidence for file in evidence.files}
    for file in manifest.files:
        if not file.copied and file.name not in in_evidence and file.name not in changed:
            message = f"{file.name} matches its checksum, but an earlier version wrote it: it can't be proved again"
            again.findings.append(ManifestFinding(code="not-provable", message=message, files=(file.name,)))
    for evidence in manifest.evidence:
        names = [file.name for file in evidence.files]
        if changed & set(names):
            continue
        missing = sorted({source.name for source in evidence.sources.values() if source.pcm not in sources})
        if missing:
            message = f"{', '.join(names)} can't be proved: {', '.join(missing)} is not among the sources"
            again.findings.append(ManifestFinding(code="source-missing", message=message, files=tuple(names)))
            continue
        try:
            again.proved.append(Statement(names, _state(_prove(folder, evidence, sources))))
        except (Failure, Error, EOFError) as error:
            again.findings.append(ManifestFinding(code="not-proved", message=str(error), files=tuple(names)))
    return again


@contextmanager
def find_sources(folder: Path, manifests: Iterable[Manifest]) -> Iterator[dict[str, WavFile]]:
    """The sources that deliveries were made from, as far as they lie below a folder, by the checksum of what they hold.

    Raises what `opened_where_possible` raises.
    """
    hashes = {
        source.pcm for manifest in manifests for evidence in manifest.evidence for source in evidence.sources.values()
    }
    paths = sorted(path for path in folder.rglob("*") if path.is_file())
    with open_readable(paths, salvage=True) as (files, _):
        yield {pcm_hash: wav for _, _, wav in files if (pcm_hash := hash_file(wav.path)) in hashes}


def _prove(folder: Path, evidence: Evidence, sources: Mapping[str, WavFile]) -> list[Proved]:
    used = {key: sources[source.pcm] for key, source in evidence.sources.items()}
    numbers = {
        key: Source(used[key].path, source.channels, source.frames, source.rate, source.encoding)
        for key, source in evidence.sources.items()
    }
    recipe = Recipe(numbers, evidence.steps)
    with ExitStack() as stack:
        files = [_describe(folder / file.name, file, stack) for file in evidence.files]
        computes = any(step.turn["kind"] in ("centre", "resample") for step in evidence.steps.values())
        return (
            prove(recipe, files, compute_afresh(_rebuild_sheet(evidence, used))) if computes else prove(recipe, files)
        )


def _describe(path: Path, proved: ProvedFile, stack: ExitStack) -> File:
    """A file as it is to be proved; one that is no WAV is decoded first. Its checksum has been looked at."""
    mask, container = proved.mask, proved.container
    if path.suffix.lower() != ".wav":
        ((form, wav),) = stack.enter_context(open_files([path]))
        path, mask, container = wav.path, form.speaker_mask if form.channels > 2 else 0, "WAV"
    return File(
        path,
        proved.ref,
        proved.channels,
        proved.frames,
        proved.rate,
        proved.encoding,
        mask,
        container,
        int(proved.seed, 16) if proved.seed else None,
        proved.sparing,
        clipped=tuple(proved.clipped),
    )


def _rebuild_sheet(evidence: Evidence, used: Mapping[str, WavFile]) -> Sheet:
    """The worksheet by which lines are computed again that have no formulas."""
    steps = [
        Step(
            id=key,
            turn=TURN_ADAPTER.validate_python(dict(step.turn)),
            inputs=step.inputs,
            over=None if step.stretch is None else Stretch.model_validate(step.stretch),
            bypassed=step.bypassed,
        )
        for key, step in evidence.steps.items()
    ]
    infos = {key: ClipInfo(evidence.sources[key].name, wav.form) for key, wav in used.items()}
    return Sheet(Plan(steps=tuple(steps)), infos)


def _state(proofs: list[Proved]) -> str:
    dithered = ", dither included" if any(proved.file.seed is not None for proved in proofs) else ""
    afresh = proofs[0].afresh
    if afresh is not None:
        adds_up = "add up to the original; " if proofs[0].back == "adds up" else ""
        places = "place" if afresh[1] == 1 else "places"
        return f"{adds_up}computed afresh in {afresh[0]:,} of {afresh[1]:,} {places}{dithered}: identical"
    samples = sum(proved.found.samples for proved in proofs)
    return f"recomputed from the sources{dithered}: all {samples:,} samples identical"
