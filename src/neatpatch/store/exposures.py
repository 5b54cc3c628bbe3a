"""Lens changes and dusty days, logged by the owner."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from datetime import date
from typing import Literal

ExposureKind = Literal["lens_change", "dusty_day"]


@dataclass(frozen=True)
class Exposure:
    """One logged lens change or dusty day."""

    id: int
    body_id: int
    on_day: date
    kind: ExposureKind
    place: str


def add_exposure(
    connection: sqlite3.Connection, body_id: int, on_day: date, kind: ExposureKind, place: str
) -> int:
    """Log one; gives its id."""
    cursor = connection.execute(
        "INSERT INTO exposures (body_id, on_day, kind, place) VALUES (?, ?, ?, ?)",
        (body_id, on_day.isoformat(), kind, place),
    )
    assert cursor.lastrowid is not None
    return cursor.lastrowid


def remove_exposure(connection: sqlite3.Connection, body_id: int, exposure_id: int) -> None:
    """Take one of a camera out again; nothing where it is gone."""
    connection.execute("DELETE FROM exposures WHERE id = ? AND body_id = ?", (exposure_id, body_id))


def exposures_of(connection: sqlite3.Connection, body_id: int, count: int = 50) -> list[Exposure]:
    """The newest of a camera first."""
    rows = connection.execute(
        "SELECT * FROM exposures WHERE body_id = ? ORDER BY on_day DESC, id DESC LIMIT ?",
        (body_id, count),
    )
    return [
        Exposure(
            row["id"],
            row["body_id"],
            date.fromisoformat(row["on_day"]),
            row["kind"],
            row["place"],
        )
        for row in rows
    ]
