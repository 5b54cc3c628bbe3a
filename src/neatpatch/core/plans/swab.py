"""How a swab goes over a sensor: lanes, strokes, faces, drops, and what each stroke passes.

Drawn in the mount view with the camera lying top away: millimetres, origin at the sensor's centre,
x right and y down. A swab is held along the sensor's short side and drawn along the long one. The
first stroke begins at the far corner opposite to the hand that holds the swab, so that the hand
never lies over glass that is done. Drops by fluid are this product's own choice within the usual
one to three a swab: what dries slowly gets less.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from pydantic import ConfigDict, Field

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.facts import Item
from neatpatch.core.common.records import FluidKind, Record
from neatpatch.core.common.words import length
from neatpatch.core.plans.dab import Target

StrokeSchool = Literal["same_way", "return_other_face", "across_and_back", "circles"]
Tool = Literal["swab", "cloth_wand", "corner_swab", "moist_wipe", "sterile_pad"]
Hand = Literal["right", "left"]
Edge = Literal["upper", "lower", "left", "right"]
LEAST_OVERLAP_MM = 1.5
"""Lanes of a narrow swab overlap by at least this, so that no strip is missed."""
CHAMBER_PLAY_MM = 1.2
"""A swab wider than the short side by more than this does not fit between the chamber's walls,
where their distance is not known. Own choice, so that 16 mm goes with a side of 14.9 mm."""
MATCHED_UNDER_MM = 1.0
"""A swab narrower than the short side by no more than this counts as its matched width."""
EDGE_PLAY_MM = 0.1
"""What a tip may lack on each side to pass all in one lane. Own choice: sizes are rounded."""
EDGE_REACH_MM = 1.0
"""A swab's rounded end leaves a strip of about this along the edges of the glass."""
CIRCLE_SHARE = 0.5
"""Circles overlap by half, so that none leaves a gap."""
CORNER_MM = 4.0
"""Width of a corner swab whose own width is not known."""
DROP_ML = 0.05
"""Twenty drops a millilitre, as droppers are usually rated."""
_FACES = 2
"""Of one swab."""
_SMALLEST_MM, _LARGEST_MM = 2.0, 80.0


class Drops(Record):
    """Drops of fluid on one swab."""

    least: int
    usual: int
    most: int


_DROPS: dict[Tool, Drops] = {
    "swab": Drops(least=1, usual=2, most=3),
    "cloth_wand": Drops(least=2, usual=3, most=5),
    "corner_swab": Drops(least=1, usual=1, most=1),
    "moist_wipe": Drops(least=0, usual=0, most=0),
    "sterile_pad": Drops(least=1, usual=1, most=1),
}
PLAN_TOOLS: dict[Item, Tool] = {
    "dry_swab": "swab",
    "wet_swab": "swab",
    "corner_swab": "corner_swab",
    "cloth_wand": "cloth_wand",
    "moist_wipe": "moist_wipe",
    "sterile_pad": "sterile_pad",
}
"""What each kit item is to a plan."""
_SLOW_FLUIDS: tuple[FluidKind, ...] = ("alcohol_free", "pure_water")


class Stroke(Record):
    """One movement of one face, from and to in millimetres; ``swab`` counts from 1.

    ``passes``: ids of the spots that lie wholly under it.
    """

    swab: int
    face: Literal["first", "second"]
    from_: tuple[float, float] = Field(alias="from")
    to: tuple[float, float]
    passes: tuple[str, ...] = ()

    model_config = ConfigDict(
        frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True
    )


class SwabsNeeded(Record):
    """Swabs for one clean of each school: every lane and every pass takes a fresh one."""

    dry: int
    wet: int
    dry_wet_dry: int


class SwabPlan(Record):
    """Strokes in order. ``fits``: the swab goes into the chamber. ``overlap_mm``: between lanes.

    ``corner``: spots so near an edge that a swab's end may leave them; a corner pass fetches them.
    """

    fits: bool
    lanes: int
    overlap_mm: float
    axes: Literal["mount"] = "mount"
    swabs: int
    swabs_needed: SwabsNeeded
    drops: Drops
    strokes: tuple[Stroke, ...]
    corner: tuple[str, ...] = ()
    warnings: tuple[str, ...]


