"""A whole folder: everything safe in one action, what needs ears as questions with their answers heard, and everything
delivered, the untouched files as they came.
"""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from support.acts import deliver_and_download, drop, files_of, new_job, sentences
from support.helpers import quiet, read_ints, write_wav
from support.shell import run

pytestmark = pytest.mark.browser
FRAMES = 24_000


def session(folder: Path) -> list[Path]:
    """A pair, a dual mono file, one with a silent channel, two that are out of polarity, and one with nothing wrong."""
    folder.mkdir()
    one, two = quiet(1, FRAMES, 1), quiet(2, FRAMES, 1)
    files = {
        "oh_L": one, "oh_R": two, "gtr": np.hstack([one, one]), "di": np.hstack([two, 0 * two]),
        "fog": np.hstack([one, -one]), "horn": np.hstack([two, -two]), "mix": quiet(3, FRAMES, 2),
    }  # fmt: skip
    return [write_wav(folder / f"{name}.wav", ints) for name, ints in files.items()]


def opened(page: Page, name: str, folder: Path) -> list[Path]:
    files = session(folder)
    new_job(page, name)
    # One after the other: several at once come in as they are done, and so do what they need.
    for file in files:
        drop(page, file)
        files_of(page, file.stem)
    expect(page.get_by_role("button", name="Add 3 safe turns")).to_be_visible()
    expect(page.get_by_role("button", name="2 questions…")).to_be_visible()
    expect(page.get_by_text("1 file OK")).to_be_visible()
    return files


def test_a_folder_is_prepared_and_delivered_in_four_clicks(page: Page, tmp_path: Path) -> None:
    """The same files as `wedge-turn prep` makes of the folder, byte for byte but for the manifest."""
    opened(page, "Four clicks", tmp_path / "session")
    page.get_by_role("button", name="Add 3 safe turns").click()
    expect(page.get_by_role("listbox", name="Turns").get_by_role("option")).to_have_count(3)
    assert sentences(page) == ["oh_L+oh_Rmerge→oh", "gtrfold to left→gtr", "difold to left→di"]
    page.get_by_role("button", name="Review and deliver…").click()
    page.get_by_text("Include 3 files not used by any line").click()
    delivered = deliver_and_download(page, tmp_path)
    done = run("prep", tmp_path / "session", "--out", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    by_shell = {path.name: path for path in (tmp_path / "out").iterdir() if path.suffix == ".wav"}
    assert set(by_shell) == set(delivered)
    for name, path in by_shell.items():
        assert path.read_bytes() == delivered[name].read_bytes(), name
    assert np.array_equal(read_ints(delivered["gtr.wav"]), quiet(1, FRAMES, 1))
    assert run("verify", delivered["gtr.wav"].parent).returncode == 0
    # All of it is one step.
    page.get_by_role("link", name="Back to the worksheet").click()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name="Add 3 safe turns")).to_be_visible()


def test_questions_are_answered_by_keyboard_and_taken_back(page: Page, tmp_path: Path) -> None:
    opened(page, "Questions", tmp_path / "session")
    page.get_by_role("button", name="2 questions…").press("Enter")
    panel = page.get_by_role("complementary", name="Question")
    expect(panel.get_by_text("fog", exact=True)).to_be_visible()
    # The answer is seen before it is taken, and nothing is changed by looking.
    out = page.get_by_role("listbox", name="Turns").get_by_role("option", name=re.compile("fog.*invert right"))
    expect(out).to_be_visible()
    expect(panel.get_by_role("button", name=re.compile("^Invert right"))).to_be_enabled()
    page.keyboard.press("y")
    expect(panel.get_by_text("horn", exact=True)).to_be_visible()
    expect(panel.get_by_text("Question 2 of 2")).to_be_visible()
    page.keyboard.press("n")
    expect(panel.get_by_text("All questions are answered.")).to_be_visible()
    page.keyboard.press("z")
    expect(panel.get_by_text("horn", exact=True)).to_be_visible()
    page.keyboard.press("z")
    expect(panel.get_by_text("fog", exact=True)).to_be_visible()
    expect(panel.get_by_role("button", name=re.compile("^Invert right"))).to_be_enabled()
    page.keyboard.press("y")
    expect(panel.get_by_text("horn", exact=True)).to_be_visible()
    panel.get_by_role("button", name="Close").click()
    expect(page.get_by_role("button", name="1 question…")).to_be_visible()
    assert sentences(page) == ["foginvert right→fog"]
    # A dismissal lasts.
    page.get_by_role("button", name="1 question…").click()
    expect(panel.get_by_text("horn", exact=True)).to_be_visible()
    page.keyboard.press("n")
    expect(panel.get_by_text("All questions are answered.")).to_be_visible()
    page.reload()
    expect(page.get_by_role("button", name="Add 3 safe turns")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("question"))).to_have_count(0)


def sixty(folder: Path) -> Path:
    """20 pairs, 6 dual mono files, 2 with a silent channel and 12 with nothing wrong."""
    folder.mkdir()
    for n in range(60):
        one, two = quiet(2 * n, 6_000, 1), quiet(2 * n + 1, 6_000, 1)
        if n < 40:
            write_wav(folder / f"take-{n // 2:02}_{'LR'[n % 2]}.wav", one)
        elif n < 46:
            write_wav(folder / f"dual-{n}.wav", np.hstack([one, one]))
        elif n < 48:
            write_wav(folder / f"half-{n}.wav", np.hstack([one, 0 * one]))
        else:
            write_wav(folder / f"stereo-{n}.wav", np.hstack([one, two]))
    return folder


@pytest.mark.parametrize("hand", ["mouse", "keyboard"])
def test_a_folder_of_sixty_files_is_what_the_shell_makes_of_it(hand: str, page: Page, tmp_path: Path) -> None:
    folder = sixty(tmp_path / "session")
    new_job(page, f"Sixty by {hand}")
    page.locator("input[webkitdirectory]").set_input_files(folder)
    add = page.get_by_role("button", name="Add 28 safe turns")
    expect(add).to_be_visible()
    expect(page.get_by_text("12 files OK")).to_be_visible()
    rest = page.get_by_label("Include 12 files not used by any line")
    if hand == "mouse":
        add.click()
        expect(add).to_have_count(0)
        page.get_by_role("button", name="Review and deliver…").click()
        page.get_by_text("Include 12 files not used by any line").click()
    else:
        add.focus()
        page.keyboard.press("Enter")
        expect(add).to_have_count(0)
        page.keyboard.press("d")
        rest.focus()
        page.keyboard.press("Space")
    expect(rest).to_be_checked()
    delivered = deliver_and_download(page, tmp_path)
    done = run("prep", folder, "--out", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    by_shell = {path.name: path for path in (tmp_path / "out").rglob("*.wav")}
    assert len(by_shell) == 40
    assert set(by_shell) == set(delivered)
    for name, path in by_shell.items():
        assert path.read_bytes() == delivered[name].read_bytes(), name
