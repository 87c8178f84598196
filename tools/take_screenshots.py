"""Takes one picture of each main view from the demo: `make screenshots`."""

import json
import re
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Literal

from playwright.sync_api import Browser, Page, sync_playwright

TO = Path(__file__).parents[1] / "docs" / "screenshots"
COMMAND = Path(sys.executable).parent / "wedge-turn"


@contextmanager
def served() -> Iterator[str]:
    with tempfile.TemporaryDirectory() as data:
        command = [str(COMMAND), "serve", "--demo", "--data", data, "--port", "0"]
        with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, bufsize=1) as server:
            try:
                assert server.stdout is not None
                found = re.search(r"http://\S+/", server.stdout.readline())
                assert found is not None
                while json.load(urllib.request.urlopen(found[0] + "api/demo", timeout=60))["state"] == "making":
                    time.sleep(1)
                yield found[0]
            finally:
                server.terminate()


def take(page: Page, name: str) -> None:
    page.wait_for_timeout(800)  # fonts and pictures have arrived
    page.screenshot(path=TO / f"{name}.png")


class Session:
    """One browser at one served demo; each method leaves the page where the next one picks it up."""

    def __init__(self, browser: Browser, address: str) -> None:
        self.browser, self.address = browser, address
        self.page = self.opened("dark")

    def opened(self, colors: Literal["dark", "light"]) -> Page:
        page = self.browser.new_page(viewport={"width": 1280, "height": 800}, color_scheme=colors, locale="en-GB")
        page.goto(self.address)
        return page

    def jobs_and_delivery(self) -> None:
        page = self.page
        take(page, "jobs")
        page.get_by_text("Kettle Island Light").click()
        page.get_by_role("button", name="Review and deliver…").click()
        page.get_by_role("button", name=re.compile("Deliver .* files")).click()
        page.get_by_text("Download all as ZIP").wait_for()
        take(page, "delivery")
        with page.context.expect_page() as opened:
            page.get_by_role("link", name="Report").click()
        opened.value.set_viewport_size({"width": 1280, "height": 800})
        take(opened.value, "report")
        opened.value.close()
        page.get_by_role("link", name="Back to the worksheet").click()

    def workbench(self) -> None:
        page = self.page
        page.get_by_role("option", name=re.compile("gull-pass split")).click()
        axis = page.get_by_test_id("time-axis").bounding_box()
        assert axis is not None
        page.mouse.move(axis["x"] + 60, axis["y"] + 90)
        page.mouse.down()
        page.mouse.move(axis["x"] + 230, axis["y"] + 90, steps=5)
        page.mouse.up()
        page.get_by_text("corr ").nth(1).wait_for()  # the field of the range, not of what was there before
        take(page, "workbench")

    def sheets(self) -> None:
        page = self.page
        page.get_by_role("button", name="History").click()
        take(page, "history")
        page.keyboard.press("Escape")
        page.get_by_role("dialog").wait_for(state="hidden")

    def findings(self) -> None:
        page = self.page
        page.get_by_role("row", name="boat-and-tower").click()
        take(page, "finding")
        page.get_by_label("Filter the sources").fill("harbour")
        page.get_by_role("row", name="harbour-swell_ms").get_by_role("button").click()
        page.get_by_role("heading", name="Decode M/S").wait_for()
        page.get_by_role("table", name="Before and after").get_by_text("−17").wait_for()
        page.keyboard.press("Space")
        page.wait_for_timeout(2200)
        take(page, "decode")
        page.keyboard.press("Space")

    def over_time(self) -> None:
        page = self.page
        page.get_by_label("Filter the sources").fill("boat")
        page.get_by_role("row", name="boat-and-tower").click()
        page.keyboard.press("t")
        page.keyboard.type("hush")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="suggest").click()
        page.get_by_test_id("proposal").nth(7).wait_for()
        for n in (0, 1, 2):
            page.get_by_test_id("proposal").nth(0).click()
            page.get_by_test_id("hush").nth(n).wait_for()
        page.wait_for_timeout(1500)
        take(page, "hushes")
        page.get_by_label("Filter the sources").fill("clock")
        page.get_by_role("row", name="clock-front").click()
        page.keyboard.press("Control+a")
        page.keyboard.press("t")
        page.keyboard.type("merge")
        page.keyboard.press("Enter")
        page.get_by_role("option", name="clock-front", selected=True).wait_for()
        page.keyboard.press("t")
        page.keyboard.type("fold")
        page.keyboard.press("Enter")
        page.get_by_label("Mono from", exact=True).select_option("blend")
        page.get_by_role("button", name="Best low-end sum").wait_for()
        page.wait_for_timeout(1500)
        take(page, "blend")
        page.get_by_label("Filter the sources").fill("")
        page.keyboard.press("Escape")

    def from_elsewhere(self) -> None:
        page = self.page
        page.get_by_label("Filter the sources").fill("pier")
        page.get_by_role("row", name="pier-poly").click()
        page.get_by_text("loading…").first.wait_for(state="hidden")
        page.wait_for_timeout(1500)
        take(page, "recorder")
        page.get_by_label("Filter the sources").fill("ferry")
        page.get_by_role("row", name="ferry-film").click()
        page.keyboard.press("t")
        page.keyboard.type("swap")
        page.keyboard.press("Enter")
        page.get_by_text("corr ").nth(1).wait_for()
        page.get_by_test_id("time-axis").click(position={"x": 190, "y": 40})
        page.wait_for_timeout(1500)
        take(page, "film")
        page.get_by_label("Filter the sources").fill("")
        page.keyboard.press("Escape")

    def pictures(self) -> None:
        page = self.page
        page.keyboard.press("v")
        spectrum = page.get_by_test_id("spectrum-in")
        spectrum.wait_for()
        box = spectrum.bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 0.427 * box["width"], box["y"] + 80)
        take(page, "spectrum")
        page.get_by_label("Filter the sources").fill("evening")
        page.get_by_role("row", name="evening-song").click()
        page.keyboard.press("t")
        page.keyboard.type("centre")
        page.keyboard.press("Enter")
        page.get_by_test_id("map-out").wait_for()
        page.get_by_label("Method", exact=True).select_option("wedge")
        page.get_by_text("loading…").first.wait_for(state="hidden")
        page.wait_for_timeout(2500)
        take(page, "map")

    def question(self) -> None:
        page = self.page
        page.goto(self.address)
        page.get_by_text("Kettle Island Light").click()
        page.get_by_role("button", name=re.compile("questions…")).click()
        panel = page.get_by_role("complementary", name="Question")
        while "landing-stage" not in (said := panel.inner_text()):
            page.keyboard.press("n")
            page.wait_for_function("([panel, said]) => panel.innerText !== said", arg=[panel.element_handle(), said])
        panel.get_by_role("button", name=re.compile("^Invert right")).wait_for()
        take(page, "question")

    def recipes(self) -> None:
        page = self.page
        page.goto(self.address)
        page.get_by_text("Kettle Island Light").click()
        lines = page.get_by_role("listbox", name="Turns")
        lines.get_by_role("option").first.click()
        page.get_by_role("button", name="Line").click()
        page.get_by_role("menuitem", name="Save as recipe…").click()
        page.get_by_label("Recipe name").fill("Pair to stereo")
        page.keyboard.press("Enter")
        page.get_by_role("dialog").wait_for(state="hidden")
        page.get_by_role("button", name="Recipes…").click()
        page.get_by_role("button", name="Apply").click()
        page.get_by_label("To which files").select_option("all")
        page.get_by_text("left: lamp-bell_L").wait_for()
        take(page, "recipes")

    def storage(self) -> None:
        self.page.goto(self.address + "storage")
        self.page.get_by_role("row", name="Kettle Island Light").wait_for()
        take(self.page, "storage")

    def why(self) -> None:
        self.page.goto(self.address + "why/polarity")
        self.page.get_by_role("slider", name="Phase offset").fill("150")
        take(self.page, "why")

    def guide(self) -> None:
        self.page.goto(self.address + "guide/two-voices")
        self.page.get_by_role("img", name="Hushes on the waveform").wait_for()
        take(self.page, "guide")

    def in_light(self) -> None:
        page = self.opened("light")
        page.get_by_text("Kettle Island Light").click()
        page.get_by_text("corr ").nth(1).wait_for()
        take(page, "workbench-light")


def main() -> None:
    TO.mkdir(exist_ok=True)
    with served() as address, sync_playwright() as playwright:
        arguments = ["--no-sandbox", "--disable-gpu", "--autoplay-policy=no-user-gesture-required"]
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=arguments)
        session = Session(browser, address)
        session.jobs_and_delivery()
        session.workbench()
        session.sheets()
        session.findings()
        session.over_time()
        session.from_elsewhere()
        session.pictures()
        session.question()
        session.recipes()
        session.storage()
        session.why()
        session.guide()
        session.in_light()
        browser.close()


if __name__ == "__main__":
    main()
