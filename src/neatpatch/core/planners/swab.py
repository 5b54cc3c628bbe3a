"""How a swab goes over a sensor: lanes, strokes, faces, drops.

Drawn in the mount view with the camera lying top away: millimetres, origin at the sensor's centre,
x right and y down. A swab is held along the sensor's short side and drawn along the long one.
"""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Literal

from pydantic import ConfigDict, Field

from neatpatch.core.errors import BadArgumentError
from neatpatch.core.records import Record

StrokeSchool = Literal["same_way", "return_other_face", "across_and_back", "circles"]
Tool = Literal["swab", "cloth_wand"]
LEAST_OVERLAP_MM = 1.5
"""Lanes of a narrow swab overlap by at least this, so that no strip is missed."""
CHAMBER_PLAY_MM = 1.0
"""A swab wider than the short side by more than this does not fit between the chamber's walls."""
CIRCLE_SHARE = 0.5
_SMALLEST_MM, _LARGEST_MM = 2.0, 80.0


class Drops(Record):
    """Drops of fluid on one swab."""

    least: int
    usual: int
    most: int


class Stroke(Record):
    """One movement of one face, from and to in millimetres; ``swab`` counts from 1."""

    swab: int
    face: Literal["first", "second"]
    from_: tuple[float, float] = Field(alias="from")
    to: tuple[float, float]

    model_config = ConfigDict(
        frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True
    )


class SwabPlan(Record):
    """Strokes in order. ``fits``: the swab goes into the chamber. ``overlap_mm``: between lanes."""

    fits: bool
    lanes: int
    overlap_mm: float
    swabs: int
    drops: Drops
    strokes: tuple[Stroke, ...]
    warnings: tuple[str, ...]


def plan_swab(
    sensor_mm: tuple[float, float], swab_mm: float, stroke: StrokeSchool = "same_way",
    tool: Tool = "swab",
) -> SwabPlan:  # fmt: skip
    """Lanes that cover the whole sensor, each gone over with both faces of a fresh swab.

    A swab that does not fit gives no strokes. Raises `BadArgumentError` for impossible sizes.
    """
    long, short = max(sensor_mm), min(sensor_mm)
    if not _SMALLEST_MM <= swab_mm <= _LARGEST_MM:
        raise BadArgumentError(
            f"--swab {swab_mm:g} mm is outside {_SMALLEST_MM:g} to {_LARGEST_MM:g} mm. "
            "Give the width of the swab's tip."
        )
    if swab_mm > short + CHAMBER_PLAY_MM:
        return SwabPlan(
            fits=False, lanes=0, overlap_mm=0.0, swabs=0, drops=drops_for(tool), strokes=(),
            warnings=(
                f"A swab {swab_mm:g} mm wide does not fit: the sensor's short side is "
                f"{short:g} mm. Take one of about {short:.0f} mm.",
            ),
        )  # fmt: skip
    centres, overlap = lane_centres(short, swab_mm)
    strokes = tuple(
        s for lane, y in enumerate(centres) for s in _strokes(lane + 1, y, long, swab_mm, stroke)
    )
    return SwabPlan(
        fits=True, lanes=len(centres), overlap_mm=round(overlap, 2), swabs=len(centres),
        drops=drops_for(tool), strokes=strokes, warnings=_warnings(centres, swab_mm, short, stroke),
    )  # fmt: skip


def drops_for(tool: Tool) -> Drops:
    """One to three drops on a swab, two as a rule; folded cloth wands take up to five a side."""
    return Drops(least=1, usual=2, most=3) if tool == "swab" else Drops(least=2, usual=3, most=5)


def lane_centres(short_mm: float, swab_mm: float) -> tuple[list[float], float]:
    """Centres of the lanes across the short side, and their overlap; one lane has none."""
    if swab_mm >= short_mm - CHAMBER_PLAY_MM:
        return [0.0], 0.0
    lanes = math.ceil((short_mm - LEAST_OVERLAP_MM) / (swab_mm - LEAST_OVERLAP_MM) - 1e-9)
    lanes = max(lanes, 2)
    step = (short_mm - swab_mm) / (lanes - 1)
    first = -(short_mm - swab_mm) / 2
    return [first + i * step for i in range(lanes)], swab_mm - step


def _strokes(
    number: int, y: float, long_mm: float, swab_mm: float, school: StrokeSchool
) -> list[Stroke]:
    left, right = -long_mm / 2, long_mm / 2

    def one(face: Literal["first", "second"], start: float, end: float) -> Stroke:
        return Stroke(swab=number, face=face, from_=(round(start, 3), round(y, 3)),
                      to=(round(end, 3), round(y, 3)))  # fmt: skip

    if school == "same_way":
        return [one("first", left, right), one("second", left, right)]
    if school == "return_other_face":
        return [one("first", left, right), one("second", right, left)]
    if school == "across_and_back":
        return [one("first", left, right), one("first", right, left),
                one("second", left, right), one("second", right, left)]  # fmt: skip
    return [*_circles(number, y, long_mm, swab_mm), one("second", left, right)]


def _circles(number: int, y: float, long_mm: float, swab_mm: float) -> list[Stroke]:
    """Small circles, told as short overlapping moves along the lane."""
    step = swab_mm * CIRCLE_SHARE
    count = max(1, math.ceil(long_mm / step))
    edges = [-long_mm / 2 + long_mm * i / count for i in range(count + 1)]
    return [
        Stroke(swab=number, face="first", from_=(round(a, 3), round(y, 3)),
               to=(round(b, 3), round(y, 3)))
        for a, b in pairwise(edges)
    ]  # fmt: skip


def _warnings(
    centres: list[float], swab_mm: float, short_mm: float, school: StrokeSchool
) -> tuple[str, ...]:
    found = []
    if len(centres) > 1:
        found.append(
            f"Narrower than the sensor by {short_mm - swab_mm:.1f} mm: {len(centres)} lanes, and a "
            "strip may stay between them. A fresh swab for each lane."
        )
    if school in ("across_and_back", "circles"):
        found.append("Going back over a place with the same face can bring the dirt back.")
    return tuple(found)
