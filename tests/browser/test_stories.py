"""The stories from drop to download in the real interface, by mouse."""

import re
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, expect

from support.acts import (
    choose_filter,
    deliver_and_download,
    drop,
    far_away,
    files_of,
    job_shown,
    mono_pair,
    new_job,
    pick,
    settled_worksheet,
    slide,
    tones,
    turn_added,
)
from support.helpers import Json, noise, read_ints, write_wav
from wedge_turn.demo.sounds import evening_song_parts

pytestmark = pytest.mark.browser


def test_two_files_become_one_and_back_by_mouse(page: Page, tmp_path: Path) -> None:
    left, right = mono_pair(tmp_path)
    new_job(page, "By mouse")
    drop(page, right, left)
    files_of(page, "porch_L", "porch_R")
    page.get_by_role("button", name="Merge", exact=True).click()
    lines = page.get_by_role("listbox", name="Turns").get_by_role("option")
    expect(lines).to_have_count(1)
    expect(page.get_by_test_id("side-L")).to_contain_text("porch_L")
    expect(page.get_by_test_id("side-R")).to_contain_text("porch_R")
    expect(page.get_by_test_id("lane-in")).to_contain_text("porch_L + porch_R")
    expect(page.get_by_test_id("lane-out")).to_contain_text("stereo · 48 kHz · 24-bit")
    # The result is split again: the line's own results are what the next turn is offered.
    page.get_by_label("Add a turn").click()
    page.get_by_role("option", name=re.compile("^split")).click()
    expect(lines).to_have_count(2)
    expect(page.get_by_test_id("proof")).to_contain_text("Bit-exact (24-bit)")
    files = deliver_and_download(page, tmp_path)
    assert set(files) == {"porch_L.wav", "porch_R.wav"}
    for name, original in (("porch_L.wav", left), ("porch_R.wav", right)):
        assert np.array_equal(read_ints(files[name]), read_ints(original))
    expect(page.get_by_test_id("delivery-proof").first).to_contain_text("60,000 samples identical (24-bit)")
    page.get_by_role("link", name="Back to the worksheet").click()
    expect(page.get_by_role("listbox", name="Turns").get_by_text("delivered", exact=True)).to_be_visible()


def test_a_mixed_folder_is_sorted_and_repaired(page: Page, tmp_path: Path) -> None:
    """Drop a folder; merge all pairs at once; undo; fold all that look mono; deliver."""
    new_job(page, "Mixed folder")
    takes = tmp_path / "takes"
    takes.mkdir()

    def tone(seed: int) -> np.ndarray:
        walk = np.cumsum(np.random.default_rng(seed).integers(-9_000, 9_000, (20_000, 1)), axis=0)
        return np.asarray(walk % 2**22 - 2**21)

    pairs = [path for n, name in enumerate(("porch", "quay")) for path in mono_pair(takes, name, 20_000 + n)]
    mono = [write_wav(takes / f"{name}.wav", np.hstack([tone(n)] * 2)) for n, name in enumerate(("spoon", "rope"))]
    silent = write_wav(takes / "hatch.wav", np.hstack([tone(7), np.zeros((20_000, 1), np.int64)]))
    wide = write_wav(takes / "sea.wav", np.hstack([tone(8), tone(9)]))
    (takes / "readme.txt").write_text("not a sound")
    page.get_by_test_id("folder-input").set_input_files(takes)
    files_of(page, *(path.stem for path in (*pairs, *mono, silent, wide)))
    expect(page.get_by_role("alert").filter(has_text="readme.txt is not a readable audio file")).to_be_visible()
    expect(page.get_by_role("row", name="spoon").get_by_role("button", name="dual mono → fold to mono")).to_be_visible()
    expect(page.get_by_role("row", name="hatch").get_by_text("right silent")).to_be_visible()
    expect(page.get_by_role("row", name="sea").get_by_role("button")).to_have_count(0)
    lines = page.get_by_role("listbox", name="Turns").get_by_role("option")
    choose_filter(page, "Pairs 2")
    page.get_by_role("button", name="merge 2 pairs").click()
    expect(lines).to_have_count(2)
    page.get_by_role("button", name="Undo").click()
    expect(lines).to_have_count(0)
    choose_filter(page, "Dual mono 2")
    page.get_by_role("button", name="fold to mono: 2 files").click()
    expect(lines).to_have_count(2)
    # One finding, one click: the side that sounds becomes the file.
    page.get_by_role("row", name="hatch").get_by_role("button", name="right silent → fold to left").click()
    expect(lines).to_have_count(3)
    # The button gave its keys back: Space plays what it made, and does not make it again.
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press("Space")
    expect(lines).to_have_count(3)
    # Dropped again, a file is known by its content.
    page.get_by_test_id("file-input").set_input_files(silent)
    page.get_by_role("row", name="sea").click()
    details = page.get_by_role("complementary", name="About this file")
    expect(details.get_by_role("table", name="Levels")).to_contain_text("loudness (LUFS)")
    expect(details).to_contain_text("takes")
    details.get_by_role("button", name="Archive").click()
    expect(page.get_by_role("row", name="sea")).to_be_hidden()
    choose_filter(page, "Archived 1")
    choose_filter(page, "Archived 1")
    found = deliver_and_download(page, tmp_path)
    assert set(found) == {"spoon.wav", "rope.wav", "hatch.wav"}
    for path in (*mono, silent):
        folded = read_ints(found[path.name])
        assert folded.shape == (20_000, 1)
        assert np.array_equal(folded[:, 0], read_ints(path)[:, 0])


