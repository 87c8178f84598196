"""A recipe made in one job, taken out as a file, and applied in another: by mouse and by keyboard."""

import json
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from support.acts import deliver_and_download, drop, files_of, mono_pair, new_job, settled_worksheet, turn_added
from support.helpers import noise, read_ints, write_wav

pytestmark = pytest.mark.browser


def lines(page: Page) -> list[str]:
    settled_worksheet(page)
    return page.get_by_role("listbox", name="Turns").get_by_role("option").all_text_contents()


def test_a_recipe_goes_from_one_job_to_another(page: Page, tmp_path: Path) -> None:
    new_job(page, "Porch")
    drop(page, *mono_pair(tmp_path, "porch"))
    files_of(page, "porch_L", "porch_R")
    page.get_by_role("row", name="porch_L").click()
    page.get_by_role("row", name="porch_R").click(modifiers=["Control"])
    turn_added(page, "merge")
    turns = page.get_by_role("listbox", name="Turns")
    expect(turns.get_by_role("option")).to_have_count(1)
    turn_added(page, "swap")
    expect(turns.get_by_role("option")).to_have_count(2)
    turns.focus()
    page.keyboard.press("Shift+ArrowUp")
    page.get_by_role("button", name="2 lines").click()
    page.get_by_role("menuitem", name="Save as recipe…").click()
    page.get_by_label("Recipe name").fill("Swapped pair")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Saved “Swapped pair”")).to_be_visible()
    page.get_by_role("button", name="Recipes…").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Export").click()
    assert download.value.suggested_filename == "Swapped pair.json"
    download.value.save_as(exported := tmp_path / "Swapped pair.json")
    stored = json.loads(exported.read_text("utf-8"))
    assert [role["label"] for role in stored["roles"]] == ["left", "right"]
    page.get_by_role("button", name="Delete").click()
    page.get_by_role("alertdialog").get_by_role("button", name="Delete").click()
    expect(page.get_by_text("No recipes yet.")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("link", name="All jobs").click()

    new_job(page, "Quay")
    takes = ("quay_R", "bell", "quay_L")
    drop(page, *(write_wav(tmp_path / f"{name}.wav", noise(7 + n, 30_000, 1)) for n, name in enumerate(takes)))
    files_of(page, *takes)
    page.get_by_role("button", name="Recipes…").click()
    page.get_by_label("Recipe file").set_input_files(exported)
    expect(page.get_by_text("left: quay_L · right: quay_R")).to_be_visible()
    expect(page.get_by_text("1 file left over")).to_be_visible()
    page.get_by_role("group", name="Apply Swapped pair").get_by_role("button", name="Apply", exact=True).click()
    expect(turns.get_by_role("option")).to_have_count(2)
    page.get_by_role("button", name="Undo").click()
    expect(turns.get_by_role("option")).to_have_count(0)

    # Once more by keyboard: the files, then the recipe by its name.
    page.get_by_role("grid", name="Files").focus()
    page.keyboard.press("Home")
    for _ in range(2):
        page.keyboard.press("Shift+ArrowDown")
    turn_added(page, "swapped")
    expect(turns.get_by_role("option")).to_have_count(2)
    assert ["merge" in lines(page)[0], "swap" in lines(page)[1]] == [True, True]
    files = deliver_and_download(page, tmp_path)
    left, right = noise(9, 30_000, 1), noise(7, 30_000, 1)
    assert np.array_equal(read_ints(files["quay.wav"]), np.hstack([right, left]))
