"""The made-up archive is lived through, not written down."""

from __future__ import annotations

import time
from collections.abc import Iterator
from datetime import date, timedelta
from pathlib import Path

import pytest

from neatpatch.core.common.decisions import OPENS
from neatpatch.core.common.facts import KitItem
from neatpatch.core.common.words import day_words
from neatpatch.core.reports.visit_report import Report
from neatpatch.core.visit.trail import usual_use
from neatpatch.demo import visits
from neatpatch.demo.drawer import WRITTEN_ON, days_later, demo_jobs, demo_kit
from neatpatch.demo.intake import take_in_demo_visit
from neatpatch.demo.visits import CALENDAR, DemoStep, DemoVisit, run_visits
from neatpatch.services.reports.visit_report import visit_sheet
from neatpatch.services.stats.calendar import calendar_entries
from neatpatch.simulation.frames import ShotFrame
from neatpatch.store.datafolder import Library


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


@pytest.fixture(scope="module")
def lived_through(tmp_path_factory: pytest.TempPathFactory) -> DemoVisit:
    """The visit of the last body, with its frames."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(visits, "CALENDAR", (CALENDAR[-1],))
        ((share, visit),) = list(run_visits(tmp_path_factory.mktemp("demo"), WRITTEN_ON))
    assert share == 1
    assert visit is not None
    return visit


def test_a_visit_is_followed_step_by_step(lived_through: DemoVisit) -> None:
    halden, visit = CALENDAR[-1], lived_through
    frames = [e for e in visit.entries if isinstance(e, ShotFrame)]
    steps = [e for e in visit.entries if isinstance(e, DemoStep)]
    assert len(frames) == len(steps) + 1
    assert all(f.path.is_file() for f in frames)
    assert steps[0].step == "air"
    assert visit.verdict in ("finished", "given_up")
    assert visit.closed_at is not None
    assert len(visit.dust_left) < sum(halden[1][0].counts.values())


@pytest.fixture(params=["Pacific/Kiritimati", "Pacific/Pago_Pago"])
def far_zone(request: pytest.FixtureRequest) -> Iterator[None]:
    """Fourteen hours before Greenwich and eleven behind."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("TZ", request.param)
        time.tzset()
        yield
    time.tzset()


@pytest.mark.usefixtures("far_zone")
def test_the_archive_keeps_its_days_wherever_it_is_made(
    tmp_path: Path, lived_through: DemoVisit
) -> None:
    library = Library(tmp_path / "data")
    take_in_demo_visit(library, lived_through, WRITTEN_ON)
    wanted = date.fromisoformat(CALENDAR[-1][1][0].day)
    sheet = visit_sheet(library, 1)
    with library.database.read() as connection:
        looks = calendar_entries(connection, wanted, wanted + timedelta(days=90))
    assert [e.on for e in looks if e.kind == "look"] == [wanted + timedelta(days=60)]
    assert isinstance(sheet.record, Report)
    assert dict(sheet.record.facts)["Visit"].startswith(day_words(wanted))


@pytest.mark.parametrize("step", ["auto_clean", *OPENS])
def test_every_step_has_a_usual_use(step: str) -> None:
    assert usual_use(step).model_dump() is not None  # type: ignore[arg-type]


def test_the_year_ends_on_the_day_the_demo_is_made() -> None:
    later = date(2031, 3, 4)
    assert days_later("2026-11-25", later) == "2031-03-04"
    assert days_later("2026-11-20", later) == "2031-02-27"
    jobs = demo_jobs(later)
    assert all(j.starts_on > later for j in jobs)
    assert any(o.best_before and o.best_before < later for o in demo_kit(later))
    places = set(range(1, len(CALENDAR) + 1))
    assert all(set(j.body_ids) <= places for j in jobs)
    assert all(set(o.suits or ()) <= places for o in demo_kit(later))
