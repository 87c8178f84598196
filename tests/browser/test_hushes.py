"""Hushes in the real interface: drawn, heard, taken back, suggested, typed in and delivered."""

import re
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray
from playwright.sync_api import Browser, Locator, Page, expect

from support.acts import (
    deliver_and_download,
    drop,
    heard,
    job_shown,
    new_job,
    play_until,
    recorded_job,
    settled_worksheet,
    turn_added,
)
from support.conversation import RATE, conversation
from support.helpers import Ints, read_ints, write_wav

pytestmark = pytest.mark.browser
FADE = RATE // 100


def rows(page: Page) -> Locator:
    return page.get_by_role("listbox", name="Hushes of this line").get_by_role("option")


def drawn(page: Page, start: float, end: float, channel: int) -> None:
    """Drag over a channel's half of In, from one share of its width to another."""
    box = page.get_by_test_id("hushes").bounding_box()
    assert box is not None
    y = box["y"] + box["height"] * (0.25 + 0.5 * channel)
    page.mouse.move(box["x"] + start * box["width"], y)
    page.mouse.down()
    page.mouse.move(box["x"] + (start + end) / 2 * box["width"], y)
    page.mouse.move(box["x"] + end * box["width"], y)
    page.mouse.up()


def spans(page: Page) -> list[tuple[int, int, int]]:
    """Channel from 0, first frame and end of each hush of the only line, as the core has them."""
    settled_worksheet(page)
    turn = job_shown(page)["steps"][0]["turn"]
    return [(one["channel"] - 1, int(one["start"][:-1]), int(one["end"][:-1])) for one in turn["hush"]]


def hushed(samples: NDArray[np.float64], hushes: list[tuple[int, int, int]], gain: float) -> NDArray[np.float64]:
    """The formula of hushes, by hand."""
    out = samples.copy()
    fall = gain + (1 - gain) * (1 + np.cos(np.pi * (np.arange(FADE) + 0.5) / FADE)) / 2
    for channel, start, end in hushes:
        course = np.concatenate([fall, np.full(end - start - 2 * FADE, gain), fall[::-1]])
        out[start:end, channel] *= course
    return out


@pytest.mark.sound
def test_hushes_are_drawn_played_undone_suggested_and_delivered(browser: Browser, address: str, tmp_path: Path) -> None:
    talk = conversation(0, 20)
    table = write_wav(tmp_path / "table.wav", np.rint(talk.samples * 2**23).astype(np.int64))
    ints = read_ints(table)
    page = recorded_job(browser, address, "Two at a table", [table])
    page.get_by_role("grid", name="Files").get_by_role("row", name="table").click()
    turn_added(page, "hush")
    expect(page.get_by_test_id("lane-out")).to_be_visible()
    page.keyboard.press("h")
    drawn(page, 0.05, 0.08, 0)
    drawn(page, 0.09, 0.12, 0)
    expect(rows(page)).to_have_count(2)
    both = spans(page)
    assert [channel for channel, _, _ in both] == [0, 0]
    assert both[0][1] == pytest.approx(0.05 * len(ints), abs=0.01 * len(ints))

    settled_worksheet(page)
    page.keyboard.press("Home")
    play_until(page, int(0.14 * len(ints)))
    page.keyboard.press("Space")
    played = heard(page)[: int(0.13 * len(ints))]
    expected = hushed(ints / 2**23, both, 0.0)[: len(played)]
    assert np.abs(played - expected).max() < 1e-6

    page.keyboard.press("Control+z")
    expect(rows(page)).to_have_count(1)
    rows(page).first.click()
    page.keyboard.press("Delete")
    expect(rows(page)).to_have_count(0)

    page.get_by_role("button", name="suggest").click()
    proposals = page.get_by_test_id("proposal")
    expect(proposals.first).to_be_visible()
    suggested = proposals.count()
    # A threshold that no spill reaches leaves nothing.
    threshold = page.get_by_role("slider", name="Threshold below the other channel")
    fits = threshold.input_value()
    threshold.fill("40")
    expect(proposals).to_have_count(0)
    threshold.fill(fits)
    expect(proposals).to_have_count(suggested)
    proposals.first.click()
    expect(rows(page)).to_have_count(1)
    page.keyboard.press("a")
    expect(rows(page)).to_have_count(suggested)
    expect(proposals).to_have_count(0)
    hushes = spans(page)

    (file,) = deliver_and_download(page, tmp_path).values()
    written, expected = read_ints(file), hushed(ints.astype(np.float64), hushes, 10 ** (-12 / 20))
    touched = np.zeros(ints.shape, np.bool_)
    for channel, start, end in hushes:
        touched[start:end, channel] = True
    assert np.array_equal(written[~touched], ints[~touched])
    assert np.abs(written - expected)[touched].max() <= 1.5
    assert not (touched & talk.speaks).any()
    page.close()


def test_a_hush_is_moved_resized_split_and_typed_in(page: Page, tmp_path: Path) -> None:
    ints: Ints = np.random.default_rng(1).integers(-(2**20), 2**20, (10 * RATE, 2))
    new_job(page, "By hand")
    drop(page, write_wav(tmp_path / "table.wav", ints))
    page.get_by_role("grid", name="Files").get_by_role("row", name="table").click()
    turn_added(page, "level")
    expect(page.get_by_test_id("lane-out")).to_be_visible()
    page.get_by_role("button", name="Add", exact=True).click()
    expect(rows(page)).to_have_count(1)
    for label, typed in (("From", "2"), ("To", "4.5"), ("Level of the hush", "-6"), ("Fades in milliseconds", "25")):
        page.get_by_label(label, exact=True).fill(typed)
        page.keyboard.press("Enter")
    page.get_by_label("Channel of the hush").select_option("right")
    expect(rows(page).first).to_contain_text("right")
    expect(rows(page).first).to_contain_text("0:02.000–0:04.500")
    expect(rows(page).first).to_contain_text("−6 dB")
    page.get_by_label("To", exact=True).fill("1")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_have_text("A hush ends after it starts.")

    body = page.get_by_role("button", name=re.compile("^Hush: right"))
    box, axis = body.bounding_box(), page.get_by_test_id("time-axis").bounding_box()
    assert box is not None
    assert axis is not None
    second, middle = axis["width"] / 10, (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + second, middle[1], steps=3)
    page.mouse.up()
    ((channel, start, end),) = spans(page)
    assert (channel, end - start) == (1, 2.5 * RATE)
    assert start == pytest.approx(3 * RATE, abs=0.05 * RATE)

    page.get_by_role("slider", name=re.compile("^End of hush")).focus()
    page.keyboard.press("ArrowRight")
    ((_, begins, ends),) = spans(page)
    assert begins == start
    assert ends > end

    page.evaluate("document.activeElement.blur()")
    page.mouse.click(axis["x"] + 4 * second, axis["y"] + 2)
    page.keyboard.press("s")
    expect(rows(page)).to_have_count(2)
    (_, first, middle_frame), (_, again, last) = spans(page)
    assert (first, again, last) == (begins, middle_frame, ends)
    body.first.focus()
    page.keyboard.press("Delete")
    expect(rows(page)).to_have_count(1)
