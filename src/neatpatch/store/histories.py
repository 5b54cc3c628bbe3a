"""A camera's frames and steps over time, as columns; no map is parsed but for the density."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass


@dataclass(frozen=True)
class FramePoint:
    """A fit frame of a camera: when, how many spots, and from which f-numbers they are visible."""

    visit_id: int
    frame_id: int
    entry_id: int
    at: str
    count: int
    shows_from: tuple[float, ...]

    def visible(self, works_at: float) -> int:
        """Spots visible at an aperture."""
        return sum(1 for f in self.shows_from if f <= works_at)


@dataclass(frozen=True)
class StepPoint:
    """A step on a camera."""

    visit_id: int
    entry_id: int
    at: str
    step: str


def frame_points(connection: sqlite3.Connection, body_id: int) -> list[FramePoint]:
    """Fit frames of a camera's visits, the oldest first."""
    rows = connection.execute(
        "SELECT t.visit_id, t.frame_id, t.id, t.at, m.spot_count, m.shows_from FROM visits v "
        "JOIN trail t ON t.visit_id = v.id JOIN maps m ON m.frame_id = t.frame_id "
        "WHERE v.body_id = ? AND t.removed_json IS NULL AND m.fit = 1 ORDER BY t.at, t.id",
        (body_id,),
    )
    return [
        FramePoint(
            row["visit_id"],
            row["frame_id"],
            row["id"],
            row["at"],
            row["spot_count"],
            tuple(json.loads(row["shows_from"])),
        )
        for row in rows
    ]


def step_points(connection: sqlite3.Connection, body_id: int) -> list[StepPoint]:
    """Steps of a camera's visits, the oldest first."""
    rows = connection.execute(
        "SELECT t.visit_id, t.id, t.at, t.step FROM visits v JOIN trail t ON t.visit_id = v.id "
        "WHERE v.body_id = ? AND t.removed_json IS NULL AND t.step IS NOT NULL ORDER BY t.at, t.id",
        (body_id,),
    )
    return [StepPoint(row["visit_id"], row["id"], row["at"], row["step"]) for row in rows]


def places_in(connection: sqlite3.Connection, frame_id: int) -> list[tuple[float, float]]:
    """Where the spots of a frame lie, in millimetres from the sensor's centre."""
    rows = connection.execute(
        "SELECT s.value ->> 'x_mm' AS x_mm, s.value ->> 'y_mm' AS y_mm "
        "FROM maps, json_each(map_json, '$.spots') s WHERE frame_id = ? "
        "AND x_mm IS NOT NULL AND s.value ->> 'site' IN ('sensor', 'unsure')",
        (frame_id,),
    )
    return [(row["x_mm"], row["y_mm"]) for row in rows]
