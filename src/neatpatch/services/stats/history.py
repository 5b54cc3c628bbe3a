"""A camera's history: counts over time, steps, density, outlook."""

from __future__ import annotations

import sqlite3
from datetime import date, timedelta

from pydantic import BaseModel

from neatpatch.core.common.decisions import SWABS
from neatpatch.core.common.moments import day_of
from neatpatch.core.stats.density import Density, density_of
from neatpatch.core.stats.dusty_days import PlaceDust, place_dust, weighted_intervals
from neatpatch.core.stats.rates import (
    ArrivalRates,
    Belief,
    Forecast,
    Interval,
    arrivals_of,
    believe,
    forecast_of,
)
from neatpatch.core.stats.spot_histories import SpotHistory, histories_of_spots
from neatpatch.services.common.lookups import body_or_refuse
from neatpatch.services.common.settings import spot_limit
from neatpatch.store import histories, retests
from neatpatch.store.exposures import exposures_of
from neatpatch.store.visits import last_counted_of

_TOUCHING = {*SWABS, "lift"}
_USUAL_LOOK_DAYS, _LATEST_LOOK_DAYS = 60, 365
"""A look in two months where nothing is known; once a year in any case: oil comes, too."""


class CountPoint(BaseModel):
    """A fit frame over time."""

    visit_id: int
    frame_id: int
    at: str
    visible: int
    total: int


class StepMark(BaseModel):
    """A step over time."""

    visit_id: int
    at: str
    step: str


class OtherBody(BaseModel):
    """Another camera beside this one: spots a day that come to it."""

    body_id: int
    name: str
    a_day: float
    days: float


class History(BaseModel):
    """Counts over time with the steps between them, and where on the sensor."""

    works_at: float
    points: list[CountPoint]
    steps: list[StepMark]
    density: Density


class LoggedExposure(BaseModel):
    """A lens change or a dusty day."""

    id: int
    on_day: date
    kind: str
    place: str


class Outlook(BaseModel):
    """How dust comes to a camera and when to look again; ``prevention``: what its record advises.

    ``arrivals`` is None before anything was counted, ``forecast`` before a look. ``places``: what a
    dusty day is worth at each place that was named, by all cameras' record.
    """

    arrivals: ArrivalRates | None
    forecast: Forecast | None
    exposures: list[LoggedExposure]
    places: list[PlaceDust]
    prevention: list[str]
    others: list[OtherBody]


def history_of(connection: sqlite3.Connection, body_id: int) -> History:
    """All that was counted on a camera; nothing gives empty lists."""
    body = body_or_refuse(connection, body_id).body
    works_at = body.smallest_worked
    frames = histories.frame_points(connection, body_id)
    steps = histories.step_points(connection, body_id)
    by_visit: dict[int, list[int]] = {}
    for f in frames:
        by_visit.setdefault(f.visit_id, []).append(f.frame_id)
    touched = {s.visit_id for s in steps if s.step in _TOUCHING}
    settled = [p for ids in by_visit.values() for p in histories.places_in(connection, ids[0])]
    left = [
        p
        for visit_id, ids in by_visit.items()
        if visit_id in touched
        for p in histories.places_in(connection, ids[-1])
    ]
    return History(
        works_at=works_at,
        points=[
            CountPoint(
                visit_id=f.visit_id,
                frame_id=f.frame_id,
                at=f.at,
                visible=f.visible(works_at),
                total=f.count,
            )
            for f in frames
        ],
        steps=[StepMark(visit_id=s.visit_id, at=s.at, step=s.step) for s in steps],
        density=density_of(body.sensor_mm, settled, left),
    )


def spot_histories_of(connection: sqlite3.Connection, body_id: int) -> list[SpotHistory]:
    """Every spot's life through all frames of a camera, as far as its visits are read."""
    body_or_refuse(connection, body_id)
    return histories_of_spots(retests.links_of(connection, body_id))


def outlook_of(connection: sqlite3.Connection, body_id: int) -> Outlook:
    """How dust comes to a camera, and what follows."""
    body_or_refuse(connection, body_id)
    places, intervals = _weighed(connection, body_id)
    belief = believe(intervals, body_id)
    arrivals = arrivals_of(belief, intervals, body_id)
    logged = exposures_of(connection, body_id)
    return Outlook(
        arrivals=arrivals,
        forecast=_forecast_from_last(connection, belief, intervals, body_id),
        exposures=[
            LoggedExposure(id=e.id, on_day=e.on_day, kind=e.kind, place=e.place) for e in logged
        ],
        places=places,
        prevention=_prevention(arrivals, intervals, body_id, places),
        others=_others(connection, intervals, body_id),
    )


