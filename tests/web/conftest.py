"""A server of its own and real Chromium for the tests that drive the page."""

import os
import shutil
import socket
import subprocess
import sys
import threading
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Locator, Page, expect, sync_playwright

# Without a graphics card the compositor would take a core for itself; WebGL is drawn all the same.
FLAGS = [
    "--disable-gpu-compositing", "--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader",
    "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update",
    "--disable-sync",
]  # fmt: skip

# What a page shows after work on the server may take this long (ms) on a busy machine.
expect.set_options(timeout=120_000)


@pytest.fixture(scope="session")
def address(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """Where a server listens, whose data are empty before each test (see `page`)."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        port = s.getsockname()[1]
    env = {**os.environ, "ULMEK_HOME": str(tmp_path_factory.mktemp("home")), "ULMEK_PORT": str(port)}
    server = subprocess.Popen([str(Path(sys.executable).parent / "ulmek"), "serve"], env=env)
    url = f"http://127.0.0.1:{port}/"
    pause = threading.Event()
    for _ in range(600):
        assert server.poll() is None
        try:
            with urllib.request.urlopen(url + "api/demos"):
                break
        except OSError:
            pause.wait(0.1)
    yield url
    server.terminate()
    server.wait(timeout=30)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """Real Chromium; each test opens a window of its own in it."""
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=FLAGS)
        yield opened
        opened.close()


@pytest.fixture
def page(address: str, browser: Browser) -> Iterator[Page]:
    """The empty shelf in a window of 1280 × 800; an uncaught error in the page fails the test."""
    # Drawn in half as many pixels each way: on a machine without a graphics card these take the time of the test.
    window = browser.new_context(
        viewport={"width": 1280, "height": 800}, device_scale_factor=0.5, reduced_motion="reduce"
    )
    opened = window.new_page()
    opened.set_default_timeout(90_000)
    for study in opened.request.get(address + "api/studies").json():
        opened.request.delete(f"{address}api/studies/{study['id']}")
    problems: list[str] = []
    opened.on("pageerror", lambda e: problems.append(str(e)))
    opened.goto(address)
    yield opened
    window.close()
    assert problems == []


def findings(page: Page) -> Locator:
    """What preflight found, shown."""
    head = page.get_by_role("button", name="Preflight")
    # They open by themselves where something is wrong, which is known once they are counted.
    expect(head.locator("[aria-label]").first).to_be_visible()
    expect(head).not_to_contain_text("checking")
    if head.get_attribute("aria-expanded") == "false":
        head.click()
    return page.get_by_test_id("preflight")
