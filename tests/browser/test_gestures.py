"""How many gestures a job takes, from the dropped files to the delivery: clicks, drags, words typed with Enter."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from support.acts import deliver_and_download, drop, files_of, mono_pair, new_job, select_range, turn_added
from support.conversation import conversation
from support.hands import Hands
from support.helpers import noise, read_ints, write_wav

pytestmark = pytest.mark.browser


class Counted:
    """A page on which every gesture counts, by mouse or by keys."""

    def __init__(self, page: Page, by_keys: bool) -> None:
        self.page = page
        self.hands = Hands(page) if by_keys else None
        self.gestures = 0

    def click(self, name: str | re.Pattern[str]) -> None:
        self.gestures += 1
        if self.hands:
            self.hands.button(name)
        else:
            self.page.get_by_role("button", name=name).first.click()

    def take_suggestion(self, name: str) -> None:
        """What the row of the first file offers."""
        self.gestures += 1
        if self.hands:
            self.hands.tab_to(self.page.get_by_role("grid", name="Files"))
            self.hands.press("Home", "Enter")
        else:
            self.page.get_by_role("button", name=name).first.click()

    def turn(self, meant: str) -> None:
        """`t`, a word and Enter are one gesture."""
        self.gestures += 1
        turn_added(self.page, meant)

    def select(self, start: int, end: int) -> None:
        """A drag over the waveform, or its two keys at these seconds."""
        self.gestures += 1
        if self.hands:
            self.hands.press("Home", *["ArrowRight"] * start, "[", *["ArrowRight"] * (end - start), "]")
        else:
            select_range(self.page, 100 * start, 100 * end)

    def deliver(self, to: Path) -> dict[str, Path]:
        self.gestures += 2  # the two buttons
        return self.hands.delivered(to) if self.hands else deliver_and_download(self.page, to)

    def download(self, to: Path) -> Path:
        """The result of the line that is shown."""
        self.gestures += 1
        with self.page.expect_download() as download:
            if self.hands:
                self.hands.press("Shift+s")
            else:
                self.page.get_by_test_id("download").last.click()
        path = to / download.value.suggested_filename
        download.value.save_as(path)
        return path


def dropped(page: Page, by_keys: bool, name: str, *files: Path) -> Counted:
    """A job with these files, all of them measured; a file that came alone is chosen."""
    new_job(page, name)
    drop(page, *files)
    expect(page.get_by_role("grid", name="Files")).to_have_attribute("aria-rowcount", str(len(files)))
    expect(page.get_by_text(" · analysing")).to_have_count(0)
    if len(files) == 1:
        expect(page.get_by_role("row", name=files[0].stem)).to_have_attribute("aria-selected", "true")
    return Counted(page, by_keys)


both_ways = pytest.mark.parametrize("by_keys", [False, True], ids=["mouse", "keys"])


def rms(samples: np.ndarray) -> float:
    return float(np.sqrt(np.mean(np.square(samples, dtype=float))))


STEREO = noise(5, 30_000, 2, 22)
LEFT, RIGHT = STEREO[:, :1], STEREO[:, 1:]


@pytest.mark.parametrize(
    ("meant", "by_keys", "expected"),
    [
        ("swap", False, STEREO[:, ::-1]),
        ("swap", True, STEREO[:, ::-1]),
        ("left only", False, LEFT),
        ("right only", True, RIGHT),
        ("invert left", False, np.hstack([-LEFT, RIGHT])),
        ("invert right", True, np.hstack([LEFT, -RIGHT])),
    ],
)
def test_one_file_is_dropped_turned_and_delivered_in_three(
    page: Page, tmp_path: Path, meant: str, by_keys: bool, expected: np.ndarray
) -> None:
    counted = dropped(page, by_keys, f"Gestures {meant}", write_wav(tmp_path / "quay.wav", STEREO))
    counted.turn(meant)
    (delivered,) = counted.deliver(tmp_path / "out").values()
    assert counted.gestures == 3
    assert np.array_equal(read_ints(delivered)[:, : expected.shape[1]], expected)


@both_ways
def test_a_mono_sum_is_downloaded_in_two(page: Page, tmp_path: Path, by_keys: bool) -> None:
    counted = dropped(page, by_keys, "Gestures mono", write_wav(tmp_path / "quay.wav", 2 * STEREO))
    counted.turn("mono sum")
    delivered = counted.download(tmp_path)
    assert (counted.gestures, delivered.name) == (2, "quay.wav")
    assert np.array_equal(read_ints(delivered), LEFT + RIGHT)


@both_ways
def test_a_pair_becomes_stereo_in_two(page: Page, tmp_path: Path, by_keys: bool) -> None:
    sides = mono_pair(tmp_path)
    counted = dropped(page, by_keys, "Gestures pair", *sides)
    counted.take_suggestion("merge")
    expect(page.get_by_role("complementary", name="Settings")).to_be_visible()
    delivered = counted.download(tmp_path / "out")
    assert (counted.gestures, delivered.name) == (2, "porch.wav")
    assert np.array_equal(read_ints(delivered), np.hstack([read_ints(side) for side in sides]))


@both_ways
def test_hundreds_of_stereo_files_become_mono_in_four(page: Page, tmp_path: Path, by_keys: bool) -> None:
    number = 40 if by_keys else 200
    ints = [noise(n, 2_000, 2) for n in range(number)]
    files = [write_wav(tmp_path / f"cue {n:03}.wav", one) for n, one in enumerate(ints)]
    counted = dropped(page, by_keys, "Gestures many", *files)
    counted.click(f"Stereo {number}")
    counted.click(f"split {number} files")
    expect(page.get_by_text(f"{number} files, {number} turns")).to_be_visible()
    delivered = counted.deliver(tmp_path / "out")
    assert counted.gestures == 4
    assert len(delivered) == 2 * number
    for n, one in enumerate(ints):
        for side, letter in enumerate("LR"):
            assert np.array_equal(read_ints(delivered[f"cue {n:03}_{letter}.wav"]), one[:, [side]])


@both_ways
def test_mid_and_side_on_two_files_become_stereo_in_three(page: Page, tmp_path: Path, by_keys: bool) -> None:
    mid, side = noise(1, 30_000, 1, 20), noise(2, 30_000, 1, 20)
    files = [write_wav(tmp_path / f"reeds_{name}.wav", ints) for name, ints in (("mid", mid), ("side", side))]
    counted = dropped(page, by_keys, "Gestures mid and side", *files)
    counted.take_suggestion("decode")
    (delivered,) = counted.deliver(tmp_path / "out").values()
    assert counted.gestures == 3
    assert np.array_equal(read_ints(delivered), np.hstack([mid + side, mid - side]))


@both_ways
def test_vocals_are_taken_out_of_a_range_in_four(page: Page, tmp_path: Path, by_keys: bool) -> None:
    rng = np.random.default_rng(3)
    lead, around = rng.normal(0, 2**19, (4 * 48_000, 1)), rng.normal(0, 2**17, (4 * 48_000, 2))
    song = np.rint(lead + around).astype(np.int64)
    counted = dropped(page, by_keys, "Gestures vocals", write_wav(tmp_path / "song.wav", song))
    counted.select(1, 2)
    counted.turn("remove vocals")
    expect(page.get_by_label("Range from")).to_be_visible()
    (delivered,) = counted.deliver(tmp_path / "out").items()
    assert (counted.gestures, delivered[0]) == (4, "song_no-vocals.wav")
    changed = np.flatnonzero((read_ints(delivered[1]) != song).any(axis=1))
    assert changed[0] > 0
    assert changed[-1] < len(song) - 48_000


@both_ways
def test_two_voices_are_levelled_and_hushed_in_five(page: Page, tmp_path: Path, by_keys: bool) -> None:
    talk = conversation(0, 20)
    ints = np.rint(talk.samples * 2**20 * [1, 0.4]).astype(np.int64)
    counted = dropped(page, by_keys, "Gestures voices", write_wav(tmp_path / "table.wav", ints))
    counted.turn("level")
    counted.click(re.compile("^Match channels"))
    counted.click("suggest")
    expect(page.get_by_test_id("proposal").first).to_be_visible()
    counted.click(re.compile("^Add (all|this)"))
    expect(page.get_by_test_id("hush").first).to_be_visible()
    delivered = read_ints(counted.download(tmp_path / "out"))
    assert counted.gestures == 5
    for side in (0, 1):
        # Spill is what one side has while only the other speaks.
        speaks, spills = talk.speaks[:, side], talk.speaks[:, 1 - side] & ~talk.speaks[:, side]
        before, after = (rms(x[spills, side]) / rms(x[speaks, side]) for x in (ints, delivered))
        assert after < before / 2
    (first, second), (left, right) = (
        [rms(x[talk.speaks[:, side], side]) for side in (0, 1)] for x in (ints, delivered)
    )
    assert abs(np.log(left / right)) < abs(np.log(first / second)) / 2


def test_everything_is_delivered_by_one_key_with_the_settings_chosen_last(page: Page, tmp_path: Path) -> None:
    counted = dropped(page, False, "Gestures again", write_wav(tmp_path / "quay.wav", STEREO))
    counted.turn("swap")
    page.keyboard.press("d")
    page.get_by_label("Bit depth").select_option("32-bit")
    page.get_by_role("link", name="Back to the worksheet").click()
    page.keyboard.press("Shift+d")
    expect(page.get_by_text("1 file written and proved.").last).to_be_visible()
    page.keyboard.press("d")
    delivery = page.get_by_test_id("delivery").first
    with page.expect_download() as download:
        delivery.get_by_role("link", name="quay.wav").click()
    download.value.save_as(tmp_path / "out.wav")
    assert np.array_equal(read_ints(tmp_path / "out.wav", 32), STEREO[:, ::-1] << 8)


def test_a_result_that_would_clip_is_not_delivered_unasked(page: Page, tmp_path: Path) -> None:
    counted = dropped(page, False, "Gestures clipping", write_wav(tmp_path / "quay.wav", 2 * STEREO))
    counted.turn("level")
    field = page.get_by_label("all channels: value")
    field.fill("20")
    field.press("Enter")
    page.get_by_test_id("download").last.click()
    expect(page.get_by_role("heading", name="Files to deliver")).to_be_visible()
    expect(page.get_by_text("would clip").first).to_be_visible()
    expect(page.get_by_test_id("delivery")).to_have_count(0)


def test_several_files_that_arrive_are_not_chosen(page: Page, tmp_path: Path) -> None:
    new_job(page, "Several")
    drop(page, *(write_wav(tmp_path / f"{name}.wav", noise(n, 20_000, 2)) for n, name in enumerate(("fog", "gull"))))
    files_of(page, "fog", "gull")
    expect(page.get_by_role("row", name="fog")).to_have_attribute("aria-selected", "false")
    expect(page.get_by_role("row", name="gull")).to_have_attribute("aria-selected", "false")
