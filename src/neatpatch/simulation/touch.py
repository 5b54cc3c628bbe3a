"""What a hand does, as a pointer tells it, and where it goes over the glass. Units as in `hand`."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

HandTool = Literal["wet_swab", "dry_swab", "lift"]
Cling = Literal["loose", "stuck", "greasy"]
Cause = Literal[
    "too_wet",
    "bent",
    "standing",
    "not_even",
    "dried",
    "used",
    "over_edge",
    "slid",
    "lift_on_grease",
]
Fault = Literal[Cause, "no_fluid", "fast", "face_again", "turned_back", "faint", "pad_full"]
MOST_DROPS = 3
EVEN_S, DRIES_S = 1.0, 10.0
"""Drops need a second to even out; after ten the tip is drying."""
FAST_MM_S, STANDING_MM_S = 120.0, 4.0
FAINT_N, BENT_N = 0.15, 1.2
FLAT_DEG = 30.0
"""A swab held flatter than this lies on its side; about 60 degrees is usual."""
TIP_MM, PAD_MM = 2.0, 3.0
"""The depth of a swab's tip along its stroke; the radius of a pad."""
SLIDE_MM, TURN_MM = 0.8, 2.0
"""So far a press may wander, and so far back before it counts as turning round."""
OVER_MM, EDGE_MM = 0.8, 1.0
_CELL_MM = 0.5
_SAME_MM = 1e-6
"""Two places nearer than a nanometre are one: no share of the way between them can be told."""


@dataclass(frozen=True, kw_only=True)
class Grain:
    """One piece of dirt; ``strength``: how hard it clings, 0 to 1."""

    name: str
    x_mm: float
    y_mm: float
    cling: Cling
    strength: float


@dataclass(frozen=True)
class Sample:
    """Where the tip was, how hard it pressed; ``tilt_deg`` from the glass, None where unknown."""

    t_s: float
    x_mm: float
    y_mm: float
    force_n: float
    tilt_deg: float | None = None


@dataclass(frozen=True)
class Stroke:
    """One touch, from setting down to lifting.

    ``face``: a number for each face of each tool; for a pad, for each cleaning of it.
    """

    face: int
    samples: tuple[Sample, ...]


@dataclass(frozen=True, kw_only=True)
class Setup:
    """The tool in the hand. ``wait_s``: from the drops to the first stroke; ``used``: not fresh."""

    tool: HandTool
    width_mm: float
    drops: int = 0
    wait_s: float = 3.0
    used: bool = False


@dataclass(frozen=True)
class Brought:
    """Something on the glass that was not there before, and why."""

    x_mm: float
    y_mm: float
    cause: Cause


def place(sample: Sample) -> tuple[float, float]:
    return sample.x_mm, sample.y_mm


def is_bent(sample: Sample) -> bool:
    flat = sample.tilt_deg is not None and sample.tilt_deg < FLAT_DEG
    return flat or sample.force_n > BENT_N


def speeds(samples: Sequence[Sample]) -> Iterator[float]:
    """Over a twentieth of a second at least: single samples of a pointer jitter."""
    since = samples[0]
    for s in samples[1:]:
        if s.t_s - since.t_s >= 0.05:
            yield math.dist(place(since), place(s)) / (s.t_s - since.t_s)
            since = s


def mean_speed(samples: Sequence[Sample]) -> float:
    """Over the whole stroke; endless for a stroke that took no time."""
    taken = samples[-1].t_s - samples[0].t_s
    way = sum(math.dist(place(a), place(b)) for a, b in pairwise(samples))
    return way / taken if taken > 0 else math.inf


def meets(a: Sample, b: Sample, grain: Grain, width_mm: float) -> bool:
    low, high = sorted((a.x_mm, b.x_mm))
    if not low - TIP_MM / 2 <= grain.x_mm <= high + TIP_MM / 2:
        return False
    span = b.x_mm - a.x_mm
    share = 0.5 if span == 0 else max(0.0, min(1.0, (grain.x_mm - a.x_mm) / span))
    return abs(grain.y_mm - (a.y_mm + share * (b.y_mm - a.y_mm))) <= width_mm / 2


def coverage(
    strokes: Sequence[Stroke], width_mm: float, sensor_mm: tuple[float, float]
) -> tuple[float, list[tuple[float, float]]]:
    """Share of the glass that was wiped, and the strips that were not, from and to in y.

    The rounded end of a tip reaches no nearer to the edges than `EDGE_MM`: what lies there is not
    asked for. No strokes leave all of it.
    """
    half_x, half_y = (s / 2 - EDGE_MM for s in sensor_mm)
    xs = np.arange(-half_x, half_x, _CELL_MM) + _CELL_MM / 2
    ys = np.arange(-half_y, half_y, _CELL_MM) + _CELL_MM / 2
    wiped = np.zeros((len(ys), len(xs)), bool)
    for stroke in strokes:
        for a, b in pairwise(stroke.samples):
            _wipe_cells(wiped, xs, ys, (a, b), width_mm)
    rows = wiped.mean(axis=1) < 0.9
    edges = np.flatnonzero(np.diff(np.concatenate([[False], rows, [False]]).astype(np.int8)))
    strips = [
        (float(ys[i] - _CELL_MM / 2), float(ys[j - 1] + _CELL_MM / 2))
        for i, j in zip(edges[::2], edges[1::2], strict=True)
    ]
    return float(wiped.mean()), strips


def _wipe_cells(
    wiped: NDArray[np.bool_],
    xs: NDArray[np.float64],
    ys: NDArray[np.float64],
    segment: tuple[Sample, Sample],
    width_mm: float,
) -> None:
    a, b = segment
    low, high = sorted((a.x_mm, b.x_mm))
    columns = np.flatnonzero((xs >= low - TIP_MM / 2) & (xs <= high + TIP_MM / 2))
    if not len(columns):
        return
    span = b.x_mm - a.x_mm
    share = (
        np.clip((xs[columns] - a.x_mm) / span, 0, 1)
        if abs(span) > _SAME_MM
        else np.full(len(columns), 0.5)
    )
    centre = a.y_mm + share * (b.y_mm - a.y_mm)
    wiped[:, columns] |= np.abs(ys[:, None] - centre[None, :]) <= width_mm / 2
