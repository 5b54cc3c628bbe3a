"""A phone let in by a code: it follows the visit in hand, and is shut out again."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import PATIENCE_MS, serving
from tests.browser.retests import PlaceVisit, Stand
from tests.browser.test_access import violations

PHONE = {"width": 390, "height": 844}


@pytest.fixture
def sharing_url(tmp_path: Path) -> Iterator[str]:
    with serving(tmp_path / "data", share_on="127.0.0.2", share_port=0) as url:
        yield url


@contextmanager
def a_phone(browser: Browser) -> Iterator[Page]:
    """A browser of its own that goes on past the certificate's warning, as its owner would."""
    context = browser.new_context(
        viewport=PHONE,  # type: ignore[arg-type]
        ignore_https_errors=True,
        has_touch=True,
        reduced_motion="reduce",
    )
    context.set_default_timeout(PATIENCE_MS)
    yield context.new_page()
    context.close()


def show_code(tab: Page, url: str, visit: int, role: str = "Helper") -> tuple[str, str]:
    """The address and the code that the screen shows."""
    tab.goto(f"{url}/share?visit={visit}")
    on = tab.get_by_role("button", name="Turn sharing on")
    begin = tab.get_by_role("button", name=re.compile("Show (the|a new) code"))
    expect(on.or_(begin)).to_be_visible()
    if on.is_visible():
        expect(tab.get_by_text("Nobody gets in without a code")).to_be_visible()
        on.click()
    tab.get_by_text(role, exact=True).click()
    begin.click()
    code = tab.locator(".code").inner_text().replace(" ", "")
    return tab.locator(".address").first.inner_text(), code


def pair(phone: Page, address: str, code: str, name: str) -> None:
    phone.goto(address)
    phone.get_by_label("Who is working").fill(name)
    phone.get_by_label("Code").fill(code)
    phone.get_by_role("button", name="Pair").click()


def test_a_paired_phone_follows_the_visit_and_its_steps_carry_a_name(
    tab: Page, browser: Browser, sharing_url: str, tmp_path: Path
) -> None:
    seen = PlaceVisit(sharing_url, tmp_path, self_clean=False)
    seen.shoot(Stand(1))
    address, code = show_code(tab, sharing_url, seen.visit)
    assert address.startswith("https://127.0.0.2:")
    expect(tab.get_by_alt_text("QR code of the address and the code")).to_be_visible()
    with a_phone(browser) as phone:
        pair(phone, address, code, "Ada")
        expect(phone).to_have_url(re.compile(f"/visits/{seen.visit}$"))
        expect(tab.get_by_text("Ada is in, as helper.")).to_be_visible()
        expect(phone.locator("header .me")).to_have_text("Ada, helper")
        phone.get_by_role("button", name="Menu").click()
        expect(phone.get_by_role("link", name="Kit")).to_be_visible()
        expect(phone.get_by_role("link", name="Settings")).to_have_count(0)
        with httpx.Client(base_url=sharing_url, headers={"origin": sharing_url}) as home:
            home.post(
                f"/api/visits/{seen.visit}/steps",
                json={"step": "air", "against": "by hand", "use": {"opening": "down"}},
            ).raise_for_status()
        expect(phone.get_by_text("against advice: by hand")).to_be_attached()
        token = phone.context.cookies()[0]
        assert (token["httpOnly"], token["secure"], token["sameSite"]) == (True, True, "Strict")
        assert phone.evaluate("document.cookie") == ""
        tab.get_by_role("button", name="Remove Ada").click()
        expect(tab.get_by_role("button", name="Remove Ada")).to_have_count(0)
        phone.reload()
        expect(phone.get_by_role("heading", name="Pair this device")).to_be_visible()


def test_a_step_logged_on_the_phone_shows_who_did_it(
    tab: Page, browser: Browser, sharing_url: str, tmp_path: Path
) -> None:
    seen = PlaceVisit(sharing_url, tmp_path, self_clean=False)
    seen.shoot(Stand(1))
    address, code = show_code(tab, sharing_url, seen.visit)
    with a_phone(browser) as phone:
        pair(phone, address, code, "Bo")
        expect(phone).to_have_url(re.compile(f"/visits/{seen.visit}$"))
        logged = phone.evaluate(
            """async (path) => (await fetch(path, {method: 'POST',
                headers: {'content-type': 'application/json'},
                body: JSON.stringify({step: 'air', against: 'a test', use: {opening: 'down'}})
            })).status""",
            f"/api/visits/{seen.visit}/steps",
        )
        assert logged == 201
        tab.goto(f"{sharing_url}/visits/{seen.visit}")
        expect(tab.get_by_text("by Bo")).to_be_visible()


