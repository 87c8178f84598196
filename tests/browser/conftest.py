"""The real application, served on a free port with the demo, and a page of Chromium on it."""

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from support.serving import Restartable, application
from support.waiting import PATIENCE

expect.set_options(timeout=PATIENCE * 1000)

ARGUMENTS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--autoplay-policy=no-user-gesture-required",
    "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip


@pytest.fixture(scope="session")
def address(demo_data: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """Where the application listens."""
    with application(shutil.copytree(demo_data, tmp_path_factory.mktemp("served") / "data")) as address:
        yield address


@pytest.fixture
def restartable(demo_data: Path, tmp_path: Path) -> Iterator[Restartable]:
    running = Restartable(shutil.copytree(demo_data, tmp_path / "data"))
    yield running
    running.end()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        launched = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=ARGUMENTS)
        yield launched
        launched.close()


@pytest.fixture(scope="session")
def context(browser: Browser) -> Iterator[BrowserContext]:
    """Windows of one user, who has the scripts already: a page that loads them anew takes half as long again."""
    opened = browser.new_context(
        viewport={"width": 1280, "height": 800}, accept_downloads=True, reduced_motion="reduce"
    )
    yield opened
    opened.close()


@pytest.fixture
def page(context: BrowserContext, address: str) -> Iterator[Page]:
    """A page at 1280x800 that remembers nothing; a script error or an error on its console fails the test."""
    opened = context.new_page()
    opened.set_default_timeout(PATIENCE * 1000)
    errors: list[str] = []
    opened.on("pageerror", lambda error: errors.append(str(error)))
    opened.on("console", lambda m: errors.append(m.text) if m.type == "error" and "status of 4" not in m.text else None)
    opened.goto(address)
    yield opened
    if not opened.is_closed() and opened.url.startswith(address):
        opened.evaluate("localStorage.clear()")
    for other in context.pages:
        other.close()
    context.clear_cookies()
    assert errors == []