def test_swapped_channels_are_swapped_back_played_and_delivered(page: Page, tmp_path: Path) -> None:
    new_job(page, "Swapped")
    source = tones(tmp_path, "voices", 110, 267)
    drop(page, source)
    files_of(page, "voices")
    page.get_by_role("row", name="voices").click()
    turn_added(page, "swap")
    expect(page.get_by_role("listbox", name="Turns").get_by_role("option")).to_contain_text("swap")
    # The notes have changed places: read from the spectrum under the pointer.
    page.keyboard.press("v")
    for lane, letter in (("in", "L"), ("out", "R")):
        box = page.get_by_test_id(f"spectrum-{lane}").bounding_box()
        assert box is not None
        x = box["x"] + box["width"] * np.log(110 / 20) / np.log(24_000 / 20)
        page.mouse.move(x, box["y"] + box["height"] / 2)
        readout = page.get_by_test_id(f"spectrum-{lane}").get_by_test_id("readout")
        expect(readout).to_contain_text(re.compile(r"A2.*L .*dB.*R .*dB", re.DOTALL))
        levels = {
            side: float(db.replace("−", "-")) for side, db in re.findall(r"([LR]) (−?[\d.]+) dB", readout.inner_text())
        }
        assert max(levels, key=lambda side: levels[side]) == letter
    found = deliver_and_download(page, tmp_path)
    assert np.array_equal(read_ints(found["voices.wav"]), read_ints(source)[:, ::-1])
    expect(page.get_by_test_id("delivery-proof")).to_contain_text("all 96,000 samples identical (24-bit)")


def test_an_inverted_channel_is_detected_and_inverted_back(page: Page, tmp_path: Path) -> None:
    new_job(page, "Flipped")
    source = tones(tmp_path, "horn", 110, 110, flip=True)
    drop(page, source)
    files_of(page, "horn")
    page.get_by_role("row", name="horn").get_by_role("button", name="out of polarity → invert right").click()
    table = page.get_by_role("table", name="Before and after")
    expect(table.get_by_role("row").filter(has_text="correlation")).to_contain_text("−1.00")
    expect(table.get_by_role("row").filter(has_text="correlation")).to_contain_text("1.00")
    expect(page.get_by_test_id("fan-in")).to_contain_text("corr −1.00")
    expect(page.get_by_test_id("fan-out")).to_contain_text("corr +1.00")
    found = deliver_and_download(page, tmp_path)
    assert np.array_equal(read_ints(found["horn.wav"]), read_ints(source) * [1, -1])