class EdgeStroke(Record):
    """One stroke of a corner swab along an edge, from its middle outward."""

    edge: Edge
    from_: tuple[float, float] = Field(alias="from")
    to: tuple[float, float]
    passes: tuple[str, ...]

    model_config = ConfigDict(
        frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True
    )


@dataclass(frozen=True, kw_only=True)
class Wiping:
    """How one wipes: the stroke, the tool, the fluid, the hand.

    ``chamber_mm``: distance of the chamber's walls across the swab. ``edges_by_face``: one swab for
    two lanes, a face for each edge.
    """

    stroke: StrokeSchool = "same_way"
    tool: Tool = "swab"
    fluid: FluidKind | None = None
    hand: Hand = "right"
    chamber_mm: float | None = None
    edges_by_face: bool = False


def plan_swab(
    sensor_mm: tuple[float, float],
    swab_mm: float,
    wiping: Wiping | None = None,
    targets: Sequence[Target] = (),
) -> SwabPlan:
    """Lanes that cover the whole sensor, each gone over by a fresh swab as the school says.

    ``targets``: spots in the mount view. A swab that does not fit gives no strokes. Raises
    `BadArgumentError` for impossible sizes.
    """
    wiping = wiping or Wiping()
    chamber_mm = wiping.chamber_mm
    long, short = max(sensor_mm), min(sensor_mm)
    _check(swab_mm, short, chamber_mm)
    drops = drops_for(wiping.tool, wiping.fluid)
    if too_wide(swab_mm, short) if chamber_mm is None else swab_mm > chamber_mm:
        return SwabPlan(
            fits=False,
            lanes=0,
            overlap_mm=0.0,
            swabs=0,
            drops=drops,
            strokes=(),
            swabs_needed=SwabsNeeded(dry=0, wet=0, dry_wet_dry=0),
            warnings=(_too_wide(swab_mm, short, chamber_mm),),
        )
    centres, overlap = lane_centres(short, swab_mm)
    start = -1.0 if wiping.hand == "right" else 1.0
    by_face = wiping.edges_by_face and len(centres) == _FACES
    if by_face:
        strokes = _edges_by_face(centres, start * long / 2)
    else:
        strokes = [
            s
            for lane, y in enumerate(centres)
            for s in _strokes(lane + 1, y, start * long / 2, swab_mm, wiping.stroke)
        ]
    count = 1 if by_face else len(centres)
    return SwabPlan(
        fits=True,
        lanes=len(centres),
        overlap_mm=round(overlap, 2),
        swabs=count,
        drops=drops,
        swabs_needed=SwabsNeeded(dry=count, wet=count, dry_wet_dry=3 * count),
        strokes=tuple(_passing(s, swab_mm, short, targets) for s in strokes),
        corner=tuple(t.id for t in targets if edges_near(t, (long, short))),
        warnings=_warnings(centres, swab_mm, short, wiping),
    )


def _check(swab_mm: float, short_mm: float, chamber_mm: float | None) -> None:
    if not _SMALLEST_MM <= swab_mm <= _LARGEST_MM:
        raise BadArgumentError(
            f"a swab {swab_mm:g} mm wide is outside {_SMALLEST_MM:g} to {_LARGEST_MM:g} mm. "
            "Give the width of the swab's tip."
        )
    if chamber_mm is not None and not short_mm <= chamber_mm <= 3 * short_mm:
        raise BadArgumentError(
            f"a chamber {chamber_mm:g} mm wide cannot be: the sensor's short side is "
            f"{short_mm:g} mm. Give the distance of the chamber's walls across the swab."
        )


