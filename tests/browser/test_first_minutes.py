"""A new user: the start page without jobs, the demo, an empty job."""

from pathlib import Path

import pytest
from playwright.sync_api import Browser, expect

from support.acts import drop, files_of, mono_pair, new_job
from support.serving import served
from support.waiting import PATIENCE

pytestmark = pytest.mark.browser


def test_who_has_no_job_opens_the_demo_or_drops_files_into_a_first_one(browser: Browser, tmp_path: Path) -> None:
    with served(tmp_path / "data") as port:
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.set_default_timeout(PATIENCE * 1000)
        page.goto(f"http://127.0.0.1:{port}/")
        expect(page.get_by_text("Every written file is compared with its source")).to_be_visible()
        page.get_by_role("button", name="Open the demo job").click()
        expect(page.get_by_role("progressbar", name="Progress of the demo")).to_be_visible()
        expect(page.get_by_role("heading", name="Kettle Island Light")).to_be_visible()
        expect(page.get_by_role("listbox", name="Turns").get_by_role("option")).to_have_count(2)

        page.get_by_role("link", name="All jobs").click()
        expect(page.get_by_role("button", name="Open the demo job")).to_have_count(0)
        new_job(page, "The first")
        expect(page.get_by_role("heading", name="Drop files or folders here")).to_be_visible()
        with page.expect_file_chooser() as chooser:
            page.get_by_role("button", name="Choose files").click()
        chooser.value.set_files(mono_pair(tmp_path))
        files_of(page, "porch_L", "porch_R")
        expect(page.get_by_role("button", name="Merge", exact=True)).to_be_visible()
        expect(page.get_by_text("No turns yet.")).to_be_visible()
        page.close()


def test_a_file_dropped_on_an_empty_job_is_taken(browser: Browser, address: str, tmp_path: Path) -> None:
    page = browser.new_page()
    page.set_default_timeout(PATIENCE * 1000)
    page.goto(address)
    new_job(page, "Dropped")
    drop(page, *mono_pair(tmp_path))
    files_of(page, "porch_L", "porch_R")
    expect(page.get_by_role("heading", name="Drop files or folders here")).to_have_count(0)
    page.close()
