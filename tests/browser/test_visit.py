"""Whole visits on the virtual camera, in the real page."""

from __future__ import annotations

import re
import signal
import subprocess
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Browser, Page, expect

from neatpatch.core.common.facts import KitItem
from neatpatch.core.kit.stock import KitEntry
from neatpatch.core.visit.body import Body
from neatpatch.simulation import Camera
from neatpatch.simulation.rungs import scatter_dust
from neatpatch.store import bodies, kit, visits
from neatpatch.store import virtual_cameras as bench
from neatpatch.store.datafolder import Library
from tests.browser.conftest import TOO_SOON_MS, VIEWPORT, serving
from tests.conditions import OWN_HANDS

pytestmark = pytest.mark.browser
SENSOR = (23.5, 15.6)


@pytest.fixture
def data(tmp_path: Path) -> Path:
    """A data folder with one virtual body, a visit of before, and a small kit."""
    folder = tmp_path / "data"
    with Library(folder).database.write() as connection:
        body = Body(
            name="Bench body",
            sensor_mm=SENSOR,
            stabilised=False,
            closes_when_off=False,
            no_guarantee=True,
            self_clean=True,
            works_at=(16,),
        )
        body_id = bodies.add_body(connection, body)
        before = visits.open_visit(connection, body_id, OWN_HANDS, "2026-01-05T09:00:00")
        visits.close_visit(connection, before, visits.VisitEnd(verdict="finished"))
        dust = scatter_dust({"speck": 9}, SENSOR, 1.5, 12)
        camera = Camera(name="Fennick Judge V", sensor_mm=SENSOR, width_px=1600, hot_pixels=2)
        bench.put_virtual_camera(connection, body_id, bench.VirtualCamera(camera, dust, 0))
        kit.add_item(connection, KitEntry(item=KitItem(item="bulb_blower")))
        stick = KitItem(item="gel_stick", matched_coating=True, fresh_patches=40)
        kit.add_item(connection, KitEntry(item=stick))
    return folder


class Server:
    """The application in its own process, to be killed at will."""

    def __init__(self, data: Path) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", "neatpatch.cli.main", "serve", "--data", str(data), "--port=0"],
            stderr=subprocess.PIPE,
            text=True,
        )
        assert self._process.stderr is not None
        line = self._process.stderr.readline()
        self.url = line.split("Neat Patch is at ")[1].split("/ ")[0]

    def kill(self) -> None:
        """As a power cut would: no word, no clean-up."""
        self._process.send_signal(signal.SIGKILL)
        self._process.wait()

    def close(self) -> None:
        if self._process.poll() is None:
            self._process.terminate()
            self._process.wait()
        if self._process.stderr:
            self._process.stderr.close()


@contextmanager
def killable_server_on(data: Path) -> Iterator[Server]:
    found = Server(data)
    try:
        yield found
    finally:
        found.close()


def tab_to(page: Page, words: str, most: int = 90) -> None:
    """Press Tab until what has the focus is named so."""
    for _ in range(most):
        page.keyboard.press("Tab")
        name = page.evaluate(
            """() => { const e = document.activeElement;
            return (e.getAttribute('aria-label') || e.innerText || '').trim(); }"""
        )
        if re.search(words, str(name)):
            return
    raise AssertionError(f"Tab never reached {words}")


def scales_once(page: Page, wanted: Callable[[float, float], bool]) -> float:
    """Wait until the scales of both panes are as wanted; gives the first."""
    while not wanted(*(found := (scale_of(page, 0), scale_of(page, 1)))):
        page.wait_for_timeout(50)
    return found[0]


def zoomed_in(page: Page, start: float) -> None:
    """Zoom by the key until both panes have; a change of mode may set the first press back."""
    while True:
        one, two = scale_of(page, 0), scale_of(page, 1)
        if one > 1.2 * start and one == pytest.approx(two, rel=0.01):
            return
        if one < 1.05 * start:
            page.keyboard.press("+")
        page.wait_for_timeout(100)


