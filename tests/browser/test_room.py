"""The workbench on small and large screens and at 200 %, what it asks for when it is opened, and lists of hundreds."""

import re
from collections import Counter
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from support.acts import drop, files_of, new_job, select_range, tones
from support.helpers import noise, write_wav
from support.waiting import PATIENCE

pytestmark = pytest.mark.browser

# What one would have to scroll sideways for, on the page or within a part of it, and controls that are cut off.
BESIDE_THE_PAGE = """() => {
  const width = document.documentElement.clientWidth;
  const all = [...document.querySelectorAll("html, body, body *")];
  const scrolls = (part) => part === document.documentElement || /auto|scroll/.test(getComputedStyle(part).overflowX);
  return [
    ...all.filter((part) => scrolls(part) && part.scrollWidth > part.clientWidth + 1),
    ...all.filter((part) => part.matches("button, input, select, a, canvas, [role=slider]"))
      .filter((part) => part.getBoundingClientRect().right > width + 1),
  ].map((part) => `${part.tagName} ${part.getAttribute("aria-label") ?? part.textContent.slice(0, 40)}`);
}"""


# Controls that lie beyond their pane, over the next one.
OVER_THE_PANE = """() => [...document.querySelectorAll("main section, main aside")].flatMap((pane) =>
  [...pane.querySelectorAll("button, input, select")]
    .filter((part) => part.getBoundingClientRect().right > pane.getBoundingClientRect().right + 1)
    .map((part) => part.getAttribute("aria-label") ?? part.textContent))"""

# Times of the ruler that its right end cuts through.
CUT_OFF = """() => [...document.querySelectorAll("[data-testid=ruler] > *")]
  .filter((time) => time.textContent.trim()
    && time.getBoundingClientRect().right > time.parentElement.getBoundingClientRect().right)
  .map((time) => time.textContent)"""

# Letters smaller than 12 pixels; what a canvas writes has one size (`TYPE`), in its code.
SMALL = """() => {
  const texts = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  const small = new Set();
  for (let text = texts.nextNode(); text; text = texts.nextNode())
    if (text.data.trim() && parseFloat(getComputedStyle(text.parentElement).fontSize) < 12) small.add(text.data);
  return [...small];
}"""


@pytest.mark.parametrize(("width", "height"), [(640, 400), (1024, 768), (1280, 800), (2560, 1440)])
def test_nothing_stands_out_of_the_page_at_any_size(
    browser: Browser, address: str, width: int, height: int, tmp_path: Path
) -> None:
    """640 × 400 is a screen of 1280 × 800 at 200 %: all of it is there, below each other."""
    page = browser.new_context(viewport={"width": width, "height": height}).new_page()
    page.set_default_timeout(PATIENCE * 1000)
    page.goto(address)
    new_job(page, f"At {width}")
    drop(page, tones(tmp_path, "a name of a take that is as long as they come 0123456789", 220, 330))
    page.get_by_role("row", name="a name of a take").first.click()
    page.get_by_label("Add a turn").fill("split")
    page.keyboard.press("Enter")
    expect(page.get_by_role("listbox", name="Turns").get_by_role("option")).to_have_count(1)
    for part in ("Sources", "Settings"):
        page.get_by_role("complementary", name=part).scroll_into_view_if_needed()
    page.get_by_role("button", name=re.compile("^Play")).scroll_into_view_if_needed()
    expect(page.get_by_role("button", name=re.compile("^Play"))).to_be_in_viewport()
    if width >= 1024:  # where the waveform is in sight without scrolling
        select_range(page, 20, 120)
        expect(page.get_by_test_id("range")).to_be_visible()  # its ends stand beside the tools
    assert page.evaluate(BESIDE_THE_PAGE) == []
    assert page.evaluate(OVER_THE_PANE) == []
    for _ in range(3):
        page.get_by_role("button", name="Zoom in").click()
        expect(page.get_by_test_id("ruler").get_by_text("0:00").first).to_be_attached()
        assert page.evaluate(CUT_OFF) == []
    assert page.evaluate(SMALL) == []
    page.get_by_role("button", name="Review and deliver…").click()
    expect(page.get_by_role("table", name="Results").get_by_role("row")).to_have_count(3)
    assert page.evaluate(BESIDE_THE_PAGE) == []
    assert page.evaluate(SMALL) == []
    page.context.close()


def test_each_list_is_asked_for_once_when_a_job_is_opened(browser: Browser, address: str, tmp_path: Path) -> None:
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.set_default_timeout(PATIENCE * 1000)
    page.goto(address)
    new_job(page, "Opened once")
    drop(page, tones(tmp_path, "sea", 220, 330))
    files_of(page, "sea")
    address_of_job = page.url
    context.close()
    context = browser.new_context(viewport={"width": 1280, "height": 800})  # the first window of a browser
    page = context.new_page()
    asked: Counter[str] = Counter()
    page.on("request", lambda request: asked.update([request.url.split("?")[0].split("/api/")[-1]]))
    page.goto(address_of_job)
    files_of(page, "sea")
    page.wait_for_timeout(2_000)
    lists = {
        path: count
        for path, count in asked.items()
        if re.search(r"^(jobs|recipes|delivery-settings|jobs/\w+(/(deliveries|uploads|revisions))?)$", path)
    }
    assert lists, asked
    assert set(lists.values()) == {1}, lists
    context.close()


def test_hundreds_of_results_versions_and_files_are_not_all_on_the_page(page: Page, tmp_path: Path) -> None:
    sources = [write_wav(tmp_path / f"take-{n:03}.wav", noise(n, 480, 2)) for n in range(120)]
    new_job(page, "Many")
    page.get_by_test_id("file-input").set_input_files(sources)
    expect(page.get_by_text("120 files, 0 turns")).to_be_visible()
    page.get_by_role("grid", name="Files").press("Control+a")
    page.keyboard.press("t")
    page.keyboard.type("swap")
    page.keyboard.press("Enter")
    expect(page.get_by_text("120 files, 120 turns")).to_be_visible()
    page.get_by_role("button", name="Review and deliver…").click()
    results = page.get_by_role("table", name="Results")
    expect(results).to_have_attribute("aria-rowcount", "121")
    assert results.get_by_role("row").count() < 60
    # Those that are not on the page are there where one goes to them.
    last = results.get_by_role("checkbox", name=re.compile("^Deliver take-119"))
    results.get_by_role("rowgroup").evaluate("(list) => list.scrollTo(0, list.scrollHeight)")
    expect(last).to_be_checked()
    last.press("Space")
    expect(page.get_by_role("button", name="Deliver 119 files")).to_be_enabled()
