"""How fast dust arrives on a camera, and when the next look is due.

Spots that come are Poisson counts: a part for every day and a part for every lens change, dusty
days counting for several (`core.history.places`). Before anything was counted every order of
magnitude of a rate is as likely (a Gamma prior of shape 0 within the grid); a camera with few
intervals borrows from the others. Gamma-Poisson model, A. Gelman et al., Bayesian Data Analysis,
3rd ed., section 2.6, https://doi.org/10.1201/b16018; two rates at once on a grid.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.records import Record

LEVEL = 0.9
"""Of intervals of a forecast."""
_DAYS = np.geomspace(1e-4, 5.0, 140)
_CHANGES = np.concatenate([[0.0], np.geomspace(1e-3, 10.0, 40)])
"""Grids of spots a day and a lens change: from one in 30 years to more than anyone would bear."""
DUSTY_DAYS = 5.0
"""A dusty day is taken for so many ordinary ones before its place is known."""
_BORROWED_DAYS = 60.0
"""What all cameras say is worth at most so many days of one's own."""
_RATIOS = 24
"""Lens changes a day, of other cameras' intervals, told apart in so many steps."""
_NO_WEIGHT = 1e-7
_FAR_DAYS = 730
SURE_ENOUGH = 0.2
"""A look is due before the chance of too many spots passes one in five."""


@dataclass(frozen=True, kw_only=True)
class Interval:
    """The days between two visits of a camera and how many visible spots came in them.

    ``changes``: lens changes logged in it, ``dusty``: the place of each dusty day, empty where it
    was not named. ``extra_days``: what these count for beyond one each, where that is known.
    """

    body_id: int
    since: date
    until: date
    came: int
    changes: int = 0
    dusty: tuple[str, ...] = ()
    extra_days: float | None = None

    @property
    def calendar_days(self) -> float:
        """Its length; at least half a day."""
        return max(0.5, float((self.until - self.since).days))

    @cached_property
    def days(self) -> float:
        """Its length, dusty days counted for what they are taken for."""
        extra = self.extra_days
        return self.calendar_days + ((DUSTY_DAYS - 1) * len(self.dusty) if extra is None else extra)


class Rate(Record):
    """A rate with the interval that holds it at `LEVEL`."""

    mean: float
    low: float
    high: float


class ArrivalRates(Record):
    """How dust comes to a camera: visible spots a day, and a lens change where any was logged.

    ``came`` and ``days``: what was counted on it, in how many days.
    """

    a_day: Rate
    a_change: Rate | None
    came: int
    days: float
    intervals: int


class Forecast(Record):
    """When the visible count passes the owner's limit: an early, a middle and a late day, None
    beyond two years; and the day of the next look. ``over``: it is passed already.
    """

    limit: int
    visible: int
    early: date | None
    middle: date | None
    late: date | None
    look_on: date | None
    over: bool


@dataclass(frozen=True)
class Belief:
    """What is believed of both rates: weights on their grid."""

    weights: NDArray[np.float64]
    a_day: NDArray[np.float64] = field(default_factory=lambda: _DAYS)
    a_change: NDArray[np.float64] = field(default_factory=lambda: _CHANGES)

    @cached_property
    def likely(self) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Cells of the grid that carry weight."""
        days, changes = np.nonzero(self.weights > _NO_WEIGHT * self.weights.max())
        return days, changes


def believe(intervals: Sequence[Interval], body_id: int) -> Belief:
    """Both rates of a camera, from its own intervals and, at less weight, all the others'."""
    own = [i for i in intervals if i.body_id == body_id]
    others = [i for i in intervals if i.body_id != body_id]
    total = sum(i.days for i in others)
    worth = min(1.0, _BORROWED_DAYS / total) if total else 0.0
    logs = _log_likelihood([(i.came, i.days, i.changes) for i in own])
    logs += worth * _log_likelihood(_summed(others))
    return _belief(logs, changes=any(i.changes for i in intervals))


def believe_all(intervals: Sequence[Interval]) -> Belief:
    """Both rates of all cameras as if they were one."""
    return _belief(_log_likelihood(_summed(intervals)), changes=any(i.changes for i in intervals))


