"""The worksheet edited in any place, by mouse and by keyboard."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, expect

from support.acts import (
    choose_filter,
    drop,
    files_of,
    mono_pair,
    new_job,
    sentences,
    settled_worksheet,
    tones,
    turn_added,
)
from support.helpers import noise, write_wav

pytestmark = pytest.mark.browser


def line(page: Page, words: str) -> Locator:
    return page.get_by_role("listbox", name="Turns").get_by_role("option", name=re.compile(words))


def test_a_line_is_removed_from_the_middle_of_four_and_comes_back(page: Page, tmp_path: Path) -> None:
    new_job(page, "Chain")
    drop(page, tones(tmp_path, "porch", 440, 660))
    files_of(page, "porch")
    page.get_by_role("row", name="porch").click()
    for turn in ("swap", "width", "polarity", "fold"):
        turn_added(page, turn)
        expect(line(page, turn if turn != "polarity" else "invert")).to_be_visible()
    whole = sentences(page)
    line(page, "width").click()
    page.keyboard.press("Delete")
    expect(page.get_by_role("listbox", name="Turns").get_by_role("option")).to_have_count(3)
    assert sentences(page) == [text for text in whole if "width" not in text]
    page.keyboard.press("Control+z")
    expect(line(page, "width")).to_be_visible()
    assert sentences(page) == whole


def test_turns_are_inserted_moved_bypassed_and_duplicated_by_keyboard(page: Page, tmp_path: Path) -> None:
    new_job(page, "Keys")
    drop(page, tones(tmp_path, "porch", 440, 660))
    files_of(page, "porch")
    page.get_by_role("row", name="porch").click()
    turn_added(page, "swap")
    expect(line(page, "swap")).to_be_visible()
    for key, turn, words in (("i", "level", "level"), ("Shift+i", "width", "width")):
        page.keyboard.press(key)
        page.keyboard.type(turn)
        page.keyboard.press("Enter")
        expect(line(page, words)).to_have_attribute("aria-selected", "true")
        # A key that comes before the field is left would be typed into it.
        expect(page.get_by_label("Add a turn")).not_to_be_focused()
    assert [re.sub("porch|→| .*", "", text) for text in sentences(page)] == ["level", "width", "swap"]
    page.keyboard.press("b")
    expect(line(page, "bypassed")).to_be_visible()
    page.keyboard.press("b")
    expect(line(page, "bypassed")).to_have_count(0)
    # A line can't stand before what it uses, and says so.
    page.get_by_role("listbox", name="Turns").focus()
    page.keyboard.press("Alt+ArrowUp")
    expect(page.get_by_role("alert").filter(has_text="uses the result of line 1")).to_be_visible()
    page.get_by_role("button", name="Close").first.click()
    # Two lines at once.
    page.get_by_role("listbox", name="Turns").focus()
    page.keyboard.press("Shift+ArrowDown")
    page.get_by_role("button", name="2 lines").click()
    page.get_by_role("menuitem", name="Duplicate 2 lines").click()
    expect(page.get_by_role("listbox", name="Turns").get_by_role("option")).to_have_count(5)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("listbox", name="Turns").get_by_role("option")).to_have_count(3)


def test_a_line_whose_file_is_gone_waits_until_another_is_dropped_on_it(page: Page, tmp_path: Path) -> None:
    new_job(page, "Gone")
    other = write_wav(tmp_path / "yard.wav", noise(3, 30_000, 1))
    drop(page, *mono_pair(tmp_path), tones(tmp_path, "sea", 440, 660), other)
    files_of(page, "porch_L", "porch_R", "sea", "yard")
    page.get_by_role("button", name="Merge", exact=True).click()
    expect(line(page, "merge")).to_be_visible()
    page.get_by_role("row", name="porch_R").click()
    page.get_by_role("button", name="Archive", exact=True).click()
    choose_filter(page, "Archived 1")
    page.get_by_role("row", name="porch_R").click()
    page.get_by_role("button", name="Delete permanently").click()
    expect(page.get_by_text("Line 1 uses it and will wait for another file.")).to_be_visible()
    page.get_by_role("button", name="Delete", exact=True).click()
    expect(line(page, "needs porch_R")).to_be_visible()
    # A file that the turn doesn't take is refused, one that it takes is used.
    missing = line(page, "merge").get_by_text("porch_R?")
    page.get_by_role("row", name="sea").drag_to(missing)
    expect(page.get_by_role("alert").filter(has_text="merge")).to_be_visible()
    page.get_by_role("row", name="yard").drag_to(missing)
    expect(line(page, "waits")).to_have_count(0)


def test_a_line_is_heard_as_it_was_and_restored_by_itself(page: Page, tmp_path: Path) -> None:
    new_job(page, "Then")
    drop(page, tones(tmp_path, "porch", 440, 660))
    files_of(page, "porch")
    page.get_by_role("row", name="porch").click()
    turn_added(page, "width")
    expect(line(page, "width × 1.4")).to_be_visible()
    page.get_by_role("slider", name="Width", exact=True).fill("0.3")
    expect(line(page, "width × 0.3")).to_be_visible()
    settled_worksheet(page)
    page.get_by_role("row", name="porch").click()
    turn_added(page, "swap")
    expect(line(page, "swap")).to_be_visible()
    settled_worksheet(page)  # a line is seen before the history has it
    page.get_by_role("button", name="History").click()
    page.get_by_role("button", name="Compare").nth(2).click()
    since = page.get_by_role("group", name="Since then")
    expect(since).to_contain_text("Line 1: width 1.4 → 0.3")
    since.get_by_role("button", name="Compare by ear").click()
    pane = page.get_by_role("complementary", name="Then and now")
    expect(pane).to_contain_text("Multiplies the side of porch by 1.4")
    expect(page.get_by_test_id("lane-in")).to_contain_text("Then")
    expect(page.get_by_test_id("lane-out")).to_contain_text("Now")
    # The keys are the page's at once: Space plays, and doesn't open the history again.
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Pause (Space)")).to_be_visible()
    expect(page.get_by_role("dialog", name="History")).to_have_count(0)
    page.keyboard.press("Space")
    # What is only heard is no line of the worksheet.
    expect(page.get_by_role("listbox", name="Turns").get_by_role("option")).to_have_count(2)
    pane.get_by_role("button", name="Restore this line").click()
    expect(line(page, "width × 1.4")).to_be_visible()
    expect(line(page, "swap")).to_be_visible()
    expect(pane).to_have_count(0)
