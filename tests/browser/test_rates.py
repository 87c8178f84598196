"""Files at two sample rates, from the drop to the delivered file."""

from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, expect

from support.acts import deliver_and_download, drop, files_of, new_job
from support.hands import Hands

pytestmark = pytest.mark.browser


def test_a_pair_at_two_rates_is_merged_at_the_one_that_is_chosen(page: Page, tmp_path: Path) -> None:
    paths = [tmp_path / "phone_L.wav", tmp_path / "phone_R.wav"]
    for path, rate in zip(paths, (44_100, 48_000), strict=True):
        tone = 0.3 * np.sin(2 * np.pi * 997 * np.arange(2 * rate) / rate)
        soundfile.write(path, tone, rate, "PCM_24")
    new_job(page, "Two rates")
    drop(page, *paths)
    files_of(page, "phone_L", "phone_R")
    page.get_by_text("phone_L").first.click()
    page.get_by_role("button", name="Merge at 48 kHz").click()
    line = page.get_by_role("option", name="resample to 48 kHz")
    line.click()
    expect(page.get_by_label("Sample rate")).to_have_value("48000")
    expect(page.get_by_text("48 kHz, as phone_R")).to_be_attached()
    ((made, rate),) = [soundfile.read(file, dtype="float64") for file in deliver_and_download(page, tmp_path).values()]
    right, _ = soundfile.read(paths[1], dtype="float64")
    assert rate == 48_000
    assert np.array_equal(made[:, 1], right)
    assert np.abs(made[4_800:-4_800, 0] - right[4_800:-4_800]).max() < 1e-6


def test_a_file_is_resampled_by_keys_alone(page: Page, tmp_path: Path) -> None:
    take = tmp_path / "Kitchen phone.wav"
    soundfile.write(take, 0.3 * np.sin(2 * np.pi * 997 * np.arange(22_050) / 11_025), 11_025, "PCM_16")
    hands = Hands(page)
    hands.start("By keys", take)
    hands.file("Kitchen phone")
    hands.turn("resample", "Resample")
    rate = hands.panel.get_by_label("Sample rate")
    hands.tab_to(rate)
    expect(rate).to_have_value("48000")
    hands.press("ArrowUp")
    expect(rate).to_have_value("44100")
    expect(page.get_by_text("Resamples Kitchen phone from 11,025 Hz to 44,100 Hz.")).to_be_visible()
    hands.tab_to(page.get_by_role("grid", name="Files"))  # in a list of choices letters choose
    (path,) = hands.delivered(tmp_path).values()
    made, new = soundfile.read(path)
    expected = 0.3 * np.sin(2 * np.pi * 997 * np.arange(88_200) / 44_100)
    assert new == 44_100
    assert np.abs(made - expected)[4_410:-4_410].max() < 1e-4