def _belief(logs: NDArray[np.float64], *, changes: bool) -> Belief:
    if not changes:
        logs[:, 1:] = -np.inf
    weights = np.exp(logs - logs.max())
    return Belief(np.asarray(weights / weights.sum()))


_Term = tuple[float, float, float]
"""What came, in how many days, with how many lens changes."""


def _summed(intervals: Sequence[Interval]) -> list[_Term]:
    """Intervals with the same number of lens changes a day say as much as their sum: nearly equal
    ones are summed, so that a thousand of them take no longer than a few.
    """
    sums: dict[int, _Term] = {}
    for i in intervals:
        ratio = i.changes / i.days
        key = round(_RATIOS / 4 * np.log10(ratio)) if ratio else -10_000
        came, days, changes = sums.get(key, (0.0, 0.0, 0.0))
        sums[key] = came + i.came, days + i.days, changes + i.changes
    return list(sums.values())


def _log_likelihood(terms: Sequence[_Term]) -> NDArray[np.float64]:
    """Up to a constant. Terms without a lens change count as one: their sum says as much."""
    logs = np.zeros((len(_DAYS), len(_CHANGES)))
    plain = [t for t in terms if not t[2]]
    together = (sum(t[0] for t in plain), sum(t[1] for t in plain), 0.0)
    for came, days, changes in [together, *(t for t in terms if t[2])]:
        expected = _DAYS[:, None] * days + _CHANGES[None, :] * changes
        if days:
            logs += came * np.log(expected) - expected
    return logs


def arrivals_of(belief: Belief, intervals: Sequence[Interval], body_id: int) -> ArrivalRates | None:
    """How dust comes to a camera; None where nothing was ever counted, on it or on others.

    ``belief``: what the same intervals make one believe of it.
    """
    if not intervals:
        return None
    own = [i for i in intervals if i.body_id == body_id]
    changes = any(i.changes for i in intervals)
    return ArrivalRates(
        a_day=grid_interval(belief.a_day, belief.weights.sum(axis=1)),
        a_change=grid_interval(belief.a_change, belief.weights.sum(axis=0)) if changes else None,
        came=sum(i.came for i in own),
        days=sum(i.days for i in own),
        intervals=len(own),
    )


def grid_interval(values: NDArray[np.float64], weights: NDArray[np.float64]) -> Rate:
    """A mean and an interval; each value of the grid stands for as much on either side of it."""
    below = np.cumsum(weights) - weights / 2
    low, high = (float(np.interp(q, below, values)) for q in ((1 - LEVEL) / 2, (1 + LEVEL) / 2))
    return Rate(mean=float((values * weights).sum()), low=low, high=high)


def chance_over(belief: Belief, visible: int, limit: int, days: float, changes: float) -> float:
    """The chance that more than ``limit`` spots are visible after so many days."""
    room = limit - visible
    if room < 0:
        return 1.0
    from scipy.special import pdtr  # slow to load, and a server starts often

    at_day, at_change = belief.likely
    expected = belief.a_day[at_day] * days + belief.a_change[at_change] * changes
    return float((belief.weights[at_day, at_change] * (1 - pdtr(room, expected))).sum())


def forecast_of(
    belief: Belief,
    *,
    visible: int,
    limit: int,
    looked_on: date,
    changes_a_day: float = 0.0,
    dust_a_day: float = 1.0,
) -> Forecast:
    """When a camera's visible count passes a limit, from how many it showed when looked at.

    ``dust_a_day``: ordinary days' worth of dust in a day of its calendar; more with dusty days.
    """

    def chance(days: int) -> float:
        return chance_over(belief, visible, limit, days * dust_a_day, days * changes_a_day)

    def first(wanted: float) -> date | None:
        """The first day on which the chance is reached, by halving: it only grows."""
        low, high = 0, _FAR_DAYS
        if chance(high) < wanted:
            return None
        while low < high:
            middle = (low + high) // 2
            low, high = (low, middle) if chance(middle) >= wanted else (middle + 1, high)
        return looked_on + timedelta(days=low)

    due = first(SURE_ENOUGH)
    return Forecast(
        limit=limit,
        visible=visible,
        early=first((1 - LEVEL) / 2),
        middle=first(0.5),
        late=first((1 + LEVEL) / 2),
        look_on=max(looked_on, due - timedelta(days=1)) if due else None,
        over=visible > limit,
    )
