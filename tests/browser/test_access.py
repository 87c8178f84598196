"""Signing in and out in the real interface, on a server that asks for its password."""

import re
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from support.acts import new_job
from support.serving import COMMAND

WORD = "seven lamps on a quay"


@pytest.fixture
def guarded(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[str]:
    """The address of a server that other machines can reach."""
    monkeypatch.setenv("WEDGE_TURN_PASSWORD", WORD)
    command = [str(COMMAND), "serve", "--host", "0.0.0.0", "--data", str(tmp_path / "data"), "--port", "0"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as server:
        assert server.stdout is not None
        port = re.search(r":(\d+)/", server.stdout.readline())
        assert port is not None
        yield f"http://127.0.0.1:{port[1]}/"
        server.terminate()


def test_a_password_opens_every_page_until_one_signs_out(guarded: str, page: Page) -> None:
    page.goto(guarded)
    expect(page.get_by_role("heading", name="Sign in to Wedge Turn")).to_be_visible()
    page.keyboard.type("six lamps on a quay")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("This is not the password")
    page.get_by_label("Password").fill(WORD)
    page.keyboard.press("Enter")
    new_job(page, "Behind the door")
    at = page.url
    page.get_by_role("link", name="All jobs").click()
    with page.expect_navigation():  # signing out opens the page anew
        page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_label("Password")).to_be_visible()
    page.goto(at)
    expect(page.get_by_label("Password")).to_be_focused()
    page.keyboard.type(WORD)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Behind the door")).to_be_visible()
