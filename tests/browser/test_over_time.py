"""Turns along time, from the demo's findings to a delivery: a range of a file, the delay of a second microphone."""

import re
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray
from playwright.sync_api import Page, expect

from support.acts import (
    answer,
    deliver_and_download,
    drop,
    files_of,
    job_shown,
    new_job,
    select_range,
    settled_worksheet,
    turn_added,
)
from support.helpers import bext, noise, read_ints, write_wav

pytestmark = pytest.mark.browser


def test_polarity_is_mended_from_the_moment_it_turns(page: Page, tmp_path: Path) -> None:
    """From the finding to the delivery, and the range moved by hand."""
    page.get_by_role("link", name="Kettle Island Light").click()
    page.get_by_label("Filter the sources").fill("landing")
    row = page.get_by_role("grid", name="Files").get_by_role("row", name="landing-stage")
    row.click()
    expect(page.get_by_test_id("finding-polarity-changes")).to_contain_text(
        "Left and right are out of polarity from 9.5 s"
    )
    page.get_by_role("button", name="invert right from 9.5 s").last.click()
    panel = page.get_by_role("complementary", name="Settings")
    expect(panel).to_contain_text("Only from 9.500 s to 16.000 s")
    panel.get_by_label("Range from").fill("9.4")
    page.keyboard.press("Enter")
    expect(panel).to_contain_text("Only from 9.400 s to 16.000 s")
    expect(panel.get_by_test_id("finding-polarity-changes")).to_have_count(0)
    delivered = deliver_and_download(page, tmp_path)
    written = read_ints(delivered["landing-stage.wav"])
    turned = slice(round(9.4 * 48_000) + 480, None)
    before = np.corrcoef(*written[: round(9.3 * 48_000)].T)[0, 1]
    assert before > 0.8
    assert np.corrcoef(*written[round(9.5 * 48_000) :].T)[0, 1] > 0.8
    assert len(written[turned]) == 16 * 48_000 - turned.start


def test_the_delay_of_a_second_microphone_is_aligned(page: Page, tmp_path: Path) -> None:
    """The demo's stairs: the right side is 14 samples late."""
    page.get_by_role("link", name="Kettle Island Light").click()
    page.get_by_label("Filter the sources").fill("tower-stairs")
    page.get_by_role("grid", name="Files").get_by_role("row", name="tower-stairs_L").click()
    page.keyboard.press("Control+a")
    turn_added(page, "merge")
    expect(page.get_by_role("listbox", name="Turns").get_by_role("option", selected=True)).to_contain_text(
        "tower-stairs"
    )
    turn_added(page, "align")
    panel = page.get_by_role("complementary", name="Settings")
    panel.get_by_role("button", name="Measure the delay").click()
    expect(panel.get_by_test_id("found-delays")).to_contain_text("FR is 14 samples (0.29 ms) behind FL")
    expect(panel.get_by_role("img", name="Correlation of FR by delay")).to_be_visible()
    panel.get_by_role("button", name="align:").click()
    expect(panel.get_by_label("Delay of FL")).not_to_have_value("0")
    (file,) = [path for name, path in deliver_and_download(page, tmp_path).items() if name.startswith("tower-stairs")]
    left, right = read_ints(file).T.astype(np.float64)
    lags = [float(np.dot(left[2_000:200_000], right[2_000 + lag : 200_000 + lag])) for lag in range(-20, 21)]
    assert int(np.argmax(lags)) - 20 == 0


def test_two_microphones_on_a_clock_are_blended_in_polarity_and_time(page: Page, tmp_path: Path) -> None:
    """The demo's back microphone hears the clock inverted and 4 samples late: the best sum says so, and the bell is
    full again.
    """
    page.get_by_role("link", name="Kettle Island Light").click()
    page.get_by_label("Filter the sources").fill("clock")
    page.get_by_role("grid", name="Files").get_by_role("row", name="clock-front").click()
    page.keyboard.press("Control+a")
    turn_added(page, "merge")
    chosen = page.get_by_role("listbox", name="Turns").get_by_role("option", selected=True)
    expect(chosen).to_contain_text("clock-front")
    left, right = re.findall("clock-(?:front|back)", chosen.inner_text())[:2]
    turn_added(page, "fold")
    panel = page.get_by_role("complementary", name="Settings")
    panel.get_by_label("Mono from", exact=True).select_option("blend")
    expect(panel.get_by_test_id("blend-bands")).to_contain_text("correlation −0.6")
    panel.get_by_role("button", name="Best low-end sum: right inverted").click()
    expect(panel.get_by_test_id("blend-bands")).to_contain_text("correlation +0.8")
    expect(panel.get_by_role("checkbox", name="Invert right")).to_be_checked()
    settled_worksheet(page)
    source = {name: demo_samples(page, name) for name in (left, right)}
    delivered = deliver_and_download(page, tmp_path)
    (file,) = [path for name, path in delivered.items() if name.startswith("clock")]
    # The one that was earlier is delayed.
    early, late = (np.pad(source[f"clock-{name}"][:, 0], pad) for name, pad in (("front", (4, 0)), ("back", (0, 4))))
    expected = 0.5 * (early - late) * (1 if left == "clock-front" else -1)
    assert np.abs(read_ints(file)[:, 0] - expected).max() <= 1.5