def test_mid_and_side_become_stereo_by_ear(page: Page, tmp_path: Path) -> None:
    new_job(page, "By ear")
    mid, side = (
        write_wav(tmp_path / f"hall_{name}.wav", noise(n, 150_000, 1, 21)) for n, name in enumerate(("mid", "side"))
    )
    drop(page, side, mid)
    files_of(page, "hall_mid", "hall_side")
    page.get_by_role("button", name="Decode", exact=True).click()
    expect(page.get_by_role("heading", name="Decode M/S")).to_be_visible()
    page.keyboard.press("Space")
    slide(page, "Side level", 6)
    expect(page.get_by_role("listbox", name="Turns").get_by_role("option")).to_contain_text("decode, side +6 dB")
    page.get_by_role("checkbox", name="Invert side (swaps L/R)").check(force=True)
    expect(page.get_by_role("complementary", name="Settings")).to_contain_text("hall_side (side, inverted, +6 dB)")
    # All of the sliding and ticking is one gesture or two; undo takes it back.
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Redo").click()
    expect(page.get_by_role("complementary", name="Settings")).to_contain_text("inverted")
    found = deliver_and_download(page, tmp_path)
    gain = 10 ** (6 / 20)
    m, s = (read_ints(path)[:, 0] for path in (mid, side))
    expected = np.stack([m - gain * s, m + gain * s], axis=1)
    assert np.abs(read_ints(found["hall.wav"]) - expected).max() <= 1.5


def test_any_mix_of_the_sides_with_its_picture(page: Page, tmp_path: Path) -> None:
    new_job(page, "Mixed")
    source = write_wav(tmp_path / "quay.wav", noise(4, 60_000, 2, 22))
    drop(page, source)
    files_of(page, "quay")
    page.get_by_role("row", name="quay").click()
    turn_added(page, "matrix")
    panel = page.get_by_role("complementary", name="Settings")
    expect(panel).to_contain_text("no change.")
    far_away(page, 200)  # changes overtake their answers, and none is lost
    for label, value in (("L → L", 0), ("R → L", 1), ("L → R", 1)):
        slide(page, label, value)
    slide(page, "R → R", 0)
    expect(panel).to_contain_text("a swap.")
    expect(panel).to_contain_text("Can’t clip.")
    slide(page, "L → L", 0.5)
    expect(panel).to_contain_text("50 % left + 100 % right")
    expect(panel).to_contain_text("Worst-case peak: +3.5 dB.")
    settled_worksheet(page)
    found = deliver_and_download(page, tmp_path)
    left, right = read_ints(source).T
    expected = np.stack([0.5 * left + right, left], axis=1)
    assert np.abs(read_ints(found["quay.wav"]) - expected).max() <= 1.5


def test_two_files_are_nulled_and_the_residue_shown(page: Page, tmp_path: Path) -> None:
    new_job(page, "Nulled")
    first = noise(5, 40_000, 2, 20)
    second = first.copy()
    second[20_000:20_100] += 4_000
    drop(page, write_wav(tmp_path / "one.wav", first), write_wav(tmp_path / "two.wav", second))
    files_of(page, "one", "two")
    page.get_by_role("grid", name="Files").focus()
    page.keyboard.press("Control+a")
    turn_added(page, "null")
    table = page.get_by_role("table", name="Before and after")
    expect(table.get_by_role("row").filter(has_text="true peak")).to_contain_text(
        re.compile(r"−6[56]\.")
    )  # 4 000 of 2^23 steps: −66.4 dBFS, and what lies between
    found = deliver_and_download(page, tmp_path)
    (residue,) = (read_ints(path) for path in found.values())
    assert not residue[:20_000].any()
    assert (np.abs(residue[20_000:20_100]) == 4_000).all()