def step_on(page: Page) -> None:
    """One instruction on by the space bar, seen to have come."""
    before = page.locator("p.now").inner_text()
    page.keyboard.press("Space")
    page.wait_for_function("t => document.querySelector('p.now')?.innerText !== t", arg=before)


def press(page: Page, words: str) -> None:
    tab_to(page, words)
    page.keyboard.press("Enter")


def begin_by_keyboard(page: Page, url: str) -> None:
    page.goto(f"{url}/bodies")
    expect(page.get_by_text("Bench body")).to_be_visible()
    press(page, "^Begin a visit of ")
    expect(page.locator(".move h1")).to_be_visible()
    expect(page.get_by_role("dialog")).to_have_count(0)
    press(page, "^Conditions$")
    expect(page.get_by_label("Why now")).to_be_focused()
    press(page, "^Same as last time$")
    expect(page.get_by_label("Temperature", exact=True)).to_have_value("20 °C")
    expect(page.get_by_role("dialog")).to_contain_text("Practised")
    press(page, "^Save$")
    expect(page.get_by_role("dialog")).to_be_hidden()


def shoot(page: Page, number: int) -> None:
    press(page, "^Shoot( now)?$")
    frames = page.locator(".trail .card:not([disabled])")
    expect(frames).to_have_count(number)


def scale_of(page: Page, side: int) -> float:
    """Screen pixels for each picture pixel in one of the two panes of a comparison."""
    drawn = page.locator(".pane svg > g").nth(side).get_attribute("transform") or ""
    return float(drawn.removeprefix("matrix(").split(" ")[0])


def heading(page: Page) -> str:
    return page.locator(".move h1").inner_text()


def test_a_whole_visit_by_keyboard_alone(tab: Page, data: Path) -> None:
    with serving(data) as url:
        begin_by_keyboard(tab, url)
        expect(tab.locator(".move h1")).to_have_text("Shoot a test frame")
        for turn in range(1, 9):
            shoot(tab, turn)
            expect(tab.locator(".move h1")).not_to_have_text(re.compile("^Shoot"))
            if heading(tab) == "Stop here: it is clean":
                break
            press(tab, "Start step by step")
            expect(tab.locator("p.now")).to_be_visible()
            for _ in range(16):
                if tab.get_by_text("Done. Log this step").is_visible():
                    break
                if tab.locator(".counter .more").is_visible():
                    tab.keyboard.press("Enter")
                step_on(tab)
            tab.wait_for_timeout(TOO_SOON_MS)
            tab.keyboard.press("Space")
            short = tab.get_by_text("Was it so?")
            expect(short.or_(tab.locator(".move h1"))).to_be_visible()
            if short.is_visible():
                press(tab, "^Yes, log it so$")
            expect(tab.locator(".move h1")).to_have_text("Shoot the test frame again")
        assert heading(tab) == "Stop here: it is clean"
        expect(tab.locator(".trail")).to_contain_text("cleared" if turn < 2 else "removed")
        press(tab, "^Finish: it is clean$")
        expect(tab.get_by_role("dialog")).to_contain_text("Look again on")
        press(tab, "^Done$")
        expect(tab.get_by_text("Closed: finished")).to_be_visible()


def test_a_killed_server_loses_nothing(tab: Page, data: Path) -> None:
    with killable_server_on(data) as server:
        begin_by_keyboard(tab, server.url)
        shoot(tab, 1)
        tab.get_by_role("button", name="Already done").click()
        expect(tab.locator(".trail")).to_contain_text("not retested yet")
        with tab.expect_response(lambda answer: answer.request.method == "POST"):
            tab.get_by_role("button", name="Shoot now").click()
        path = tab.url.removeprefix(server.url)
        server.kill()
    with serving(data) as again:
        tab.goto(again + path)
        expect(tab.locator(".trail .card:not([disabled])")).to_have_count(2)
        expect(tab.locator(".trail")).to_contain_text("Built-in shake")
        expect(tab.locator(".move h1")).not_to_have_text("Shoot the test frame again")


