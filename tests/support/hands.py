"""Hands on the keys alone: whatever has the focus was gone to by Tab."""

import re
import zipfile
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from support.acts import settled_worksheet

STOPS = 80  # more than any view has


class Hands:
    """A page that is driven by keys."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.turns = page.get_by_role("listbox", name="Turns").get_by_role("option")
        self.panel = page.get_by_role("complementary", name="Settings")

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)

    def tab_to(self, target: Locator) -> None:
        expect(target).to_be_visible()
        element = target.element_handle()  # looked up once: finding it by its role takes longer than all the keys
        for _ in range(STOPS):
            if element.evaluate("(element) => element === document.activeElement"):
                return
            self.press("Tab")
        raise AssertionError(f"Tab does not lead to {target}")

    def button(self, name: str | re.Pattern[str]) -> None:
        self.tab_to(self.page.get_by_role("button", name=name).first)
        self.press("Enter")

    def start(self, name: str, *files: Path) -> None:
        self.tab_to(self.page.get_by_label("Job name"))
        self.page.keyboard.type(name)
        self.press("Enter")
        expect(self.page.get_by_role("heading", name=name)).to_be_visible()
        with self.page.expect_file_chooser() as chooser:
            self.button("Choose files")
        chooser.value.set_files(files)
        for file in files:
            expect(self.page.get_by_role("row", name=file.stem, exact=False)).to_be_visible()

    def file(self, name: str) -> None:
        """Choose a file by typing its name into the filter, which is emptied again."""
        self.press("/")
        self.page.keyboard.type(name)
        self.press("Enter")
        expect(self.page.get_by_role("row", name=name).first).to_have_attribute("aria-selected", "true")
        expect(self.page.get_by_role("grid", name="Files")).to_be_focused()
        self.press("/", "Escape")
        expect(self.page.get_by_role("grid", name="Files")).to_be_focused()

    def turn(self, typed: str, title: str) -> None:
        """Add the turn that answers to a word to what is chosen."""
        before = self.turns.count()
        self.press("t")
        self.page.keyboard.type(typed)
        self.press("Enter")
        expect(self.turns).to_have_count(before + 1)
        expect(self.page.get_by_role("heading", name=title)).to_be_visible()

    def slide(self, label: str, *keys: str) -> None:
        self.tab_to(self.panel.get_by_role("slider", name=label, exact=True))
        self.press(*keys)

    def delivered(self, to: Path) -> dict[str, Path]:
        self.press("Escape")
        settled_worksheet(self.page)
        self.press("d")
        expect(self.page.get_by_role("heading", name="Files to deliver")).to_be_focused()
        self.button(re.compile("^Deliver .* file"))
        expect(self.page.get_by_test_id("delivery").first).to_have_attribute("data-state", "done")
        with self.page.expect_download() as download:
            self.tab_to(self.page.get_by_role("link", name="Download all as ZIP").first)
            self.press("Enter")
        download.value.save_as(to / "delivery.zip")
        with zipfile.ZipFile(to / "delivery.zip") as archive:
            archive.extractall(to / "unzipped")
        return {path.name: path for path in (to / "unzipped").rglob("*.wav")}
