"""Lifting: the fewest presses of a rectangular tip that cover every spot with its whole shadow.

A press covers a spot when the spot's full outer width lies under the tip. Some best set of
presses has each tip pushed left and up until it meets a spot's far edge, so only those places need
trying; choosing among them is a set cover, solved as an integer programme: exactly for up to some
sixty spots, above that as far as ten seconds allow, a greedy cover being the fallback. Source:
canonical positions after R. J. Fowler, M. S. Paterson & S. L. Tanimoto, Inf. Process. Lett. 12,
133 (1981), https://doi.org/10.1016/0020-0190(81)90111-3; integer programme by HiGHS through scipy.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import Record, Spot, on_outer_glass

_TIME_LIMIT_S = 10.0
"""Past this the best cover found is given; nobody waits longer for a plan."""
_HAIR_MM = 1e-6
"""Spots on the very edge of a tip count as covered, whatever rounding says."""
_MOST_COMPARED = 12_000
"""Candidate presses: comparing more would be waited for."""
_AT_ONCE = 512
"""Rows compared at a time, to bound memory."""
Floats = NDArray[np.float64]
Hits = NDArray[np.float32]
Cover = NDArray[np.bool_]


@dataclass(frozen=True)
class Target:
    """A spot to lift: its centre and outer width in millimetres."""

    id: str
    x_mm: float
    y_mm: float
    width_mm: float


Axes = Literal["picture", "mount"]
"""Millimetres from the sensor's centre: as the picture is stored, or facing the mount of a camera
that lies on its back with its top away."""


class Dab(Record):
    """One press: the tip's centre in millimetres, and the spots under it."""

    n: int
    x_mm: float
    y_mm: float
    covers: tuple[str, ...]


class DabPlan(Record):
    """Presses in the order of the hand; each takes a fresh patch. ``wide``: wider than the tip.

    ``axes``: of the presses, the stored picture's or those of one who faces the mount.
    ``proven_least``: no plan can do with fewer presses than this. ``sheets``: sheets that hold the
    patches, None while the patches of a sheet are not known.
    """

    dabs: tuple[Dab, ...]
    patches: int
    axes: Axes = "picture"
    wide: tuple[str, ...] = ()
    proven_least: int = 0
    sheets: int | None = None


def targets_of(spots: Sequence[Spot]) -> list[Target]:
    """Spots on the outer glass with a known place; what lies on the lens, inside the filter or in
    the scene is none of the hand's.
    """
    return [
        Target(s.id, s.x_mm, s.y_mm, (s.outer_um or 0.0) / 1000.0)
        for s in on_outer_glass(spots)
        if s.x_mm is not None and s.y_mm is not None
    ]


def plan_dabs(
    sensor_mm: tuple[float, float],
    tip_mm: tuple[float, float],
    targets: Sequence[Target],
    *,
    patches_per_sheet: int | None = None,
    from_right: bool = False,
) -> DabPlan:
    """The fewest presses over all targets, the tip kept inside the frame's edges.

    ``from_right``: the hand begins at the right, else at the left. A target wider than the tip is
    pressed at its centre. No targets give no presses. Raises `BadArgumentError` when the tip is
    larger than the sensor or no size at all.
    """
    _check(sensor_mm, tip_mm)
    if not targets:
        return DabPlan(dabs=(), patches=0)
    places, covers = _candidates(sensor_mm, tip_mm, targets)
    chosen, least = _chosen(covers)
    centres = _ordered(places[chosen], from_right)
    dabs = []
    left = {t.id for t in targets}
    for x, y in centres:
        under = [t.id for t in targets if t.id in left and _under(t, x, y, sensor_mm, tip_mm)]
        left -= set(under)
        if under:
            mine = [t for t in targets if t.id in under]
            x, y = (_middle(mine, axis, sensor_mm[axis], tip_mm[axis]) for axis in (0, 1))
            dabs.append((x, y, tuple(under)))
    return DabPlan(
        dabs=tuple(
            Dab(n=i + 1, x_mm=round(x, 3), y_mm=round(y, 3), covers=c)
            for i, (x, y, c) in enumerate(dabs)
        ),
        patches=len(dabs),
        proven_least=least,
        sheets=sheets_of(len(dabs), patches_per_sheet),
        wide=tuple(t.id for t in targets if t.width_mm > min(tip_mm)),
    )