def test_a_viewer_is_offered_nothing_that_is_refused(
    tab: Page, browser: Browser, sharing_url: str, tmp_path: Path
) -> None:
    seen = PlaceVisit(sharing_url, tmp_path, self_clean=False)
    seen.shoot(Stand(1))
    seen.log("air")
    address, code = show_code(tab, sharing_url, seen.visit, "Viewer")
    with a_phone(browser) as phone:
        pair(phone, address, code, "Cy")
        expect(phone.locator("header .me")).to_have_text("Cy, viewer")
        expect(phone.locator(".frame.viewing")).to_be_attached()
        expect(phone.locator(".move h1")).to_be_visible()
        for name in ("Shoot now", "Conditions", "Methods", "Close", "Choose a frame"):
            expect(phone.get_by_role("button", name=name, exact=True)).to_have_count(0)
        expect(phone.get_by_text("Other options")).to_be_hidden()
        expect(phone.get_by_role("button", name="Remove", exact=True)).to_have_count(0)
        phone.goto(f"{phone.url.split('/visits')[0]}/kit")
        expect(phone.get_by_role("heading", name="Kit")).to_be_visible()
        expect(phone.get_by_role("button", name="Add an item")).to_have_count(0)


def test_a_wrong_code_is_said_and_a_framed_or_foreign_page_gets_nowhere(
    tab: Page, browser: Browser, sharing_url: str, tmp_path: Path
) -> None:
    seen = PlaceVisit(sharing_url, tmp_path, self_clean=False)
    address, code = show_code(tab, sharing_url, seen.visit)
    wrong = f"{(int(code) + 1) % 10**6:06d}"
    with a_phone(browser) as phone:
        pair(phone, f"{address}#{wrong}", wrong, "Ada")
        expect(phone.get_by_role("alert")).to_contain_text("This is not the code")
        assert violations(phone) == {"light": [], "dim": []}
        phone.goto(f"{address}#{code}")
        expect(phone.get_by_label("Code")).to_have_value(code)
        assert "#" not in phone.url
        phone.get_by_label("Who is working").fill("Ada")
        phone.get_by_label("Who is working").press("Enter")
        expect(phone).to_have_url(re.compile(f"/visits/{seen.visit}$"))
        # A foreign page that frames this one, and one that posts to it with the phone's cookies.
        home = address.split("/pair")[0]
        foreign = phone.context.new_page()
        foreign.route(
            "https://evil.example/",
            lambda route: route.fulfill(
                content_type="text/html",
                body=f"<iframe id=f src='{home}/'></iframe>"
                f"<form method=post action='{home}/api/visits'><button>Go</button></form>",
            ),
        )
        foreign.goto("https://evil.example/")
        framed = foreign.frame_locator("#f")
        expect(framed.get_by_role("navigation")).to_have_count(0)
        foreign.get_by_role("button", name="Go").click()
        expect(foreign.get_by_text("Requests from other web pages are refused")).to_be_visible()


def test_a_customers_link_shows_the_report_alone(
    tab: Page, browser: Browser, sharing_url: str, tmp_path: Path
) -> None:
    seen = PlaceVisit(sharing_url, tmp_path, self_clean=False)
    seen.shoot(Stand(1))
    tab.goto(f"{sharing_url}/visits/{seen.visit}")
    tab.get_by_role("button", name="Phone").click()
    tab.get_by_role("button", name="Turn sharing on").click()
    tab.get_by_role("button", name="Make a link").click()
    link = tab.get_by_role("status").locator(".address").inner_text()
    with a_phone(browser) as customer:
        customer.goto(link)
        expect(customer.locator("h1")).to_have_text("Sensor report")
        customer.goto(link.split("/report/")[0])
        expect(customer.get_by_role("heading", name="Pair this device")).to_be_visible()
    tab.get_by_role("button", name="Stop sharing").click()
    expect(tab.get_by_role("button", name="Turn sharing on")).to_be_visible()
