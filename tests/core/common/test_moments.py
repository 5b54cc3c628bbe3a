"""Moments and days, in several places of the world."""

from __future__ import annotations

from datetime import UTC, date, timedelta, timezone
from zoneinfo import ZoneInfo

import pytest

from neatpatch.core.common.moments import day_of, local_time, year_begins

AUCKLAND, HONOLULU = ZoneInfo("Pacific/Auckland"), ZoneInfo("Pacific/Honolulu")


@pytest.mark.parametrize(
    ("moment", "zone", "day"),
    [
        ("2026-03-04T19:30:00.000+00:00", AUCKLAND, date(2026, 3, 5)),
        ("2026-03-04T19:30:00.000+00:00", UTC, date(2026, 3, 4)),
        ("2026-03-05T08:30:00+00:00", HONOLULU, date(2026, 3, 4)),
        ("2026-03-04T23:30:00", AUCKLAND, date(2026, 3, 4)),
        ("2026-03-04", HONOLULU, date(2026, 3, 4)),
    ],
)
def test_a_moment_falls_on_the_day_of_the_place(moment: str, zone: ZoneInfo, day: date) -> None:
    assert day_of(moment, zone) == day


def test_the_clock_on_the_wall_is_shown() -> None:
    there = timezone(timedelta(hours=13))
    assert f"{local_time('2026-03-04T19:30:00+00:00', there):%H:%M}" == "08:30"


def test_what_is_no_moment_is_refused() -> None:
    with pytest.raises(ValueError, match="Invalid isoformat"):
        day_of("yesterday")


def test_a_year_begins_at_its_first_local_moment() -> None:
    assert day_of(year_begins(2026)) == date(2026, 1, 1)
