"""A map drawn for paper: black on white, the kind told by its shape, what is visible filled.

The drawing is upright as the picture is seen, in vectors, and reads without colour.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Collection
from html import escape

from neatpatch.core.common.records import Spot, SpotMap
from neatpatch.core.common.words import counted

Point = tuple[float, float]
Place = Callable[[float, float], Point]
_UNIT_SHARE = 1 / 420
"""Thinnest line as a share of the longer side: 0.2 mm on a drawing of 85 mm."""
_LEAST = 2.4
"""Least radius of a mark, in such units: 0.5 mm on paper, as small as an eye still tells apart."""


def upright(x: float, y: float, width: float, height: float, orientation: int) -> Point:
    """A place of the stored array as seen upright (EXIF orientation 1 to 8)."""
    if orientation in (2, 3):
        x = width - x
    if orientation in (3, 4):
        y = height - y
    if orientation < 5:
        return x, y
    return {5: (y, x), 6: (height - y, x), 7: (height - y, width - x), 8: (y, width - x)}[
        orientation
    ]


def map_drawing(spot_map: SpotMap, visible: Collection[str], left_out: Collection[str] = ()) -> str:
    """An SVG of a map; ``visible``: ids drawn filled, ``left_out``: not drawn at all."""
    frame = spot_map.frames[0]
    sides = frame.width_px, frame.height_px
    wide, high = sides[::-1] if frame.orientation >= 5 else sides
    unit = max(sides) * _UNIT_SHARE

    def place(x: float, y: float) -> Point:
        return upright(x, y, *sides, frame.orientation)

    marks = "\n".join(
        _mark(s, place, unit, s.id in visible)
        for s in sorted(_drawn(spot_map, left_out), key=lambda s: s.id in visible)
    )
    thirds = "".join(
        f'<path d="M {k * wide / 3:.0f} 0 V {high} M 0 {k * high / 3:.0f} H {wide}"/>'
        for k in (1, 2)
    )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{-unit:.0f} {-unit:.0f} '
        f'{wide + 2 * unit:.0f} {high + 2 * unit:.0f}" role="img">\n'
        f"<title>{escape(drawing_words(spot_map, visible, left_out))}</title>\n"
        f'<rect width="{wide}" height="{high}" fill="#fff" stroke="#000" '
        f'stroke-width="{unit:.1f}"/>\n'
        f'<g stroke="#bbb" stroke-width="{unit / 2:.1f}" fill="none">{thirds}</g>\n'
        f"{marks}\n</svg>\n"
    )


def drawing_words(
    spot_map: SpotMap, visible: Collection[str], left_out: Collection[str] = ()
) -> str:
    """What a drawing shows, for those who do not see it."""
    drawn = _drawn(spot_map, left_out)
    marks = f"Map with {counted(len(drawn), 'mark')}"
    if spot_map.frames[0].f_number is None:
        return f"{marks}; how many are visible in the work is unknown"
    seen = sum(s.id in visible for s in drawn) or "none"
    return f"{marks}, {seen} of them visible in the work"


def _drawn(spot_map: SpotMap, left_out: Collection[str]) -> list[Spot]:
    return [s for s in spot_map.spots if s.id not in left_out and s.site in ("sensor", "unsure")]


def _mark(spot: Spot, place: Place, unit: float, visible: bool) -> str:
    if spot.kind in ("fibre", "residue"):
        return _band(spot, place, unit, visible)
    x, y = place(spot.x_px, spot.y_px)
    radius = max(spot.outer_px / 2, _LEAST * unit)
    line = f'stroke="#000" stroke-width="{(1.2 if visible else 0.8) * unit:.1f}"'
    filled = visible and spot.kind == "speck"
    dash = {"soft": f"{unit:.1f} {1.5 * unit:.1f}"}.get(spot.kind, "")
    if not dash and spot.site == "unsure":
        dash = f"{2 * unit:.1f}"
    ring = (
        f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{radius:.1f}" fill="{"#000" if filled else "none"}" '
        f"{line}" + (f' stroke-dasharray="{dash}"' if dash else "") + "/>"
    )
    if spot.kind == "droplet" or (visible and not filled):
        share = 0.6 if spot.kind == "droplet" else 0.3
        ring += (
            f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{share * radius:.1f}" '
            f'fill="{"#000" if visible else "none"}" {line}/>'
        )
    return ring


def _band(spot: Spot, place: Place, unit: float, visible: bool) -> str:
    """A fibre as a line of its width along its course, a smear as a broad dashed one."""
    course = spot.course_px or _straight(spot)
    points = [place(spot.x_px + dx, spot.y_px + dy) for dx, dy in course]
    path = " L ".join(f"{x:.1f} {y:.1f}" for x, y in points)
    wide = max(spot.width_px or 0.0, 1.5 * unit)
    smear = f' stroke-dasharray="{1.5 * unit:.1f} {unit:.1f}"' if spot.kind == "residue" else ""
    cap = "butt" if smear else "round"
    return (
        f'<path d="M {path}" fill="none" stroke="{"#000" if visible else "#777"}" '
        f'stroke-width="{wide:.1f}" stroke-linecap="{cap}"{smear}/>'
    )


def _straight(spot: Spot) -> tuple[Point, Point]:
    angle = math.radians(spot.angle_deg or 0.0)
    x, y = (spot.outer_px / 2 * v for v in (math.cos(angle), math.sin(angle)))
    return (-x, -y), (x, y)
