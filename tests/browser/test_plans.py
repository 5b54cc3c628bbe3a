"""Plans for the hand, the kit and readiness, in the real page."""

from __future__ import annotations

import re
from datetime import date, timedelta
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Page, expect

from neatpatch.core.common.facts import KitItem
from neatpatch.core.kit.readiness import BookedJob
from neatpatch.core.kit.stock import KitEntry
from neatpatch.core.visit.body import Body
from neatpatch.simulation import Camera
from neatpatch.simulation.rungs import scatter_dust
from neatpatch.store import bodies, bookings, kit, visits
from neatpatch.store import virtual_cameras as bench
from neatpatch.store.datafolder import Library
from tests.browser.conftest import TOO_SOON_MS, serving
from tests.browser.test_visit import press, step_on
from tests.conditions import QUIET_ROOM

pytestmark = pytest.mark.browser
SENSOR = (23.5, 15.6)
MOST_WORDS = 150
"""Of the next move, its buttons and headings included; the drop zone below it has its own."""

ROOM = QUIET_ROOM.model_copy(update={"power": "on", "mirror_up": True})


def day(offset: int) -> str:
    return (date.today() + timedelta(days=offset)).isoformat()


@pytest.fixture
def data(tmp_path: Path) -> Path:
    """A mirror body with dust that does not blow off, an open visit, a small kit, a job ahead."""
    folder = tmp_path / "data"
    with Library(folder).database.write() as c:
        body = Body(
            name="Bench body",
            sensor_mm=SENSOR,
            access="mirror",
            stabilised=False,
            self_clean=False,
            works_at=(16,),
            lockup_minutes=0.1,
            no_guarantee=True,
            flange_mm=44,
        )
        body_id = bodies.add_body(c, body)
        camera = Camera(name="Fennick Judge V", sensor_mm=SENSOR, width_px=1600, hot_pixels=2)
        dust = scatter_dust({"speck": 12}, SENSOR, 1.5, 12)
        bench.put_virtual_camera(c, body_id, bench.VirtualCamera(camera, dust, 0))
        visits.open_visit(c, body_id, ROOM)
        stick = KitItem(
            item="gel_stick",
            matched_coating=True,
            fresh_patches=40,
            tip_mm=(8, 6),
            patches_per_sheet=10,
        )
        kit.add_item(c, KitEntry(item=KitItem(item="bulb_blower")))
        kit.add_item(c, KitEntry(item=stick, pack_size=40, pack_price=20))
        swab = KitItem(item="wet_swab", width_mm=16, quantity=1)
        kit.add_item(c, KitEntry(item=swab, pack_size=10, pack_price=25, lead_days=30))
        fluid = KitItem(item="fluid", kind="mild", kit_own=True, quantity=10)
        kit.add_item(c, KitEntry(item=fluid, pack_size=15, pack_price=30))
        kit.add_item(c, KitEntry(item=KitItem(item="loupe", focus_mm=(40, 46))))
        job = BookedJob(name="Old maps", starts_on=day(20), body_ids=(body_id,))
        bookings.add_booking(c, job)
    return folder


def left(url: str) -> dict[str, float]:
    """What the kit counts, by thing."""
    rows = httpx.get(f"{url}/api/kit").json()
    return {k["owned"]["item"]["item"]: k["left"] for k in rows if k["left"] is not None}


def shoot(page: Page, number: int) -> None:
    page.get_by_role("button", name=re.compile("^Shoot( now)?$")).first.click()
    frames = page.locator(".trail .card:not([disabled])")
    expect(frames).to_have_count(number)


def to_the_plan(page: Page, what: str) -> int:
    """Go on by the space bar until the plan is drawn; gives how many marks it has."""
    expect(page.locator("p.now")).to_be_visible()
    for _ in range(14):
        if page.locator("section.plan").count():
            expect(page.locator(what).first).to_be_visible()
            return page.locator(what).count()
        step_on(page)
    raise AssertionError(f"{what} was never drawn")


def to_the_end(page: Page) -> None:
    for _ in range(14):
        if page.get_by_text("Done. Log this step").is_visible():
            return
        step_on(page)
    raise AssertionError("the step never ended")


def until_lift(page: Page) -> int:
    """Follow the next move until it is to lift; gives the number of frames shot."""
    for turn in range(1, 7):
        shoot(page, turn)
        heading = page.locator(".move h1")
        expect(heading).not_to_have_text(re.compile("^Shoot"))
        if heading.inner_text() == "Lift the specks off":
            return turn
        page.get_by_role("button", name="Already done").click()
        expect(heading).to_have_text("Shoot the test frame again")
    raise AssertionError("lifting was never advised")


