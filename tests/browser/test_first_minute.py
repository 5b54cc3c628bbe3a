"""From an empty library to the first map; finding, keys and pasting on every page."""

from __future__ import annotations

import base64
from pathlib import Path

import httpx
from playwright.sync_api import Page, expect


def test_the_first_minute_leads_from_nothing_to_a_map(fresh_url: str, tab: Page) -> None:
    tab.goto(fresh_url)
    tab.get_by_role("button", name="Try it with an example").click()
    path = tab.get_by_label("From the first map on")
    expect(path).to_contain_text("Fit to judge by")
    expect(path).to_contain_text("spots show at f/16")
    path.get_by_role("link").click()
    expect(tab.get_by_role("dialog", name="Add a camera")).to_be_visible()
    tab.goto(fresh_url)
    tab.get_by_role("button", name="Remove the example").click()
    expect(tab.get_by_role("button", name="Try it with an example")).to_be_visible()
    tab.get_by_role("button", name="Undo").click()
    expect(tab.get_by_role("heading", name="Example")).to_be_visible()


def test_anything_is_found_by_its_name_from_the_keyboard(fresh_url: str, tab: Page) -> None:
    httpx.post(f"{fresh_url}/api/bodies", json={"name": "Reading room 7", "sensor_mm": [36, 24]})
    tab.goto(fresh_url)
    expect(tab.locator("h1")).to_be_visible()
    tab.keyboard.press("Control+k")
    expect(tab.get_by_role("combobox", name="Find")).to_be_focused()
    tab.keyboard.type("room 7")
    expect(tab.get_by_role("option", name="Reading room 7")).to_be_visible()
    tab.keyboard.press("Enter")
    expect(tab.get_by_role("heading", name="Reading room 7")).to_be_visible()
    tab.keyboard.press("Control+k")
    tab.keyboard.type("zzzz")
    expect(tab.get_by_text("Nothing has this name.")).to_be_visible()
    tab.keyboard.press("Escape")
    tab.keyboard.press("Escape")
    expect(tab.get_by_role("combobox", name="Find")).to_have_count(0)
    tab.locator("h1").click()
    tab.keyboard.press("?")
    expect(tab.get_by_role("dialog", name="Keys")).to_contain_text("Ctrl K")


def test_a_pasted_picture_is_taken_in(fresh_url: str, tab: Page, dusty_jpeg: Path) -> None:
    tab.goto(fresh_url)
    expect(tab.locator("h1")).to_be_visible()
    data = base64.b64encode(dusty_jpeg.read_bytes()).decode()
    tab.evaluate(
        """data => { const bytes = Uint8Array.from(atob(data), c => c.charCodeAt(0))
        const given = new DataTransfer()
        given.items.add(new File([bytes], 'pasted.jpg', {type: 'image/jpeg'}))
        window.dispatchEvent(new ClipboardEvent('paste', {clipboardData: given})) }""",
        data,
    )
    expect(tab.get_by_text("pasted.jpg").first).to_be_visible()