def sheets_of(patches: int, per_sheet: int | None) -> int | None:
    """Sheets that hold so many patches; None while it is not known how many a sheet has."""
    if per_sheet is None:
        return None
    if per_sheet < 1:
        raise BadArgumentError(
            f"{per_sheet} patches on a sheet cannot be. Give 1 or more, or leave it out."
        )
    return math.ceil(patches / per_sheet)


def plan_whole(
    sensor_mm: tuple[float, float],
    tip_mm: tuple[float, float],
    *,
    patches_per_sheet: int | None = None,
    from_right: bool = False,
) -> DabPlan:
    """The whole sensor as a grid from one corner, row after row and back."""
    _check(sensor_mm, tip_mm)
    xs, ys = (_grid(side, tip) for side, tip in zip(sensor_mm, tip_mm, strict=True))
    xs = xs[::-1] if from_right else xs
    places = [(x, y) for row, y in enumerate(ys) for x in (xs if row % 2 == 0 else xs[::-1])]
    return DabPlan(
        dabs=tuple(
            Dab(n=i + 1, x_mm=round(x, 3), y_mm=round(y, 3), covers=())
            for i, (x, y) in enumerate(places)
        ),
        patches=len(places),
        proven_least=len(places),
        sheets=sheets_of(len(places), patches_per_sheet),
    )


def _grid(side: float, tip: float) -> list[float]:
    count = max(1, int(np.ceil(side / tip - 1e-9)))
    if count == 1:
        return [0.0]
    return [float(v) for v in np.linspace(-(side - tip) / 2, (side - tip) / 2, count)]


def _check(sensor_mm: tuple[float, float], tip_mm: tuple[float, float]) -> None:
    if min(tip_mm) <= 0 or min(sensor_mm) <= 0:
        raise BadArgumentError("tip and sensor must be larger than nothing. Give WxH in mm.")
    if tip_mm[0] > sensor_mm[0] or tip_mm[1] > sensor_mm[1]:
        raise BadArgumentError(
            f"a tip of {tip_mm[0]:g} x {tip_mm[1]:g} mm is larger than the sensor of "
            f"{sensor_mm[0]:g} x {sensor_mm[1]:g} mm. Take a smaller one."
        )


def _reach(width_mm: float, tip: float) -> float:
    """How far a tip's centre may lie from a spot's along one axis."""
    return max((tip - width_mm) / 2, 0.0)


def _nearest(x: float, side: float, tip: float) -> float:
    """The place closest to ``x`` that keeps the tip inside the frame."""
    return float(np.clip(x, -(side - tip) / 2, (side - tip) / 2))


def _middle(targets: Sequence[Target], axis: int, side: float, tip: float) -> float:
    """The middle of all places along an axis that cover these targets: most room for the hand."""
    own = [(t.x_mm, t.y_mm)[axis] for t in targets]
    spare = [
        max(_reach(t.width_mm, tip), abs(_nearest(v, side, tip) - v))
        for t, v in zip(targets, own, strict=True)
    ]
    low = max(v - s for v, s in zip(own, spare, strict=True))
    high = min(v + s for v, s in zip(own, spare, strict=True))
    edge = (side - tip) / 2
    return float(np.clip((max(low, -edge) + min(high, edge)) / 2, -edge, edge))


def _under(
    t: Target, x: float, y: float, sensor_mm: tuple[float, float], tip_mm: tuple[float, float]
) -> bool:
    """Whether a press at a place covers a target, as well as the frame's edge allows."""
    for at, own, side, tip in zip((x, y), (t.x_mm, t.y_mm), sensor_mm, tip_mm, strict=True):
        best = abs(_nearest(own, side, tip) - own)
        if abs(at - own) > max(_reach(t.width_mm, tip), best) + _HAIR_MM:
            return False
    return True


def _candidates(
    sensor_mm: tuple[float, float], tip_mm: tuple[float, float], targets: Sequence[Target]
) -> tuple[Floats, Cover]:
    """Canonical places, and which targets (columns) each of them (rows) covers.

    Places that cover nothing more than another one are left out, as far as is quick to see.
    """
    lines, hits = [], []
    for axis in (0, 1):
        edge = (sensor_mm[axis] - tip_mm[axis]) / 2
        own = np.array([(t.x_mm, t.y_mm)[axis] for t in targets])
        best = np.abs(np.clip(own, -edge, edge) - own)
        reach = np.maximum([_reach(t.width_mm, tip_mm[axis]) for t in targets], best)
        line = np.unique(np.round(np.clip(own + reach, -edge, edge), 9))
        lines.append(line)
        near = np.abs(line[:, None] - own[None]) <= reach[None] + _HAIR_MM
        hits.append(near.astype(np.float32))
    i, j = np.nonzero(_worth_trying(hits[0], hits[1]))
    places = np.stack([lines[0][i], lines[1][j]], axis=1)
    covers = hits[0][i] * hits[1][j] > 0
    kept = _undominated(covers)
    return places[kept], covers[kept]


