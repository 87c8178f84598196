"""The report of a delivery: one HTML file that needs nothing else, made of the manifest alone.

The same manifest gives the same report, byte for byte.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from functools import cache
from importlib.resources import files
from typing import TYPE_CHECKING, Any, Final

import numpy as np

from wedge_turn.core.delivery.manifest import DeliveredFile, Line, Manifest, ManifestFinding, SourceFile, StepProof
from wedge_turn.core.delivery.outline import list_columns

if TYPE_CHECKING:
    from jinja2 import Template

_HEIGHT: Final = 40  # of one channel's picture, in the units of its drawing
_DEPTHS: Final = {"float": "32-bit float", "double": "64-bit float"}


@dataclass(frozen=True)
class _Part:
    """Files that one proof is about, what they were made from, by which lines, and the findings about them."""

    proof: StepProof
    sources: list[SourceFile]
    files: list[DeliveredFile]
    lines: list[Line]
    findings: list[ManifestFinding]


def render_report(manifest: Manifest) -> str:
    """The report as HTML."""
    parts = list(_parts(manifest))
    told_elsewhere = {id(finding) for part in parts for finding in part.findings}
    return load_template().render(
        manifest=manifest,
        parts=parts,
        copied=[file for file in manifest.files if file.copied],
        others=[finding for finding in manifest.findings if id(finding) not in told_elsewhere],
        exact=sum(proof.proof.exact for proof in manifest.proofs),
        clipped=sum(sum(file.clipped) for file in manifest.files),
    )


def _parts(manifest: Manifest) -> Iterator[_Part]:
    for proof in manifest.proofs:
        names = set(proof.files)
        files = [file for file in manifest.files if file.name in names]
        used = {name for file in files for name in file.sources}
        yield _Part(
            proof,
            [source for source in manifest.sources if source.name in used],
            files,
            [line for line in manifest.lines if names & set(line.files)],
            [finding for finding in manifest.findings if names & set(finding.files)],
        )


@cache
def load_template() -> "Template":
    """What reports are made of; loading it takes a tenth of a second."""
    from jinja2 import Environment, StrictUndefined  # only where a report is written

    environment = Environment(autoescape=True, undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True)
    environment.filters |= {
        "clock": _clock, "moment": _moment, "size": _size, "form": _form, "lanes": _lanes, "settings": _settings,
        "count": _count,
    }  # fmt: skip
    return environment.from_string(files(__package__).joinpath("report.html.j2").read_text("utf-8"))


def _clock(samples: int, rate: int) -> str:
    """A length or a time of day as h:mm:ss.mmm."""
    seconds, left = divmod(round(samples * 1000 / rate), 1000)
    return f"{seconds // 3600}:{seconds // 60 % 60:02}:{seconds % 60:02}.{left:03}"


def _moment(moment: datetime) -> str:
    return f"{moment:%Y-%m-%d %H:%M:%S} UTC"


def _size(count: int) -> str:
    for unit, factor in (("GB", 1e9), ("MB", 1e6), ("kB", 1e3)):
        if count >= factor:
            return f"{count / factor:.1f} {unit}"
    return f"{count} bytes"


def _form(file: DeliveredFile | SourceFile) -> str:
    channels = {1: "mono", 2: "stereo"}.get(file.channels, f"{file.channels} channels")
    return f"{file.container} · {channels} · {file.rate / 1000:g} kHz · {_DEPTHS.get(file.depth, f'{file.depth} bit')}"


def _lanes(outline: list[str]) -> list[str]:
    """For each channel the path of its drawing, on a field as wide as there are columns and `_HEIGHT` high."""
    return [_path(lane) for lane in outline]


def _path(lane: str) -> str:
    lows, highs = list_columns(lane).T.tolist()
    over, under = _heights(-0.3), _heights(0.3)
    levels = [f"L{x} {over[high]}" for x, high in enumerate(highs)]
    back = [f"L{x} {under[low]}" for x, low in enumerate(lows)]
    return "M" + "".join([*levels, *reversed(back)])[1:] + "Z"


@cache
def _heights(aside: float) -> dict[int, str]:
    """Where each value of a picture is drawn, moved aside by so much; there are few values and many columns."""
    heights = (_HEIGHT / 2 - np.arange(-128, 128) * (_HEIGHT / 2 - 0.5) / 127).round(1)
    return {value: f"{height + aside:.1f}" for value, height in enumerate(heights, -128)}


def _settings(line: Line) -> str:
    """The settings of a line by name; nothing where its turn has none."""
    settings = {**{name: value for name, value in line.turn.items() if name != "kind"}, **(line.over or {})}
    return ", ".join(
        f"{name.replace('_', ' ')} {_value(value)}"
        for name, value in settings.items()
        if value not in (None, "", [], ())
    )


def _value(value: Any) -> str:
    if isinstance(value, list):
        return " ".join(_value(item) for item in value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value)


def _count(number: int, noun: str) -> str:
    return f"{number:,} {noun}" if number == 1 else f"{number:,} {noun}s"
