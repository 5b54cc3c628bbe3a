"""Frames and their maps."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Literal

from neatpatch.store.database import now

Source = Literal["upload", "demo"]


@dataclass(frozen=True)
class StoredFrame:
    """A frame's row, with its map when there is one."""

    id: int
    sha256: str
    name: str
    source: Source
    note: str
    sensor_mm: tuple[float, float] | None
    added_at: str
    map_json: str | None


_SELECT = """
SELECT f.*, m.map_json FROM frames f LEFT JOIN maps m ON m.frame_id = f.id
"""


def _frame(row: sqlite3.Row) -> StoredFrame:
    sensor = None
    if row["sensor_width_mm"] is not None:
        sensor = (row["sensor_width_mm"], row["sensor_height_mm"])
    return StoredFrame(
        row["id"], row["sha256"], row["name"], row["source"], row["note"], sensor,
        row["added_at"], row["map_json"],
    )  # fmt: skip


def add_frame(
    connection: sqlite3.Connection, *, sha256: str, size: int, name: str, source: Source,
    note: str = "", sensor_mm: tuple[float, float] | None = None,
) -> tuple[int, bool]:  # fmt: skip
    """Add a frame; gives its id and whether it is new. The same content is the same frame."""
    row = connection.execute("SELECT id FROM frames WHERE sha256 = ?", (sha256,)).fetchone()
    if row:
        return row["id"], False
    connection.execute(
        "INSERT OR IGNORE INTO originals (sha256, bytes, stored_at) VALUES (?, ?, ?)",
        (sha256, size, now()),
    )
    cursor = connection.execute(
        "INSERT INTO frames (sha256, name, source, note, sensor_width_mm, sensor_height_mm, "
        "added_at) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (sha256, name, source, note, *(sensor_mm or (None, None)), now()),
    )
    assert cursor.lastrowid is not None
    return cursor.lastrowid, True


def frame_by_id(connection: sqlite3.Connection, frame_id: int) -> StoredFrame | None:
    """One frame, or None."""
    row = connection.execute(f"{_SELECT} WHERE f.id = ?", (frame_id,)).fetchone()
    return _frame(row) if row else None


def all_frames(connection: sqlite3.Connection) -> list[StoredFrame]:
    """Every frame, the newest first."""
    return [_frame(row) for row in connection.execute(f"{_SELECT} ORDER BY f.id DESC")]


def frames_without_map(connection: sqlite3.Connection) -> list[int]:
    """Frames that were acknowledged but are neither mapped nor waiting to be."""
    rows = connection.execute(
        "SELECT f.id FROM frames f LEFT JOIN maps m ON m.frame_id = f.id WHERE m.frame_id IS NULL "
        "AND NOT EXISTS (SELECT 1 FROM jobs j WHERE j.frame_id = f.id "
        "AND j.state IN ('queued', 'running'))"
    )
    return [row["id"] for row in rows]


def set_sensor(
    connection: sqlite3.Connection, frame_id: int, sensor_mm: tuple[float, float] | None
) -> None:
    """Remember the sensor size the user gave for a frame."""
    connection.execute(
        "UPDATE frames SET sensor_width_mm = ?, sensor_height_mm = ? WHERE id = ?",
        (*(sensor_mm or (None, None)), frame_id),
    )


def save_map(connection: sqlite3.Connection, frame_id: int, map_json: str, made_by: str) -> None:
    """Store a frame's map, replacing an older one."""
    connection.execute(
        "INSERT INTO maps (frame_id, map_json, made_by, made_at) VALUES (?, ?, ?, ?) "
        "ON CONFLICT (frame_id) DO UPDATE SET map_json = excluded.map_json, "
        "made_by = excluded.made_by, made_at = excluded.made_at",
        (frame_id, map_json, made_by, now()),
    )


def remove_frame(connection: sqlite3.Connection, frame_id: int) -> str | None:
    """Remove a frame with its map; gives the hash of the original, now unused, or None."""
    row = connection.execute("SELECT sha256 FROM frames WHERE id = ?", (frame_id,)).fetchone()
    if row is None:
        return None
    connection.execute("DELETE FROM frames WHERE id = ?", (frame_id,))
    connection.execute("DELETE FROM originals WHERE sha256 = ?", (row["sha256"],))
    return str(row["sha256"])
