"""Arrival rates and forecasts against simulated years."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

import numpy as np
import pytest
from scipy.stats import binom

from neatpatch.core.stats.rates import (
    LEVEL,
    SURE_ENOUGH,
    ArrivalRates,
    Interval,
    arrivals_of,
    believe,
    chance_over,
    forecast_of,
)

START = date(2026, 1, 1)


def told(rows: list[Interval], body: int) -> ArrivalRates | None:
    return arrivals_of(believe(rows, body), rows, body)


def interval(came: int, days: int = 30, body: int = 1, **more: Any) -> Interval:
    return Interval(
        body_id=body, since=START, until=START + timedelta(days=days), came=came, **more
    )


def test_nothing_counted_tells_nothing() -> None:
    assert told([], 1) is None


def test_a_rate_is_what_came_over_the_days() -> None:
    found = told([interval(6), interval(4)], 1)
    assert found is not None
    assert (found.came, found.days, found.intervals) == (10, 60.0, 2)
    assert found.a_day.low < 10 / 60 < found.a_day.high
    assert found.a_change is None


def test_a_dusty_day_counts_for_several() -> None:
    assert interval(1, days=10, dusty=("Quay", "")).days == 18.0
    assert interval(1, days=0).days == 0.5


def test_a_new_camera_borrows_and_an_old_one_does_not() -> None:
    others = [interval(60, days=300, body=b) for b in (2, 3)]
    new = told([*others, interval(0, 5)], 1)
    old = told([*others, interval(4, 400)], 1)
    assert new is not None
    assert old is not None
    assert new.a_day.mean > 0.1
    assert old.a_day.mean < 0.05


def test_lens_changes_are_told_from_days() -> None:
    rng = np.random.default_rng(4)
    rows = []
    for _ in range(60):
        days, changes = int(rng.integers(5, 60)), int(rng.integers(0, 12))
        rows.append(interval(int(rng.poisson(0.02 * days + 0.5 * changes)), days, changes=changes))
    found = told(rows, 1)
    assert found is not None
    assert found.a_change is not None
    assert found.a_change.low < 0.5 < found.a_change.high
    assert found.a_day.low < 0.02 < found.a_day.high + 0.005


def test_the_interval_of_a_rate_holds_the_truth_as_often_as_it_says() -> None:
    rng = np.random.default_rng(8)
    held, tries = 0, 250
    for _ in range(tries):
        truth = float(np.exp(rng.uniform(np.log(0.02), np.log(1.0))))
        days = int(rng.integers(100, 400))
        found = told([interval(int(rng.poisson(truth * days)), days)], 1)
        assert found is not None
        held += found.a_day.low <= truth <= found.a_day.high
    # Of so many tries chance leaves this range once in a thousand; the grid's steps cost a little.
    assert held >= binom.ppf(0.0005, tries, LEVEL - 0.02)


def test_by_the_next_look_the_limit_is_passed_no_more_often_than_it_says() -> None:
    rng = np.random.default_rng(5)
    over, tries = 0, 300
    for _ in range(tries):
        truth = float(np.exp(rng.uniform(np.log(0.05), np.log(0.5))))
        belief = believe([interval(int(rng.poisson(truth * 200)), 200)], 1)
        found = forecast_of(belief, visible=2, limit=8, looked_on=START)
        assert found.look_on is not None
        days = (found.look_on - START).days
        over += 2 + rng.poisson(truth * days) > 8
    # It is the day before that chance is reached: a little less often, but not for nothing.
    assert binom.ppf(0.0005, tries, SURE_ENOUGH - 0.06) <= over
    assert over <= binom.ppf(0.9995, tries, SURE_ENOUGH)


def test_a_forecast_goes_from_early_to_late_and_says_when_it_is_passed() -> None:
    belief = believe([interval(20, 100)], 1)
    found = forecast_of(belief, visible=1, limit=6, looked_on=START)
    days = [found.early, found.look_on, found.middle, found.late]
    assert days == sorted({d for d in days if d is not None})
    assert not found.over
    passed = forecast_of(belief, visible=7, limit=6, looked_on=START)
    assert passed.over
    assert passed.middle == START
    assert chance_over(belief, 7, 6, 0, 0) == 1.0


def test_hardly_any_dust_means_no_day_at_all() -> None:
    belief = believe([interval(0, 3000)], 1)
    found = forecast_of(belief, visible=0, limit=5, looked_on=START)
    assert (found.middle, found.late) == (None, None)


def test_lens_changes_bring_the_day_nearer() -> None:
    rows = [interval(2, 30), interval(12, 30, changes=10), interval(9, 30, changes=8)]
    belief = believe(rows, 1)
    few = forecast_of(belief, visible=0, limit=5, looked_on=START)
    many = forecast_of(belief, visible=0, limit=5, looked_on=START, changes_a_day=0.5)
    assert few.middle is not None
    assert many.middle is not None
    assert many.middle < few.middle


def test_worth_of_the_others_is_bounded() -> None:
    found = told([*(interval(300, 300, body=b) for b in range(2, 40)), interval(2, 365)], 1)
    assert found is not None
    assert found.a_day.mean == pytest.approx(62 / 425, rel=0.1)
