"""Frames, and what lists show of them."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass
from typing import Literal

from neatpatch.store.database import now
from neatpatch.store.originals import require_sha256

Source = Literal["upload", "demo"]
FrameOrder = Literal["newest", "oldest", "taken", "spots", "name"]
_ORDERS: dict[FrameOrder, str] = {
    "newest": "f.id DESC",
    "oldest": "f.id",
    "taken": "m.taken_at IS NULL, m.taken_at DESC, f.id DESC",
    "spots": "m.spot_count IS NULL, m.spot_count DESC, f.id DESC",
    "name": "f.name COLLATE NOCASE, f.id DESC",
}
OnlyFrames = Literal["all", "unfit", "loose"]
_ONLY: dict[OnlyFrames, str] = {
    "all": "1",
    "unfit": "m.fit = 0",
    "loose": "NOT EXISTS (SELECT 1 FROM trail t WHERE t.frame_id = f.id "
    "AND t.removed_json IS NULL)",
}
_BY_TEXT = (
    "SELECT json_group_array(id) FROM frames INDEXED BY frames_found "
    "WHERE instr(found, lower(:words))"
)
_BY_CAMERA = """WITH RECURSIVE named (camera) AS (
        SELECT min(camera) FROM maps INDEXED BY maps_camera WHERE camera IS NOT NULL
        UNION ALL SELECT (SELECT min(m.camera) FROM maps m INDEXED BY maps_camera
            WHERE m.camera IS NOT NULL AND m.camera > named.camera)
            FROM named WHERE named.camera IS NOT NULL)
    SELECT json_group_array(c.frame_id) FROM named CROSS JOIN maps c INDEXED BY maps_camera
        ON c.camera = named.camera AND c.camera IS NOT NULL
        WHERE instr(lower(named.camera), lower(:words))"""
"""`named` steps from each name of a camera to the next one in the index: there are few among very
many maps."""
_BY_BODY = """SELECT json_group_array(t.frame_id) FROM bodies b
    CROSS JOIN visits v ON v.body_id = b.id CROSS JOIN trail t ON t.visit_id = v.id
    WHERE instr(lower(b.name), lower(:words))
    AND t.frame_id IS NOT NULL AND t.removed_json IS NULL"""
"""CROSS JOIN keeps the order: the few cameras first, not all trails."""
_LEAN = "FROM frames f LEFT JOIN maps m INDEXED BY maps_listed ON m.frame_id = f.id"
"""What lists are sorted by stands in an index: reading past the maps themselves takes seconds."""


@dataclass(frozen=True, kw_only=True)
class NewFrame:
    """A frame about to be added."""

    sha256: str
    size: int
    name: str
    source: Source
    note: str = ""
    sensor_mm: tuple[float, float] | None = None


@dataclass(frozen=True)
class MapSummary:
    """What lists show of a map; ``shows_from``: f-numbers from which its spots are visible.

    ``f_number``: the aperture it was made with; None where none is recorded.
    """

    version: int
    fit: bool
    count: int
    shows_from: tuple[float, ...]
    camera: str | None
    taken_at: str | None
    f_number: float | None

    def relevant(self, works_at: float) -> int | None:
        """Spots visible at an aperture; None where that cannot be worked out."""
        if self.f_number is None:
            return None
        return sum(1 for f in self.shows_from if f <= works_at)


@dataclass(frozen=True)
class StoredFrame:
    """A frame's row. ``summary`` is None until it was measured.

    ``trouble``: why it could not be measured when last tried, for want of a map. ``visit_id``: the
    newest visit it lies on, ``body_name`` of whom. ``seeks``: it looks for its camera.
    ``f_number``: the aperture that the user entered.
    """

    id: int
    sha256: str
    name: str
    source: Source
    note: str
    sensor_mm: tuple[float, float] | None
    added_at: str
    summary: MapSummary | None
    trouble: str | None
    visit_id: int | None = None
    seeks: bool = False
    body_name: str | None = None
    f_number: float | None = None


@dataclass(frozen=True)
class CameraSearch:
    """A frame that looks for its camera; ``body_id``: the one it was sent for, if any."""

    frame_id: int
    body_id: int | None


_SELECT = """
SELECT f.*, m.version AS map_version, m.fit, m.spot_count, m.shows_from, m.camera, m.taken_at,
    m.f_number AS map_f_number,
    CASE WHEN m.frame_id IS NULL THEN (
        SELECT CASE j.state WHEN 'failed' THEN j.error
                            WHEN 'cancelled' THEN 'Measuring was stopped.' END
        FROM jobs j WHERE j.frame_id = f.id ORDER BY j.id DESC LIMIT 1) END AS trouble,
    (SELECT max(t.visit_id) FROM trail t WHERE t.frame_id = f.id AND t.removed_json IS NULL)
        AS visit_id,
    (SELECT b.name FROM trail t JOIN visits v ON v.id = t.visit_id JOIN bodies b
        ON b.id = v.body_id WHERE t.frame_id = f.id AND t.removed_json IS NULL
        ORDER BY v.id DESC LIMIT 1) AS body_name,
    EXISTS (SELECT 1 FROM seekers s WHERE s.frame_id = f.id) AS seeks