def test_two_voices_on_one_file_get_hushes_and_one_loudness(page: Page, tmp_path: Path) -> None:
    """The demo's talk between boat and tower: from its finding to a delivery in which only spill is lower."""
    page.get_by_role("link", name="Kettle Island Light").click()
    page.get_by_label("Filter the sources").fill("boat")
    page.get_by_role("grid", name="Files").get_by_role("row", name="boat-and-tower").click()
    expect(page.get_by_test_id("finding-unrelated-channels")).to_be_visible()
    turn_added(page, "hush")
    panel = page.get_by_role("complementary", name="Settings")
    panel.get_by_role("button", name="suggest").click()
    take = panel.get_by_role("button", name=re.compile("^Add all"))
    suggested = int(re.sub(r"\D", "", take.inner_text()))
    take.click()
    rows = page.get_by_role("listbox", name="Hushes of this line").get_by_role("option")
    expect(rows).to_have_count(suggested)
    settled_worksheet(page)
    source = demo_samples(page, "boat-and-tower")
    # Other tests leave lines of the same file: this one's is the last.
    delivered = [
        path for name, path in deliver_and_download(page, tmp_path).items() if name.startswith("boat-and-tower")
    ]
    written = read_ints(max(delivered, key=lambda path: len(path.name))).astype(np.float64)
    lower = np.abs(written) < np.abs(source) * 0.9
    share = lower.mean(axis=0)
    assert (share > 0.1).all()
    assert not lower.all(axis=1).any()  # one of the two is always left alone
    powers = [(source[:, n][lower[:, n]] ** 2).mean() for n in range(2)]
    unchanged = [(source[:, n][~lower[:, n]] ** 2).mean() for n in range(2)]
    assert all(10 * np.log10(loud / quiet) > 12 for loud, quiet in zip(unchanged, powers, strict=True))


def test_a_session_is_delivered_over_one_range_by_the_clock(page: Page, tmp_path: Path) -> None:
    """A range selected on the first take, delivered of all that were recorded then; one has no clock."""
    ten = 36_000 * 48_000
    takes = [noise(n, 4 * 48_000, 2, 20) for n in range(4)]
    starts = [ten, ten + 72_000, ten + 60 * 48_000]
    files = [
        write_wav(tmp_path / f"take-{n}.wav", ints, carried=(bext(start),))
        for n, (ints, start) in enumerate(zip(takes, starts, strict=False))
    ]
    files.append(write_wav(tmp_path / "take-3.wav", takes[3]))
    new_job(page, "One morning")
    drop(page, *files)
    files_of(page, *(f"take-{n}" for n in range(4)))
    page.get_by_role("grid", name="Files").get_by_role("row", name="take-0").click()
    page.keyboard.press("Control+a")
    turn_added(page, "swap")
    turns = page.get_by_role("listbox", name="Turns").get_by_role("option")
    expect(turns).to_have_count(4)
    turns.filter(has_text="take-0").click()
    axis = page.get_by_test_id("time-axis").bounding_box()
    assert axis is not None
    select_range(page, int(axis["width"] * 0.5), int(axis["width"] * 0.8))
    page.get_by_role("button", name="Review and deliver…").click()
    page.get_by_label("Range of each file").select_option("Same time of day")
    expect(page.get_by_label("Range from")).to_have_value(re.compile(r"^10:00:0[12]\."))
    page.get_by_label("Range from").fill("10:00:02")
    page.keyboard.press("Enter")
    page.get_by_label("Range to").fill("10:00:03.5")
    page.keyboard.press("Enter")
    expect(page.get_by_role("row", name=re.compile("take-2"))).to_contain_text("none of it is in the range")
    expect(page.get_by_role("row", name=re.compile("take-3"))).to_contain_text("has no timestamp")
    expect(page.get_by_role("row", name=re.compile("take-0"))).to_contain_text("10:00:02.000")
    page.get_by_role("link", name="Back to the worksheet").click()
    page.get_by_role("button", name="Review and deliver…").click()
    page.get_by_role("button", name="Skip them").click()
    expect(page.get_by_role("button", name="Deliver 2 files")).to_be_enabled()
    delivered = deliver_and_download(page, tmp_path)
    assert sorted(delivered) == ["take-0.wav", "take-1.wav"]
    for n, start in enumerate(starts[:2]):
        first = ten + 2 * 48_000 - start
        assert np.array_equal(read_ints(delivered[f"take-{n}.wav"]), takes[n][first : first + 72_000, ::-1])


def demo_samples(page: Page, name: str) -> NDArray[np.float64]:
    """A file of the demo as integers (frames, channels), by the API."""
    job = job_shown(page)
    (source,) = [one for one in job["sources"] if one["name"] == name]
    stretch = f"clip={source['ref']}&start=0&frames={source['frames']}"
    samples = answer(page, f"{job['id']}/revisions/{job['head']}/samples?{stretch}")
    return np.frombuffer(samples.body(), "<f4").reshape(source["frames"], -1).astype(np.float64) * 2**23