def test_a_voice_is_removed_from_the_demo_song(page: Page, tmp_path: Path) -> None:
    """From the song to a delivered "without voice" and "voice"; the lead is measured by its known parts."""
    page.get_by_text("Kettle Island Light").click()
    page.get_by_label("Filter the sources").fill("evening")
    page.get_by_role("row", name="evening-song").click()
    turn_added(page, "centre")
    lines = page.get_by_role("listbox", name="Turns")
    expect(page.get_by_label("Method", exact=True)).to_have_value("voice")
    expect(lines).to_contain_text("separate voice and sides")
    expect(page.get_by_test_id("map-in")).to_be_visible()
    expect(page.get_by_test_id("map-out")).to_contain_text("evening-song_sides")
    # Original, sides and centre, at the same instant.
    page.keyboard.press("Space")
    for name in ("Centre", "Original", "Sides"):
        pick(page, name)
    page.keyboard.press("Space")
    for n, name in enumerate(("without voice", "voice"), 1):
        page.get_by_label(f"Output name {n}").fill(name)
        page.get_by_label(f"Output name {n}").blur()
    expect(lines).to_contain_text("without voice")
    settled_worksheet(page)
    files = deliver_and_download(page, tmp_path)
    expect(page.get_by_test_id("delivery-proof").filter(has_text="evening-song")).to_be_visible()
    sides, voice = (soundfile.read(files[name])[0] for name in ("without voice.wav", "voice.wav"))
    lead, rest = (np.stack(part, axis=1) for part in evening_song_parts(44_100))
    song = np.round((lead + rest) * 2**15) / 2**15
    assert 20 * np.log10(np.abs(sides + voice - song).max()) < -90  # the song is dithered to 16 bit
    assert left_of(lead, song) == pytest.approx(0, abs=0.5)
    assert left_of(lead, sides) < -12
    assert left_of(rest, sides) == pytest.approx(0, abs=1)
    assert abs(left_of(lead, voice)) < 2.5


def left_of(part: np.ndarray, whole: np.ndarray) -> float:
    """How much of a part is in a whole, by projection, dB."""
    return float(20 * np.log10(abs(np.sum(part * whole) / np.sum(part**2))))


def test_the_wedge_is_moved_on_the_map(page: Page) -> None:
    """By mouse and by keys; what is moved by hand means everything in its sector."""
    page.get_by_text("Kettle Island Light").click()
    page.get_by_label("Filter the sources").fill("evening")
    page.get_by_role("row", name="evening-song").click()
    turn_added(page, "centre")
    panel = page.get_by_role("complementary", name="Settings")
    page.get_by_role("button", name="Use a wedge instead").click()
    body = page.get_by_role("slider", name="Wedge: position")
    body.hover()  # which waits until it stands still: Out comes and shares the room
    box = body.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 20)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] / 2 + 40, box["y"] + 20, steps=5)
    page.mouse.up()
    expect(panel.get_by_label("Position: value")).to_have_value(re.compile("^R[0-9]+"))
    expect(page.get_by_label("Method", exact=True)).to_have_value("wedge")
    expect(page.get_by_role("listbox", name="Turns")).to_contain_text("separate centre and sides")
    low = page.get_by_role("slider", name="Wedge: low limit")
    low.focus()
    for _ in range(4):
        page.keyboard.press("ArrowUp")
    expect(panel.get_by_label("Low limit: value")).not_to_have_value("180 Hz")
    panel.get_by_role("button", name="More").click()
    slide(page, "Position", 0)
    slide(page, "Selectivity", 0.5)
    expect(panel.get_by_label("Selectivity: value")).to_have_value("0.50")
    settled_worksheet(page)
    page.get_by_label("Method", exact=True).select_option("voice")
    expect(page.get_by_role("listbox", name="Turns")).to_contain_text("separate voice and sides")
    expect(panel.get_by_label("Selectivity: value")).to_have_value("0.50")
    expect(panel.get_by_label("Wedge width")).to_be_hidden()