FROM frames f LEFT JOIN maps m ON m.frame_id = f.id
"""


def _frame(row: sqlite3.Row) -> StoredFrame:
    sensor = None
    if row["sensor_width_mm"] is not None:
        sensor = (row["sensor_width_mm"], row["sensor_height_mm"])
    summary = None
    if row["map_version"] is not None:
        summary = MapSummary(
            row["map_version"],
            bool(row["fit"]),
            row["spot_count"],
            tuple(json.loads(row["shows_from"])),
            row["camera"],
            row["taken_at"],
            row["map_f_number"],
        )
    return StoredFrame(
        row["id"],
        require_sha256(row["sha256"]),
        row["name"],
        row["source"],
        row["note"],
        sensor,
        row["added_at"],
        summary,
        row["trouble"],
        row["visit_id"],
        bool(row["seeks"]),
        row["body_name"],
        row["f_number"],
    )


def add_frame(connection: sqlite3.Connection, frame: NewFrame) -> tuple[int, bool]:
    """Add a frame; gives its id and whether it is new. The same content is the same frame."""
    row = connection.execute("SELECT id FROM frames WHERE sha256 = ?", (frame.sha256,)).fetchone()
    if row:
        return row["id"], False
    connection.execute(
        "INSERT OR IGNORE INTO originals (sha256, bytes, stored_at) VALUES (?, ?, ?)",
        (frame.sha256, frame.size, now()),
    )
    cursor = connection.execute(
        "INSERT INTO frames (sha256, name, source, note, sensor_width_mm, sensor_height_mm, "
        "added_at) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (
            frame.sha256,
            frame.name,
            frame.source,
            frame.note,
            *(frame.sensor_mm or (None, None)),
            now(),
        ),
    )
    assert cursor.lastrowid is not None
    return cursor.lastrowid, True


def frame_by_id(connection: sqlite3.Connection, frame_id: int) -> StoredFrame | None:
    """One frame, or None."""
    row = connection.execute(f"{_SELECT} WHERE f.id = ?", (frame_id,)).fetchone()
    return _frame(row) if row else None


def list_frames(
    connection: sqlite3.Connection,
    first: int = 0,
    count: int = 60,
    *,
    words: str = "",
    only: OnlyFrames = "all",
    order: FrameOrder = "newest",
) -> tuple[list[StoredFrame], int]:
    """A page of frames, and how many there are of their sort.

    ``words``: part of a frame's name, note, camera, or of the body whose visit it lies on.
    """
    lean = _LEAN if only == "unfit" or order in ("taken", "spots") else "FROM frames f"
    where = f"WHERE {_ONLY[only]}"
    found = sorted(_found(connection, words), reverse=order == "newest") if words else None
    if found is not None and only == "all" and order in ("newest", "oldest"):
        total, ids = len(found), found[first : first + count]
    else:
        given = () if found is None else (json.dumps(found),)
        where += " AND f.id IN (SELECT value FROM json_each(?))" if given else ""
        total = connection.execute(f"SELECT count(*) {lean} {where}", given).fetchone()[0]
        page = f"SELECT f.id {lean} {where} ORDER BY {_ORDERS[order]} LIMIT ? OFFSET ?"
        ids = [row["id"] for row in connection.execute(page, (*given, count, first))]
    rows = connection.execute(
        f"{_SELECT} WHERE f.id IN (SELECT value FROM json_each(?))", (json.dumps(ids),)
    )
    frames = {row["id"]: _frame(row) for row in rows}
    return [frames[i] for i in ids], int(total)


def _found(connection: sqlite3.Connection, words: str) -> set[int]:
    """Ids of frames that words lead to. There can be very many: each query answers with one row."""
    found: set[int] = set()
    for query in (_BY_TEXT, _BY_CAMERA, _BY_BODY):
        [ids] = connection.execute(query, {"words": words}).fetchone()
        found.update(json.loads(ids))
    return found


def frames_to_measure(connection: sqlite3.Connection) -> list[tuple[int, str]]:
    """Ids and names of frames acknowledged but never measured, nor waiting, nor given up."""
    rows = connection.execute(
        "SELECT f.id, f.name FROM frames f LEFT JOIN maps m ON m.frame_id = f.id "
        "WHERE m.frame_id IS NULL AND NOT EXISTS (SELECT 1 FROM jobs j WHERE j.frame_id = f.id "
        "AND j.state IN ('queued', 'running', 'failed', 'cancelled'))"
    )
    return [(row["id"], row["name"]) for row in rows]


def is_kept(connection: sqlite3.Connection, sha256: str) -> bool:
    """Whether a frame of this content is in the library."""
    row = connection.execute("SELECT 1 FROM frames WHERE sha256 = ?", (sha256,)).fetchone()
    return row is not None


def hashes_of_measured(connection: sqlite3.Connection) -> list[tuple[int, str, str]]:
    """Id, name and hash of every frame that has a map."""
    rows = connection.execute(
        "SELECT f.id, f.name, f.sha256 FROM frames f JOIN maps m ON m.frame_id = f.id"
    )
    return [(row["id"], row["name"], require_sha256(row["sha256"])) for row in rows]


def originals_noted(connection: sqlite3.Connection) -> dict[str, tuple[int, str]]:
    """Size in bytes and time of storing of every original, by its hash."""
    rows = connection.execute("SELECT sha256, bytes, stored_at FROM originals")
    return {require_sha256(row["sha256"]): (row["bytes"], row["stored_at"]) for row in rows}


def set_sensor(
    connection: sqlite3.Connection, frame_id: int, sensor_mm: tuple[float, float] | None
) -> None:
    """Remember the sensor size the user gave for a frame."""
    connection.execute(
        "UPDATE frames SET sensor_width_mm = ?, sensor_height_mm = ? WHERE id = ?",
        (*(sensor_mm or (None, None)), frame_id),
    )


def set_aperture(connection: sqlite3.Connection, frame_id: int, f_number: float | None) -> None:
    """Keep the aperture the user gave for a frame whose file has none."""
    connection.execute("UPDATE frames SET f_number = ? WHERE id = ?", (f_number, frame_id))


def remove_frame(connection: sqlite3.Connection, frame_id: int) -> str | None:
    """Remove a frame with its map; gives the hash of the original, now unused, or None.

    Work on it ends with it. The same content belongs to one frame only.
    """
    row = connection.execute("SELECT sha256 FROM frames WHERE id = ?", (frame_id,)).fetchone()
    if row is None:
        return None
    require_sha256(row["sha256"])
    connection.execute(
        "UPDATE jobs SET state = 'cancelled', finished_at = ? WHERE frame_id = ? "
        "AND state IN ('queued', 'running')",
        (now(), frame_id),
    )
    connection.execute(
        "UPDATE visits SET version = version + 1 WHERE id IN "
        "(SELECT visit_id FROM trail WHERE frame_id = ?)",
        (frame_id,),
    )
    connection.execute("DELETE FROM frames WHERE id = ?", (frame_id,))
    connection.execute("DELETE FROM originals WHERE sha256 = ?", (row["sha256"],))
    return str(row["sha256"])


def seek_camera(connection: sqlite3.Connection, frame_id: int, body_id: int | None) -> None:
    """Note that a frame looks for its camera."""
    connection.execute(
        "INSERT INTO seekers (frame_id, body_id) VALUES (?, ?) "
        "ON CONFLICT (frame_id) DO UPDATE SET body_id = coalesce(excluded.body_id, body_id)",
        (frame_id, body_id),
    )


def camera_search_of(connection: sqlite3.Connection, frame_id: int) -> CameraSearch | None:
    """What a frame looks for; None where it does not."""
    row = connection.execute("SELECT * FROM seekers WHERE frame_id = ?", (frame_id,)).fetchone()
    return None if row is None else CameraSearch(row["frame_id"], row["body_id"])


def other_searches(connection: sqlite3.Connection, frame_id: int, most: int = 200) -> list[int]:
    """Other measured frames that look for their camera, of any."""
    rows = connection.execute(
        "SELECT s.frame_id FROM seekers s JOIN maps m ON m.frame_id = s.frame_id "
        "WHERE s.body_id IS NULL AND s.frame_id <> ? ORDER BY s.frame_id LIMIT ?",
        (frame_id, most),
    )
    return [int(row["frame_id"]) for row in rows]


def stop_searching(connection: sqlite3.Connection, frame_id: int) -> None:
    """A frame has found its camera, or needs none."""
    connection.execute("DELETE FROM seekers WHERE frame_id = ?", (frame_id,))
