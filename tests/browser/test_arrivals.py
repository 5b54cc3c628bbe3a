"""From a file to advice: dropped anywhere, recognised, asked for little; counted in clicks."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Browser, Locator, Page, expect

from neatpatch.simulation import expose, scatter
from neatpatch.simulation.camera import developed
from neatpatch.simulation.frames import write_picture
from tests.browser.conftest import VIEWPORT
from tests.browser.retests import CAMERA, PlaceVisit, Stand
from tests.browser.test_page import drop

pytestmark = pytest.mark.browser
SMALL = replace(CAMERA, width_px=1800)


def picture(folder: Path, name: str, *, specks: int = 8, seed: int = 1) -> Path:
    """A frame of one made-up camera; without specks its sensor is spotless."""
    dust = scatter({"speck": specks}, SMALL.sensor_mm, 1.5, 4) if specks else []
    return write_picture(
        folder / name, developed(expose(SMALL, dust, seed=seed, target_seed=seed).mosaic)
    )


@dataclass
class Clicks:
    """Counts what a hand does with the mouse: presses, and files brought."""

    tab: Page
    n: int = 0

    def on(self, thing: Locator) -> None:
        thing.click()
        self.n += 1

    def bring(self, path: Path) -> None:
        drop(self.tab, path)
        self.n += 1

    def choose(self, label: str, option: str) -> None:
        self.on(self.tab.get_by_role("combobox", name=label, exact=True))
        self.on(self.tab.get_by_role("option", name=option))


def advice(tab: Page) -> Locator:
    return tab.locator(".move h1")


def test_few_clicks_to_advice(tab: Page, fresh_url: str, tmp_path: Path) -> None:
    tab.goto(fresh_url)
    expect(tab.get_by_text("No frames yet")).to_be_visible()
    first = Clicks(tab)
    first.bring(picture(tmp_path, "first.jpg"))
    tab.get_by_label("Name").fill("Study")
    first.choose("Sensor", "APS-C, 23.5")
    first.on(tab.get_by_role("button", name="Continue"))
    expect(advice(tab)).to_be_visible()
    expect(tab.locator(".head h1")).to_have_text("Study")
    expect(tab.get_by_role("dialog")).to_have_count(0)

    tab.get_by_role("button", name="Close", exact=True).click()
    tab.get_by_label("Finished").check()
    tab.get_by_role("button", name="Close the visit").click()
    tab.get_by_role("button", name="Done").click()
    tab.goto(f"{fresh_url}/kit")
    later = Clicks(tab)
    later.bring(picture(tmp_path, "later.jpg", seed=2))
    expect(advice(tab)).to_be_visible()
    expect(tab.locator(".head h1")).to_have_text("Study")

    tab.get_by_role("button", name="Close", exact=True).click()
    tab.get_by_label("Finished").check()
    tab.get_by_role("button", name="Close the visit").click()
    tab.get_by_role("button", name="Done").click()
    tab.goto(fresh_url)
    spotless = Clicks(tab)
    spotless.bring(picture(tmp_path, "spotless.jpg", specks=0, seed=3))
    expect(advice(tab)).to_have_text("Stop here: it is clean")
    spotless.on(tab.get_by_role("button", name="Finish: it is clean"))
    expect(tab.get_by_text("Closed: finished")).to_be_visible()

    counts = {"first": first.n, "later": later.n, "spotless": spotless.n}
    print(f"\nClicks to advice: {counts}")
    assert first.n <= 4
    assert later.n <= 2
    assert spotless.n <= 2


def test_several_at_once_are_told_of_one_by_one_and_can_be_answered_later(
    tab: Page, fresh_url: str, tmp_path: Path
) -> None:
    tab.goto(f"{fresh_url}/jobs")
    files = [picture(tmp_path, f"{n}.jpg", seed=n) for n in (1, 2)]
    for path in files:
        drop(tab, path)
    tray = tab.get_by_label("Frames coming in")
    expect(tray.get_by_role("link", name="Say which")).to_have_count(2)
    tray.get_by_role("link", name="Say which").first.click()
    expect(tab.get_by_text("Which camera is this?")).to_be_visible()
    tab.get_by_role("button", name="Only keep the frame").click()
    expect(tab.get_by_text("Which camera is this?")).to_have_count(0)
    tab.goto(fresh_url)
    expect(tab.get_by_text("Which camera is it?")).to_have_count(1)


def test_a_frame_is_deleted_and_put_back_and_a_camera_after_one_question(
    tab: Page, fresh_url: str, tmp_path: Path
) -> None:
    seen = PlaceVisit(fresh_url, tmp_path)
    seen.shoot(Stand(1))
    question = tab.get_by_role("alertdialog")

    def delete() -> None:
        tab.goto(f"{fresh_url}/frames/1")
        tab.get_by_role("button", name="More", exact=True).click()
        tab.get_by_role("menuitem", name="Delete this frame").click()
        expect(tab.get_by_text("No frames yet")).to_be_visible()

    delete()
    tab.locator(".undo").get_by_role("button", name="Undo").click()
    expect(tab.locator(".undo")).to_have_count(0)
    tab.goto(f"{fresh_url}/visits/{seen.visit}")
    expect(tab.locator(".trail .card")).to_have_count(1)
    delete()
    tab.go_back()
    expect(tab.locator(".band h1")).to_have_count(0)
    tab.goto(f"{fresh_url}/visits/{seen.visit}")
    expect(tab.locator(".trail")).to_contain_text("No frame yet")
    tab.goto(f"{fresh_url}/bodies/{seen.body}")
    tab.get_by_role("button", name="Delete", exact=True).click()
    expect(question).to_contain_text("its 1 visit with all steps")
    question.get_by_role("button", name="Delete the camera").click()
    expect(tab.get_by_text("No camera yet")).to_be_visible()


def test_any_entry_is_removed_and_put_back(tab: Page, fresh_url: str, tmp_path: Path) -> None:
    seen = PlaceVisit(fresh_url, tmp_path, self_clean=False)
    seen.shoot(Stand(1))
    seen.log("air")
    seen.shoot(Stand(2, marks_mm=0.9))
    tab.goto(f"{fresh_url}/visits/{seen.visit}")
    cards = tab.locator(".trail .card")
    expect(cards).to_have_count(2)
    tab.get_by_role("button", name="Remove frame 1 from this visit").click()
    expect(cards).to_have_count(1)
    tab.get_by_role("button", name="Undo").click()
    expect(cards).to_have_count(2)
    expect(tab.locator(".trail")).to_contain_text("Air changed nothing")
    tab.get_by_role("button", name="Remove Air from this visit").click()
    expect(tab.locator(".trail .done")).to_have_count(0)
    tab.get_by_role("button", name="Undo").click()
    expect(tab.locator(".trail .done")).to_have_count(1)


def test_spots_are_walked_by_keyboard_and_tell_their_life(
    tab: Page, fresh_url: str, tmp_path: Path
) -> None:
    seen = PlaceVisit(fresh_url, tmp_path, self_clean=False)
    seen.shoot(Stand(1))
    seen.log("air")
    seen.shoot(Stand(2, marks_mm=0.9))
    tab.goto(f"{fresh_url}/visits/{seen.visit}")
    first = tab.locator(".mark[tabindex='0']")
    expect(first).to_have_count(1)
    expect(first).to_have_attribute(
        "aria-label", re.compile(r"Speck, shadow .* wide, visible from")
    )
    tab.locator(".mark:has(circle)").first.focus()
    tab.keyboard.press("Enter")
    detail = tab.locator(".detail")
    expect(detail).to_contain_text("Air: stayed in frame 2")
    expect(detail.locator(".profile")).to_contain_text("Light along a line through it falls to")
    chosen = tab.locator(".mark.selected")
    before = chosen.get_attribute("data-spot")
    for key in ("ArrowRight", "ArrowLeft", "ArrowDown", "ArrowUp"):
        tab.keyboard.press(key)
        if chosen.get_attribute("data-spot") != before:
            break
    assert chosen.get_attribute("data-spot") != before
    tab.keyboard.press("Escape")
    expect(detail).to_have_count(0)
    tab.get_by_role("radio", name="Facing the mount").or_(
        tab.get_by_role("button", name="Facing the mount")
    ).first.click()
    dot = tab.locator(".dot[tabindex='0']")
    expect(dot).to_have_count(1)
    dot.focus()
    tab.keyboard.press("Enter")
    expect(detail).to_contain_text("Air: stayed in frame 2")
    pressed = tab.locator(".dot[aria-pressed='true']")
    before = pressed.get_attribute("data-spot")
    for key in ("ArrowRight", "ArrowLeft", "ArrowDown", "ArrowUp"):
        tab.keyboard.press(key)
        if pressed.get_attribute("data-spot") != before:
            break
    assert pressed.get_attribute("data-spot") != before


def test_what_is_asked_is_asked_two_at_a_time_with_last_times_answers(
    tab: Page, fresh_url: str, tmp_path: Path
) -> None:
    seen = PlaceVisit(fresh_url, tmp_path, self_clean=False, no_guarantee=True)
    seen.shoot(Stand(1))
    seen.log("air")
    seen.shoot(Stand(2, marks_mm=0.9))
    with httpx.Client(base_url=fresh_url, headers={"origin": fresh_url}) as client:
        kept = client.get(f"/api/visits/{seen.visit}").json()["conditions"]
        other = client.post("/api/bodies", json={"name": "Other", "sensor_mm": [36, 24]}).json()
        client.post("/api/visits", json={"body_id": other["id"], "conditions": kept})
        bare = {**kept, "moving_air": None, "surface": None, "room_clean": None}
        client.put(f"/api/visits/{seen.visit}/conditions", json=bare).raise_for_status()
    tab.goto(f"{fresh_url}/visits/{seen.visit}")
    asked = tab.get_by_label("Before the next step")
    expect(asked.locator("[role=group]")).to_have_count(2)
    asked.get_by_role("button", name="As last time: air still, table bare").click()
    asked.get_by_role("button", name="Save").click()
    expect(asked).to_contain_text("Wiped down")
    asked.get_by_role("group", name="Wiped down").get_by_role("button", name="Yes").click()
    asked.get_by_role("button", name="Save").click()
    expect(asked).to_have_count(0)
    tab.reload()
    expect(advice(tab)).to_be_visible()
    expect(tab.get_by_role("dialog")).to_have_count(0)


def test_hands_stand_in_one_place_on_every_device(
    tab: Page, browser: Browser, fresh_url: str, tmp_path: Path
) -> None:
    seen = PlaceVisit(fresh_url, tmp_path, self_clean=False)
    seen.shoot(Stand(1))
    seen.shoot(Stand(2, marks_mm=0.9))
    tab.goto(f"{fresh_url}/visits/{seen.visit}/hands/air")
    told = tab.locator("p.now")
    first = told.inner_text()
    tab.keyboard.press("Space")
    expect(told).not_to_have_text(first)
    second = told.inner_text()
    other = browser.new_context(viewport=VIEWPORT)  # type: ignore[arg-type]
    tablet = other.new_page()
    tablet.goto(f"{fresh_url}/visits/{seen.visit}")
    tablet.get_by_role("link", name="Continue step by step").click()
    there = tablet.locator("p.now")
    expect(there).to_have_text(second)
    tablet.keyboard.press("Space")
    expect(there).not_to_have_text(second)
    expect(told).to_have_text(there.inner_text())
    tab.reload()
    expect(told).to_have_text(there.inner_text())
    other.close()


def test_a_blower_at_hand_is_entered_on_the_spot(tab: Page, fresh_url: str, tmp_path: Path) -> None:
    seen = PlaceVisit(fresh_url, tmp_path, self_clean=False)
    with httpx.Client(base_url=fresh_url, headers={"origin": fresh_url}) as client:
        for row in client.get("/api/kit").json():
            client.delete(f"/api/kit/{row['id']}")
    seen.shoot(Stand(1))
    seen.shoot(Stand(2, marks_mm=0.9))
    tab.goto(f"{fresh_url}/visits/{seen.visit}")
    expect(advice(tab)).to_have_text("Get ready first, touch nothing")
    tab.get_by_role("button", name="I have one: rubber bulb blower").click()
    expect(tab.get_by_role("link", name="Start step by step")).to_be_visible()


def test_a_folder_is_watched_from_the_page(tab: Page, fresh_url: str, tmp_path: Path) -> None:
    seen = PlaceVisit(fresh_url, tmp_path)
    folder = tmp_path / "card"
    folder.mkdir()
    tab.goto(f"{fresh_url}/schools?section=folders")
    tab.get_by_label("Folder", exact=True).fill(str(tmp_path / "not-there"))
    tab.get_by_role("button", name="Watch it").click()
    expect(tab.get_by_text("there is no folder")).to_be_visible()
    tab.get_by_label("Folder", exact=True).fill(str(folder))
    tab.get_by_role("combobox", name="Frames are of").click()
    tab.get_by_role("option", name="Gallery C").click()
    tab.get_by_role("button", name="Watch it").click()
    expect(tab.get_by_text("Followed. Nothing came yet.")).to_be_visible()
    made = picture(tmp_path, "shot.jpg")
    (folder / "shot.jpg").write_bytes(made.read_bytes())
    expect(tab.get_by_text("1 picture taken in, the last shot.jpg")).to_be_visible()
    tab.goto(f"{fresh_url}/visits/{seen.visit}")
    expect(tab.locator(".trail .card:not([disabled])")).to_have_count(1)
    tab.goto(f"{fresh_url}/schools?section=folders")
    tab.get_by_role("button", name="Stop watching").click()
    expect(tab.get_by_text("picture taken in")).to_have_count(0)
