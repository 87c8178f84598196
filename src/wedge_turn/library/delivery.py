"""What was written, and how it may be."""

from dataclasses import dataclass
from pathlib import Path
from typing import TypedDict

from wedge_turn.core.delivery import ContainerName, DepthChoice, Manifest, ManifestFinding, Order, Progress, StepProof
from wedge_turn.core.naming import parse_naming


class Options(TypedDict, total=False):
    """How files are written; what each means stands with the function `deliver`."""

    format: ContainerName
    depth: DepthChoice
    dither: bool
    name: str
    overwrite: bool
    progress: Progress


def order_clips(refs: tuple[str, ...], options: Options) -> Order:
    """An order of these clips, with the usual where an option isn't given."""
    return Order(
        refs,
        options.get("depth", "same"),
        dither=options.get("dither", True),
        overwrite=options.get("overwrite", False),
        container=options.get("format", "wav"),
        naming=parse_naming(options.get("name", "{name}")),
    )


def get_progress(options: Options) -> Progress:
    """What is told the share that is done."""
    return options.get("progress", lambda _: None)


@dataclass(frozen=True)
class Delivery:
    """Files that were written and proved.

    Attributes
    ----------
    folder : Path
        Where they lie.
    manifest : Manifest
        Everything about them, as `wedge-turn-manifest.json` has it.
    """

    folder: Path
    manifest: Manifest

    @property
    def files(self) -> list[Path]:
        """The files, in the order of their clips."""
        return [self.folder / file.name for file in self.manifest.files]

    @property
    def proofs(self) -> list[StepProof]:
        """What was proved: `proof.statement` says it in a sentence."""
        return self.manifest.proofs

    @property
    def findings(self) -> list[ManifestFinding]:
        """What should be known about the files: what clipped, what could not go along."""
        return self.manifest.findings
