"""What a dusty day is worth at each place, in ordinary days.

What comes in an interval is a Poisson count whose rate is the camera's own, known from its
intervals without a dusty day as a Gamma distribution: summed out, the counts of a camera are
negative multinomial (A. Gelman et al., Bayesian Data Analysis, 3rd ed., section 2.6, https://doi.org/10.1201/b16018).
The worth of a place is a factor on a grid, before any count most likely about `DUSTY_DAYS`, within
a factor of three either way. All cameras together tell of a place. A lens change is counted as the
days that bring as much.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.records import Record
from neatpatch.core.stats.rates import (
    DUSTY_DAYS,
    Interval,
    Rate,
    believe_all,
    grid_interval,
)

_WORTHS = np.geomspace(0.5, 150.0, 120)
_PRIOR_SPREAD = np.log(3.0)
_PRIOR_SHAPE = 0.5
"""Spots that a camera's rate is worth before its own are counted."""
_NOBODY = 0


class PlaceDust(Record):
    """A day at a place in ordinary days, with its interval; ``place`` is empty for unnamed ones.

    ``days``: dusty days there, ``intervals``: times between visits that hold one.
    """

    place: str
    worth: Rate
    days: int
    intervals: int


def place_dust(intervals: Sequence[Interval]) -> list[PlaceDust]:
    """The worth of every place with a dusty day in an interval, the dustiest first; none gives
    none.
    """
    dusty = [i for i in intervals if i.dusty]
    if not dusty:
        return []
    plain = [i for i in intervals if not i.dusty]
    change_days = _days_a_change(plain)
    rates = _rates(plain, change_days)
    found = []
    for place in sorted({place for i in dusty for place in i.dusty}):
        there = [i for i in dusty if place in i.dusty]
        logs = -0.5 * (np.log(_WORTHS / DUSTY_DAYS) / _PRIOR_SPREAD) ** 2
        for body_id in {i.body_id for i in there}:
            own = [i for i in there if i.body_id == body_id]
            logs = logs + _log_chance(own, place, change_days, rates.get(body_id, rates[_NOBODY]))
        weights = np.exp(logs - logs.max())
        found.append(
            PlaceDust(
                place=place,
                worth=grid_interval(_WORTHS, weights / weights.sum()),
                days=sum(i.dusty.count(place) for i in there),
                intervals=len(there),
            )
        )
    return sorted(found, key=lambda p: -p.worth.mean)


def weighted_intervals(
    intervals: Sequence[Interval], places: Sequence[PlaceDust]
) -> list[Interval]:
    """The same intervals, their dusty days counted for what they are worth at their places."""
    worth = {p.place: p.worth.mean for p in places}
    return [
        replace(i, extra_days=sum(worth.get(p, DUSTY_DAYS) - 1 for p in i.dusty)) if i.dusty else i
        for i in intervals
    ]


def _days_a_change(plain: Sequence[Interval]) -> float:
    """Ordinary days that bring as much dust as one lens change, by all cameras."""
    if not any(i.changes for i in plain):
        return 0.0
    belief = believe_all(plain)
    a_day = float((belief.a_day * belief.weights.sum(axis=1)).sum())
    return float((belief.a_change * belief.weights.sum(axis=0)).sum()) / a_day


def _rates(plain: Sequence[Interval], change_days: float) -> Mapping[int, tuple[float, float]]:
    """Shape and rate of each camera's Gamma distribution, and of one that was never counted."""
    came: Counter[int] = Counter()
    days: Counter[int] = Counter()
    for i in plain:
        came[i.body_id] += i.came
        days[i.body_id] += i.days + change_days * i.changes  # type: ignore[assignment]
    usual = (came.total() + _PRIOR_SHAPE) / (days.total() + 1.0)
    at_first = _PRIOR_SHAPE, _PRIOR_SHAPE / usual
    own = {b: (at_first[0] + came[b], at_first[1] + days[b]) for b in days}
    return {_NOBODY: at_first, **own}


def _log_chance(
    own: Sequence[Interval], place: str, change_days: float, rate: tuple[float, float]
) -> NDArray[np.float64]:
    """Of what came to one camera in its intervals, for each worth of a place; dusty days at others
    count as usual.
    """
    shape, per_day = rate
    logs, exposed, came = np.zeros_like(_WORTHS), np.zeros_like(_WORTHS), 0
    for i in own:
        there = i.dusty.count(place)
        elsewhere = len(i.dusty) - there
        days = i.calendar_days + change_days * i.changes + (DUSTY_DAYS - 1) * elsewhere
        exposure = days + (_WORTHS - 1) * there
        logs += i.came * np.log(exposure)
        exposed += exposure
        came += i.came
    return np.asarray(logs - (shape + came) * np.log(per_day + exposed))
