"""Where the hands stand in a step of a visit: one place, whichever device shows it."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass


@dataclass(frozen=True)
class StoredPlace:
    """``at``: when it was said, in seconds of the server's clock."""

    step: str
    position_json: str
    version: int
    at: float


def place_of(connection: sqlite3.Connection, visit_id: int) -> StoredPlace | None:
    """Where the hands stand; None when no step is in hand."""
    row = connection.execute("SELECT * FROM hands WHERE visit_id = ?", (visit_id,)).fetchone()
    if row is None:
        return None
    return StoredPlace(row["step"], row["position_json"], row["version"], row["at"])


def put_place(
    connection: sqlite3.Connection, visit_id: int, step: str, position_json: str, at: float
) -> int:
    """Say where the hands stand; gives the new version."""
    row = connection.execute(
        "INSERT INTO hands (visit_id, step, position_json, at) VALUES (?, ?, ?, ?) "
        "ON CONFLICT (visit_id) DO UPDATE SET step = excluded.step, at = excluded.at, "
        "position_json = excluded.position_json, version = hands.version + 1 RETURNING version",
        (visit_id, step, position_json, at),
    ).fetchone()
    return int(row["version"])


def clear_place(connection: sqlite3.Connection, visit_id: int) -> None:
    """No step is in hand any more."""
    connection.execute("DELETE FROM hands WHERE visit_id = ?", (visit_id,))
