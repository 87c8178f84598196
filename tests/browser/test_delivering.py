"""Delivering in the real interface: what it costs, again after a change, compared, its report, into a folder."""

import re
import zipfile
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect

from support.acts import deliver_started, drop, files_of, new_job, settled_worksheet, slide, turn_added
from support.helpers import quiet, read_ints, write_wav
from support.serving import Restartable
from wedge_turn.core.delivery import MANIFEST, REPORT, verify

# A line says so in a word, and after it for screen readers how it was proved.
DELIVERED = re.compile("delivered[A-Z]")


def job_with(page: Page, folder: Path, name: str) -> None:
    """A job with two stereo files: the bell is split, the sea is swapped."""
    new_job(page, name)
    files = [write_wav(folder / f"{stem}.wav", quiet(n, 20_000, 2)) for n, stem in enumerate(("bell", "sea"))]
    drop(page, *files)
    files_of(page, "bell", "sea")
    for stem, turn in (("bell", "split"), ("sea", "swap")):
        page.get_by_role("grid", name="Files").get_by_role("row", name=stem).click()
        turn_added(page, turn)
        settled_worksheet(page)
    expect(page.get_by_role("listbox", name="Turns").get_by_role("option")).to_have_count(2)


def test_a_changed_line_is_delivered_again_and_the_rest_is_not_written_again(page: Page, tmp_path: Path) -> None:
    job_with(page, tmp_path, "Again")
    deliver_started(page)
    page.get_by_role("link", name="Back to the worksheet").click()
    lines = page.get_by_role("listbox", name="Turns").get_by_role("option")
    expect(lines.nth(1)).to_contain_text(DELIVERED)
    lines.nth(1).click()
    turn_added(page, "level")
    slide(page, "all channels", -6)
    settled_worksheet(page)
    second = deliver_started(page)
    expect(second).to_contain_text("Delivered · 3 files · 2 unchanged")
    second.get_by_role("button", name="Compare").click()
    differences = second.get_by_role("group", name="Differences")
    expect(differences).to_contain_text("2 files identical, 1 different")
    expect(differences).to_contain_text("sea.wavsamples changed")
    with page.expect_download() as download:
        second.get_by_role("link", name="Download all as ZIP").click()
    download.value.save_as(tmp_path / "again.zip")
    with zipfile.ZipFile(tmp_path / "again.zip") as archive:
        archive.extractall(tmp_path / "again")
    folder = tmp_path / "again" / "Again"
    assert verify(folder) == []
    expected = np.rint(quiet(1, 20_000, 2)[:, ::-1] * 10 ** (-6 / 20))
    assert np.abs(read_ints(folder / "sea.wav") - expected).max() <= 2, "with dither"
    assert np.array_equal(read_ints(folder / "bell_R.wav")[:, 0], quiet(0, 20_000, 2)[:, 1])


def test_what_was_delivered_is_marked_once_it_has_changed(page: Page, tmp_path: Path) -> None:
    job_with(page, tmp_path, "Marked")
    page.get_by_role("listbox", name="Turns").get_by_role("option").nth(1).click()
    turn_added(page, "level")
    settled_worksheet(page)
    deliver_started(page)
    page.get_by_role("link", name="Back to the worksheet").click()
    line = page.get_by_role("listbox", name="Turns").get_by_role("option").nth(2)
    expect(line).to_contain_text(DELIVERED)
    line.click()
    slide(page, "all channels", -3)
    expect(line).to_contain_text("Changed since delivery")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo").click()
    expect(line).to_contain_text(DELIVERED)


def test_the_report_is_a_page_that_asks_for_nothing_else(page: Page, tmp_path: Path) -> None:
    job_with(page, tmp_path, "Reported")
    delivery = deliver_started(page)
    asked: list[str] = []
    page.context.on("request", lambda request: asked.append(request.url))
    with page.context.expect_page() as opened:
        delivery.get_by_role("link", name="Report").click()
    report = opened.value
    report.wait_for_load_state()
    expect(report.get_by_role("heading", name="Delivery of Reported")).to_be_visible()
    expect(report.get_by_role("img", name="Waveform of bell_L.wav, channel 1")).to_be_visible()
    expect(report.get_by_text("all 40,000 samples identical").first).to_be_visible()
    assert [url for url in asked if not url.endswith(REPORT) and "/api/events" not in url and "/jobs" not in url] == []
    report.emulate_media(media="print")
    assert report.evaluate("document.documentElement.scrollWidth <= innerWidth"), "nothing is cut off on paper"


def test_clipping_is_said_beforehand_and_one_click_lowers_it(page: Page, tmp_path: Path) -> None:
    new_job(page, "Loud")
    ints = np.zeros((20_000, 2), np.int64)
    ints[9_000] = 2**23 - 1
    drop(page, write_wav(tmp_path / "loud.wav", ints))
    files_of(page, "loud")
    page.get_by_role("grid", name="Files").get_by_role("row", name="loud").click()
    turn_added(page, "decode")
    settled_worksheet(page)
    page.get_by_role("button", name="Review and deliver…").click()
    expect(page.get_by_text("1 file would clip, by up to 6.0 dB.")).to_be_visible()
    expect(page.get_by_role("row", name="loud")).to_contain_text("clips by 6.0 dB")
    page.get_by_role("button", name="Lower it by 6.1 dB").click()
    expect(page.get_by_text("would clip")).to_be_hidden()
    delivery = deliver_started(page)
    expect(delivery).not_to_contain_text("clipped")


def test_a_delivery_goes_to_a_folder_on_the_server_by_saved_settings(
    restartable: Restartable, page: Page, tmp_path: Path
) -> None:
    sessions = tmp_path / "Sessions"
    page.goto(restartable.address)
    job_with(page, tmp_path, "Server")
    page.get_by_role("button", name="Review and deliver…").click()
    page.get_by_label("Bit depth").select_option("16-bit")
    pattern = page.get_by_label("File name pattern")
    pattern.fill("{n:02} {name}")
    page.get_by_role("button", name="Save as…").click()
    page.get_by_label("Name of the settings").fill("For the label")
    page.keyboard.press("Enter")
    saved = page.get_by_label("Saved settings")
    expect(saved.locator("option:checked")).to_have_text("For the label")
    page.get_by_label("Bit depth").select_option("Same as source")
    expect(saved.locator("option:checked")).to_have_text("Custom")
    saved.select_option("For the label")
    expect(page.get_by_text("01 bell_L.wav")).to_be_visible()
    page.get_by_label("Where the files go").select_option("A folder on the server")
    page.get_by_label("Folder on the server").fill("Day 2")
    delivery = deliver_started(page)
    expect(delivery).to_contain_text("in Day 2")
    names = ["01 bell_L.wav", "02 bell_R.wav", "03 sea.wav"]
    assert sorted(path.name for path in (sessions / "Day 2").iterdir()) == [*names, MANIFEST, REPORT]
    assert verify(sessions / "Day 2") == []
    before = (sessions / "Day 2" / names[0]).stat().st_mtime_ns
    expect(page.get_by_text("already exists: only changed files are replaced")).to_be_visible()
    delivery.get_by_role("button", name="Deliver again").click()
    expect(page.get_by_test_id("delivery").first).to_contain_text("Delivered · 3 files · 3 unchanged")
    assert (sessions / "Day 2" / names[0]).stat().st_mtime_ns == before
