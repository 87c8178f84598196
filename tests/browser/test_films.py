"""A film's sound checked against its picture, and a recorder's file split by its own names, in the real interface."""

import re
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile
from playwright.sync_api import Locator, Page, expect

from support.acts import deliver_and_download, drop, files_of, new_job, turn_added

pytestmark = pytest.mark.browser

# Where the boat is in the picture: the mean column of what is as red as its hull, as a share of the width.
HULL = """image => {
  const canvas = document.createElement("canvas");
  canvas.width = image.naturalWidth; canvas.height = image.naturalHeight;
  const context = canvas.getContext("2d");
  context.drawImage(image, 0, 0);
  const { data } = context.getImageData(0, 0, canvas.width, canvas.height);
  let sum = 0, count = 0;
  for (let n = 0; n < data.length; n += 4)
    if (data[n] > 90 && data[n + 1] < 70 && data[n + 2] < 70 && (n / 4 / canvas.width) > canvas.height / 2) {
      sum += (n / 4) % canvas.width; count += 1;
    }
  return count > 200 ? sum / count / canvas.width : null;
}"""


def picture_after(page: Page, share: float) -> Locator:
    """The picture once the playhead is put at a share of what is seen of the time axis."""
    axis = page.get_by_test_id("time-axis")
    box = axis.bounding_box()
    assert box is not None
    axis.click(position={"x": share * box["width"], "y": 40})
    shown = page.get_by_text(re.compile("^Frame at"))
    expect(shown).to_contain_text(f"0:0{12 * share:.1f}"[:4])
    picture = page.get_by_role("img", name=re.compile("^ferry-film at"))
    expect(picture).to_have_js_property("complete", True)
    return picture


def test_a_mirrored_film_is_put_right(page: Page, demo_files: dict[str, Path], tmp_path: Path) -> None:
    """The boat goes left while its sound goes right: the channels are swapped, and what is delivered is the film's own
    sound with left and right exchanged.
    """
    film = demo_files["ferry-film"]
    new_job(page, "Mirrored film")
    drop(page, film)
    files_of(page, "ferry-film")
    page.get_by_role("row", name="ferry-film").click()
    expect(page.get_by_text("16:10:00:00")).to_be_visible()
    early = picture_after(page, 0.4).evaluate(HULL)
    late = picture_after(page, 0.6).evaluate(HULL)
    assert late < early - 0.1
    turn_added(page, "swap")
    expect(page.get_by_role("img", name=re.compile("^ferry-film at"))).to_be_visible()
    files = deliver_and_download(page, tmp_path)
    samples, rate = soundfile.read(files["ferry-film.wav"])
    with av.open(film) as movie:
        decoded = np.concatenate([frame.to_ndarray() for frame in movie.decode(movie.streams.audio[0])], axis=1).T
    assert rate == 48_000
    assert len(samples) == 12 * 48_000
    # Floats in 24 bits, dithered: one and a half steps at the most.
    assert np.abs(samples[:, ::-1] - decoded[: len(samples)]).max() <= 1.5 / 2**23


def test_a_recorders_file_is_found_by_what_it_says_and_split_by_its_names(
    page: Page, demo_files: dict[str, Path], tmp_path: Path
) -> None:
    new_job(page, "Recorder")
    drop(page, demo_files["pier-poly"], demo_files["postcard"])
    files_of(page, "pier-poly", "postcard")
    page.get_by_placeholder(re.compile("Filter")).fill("bell buoy")
    expect(page.get_by_role("row", name="postcard")).to_have_count(0)
    page.get_by_role("row", name="pier-poly").click()
    about = page.get_by_role("complementary", name="About this file")
    for said in ("1:.gangway", "P4", "KIL0914", "wind on the rail", "16:05:30:00"):
        expect(about.get_by_text(re.compile(said))).to_be_visible()
    each = about.get_by_role("table", name="Levels of each channel")
    expect(each.get_by_role("row").filter(has_text="bell buoy")).to_contain_text(re.compile("−[0-9]"))
    expect(each.get_by_role("row")).to_have_count(7)
    turn_added(page, "split")
    files = deliver_and_download(page, tmp_path)
    names = ("gangway", "bollard", "under pier", "rail", "bell buoy", "radio")
    assert set(files) == {f"pier-poly_{name}.wav" for name in names}
    whole, _ = soundfile.read(demo_files["pier-poly"], dtype="int32")
    for n, name in enumerate(names):
        one, _ = soundfile.read(files[f"pier-poly_{name}.wav"], dtype="int32")
        assert np.array_equal(one, whole[:, n])
