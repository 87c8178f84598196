"""Every view, by turns in both themes, by axe-core, which checks the rules of WCAG that a program can check."""

import re
from collections.abc import Callable
from pathlib import Path
from typing import Literal

import pytest
from playwright.sync_api import Page, expect

from support.acts import deliver_started, pick, turn_added

pytestmark = pytest.mark.browser
AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"


def violations(page: Page, part: str) -> list[str]:
    """What axe finds on a part of the page."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE.read_text())
    options = {"resultTypes": ["violations"], "rules": {"target-size": {"enabled": True}}}
    report = page.evaluate("([part, options]) => axe.run(part, options)", [part, options])
    return [
        f"{violation['id']} ({violation['impact']}): {node['html'][:200]} — {node['failureSummary'][:300]}"
        for violation in report["violations"]
        for node in violation["nodes"]
    ]


def lasting_violations(page: Page, part: str) -> list[str]:
    """What axe finds each of three times: colours that are still changing are not what is looked at."""
    problems: list[str] = []
    for wait in (0, 300, 600):
        page.wait_for_timeout(wait)
        page.evaluate("Promise.allSettled(document.getAnimations().map((one) => one.finished))")
        if not (problems := violations(page, part)):
            break
    return problems


def shown(page: Page, name: str) -> None:
    expect(page.get_by_role("heading", name=name)).to_be_visible()


def jobs(page: Page) -> None:
    page.get_by_role("link", name="Back to all jobs").click()
    shown(page, "Get the channels right")


def deleting(page: Page) -> None:
    page.get_by_role("button", name="Delete").first.click()
    expect(page.get_by_role("alertdialog")).to_be_visible()


def why(name: str) -> Callable[[Page], None]:
    def show(page: Page) -> None:
        page.keyboard.press("Escape")
        expect(page.get_by_role("alertdialog")).to_be_hidden()
        if page.get_by_role("link", name=name).count() == 0:
            page.get_by_role("link", name="Background").click()
        page.get_by_role("link", name=name).click()
        expect(page.get_by_role("link", name=name)).to_have_attribute("aria-current", "page")

    return show


def guide(page: Page) -> None:
    page.get_by_role("link", name="All jobs").click()
    page.get_by_role("link", name="Guide").click()
    expect(page.get_by_role("img", name="A question with its answer heard as Out")).to_be_visible()


def line(page: Page) -> None:
    page.get_by_role("link", name="All jobs").click()
    page.get_by_role("link", name="Kettle Island Light").click()
    expect(page.get_by_test_id("lane-out")).to_be_visible()
    expect(page.get_by_test_id("fan-out")).to_contain_text("corr")


def menu(page: Page) -> None:
    page.get_by_role("button", name="Line", exact=True).click()
    expect(page.get_by_role("menuitem", name="Duplicate")).to_be_visible()


def reasons(page: Page) -> None:
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Details…").click()
    expect(page.get_by_role("dialog")).to_be_visible()


def question(page: Page) -> None:
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.get_by_role("button", name=re.compile("question.*…")).click()
    expect(page.get_by_role("complementary", name="Question").get_by_role("button").nth(1)).to_be_enabled()


def picture(name: str) -> Callable[[Page], None]:
    def show(page: Page) -> None:
        pick(page, name)
        expect(page.get_by_test_id(f"{name.lower()}-out")).not_to_contain_text("loading")

    return show


def file(page: Page) -> None:
    page.get_by_role("grid", name="Files").get_by_role("row", name="harbour-swell").click()
    expect(page.get_by_role("complementary", name="About this file")).to_contain_text("true peak")


def hushes(page: Page) -> None:
    pick(page, "Waveform")
    page.get_by_label("Filter the sources").fill("boat")
    page.get_by_role("grid", name="Files").get_by_role("row", name="boat-and-tower").click()
    turn_added(page, "hush")
    page.get_by_role("button", name="suggest").click()
    expect(page.get_by_test_id("proposal").first).to_be_visible()
    page.get_by_role("button", name="Add", exact=True).click()
    # Of one that is too narrow to be hit the row beside the waveform is the way there.
    page.get_by_label("To", exact=True).fill("12")
    page.keyboard.press("Enter")
    expect(page.get_by_label("To", exact=True)).to_be_focused()
    page.keyboard.press("Escape")
    expect(page.get_by_role("slider", name=re.compile("^End of hush"))).to_be_visible()


def adding(page: Page) -> None:
    page.keyboard.press("t")
    expect(page.get_by_role("option", name=re.compile("^split"))).to_be_visible()


def keys(page: Page) -> None:
    page.keyboard.press("Escape")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()


def history(page: Page) -> None:
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.get_by_role("button", name="History").click()
    expect(page.get_by_text("current")).to_be_visible()
    page.get_by_role("button", name="Compare").first.click()
    expect(page.get_by_role("group", name="Changed")).to_contain_text("Line")


def delivery(page: Page) -> None:
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()
    deliver_started(page)


def nothing(page: Page) -> None:
    page.goto(page.url + "nowhere")
    expect(page.get_by_text("Page not found")).to_be_visible()


PAGE, DIALOG = "html", "[role=dialog], [role=alertdialog]"
LOOK = "section[aria-label='View and listen']"
# Each from the one before it; what is new of it is looked at.
VIEWS: list[tuple[str, Callable[[Page], None], str]] = [
    ("nothing", nothing, PAGE),
    ("jobs", jobs, PAGE),
    ("deleting", deleting, DIALOG),
    ("polarity", why("Polarity and correlation"), PAGE),
    ("mid and side", why("Mid and side"), "main"),
    ("centre", why("Removing the centre"), "main"),
    ("laws", why("Mono summing"), "main"),
    ("guide", guide, "main"),
    ("line", line, PAGE),
    ("menu", menu, "[role=menu]"),
    ("reasons", reasons, DIALOG),
    ("question", question, PAGE),
    ("spectrum", picture("Spectrum"), LOOK),
    ("bands", picture("Bands"), LOOK),
    ("map", picture("Map"), LOOK),
    ("file", file, PAGE),
    ("hushes", hushes, f"{LOOK}, [aria-label='Settings']"),
    ("adding", adding, "[aria-label='Worksheet']"),
    ("keys", keys, DIALOG),
    ("history", history, DIALOG),
    ("delivery", delivery, PAGE),
]


def test_at_double_zoom_everything_can_be_reached(page: Page) -> None:
    """A window of 1280 × 800 at 200 %: what does not fit is scrolled to."""
    page.set_viewport_size({"width": 640, "height": 400})
    page.get_by_role("link", name="Kettle Island Light").click()
    page.get_by_label("Filter the sources").fill("gull")
    page.get_by_role("row", name="gull-pass").click()
    page.get_by_role("button", name="Play").click()
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    pick(page, "L − R")
    page.get_by_role("button", name="Pause").click()
    deliver = page.get_by_role("button", name="Review and deliver…")
    deliver.scroll_into_view_if_needed()
    expect(deliver).to_be_in_viewport(ratio=1)
    meters = page.get_by_label("Levels and correlation of what is heard")
    meters.scroll_into_view_if_needed()
    expect(meters).to_be_in_viewport(ratio=1)


def test_skip_link_and_live_announcements(page: Page) -> None:
    page.get_by_role("link", name="Kettle Island Light").click()
    expect(page.get_by_role("heading", name="Kettle Island Light")).to_be_focused()
    page.reload()
    expect(page.get_by_role("heading", name="Kettle Island Light")).to_be_visible()
    page.keyboard.press("Tab")
    expect(page.get_by_role("button", name="Skip to main content")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("main")).to_be_focused()
    page.get_by_label("Filter the sources").fill("gull")
    page.get_by_role("row", name="gull-pass").click()
    turn_added(page, "swap")
    announced = page.get_by_test_id("announced")
    expect(announced).to_contain_text("Turn added. Swaps left and right of gull-pass")
    page.keyboard.press("Control+z")
    expect(announced).to_contain_text("Turn removed. Swaps left and right of gull-pass")


def test_axe_finds_nothing_in_any_view(page: Page) -> None:
    """Every other view in the other theme: what both share is drawn by the same parts."""
    found = {}
    for n, (name, show, part) in enumerate(VIEWS):
        show(page)
        scheme: Literal["light", "dark"] = "dark" if n % 2 else "light"
        page.emulate_media(color_scheme=scheme, reduced_motion="reduce")
        expect(page.locator("html")).to_have_class(scheme)
        if problems := lasting_violations(page, part):
            found[name, scheme] = problems
    assert found == {}
