"""Sets of ordinary pictures as rows."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from neatpatch.store.database import now

SetKind = Literal["patch", "arrivals"]
Work = Literal["look", "write", "search"]
SetState = Literal["waiting", "working", "stopped", "done", "failed"]
Only = Literal["all", "ready", "refused", "left", "written"]


@dataclass(frozen=True, kw_only=True)
class PictureSet:
    """One set's row."""

    id: int
    body_id: int
    kind: SetKind
    folder: str
    frame_id: int | None
    map_json: str | None
    out_folder: str
    work: Work
    state: SetState
    step: str
    progress: float
    error: str | None
    veto: tuple[str, ...]
    result_json: str | None
    created_at: str


@dataclass(frozen=True, kw_only=True)
class PictureRow:
    """One picture of a set."""

    number: int
    path: str
    looked_json: str | None
    leave: bool
    veto: tuple[str, ...]
    done_json: str | None


def _set(row: sqlite3.Row) -> PictureSet:
    known = {name: row[name] for name in row.keys() if name != "veto_json"}  # noqa: SIM118
    return PictureSet(**known, veto=tuple(json.loads(row["veto_json"])))


def _picture(row: sqlite3.Row) -> PictureRow:
    return PictureRow(
        number=row["number"],
        path=row["path"],
        looked_json=row["looked_json"],
        leave=bool(row["leave"]),
        veto=tuple(json.loads(row["veto_json"])),
        done_json=row["done_json"],
    )


def add_set(
    connection: sqlite3.Connection,
    body_id: int,
    kind: SetKind,
    folder: str,
    *,
    frame_id: int | None = None,
    map_json: str | None = None,
) -> int:
    """Add a set whose first work waits."""
    work = "look" if kind == "patch" else "search"
    cursor = connection.execute(
        "INSERT INTO picture_sets (body_id, kind, folder, frame_id, map_json, work, state, "
        "created_at) VALUES (?, ?, ?, ?, ?, ?, 'waiting', ?)",
        (body_id, kind, folder, frame_id, map_json, work, now()),
    )
    assert cursor.lastrowid is not None
    return cursor.lastrowid


def set_by_id(connection: sqlite3.Connection, set_id: int) -> PictureSet | None:
    """One set, or None."""
    row = connection.execute("SELECT * FROM picture_sets WHERE id = ?", (set_id,)).fetchone()
    return _set(row) if row else None


def all_sets(connection: sqlite3.Connection, count: int = 100) -> list[PictureSet]:
    """The newest sets first."""
    rows = connection.execute("SELECT * FROM picture_sets ORDER BY id DESC LIMIT ?", (count,))
    return [_set(row) for row in rows]


def remove_set(connection: sqlite3.Connection, set_id: int) -> None:
    """Forget a set; the pictures' files are not touched."""
    connection.execute("DELETE FROM picture_sets WHERE id = ?", (set_id,))


def take_next(connection: sqlite3.Connection) -> PictureSet | None:
    """Mark the oldest waiting set as worked on, and give it."""
    row = connection.execute(
        "SELECT id FROM picture_sets WHERE state = 'waiting' ORDER BY id LIMIT 1"
    ).fetchone()
    if row is None:
        return None
    connection.execute("UPDATE picture_sets SET state = 'working' WHERE id = ?", (row["id"],))
    return set_by_id(connection, row["id"])


def request_work(
    connection: sqlite3.Connection, set_id: int, work: Work, out_folder: str | None = None
) -> None:
    """Let a set wait for work."""
    connection.execute(
        "UPDATE picture_sets SET work = ?, state = 'waiting', step = '', progress = 0, "
        "error = NULL, out_folder = coalesce(?, out_folder) WHERE id = ?",
        (work, out_folder, set_id),
    )


def stop(connection: sqlite3.Connection, set_id: int) -> None:
    """Say that work on a set is wanted no more; what was done stays."""
    connection.execute(
        "UPDATE picture_sets SET state = 'stopped' "
        "WHERE id = ? AND state IN ('waiting', 'working')",
        (set_id,),
    )


def report(connection: sqlite3.Connection, set_id: int, progress: float, step: str) -> None:
    """How far the work is."""
    connection.execute(
        "UPDATE picture_sets SET progress = ?, step = ? WHERE id = ? AND state = 'working'",
        (progress, step, set_id),
    )


def finish(
    connection: sqlite3.Connection, set_id: int, state: SetState, error: str | None = None
) -> None:
    """End the work on a set, unless it was stopped meanwhile."""
    connection.execute(
        "UPDATE picture_sets SET state = ?, error = ?, "
        "progress = CASE WHEN ? = 'done' THEN 1.0 ELSE progress END "
        "WHERE id = ? AND state = 'working'",
        (state, error, state, set_id),
    )


def requeue_interrupted(connection: sqlite3.Connection) -> None:
    """After a restart: what was worked on waits again."""
    connection.execute("UPDATE picture_sets SET state = 'waiting' WHERE state = 'working'")


def keep_result(connection: sqlite3.Connection, set_id: int, result_json: str) -> None:
    """Keep what a search found."""
    connection.execute(
        "UPDATE picture_sets SET result_json = ? WHERE id = ?", (result_json, set_id)
    )