def _weighed(
    connection: sqlite3.Connection, body_id: int
) -> tuple[list[PlaceDust], list[Interval]]:
    """What dusty days are worth by place, and all intervals weighed so."""
    intervals = retests.intervals(connection, body_id)
    places = place_dust(intervals)
    return places, weighted_intervals(intervals, places)


def _forecast_from_last(
    connection: sqlite3.Connection, belief: Belief, intervals: list[Interval], body_id: int
) -> Forecast | None:
    """When a camera's count passes the limit; None before its visible spots were counted, and
    before anything is known of how dust comes.
    """
    last = last_counted_of(connection, body_id)
    if not intervals or last is None or last.last_relevant is None:
        return None
    looked = day_of(last.closed_at or last.opened_at)
    return _forecast(connection, belief, intervals, body_id, last.last_relevant, looked)


def next_look(
    connection: sqlite3.Connection, body_id: int, visible: int | None, today: date
) -> date:
    """When to look at a camera again that shows so many spots today: by how dust comes to it, or in
    two months where that is not known or the limit is passed already.
    """
    usual = today + timedelta(days=_USUAL_LOOK_DAYS)
    _, intervals = _weighed(connection, body_id)
    if not intervals or visible is None:
        return usual
    belief = believe(intervals, body_id)
    found = _forecast(connection, belief, intervals, body_id, visible, today)
    if found.over:
        return usual
    latest = today + timedelta(days=_LATEST_LOOK_DAYS)
    return max(today + timedelta(days=1), min(found.look_on or latest, latest))


def _forecast(
    connection: sqlite3.Connection,
    belief: Belief,
    intervals: list[Interval],
    body_id: int,
    visible: int,
    looked_on: date,
) -> Forecast:
    own = [i for i in intervals if i.body_id == body_id]
    days = sum(i.calendar_days for i in own)
    return forecast_of(
        belief,
        visible=visible,
        limit=spot_limit(connection),
        looked_on=looked_on,
        changes_a_day=sum(i.changes for i in own) / days if days else 0.0,
        dust_a_day=sum(i.days for i in own) / days if days else 1.0,
    )


_MUCH = 2.0
"""Times as much dust as elsewhere is worth a word."""


def _prevention(
    arrivals: ArrivalRates | None,
    intervals: list[Interval],
    body_id: int,
    places: list[PlaceDust],
) -> list[str]:
    """What a camera's own record advises; nothing where it tells nothing."""
    if arrivals is None:
        return []
    words = []
    change, day = arrivals.a_change, arrivals.a_day
    if change is not None and change.low > 0.1:
        words.append(
            f"Each lens change brings {change.mean:.1f} spots ({change.low:.1f} to "
            f"{change.high:.1f}): change rarely, opening down, out of the wind."
        )
    been = {place for i in intervals if i.body_id == body_id for place in i.dusty}
    words += [
        f"A day at {p.place} brings as much dust as {p.worth.mean:.0f} ordinary ones "
        f"({p.worth.low:.0f} to {p.worth.high:.0f}): choose the lens before you go out there, keep "
        "it on, and shoot a test frame on coming home."
        for p in places
        if p.place in been and p.place and p.worth.low > _MUCH
    ]
    others = [i for i in intervals if i.body_id != body_id]
    if others and arrivals.days > 0:
        elsewhere = sum(i.came for i in others) / sum(i.days for i in others)
        if elsewhere > 0 and day.low > _MUCH * elsewhere:
            words.append(
                "Dust comes to it more than twice as fast as to your other cameras: look at where "
                "it is kept, at its body cap and at the rear of its lenses."
            )
    return words


def _others(
    connection: sqlite3.Connection, intervals: list[Interval], body_id: int, most: int = 12
) -> list[OtherBody]:
    sums: dict[int, tuple[int, float]] = {}
    for i in intervals:
        came, days = sums.get(i.body_id, (0, 0.0))
        sums[i.body_id] = came + i.came, days + i.days
    ranked = sorted(sums, key=lambda b: -sums[b][0] / sums[b][1])[:most]
    return [
        OtherBody(
            body_id=b,
            name=body_or_refuse(connection, b).body.name,
            a_day=sums[b][0] / sums[b][1],
            days=sums[b][1],
        )
        for b in ranked
    ]
