"""What goes from one job to another, notes and duplicates, and what takes room: by mouse and by keyboard."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from support.acts import choose_filter, drop, files_of, new_job, settled_worksheet, tones, turn_added
from support.helpers import noise, write_wav

pytestmark = pytest.mark.browser


def test_lines_are_copied_to_a_new_job_with_their_files(page: Page, tmp_path: Path) -> None:
    new_job(page, "First day")
    drop(page, tones(tmp_path, "porch", 440, 660))
    files_of(page, "porch")
    page.get_by_role("row", name="porch").click()
    page.get_by_label("Note").fill("second take")
    page.get_by_label("Note").press("Tab")
    page.get_by_label("Filter the sources").fill("second take")
    files_of(page, "porch")
    page.get_by_label("Filter the sources").fill("")
    page.get_by_role("row", name="porch").click()
    turn_added(page, "swap")
    line = page.get_by_role("listbox", name="Turns").get_by_role("option", name=re.compile("porch swap"))
    expect(line).to_be_visible()
    page.get_by_role("button", name="Line").click()
    page.get_by_role("menuitem", name="Copy to another job…").click()
    page.get_by_label("Name of a new job").fill("Second day")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Copied 1 line to Second day")).to_be_visible()
    page.get_by_role("link", name="All jobs").click()
    page.get_by_role("link", name=re.compile("Second day")).click()
    expect(line).to_be_visible()
    page.get_by_role("row", name="porch").click()
    expect(page.get_by_label("Note")).to_have_value("second take")
    # Once more into the job that is there: by its files alone.
    page.get_by_role("button", name="Copy to…").click()
    page.get_by_role("button", name="Copy to First day").click()
    expect(page.get_by_text("Copied 1 file to First day")).to_be_visible()


def test_all_but_one_of_files_with_the_same_samples_are_archived(page: Page, tmp_path: Path) -> None:
    new_job(page, "Twins")
    one = write_wav(tmp_path / "one.wav", noise(1, 30_000, 2))
    two = tmp_path / "two.wav"
    two.write_bytes(one.read_bytes())
    drop(page, one)
    files_of(page, "one")
    drop(page, two)
    files_of(page, "one", "two")
    page.get_by_role("row", name="two").click()
    expect(page.get_by_text("Identical to one, sample for sample.")).to_be_visible()
    choose_filter(page, "Duplicates 1")
    page.get_by_role("button", name="Archive 1 duplicate").click()
    expect(page.get_by_role("row", name="two")).to_have_count(0)
    files_of(page, "one")
    page.get_by_role("button", name="Undo").click()
    files_of(page, "one", "two")


def test_what_a_job_takes_is_cleared_and_made_again(page: Page, tmp_path: Path) -> None:
    new_job(page, "Room")
    drop(page, write_wav(tmp_path / "porch.wav", noise(1, 300_000, 2)))
    files_of(page, "porch")
    page.get_by_role("row", name="porch").click()
    expect(page.get_by_role("table", name="Levels")).to_be_visible()
    page.get_by_role("link", name="All jobs").click()
    page.get_by_role("link", name="Storage").click()
    row = page.get_by_role("row", name="Room")
    expect(row).to_contain_text("1.8 MB")
    clear = row.get_by_role("button", name="Clear copies and pictures of Room")
    clear.click()
    expect(clear).to_be_disabled()
    page.get_by_role("link", name="All jobs").click()
    page.get_by_role("link", name=re.compile("Room")).click()
    page.get_by_role("row", name="porch").click()
    expect(page.get_by_test_id("lane-in")).to_be_visible()
    settled_worksheet(page)
    page.get_by_role("link", name="All jobs").click()
    page.get_by_role("link", name="Storage").click()
    row.get_by_role("button", name="Delete Room").click()
    page.get_by_role("alertdialog").get_by_role("button", name="Delete").click()
    expect(row).to_have_count(0)
