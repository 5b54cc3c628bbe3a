"""The real application in its own process, the real page in headless Chromium."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, ConsoleMessage, Page, expect, sync_playwright

from neatpatch.api.app import AppOptions, create_app
from neatpatch.jobs.runner import RunnerOptions
from neatpatch.store.datafolder import Library
from tests.served import served

BUILT = Path(__file__).parents[2] / "src" / "neatpatch" / "api" / "page" / "index.html"
PATIENCE_MS = 60_000
"""A guard against hanging for ever; how fast a machine is decides nothing."""
TOO_SOON_MS = 500
"""A press so soon after the last instruction is taken for one too many, and logs nothing."""
expect.set_options(timeout=PATIENCE_MS)
VIEWPORT = {"width": 1280, "height": 800}
CHROMIUM = "/usr/bin/chromium"
QUIET = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@contextmanager
def serving(data: Path, **more: Any) -> Iterator[str]:
    """The real application over a folder, behind its real server in this process."""
    options = AppOptions(page=BUILT.parent, runner=RunnerOptions(warm=True), **more)
    with served(create_app(Library(data), options)) as url:
        yield url


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """Headless Chromium from Debian's packages."""
    if not BUILT.exists():
        pytest.fail("the page is not built: run 'make test'")
    with sync_playwright() as p:
        found = p.chromium.launch(executable_path=CHROMIUM, args=QUIET)
        yield found
        found.close()


@pytest.fixture(scope="session")
def demo_url(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """The demo archive, being made while the first test looks on."""
    with serving(tmp_path_factory.mktemp("demo"), demo=True) as url:
        yield url


@pytest.fixture
def fresh_url(tmp_path: Path) -> Iterator[str]:
    """An empty library."""
    with serving(tmp_path / "data") as url:
        yield url


def _complains(message: ConsoleMessage) -> bool:
    """A warning, but for the deep zoom's remark that a map was left while its tiles loaded."""
    return message.type == "warning" and not message.text.startswith("Ignoring tile")


@pytest.fixture
def tab(browser: Browser) -> Iterator[Page]:
    """A browser tab in which any script error or complaint fails the test."""
    context = browser.new_context(
        viewport=VIEWPORT,  # type: ignore[arg-type]
        accept_downloads=True,
        reduced_motion="reduce",
    )
    context.set_default_timeout(PATIENCE_MS)
    page = context.new_page()
    complaints: list[str] = []
    page.on("pageerror", lambda error: complaints.append(str(error)))
    page.on("console", lambda m: complaints.append(m.text) if _complains(m) else None)
    yield page
    context.close()
    assert complaints == []
