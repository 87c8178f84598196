"""Pictures in the screen's own pixels, and how much of them is asked for while something moves."""

from pathlib import Path
from urllib.parse import urlsplit

import numpy as np
import pytest
from playwright.sync_api import Browser, Page, Request, expect

from support.acts import drop, files_of, new_job, settled_worksheet, turn_added
from support.helpers import noise, write_wav
from support.waiting import PATIENCE

pytestmark = pytest.mark.browser

# The opaque columns of the loudest row of a waveform: the middle of what sounds all the time has no holes.
COLUMNS = """canvas => {
  const context = canvas.getContext("2d");
  const row = Math.round(canvas.height / 2) - 3;
  const data = context.getImageData(0, row, canvas.width, 1).data;
  return [...data].filter((_, n) => n % 4 === 3);
}"""


def opened(browser: Browser, address: str, ratio: float, folder: Path) -> Page:
    """A page on a screen of so many pixels, with a job that has one loud stereo file."""
    page = browser.new_context(viewport={"width": 1280, "height": 800}, device_scale_factor=ratio).new_page()
    page.set_default_timeout(PATIENCE * 1000)
    page.goto(address)
    new_job(page, f"Pixels {ratio}")
    drop(page, write_wav(folder / "surf.wav", noise(1, 480_000, 2)))
    files_of(page, "surf")
    page.get_by_role("row", name="surf").click()
    expect(page.get_by_role("img", name="Waveform of surf")).to_be_visible()
    return page


@pytest.mark.parametrize("ratio", [1, 1.25, 2])
def test_a_waveform_has_no_stripes_on_any_screen(browser: Browser, address: str, ratio: float, tmp_path: Path) -> None:
    page = opened(browser, address, ratio, tmp_path)
    wave = page.get_by_role("img", name="Waveform of surf")
    page.wait_for_function(
        f"""([canvas, ratio]) => Math.abs(canvas.width - canvas.getBoundingClientRect().width * ratio) < 1
        && ({COLUMNS})(canvas).filter(alpha => alpha === 255).length > 400 * ratio""",
        arg=[wave.element_handle(), ratio],
    )
    columns = wave.evaluate(COLUMNS)
    drawn = columns[: max(n for n, alpha in enumerate(columns) if alpha) + 1]
    assert len(drawn) > 400 * ratio
    assert set(drawn[2:-2]) == {255}
    page.context.close()


def asked_from_now(page: Page) -> list[Request]:
    """What the page asks the server for, as it asks."""
    asked: list[Request] = []
    page.on("request", lambda request: asked.append(request) if "/api/" in request.url else None)
    return asked


def test_a_moved_slider_asks_for_pictures_once_it_rests(browser: Browser, address: str, tmp_path: Path) -> None:
    page = opened(browser, address, 1, tmp_path)
    turn_added(page, "width")
    settled_worksheet(page)
    expect(page.get_by_role("img", name="Waveform of surf")).to_have_count(2)
    slider = page.get_by_role("complementary", name="Settings").get_by_role("slider", name="Width", exact=True)
    slider.focus()
    # No time passes on the page while the slider moves, however slow the machine is.
    page.clock.install()
    page.clock.pause_at(page.evaluate("Date.now() / 1000 + 5"))
    page.wait_for_timeout(1_000)
    asked = asked_from_now(page)
    for _ in range(40):
        page.keyboard.press("ArrowRight")
    page.wait_for_timeout(1_000)
    moving = {request.method for request in asked}
    with page.expect_response("**/analysis?*"):
        page.clock.run_for(1_000)
    page.wait_for_timeout(1_000)
    pictures = [urlsplit(request.url).path.rsplit("/")[-1] for request in asked if request.method == "GET"]
    assert moving == {"PATCH"}, "while it moves it is heard, and nothing is drawn anew"
    assert {"waveform", "analysis"} <= set(pictures)
    assert len(pictures) == len(set(pictures)), pictures
    page.context.close()


def test_a_dragged_range_asks_little(browser: Browser, address: str, tmp_path: Path) -> None:
    """Sixty moves, with the field beside the waveform that shows the range."""
    page = opened(browser, address, 1, tmp_path)
    box = page.get_by_role("img", name="Waveform of surf").bounding_box()
    assert box is not None
    y = box["y"] + box["height"] / 2
    page.mouse.move(box["x"] + 60, y)
    page.mouse.down()
    asked = asked_from_now(page)
    for n in range(60):
        page.mouse.move(box["x"] + 80 + 5 * n, y + n % 3)
    page.mouse.up()
    with page.expect_response("**/analysis?*"):
        pass
    page.wait_for_timeout(500)
    assert 1 <= len(asked) <= 12, [request.url for request in asked]
    page.context.close()


def test_a_waveform_says_its_levels_and_fits_its_height(page: Page, tmp_path: Path) -> None:
    steady = np.full((96_000, 2), 2**21)  # a quarter of full scale: −12.04 dBFS
    steady[48_000:] //= 2
    new_job(page, "Levels")
    drop(page, write_wav(tmp_path / "hum.wav", steady))
    lane = page.get_by_test_id("lane-in")
    expect(page.get_by_role("img", name="Waveform of hum")).to_be_visible()
    axis = page.get_by_test_id("time-axis").bounding_box()
    assert axis is not None
    readout = page.get_by_test_id("readout")
    for part, level in ((0.25, "−12.0 −12.0 dBFS"), (0.75, "−18.1 −18.1 dBFS")):
        page.mouse.move(axis["x"] + part * axis["width"], axis["y"] + 60)
        expect(readout).to_contain_text(level)
    expect(readout).to_contain_text("0:01.5")
    page.mouse.move(axis["x"] + 10, axis["y"] - 60)
    expect(readout).to_have_count(0)
    page.keyboard.press("f")
    expect(page.get_by_role("button", name="Fit height")).to_have_attribute("aria-pressed", "true")
    expect(lane).to_contain_text("height +11.8 dB")
    page.keyboard.press("f")
    expect(lane).not_to_contain_text("height +")