def _worth_trying(across: Hits, down: Hits) -> Cover:
    """Places of a grid that cover something, and not merely a part of what a neighbour covers.

    Covered counts are products of the two axes' hits. Of neighbours that cover the same, the later
    one stays, so that no ring of them throws all of it out.
    """
    count = across @ down.T
    keep = np.asarray(count > 0)
    steps = (
        ((across[:-1] * across[1:]) @ down.T, np.s_[:-1, :], np.s_[1:, :]),
        (across @ (down[:-1] * down[1:]).T, np.s_[:, :-1], np.s_[:, 1:]),
    )
    for shared, here, there in steps:
        keep[here] &= shared != count[here]
        keep[there] &= (shared != count[there]) | (count[there] >= count[here])
    return keep


def _undominated(covers: Cover) -> NDArray[np.intp]:
    """Rows whose targets are not all in one other row; all of them where there are too many."""
    if len(covers) > _MOST_COMPARED:
        return np.arange(len(covers))
    order = np.argsort(-covers.sum(axis=1), kind="stable")
    ordered = covers[order].astype(np.float32)
    size = ordered.sum(axis=1)
    keep = np.ones(len(order), bool)
    for start in range(0, len(order), _AT_ONCE):
        rows = np.arange(start, min(start + _AT_ONCE, len(order)))
        larger = ordered[: rows[-1] + 1]
        inside = ordered[rows] @ larger.T >= size[rows, None]
        keep[rows] = ~(inside & (np.arange(len(larger)) < rows[:, None])).any(axis=1)
    return order[keep]


def _chosen(covers: Cover) -> tuple[list[int], int]:
    """Rows that cover every column, and a proven lower bound of their number."""
    quick = _greedy(covers)
    found, least = _fewest(covers)
    return (found if found is not None and len(found) <= len(quick) else quick), least


def _fewest(covers: Cover) -> tuple[list[int] | None, int]:
    """Fewest rows that cover every column, as far as the time allows, and the bound proven."""
    from scipy.optimize import Bounds, LinearConstraint, milp  # slow to load: only where needed
    from scipy.sparse import csc_array

    result = milp(
        np.ones(covers.shape[0]),
        integrality=np.ones(covers.shape[0]),
        bounds=Bounds(0, 1),
        constraints=LinearConstraint(csc_array(covers.T.astype(float)), lb=1),
        options={"time_limit": _TIME_LIMIT_S},
    )
    least = math.ceil((result.mip_dual_bound or 1.0) - 1e-6)
    if result.x is None:
        return None, max(least, 1)
    return [int(k) for k in np.flatnonzero(np.round(result.x) > 0)], max(least, 1)


def _greedy(covers: Cover) -> list[int]:
    left = np.ones(covers.shape[1], bool)
    chosen: list[int] = []
    while left.any():
        gain = (covers & left).sum(axis=1)
        best = int(np.argmax(gain))
        if gain[best] == 0:
            break
        chosen.append(best)
        left &= ~covers[best]
    for k in list(chosen):
        others = [c for c in chosen if c != k]
        if others and covers[others].any(axis=0).all():
            chosen.remove(k)
    return chosen


def _ordered(places: Floats, from_right: bool) -> Floats:
    """Row by row from an upper corner, every other row backward, so the hand goes no way twice."""
    if len(places) < 2:
        return places
    if from_right:
        return _ordered(places * (-1, 1), False) * (-1, 1)
    height = float(np.ptp(places[:, 1]))
    rows = max(1, round(np.sqrt(len(places)))) if height > 0 else 1
    band = np.minimum(
        ((places[:, 1] - places[:, 1].min()) / max(height, 1e-9) * rows).astype(int), rows - 1
    )
    order: list[int] = []
    for r in range(rows):
        mine = np.flatnonzero(band == r)
        mine = mine[np.argsort(places[mine, 0])]
        order += list(mine if r % 2 == 0 else mine[::-1])
    return places[order]
