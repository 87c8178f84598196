"""The job from a file to its delivery in Firefox, with a sound device that plays to nobody.

Left out where Firefox, its driver or PulseAudio is not installed: `make firefox` installs them.
"""

import os
import shutil
import subprocess
import warnings
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

with warnings.catch_warnings(action="ignore"):
    pytest.importorskip("marionette_driver", reason="Firefox's driver is not installed: make firefox")
    from marionette_driver import By
    from marionette_driver.keys import Keys
    from marionette_driver.marionette import Marionette, WebElement
    from marionette_driver.wait import Wait

from support.acts import tones
from support.waiting import PATIENCE, until

pytestmark = [
    pytest.mark.browser,
    # The driver's own libraries ask for the system's name in an old way, and leave its sockets to be collected.
    pytest.mark.filterwarnings("ignore::DeprecationWarning", "ignore::ResourceWarning"),
]

SETTINGS = """
user_pref("marionette.port", 0);
user_pref("media.autoplay.default", 0);
user_pref("media.autoplay.blocking_policy", 0);
user_pref("app.normandy.enabled", false);
user_pref("services.settings.server", "data:,#");
"""
POSITION = "return document.querySelector('[data-testid=position]').textContent"


@pytest.fixture
def sound(tmp_path: Path) -> Iterator[dict[str, str]]:
    """What Firefox needs to know of a sound server of its own, which plays to nobody."""
    if not shutil.which("pulseaudio"):
        pytest.skip("PulseAudio is not installed: Firefox has no sound device without it")
    folder = tmp_path / "sound"
    folder.mkdir(mode=0o700)
    surroundings = {**os.environ, "XDG_RUNTIME_DIR": str(folder), "HOME": str(folder)}
    command = ["pulseaudio", "-n", "--daemonize=no", "--exit-idle-time=-1"]
    command += ["--load=module-native-protocol-unix", "--load=module-null-sink"]
    with subprocess.Popen(command, env=surroundings, stderr=subprocess.DEVNULL) as server:
        until((folder / "pulse" / "native").exists)
        yield surroundings
        server.terminate()


@pytest.fixture
def firefox(sound: dict[str, str], tmp_path: Path) -> Iterator[Marionette]:
    program = shutil.which("firefox-esr") or shutil.which("firefox")
    if not program:
        pytest.skip("Firefox is not installed")
    profile = tmp_path / "profile"
    profile.mkdir()
    (profile / "user.js").write_text(SETTINGS)
    command = [program, "--headless", "--no-remote", "--profile", str(profile), "--marionette"]
    with subprocess.Popen(command, env=sound, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) as running:
        try:
            chosen = profile / "MarionetteActivePort"
            port = until(lambda: chosen.read_text() if chosen.exists() else None)
            driver = Marionette("127.0.0.1", port=int(port))
            driver.start_session(timeout=PATIENCE)
            driver.timeout.implicit = PATIENCE
            yield driver
        finally:
            running.kill()


def test_a_file_is_heard_turned_and_delivered(firefox: Marionette, address: str, tmp_path: Path) -> None:
    source = tones(tmp_path, "quay", 440, 660)
    firefox.navigate(address)
    find(firefox, "input[aria-label='Job name']").send_keys("In Firefox", Keys.ENTER)
    chooser = find(firefox, "input[type=file]:not([webkitdirectory])")
    firefox.execute_script("arguments[0].hidden = false; arguments[0].style.display = 'block'", [chooser])
    chooser.send_keys(str(source))
    find(firefox, "[role=row][title='quay.wav']").click()
    page = find(firefox, "body")
    find(firefox, "[role=img][aria-label='Waveform of quay']")
    button(firefox, "Play").click()
    seen(firefox, lambda: shown(firefox) > "0:00.300")  # three presses of Play in eight made this page stand still
    page.send_keys("t")
    find(firefox, "[role=combobox]").send_keys("level", Keys.ENTER)
    slider = find(firefox, "aside[aria-label=Settings] [role=slider]")
    before = slider.get_attribute("aria-valuenow")
    slider.send_keys(Keys.ARROW_LEFT)
    seen(firefox, lambda: find(firefox, "aside [role=slider]").get_attribute("aria-valuenow") != before)
    button(firefox, "Review and deliver…").click()
    button(firefox, "Deliver 1 file").click()
    proof = find(firefox, "[data-testid=delivery][data-state=done] [data-testid=delivery-proof]")
    assert "samples identical" in proof.text
    assert firefox.execute_script(POSITION.replace("[data-testid=position]", "h1")) == "In Firefox"


def find(firefox: Marionette, selector: str) -> WebElement:
    return firefox.find_element(By.CSS_SELECTOR, selector)


def button(firefox: Marionette, words: str) -> WebElement:
    name = f"starts-with(normalize-space(.), '{words}') or starts-with(@aria-label, '{words}')"
    return firefox.find_element(By.XPATH, f"//button[{name}]")


def shown(firefox: Marionette) -> str:
    """Where the playhead is, as it stands on the page."""
    return str(firefox.execute_script(POSITION)).split("/")[0]


def seen(firefox: Marionette, holds: Callable[[], bool]) -> None:
    Wait(firefox, timeout=PATIENCE).until(lambda _: holds())