def test_two_browsers_on_one_visit_stay_in_step(tab: Page, browser: Browser, data: Path) -> None:
    with serving(data) as url:
        begin_by_keyboard(tab, url)
        other = browser.new_context(viewport=VIEWPORT)  # type: ignore[arg-type]
        tablet = other.new_page()
        tablet.goto(tab.url)
        shoot(tab, 1)
        expect(tablet.locator(".trail .card:not([disabled])")).to_have_count(1)
        tablet.get_by_role("button", name="Already done").click()
        expect(tab.locator(".trail")).to_contain_text("not retested yet")
        tab.get_by_role("button", name="Remove Built-in shake").click()
        expect(tablet.locator(".trail")).not_to_contain_text("not retested yet")
        tab.get_by_role("button", name="Undo").click()
        expect(tablet.locator(".trail")).to_contain_text("not retested yet")
        other.close()


def test_against_advice_mount_view_compare_and_a_bad_file(
    tab: Page, data: Path, tmp_path: Path
) -> None:
    with serving(data) as url:
        begin_by_keyboard(tab, url)
        bad = tmp_path / "notes.jpg"
        bad.write_text("not a picture")
        tab.locator("input[type=file]").set_input_files(bad)
        expect(tab.locator(".row.failed")).to_be_visible()
        tab.get_by_role("button", name="Dismiss").click()
        shoot(tab, 1)

        tab.get_by_text("Other options").click()
        tab.get_by_role("button", name="Something else").click()
        dialog = tab.get_by_role("dialog")
        dialog.get_by_label("Step").click()
        tab.get_by_role("option", name="Wet swab").click()
        expect(dialog).to_contain_text("Advised against now")
        log = dialog.get_by_role("button", name="Log it as done")
        expect(log).to_be_disabled()
        dialog.locator("textarea").fill("Seen a smear")
        log.click()
        expect(tab.locator(".trail")).to_contain_text("against advice")
        shoot(tab, 2)

        tab.get_by_role("button", name="Facing the mount").click()
        expect(tab.locator(".field > svg")).to_have_attribute(
            "aria-label", re.compile("lies on its back, its top away")
        )
        tab.get_by_label("How the camera lies").click()
        tab.get_by_role("option", name="Standing").click()
        expect(tab.locator(".field > svg")).to_have_attribute(
            "aria-label", re.compile("stands in front of you")
        )

        tab.get_by_role("combobox", name="Compare with").click()
        tab.get_by_role("option", name="First against last").click()
        expect(tab.locator("aside h1")).to_contain_text("removed")
        for key, mode in (("b", "blink"), ("s", "side"), ("w", "wipe")):
            tab.keyboard.press(key)
            expect(tab.locator(".panes")).to_have_class(re.compile(mode))
        tab.keyboard.press("s")
        expect(tab.locator(".panes")).to_have_class(re.compile("side"))
        start = scales_once(tab, lambda one, two: one == pytest.approx(two, rel=0.01))
        zoomed_in(tab, start)
        tab.keyboard.press("0")
        tab.keyboard.press("w")
        before = tab.locator(".line").get_attribute("style")
        tab.keyboard.press("]")
        assert tab.locator(".line").get_attribute("style") != before
        tab.keyboard.press("Escape")
        expect(tab.locator(".move h1")).to_be_visible()


def test_the_light_page_fills_the_screen_and_leaves_by_escape(tab: Page, data: Path) -> None:
    with serving(data) as url:
        begin_by_keyboard(tab, url)
        tab.get_by_text("How to shoot it").click()
        expect(tab.locator(".recipe ol")).to_contain_text("f/22, ISO 100")
        tab.get_by_label("Smallest opening").fill("f/11")
        tab.get_by_label("Smallest opening").blur()
        expect(tab.locator(".recipe ol")).to_contain_text("f/11 hides small dust")
        visit = tab.url
        tab.get_by_role("link", name="Light page").click()
        light = tab.get_by_role("group", name="Even light page")
        expect(light).to_be_visible()
        box = light.bounding_box()
        assert box is not None
        assert (box["width"], box["height"]) == (VIEWPORT["width"], VIEWPORT["height"])
        tab.get_by_role("button", name="Grey").click()
        expect(light).to_have_css("background-color", "rgb(189, 189, 189)")
        tab.keyboard.press("Escape")
        expect(tab).to_have_url(visit)


