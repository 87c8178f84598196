"""What the hand does too fast, while the server is away, or in two windows: nothing of it is lost or turned round."""

import re
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Browser, Locator, Page, expect

from support.acts import (
    drop,
    far_away,
    files_of,
    heard,
    job_shown,
    new_job,
    play_until,
    recorded_job,
    settled_worksheet,
    slide,
    tones,
    turn_added,
)
from support.serving import Restartable
from support.waiting import PATIENCE

pytestmark = pytest.mark.browser


def lines(page: Page) -> Locator:
    return page.get_by_role("listbox", name="Turns").get_by_role("option")


def with_turns(page: Page, folder: Path, *turns: str) -> None:
    """A job with a stereo file and these turns on it, one after the other."""
    new_job(page, "By hand")
    drop(page, tones(folder, "sea", 220, 330))
    files_of(page, "sea")
    page.get_by_role("row", name="sea").click()
    for n, turn in enumerate(turns, 1):
        turn_added(page, turn)
        expect(lines(page)).to_have_count(n)
    settled_worksheet(page)


def test_two_undos_at_once_are_two_undos(page: Page, tmp_path: Path) -> None:
    with_turns(page, tmp_path, "swap", "level", "width")
    lines(page).first.click()
    far_away(page, 300)
    page.keyboard.press("Delete")
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    settled_worksheet(page)
    assert [step["turn"]["kind"] for step in job_shown(page)["steps"]] == ["swap", "level"]
    page.keyboard.press("Control+Shift+z")
    page.keyboard.press("Control+Shift+z")
    settled_worksheet(page)
    assert [step["turn"]["kind"] for step in job_shown(page)["steps"]] == ["level", "width"]


def test_space_ticks_a_checkbox_that_has_the_focus_and_does_not_play(page: Page, tmp_path: Path) -> None:
    with_turns(page, tmp_path, "level")
    box = page.get_by_role("complementary", name="Settings").get_by_role("checkbox", name="Set channels separately")
    for _ in range(80):
        if box.evaluate("(element) => element === document.activeElement"):
            break
        page.keyboard.press("Tab")
    page.keyboard.press("Space")
    expect(box).to_be_checked()
    expect(page.get_by_role("button", name="Play (Space)")).to_be_visible()
    settled_worksheet(page)
    assert job_shown(page)["steps"][0]["turn"]["gains_db"] == [0.0, 0.0]


@pytest.mark.parametrize(
    ("item", "order"), [("Insert before…", ["level", "swap"]), ("Insert after…", ["swap", "level"])]
)
def test_a_turn_is_inserted_from_the_menu_of_a_line(page: Page, tmp_path: Path, item: str, order: list[str]) -> None:
    with_turns(page, tmp_path, "swap")
    page.get_by_role("button", name="Line", exact=True).click()
    page.get_by_role("menuitem", name=item).click()
    field = page.get_by_role("combobox", name=re.compile(f"Insert {item.split()[1][:-1]} line 1"))
    expect(field).to_be_focused()
    page.keyboard.type("level")
    page.keyboard.press("Enter")
    expect(lines(page)).to_have_count(2)
    settled_worksheet(page)
    assert [step["turn"]["kind"] for step in job_shown(page)["steps"]] == order


def test_edits_while_the_server_is_away_are_made_when_it_is_back(
    browser: Browser, restartable: Restartable, tmp_path: Path
) -> None:
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    page.set_default_timeout(PATIENCE * 1000)
    page.goto(restartable.address)
    with_turns(page, tmp_path, "swap", "level")
    restartable.end()
    expect(page.get_by_text("No connection to Wedge Turn.").first).to_be_visible()
    slide(page, "all channels", -12)
    lines(page).first.click()
    page.keyboard.press("Delete")
    expect(page.get_by_text(re.compile(r"^\d+ changes? not saved yet$"))).to_be_visible()
    expect(page.get_by_role("alert")).to_have_count(0)
    restartable.start()
    settled_worksheet(page)
    expect(page.get_by_text("not saved yet")).to_have_count(0)
    expect(lines(page)).to_have_count(1)
    (step,) = job_shown(page)["steps"]
    assert (step["turn"]["kind"], step["turn"]["gains_db"]) == ("level", [-12.0])
    page.context.close()


@pytest.mark.sound
def test_a_difference_is_of_the_samples_as_they_are_with_level_match_on(
    browser: Browser, address: str, tmp_path: Path
) -> None:
    """A change of level by −6 dB leaves half of In; matched to In beforehand, Out would leave none."""
    song = tones(tmp_path, "sea", 220, 330, seconds=3)
    page = recorded_job(browser, address, "Null", [song])
    page.get_by_role("row", name="sea").click()
    turn_added(page, "level")
    slide(page, "all channels", -6)
    settled_worksheet(page)
    page.keyboard.press("m")
    expect(page.get_by_role("button", name="level match +6.0 dB")).to_be_visible()
    page.keyboard.press("x")
    play_until(page, 100_000)
    page.keyboard.press("Space")
    samples, _ = soundfile.read(song)
    left = samples * (1 - 10 ** (-6 / 20))
    sound = heard(page)[4_800:90_000]
    at = np.flatnonzero(np.abs(left).sum(axis=1))[0] + 4_800
    np.testing.assert_allclose(sound, left[at : at + len(sound)], atol=2e-4)
    page.close()


def test_a_note_is_not_written_over_unseen_from_another_window(page: Page, tmp_path: Path) -> None:
    with_turns(page, tmp_path)
    page.get_by_label("Note").fill("hum")
    page.get_by_label("Note").blur()
    other = page.context.new_page()
    other.goto(page.url)
    field = other.get_by_label("Note")
    expect(field).to_have_value("hum")
    field.focus()
    page.get_by_label("Note").fill("hum, gone after 0:12")
    page.get_by_label("Note").blur()
    expect(field).to_have_value("hum, gone after 0:12")
    field.blur()
    settled_worksheet(other)
    assert job_shown(page)["sources"][0]["note"] == "hum, gone after 0:12"
    other.close()
