"""One thing, one row: what several regions show of one thing is told once.

Tide marks of a dried drop are rings that fade here and there, so that only arcs of them are found;
a droplet may hold a dark disc in its bright middle. Source of the circle: least squares after
I. Kasa, IEEE Trans. Instrum. Meas. 25, 8 (1976), https://doi.org/10.1109/TIM.1976.6312298.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.records import Kind, Site
from neatpatch.core.measure.region_measures import RegionMeasures

Points = NDArray[np.float64]
_MIDDLE = 0.12
"""Of a droplet's width: what lies so near to its middle, and is narrower, is a part of it."""
_NARROWER = 0.75
_OFF_CIRCLE = 0.2
"""Of the radius: tide marks are round to this."""
_BENT = (0.5, 2.0)
"""An arc's own radius over the mark's: straight things that lie near bend less."""
_LEAST_TURN = 0.5
"""Radians that each arc turns through: less tells no bend."""
_LEAST_AROUND = 2.0
"""Radians of the circle that all arcs cover together."""
_ALONE_AROUND = 3.3
"""As above for one arc alone: fibres that curl evenly through more than a half turn are rare."""
_LARGE = 2.5
"""Radius of a tide mark, at least, in widths of its line."""


@dataclass(frozen=True)
class MeasuredThing:
    """One region, measured and named."""

    measured: RegionMeasures
    kind: Kind
    site: Site
    seen_in: int = 1


@dataclass(frozen=True)
class _Circle:
    x: float
    y: float
    radius: float

    def off(self, points: Points) -> NDArray[np.float64]:
        """How far points (n, 2) lie off the circle, in radii; negative inside."""
        away = np.hypot(points[:, 0] - self.x, points[:, 1] - self.y)
        return np.asarray(away / self.radius - 1)

    def angles(self, points: Points) -> NDArray[np.float64]:
        """Where points lie around the middle, in radians."""
        return np.asarray(np.arctan2(points[:, 1] - self.y, points[:, 0] - self.x))


def joined(things: Sequence[MeasuredThing]) -> list[MeasuredThing]:
    """The same things, those of several regions told once; order is not kept."""
    return _tide_marks(_without_middles(things))


def _without_middles(things: Sequence[MeasuredThing]) -> list[MeasuredThing]:
    """Without dark discs in the very middle of a droplet's ring."""
    rings = [t.measured for t in things if t.kind == "droplet"]

    def in_a_ring(m: RegionMeasures) -> bool:
        return any(
            np.hypot(m.x_px - ring.x_px, m.y_px - ring.y_px) < _MIDDLE * ring.extent_px
            and m.extent_px < _NARROWER * ring.extent_px
            for ring in rings
            if ring is not m
        )

    return [t for t in things if not in_a_ring(t.measured)]


def _tide_marks(things: list[MeasuredThing]) -> list[MeasuredThing]:
    """Arcs that lie on one circle as one residue each."""
    arcs = [t for t in things if t.kind in ("fibre", "residue") and len(t.measured.course_px) > 1]
    arcs.sort(key=lambda t: -t.measured.length_px)
    others = [t for t in things if not any(t is a for a in arcs)]
    while arcs:
        first, rest = arcs[0], arcs[1:]
        mark = _mark_of(first, rest)
        others.append(_one_residue(mark) if mark else first)
        arcs = [a for a in rest if not any(a is m for m in mark)]
    return others


def _mark_of(first: MeasuredThing, rest: Sequence[MeasuredThing]) -> list[MeasuredThing]:
    """The arcs that lie on one circle with the first; none where they are no tide mark."""
    mark, circle = [first], _circle_through(_points(first))
    for other in rest:
        wider = _circle_through(np.concatenate([_points(t) for t in [*mark, other]]))
        if wider is not None and all(_is_arc(t, wider) for t in [*mark, other]):
            mark, circle = [*mark, other], wider
    if circle is None or not _is_arc(first, circle):
        return []
    least = _LEAST_AROUND if len(mark) > 1 else _ALONE_AROUND
    if sum(_turn(t, circle) for t in mark) < least:
        return []
    return sorted(mark, key=lambda t: float(circle.angles(_middle(t))[0]))


def _is_arc(thing: MeasuredThing, circle: _Circle) -> bool:
    """Whether a bent line lies along a circle, and bends as much itself."""
    own = _circle_through(_points(thing))
    if own is None or circle.radius < _LARGE * thing.measured.fwhm_px:
        return False
    aside = np.hypot(own.x - circle.x, own.y - circle.y)
    return bool(
        np.abs(circle.off(_points(thing))).max() < _OFF_CIRCLE
        and _BENT[0] < own.radius / circle.radius < _BENT[1]
        and aside < circle.radius
        and _turn(thing, circle) > _LEAST_TURN
    )


def _turn(thing: MeasuredThing, circle: _Circle) -> float:
    return min(thing.measured.length_px / circle.radius, 2 * np.pi)


def _points(thing: MeasuredThing) -> Points:
    m = thing.measured
    return np.asarray(m.course_px + np.array([m.x_px, m.y_px]))


def _middle(thing: MeasuredThing) -> Points:
    return np.array([[thing.measured.x_px, thing.measured.y_px]])


def _circle_through(points: Points) -> _Circle | None:
    """Least squares; None for points on a line."""
    middle = points.mean(axis=0)
    x, y = (points - middle).T
    basis = np.column_stack([x, y, np.ones_like(x)])
    (a, b, c), _, rank, _ = np.linalg.lstsq(basis, x * x + y * y, rcond=1e-9)
    square = c + a * a / 4 + b * b / 4
    if rank < 3 or square <= 0:
        return None
    return _Circle(float(middle[0] + a / 2), float(middle[1] + b / 2), float(np.sqrt(square)))


def _one_residue(arcs: Sequence[MeasuredThing]) -> MeasuredThing:
    """All arcs in their order around the circle as one thing, its place the middle of its loss."""
    main = max(arcs, key=lambda t: t.measured.snr).measured
    all_of = [t.measured for t in arcs]
    loss = np.array([m.loss_px2 for m in all_of])
    x = float(np.average([m.x_px for m in all_of], weights=loss))
    y = float(np.average([m.y_px for m in all_of], weights=loss))
    course = np.concatenate([_points(t) for t in arcs])
    m = replace(
        main,
        x_px=x,
        y_px=y,
        loss_px2=float(loss.sum()),
        snr=float(np.linalg.norm([m.snr for m in all_of])),
        area_px=sum(m.area_px for m in all_of),
        length_px=sum(m.length_px for m in all_of),
        extent_px=float(np.ptp(course, axis=0).max()),
        course_px=course - (x, y),
    )
    return MeasuredThing(m, "residue", "sensor", max(t.seen_in for t in arcs))
