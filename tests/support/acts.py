"""What users do, as the browser tests do it: drop, choose, add a turn, slide, play, deliver."""

import base64
import re
import zipfile
from pathlib import Path

import numpy as np
from playwright.sync_api import APIResponse, Browser, Locator, Page, expect

from support.helpers import Json, noise, write_wav
from support.waiting import PATIENCE

RECORDER = Path(__file__).parents[1] / "browser" / "recorder.js"


def drop(page: Page, *files: Path) -> None:
    """Drop files onto the page, as a file manager does."""
    contents = [[file.name, base64.b64encode(file.read_bytes()).decode()] for file in files]
    carried = page.evaluate_handle(
        """(files) => {
          const carried = new DataTransfer();
          for (const [name, content] of files)
            carried.items.add(new File([Uint8Array.from(atob(content), (c) => c.charCodeAt(0))], name));
          return carried;
        }""",
        contents,
    )
    for event in ("dragenter", "dragover", "drop"):
        page.dispatch_event("body", event, {"dataTransfer": carried})


def new_job(page: Page, name: str) -> None:
    page.evaluate("document.fonts.ready")  # a button that moves when its font arrives is missed by a click
    page.get_by_label("Job name").fill(name)
    page.get_by_label("Job name").press("Enter")
    expect(page.get_by_role("heading", name=name)).to_be_visible()


def files_of(page: Page, *names: str) -> None:
    for name in names:
        expect(page.get_by_role("grid", name="Files").get_by_role("row", name=name)).to_be_visible()


def deliver_started(page: Page) -> Locator:
    """Go to the delivery page, deliver what is chosen, and wait until it is done; the delivery on the page."""
    if not page.url.endswith("/delivery"):
        page.get_by_role("button", name="Review and deliver…").click()
    expect(page.get_by_role("heading", name="Files to deliver")).to_be_visible()
    with page.expect_response(lambda answer: answer.url.endswith("/deliveries") and answer.status == 202) as started:
        page.get_by_role("button", name=re.compile("Deliver .* file")).click()
    # The job may have been delivered before: only this one's links are looked for.
    links = page.locator(f"a[href*='{started.value.json()['id']}']")
    delivery = page.get_by_test_id("delivery").filter(has=links)
    expect(delivery).to_have_attribute("data-state", "done")
    return delivery


def deliver_and_download(page: Page, to: Path) -> dict[str, Path]:
    """The files of the newest delivery but its manifest and its report, downloaded."""
    delivery = deliver_started(page)
    with page.expect_download() as download:
        delivery.get_by_role("link", name="Download all as ZIP").click()
    download.value.save_as(to / "delivery.zip")
    with zipfile.ZipFile(to / "delivery.zip") as archive:
        assert archive.testzip() is None
        archive.extractall(to / "unzipped")
    return {path.name: path for path in (to / "unzipped").rglob("*.*") if path.suffix not in (".json", ".html")}


def mono_pair(folder: Path, name: str = "porch", frames: int = 30_000) -> list[Path]:
    return [write_wav(folder / f"{name}_{side}.wav", noise(n, frames, 1)) for n, side in enumerate("LR")]


def turn_added(page: Page, name: str) -> None:
    """Add the turn of this name to what is chosen, and wait for its settings, which take room from the pictures."""
    page.keyboard.press("t")
    page.keyboard.type(name)
    page.keyboard.press("Enter")
    expect(page.get_by_role("complementary", name="Settings")).to_be_visible()


def slide(page: Page, label: str, value: float) -> None:
    """Move a slider to a value, as a hand does: in steps on the way there."""
    slider = page.get_by_role("slider", name=label, exact=True)
    start = float(slider.input_value())
    for part in (0.3, 0.7, 1.0):
        slider.fill(str(round(start + part * (value - start), 4)))


def pick(page: Page, name: str) -> None:
    """Click one of a few choices that stand together, and see that it holds."""
    choice = page.get_by_role("radio", name=name, exact=True)
    choice.locator("xpath=ancestor::label").click()
    expect(choice).to_be_checked()


