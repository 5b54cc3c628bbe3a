"""How long the page of a frame keeps a browser from answering.

`python -m tests.browser.long_tasks`. No test: what it prints depends on the machine, and stands
in docs/benchmarks.md.
"""

from __future__ import annotations

import tempfile
from pathlib import Path

import httpx
from playwright.sync_api import Page, sync_playwright

from neatpatch.simulation.frames import Recipe, write_simulated
from tests.browser.conftest import CHROMIUM, QUIET, VIEWPORT, serving

WATCH = """window.tasks = []; new PerformanceObserver(list => list.getEntries().forEach(
    e => window.tasks.push(Math.round(e.duration)))).observe({type: 'longtask', buffered: true})"""
COUNT_FRAMES = """window.drawn = 0; window.since = performance.now();
(function next() { window.drawn++; requestAnimationFrame(next) })()"""
FRAMES_A_SECOND = "window.drawn / ((performance.now() - window.since) / 1000)"


def uploaded(url: str, path: Path) -> int:
    """A frame taken in and measured; gives its id."""
    accepted = httpx.post(
        f"{url}/api/frames", params={"name": path.name}, content=path.read_bytes(), timeout=60
    ).json()
    frame_id = int(accepted["frame"]["id"])
    while not httpx.get(f"{url}/api/frames/{frame_id}").json()["picture_ready"]:
        pass
    return frame_id


def told(tab: Page, what: str) -> None:
    """The longest task since the last time, and how many over 50 ms there were."""
    tab.wait_for_timeout(1500)
    tasks = tab.evaluate("window.tasks")
    print(f"{what:28} longest {max(tasks, default=0):4} ms, {len(tasks)} over 50 ms")
    tab.evaluate("window.tasks = []")


def walk(tab: Page, url: str, frame_id: int, count: int) -> None:
    tab.goto(f"{url}/frames/{frame_id}")
    tab.locator(".mark").nth(count - 1).wait_for(state="attached")
    told(tab, "open the frame")
    tab.get_by_role("button", name="Figures").click()
    tab.locator(".p-datatable-tbody tr").first.wait_for()
    told(tab, "show the figures")
    tab.locator(".mark").nth(count // 2).dispatch_event("click")
    told(tab, "choose a spot")
    tab.mouse.move(400, 400)
    tab.evaluate(COUNT_FRAMES)
    for turn in range(40):
        tab.mouse.wheel(0, -60 if turn < 20 else 60)
        tab.wait_for_timeout(30)
    rate = tab.evaluate(FRAMES_A_SECOND)
    told(tab, f"zoom by wheel, {rate:.0f} frames/s")


def main() -> None:
    with (
        tempfile.TemporaryDirectory(prefix="page-") as folder,
        serving(Path(folder) / "data") as url,
        sync_playwright() as p,
    ):
        browser = p.chromium.launch(executable_path=CHROMIUM, args=QUIET)
        for specks in (440, 1050):
            recipe = Recipe(seed=3, name=f"s{specks}", width_px=5000, counts={"speck": specks})
            path, _ = write_simulated(recipe, Path(folder))
            frame_id = uploaded(url, path)
            count = len(httpx.get(f"{url}/api/frames/{frame_id}").json()["map"]["spots"])
            print(f"\n{count} spots")
            tab = browser.new_page(viewport=VIEWPORT)  # type: ignore[arg-type]
            tab.add_init_script(WATCH)
            walk(tab, url, frame_id, count)
            tab.close()
        browser.close()


if __name__ == "__main__":
    main()
