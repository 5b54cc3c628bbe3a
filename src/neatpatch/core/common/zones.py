"""Ninths of the frame, in the words of the stored picture."""

from __future__ import annotations

from neatpatch.core.common.records import Zone

_ROWS = ("top", "", "bottom")
_COLUMNS = ("left", "", "right")


def zone_of(x_px: float, y_px: float, width_px: int, height_px: int) -> Zone:
    """Which ninth of the stored array a point lies in; points outside count to the nearest."""
    column = min(2, max(0, int((x_px + 0.5) / width_px * 3)))
    row = min(2, max(0, int((y_px + 0.5) / height_px * 3)))
    name = f"{_ROWS[row]} {_COLUMNS[column]}".strip()
    return name or "centre"  # type: ignore[return-value]