def test_bodies_kit_and_schools_are_kept(tab: Page, data: Path) -> None:
    with serving(data) as url:
        tab.goto(f"{url}/bodies")
        tab.get_by_role("button", name="Add a camera").click()
        dialog = tab.get_by_role("dialog")
        expect(dialog).to_contain_text("nothing may touch the sensor")
        dialog.get_by_label("Name").fill("Bench body")
        dialog.get_by_role("button", name="Add, and begin a visit").click()
        expect(dialog).to_contain_text("Choose another name")
        dialog.get_by_label("Name").fill("Second body")
        dialog.get_by_role("button", name="Add, and begin a visit").click()
        expect(tab.locator(".trail")).to_contain_text("No frame yet")

        tab.goto(f"{url}/kit")
        tab.get_by_role("button", name="One less: Gel stick").click()
        expect(tab.get_by_role("row", name="Gel stick")).to_contain_text("39 patches")
        tab.goto(f"{url}/schools")
        when = tab.get_by_role("combobox", name="Act on a spot")
        when.click()
        tab.get_by_role("option", name="When it shows at all").click()
        expect(tab.get_by_text("Saved")).to_be_visible()
        tab.reload()
        expect(when).to_have_text("When it shows at all")


def test_one_press_is_one_step_however_long_or_often(tab: Page, data: Path) -> None:
    with serving(data) as url:
        begin_by_keyboard(tab, url)
        shoot(tab, 1)
        press(tab, "Start step by step")
        first = tab.locator("p.now").inner_text()
        for _ in range(12):
            tab.keyboard.down("Space")
        tab.keyboard.up("Space")
        expect(tab.locator("p.now")).not_to_have_text(first)
        expect(tab.locator("header .soft")).to_contain_text("2 of")
        for _ in range(16):
            if tab.get_by_text("Done. Log this step").is_visible():
                break
            step_on(tab)
        for _ in range(4):
            tab.keyboard.press("Space")
        expect(tab.get_by_text("Done. Log this step")).to_be_visible()
        tab.wait_for_timeout(TOO_SOON_MS)
        for _ in range(4):
            tab.keyboard.press("Space")
        expect(tab.get_by_role("alert")).to_contain_text("0 of 5 runs. Was it so?")
        tab.get_by_role("button", name="Yes, log it so").click()
        expect(tab.locator(".trail .done")).to_have_count(1)
        tab.reload()
        expect(tab.locator(".trail .done")).to_have_count(1)


def test_what_another_tab_changed_is_told_and_not_overwritten(tab: Page, data: Path) -> None:
    with serving(data) as url:
        begin_by_keyboard(tab, url)
        tab.get_by_role("button", name="Conditions").click()
        dialog = tab.get_by_role("dialog")
        dialog.get_by_label("Why now").fill("Spots at f/16")
        now = httpx.get(f"{url}/api/visits/2").json()["conditions"]
        warm = {**now, "temperature_c": 27.5}
        httpx.put(f"{url}/api/visits/2/conditions", json=warm).raise_for_status()
        expect(tab.locator(".around")).to_contain_text("27.5 °C")
        dialog.get_by_role("button", name="Save").click()
        expect(dialog).to_contain_text("temperature 27.5 °C. Nothing was overwritten")
        expect(dialog.get_by_label("Why now")).to_have_value("Spots at f/16")
        dialog.get_by_role("button", name="Save").click()
        expect(dialog).to_be_hidden()
        expect(tab.locator(".head")).to_contain_text("Spots at f/16")