def test_a_visit_lifts_and_swabs_by_plan_and_the_stock_falls(tab: Page, data: Path) -> None:
    with serving(data) as url:
        tab.goto(f"{url}/visits/1")
        turns = until_lift(tab)
        expect(tab.locator(".move")).to_contain_text(re.compile("press(es)? covers? \\d+ spot"))
        expect(tab.locator(".move")).to_contain_text("focuses on this sensor from the mount")
        told = tab.locator(".move").inner_text().partition("Next frame")[0]
        assert len(told.split()) <= MOST_WORDS, told
        tab.get_by_role("link", name="Start step by step").click()
        presses = to_the_plan(tab, ".press")
        expect(tab.locator(".map")).to_contain_text("fresh patch")
        expect(tab.locator(".map")).to_contain_text(f"Press 1 of {presses} covers")
        for done in range(presses):
            expect(tab.locator(".press.past")).to_have_count(done)
            tab.keyboard.press("Enter")
        expect(tab.get_by_label("Mirror lock-up")).to_contain_text("mirror up")
        expect(tab.get_by_role("alert")).to_contain_text("Finish now")
        expect(tab.get_by_role("alert")).to_contain_text("Tools out now")
        to_the_end(tab)
        tab.wait_for_timeout(TOO_SOON_MS)
        tab.keyboard.press("Space")
        expect(tab.locator(".trail")).to_contain_text(f"took {presses} patch")
        assert left(url)["gel_stick"] == 40 - presses
        shoot(tab, turns + 1)

        tab.goto(f"{url}/visits/1/hands/wet_swab")
        assert to_the_plan(tab, ".stroke") == 2
        expect(tab.locator(".map")).to_contain_text("Stroke 1 of 2 passes")
        expect(tab.locator(".stroke.now .band")).to_have_count(1)
        to_the_end(tab)
        uncounted = tab.get_by_role("button", name=re.compile("^All \\d+ were done$"))
        while uncounted.count():
            uncounted.first.click()
        if tab.locator(".why input").is_visible():
            tab.locator(".why input").fill("to see the stock fall")
        tab.wait_for_timeout(TOO_SOON_MS)
        tab.get_by_role("button", name="Log it").click()
        expect(tab.locator(".trail")).to_contain_text("took 1 × wet swab, 16 mm, 0.1 ml of mild")
        assert left(url) == {"gel_stick": 40 - presses, "wet_swab": 0, "fluid": 9.9}
        expect(tab.locator(".around")).to_contain_text(f"€ {presses / 2 + 2.7:.2f} used")

        tab.get_by_role("button", name="Remove Wet swab from this visit").click()
        expect(tab.locator(".trail")).not_to_contain_text("wet swab")
        assert left(url)["wet_swab"] == 1


def test_a_step_is_corrected_and_more_than_counted_is_asked(tab: Page, data: Path) -> None:
    with serving(data) as url:
        tab.goto(f"{url}/visits/1")
        shoot(tab, 1)
        step = {"step": "wet_swab", "against": "tried", "use": {"swabs": 1, "drops": 2}}
        httpx.post(f"{url}/api/visits/1/steps", json=step).raise_for_status()
        expect(tab.locator(".trail")).to_contain_text("took 1 × wet swab")
        tab.get_by_role("button", name="Edit what Wet swab used").click()
        dialog = tab.get_by_role("dialog", name="What it used: Wet swab")
        expect(dialog).to_contain_text("Wet swab, 16 mm")
        amount = dialog.get_by_label("Amount of Wet swab, 16 mm")
        amount.fill("3")
        amount.blur()
        dialog.get_by_role("button", name="Save").click()
        question = tab.get_by_role("dialog", name="More than the kit counts")
        expect(question).to_contain_text("1 counted, 3 used")
        question.get_by_role("button", name="Do not log it yet").click()
        expect(tab.get_by_text("Put the count right in the kit")).to_be_visible()
        assert left(url)["wet_swab"] == 0
        tab.get_by_role("button", name="Edit what Wet swab used").click()
        amount.fill("3")
        amount.blur()
        dialog.get_by_role("button", name="Save").click()
        question.get_by_role("button", name="There was more").click()
        expect(tab.locator(".trail")).to_contain_text("took 3 × wet swab")
        assert left(url)["wet_swab"] == 0


