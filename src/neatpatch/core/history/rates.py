"""How fast dust arrives on a camera, and when the next look is due.

Spots that come are Poisson counts: a part for every day and a part for every lens change, dusty
days counting for several. Before anything was counted every order of magnitude of a rate is as
likely (a Gamma prior of shape 0 within the grid); a camera with few intervals borrows from the
others. Gamma-Poisson model, A. Gelman et al., Bayesian Data Analysis, 3rd ed., section 2.6,
https://doi.org/10.1201/b16018; two rates at once on a grid.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta

import numpy as np
from numpy.typing import NDArray
from pydantic import Field
from scipy.special import pdtr

from neatpatch.core.common.records import Record

LEVEL = 0.9
"""Of intervals of a forecast."""
_DAYS = np.geomspace(1e-4, 5.0, 140)
_CHANGES = np.concatenate([[0.0], np.geomspace(1e-3, 10.0, 40)])
"""Grids of spots a day and a lens change: from one in 30 years to more than anyone would bear."""
_DUSTY_DAYS = 5.0
"""A dusty day is taken for so many ordinary ones."""
_BORROWED_DAYS = 60.0
"""What all cameras say is worth at most so many days of one's own."""
_FAR_DAYS = 730
SURE_ENOUGH = 0.2
"""A look is due before the chance of too many spots passes one in five."""


class Interval(Record):
    """The days between two visits of a camera and how many visible spots came in them.

    ``changes``: lens changes logged in it, ``dusty``: dusty days.
    """

    body_id: int
    since: date
    until: date
    came: int = Field(ge=0)
    changes: int = 0
    dusty: int = 0

    @property
    def days(self) -> float:
        """Its length, dusty days counted for what they are taken for; at least half a day."""
        return max(0.5, float((self.until - self.since).days)) + (_DUSTY_DAYS - 1) * self.dusty


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


def believe(intervals: Sequence[Interval], body_id: int) -> Belief:
    """Both rates of a camera, from its own intervals and, at less weight, all the others'."""
    logs = np.zeros((len(_DAYS), len(_CHANGES)))
    own = [i for i in intervals if i.body_id == body_id]
    others = [i for i in intervals if i.body_id != body_id]
    total = sum(i.days for i in others)
    worth = min(1.0, _BORROWED_DAYS / total) if total else 0.0
    for group, weight in ((own, 1.0), (others, worth)):
        logs += weight * _log_likelihood(group)
    if not any(i.changes for i in intervals):
        logs[:, 1:] = -np.inf
    weights = np.exp(logs - logs.max())
    return Belief(np.asarray(weights / weights.sum()))


def _log_likelihood(intervals: Sequence[Interval]) -> NDArray[np.float64]:
    """Up to a constant. Intervals without a lens change count as one: their sum says as much."""
    plain = [i for i in intervals if not i.changes]
    logs = np.zeros((len(_DAYS), len(_CHANGES)))
    terms = [(sum(i.came for i in plain), sum(i.days for i in plain), 0)]
    terms += [(i.came, i.days, i.changes) for i in intervals if i.changes]
    for came, days, changes in terms:
        expected = _DAYS[:, None] * days + _CHANGES[None, :] * changes
        if days:
            logs += came * np.log(expected) - expected
    return logs


def arrivals_of(intervals: Sequence[Interval], body_id: int) -> ArrivalRates | None:
    """How dust comes to a camera; None where nothing was ever counted, on it or on others."""
    if not intervals:
        return None
    belief = believe(intervals, body_id)
    own = [i for i in intervals if i.body_id == body_id]
    changes = any(i.changes for i in intervals)
    return ArrivalRates(
        a_day=_rate(belief.a_day, belief.weights.sum(axis=1)),
        a_change=_rate(belief.a_change, belief.weights.sum(axis=0)) if changes else None,
        came=sum(i.came for i in own),
        days=sum(i.days for i in own),
        intervals=len(own),
    )


def _rate(values: NDArray[np.float64], weights: NDArray[np.float64]) -> Rate:
    """A mean and an interval; each value of the grid stands for as much on either side of it."""
    below = np.cumsum(weights) - weights / 2
    low, high = (float(np.interp(q, below, values)) for q in ((1 - LEVEL) / 2, (1 + LEVEL) / 2))
    return Rate(mean=float((values * weights).sum()), low=low, high=high)


def chance_over(belief: Belief, visible: int, limit: int, days: float, changes: float) -> float:
    """The chance that more than ``limit`` spots are visible after so many days."""
    room = limit - visible
    if room < 0:
        return 1.0
    expected = belief.a_day[:, None] * days + belief.a_change[None, :] * changes
    return float((belief.weights * (1 - pdtr(room, expected))).sum())


def forecast_of(
    belief: Belief, *, visible: int, limit: int, looked_on: date, changes_a_day: float = 0.0
) -> Forecast:
    """When a camera's visible count passes a limit, from how many it showed when looked at."""

    def first(chance: float) -> date | None:
        """The first day on which the chance is reached, by halving: it only grows."""
        low, high = 0, _FAR_DAYS
        if chance_over(belief, visible, limit, high, high * changes_a_day) < chance:
            return None
        while low < high:
            middle = (low + high) // 2
            reached = chance_over(belief, visible, limit, middle, middle * changes_a_day) >= chance
            low, high = (low, middle) if reached else (middle + 1, high)
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