def far_away(page: Page, milliseconds: int) -> None:
    """From here on each answer takes so long, as over a network."""
    network = page.context.new_cdp_session(page)
    network.send("Network.enable")
    speed = {"downloadThroughput": -1, "uploadThroughput": -1}
    network.send("Network.emulateNetworkConditions", {"offline": False, "latency": milliseconds, **speed})


def select_range(page: Page, start: int, end: int) -> None:
    """Drag over the waveform, between these pixels of its time axis."""
    box = page.get_by_test_id("time-axis").bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + start, box["y"] + 60)
    page.mouse.down()
    page.mouse.move(box["x"] + end, box["y"] + 60, steps=3)
    page.mouse.up()


def settled_worksheet(page: Page) -> None:
    """Every change has arrived: nothing is on its way to the core."""
    expect(page.get_by_role("main")).to_have_attribute("aria-busy", "false")


def choose_filter(page: Page, name: str) -> None:
    """One of the filters above the files, which may be among those behind *More*."""
    filters = page.get_by_role("group", name="Filters")
    chip = filters.get_by_role("button", name=name)
    expect(chip.or_(filters.get_by_role("button", name="More")).first).to_be_visible()
    if not chip.is_visible():
        filters.get_by_role("button", name="More").click()
    chip.click()


def sentences(page: Page) -> list[str]:
    """The lines of the worksheet, without their numbers and how they stand."""
    settled_worksheet(page)
    lines = page.get_by_role("listbox", name="Turns").get_by_role("option").all_text_contents()
    standing = r"^[0-9]+|([0-9]+ warnings?)?(exactBit|roundedNot bit)-exact; not delivered yet$"
    return [re.sub(standing, "", text) for text in lines]


def answer(page: Page, path: str) -> APIResponse:
    """What the API answers, past the page. The server may have closed the connection of the last answer since."""
    return page.request.get(f"{page.url.split('/jobs/')[0]}/api/jobs/{path}", max_retries=2)


def job_shown(page: Page) -> Json:
    """The job that the page shows, as the core has it."""
    return dict(answer(page, re.split("[/?]", page.url.split("/jobs/")[1])[0]).json())


def tones(folder: Path, name: str, left: float, right: float, flip: bool = False, seconds: int = 1) -> Path:
    """Another note on each side, 24 bit."""
    t = np.arange(seconds * 48_000) / 48_000
    sides = [np.rint(2**21 * np.sin(2 * np.pi * hertz * t)) for hertz in (left, right)]
    ints = np.stack([sides[0], -sides[1] if flip else sides[1]], axis=1).astype(np.int64)
    return write_wav(folder / f"{name}.wav", ints)


def recorded(page: Page) -> np.ndarray:
    """What reached the graph's output so far, (frames, 2) float32."""
    # Sent as bytes: as a list of numbers each second of sound would take as long to arrive.
    address = page.evaluate(
        """() => new Promise((resolve) => {
          const reader = new FileReader();
          reader.onload = () => resolve(reader.result);
          reader.readAsDataURL(new Blob(window.heard.map((channel) => new Float32Array(channel))));
        })"""
    )
    return np.frombuffer(base64.b64decode(address.partition(",")[2]), "<f4").reshape(2, -1).T


def heard(page: Page) -> np.ndarray:
    """What reached the graph's output, (frames, 2), without the silence before and after it."""
    both = recorded(page)
    sounding = np.flatnonzero(np.abs(both).sum(axis=1))
    return both[sounding[0] : sounding[-1] + 1] if sounding.size else both[:0]


def play_until(page: Page, frames: int) -> None:
    page.keyboard.press("Space")
    page.wait_for_function("(n) => window.heard[0].length >= n", arg=frames)


def recorded_job(browser: Browser, address: str, name: str, files: list[Path]) -> Page:
    # The recorder is a script of the test, which the page's own policy would not let in.
    page = browser.new_page(viewport={"width": 1280, "height": 800}, bypass_csp=True)
    page.set_default_timeout(PATIENCE * 1000)
    page.add_init_script(path=RECORDER)
    page.goto(address)
    new_job(page, name)
    drop(page, *files)
    files_of(page, *(file.stem for file in files))
    return page
