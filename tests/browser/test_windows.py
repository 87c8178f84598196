"""What the address says, several windows on one job, and a server that comes and goes."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Locator, Page, expect

from support.acts import drop, mono_pair, new_job, settled_worksheet, slide, tones, turn_added
from support.serving import Restartable
from support.waiting import PATIENCE

pytestmark = pytest.mark.browser


def lines(page: Page) -> Locator:
    return page.get_by_role("listbox", name="Turns").get_by_role("option")


def chosen(page: Page, name: str) -> None:
    row = page.locator("[aria-selected=true]").filter(has_text=name).first
    expect(row).to_be_visible()


def test_the_address_holds_the_view(page: Page) -> None:
    """Back, forward, reload and a link in another window."""
    page.get_by_role("link", name="Kettle Island Light").click()
    page.get_by_role("listbox", name="Turns").get_by_role("option", name="gull-pass").click()
    page.wait_for_timeout(1_100)  # who moves on at once passes by
    page.get_by_role("grid", name="Files").get_by_role("row", name="winch").click()
    expect(page).to_have_url(re.compile("/files/"))
    expect(page).to_have_title("Kettle Island Light · Wedge Turn")
    page.keyboard.press("v")
    expect(page).to_have_url(re.compile("view=spectrum"))
    page.reload()
    expect(page.get_by_test_id("spectrum-in")).to_contain_text("winch")
    page.go_back()
    expect(page).to_have_url(re.compile("/lines/"))
    chosen(page, "gull-pass")
    page.go_forward()
    chosen(page, "winch")
    link = page.url
    other = page.context.new_page()
    other.goto(link)
    expect(other.get_by_test_id("spectrum-in")).to_contain_text("winch")
    other.close()
    page.keyboard.press("d")
    expect(page).to_have_title("Delivery of Kettle Island Light · Wedge Turn")
    expect(page.get_by_role("heading", name="Files to deliver")).to_be_focused()
    page.get_by_role("link", name="Back to the worksheet").click()
    expect(page).to_have_url(link)
    page.goto(page.url.split("/files/")[0] + "/lines/gone")
    chosen(page, "lamp-bell")


def test_a_removed_line_leaves_the_one_before_it_chosen(page: Page, tmp_path: Path) -> None:
    new_job(page, "Removed")
    drop(page, tones(tmp_path, "sea", 220, 330))
    for n, turn in enumerate(("swap", "width", "polarity", "level")):
        page.get_by_role("row", name="sea").click()
        turn_added(page, turn)
        expect(lines(page)).to_have_count(n + 1)
    lines(page).nth(2).click()
    for left in (3, 2):
        page.keyboard.press("Delete")
        expect(lines(page)).to_have_count(left)
    chosen(page, "swap")
    expect(lines(page).last).to_contain_text("level")


def test_a_window_does_not_undo_the_change_of_another(page: Page, tmp_path: Path) -> None:
    """It has not been told yet: it is, and then it may."""
    new_job(page, "Two windows undo")
    drop(page, tones(tmp_path, "sea", 220, 330))
    page.get_by_role("row", name="sea").first.click()
    turn_added(page, "swap")
    settled_worksheet(page)
    other = page.context.new_page()
    other.add_init_script("delete window.SharedWorker")  # its stream of events is its own, and broken
    other.route("**/api/events", lambda route: route.abort())
    other.goto(page.url)
    expect(lines(other)).to_have_count(1)
    page.get_by_role("grid", name="Files").get_by_role("row", name="sea").click()
    turn_added(page, "width")
    expect(lines(page)).to_have_count(2)
    other.keyboard.press("Control+z")
    expect(other.get_by_role("alert").filter(has_text="changed in another window")).to_be_visible()
    expect(lines(other)).to_have_count(2)
    expect(lines(page)).to_have_count(2)
    other.keyboard.press("Control+z")
    expect(lines(page)).to_have_count(1)
    other.close()


def test_an_undo_right_after_a_drag_takes_back_the_drag(page: Page, tmp_path: Path) -> None:
    new_job(page, "Dragged")
    drop(page, tones(tmp_path, "sea", 220, 330))
    page.get_by_role("row", name="sea").first.click()
    turn_added(page, "level")
    settled_worksheet(page)
    slide(page, "all channels", -12)
    page.keyboard.press("Control+z")
    settled_worksheet(page)
    expect(page.get_by_role("slider", name="all channels", exact=True)).to_have_value("0")
    expect(lines(page)).to_have_count(1)


def test_a_server_that_ends_and_starts_again(browser: Browser, restartable: Restartable, tmp_path: Path) -> None:
    """The page stays, says so, and goes on by itself; what is dropped meanwhile arrives."""
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    page.set_default_timeout(PATIENCE * 1000)
    page.goto(restartable.address)
    page.get_by_role("link", name="Kettle Island Light").click()
    expect(page.get_by_test_id("lane-out")).to_be_visible()
    restartable.end()
    banner = page.get_by_text("No connection to Wedge Turn.")
    expect(banner.first).to_be_visible()
    expect(page.get_by_role("option", name="lamp-bell").first).to_be_visible()
    drop(page, *mono_pair(tmp_path))
    restartable.start()
    expect(banner).to_have_count(0)
    expect(page.get_by_text("25 files, 2 turns")).to_be_visible()
    page.get_by_role("listbox", name="Turns").get_by_role("option", name="gull-pass").click()
    page.keyboard.press("Delete")
    expect(lines(page)).to_have_count(1)
    page.context.close()


def test_many_windows_share_connections(page: Page, tmp_path: Path) -> None:
    """A browser opens six to a host. Eight windows show one job, and each sees what another does."""
    new_job(page, "Many windows")
    drop(page, tones(tmp_path, "sea", 220, 330))
    page.get_by_role("row", name="sea").click()
    others = [page.context.new_page() for _ in range(7)]
    for other in others:
        other.goto(page.url)
        expect(other.get_by_role("row", name="sea")).to_be_visible()
    page.bring_to_front()
    turn_added(page, "swap")
    for other in others:
        expect(lines(other)).to_have_count(1)
    others[-1].bring_to_front()
    others[-1].keyboard.press("Control+z")
    expect(others[-1].get_by_role("alert").filter(has_text="made in another window")).to_be_visible()
    others[-1].keyboard.press("Control+z")
    expect(lines(page)).to_have_count(0)
    for other in others:
        other.close()
