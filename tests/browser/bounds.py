"""How many words a view may have, and what has more."""

from __future__ import annotations

import re

import httpx
from playwright.sync_api import Page, expect

# Words on a view of the demo, at most: what a reader has before any disclosure is opened.
MOST_WORDS = {
    "/": 170,
    "/bodies": 90,
    "/bodies/1": 185,
    "/visits/{visit}": 240,
    "/frames/{frame}": 60,
    "/pictures": 45,
    "/jobs": 135,
    "/kit": 150,
    "/costs": 125,
    "/odds": 80,
    "/practice": 100,
    "/schools": 185,
}


def too_wordy(url: str, tab: Page) -> dict[str, int]:
    """The views of the demo that have more words than they may, with their counts."""
    visit = httpx.get(f"{url}/api/visits", params={"state": "open"}).json()[0]["id"]
    frame = httpx.get(f"{url}/api/frames").json()["frames"][0]["id"]
    found = {}
    for view in MOST_WORDS:
        tab.goto(url + view.format(visit=visit, frame=frame))
        expect(tab.locator("h1").first).to_be_visible()
        tab.wait_for_load_state("networkidle")
        found[view] = len(re.findall(r"[A-Za-z][A-Za-z'’-]*", tab.locator("main").inner_text()))
    assert min(found.values()) > 10, found
    return {view: n for view, n in found.items() if n > MOST_WORDS[view]}