def test_the_kit_is_kept_by_keyboard(tab: Page, data: Path) -> None:
    with serving(data) as url:
        tab.goto(f"{url}/kit")
        row = tab.get_by_role("row", name="Wet swab")
        expect(row).to_contain_text("€ 2.50")
        press(tab, "^Add a pack: Wet swab, 16 mm$")
        expect(row).to_contain_text("11")
        press(tab, "^Edit Wet swab, 16 mm$")
        dialog = tab.get_by_role("dialog")
        expect(dialog.get_by_label("There now")).to_be_focused()
        dialog.get_by_label("Best before").fill(day(-1))
        dialog.get_by_text("Stock history").click()
        expect(dialog).to_contain_text("arrived +10")
        press(tab, "^Save$")
        expect(row).to_contain_text("expired")
        tab.get_by_role("button", name="Add an item").click()
        new = tab.get_by_role("dialog", name="Add to the kit")
        new.get_by_label("Item", exact=True).click()
        tab.get_by_role("option", name="Carbon-tip pen").click()
        expect(new).to_contain_text("never touches a sensor")
        new.get_by_role("button", name="Add", exact=True).click()
        expect(tab.get_by_role("row", name="Carbon-tip pen")).to_contain_text("never on a sensor")
        tab.goto(f"{url}/bodies/1")
        expect(tab.locator("dl")).to_contain_text("focuses on this sensor from the mount")


def test_readiness_tells_what_to_do_and_to_buy(tab: Page, data: Path) -> None:
    with serving(data) as url:
        tab.goto(f"{url}/jobs")
        job = tab.locator(".job")
        expect(job).to_contain_text("in 20 days")
        expect(job).to_contain_text("A visit is open")
        buy = tab.get_by_label("To buy")
        expect(buy).to_contain_text("Dry swab, 15.6 mm")
        httpx.post(f"{url}/api/visits/1/close", json={"verdict": "given_up"})
        httpx.put(f"{url}/api/service", json={"turnaround_days": 4})
        tab.get_by_role("button", name="Book a job").click()
        dialog = tab.get_by_role("dialog")
        dialog.get_by_label("What").fill("Yesterday's plates")
        dialog.get_by_label("First day").fill(day(-1))
        dialog.get_by_role("button", name="Book it").click()
        expect(dialog).to_contain_text("has passed")
        dialog.get_by_label("What").fill("Next plates")
        dialog.get_by_label("First day").fill(day(8))
        dialog.locator(".p-multiselect").click()
        tab.get_by_role("option", name="Bench body").click()
        dialog.get_by_label("Note").click()
        dialog.get_by_role("button", name="Book it").click()
        expect(job).to_have_count(2)
        expect(job.first).to_contain_text("in time for a service")
        expect(job.first).to_contain_text("A service of 4 days still fits")
        expect(buy).to_contain_text("Wet swab, 16 mm")
        expect(buy).to_contain_text("Too late to order")
        job.first.get_by_role("button", name="Begin a visit").click()
        expect(tab).to_have_url(re.compile("/visits/"))
        tab.goto(f"{url}/")
        expect(tab.locator("a.job")).to_contain_text("in 8 days")


def test_costs_and_units(tab: Page, data: Path) -> None:
    with serving(data) as url:
        tab.goto(f"{url}/costs")
        expect(tab.get_by_label("One clean")).to_contain_text("€ 4.00")
        expect(tab.get_by_label("One clean")).to_contain_text("no price of dry swab")
        fee = tab.get_by_label("Service, a clean")
        fee.fill("3")
        fee.blur()
        expect(tab.locator(".answer")).to_contain_text("Enter in the kit what it cost")
        tab.goto(f"{url}/schools?section=you")
        tab.get_by_role("button", name="inches, °F").click()
        expect(tab.get_by_text("Saved")).to_be_visible()
        tab.goto(f"{url}/kit")
        expect(tab.get_by_role("row", name="Wet swab")).to_contain_text("0.63 in")
        tab.goto(f"{url}/visits/1")
        expect(tab.locator(".around")).to_contain_text("68 °F")
        tab.get_by_role("button", name="Conditions").click()
        dialog = tab.get_by_role("dialog")
        expect(dialog.get_by_label("Temperature", exact=True)).to_have_value("68 °F")
        cold = dialog.get_by_label("Camera temperature")
        cold.fill("35")
        cold.blur()
        expect(dialog).to_contain_text("Dew would settle on it")
        expect(dialog).to_contain_text("Dew point 46 °F")
        dialog.get_by_text("Assumed of the film and the air").click()
        thick = dialog.get_by_label("to").first
        before = dialog.locator(".drying").inner_text()
        thick.fill("90")
        thick.blur()
        expect(dialog.locator(".drying")).not_to_have_text(before)
        dialog.get_by_role("button", name="Save").click()
        shoot(tab, 1)
        expect(tab.locator(".move h1")).to_have_text("Get ready first, touch nothing")
        expect(tab.locator(".move")).to_contain_text("warmed up")
