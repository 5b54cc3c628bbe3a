"""Every screen and dialog under the rules of axe-core, light and dim; keyboard; small screens."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import serving
from tests.browser.retests import PlaceVisit, Stand

pytestmark = pytest.mark.browser
AXE = Path(__file__).parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
ASK = """async (rules) => (await axe.run(document, {
    resultTypes: ['violations'], preload: false,
    ...(rules && {runOnly: {type: 'rule', values: rules}}),
})).violations.map(v => `${v.id}: ${v.nodes.map(n => n.html.slice(0, 120)).join(' | ')}`)"""
OF_COLOUR = ["color-contrast", "link-in-text-block"]
"""All that the dim theme can break: it differs from the light one in its colours alone."""
DIM = """dim => {
    const still = new CSSStyleSheet()
    still.replaceSync('*, ::before, ::after { transition: none !important }')
    document.adoptedStyleSheets = [still]
    document.documentElement.classList.toggle('dim', dim)
}"""
"""Changes the theme at once: no colour is on its way when it is looked at."""
SMALL = [(390, 844), (768, 1024), (844, 390), (640, 400)]
"""A phone held both ways, a tablet, and 1280 x 800 at 200 %."""


def violations(page: Page) -> dict[str, list[str]]:
    """What axe-core finds on the page as it is now, by theme."""
    page.evaluate(AXE.read_text("utf-8") + "; undefined")
    found = {"light": page.evaluate(ASK)}
    page.evaluate(DIM, True)
    found["dim"] = page.evaluate(ASK, OF_COLOUR)
    page.evaluate(DIM, False)
    return found


@pytest.fixture(scope="session")
def library(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[str, PlaceVisit]]:
    """A served library with a visit of three frames; nothing here changes it."""
    folder = tmp_path_factory.mktemp("access")
    with serving(folder / "data", share=True, share_on="127.0.0.2", share_port=0) as url:
        seen = PlaceVisit(url, folder, self_clean=False, no_guarantee=True)
        for place in (1, 2):
            seen.shoot(Stand(place, marks_mm=0.9 * (place - 1)))
        seen.log("air")
        seen.shoot(Stand(3, marks_mm=1.8))
        seen.look_through(folder / "pictures")
        yield url, seen


class Looked:
    """The library, seen from one tab."""

    def __init__(self, tab: Page, library: tuple[str, PlaceVisit]) -> None:
        self.tab = tab
        self.url, seen = library
        self.visit, self.body = seen.visit, seen.body
        self.pictures, self.arrivals = seen.sets

    def go(self, path: str, wanted: str) -> None:
        self.tab.goto(f"{self.url}{path}")
        expect(self.tab.locator(wanted).first).to_be_visible()

    def button(self, name: str) -> None:
        self.tab.get_by_role("button", name=name, exact=True).first.click()

    def text(self, words: str) -> None:
        self.tab.get_by_text(words).first.click()

    def screens(self) -> dict[str, Callable[[], None]]:
        """Every screen by its name, and how one comes there."""
        visit = f"/visits/{self.visit}"
        return {
            "bench": lambda: self.go("/", ".card"),
            "cameras": lambda: self.go("/bodies", ".list"),
            "camera": lambda: self.go(f"/bodies/{self.body}", ".verdict"),
            "jobs": lambda: self.go("/jobs", ".empty"),
            "kit": lambda: self.go("/kit", "table"),
            "pictures": lambda: self.go("/pictures", "form"),
            "pictures of one": lambda: self.go(f"/pictures/{self.pictures}", ".sheet img"),
            "arrivals": lambda: self.go(f"/pictures/{self.arrivals}", ".marks, h2"),
            "costs": lambda: self.go("/costs", "h1"),
            "odds": lambda: self.go("/odds", ".said li, .page > p.soft"),
            "calendar": lambda: self.go("/calendar", ".month"),
            "methods": lambda: self.go("/schools", ".points"),
            "you": lambda: self.go("/schools?section=you", ".plain"),
            "service": lambda: self.go("/schools?section=service", ".plain"),
            "reports": lambda: self.go("/schools?section=reports", ".form"),
            "report": lambda: self.go(f"/api/visits/{self.visit}/report.html", "main svg"),
            "folders": lambda: self.go("/schools?section=folders", "form"),
            "backup": lambda: self.go("/schools?section=backup", "form"),
            "share": lambda: self.go(f"/share?visit={self.visit}", ".panel"),
            "practice": lambda: self.go("/practice", "article"),
            "practice moves": lambda: self.go("/practice/moves?seed=7", ".choices"),
            "practice places": lambda: self.go("/practice/places?seed=7&level=2", ".sensor"),
            "practice frames": lambda: self.go(
                "/practice/frames?seed=4&topic=tell the marks", "svg[role=application]"
            ),
            "practice fit": lambda: self.go("/practice/frames?seed=4&topic=fit or not", "image"),
            "practice hand": lambda: self.go("/practice/hand?seed=3&topic=lanes", ".glass"),
            "practice clean": lambda: self.go("/practice/clean?seed=4", ".tools button"),
            "tray": lambda: self.go(f"{visit}/tray", ".panel"),
            "light page": lambda: self.go("/light", ".light"),
            "nowhere": lambda: self.go("/nowhere", "h1"),
            "frame": lambda: self.go("/frames/1", ".mark"),
            "visit": lambda: self.go(visit, ".mark"),
            "hands": lambda: self.go(f"{visit}/hands/air", "p.now"),
            "compare": lambda: self.go("/compare/1/3", "aside h1"),
        }

    def dialogs(self) -> dict[str, Callable[[], None]]:
        """Every dialog and panel, opened."""
        screens = self.screens()
        visit, kit, camera = screens["visit"], screens["kit"], screens["camera"]

        def after(screen: Callable[[], None], *steps: Callable[[], Any]) -> Callable[[], None]:
            def run() -> None:
                screen()
                for step in steps:
                    step()

            return run

        return {
            "conditions": after(visit, lambda: self.button("Conditions")),
            "methods of a visit": after(visit, lambda: self.button("Methods")),
            "report menu": after(visit, lambda: self.button("Report")),
            "closing": after(visit, lambda: self.button("Close")),
            "another step": after(
                visit,
                lambda: self.text("Other options"),
                lambda: self.button("Something else"),
            ),
            "what a step used": after(visit, lambda: self.button("Edit what Air used")),
            "spots": after(visit, lambda: self.button("List"), lambda: self.button("Legend")),
            "a spot": after(visit, lambda: self.tab.locator(".mark").first.press("Enter")),
            "display": after(visit, lambda: self.button("Display")),
            "mount view": after(visit, lambda: self.button("Facing the mount")),
            "new thing": after(kit, lambda: self.button("Add an item")),
            "thing": after(kit, lambda: self.button("Edit Rubber bulb blower")),
            "before and after": after(
                screens["pictures of one"],
                lambda: self.tab.locator(".picture").first.click(),
                lambda: expect(self.tab.get_by_text("Mask as PNG")).to_be_visible(),
            ),
            "calendar as a list": after(
                screens["calendar"], lambda: self.tab.get_by_text("List", exact=True).click()
            ),
            "new job": after(screens["jobs"], lambda: self.button("Book a job")),
            "new camera": after(screens["cameras"], lambda: self.button("Add a camera")),
            "camera edited": after(camera, lambda: self.button("Edit")),
            "life of a spot": after(
                camera, lambda: self.tab.locator(".frames g[role=button]").first.click()
            ),
            "a code to pair by": after(screens["share"], lambda: self.button("Show the code")),
            "a move judged": after(
                screens["practice moves"],
                lambda: self.tab.locator(".choices button").first.click(),
                lambda: expect(self.tab.locator(".told")).to_be_visible(),
            ),
            "a place judged": after(
                screens["practice places"],
                lambda: self.tab.locator(".sensor").press("Enter"),
                lambda: expect(self.tab.locator(".told")).to_be_visible(),
            ),
            "marks judged": after(
                screens["practice frames"],
                lambda: self.tab.locator("svg[role=application]").press("Enter"),
                lambda: self.tab.get_by_role("button", name="Done").click(),
                lambda: expect(self.tab.locator(".told[role=status]")).to_be_visible(),
            ),
            "a hand judged": after(
                screens["practice hand"],
                lambda: self.tab.locator("svg[role=application]").press("Space"),
                lambda: self.tab.get_by_role("button", name="Done").click(),
                lambda: expect(self.tab.locator(".told[role=status]")).to_be_visible(),
            ),
            "camera deleted": after(camera, lambda: self.button("Delete")),
            "frame menu": after(screens["frame"], lambda: self.button("More")),
            "figures": after(
                screens["frame"], lambda: self.tab.get_by_role("button", name="Figures").click()
            ),
            "checks": after(
                screens["frame"],
                lambda: self.tab.get_by_role("button", name="Figures").click(),
                lambda: self.text("Frame and checks"),
            ),
            "recipe": after(screens["bench"], lambda: self.text("How to shoot it")),
            "reasons": after(screens["methods"], lambda: self.text("Why")),
        }


@pytest.fixture
def looked(tab: Page, library: tuple[str, PlaceVisit]) -> Looked:
    return Looked(tab, library)


def test_no_screen_or_dialog_breaks_a_rule_light_or_dim(looked: Looked) -> None:
    found: dict[str, list[str]] = {}
    for name, show in {**looked.screens(), **looked.dialogs()}.items():
        show()
        for theme, broken in violations(looked.tab).items():
            found[f"{theme} {name}"] = broken
    assert {name: broken for name, broken in found.items() if broken} == {}


def test_the_dim_theme_is_chosen_by_a_button_and_kept(looked: Looked) -> None:
    looked.go("/", ".card")
    looked.button("Dim")
    expect(looked.tab.locator("html.dim")).to_be_attached()
    looked.go("/kit", "table")
    expect(looked.tab.locator("html.dim")).to_be_attached()
    looked.button("Light")
    expect(looked.tab.locator("html:not(.dim)")).to_be_attached()


LEADS = [
    ("/", ".card", "Choose a frame"),
    ("/bodies", ".list", "Add a camera"),
    ("/kit", "table", "Add an item"),
    ("/jobs", ".empty", "Book a job"),
    ("/visits/1", ".move h1", "Edit the camera|Start|I have one|Save"),
]


def test_what_leads_is_within_five_tabs_of_the_skip_link(looked: Looked) -> None:
    tab = looked.tab
    for path, wanted, action in LEADS:
        looked.go(path, wanted)
        tab.keyboard.press("Tab")
        expect(tab.get_by_text("Skip to the content")).to_be_focused()
        tab.keyboard.press("Enter")
        names = []
        for _ in range(4):
            tab.keyboard.press("Tab")
            names.append(
                tab.evaluate(
                    "() => { const e = document.activeElement;"
                    "return (e.getAttribute('aria-label') || e.innerText || e.name || '').trim() }"
                )
            )
        assert any(part in name for name in names for part in action.split("|")), (path, names)


def test_nothing_moves_for_who_wants_no_motion(looked: Looked) -> None:
    looked.go("/compare/1/3", "aside h1")
    looked.tab.keyboard.press("b")
    expect(looked.tab.get_by_text("Space switches")).to_be_visible()


OVERFLOW = """async () => {
    for (let n = 0; n < 2; n++) await new Promise(requestAnimationFrame)
    return document.documentElement.scrollWidth - innerWidth
}"""
"""By how many pixels the page is wider than the screen, once it is laid out."""


@pytest.fixture
def small(looked: Looked, browser: Browser) -> Iterator[Page]:
    """What was looked at, on a small screen with touch."""
    context = browser.new_context(has_touch=True, reduced_motion="reduce")
    looked.tab = context.new_page()
    resized(looked.tab, SMALL[0])
    yield looked.tab
    context.close()


def resized(page: Page, size: tuple[int, int]) -> None:
    page.set_viewport_size({"width": size[0], "height": size[1]})


def test_every_screen_fits_small_screens_and_turns_with_them(looked: Looked, small: Page) -> None:
    wide = {}
    for name, show in looked.screens().items():
        resized(small, SMALL[0])
        show()
        for size in SMALL:
            resized(small, size)
            wide[name, size] = small.evaluate(OVERFLOW)
    assert {what: by for what, by in wide.items() if by > 0} == {}


@pytest.mark.parametrize("size", SMALL)
def test_next_stands_below_what_is_said_on_small_screens(
    looked: Looked, small: Page, size: tuple[int, int]
) -> None:
    resized(small, size)
    with httpx.Client(base_url=looked.url, headers={"origin": looked.url}) as client:
        client.delete(f"/api/visits/{looked.visit}/hands").raise_for_status()
    looked.go(f"/visits/{looked.visit}/hands/air", "p.now")
    following = small.get_by_role("button", name="Next", exact=False)
    for _ in range(3):
        box, body = following.bounding_box(), small.locator(".body").bounding_box()
        assert box is not None
        assert body is not None
        assert box["y"] >= body["y"] + body["height"] - 1, "Next covers what is said"
        assert box["y"] + box["height"] <= size[1] + 1
        assert box["height"] >= 44
        following.tap()