def _too_wide(swab_mm: float, short_mm: float, chamber_mm: float | None) -> str:
    walls = "" if chamber_mm is None else f", the chamber's walls {length(chamber_mm)} apart"
    return (
        f"A swab {length(swab_mm)} wide does not fit: the sensor's short side is {length(short_mm)}"
        f"{walls}. Take one of about {length(short_mm, 0)}."
    )


def drops_for(tool: Tool, fluid: FluidKind | None = None) -> Drops:
    """One to three drops on a swab, two as a rule; folded cloth wands take up to five a side.

    Fluids without alcohol dry slowly: one less than usual and at most. Moist wipes take none.
    """
    drops = _DROPS[tool]
    if fluid not in _SLOW_FLUIDS or drops.most <= 1:
        return drops
    return Drops(least=drops.least, usual=max(drops.least, drops.usual - 1), most=drops.most - 1)


def own_drops(drops: Drops, number: int | None) -> Drops:
    """The maker's own number of drops in place of the usual; unchanged without one."""
    if number is None or drops.most == 0:
        return drops
    return Drops(least=min(drops.least, number), usual=number, most=max(drops.most, number))


def drops_of(tool: Tool, number: int | None) -> int:
    """Drops that one of these takes: the maker's own number, else as many as are usual."""
    return own_drops(drops_for(tool), number).usual


def too_wide(swab_mm: float, short_mm: float) -> bool:
    """Whether a swab does not go into the chamber of a sensor with this short side."""
    return swab_mm > short_mm + CHAMBER_PLAY_MM


def matched(swab_mm: float, short_mm: float) -> bool:
    """Whether a swab's width counts as that of this short side."""
    return not too_wide(swab_mm, short_mm) and swab_mm >= short_mm - MATCHED_UNDER_MM


def lane_centres(short_mm: float, swab_mm: float) -> tuple[list[float], float]:
    """Centres of the lanes across the short side, and their overlap; one lane has none."""
    if swab_mm >= short_mm - 2 * EDGE_PLAY_MM - 1e-9:
        return [0.0], 0.0
    lanes = math.ceil((short_mm - LEAST_OVERLAP_MM) / (swab_mm - LEAST_OVERLAP_MM) - 1e-9)
    lanes = max(lanes, 2)
    step = (short_mm - swab_mm) / (lanes - 1)
    first = -(short_mm - swab_mm) / 2
    return [first + i * step for i in range(lanes)], swab_mm - step


def edges_near(t: Target, sensor_mm: tuple[float, float]) -> tuple[Edge, ...]:
    """Edges of the glass within whose reach a spot's shadow lies."""
    reach = EDGE_REACH_MM + t.width_mm / 2
    gaps: dict[Edge, float] = {
        "upper": sensor_mm[1] / 2 + t.y_mm,
        "lower": sensor_mm[1] / 2 - t.y_mm,
        "left": sensor_mm[0] / 2 + t.x_mm,
        "right": sensor_mm[0] / 2 - t.x_mm,
    }
    return tuple(edge for edge, gap in gaps.items() if gap <= reach)


_ROUND: tuple[Edge, ...] = ("upper", "right", "lower", "left")


def plan_corner(
    sensor_mm: tuple[float, float], targets: Sequence[Target], swab_mm: float = CORNER_MM
) -> tuple[EdgeStroke, ...]:
    """Strokes of a narrow swab along the edges that hold spots, from the middle to the corner.

    Its outer side follows the edge. In the frame the targets are given in, once around from the
    upper edge. Nothing near an edge gives no strokes.
    """
    half = sensor_mm[0] / 2, sensor_mm[1] / 2
    found: dict[tuple[Edge, int], list[str]] = {}
    for t in targets:
        for edge in edges_near(t, sensor_mm)[:1]:
            along = t.x_mm if edge in ("upper", "lower") else t.y_mm
            found.setdefault((edge, 1 if along >= 0 else -1), []).append(t.id)
    strokes = []
    for (edge, way), ids in sorted(found.items(), key=lambda f: (_ROUND.index(f[0][0]), f[0][1])):
        out = -1 if edge in ("upper", "left") else 1
        level = edge in ("upper", "lower")
        fixed = out * ((half[1] if level else half[0]) - swab_mm / 2)
        end = way * (half[0] if level else half[1])
        start, stop = ((0.0, fixed), (end, fixed)) if level else ((fixed, 0.0), (fixed, end))
        strokes.append(EdgeStroke(edge=edge, from_=start, to=stop, passes=tuple(ids)))
    return tuple(strokes)


