"""A recording that broke off, from the refusal to the delivered file."""

from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, expect

from support.acts import deliver_and_download, drop, files_of, new_job, turn_added
from support.helpers import noise

pytestmark = pytest.mark.browser


def test_what_is_there_of_a_recording_is_used_after_one_click(page: Page, tmp_path: Path) -> None:
    whole, take = tmp_path / "whole.flac", tmp_path / "Take 7 (1).flac"
    soundfile.write(whole, noise(4, 96_000, 2) / 2**25, 48_000, "PCM_24")
    take.write_bytes(whole.read_bytes()[:300_000])
    new_job(page, "Broken off")
    drop(page, take)
    told = page.get_by_role("alert").filter(has_text="cannot be read past frame")
    expect(told).to_contain_text("or the recorder lost power")
    told.get_by_role("button", name="Use what is there: 0:0").click()
    files_of(page, "Take 7 (1)")
    expect(told).to_have_count(0)
    expect(page.get_by_text("The file is incomplete: 0:0").first).to_be_visible()
    turn_added(page, "swap")
    expect(page.get_by_text("What is made from it is proved up to that point").first).to_be_visible()
    (swapped,) = [soundfile.read(file, dtype="int32")[0] for file in deliver_and_download(page, tmp_path).values()]
    held = soundfile.read(whole, dtype="int32")[0]
    assert 0 < len(swapped) < len(held)
    assert np.array_equal(swapped, held[: len(swapped), ::-1])
