"""The stories by keyboard alone: nothing here clicks, and whatever has the focus was gone to by Tab."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from support.acts import mono_pair, tones
from support.hands import Hands
from support.helpers import noise, read_ints, write_wav

pytestmark = pytest.mark.browser


def test_files_are_merged_undone_and_a_checkpoint_named(page: Page, tmp_path: Path) -> None:
    left, right = mono_pair(tmp_path)
    hands = Hands(page)
    hands.start("Together", left, right)
    hands.tab_to(page.get_by_role("grid", name="Files"))
    hands.press("Home", "Shift+ArrowDown")
    hands.turn("join", "Merge")
    hands.press("Control+z")
    expect(hands.turns).to_have_count(0)
    hands.press("Control+Shift+z")
    expect(hands.turns).to_have_count(1)
    hands.turn("separate", "Split channels")
    hands.tab_to(page.get_by_role("listbox", name="Turns"))
    hands.press("Delete")
    expect(hands.turns).to_have_count(1)
    hands.button("History")
    hands.button(re.compile("^Name…$"))
    page.keyboard.type("as it was")
    hands.press("Enter")
    expect(page.get_by_text("as it was")).to_be_visible()
    hands.press("Escape")
    hands.button("Rename the job")
    hands.press("Control+a")
    page.keyboard.type("Paired")
    hands.press("Enter")
    expect(page.get_by_role("heading", name="Paired")).to_be_visible()
    (merged,) = hands.delivered(tmp_path).values()
    assert np.array_equal(read_ints(merged), np.hstack([read_ints(left), read_ints(right)]))


def test_a_chip_in_a_row_is_reached_and_the_keys_stay_with_the_list(page: Page, tmp_path: Path) -> None:
    one = noise(4, 20_000, 1)
    rope = write_wav(tmp_path / "rope.wav", np.hstack([one, one]))
    hatch = write_wav(tmp_path / "hatch.wav", np.hstack([one[::-1], np.zeros_like(one)]))
    hands = Hands(page)
    hands.start("Chips", hatch, rope)
    grid = page.get_by_role("grid", name="Files")
    chip = page.get_by_role("row", name="hatch").get_by_role("button", name="right silent → fold to left")
    expect(chip).to_be_visible()
    hands.file("hatch")
    hands.press("Tab")
    expect(chip).to_be_focused()
    hands.press("Home")
    expect(grid).to_be_focused()
    hands.file("rope")
    hands.press("Tab")
    expect(page.get_by_role("row", name="rope").get_by_role("button", name="dual mono → fold to mono")).to_be_focused()
    hands.press("Enter")
    expect(hands.turns).to_have_count(1)
    expect(grid).to_be_focused()


def test_every_turn_of_a_stereo_file_is_reached(page: Page, tmp_path: Path) -> None:
    source = tones(tmp_path, "quay", 440, 660, flip=True)
    hands = Hands(page)
    hands.start("Every way", source)
    hands.file("quay")
    for words, title, what in (
        ("invert", "Invert polarity", "invert left"),
        ("exchange", "Swap left and right", "swap"),
        ("m/s", "Encode to M/S", "encode"),
        ("wide", "Width", "width"),
        ("gain", "Level", "level"),
        ("delay", "Align", "align"),
        ("mono", "Fold to mono", "fold"),
        ("pan", "2×2 matrix", "matrix"),
    ):
        hands.file("quay")
        hands.turn(words, title)
        expect(hands.turns.last).to_contain_text(what)
    hands.tab_to(page.get_by_role("listbox", name="Turns"))
    hands.press("Home", "ArrowDown", "ArrowDown", "ArrowDown")
    hands.slide("Width", "Home")
    expect(hands.turns.nth(3)).to_contain_text("width × 0")
    hands.tab_to(page.get_by_role("listbox", name="Turns"))
    hands.press("End", "ArrowUp")
    hands.tab_to(hands.panel.get_by_role("radio", name="−6 dB"))
    hands.press("ArrowDown")
    expect(hands.turns.nth(6)).to_contain_text("0.7071")
    # In and Out, modes, pictures and a range, by keys of the page and by the choices themselves.
    hands.press("Escape")
    hands.press("Space", "q", "x", "2", "5", "1", "m", "Space", "Home")
    hands.tab_to(page.get_by_role("radiogroup", name="Picture").get_by_role("radio", checked=True))
    hands.press("ArrowRight")
    expect(page.get_by_test_id("spectrum-in")).to_be_visible()
    hands.press("ArrowRight")
    expect(page.get_by_test_id("bands-in")).to_be_visible()
    hands.press("v", "v")
    expect(page.get_by_test_id("lane-in")).to_be_visible()
    hands.tab_to(page.get_by_role("button", name="Zoom in"))
    hands.press("End", "]", "Home", "ArrowRight", "ArrowRight", "[", "l")
    expect(page.get_by_test_id("range")).to_be_visible()
    expect(page.get_by_role("button", name="Loop the range")).to_have_attribute("aria-pressed", "false")
    hands.press("r", "0")
    files = hands.delivered(tmp_path)
    assert len(files) == 8
    swapped = next(path for name, path in files.items() if np.array_equal(read_swapped(path), read_ints(source)))
    assert swapped.suffix == ".wav"


def read_swapped(path: Path) -> np.ndarray:
    ints = read_ints(path)
    return ints[:, ::-1] if ints.shape[1] == 2 else ints


def test_the_centre_is_moved_on_the_map(page: Page, tmp_path: Path) -> None:
    shared, left, right = (noise(n, 96_000, 1, 20)[:, 0] for n in range(3))
    source = write_wav(tmp_path / "pier.wav", np.stack([shared + left // 2, shared + right // 2], axis=1))
    hands = Hands(page)
    hands.start("On the map", source)
    hands.file("pier")
    hands.turn("centre", "Centre")
    hands.button("Use a wedge instead")
    for handle, key, before in (
        ("position", "ArrowRight", "C"),
        ("right edge", "ArrowRight", "× 1.00"),
        ("low limit", "ArrowUp", "180.0 Hz"),
        ("high limit", "ArrowDown", "10.00 kHz"),
    ):
        slider = page.get_by_role("slider", name=f"Wedge: {handle}", exact=True)
        hands.tab_to(slider)
        expect(slider).to_have_attribute("aria-valuetext", before)
        hands.press(key)
        expect(slider).not_to_have_attribute("aria-valuetext", before)
    hands.tab_to(hands.panel.get_by_label("Output name 1"))
    hands.press("Control+a")
    page.keyboard.type("pier without voice")
    hands.press("Enter")
    found = hands.delivered(tmp_path)
    sides, voice = found.pop("pier without voice.wav"), next(iter(found.values()))
    assert np.abs(read_ints(sides) + read_ints(voice) - read_ints(source)).max() <= 2


def test_the_whole_job_from_the_files_to_their_delivery(page: Page, tmp_path: Path) -> None:
    """What was found is seen and answered, a turn added and set, all of it heard and compared, and delivered."""
    left, right = mono_pair(tmp_path)
    horn = noise(3, 96_000, 1)
    upside_down = write_wav(tmp_path / "horn.wav", np.hstack([horn, -horn]))
    plain = write_wav(tmp_path / "mast.wav", noise(4, 96_000, 2))
    hands = Hands(page)
    hands.start("By keys alone", left, right, upside_down, plain)
    hands.button(re.compile("safe turn"))
    expect(hands.turns).to_have_count(1)
    hands.button(re.compile("2 questions"))  # both are measured, so that the first is the first
    panel = page.get_by_role("complementary", name="Question")
    expect(panel).to_contain_text("horn")
    expect(panel.get_by_role("button", name="Invert right")).to_be_enabled()
    hands.press("q", "Space")
    expect(page.get_by_role("button", name="Pause (Space)")).to_be_visible()
    hands.press("Space", "y")
    expect(panel).to_contain_text("mast")
    hands.press("z")
    expect(panel).to_contain_text("horn")
    expect(page.get_by_role("button", name="invert right y")).to_be_enabled()
    hands.press("y")
    expect(panel).to_contain_text("mast")
    hands.press("n")
    expect(panel).to_contain_text("All questions are answered.")
    hands.press("Escape")
    expect(hands.turns).to_have_count(2)
    hands.file("mast")
    hands.turn("mono", "Fold to mono")
    box = hands.panel.get_by_role("checkbox").first
    hands.tab_to(box)
    ticked = box.is_checked()
    hands.press("Space")
    expect(box).to_be_checked(checked=not ticked)
    hands.press("Escape", "x", "Space")
    expect(page.get_by_role("radio", name="In − Out")).to_be_checked()
    hands.press("Space", "Control+z", "Control+Shift+z")
    files = hands.delivered(tmp_path)
    assert len(files) == 3
    (turned,) = (path for name, path in files.items() if name.startswith("horn"))
    assert np.array_equal(read_ints(turned), read_ints(upside_down) * [1, -1])