def put_pictures(connection: sqlite3.Connection, set_id: int, paths: Sequence[str]) -> None:
    """The pictures of a set, once; those known keep what is known of them."""
    connection.executemany(
        "INSERT OR IGNORE INTO pictures (set_id, number, path) VALUES (?, ?, ?)",
        [(set_id, number, path) for number, path in enumerate(paths, start=1)],
    )


def all_pictures(connection: sqlite3.Connection, set_id: int) -> list[PictureRow]:
    """Every picture of a set by number."""
    rows = connection.execute("SELECT * FROM pictures WHERE set_id = ? ORDER BY number", (set_id,))
    return [_picture(row) for row in rows]


_ONLY: dict[Only, str] = {
    "all": "",
    "ready": "AND leave = 0 AND json_extract(looked_json, '$.why_not') IS NULL "
    "AND looked_json IS NOT NULL",
    "refused": "AND json_extract(looked_json, '$.why_not') IS NOT NULL",
    "left": "AND leave = 1",
    "written": "AND json_extract(done_json, '$.out') IS NOT NULL",
}


def page_of(
    connection: sqlite3.Connection, set_id: int, only: Only, first: int, count: int
) -> tuple[list[PictureRow], int]:
    """A page of a set's pictures, and how many there are of that sort."""
    where = f"FROM pictures WHERE set_id = ? {_ONLY[only]}"
    total = connection.execute(f"SELECT count(*) {where}", (set_id,)).fetchone()[0]
    rows = connection.execute(
        f"SELECT * {where} ORDER BY number LIMIT ? OFFSET ?", (set_id, count, first)
    )
    return [_picture(row) for row in rows], int(total)


def counts_of(connection: sqlite3.Connection, set_id: int) -> dict[str, int]:
    """How many pictures there are, looked at, refused, left and written."""
    row = connection.execute(
        "SELECT count(*) AS total, count(looked_json) AS looked, "
        "sum(json_extract(looked_json, '$.why_not') IS NOT NULL AND looked_json IS NOT NULL) "
        "AS refused, sum(leave) AS left_alone, "
        "sum(json_extract(done_json, '$.out') IS NOT NULL AND done_json IS NOT NULL) AS written "
        "FROM pictures WHERE set_id = ?",
        (set_id,),
    ).fetchone()
    return {name: int(row[name] or 0) for name in row.keys()}  # noqa: SIM118


def picture_of(connection: sqlite3.Connection, set_id: int, number: int) -> PictureRow | None:
    """One picture, or None."""
    row = connection.execute(
        "SELECT * FROM pictures WHERE set_id = ? AND number = ?", (set_id, number)
    ).fetchone()
    return _picture(row) if row else None


def keep_looked(connection: sqlite3.Connection, set_id: int, number: int, looked: str) -> None:
    """Keep how the map lies on a picture."""
    connection.execute(
        "UPDATE pictures SET looked_json = ? WHERE set_id = ? AND number = ?",
        (looked, set_id, number),
    )


def keep_done(connection: sqlite3.Connection, set_id: int, number: int, done: str) -> None:
    """Keep what was written of a picture."""
    connection.execute(
        "UPDATE pictures SET done_json = ? WHERE set_id = ? AND number = ?", (done, set_id, number)
    )


def forget_done(connection: sqlite3.Connection, set_id: int) -> None:
    """Before copies go to another folder: none was written there yet."""
    connection.execute("UPDATE pictures SET done_json = NULL WHERE set_id = ?", (set_id,))


def maps_of_body(connection: sqlite3.Connection, body_id: int) -> list[dict[str, Any]]:
    """Measured frames on a body's trails that hold spots: the newest first."""
    found = connection.execute(
        "SELECT DISTINCT f.id AS frame_id, f.name, "
        "json_extract(m.map_json, '$.frames[0].taken_at') AS taken_at, "
        "json_extract(m.map_json, '$.summary.count') AS count, "
        "json_extract(m.map_json, '$.fit') AS fit, "
        "t.id = (SELECT min(o.id) FROM trail o WHERE o.visit_id = v.id "
        "AND o.removed_json IS NULL AND o.frame_id IS NOT NULL) AS begins_visit "
        "FROM visits v JOIN trail t ON t.visit_id = v.id AND t.removed_json IS NULL "
        "JOIN frames f ON f.id = t.frame_id JOIN maps m ON m.frame_id = f.id "
        "WHERE v.body_id = ? AND json_extract(m.map_json, '$.summary.count') > 0 "
        "ORDER BY taken_at DESC, f.id DESC LIMIT 100",
        (body_id,),
    )
    flags = ("fit", "begins_visit")
    return [{**dict(row), **{name: bool(row[name]) for name in flags}} for row in found]


def put_veto(connection: sqlite3.Connection, set_id: int, ids: Sequence[str]) -> None:
    """Spots to leave in all pictures of a set."""
    connection.execute(
        "UPDATE picture_sets SET veto_json = ? WHERE id = ?", (json.dumps(list(ids)), set_id)
    )


def put_choice(
    connection: sqlite3.Connection, set_id: int, number: int, *, leave: bool, veto: Sequence[str]
) -> None:
    """What the owner wants of one picture."""
    connection.execute(
        "UPDATE pictures SET leave = ?, veto_json = ? WHERE set_id = ? AND number = ?",
        (leave, json.dumps(list(veto)), set_id, number),
    )