def _passing(s: Stroke, swab_mm: float, short_mm: float, targets: Sequence[Target]) -> Stroke:
    """The stroke with the spots that its face covers in full width, as the edge allows."""
    half = min(swab_mm, short_mm) / 2
    low, high = sorted((s.from_[0], s.to[0]))
    under = []
    for t in targets:
        spare = max(half - t.width_mm / 2, abs(t.y_mm) - (short_mm / 2 - half), 0.0)
        along = low - 1e-6 <= t.x_mm <= high + 1e-6
        if along and abs(t.y_mm - s.from_[1]) <= spare + 1e-6:
            under.append(t.id)
    return s.model_copy(update={"passes": tuple(under)})


def _strokes(
    number: int, y: float, start: float, swab_mm: float, school: StrokeSchool
) -> list[Stroke]:
    def one(face: Literal["first", "second"], begin: float, end: float) -> Stroke:
        return Stroke(
            swab=number,
            face=face,
            from_=(round(begin, 3), round(y, 3)),
            to=(round(end, 3), round(y, 3)),
        )

    if school == "same_way":
        return [one("first", start, -start), one("second", start, -start)]
    if school == "return_other_face":
        return [one("first", start, -start), one("second", -start, start)]
    if school == "across_and_back":
        return [one("first", start, -start), one("first", -start, start)]
    return [*_circles(number, y, start, swab_mm), one("second", start, -start)]


def _edges_by_face(centres: list[float], start: float) -> list[Stroke]:
    """One stroke for each of two lanes: the upper edge with one face, the lower with the other."""
    faces: tuple[Literal["first", "second"], ...] = ("first", "second")
    return [
        Stroke(
            swab=1,
            face=face,
            from_=(round(start, 3), round(y, 3)),
            to=(round(-start, 3), round(y, 3)),
        )
        for face, y in zip(faces, centres, strict=True)
    ]


def swabs_for(short_mm: float, swab_mm: float, *, edges_by_face: bool = False) -> int:
    """Swabs that one pass takes: one a lane, or one for two lanes where each face has its own."""
    lanes = len(lane_centres(short_mm, swab_mm)[0])
    return 1 if edges_by_face and lanes == _FACES else lanes


def _circles(number: int, y: float, start: float, swab_mm: float) -> list[Stroke]:
    """Small circles, told as short overlapping moves along the lane."""
    step = swab_mm * CIRCLE_SHARE
    count = max(1, math.ceil(2 * abs(start) / step))
    edges = [start - 2 * start * i / count for i in range(count + 1)]
    return [
        Stroke(
            swab=number,
            face="first",
            from_=(round(a, 3), round(y, 3)),
            to=(round(b, 3), round(y, 3)),
        )
        for a, b in pairwise(edges)
    ]


def _warnings(
    centres: list[float], swab_mm: float, short_mm: float, wiping: Wiping
) -> tuple[str, ...]:
    warnings = []
    if len(centres) == _FACES and wiping.edges_by_face:
        warnings.append(
            f"Narrower than the sensor by {length(short_mm - swab_mm, 1)}: one face for the upper "
            "edge, the other for the lower. Each passes once only."
        )
    elif len(centres) > 1:
        warnings.append(
            f"Narrower than the sensor by {length(short_mm - swab_mm, 1)}: {len(centres)} lanes, "
            "and a strip may stay between them. A fresh swab for each lane."
        )
    if wiping.stroke in ("across_and_back", "circles"):
        warnings.append("Going back over a place with the same face can bring the dirt back.")
    return tuple(warnings)
