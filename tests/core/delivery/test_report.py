"""The report: all that a manifest says, in one file that fetches nothing and runs nothing."""

from html.parser import HTMLParser
from pathlib import Path

import numpy as np

from support.helpers import engine_on, noise, quiet, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.delivery import MANIFEST, REPORT, Manifest, Order, deliver, read_manifest
from wedge_turn.core.delivery.outline import COLUMNS, draw_outline, list_columns
from wedge_turn.core.delivery.report import render_report
from wedge_turn.core.turns import Split, Width


class Page(HTMLParser):
    """The text of a page, what it would fetch, and the drawings by their labels."""

    def __init__(self, content: str) -> None:
        super().__init__()
        self.text = ""
        self.fetched: list[str | None] = []
        self.tags: list[str] = []
        self.drawings: dict[str, str] = {}
        self._label = ""
        self.feed(content)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        given = dict(attrs)
        self.tags.append(tag)
        self.fetched += [value for name, value in attrs if name in ("src", "href", "srcset", "action", "data")]
        if tag == "svg":
            self._label = given["aria-label"] or ""
        if tag == "path":
            self.drawings[self._label] = given["d"] or ""

    def handle_data(self, data: str) -> None:
        self.text += data


def page_of(folder: Path) -> Page:
    return Page((folder / REPORT).read_text("utf-8"))


def test_it_tells_what_was_done_with_pictures_findings_and_proofs(tmp_path: Path) -> None:
    source = WavFile(write_wav(tmp_path / "bell.wav", noise(1, 30_000, 2)))
    engine = engine_on(Width(width=1.5), source, names=["bell"])
    manifest = deliver(engine, Order(tuple(engine.sheet.list_ends()), job="Kettle Island Light"), tmp_path / "out")
    page = page_of(tmp_path / "out")
    (file,), (line,), (proof,) = manifest.files, manifest.lines, manifest.proofs
    for said in ("Delivery of Kettle Island Light", file.xxh128, line.sentence, proof.proof.statement, "width 1.5"):
        assert said in page.text
    assert [finding.code for finding in manifest.findings] == ["clipped"]
    assert manifest.findings[0].message in page.text
    names = [f"Waveform of {name}, channel {n}" for name in ("bell", file.name) for n in (1, 2)]
    assert list(page.drawings) == names
    assert all(drawing.startswith("M0 ") and drawing.endswith("Z") for drawing in page.drawings.values())


def test_it_needs_no_network_and_runs_nothing(tmp_path: Path) -> None:
    source = WavFile(write_wav(tmp_path / "in.wav", quiet(1, 3_000, 2)))
    engine = engine_on(Split(), source, names=['<script>alert(1)</script> & "bell"'])
    deliver(engine, Order(tuple(engine.sheet.list_ends())), tmp_path / "out")
    page = page_of(tmp_path / "out")
    assert (page.fetched, {"script", "link", "iframe", "object", "img"} & set(page.tags)) == ([], set())
    assert '<script>alert(1)</script> & "bell"' in page.text, "a name is text, whatever it looks like"


def test_it_is_made_of_the_manifest_alone(tmp_path: Path) -> None:
    source = WavFile(write_wav(tmp_path / "in.wav", quiet(1, 3_000, 2)))
    engine = engine_on(Split(), source, names=["in"])
    deliver(engine, Order(tuple(engine.sheet.list_ends())), tmp_path / "out")
    manifest = Manifest.model_validate_json((tmp_path / "out" / MANIFEST).read_bytes())
    assert render_report(manifest) == (tmp_path / "out" / REPORT).read_text("utf-8")


def test_what_joins_an_earlier_delivery_is_reported_with_it(tmp_path: Path) -> None:
    for name in ("bell", "sea"):
        source = WavFile(write_wav(tmp_path / f"{name}.wav", quiet(1, 3_000, 2)))
        engine = engine_on(Split(), source, names=[name])
        deliver(engine, Order(tuple(engine.sheet.list_ends())), tmp_path / "out")
    manifest, page = read_manifest(tmp_path / "out"), page_of(tmp_path / "out")
    assert [source.name for source in manifest.sources] == ["bell", "sea"]
    assert "Waveform of bell_L.wav, channel 1" in page.drawings
    assert "Waveform of sea_R.wav, channel 1" in page.drawings


def test_an_older_manifest_gives_a_report_without_pictures() -> None:
    manifest = Manifest(made="2026-11-25T10:00:00Z", files=[], proofs=[])
    assert "0 files" in Page(render_report(manifest)).text


def test_an_outline_shows_the_lowest_and_highest_of_each_stretch(tmp_path: Path) -> None:
    """A ramp of blocks: column n of 300 holds n/300 of full scale, and its negative."""
    frames = 512  # of each column: all of them are read
    levels = np.repeat(np.arange(COLUMNS) * 2**23 // COLUMNS, frames)
    ints = np.stack([levels * np.where(np.arange(levels.size) % 2, 1, -1), levels * 0], axis=1)
    lanes = draw_outline(WavFile(write_wav(tmp_path / "ramp.wav", ints)))
    left, right = (list_columns(lane).astype(int) for lane in lanes)
    expected = np.rint(np.arange(COLUMNS) / COLUMNS * 127)
    assert np.abs(left[:, 1] - expected).max() <= 1
    assert np.array_equal(left[:, 0], -left[:, 1])
    assert not right.any()
