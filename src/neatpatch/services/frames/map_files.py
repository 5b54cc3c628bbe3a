"""A map as files for elsewhere: CSV for tables, SVG for print."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from html import escape

from neatpatch.core.common.records import Spot, SpotMap
from neatpatch.core.common.words import counted

_COLUMNS = (
    "id",
    "kind",
    "site",
    "zone",
    "x_px",
    "y_px",
    "x_mm",
    "y_mm",
    "depth",
    "snr",
    "outer_px",
    "outer_um",
    "length_um",
    "particle_um",
    "height_mm",
    "shows_from_f",
    "seen_in",
)


def as_json(spot_map: SpotMap) -> str:
    """The whole map, in the shape the command line prints."""
    return spot_map.model_dump_json(indent=1)


def as_csv(spot_map: SpotMap) -> str:
    """One row a spot, a header with units in the names; empty where unknown."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(_COLUMNS)
    for spot in spot_map.spots:
        values = (getattr(spot, column) for column in _COLUMNS)
        writer.writerow(["" if v is None else v for v in values])
    return out.getvalue()


def as_svg(spot_map: SpotMap) -> str:
    """The map drawn in the stored picture's pixels; each spot carries its figures as a title."""
    frame = spot_map.frames[0]
    width, height = frame.width_px, frame.height_px
    unit = width / 600
    body = "\n".join(_mark(s, unit) for s in spot_map.spots)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {height}" '
        f'font-family="sans-serif" font-size="{9 * unit:.0f}">\n'
        f"<title>{escape(frame.path)}: {counted(spot_map.summary.count, 'spot')}</title>\n"
        f'<rect width="{width}" height="{height}" fill="#d8d8d8"/>\n{body}\n</svg>\n'
    )


def _mark(spot: Spot, unit: float) -> str:
    title = f"{spot.id}: {spot.kind}, {100 * spot.depth:.1f} % of light lost"
    if spot.outer_um is not None:
        title += f", {spot.outer_um:.0f} µm wide"
    style = f'fill="none" stroke="#222" stroke-width="{unit:.1f}"'
    radius = max(spot.outer_px / 2, 2 * unit)
    turn = f'transform="rotate({spot.angle_deg or 0:.1f} {spot.x_px:.1f} {spot.y_px:.1f})"'
    x, y = spot.x_px, spot.y_px
    if spot.kind in ("fibre", "residue"):
        half = max((spot.width_px or 0) / 2, 3 * unit)
        dashed = f' stroke-dasharray="{3 * unit:.0f}"' if spot.kind == "residue" else ""
        shape = (
            f'<rect x="{x - radius:.1f}" y="{y - half:.1f}" width="{2 * radius:.1f}" '
            f'height="{2 * half:.1f}" rx="{half:.1f}" {turn} {style}{dashed}>'
        )
        return f"{shape}<title>{escape(title)}</title></rect>"
    inner = ""
    if spot.kind == "droplet":
        inner = f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{radius * 0.6:.1f}" {style}/>'
    dashed = f' stroke-dasharray="{2 * unit:.0f}"' if spot.site != "sensor" else ""
    return (
        f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{radius:.1f}" {style}{dashed}>'
        f"<title>{escape(title)}</title></circle>{inner}"
    )


WRITERS: dict[str, Callable[[SpotMap], str]] = {"json": as_json, "csv": as_csv, "svg": as_svg}
MEDIA = {"json": "application/json", "csv": "text/csv; charset=utf-8", "svg": "image/svg+xml"}
