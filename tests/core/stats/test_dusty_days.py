"""What a dusty day is worth at its place, against simulated years."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np
import pytest
from scipy.stats import binom

from neatpatch.core.stats.dusty_days import place_dust, weighted_intervals
from neatpatch.core.stats.rates import DUSTY_DAYS, LEVEL, Interval

START = date(2026, 1, 1)


def interval(came: int, days: int, *dusty: str, body: int = 1, changes: int = 0) -> Interval:
    until = START + timedelta(days=days)
    return Interval(body_id=body, since=START, until=until, came=came, dusty=dusty, changes=changes)


def test_no_dusty_day_tells_of_no_place() -> None:
    rows = [interval(3, 30), interval(4, 30)]
    assert place_dust(rows) == []
    assert weighted_intervals(rows, []) == rows


def test_a_place_is_worth_what_came_after_it() -> None:
    plain = [interval(6, 60) for _ in range(10)]
    rows = [*plain, *(interval(26, 60, "Quay") for _ in range(4))]
    [quay] = place_dust(rows)
    # 26 came where 6 usually come: 20 more, at 0.1 a day 200 days in one. It is not believed yet.
    assert 100 < quay.worth.mean <= 150
    assert (quay.place, quay.days, quay.intervals) == ("Quay", 4, 4)
    studio = [*plain, *(interval(6, 60, *["Studio"] * 9) for _ in range(12))]
    [calm] = place_dust(studio)
    assert calm.worth.high < DUSTY_DAYS


def test_places_are_told_apart_and_the_dustiest_comes_first() -> None:
    plain = [interval(6, 60) for _ in range(10)]
    rows = [*plain, *[interval(7, 60, "Studio")] * 6, *[interval(14, 60, "Quay")] * 6]
    assert [p.place for p in place_dust(rows)] == ["Quay", "Studio"]


def test_all_cameras_tell_of_a_place() -> None:
    rows = [interval(30, 300, body=b) for b in range(1, 6)]
    rows += [interval(12, 60, "Quay", body=b) for b in range(1, 6)]
    [shared] = place_dust(rows)
    [alone] = place_dust([rows[0], rows[5]])
    assert shared.worth.high / shared.worth.low < alone.worth.high / alone.worth.low / 2


def test_lens_changes_are_not_taken_for_the_place() -> None:
    rows = [interval(6 + 8 * (n % 3), 60, changes=4 * (n % 3)) for n in range(12)]
    [quay] = place_dust([*rows, *(interval(14, 60, "Quay", changes=4) for _ in range(8))])
    assert quay.worth.low < 2.0


def test_intervals_are_weighed_by_place() -> None:
    rows = [interval(6, 60), *(interval(16, 60, "Quay") for _ in range(5))]
    places = place_dust(rows)
    plain, first, *_ = weighted_intervals(rows, places)
    assert plain.days == 60
    assert first.days == pytest.approx(60 + places[0].worth.mean - 1)
    assert rows[1].days == 60 + DUSTY_DAYS - 1


def test_the_interval_holds_the_truth_as_often_as_it_says() -> None:
    rng = np.random.default_rng(6)
    held, tries = 0, 200
    for _ in range(tries):
        worth = float(np.exp(rng.normal(np.log(DUSTY_DAYS), np.log(3))))
        rows = []
        for body in (1, 2):
            a_day = float(np.exp(rng.uniform(np.log(0.05), np.log(0.5))))
            for turn in range(6):
                days, dusty = int(rng.integers(20, 90)), int(rng.integers(1, 4)) * (turn % 2)
                came = int(rng.poisson(a_day * (days + (worth - 1) * dusty)))
                rows.append(interval(came, days, *["Quay"] * dusty, body=body))
        [found] = place_dust(rows)
        held += found.worth.low <= worth <= found.worth.high
    # Of so many tries chance leaves this range once in a thousand; the grid's steps cost a little.
    assert held >= binom.ppf(0.0005, tries, LEVEL - 0.02)
