"""The made-up archive is lived through, not written down."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import pytest

from neatpatch.core.common.decisions import OPENS
from neatpatch.core.common.facts import KitItem
from neatpatch.core.visit.trail import usual_use
from neatpatch.demo import visits
from neatpatch.demo.archive import DemoFrame
from neatpatch.demo.drawer import WRITTEN_ON, demo_jobs, demo_kit, shifted
from neatpatch.demo.visits import CALENDAR, DemoStep, run_visits


def test_four_bodies_one_mirror_one_stabilised_one_back() -> None:
    bodies = [demo_body.body for demo_body, _ in CALENDAR]
    assert len(bodies) == 4
    assert {b.access for b in bodies} == {"mirror", "mirrorless", "digital_back"}
    assert sum(b.stabilised is True for b in bodies) == 1
    assert sum(o.left_open for _, occasions in CALENDAR for o in occasions) == 1
    assert len({b.name for b in bodies}) == 4


def test_a_year_is_covered_and_the_kit_holds_something_barred() -> None:
    days = sorted(o.day for _, occasions in CALENDAR for o in occasions)
    assert days[0] < "2026-02-01"
    assert days[-1] > "2026-11-01"
    assert KitItem(item="carbon_pen") in [owned.item for owned in demo_kit(WRITTEN_ON)]


def test_a_visit_is_followed_step_by_step(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    halden = CALENDAR[-1]
    monkeypatch.setattr(visits, "CALENDAR", (halden,))
    ((share, visit),) = list(run_visits(tmp_path, WRITTEN_ON))
    assert share == 1
    assert visit is not None
    frames = [e for e in visit.entries if isinstance(e, DemoFrame)]
    steps = [e for e in visit.entries if isinstance(e, DemoStep)]
    assert len(frames) == len(steps) + 1
    assert all(f.path.is_file() for f in frames)
    assert steps[0].step == "air"
    assert visit.verdict in ("finished", "given_up")
    assert visit.closed_at is not None
    assert len(visit.dust_left) < sum(halden[1][0].counts.values())


@pytest.mark.parametrize("step", ["auto_clean", *OPENS])
def test_every_step_has_a_usual_use(step: str) -> None:
    assert usual_use(step).model_dump() is not None  # type: ignore[arg-type]


def test_the_year_ends_on_the_day_the_demo_is_made() -> None:
    later = date(2031, 3, 4)
    assert shifted("2026-11-25", later) == "2031-03-04"
    assert shifted("2026-11-20", later) == "2031-02-27"
    jobs = demo_jobs(later)
    assert all(j.starts_on > later for j in jobs)
    assert any(o.best_before and o.best_before < later for o in demo_kit(later))
    places = set(range(1, len(CALENDAR) + 1))
    assert all(set(j.body_ids) <= places for j in jobs)
    assert all(set(o.suits or ()) <= places for o in demo_kit(later))
