"""The deliveries in a tree of folders checked against their manifests, and proved again where the sources are there."""

from contextlib import ExitStack
from dataclasses import dataclass, field
from pathlib import Path

from wedge_turn.core.delivery import (
    ManifestFinding,
    Progress,
    find_deliveries,
    find_sources,
    find_unlisted,
    prove_again,
    read_manifest,
    verify,
)


@dataclass
class Verification:
    """How many files were checked in how many folders, and what was found: `findings` say what is wrong, with the files
    by their paths from the folder that was checked; `unlisted` are files that no manifest names; `proved` has a
    sentence for the files that were proved again, None where that was not asked for.
    """

    files: int
    folders: int
    findings: list[ManifestFinding] = field(default_factory=list)
    unlisted: list[Path] = field(default_factory=list)
    proved: list[tuple[tuple[Path, ...], str]] | None = None

    @property
    def ok(self) -> bool:
        return not self.findings


def verify_tree(folder: Path, sources: Path | None = None, progress: Progress = lambda _: None) -> Verification:
    """Check a delivery, or every delivery in a tree of folders; with `sources`, a folder with the files that they were
    made from, under whatever names, prove them again.

    Raises NotFoundError where there is no delivery, BadRequestError where a manifest can't be read.
    """
    manifests = {place: read_manifest(place) for place in find_deliveries(folder) or [folder]}
    count = sum(len(manifest.files) for manifest in manifests.values())
    result = Verification(count, len(manifests), proved=[] if sources else None)
    done = 0
    with ExitStack() as stack:
        known_sources = stack.enter_context(find_sources(sources, manifests.values())) if sources else None
        for place, manifest in manifests.items():
            size, within = len(manifest.files), place.relative_to(folder)

            def tell(share: float, done: int = done, size: int = size) -> None:
                progress((done + share * size) / max(1, count))

            findings = verify(place, tell)
            if known_sources is not None and result.proved is not None:
                changed = {name for finding in findings for name in finding.files}
                again = prove_again(place, manifest, known_sources, changed)
                findings += again.findings
                result.proved += [
                    (tuple(within / name for name in statement.files), statement.statement)
                    for statement in again.proved
                ]
            where = "" if within == Path() else f"{within}: "
            result.findings += [
                finding.model_copy(
                    update={
                        "files": tuple(str(within / name) for name in finding.files),
                        "message": where + finding.message,
                    }
                )
                for finding in findings
            ]
            result.unlisted += [within / name for name in find_unlisted(place)]
            done += size
    return result
