"""Where dust settles on a sensor, and what wiping does not reach."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

from neatpatch.core.common.records import Record

_COLUMNS, _ROWS = 12, 8
"""Cells of some 3 mm on a sensor of 36 x 24 mm: about what a hand aims at."""
Place = tuple[float, float]


class Cell(Record):
    """A part of the sensor: its column and row from the upper left, and how many were counted."""

    column: int
    row: int
    count: int


class Density(Record):
    """Counts by cells of the sensor as its picture shows it; cells without any are left out.

    ``settled``: spots of first frames. ``left``: spots of the last frames of visits that touched
    the sensor.
    """

    columns: int
    rows: int
    settled: tuple[Cell, ...]
    left: tuple[Cell, ...]


def density_of(
    sensor_mm: tuple[float, float], settled: Iterable[Place], left: Iterable[Place]
) -> Density:
    """Places in millimetres from the sensor's centre, right and down, put into cells."""
    return Density(
        columns=_COLUMNS,
        rows=_ROWS,
        settled=_cells(sensor_mm, settled),
        left=_cells(sensor_mm, left),
    )


def _cells(sensor_mm: tuple[float, float], places: Iterable[Place]) -> tuple[Cell, ...]:
    wide, high = sensor_mm
    counts = Counter(
        (
            min(_COLUMNS - 1, max(0, int((x / wide + 0.5) * _COLUMNS))),
            min(_ROWS - 1, max(0, int((y / high + 0.5) * _ROWS))),
        )
        for x, y in places
    )
    return tuple(Cell(column=c, row=r, count=n) for (c, r), n in sorted(counts.items()))
