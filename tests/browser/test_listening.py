"""What reaches the audio graph, to the sample: recorded there and compared with the clips."""

import re
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Browser, Route, expect

from support.acts import (
    heard,
    play_until,
    recorded,
    recorded_job,
    select_range,
    settled_worksheet,
    slide,
    tones,
    turn_added,
)
from support.helpers import noise, write_wav

pytestmark = [pytest.mark.browser, pytest.mark.sound]


def test_moving_a_setting_leaves_no_gap_in_playback(browser: Browser, address: str, tmp_path: Path) -> None:
    """While the new samples are on their way the old ones go on sounding, and turn into the new ones when they come."""
    page = recorded_job(browser, address, "While playing", [tones(tmp_path, "voices", 110, 110, seconds=30)])
    page.get_by_role("row", name="voices").click()
    turn_added(page, "level")
    # Played before Out is there, In would be heard first, and then nothing until Out's first block has come.
    expect(page.get_by_test_id("lane-out")).to_be_visible()
    settled_worksheet(page)
    page.keyboard.press("Space")
    page.wait_for_function("window.heard && window.heard[0].length > 96000")
    new = "**/samples?clip=step*"
    withheld: list[Route] = []

    releasing = False

    def withhold(route: Route) -> None:
        # What is asked for after the release is never held, however late this handler goes.
        if releasing:
            route.continue_()
        else:
            withheld.append(route)

    page.route(new, withhold)
    with page.expect_request(new):
        slide(page, "all channels", -12)
    page.wait_for_function("(n) => window.heard[0].length > n + 12000", arg=page.evaluate("window.heard[0].length"))
    released = page.evaluate("window.heard[0].length")
    releasing = True
    for route in withheld:
        route.continue_()
    page.unroute(new, withhold)
    page.wait_for_function("Math.max(...window.heard[0].slice(-48000).map(Math.abs)) < 0.1")
    page.keyboard.press("Space")
    sound = recorded(page)[:, 0]
    sounding = np.flatnonzero(sound)
    old, sound = sound[released - 4_800 : released], sound[sounding[0] : sounding[-1]]
    loudest = np.abs(sound[: len(sound) // 480 * 480]).reshape(-1, 480).max(axis=1)
    quiet = 0.25 * 10 ** (-12 / 20)
    assert loudest.min() > 0.9 * quiet, "a gap"
    assert np.abs(old).max() == pytest.approx(0.25, abs=0.01)
    assert loudest[-2] == pytest.approx(quiet, abs=0.005)
    # Louder or softer at once, in either direction, would be heard as a click.
    assert np.abs(np.diff(sound)).max() < 0.25 * 2 * np.pi * 110 / 48_000 + 0.01
    page.close()


@pytest.mark.parametrize("rate", [48_000, 44_100])
def test_playback_is_sample_accurate(browser: Browser, address: str, tmp_path: Path, rate: int) -> None:
    """Blocks are joined without gap or overlap, and nothing is resampled: compared with soundfile's reading."""
    files = [write_wav(tmp_path / f"hall_{s}.wav", noise(n, 3 * rate, 1), rate=rate) for n, s in enumerate("LR")]
    page = recorded_job(browser, address, f"Played {rate}", files)
    page.get_by_role("button", name="Merge", exact=True).click()
    expect(page.get_by_test_id("lane-out")).to_be_visible()
    play_until(page, int(2.6 * rate))
    expect(page.get_by_role("button", name="Play (Space)")).to_be_visible()
    expected = np.stack([soundfile.read(file, dtype="float32")[0] for file in files], axis=1)
    played = heard(page)
    assert page.evaluate("window.rates") == [rate]
    assert np.array_equal(played, expected)
    page.close()


def test_in_and_out_stay_in_sync(browser: Browser, address: str, tmp_path: Path) -> None:
    """With the sides exchanged, Out is In mirrored: every sample played is one or the other of one position."""
    rate = 48_000
    files = [write_wav(tmp_path / f"hall_{s}.wav", noise(n, 4 * rate, 1), rate=rate) for n, s in enumerate("LR")]
    page = recorded_job(browser, address, "Switched", files)
    page.get_by_role("button", name="Merge", exact=True).click()
    page.get_by_role("button", name="Swap L/R").click()
    expect(page.get_by_test_id("finding-side-against-name")).to_be_visible()
    # In follows the order of the inputs, which the exchange turned round; exchange by name keeps Out apart from it.
    page.get_by_role("grid", name="Files").get_by_role("row", name="hall_L").click()
    page.get_by_role("listbox", name="Turns").get_by_role("option").click()
    page.keyboard.press("q")
    play_until(page, rate // 2)
    for _ in range(5):
        page.keyboard.press("q")
        page.wait_for_function("(n) => window.heard[0].length >= n + 9600", arg=page.evaluate("window.heard[0].length"))
    page.keyboard.press("Space")
    source = np.stack([soundfile.read(file, dtype="float32")[0] for file in files], axis=1)
    played = heard(page)
    start = int(np.flatnonzero((source[:, ::-1] == played[0]).all(axis=1) | (source == played[0]).all(axis=1))[0])
    line = source[start : start + len(played)]
    distance = np.minimum(np.abs(played - line).max(axis=1), np.abs(played - line[:, ::-1]).max(axis=1))
    # While switching (5 ms each) both are mixed; everywhere else it is exactly one of them.
    assert np.count_nonzero(distance) <= 6 * 0.005 * rate
    page.close()


def test_listening_modes(browser: Browser, address: str, tmp_path: Path) -> None:
    rate = 48_000
    wide = write_wav(tmp_path / "wide.wav", noise(3, rate, 2))
    page = recorded_job(browser, address, "Modes", [wide])
    page.get_by_role("grid", name="Files").get_by_role("row", name="wide").click()
    left, right = soundfile.read(wide, dtype="float32")[0].T
    modes = {"2": left, "3": right, "4": 0.5 * left + 0.5 * right, "5": 0.5 * left - 0.5 * right}
    for key, expected in modes.items():
        page.keyboard.press(key)
        page.evaluate("window.heard = [[], []]")
        play_until(page, rate // 2)
        page.keyboard.press("Space")
        played = heard(page)[: rate // 4]
        assert np.array_equal(played[:, 0], played[:, 1])
        assert np.allclose(played[:, 0], expected[: len(played)], atol=1e-7), key
        page.wait_for_timeout(200)  # until what was on its way to the ear has come
        page.evaluate("document.activeElement.blur()")  # in the list, Home is its first row
        page.keyboard.press("Home")
    page.close()


def test_a_loop_joins_its_ends_to_the_sample(browser: Browser, address: str, tmp_path: Path) -> None:
    rate = 48_000
    wide = write_wav(tmp_path / "wide.wav", noise(4, 2 * rate, 2))
    page = recorded_job(browser, address, "Looped", [wide])
    page.get_by_role("grid", name="Files").get_by_role("row", name="wide").click()
    select_range(page, 200, 320)
    length = int(re.sub(r"\D", "", page.get_by_test_id("range").inner_text().split("·")[1]))
    play_until(page, 2 * length + rate // 2)
    page.keyboard.press("Space")
    source = soundfile.read(wide, dtype="float32")[0]
    played = heard(page)
    start = int(np.flatnonzero((source == played[0]).all(axis=1))[0])
    rounds = np.tile(source[start : start + length], (1 + len(played) // length, 1))[: len(played)]
    whole = min(len(played), int(2.4 * length))
    assert np.array_equal(played[:whole], rounds[:whole])
    page.close()


def test_selecting_another_file_during_playback_plays_it_alone(browser: Browser, address: str, tmp_path: Path) -> None:
    """Nothing of the first is left in the graph, wherever in the second it goes on."""
    files = [write_wav(tmp_path / f"{name}.wav", noise(n, 96_000, 2)) for n, name in enumerate(("first", "second"))]
    page = recorded_job(browser, address, "Chosen", files)
    listed = page.get_by_role("grid", name="Files")
    listed.get_by_role("row", name="first").click()
    play_until(page, 24_000)
    listed.get_by_role("row", name="second").click()
    expect(page.get_by_role("button", name="Play (Space)")).to_be_visible()
    page.wait_for_timeout(200)  # until what was on its way to the ear has come
    page.evaluate("window.heard = [[], []]")
    box = page.get_by_test_id("time-axis").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] / 4, box["y"] + 60)
    play_until(page, 24_000)
    page.keyboard.press("Space")
    played = heard(page)[:20_000]
    second = soundfile.read(files[1], dtype="float32")[0]
    (start,) = np.flatnonzero((second == played[0]).all(axis=1))
    assert abs(start - 24_000) < 100
    assert np.array_equal(played, second[start : start + len(played)])
    page.close()


def test_a_setting_moved_while_paused_sounds_from_the_first_sample(
    browser: Browser, address: str, tmp_path: Path
) -> None:
    wide = write_wav(tmp_path / "wide.wav", noise(5, 96_000, 2))
    page = recorded_job(browser, address, "Paused", [wide])
    page.get_by_role("grid", name="Files").get_by_role("row", name="wide").click()
    turn_added(page, "level")
    expect(page.get_by_test_id("lane-out")).to_be_visible()
    play_until(page, 24_000)
    page.keyboard.press("Space")
    with page.expect_response(re.compile("/steps/")):
        slide(page, "all channels", -12)
    settled_worksheet(page)
    page.evaluate("document.activeElement.blur(); window.heard = [[], []]")  # Home would move the slider
    page.keyboard.press("Home")
    play_until(page, 24_000)
    page.keyboard.press("Space")
    source = soundfile.read(wide, dtype="float32")[0]
    played = heard(page)[:20_000]
    assert np.allclose(played, source[: len(played)] * 10 ** (-12 / 20), atol=1e-6)
    page.close()