def test_a_pair_is_swapped_and_its_line_says_so(page: Page, tmp_path: Path) -> None:
    new_job(page, "Exchanged")
    a, b = (write_wav(tmp_path / f"{name}.wav", noise(n, 5_000, 1)) for n, name in enumerate(("wind", "sea")))
    drop(page, a, b)
    files_of(page, "wind", "sea")
    page.get_by_role("grid", name="Files").focus()
    page.keyboard.press("Control+a")
    page.keyboard.press("t")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("finding-side-unknown")).to_contain_text("don't say which is left")
    first = page.get_by_test_id("side-L").inner_text().split()[-1]
    far_away(page, 400)  # the delivery that is asked for before the exchange has arrived waits for it
    page.get_by_role("button", name="Swap L/R").click()
    expect(page.get_by_test_id("side-R")).to_contain_text(first)
    found = deliver_and_download(page, tmp_path)
    (delivered,) = found.values()
    originals = {"wind": a, "sea": b}
    assert np.array_equal(read_ints(delivered)[:, 1], read_ints(originals[first])[:, 0])


def test_the_plane_is_set_by_hand_and_by_keys(page: Page, tmp_path: Path) -> None:
    """A tip that is dragged through the middle inverts its channel; keys set a width; both arrive in the worksheet."""

    def settings() -> Json:
        settled_worksheet(page)
        return dict(job_shown(page)["steps"][-1]["turn"])

    new_job(page, "By hand")
    drop(page, tones(tmp_path, "quay", 440, 660))
    page.get_by_role("grid", name="Files").get_by_role("row", name="quay").click()
    turn_added(page, "matrix")
    tip = page.get_by_role("slider", name="Left, in the picture")
    box = tip.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 12, box["y"] + 12)
    page.mouse.down()
    # To the other end of the circle: through the middle, as far beyond it.
    circle = page.get_by_role("group", name="Where each channel goes").bounding_box()
    assert circle is not None
    middle = circle["x"] + circle["width"] / 2, circle["y"] + circle["height"] / 2
    page.mouse.move(2 * middle[0] - box["x"] - 12, 2 * middle[1] - box["y"] - 12, steps=6)
    page.mouse.up()
    expect(page.get_by_role("complementary", name="Settings")).to_contain_text("Left of quay becomes −")
    assert settings()["ll"] == pytest.approx(-1, abs=0.03)
    assert settings()["rl"] == pytest.approx(0, abs=0.03)

    page.get_by_role("grid", name="Files").get_by_role("row", name="quay").click()
    turn_added(page, "width")
    edge = page.get_by_role("slider", name="Width, right, in the picture")
    edge.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowRight")
    expect(edge).to_have_attribute("aria-valuetext", "× 1.62")
    expect(page.get_by_role("slider", name="Width", exact=True)).to_have_value("1.62")
    assert settings()["width"] == 1.62


def test_a_swapped_file_is_delivered_as_flac(page: Page, tmp_path: Path) -> None:
    new_job(page, "Flac")
    drop(page, write_wav(tmp_path / "porch.wav", noise(4, 30_000, 2)))
    files_of(page, "porch")
    page.get_by_role("row", name="porch").click()
    turn_added(page, "swap")
    expect(page.get_by_role("listbox", name="Turns").get_by_role("option")).to_have_count(1)
    page.get_by_role("button", name="Review and deliver…").click()
    page.get_by_label("Format").select_option("FLAC")
    expect(page.get_by_role("row", name="porch.flac")).to_contain_text("up to 180 kB")
    page.get_by_label("Bit depth").select_option("32-bit float")
    expect(page.get_by_text("FLAC holds integers of up to 24 bits, not float samples: choose a depth")).to_be_visible()
    expect(page.get_by_role("button", name="Deliver 1 file")).to_be_disabled()
    page.get_by_label("Bit depth").select_option("Same as source")
    page.get_by_label("File name pattern").fill("{n:02} {nam")
    expect(page.get_by_text("the pattern has an unclosed brace")).to_be_visible()
    page.get_by_label("File name pattern").fill("{n:02} {name}")
    page.get_by_label("Letter case").select_option("Upper case")
    expect(page.get_by_role("row", name="01 PORCH.flac")).to_be_visible()
    files = deliver_and_download(page, tmp_path)
    written = soundfile.read(files["01 PORCH.flac"], dtype="int32", always_2d=True)[0]
    assert np.array_equal(written >> 8, noise(4, 30_000, 2)[:, ::-1])
    expect(page.get_by_test_id("delivery-proof")).to_contain_text("The FLAC decodes to exactly these samples.")
