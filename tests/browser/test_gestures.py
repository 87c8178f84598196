"""How many gestures a job takes, from the dropped files to the delivery: clicks, drags, words typed with Enter."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from support.acts import drop, files_of, new_job
from support.helpers import noise, read_ints, write_wav

pytestmark = pytest.mark.browser


class Counted:
    """A page on which every gesture counts."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.gestures = 0

    def click(self, name: str | re.Pattern[str]) -> None:
        self.gestures += 1
        self.page.get_by_role("button", name=name).click()

    def turn(self, meant: str) -> None:
        """`t`, a word and Enter are one gesture."""
        self.gestures += 1
        self.page.keyboard.press("t")
        self.page.keyboard.type(meant)
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("complementary", name="Settings")).to_be_visible()

    def deliver(self, to: Path) -> Path:
        """The one sound that was delivered."""
        self.click("Review and deliver…")
        self.click(re.compile("Deliver .* file"))
        delivery = self.page.get_by_test_id("delivery").first
        expect(delivery).to_have_attribute("data-state", "done")
        with self.page.expect_download() as download:  # it is on the disk of the server: what follows is for the test
            delivery.get_by_role("link", name=re.compile(r"\.wav$")).first.click()
        path = to / download.value.suggested_filename
        download.value.save_as(path)
        return path


STEREO = noise(5, 30_000, 2, 22)
LEFT, RIGHT = STEREO[:, :1], STEREO[:, 1:]


@pytest.mark.parametrize(
    ("meant", "expected"),
    [
        ("swap", STEREO[:, ::-1]),
        ("left only", LEFT),
        ("right only", RIGHT),
        ("invert left", np.hstack([-LEFT, RIGHT])),
        ("invert right", np.hstack([LEFT, -RIGHT])),
    ],
)
def test_one_file_is_dropped_turned_and_delivered_in_three(
    page: Page, tmp_path: Path, meant: str, expected: np.ndarray
) -> None:
    new_job(page, f"Gestures {meant}")
    drop(page, write_wav(tmp_path / "quay.wav", STEREO))
    expect(page.get_by_role("row", name="quay")).to_have_attribute("aria-selected", "true")
    counted = Counted(page)
    counted.turn(meant)
    delivered = counted.deliver(tmp_path / "out")
    assert counted.gestures == 3
    assert np.array_equal(read_ints(delivered)[:, : expected.shape[1]], expected)


def test_several_files_that_arrive_are_not_chosen(page: Page, tmp_path: Path) -> None:
    new_job(page, "Several")
    drop(page, *(write_wav(tmp_path / f"{name}.wav", noise(n, 20_000, 2)) for n, name in enumerate(("fog", "gull"))))
    files_of(page, "fog", "gull")
    expect(page.get_by_role("row", name="fog")).to_have_attribute("aria-selected", "false")
    expect(page.get_by_role("row", name="gull")).to_have_attribute("aria-selected", "false")
