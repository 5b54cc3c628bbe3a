"""Booked jobs and the bodies they need."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from datetime import date

from neatpatch.core.kit.readiness import BodyNow, BookedJob
from neatpatch.store.bodies import stored_body

_SELECT = (
    "SELECT b.*, (SELECT group_concat(body_id) FROM booking_bodies x WHERE x.booking_id = b.id)"
    " AS bodies FROM bookings b"
)


def list_bookings(connection: sqlite3.Connection, since: str) -> list[BookedJob]:
    """Jobs that begin on a day or later, by day."""
    rows = connection.execute(
        f"{_SELECT} WHERE b.starts_on >= ? ORDER BY b.starts_on, b.id", (since,)
    )
    return [_booking(row) for row in rows]


def _booking(row: sqlite3.Row) -> BookedJob:
    bodies = tuple(sorted(int(b) for b in (row["bodies"] or "").split(",") if b))
    return BookedJob(
        id=row["id"],
        name=row["name"],
        starts_on=row["starts_on"],
        note=row["note"],
        body_ids=bodies,
        version=row["version"],
    )


def booking_by_id(connection: sqlite3.Connection, booking_id: int) -> BookedJob | None:
    """One job, or None."""
    row = connection.execute(f"{_SELECT} WHERE b.id = ?", (booking_id,)).fetchone()
    return _booking(row) if row else None


def add_booking(connection: sqlite3.Connection, job: BookedJob) -> int:
    """Book a job; gives its id."""
    cursor = connection.execute(
        "INSERT INTO bookings (name, starts_on, note) VALUES (?, ?, ?)",
        (job.name, job.starts_on.isoformat(), job.note),
    )
    assert cursor.lastrowid is not None
    _set_bodies(connection, cursor.lastrowid, job)
    return cursor.lastrowid


def change_booking(connection: sqlite3.Connection, booking_id: int, job: BookedJob) -> bool:
    """Replace a job; False when there is none of this id."""
    cursor = connection.execute(
        "UPDATE bookings SET name = ?, starts_on = ?, note = ?, version = version + 1 WHERE id = ?",
        (job.name, job.starts_on.isoformat(), job.note, booking_id),
    )
    if cursor.rowcount:
        _set_bodies(connection, booking_id, job)
    return cursor.rowcount > 0


def remove_booking(connection: sqlite3.Connection, booking_id: int) -> None:
    """Take a job out of the calendar."""
    connection.execute("DELETE FROM bookings WHERE id = ?", (booking_id,))


def next_job_of(connection: sqlite3.Connection, body_id: int, since: str) -> date | None:
    """First day of the next job that needs a body, or None."""
    row = connection.execute(
        "SELECT min(b.starts_on) AS day FROM bookings b JOIN booking_bodies x "
        "ON x.booking_id = b.id WHERE x.body_id = ? AND b.starts_on >= ?",
        (body_id, since),
    ).fetchone()
    return date.fromisoformat(row["day"]) if row["day"] else None


def bodies_now(connection: sqlite3.Connection, body_ids: Sequence[int]) -> list[BodyNow]:
    """Bodies with their last look and what was left then; ids that are gone are left out."""
    rows = connection.execute(
        "SELECT b.*, o.id AS open_visit_id, t.at AS last_look_on, l.last_relevant AS relevant "
        "FROM json_each(?) j JOIN bodies b ON b.id = j.value "
        "LEFT JOIN visits o ON o.body_id = b.id AND o.state = 'open' "
        "LEFT JOIN trail t ON t.id = (SELECT f.id FROM visits v JOIN trail f ON f.visit_id = v.id "
        "JOIN maps m INDEXED BY maps_fit ON m.frame_id = f.frame_id WHERE v.body_id = b.id "
        "AND m.fit = 1 ORDER BY v.opened_at DESC, f.id DESC LIMIT 1) "
        "LEFT JOIN visits l ON l.id = t.visit_id ORDER BY b.id",
        (json.dumps(list(body_ids)),),
    )
    return [
        BodyNow(
            id=row["id"],
            body=stored_body(row).body,
            open_visit_id=row["open_visit_id"],
            last_look_on=row["last_look_on"],
            relevant=row["relevant"],
        )
        for row in rows
    ]


def _set_bodies(connection: sqlite3.Connection, booking_id: int, job: BookedJob) -> None:
    connection.execute("DELETE FROM booking_bodies WHERE booking_id = ?", (booking_id,))
    connection.executemany(
        "INSERT INTO booking_bodies (booking_id, body_id) SELECT ?, id FROM bodies WHERE id = ?",
        [(booking_id, body_id) for body_id in dict.fromkeys(job.body_ids)],
    )
