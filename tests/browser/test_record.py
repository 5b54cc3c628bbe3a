"""The record on the page: history, odds, calendar, report, letterhead."""

from __future__ import annotations

import io
import re
from datetime import date, timedelta
from pathlib import Path

import httpx
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.retests import PlaceVisit, Stand


def a_retested_visit(url: str, folder: Path) -> PlaceVisit:
    """Two frames with air between them, and a booked job."""
    seen = PlaceVisit(url, folder, self_clean=False, serial="77-1")
    seen.shoot(Stand(1))
    seen.log("air")
    seen.shoot(Stand(2, marks_mm=0.9))
    day = (date.today() + timedelta(days=3)).isoformat()
    with httpx.Client(base_url=url, headers={"origin": url}) as client:
        job = {"name": "Tides", "starts_on": day, "body_ids": [seen.body]}
        client.post("/api/bookings", json=job).raise_for_status()
    return seen


def test_a_cameras_history_is_walked_frame_by_frame(
    tab: Page, fresh_url: str, tmp_path: Path
) -> None:
    seen = a_retested_visit(fresh_url, tmp_path)
    tab.goto(f"{fresh_url}/bodies")
    tab.get_by_label("Find by name or serial").fill("77-1")
    expect(tab.locator("tbody tr")).to_have_count(1)
    tab.get_by_label("Find by name or serial").press("Enter")
    expect(tab).to_have_url(re.compile(f"/bodies/{seen.body}$"))
    expect(tab.locator("canvas").first).to_have_attribute("aria-label", re.compile("over time"))
    beside = tab.locator(".beside")
    expect(beside).to_contain_text("frame 2 of 2")
    expect(beside).to_contain_text("stayed")
    tab.get_by_role("slider", name="Frame").focus()
    tab.keyboard.press("ArrowLeft")
    expect(beside).to_contain_text("The first frame.")
    tab.get_by_role("button", name="Lens changed today").click()
    expect(tab.locator(".logged li")).to_have_count(1)
    tab.reload()
    tab.get_by_role("button", name=re.compile("^Undo Lens changed")).click()
    expect(tab.locator(".logged li")).to_have_count(0)
    tab.get_by_role("button", name="Compare", exact=True).click()
    expect(tab).to_have_url(re.compile(r"/compare/\d+/\d+"))


def test_a_spot_is_followed_through_all_frames(tab: Page, fresh_url: str, tmp_path: Path) -> None:
    seen = a_retested_visit(fresh_url, tmp_path)
    tab.goto(f"{fresh_url}/bodies/{seen.body}")
    lives = tab.locator(".life")
    expect(lives).to_contain_text("Choose a spot")
    marks = tab.locator(".frames g[role=button]")
    while True:  # The record is read by itself soon after the frame.
        expect(marks.first).to_be_visible()
        marks.first.click()
        expect(tab.locator(".frames g[role=button][aria-pressed], .life li").first).to_be_attached()
        if lives.get_by_role("button").count():
            break
        tab.reload()
    begin = lives.get_by_role("button").first
    expect(begin).to_contain_text(re.compile("First seen|New"))
    chosen = tab.locator(".frames g[aria-pressed=true]")
    expect(chosen).to_have_count(1)
    chosen.focus()
    tab.keyboard.press("ArrowLeft")
    tab.keyboard.press("ArrowRight")
    tab.keyboard.press("ArrowUp")
    tab.keyboard.press("ArrowDown")
    expect(chosen).to_have_count(1)
    tab.get_by_role("slider", name="Frame").focus()
    tab.keyboard.press("ArrowLeft")
    expect(tab.locator(".beside")).to_contain_text("The first frame.")
    expect(lives.get_by_role("button").first).to_be_visible()


def test_a_dusty_day_is_logged_with_its_place(tab: Page, fresh_url: str, tmp_path: Path) -> None:
    seen = a_retested_visit(fresh_url, tmp_path)
    tab.goto(f"{fresh_url}/bodies/{seen.body}")
    tab.get_by_label("Where the day was dusty").fill("the quay")
    tab.get_by_role("button", name="Dusty day", exact=True).click()
    expect(tab.locator(".logged li")).to_have_count(1)
    expect(tab.locator(".logged li")).to_contain_text("the quay")


def test_what_a_step_has_done_is_counted_and_stands_beside_the_next_move(
    tab: Page, fresh_url: str, tmp_path: Path
) -> None:
    seen = a_retested_visit(fresh_url, tmp_path)
    tab.goto(f"{fresh_url}/odds?body={seen.body}")
    row = tab.locator("tbody tr", has_text=re.compile("^Air"))
    while not row.count():  # The record is read by itself soon after the frame.
        tab.reload()
        expect(tab.locator("h1")).to_be_visible()
        expect(tab.locator(".said li, .page > p.soft").first).to_be_visible()
    expect(tab.locator(".said")).to_contain_text("Air")
    tab.get_by_text("By kind, with intervals").click()
    expect(row).to_contain_text("Speck")
    expect(row).to_contain_text("%")
    tab.get_by_role("combobox", name="Camera").click()
    tab.get_by_role("option", name="All cameras").click()
    expect(tab).to_have_url(re.compile("/odds$"))
    expect(tab.get_by_role("combobox", name="Camera")).to_have_text("All cameras")
    expect(row).to_be_visible()


def test_the_calendar_shows_a_month_and_a_list(tab: Page, fresh_url: str, tmp_path: Path) -> None:
    a_retested_visit(fresh_url, tmp_path)
    tab.goto(f"{fresh_url}/jobs")
    tab.get_by_role("link", name="Calendar").click()
    expect(tab.locator("td.today")).to_have_count(1)
    month = tab.locator(".turn strong")
    before = month.inner_text()
    tab.get_by_role("button", name="The month after").click()
    expect(month).not_to_have_text(before)
    tab.get_by_text("List", exact=True).click()
    expect(tab.locator(".list li", has_text="Tides")).to_be_visible()
    tab.get_by_role("link", name="Tides").click()
    expect(tab).to_have_url(re.compile("/jobs$"))


def test_a_report_carries_the_letterhead(tab: Page, fresh_url: str, tmp_path: Path) -> None:
    seen = a_retested_visit(fresh_url, tmp_path)
    tab.goto(f"{fresh_url}/schools?section=reports")
    tab.get_by_label("Name").fill("Saltmarsh")
    tab.get_by_label("Name").press("Tab")
    expect(tab.get_by_text("Saved")).to_be_visible()
    logo = io.BytesIO()
    Image.new("RGB", (60, 20), "navy").save(logo, "PNG")
    chosen = {"name": "logo.png", "mimeType": "image/png", "buffer": logo.getvalue()}
    tab.get_by_label("Logo file").set_input_files(chosen)  # type: ignore[arg-type]
    expect(tab.get_by_alt_text("Your logo")).to_be_visible()
    chosen["buffer"] = b"no picture"
    tab.get_by_label("Logo file").set_input_files(chosen)  # type: ignore[arg-type]
    expect(tab.get_by_text("The logo cannot be read")).to_be_visible()
    tab.goto(f"{fresh_url}/visits/{seen.visit}")
    tab.get_by_role("button", name="Report").click()
    with tab.expect_popup() as opened:
        tab.get_by_role("menuitem", name="As a web page").click()
    report = opened.value
    expect(report.locator("h1")).to_have_text("Sensor report")
    expect(report.locator("address")).to_contain_text("Saltmarsh")
    expect(report.locator(".pair svg")).to_have_count(2)
    report.close()
