"""A body as its owner describes it: what may be true of a camera, and what follows from it."""

from __future__ import annotations

from datetime import date
from typing import Any

import pytest
from pydantic import ValidationError

from neatpatch.core.visit.body import Body, mismatches
from tests.core.made_maps import spot_map


def body(**facts: Any) -> Body:
    return Body(**{"name": "B", "sensor_mm": (36.0, 24.0), **facts})


@pytest.mark.parametrize(
    ("facts", "words"),
    [
        ({"sensor_mm": (2.9, 3)}, "3 to 120 mm"),
        ({"sensor_mm": (120.1, 24)}, "3 to 120 mm"),
        ({"chamber_mm": 23.9}, "narrower than the sensor's short side"),
        ({"works_at": ()}, "at least one working aperture"),
        ({"works_at": (0.6,)}, "between f/0.7 and f/64"),
        ({"works_at": (64.1,)}, "between f/0.7 and f/64"),
    ],
)
def test_what_no_camera_is_is_refused(facts: dict[str, Any], words: str) -> None:
    with pytest.raises(ValidationError, match=words):
        body(**facts)


@pytest.mark.parametrize(
    "facts",
    [
        {"sensor_mm": (3, 3)},
        {"sensor_mm": (120, 3)},
        {"chamber_mm": 24},
        {"works_at": (0.7, 64)},
    ],
)
def test_the_ends_of_every_range_are_in_it(facts: dict[str, Any]) -> None:
    body(**facts)


def test_the_warranty_runs_to_its_last_day_and_is_unknown_where_nobody_said() -> None:
    day = date(2026, 5, 31)
    assert body().under_guarantee(day) is None
    assert body(no_guarantee=True).under_guarantee(day) is False
    assert body(guarantee_until="2026-05-31").under_guarantee(day) is True
    assert body(guarantee_until="2026-05-30").under_guarantee(day) is False
    assert body(guarantee_until="2026-06-01", no_guarantee=True).under_guarantee(day) is True


@pytest.mark.parametrize(
    ("serviced", "months"),
    [
        ("2026-05-31", 0),
        ("2026-05-01", 0),
        ("2026-04-30", 1),
        ("2025-05-31", 12),
        ("2026-07-01", 0),
    ],
)
def test_whole_months_since_a_service(serviced: str, months: int) -> None:
    assert body(serviced_on=serviced).months_since_service(date(2026, 5, 31)) == months


def test_a_month_is_not_over_before_its_day() -> None:
    assert body(serviced_on="2026-04-20").months_since_service(date(2026, 5, 19)) == 0
    assert body(serviced_on="2026-04-20").months_since_service(date(2026, 5, 20)) == 1
    assert body().months_since_service(date(2026, 5, 20)) is None


def test_dust_matters_at_the_smallest_opening_worked_at() -> None:
    assert body(works_at=(2.8, 16, 8)).smallest_worked == 16


def test_another_name_in_the_file_speaks_against_a_frame_and_the_same_one_does_not() -> None:
    found = spot_map()
    named = found.frames[0].model_copy(update={"camera": "Fennick One"})
    of = found.model_copy(update={"frames": (named, *found.frames[1:])})
    [reason] = mismatches(body(camera_name="Tarn Two", sensor_mm=named.sensor_mm), of)
    assert "Fennick One" in reason
    assert mismatches(body(camera_name="Fennick One", sensor_mm=named.sensor_mm), of) == ()
