"""The pages around the work: many files, two windows, history, names, jobs, colours; and why it works."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Browser, Dialog, Page, Route, expect

from support.acts import (
    choose_filter,
    deliver_and_download,
    drop,
    files_of,
    mono_pair,
    new_job,
    select_range,
    settled_worksheet,
    tones,
    turn_added,
)
from support.helpers import read_ints

pytestmark = pytest.mark.browser


def test_hundreds_of_files_stay_fluid(page: Page) -> None:
    """All at once, without files: the list, its facets and one action for all of them."""
    ids = page.evaluate(
        """async () => {
          const job = await (await fetch("/api/jobs", {method: "POST", headers: {"content-type": "application/json"},
            body: JSON.stringify({name: "Hundreds"})})).json();
          const wav = (seed) => {
            const bytes = new Uint8Array(44 + 2400);
            const view = new DataView(bytes.buffer);
            const text = (at, s) => [...s].forEach((c, i) => (bytes[at + i] = c.charCodeAt(0)));
            text(0, "RIFF"); view.setUint32(4, 36 + 2400, true); text(8, "WAVEfmt ");
            view.setUint32(16, 16, true); view.setUint16(20, 1, true); view.setUint16(22, 1, true);
            view.setUint32(24, 48000, true); view.setUint32(28, 96000, true); view.setUint16(32, 2, true);
            view.setUint16(34, 16, true); text(36, "data"); view.setUint32(40, 2400, true);
            for (let i = 0; i < 1200; i++) view.setInt16(44 + 2 * i, 9000 * Math.sin(i * (seed + 3) / 90), true);
            return bytes;
          };
          const name = (n) => `take-${String(n >> 1).padStart(3, "0")}_${n % 2 ? "R" : "L"}.wav`;
          for (let n = 0; n < 200; n += 10)
            await Promise.all(Array.from({length: 10}, (_, i) => fetch(
              `/api/jobs/${job.id}/sources?name=${name(n + i)}`, {method: "POST", body: wav((n + i) % 2)})));
          return job.id;
        }"""
    )
    page.goto(page.url + f"jobs/{ids}")
    choose_filter(page, "Pairs 100")
    assert page.get_by_role("grid", name="Files").get_by_role("row").count() < 60
    page.get_by_role("button", name="merge 100 pairs").click()
    expect(page.get_by_role("button", name="Review and deliver…")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("200 files, 0 turns")).to_be_visible()


def test_why_two_waves_add_up_to_silence(page: Page) -> None:
    page.get_by_role("link", name="Background").click()
    expect(page.get_by_role("heading", name="Why do two waves add up to silence?")).to_be_visible()
    expect(page.get_by_text("silence", exact=True)).to_be_visible()
    page.get_by_role("button", name="invert wave 2").click()
    expect(page.get_by_text("6.02 dB")).to_be_visible()
    slider = page.get_by_role("slider", name="Phase offset")
    slider.fill("90")
    expect(page.get_by_text("3.01 dB")).to_be_visible()
    page.get_by_role("button", name="sum of both").click()
    page.get_by_role("link", name="Mid and side").click()
    page.get_by_role("button", name="side only").click()
    expect(page.get_by_role("button", name="side only")).to_have_attribute("aria-pressed", "true")
    page.get_by_role("link", name="Mono summing").click()
    expect(page.get_by_role("row", name="a different note in each channel")).to_contain_text("−3.01 dB")


def test_refused_files_are_named_and_the_rest_taken_in(page: Page, tmp_path: Path) -> None:
    new_job(page, "Broken")
    (tmp_path / "notes.wav").write_text("these are no sounds")
    left, _ = mono_pair(tmp_path)
    cut = tmp_path / "cut.wav"
    cut.write_bytes(left.read_bytes()[:-5_000])
    drop(page, tmp_path / "notes.wav", cut, left)
    files_of(page, "porch_L")
    expect(page.get_by_role("alert").filter(has_text="2 files couldn’t be added")).to_be_visible()
    page.get_by_role("button", name="Show").click()
    expect(page.get_by_text("notes.wav is not a readable audio file")).to_be_visible()
    expect(page.get_by_text("cut.wav should have 30,000 frames")).to_be_visible()
    page.get_by_role("button", name="Close").first.click()
    expect(page.get_by_role("alert")).to_have_count(1)


def test_two_windows_show_the_same_worksheet(page: Page, browser: Browser, tmp_path: Path) -> None:
    new_job(page, "Two windows")
    drop(page, *mono_pair(tmp_path))
    files_of(page, "porch_L", "porch_R")
    other = browser.new_page()
    other.goto(page.url)
    files_of(other, "porch_L", "porch_R")
    other.get_by_role("button", name="Merge", exact=True).click()
    expect(page.get_by_role("listbox", name="Turns").get_by_role("option")).to_have_count(1)
    page.get_by_role("listbox", name="Turns").get_by_role("option").click()
    page.keyboard.press("Delete")
    expect(other.get_by_role("listbox", name="Turns").get_by_role("option")).to_have_count(0)
    other.close()


def test_a_range_is_chosen_and_zoomed_to_single_samples(page: Page) -> None:
    page.get_by_text("Kettle Island Light").click()
    axis = page.get_by_test_id("time-axis")
    expect(axis).to_be_visible()
    box = axis.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 100, box["y"] + 50)
    page.mouse.down()
    page.mouse.move(box["x"] + 300, box["y"] + 50, steps=4)
    page.mouse.up()
    scale = float(axis.get_attribute("data-scale") or 0)
    chosen = int(re.sub(r"\D", "", page.get_by_test_id("range").inner_text().split("·")[1]))
    assert abs(chosen - 200 * scale) <= 2
    page.keyboard.press("r")
    expect(axis).not_to_have_attribute("data-scale", str(scale))
    zoomed = float(axis.get_attribute("data-scale") or 0)
    assert abs(zoomed * box["width"] - chosen) <= 2
    page.mouse.move(box["x"] + 10, box["y"] + 50)
    for _ in range(40):
        page.mouse.wheel(0, -300)
    expect(axis).to_have_attribute("data-scale", str(1 / 24))
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("range")).to_be_hidden()
    page.keyboard.press("0")
    expect(axis).to_have_attribute("data-scale", str(scale))


def test_a_checkpoint_is_named_and_restored(page: Page, tmp_path: Path) -> None:
    new_job(page, "Checkpoints")
    drop(page, *mono_pair(tmp_path))
    page.get_by_role("button", name="Merge", exact=True).click()
    lines = page.get_by_role("listbox", name="Turns").get_by_role("option")
    expect(lines).to_have_count(1)
    page.get_by_role("button", name="History").click()
    page.get_by_role("button", name="Name…", exact=True).first.click()
    page.get_by_label("Checkpoint name").fill("before dinner")
    page.keyboard.press("Enter")
    expect(page.get_by_text("before dinner")).to_be_visible()
    page.get_by_role("button", name="Restore").click()
    page.keyboard.press("Escape")
    expect(lines).to_have_count(0)
    page.get_by_role("button", name="Redo").click()
    expect(lines).to_have_count(1)


def test_names_and_settings_are_changed_and_survive_a_reload(page: Page, tmp_path: Path) -> None:
    new_job(page, "Named")
    drop(page, *mono_pair(tmp_path))
    page.get_by_role("button", name="Merge", exact=True).click()
    page.get_by_label("Output name 1").fill("back porch")
    page.keyboard.press("Enter")
    page.get_by_label("Different lengths").select_option("trim")
    expect(page.get_by_role("listbox", name="Turns")).to_contain_text("back porch")
    settled_worksheet(page)
    page.reload()
    expect(page.get_by_role("listbox", name="Turns")).to_contain_text("back porch")
    expect(page.get_by_label("Different lengths")).to_have_value("trim")
    assert set(deliver_and_download(page, tmp_path)) == {"back porch.wav"}


def test_who_leaves_before_a_change_has_arrived_is_asked(page: Page, tmp_path: Path) -> None:
    new_job(page, "Leaving")
    drop(page, *mono_pair(tmp_path))
    page.get_by_role("button", name="Merge", exact=True).click()
    settled_worksheet(page)
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)

    page.route("**/steps/*", hold)
    page.get_by_label("Different lengths").select_option("trim")
    expect(page.get_by_role("main")).to_have_attribute("aria-busy", "true")
    asked: list[str] = []

    def stay(dialog: Dialog) -> None:
        asked.append(dialog.type)
        dialog.dismiss()

    page.on("dialog", stay)
    page.close(run_before_unload=True)
    expect(page.get_by_label("Different lengths")).to_have_value("trim")
    page.wait_for_timeout(100)
    assert asked == ["beforeunload"]
    for route in held:
        route.continue_()
    settled_worksheet(page)
    page.reload()
    expect(page.get_by_label("Different lengths")).to_have_value("trim")
    assert asked == ["beforeunload"]


def test_a_job_is_deleted_after_asking(page: Page) -> None:
    new_job(page, "To be deleted")
    page.get_by_role("link", name="All jobs").click()
    row = page.locator("div").filter(has=page.get_by_role("link", name="To be deleted")).last
    row.get_by_role("button", name="Delete").click()
    page.get_by_role("alertdialog").get_by_role("button", name="Cancel").click()
    expect(page.get_by_role("alertdialog")).to_have_count(0)
    expect(page.get_by_role("link", name="To be deleted")).to_be_visible()
    row.get_by_role("button", name="Delete").click()
    page.get_by_role("alertdialog").get_by_role("button", name="Delete", exact=True).click()
    expect(page.get_by_role("link", name="To be deleted")).to_have_count(0)


def test_a_job_gets_another_name_in_every_window(page: Page) -> None:
    new_job(page, "Working title")
    with page.context.browser.new_page() as other:  # type: ignore[union-attr]
        other.goto(page.url)
        expect(other.get_by_role("heading", name="Working title")).to_be_visible()
        page.get_by_role("button", name="Rename the job").click()
        page.get_by_label("Job name").fill("Harbour lights")
        page.keyboard.press("Enter")
        for window in (page, other):
            expect(window.get_by_role("heading", name="Harbour lights")).to_be_visible()
            expect(window).to_have_title("Harbour lights · Wedge Turn")
        page.get_by_role("link", name="All jobs").click()
        row = page.locator("div").filter(has=page.get_by_role("link", name="Harbour lights")).last
        row.get_by_role("button", name="Delete").click()
        page.get_by_role("alertdialog").get_by_role("button", name="Delete", exact=True).click()
        expect(other.get_by_role("link", name="Back to all jobs")).to_be_visible()


def test_colours_follow_the_system_and_the_user(browser: Browser, address: str) -> None:
    page = browser.new_page(color_scheme="dark")
    page.goto(address)
    expect(page.locator("html")).to_have_class("dark")
    page.get_by_role("button", name="Light theme").click()
    page.reload()
    expect(page.locator("html")).to_have_class("light")
    page.close()


def test_nothing_is_fetched_from_anywhere_else(browser: Browser, address: str) -> None:
    page = browser.new_page()
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    page.goto(address)
    page.get_by_text("Kettle Island Light").click()
    expect(page.get_by_test_id("lane-out")).to_be_visible()
    assert [url for url in asked if not url.startswith((address, "data:", "blob:"))] == []
    page.close()


def test_a_file_is_deleted_for_good_after_asking(page: Page, tmp_path: Path) -> None:
    new_job(page, "Deleting")
    drop(page, *mono_pair(tmp_path, "porch"))
    files_of(page, "porch_L", "porch_R")
    page.get_by_role("row", name="porch_R").click()
    page.get_by_label("About this file").get_by_role("button", name="Archive").click()
    choose_filter(page, "Archived 1")
    page.get_by_role("row", name="porch_R").click()
    delete = page.get_by_role("button", name="Delete permanently")
    delete.click()
    page.get_by_role("button", name="Cancel").click()
    files_of(page, "porch_R")
    delete.click()
    page.get_by_role("button", name="Delete", exact=True).click()
    expect(page.get_by_text("1 file, 0 turns")).to_be_visible()
    expect(page.get_by_role("button", name="Archived 1")).to_have_count(0)


def test_a_range_stays_over_every_picture_and_a_resize(page: Page) -> None:
    page.get_by_role("link", name="Kettle Island Light").click()
    page.get_by_role("grid", name="Files").get_by_role("row", name="evening-song").click()
    select_range(page, 100, 200)
    page.keyboard.press("r")
    chosen, scale = (
        page.get_by_test_id("range").get_attribute("title"),
        page.get_by_test_id("time-axis").get_attribute("data-scale"),
    )
    for picture in ("Spectrum", "Bands", "Map", "Waveform"):
        page.keyboard.press("v")
        expect(page.get_by_role("radio", name=picture)).to_be_checked()
        expect(page.get_by_test_id("range")).to_have_attribute("title", chosen)
    expect(page.get_by_test_id("time-axis")).to_have_attribute("data-scale", str(scale))
    page.set_viewport_size({"width": 1600, "height": 900})
    expect(page.get_by_test_id("range")).to_have_attribute("title", chosen)
    expect(page.get_by_test_id("time-axis")).not_to_have_attribute("data-scale", str(scale))
    page.keyboard.press("d")
    expect(page.get_by_role("heading", name="Files to deliver")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("row", name="evening-song")).to_be_visible()


def test_a_selected_range_is_sample_accurate(page: Page, tmp_path: Path) -> None:
    new_job(page, "Trimmed")
    source = tones(tmp_path, "jetty", 440, 660)
    drop(page, source)
    page.get_by_role("row", name="jetty").click()
    select_range(page, 100, 300)
    chosen = page.get_by_test_id("range").get_attribute("title") or ""
    turn_added(page, "trim")
    lines = page.get_by_role("listbox", name="Turns").get_by_role("option")
    expect(lines).to_contain_text("trim")
    expect(page.get_by_test_id("lane-out")).to_contain_text("jetty")
    page.get_by_role("textbox", name="Range to").fill("0:00.750")
    page.keyboard.press("Enter")
    expect(page.get_by_role("complementary", name="Settings")).to_contain_text("to 0.750 s")
    page.get_by_role("button", name="trim to selected range").click()
    settled_worksheet(page)
    files = deliver_and_download(page, tmp_path)
    part, whole = read_ints(files["jetty.wav"]), read_ints(source)
    assert f"{len(part):,} samples" in chosen
    starts = [n for n in range(len(whole) - len(part) + 1) if np.array_equal(whole[n : n + 3], part[:3])]
    assert any(np.array_equal(whole[n : n + len(part)], part) for n in starts)


def test_nothing_moves_on_a_page_at_rest(page: Page) -> None:
    """No animation frame is asked for while nothing plays."""
    page.add_init_script(
        """const ask = window.requestAnimationFrame; window.frames_asked = 0;
           window.requestAnimationFrame = (draw) => { window.frames_asked++; return ask.call(window, draw); };"""
    )
    page.reload()
    page.get_by_role("link", name="Kettle Island Light").click()
    expect(page.get_by_test_id("fan-out")).to_contain_text("corr")
    asked = [0]
    while len(asked) < 12 and (len(asked) < 2 or asked[-1] != asked[-2]):  # what is measured meanwhile is drawn
        page.wait_for_timeout(2_000)
        asked.append(page.evaluate("window.frames_asked"))
    assert asked[-1] == asked[-2]


def test_the_guide_opens_from_findings_and_settings(page: Page) -> None:
    page.get_by_role("link", name="Guide").click()
    expect(page.get_by_role("heading", name="Prepare a whole folder")).to_be_visible()
    page.get_by_label("Search the guide").fill("vocal wedge")
    page.get_by_role("navigation").get_by_role("link", name="Remove or keep a voice").click()
    picture = page.get_by_role("img", name="The map with the wedge around the voice")
    expect(picture).to_be_visible()
    assert picture.evaluate("(one) => one.decode().then(() => one.naturalWidth)") == 1280
    page.goto(page.url.split("/guide")[0])
    page.get_by_role("link", name="Kettle Island Light").click()
    page.get_by_label("Filter the sources").fill("foghorn")
    page.get_by_role("grid", name="Files").get_by_role("row", name="foghorn").click()
    with page.expect_popup() as opened:
        page.get_by_test_id("finding-opposite-polarity").get_by_role("link", name="Guide").click()
    expect(opened.value.get_by_role("heading", name="Repair an inverted channel")).to_be_visible()
    opened.value.close()
    page.keyboard.press("?")
    expect(page.get_by_role("link", name="Open the guide")).to_have_attribute("href", "/guide/")


def test_a_key_right_after_a_link_meets_the_screen_that_the_link_leads_to(page: Page) -> None:
    page.get_by_role("link", name="Kettle Island Light").click()
    expect(page.get_by_role("grid", name="Files")).to_be_visible()
    page.keyboard.press("d")
    delivery = page.get_by_role("heading", name="Files to deliver")
    expect(delivery).to_be_visible()
    page.context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": 8})
    page.get_by_role("link", name="Back to the worksheet").click()
    page.keyboard.press("d")
    page.context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": 1})
    expect(page.get_by_role("grid", name="Files")).to_be_hidden()
    expect(delivery).to_be_visible()
    page.go_back()
    expect(page.get_by_role("grid", name="Files")).to_be_visible()
