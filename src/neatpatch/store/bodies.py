"""Camera bodies."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Literal

from neatpatch.core.visit.body import Body
from neatpatch.store.database import day_text, now

BodySource = Literal["own", "demo"]
BodyOrder = Literal["name", "next_look", "last_look", "visible", "serial"]
OnlyBodies = Literal["all", "work", "open", "away"]
_ONLY: dict[OnlyBodies, str] = {
    "all": "1",
    "work": "(l.last_relevant > 0 OR l.look_again_on <= date('now', 'localtime') OR l.id IS NULL)",
    "open": "EXISTS (SELECT 1 FROM visits o WHERE o.body_id = b.id AND o.state = 'open')",
    "away": "l.verdict = 'sent' AND NOT EXISTS (SELECT 1 FROM visits o "
    "WHERE o.body_id = b.id AND o.state = 'open')",
}
_ORDERS: dict[BodyOrder, str] = {
    "name": "b.name",
    "next_look": "l.look_again_on IS NULL, l.look_again_on",
    "last_look": "l.closed_at IS NULL, l.closed_at DESC",
    "visible": "l.last_relevant IS NULL, l.last_relevant DESC",
    "serial": "b.serial = '', b.serial",
}
_COLUMNS = (
    "name",
    "camera_name",
    "access",
    "sensor_width_mm",
    "sensor_height_mm",
    "stabilised",
    "hold_rule",
    "hold_note",
    "self_clean",
    "filter_removed",
    "guarantee_until",
    "flange_mm",
    "works_at",
    "lockup_note",
    "pitch_um",
    "stack_mm",
    "lockup_minutes",
    "chamber_mm",
    "lens_focal_mm",
    "lens_smallest_f",
    "closes_when_off",
    "modifier_allows",
    "serial",
    "shake_note",
    "cleaning_note",
    "latch_note",
    "no_guarantee",
    "serviced_on",
)


@dataclass(frozen=True)
class StoredBody:
    """A body's row."""

    id: int
    body: Body
    source: BodySource
    version: int


@dataclass(frozen=True)
class BodyListing:
    """A body with the visit that matters most in a list: the open one, else the last closed."""

    stored: StoredBody
    open_visit_id: int | None
    visits: int
    last_closed_at: str | None
    last_verdict: str | None
    last_relevant: int | None
    look_again_on: str | None


def _flag(value: int | None) -> bool | None:
    return None if value is None else bool(value)


def stored_body(row: sqlite3.Row) -> StoredBody:
    """A body from its row, whatever else is in it."""
    body = Body(
        name=row["name"],
        camera_name=row["camera_name"],
        access=row["access"],
        sensor_mm=(row["sensor_width_mm"], row["sensor_height_mm"]),
        stabilised=_flag(row["stabilised"]),
        hold_rule=row["hold_rule"],
        hold_note=row["hold_note"],
        self_clean=bool(row["self_clean"]),
        filter_removed=bool(row["filter_removed"]),
        guarantee_until=row["guarantee_until"],
        flange_mm=row["flange_mm"],
        lockup_note=row["lockup_note"],
        pitch_um=row["pitch_um"],
        works_at=tuple(float(n) for n in row["works_at"].split(",")),
        stack_mm=row["stack_mm"],
        lockup_minutes=row["lockup_minutes"],
        chamber_mm=row["chamber_mm"],
        lens_focal_mm=row["lens_focal_mm"],
        lens_smallest_f=row["lens_smallest_f"],
        closes_when_off=_flag(row["closes_when_off"]),
        modifier_allows=_flag(row["modifier_allows"]),
        serial=row["serial"],
        shake_note=row["shake_note"],
        cleaning_note=row["cleaning_note"],
        latch_note=row["latch_note"],
        no_guarantee=bool(row["no_guarantee"]),
        serviced_on=row["serviced_on"],
    )
    return StoredBody(row["id"], body, row["source"], row["version"])


def _values(body: Body) -> tuple[object, ...]:
    return (
        body.name,
        body.camera_name,
        body.access,
        *body.sensor_mm,
        body.stabilised,
        body.hold_rule,
        body.hold_note,
        body.self_clean,
        body.filter_removed,
        day_text(body.guarantee_until),
        body.flange_mm,
        ",".join(f"{n:g}" for n in body.works_at),
        body.lockup_note,
        body.pitch_um,
        body.stack_mm,
        body.lockup_minutes,
        body.chamber_mm,
        body.lens_focal_mm,
        body.lens_smallest_f,
        body.closes_when_off,
        body.modifier_allows,
        body.serial,
        body.shake_note,
        body.cleaning_note,
        body.latch_note,
        body.no_guarantee,
        day_text(body.serviced_on),
    )


def name_taken(connection: sqlite3.Connection, name: str, but: int | None = None) -> bool:
    """Whether another body has this name, capitals aside."""
    row = connection.execute("SELECT id FROM bodies WHERE name = ?", (name,)).fetchone()
    return row is not None and row["id"] != but


def add_body(connection: sqlite3.Connection, body: Body, source: BodySource = "own") -> int:
    """Add a body; gives its id."""
    marks = ", ".join("?" * (len(_COLUMNS) + 2))
    cursor = connection.execute(
        f"INSERT INTO bodies ({', '.join(_COLUMNS)}, source, created_at) VALUES ({marks})",
        (*_values(body), source, now()),
    )
    assert cursor.lastrowid is not None
    return cursor.lastrowid


def change_body(connection: sqlite3.Connection, body_id: int, body: Body) -> None:
    """Write a body anew."""
    names = ", ".join(f"{c} = ?" for c in _COLUMNS)
    connection.execute(
        f"UPDATE bodies SET {names}, version = version + 1 WHERE id = ?", (*_values(body), body_id)
    )


def came_back(connection: sqlite3.Connection, body_id: int, on: str) -> None:
    """A body is back from a service: months are counted from this day."""
    connection.execute(
        "UPDATE bodies SET serviced_on = ?, version = version + 1 WHERE id = ?", (on, body_id)
    )


def remove_body(connection: sqlite3.Connection, body_id: int) -> None:
    """Remove a body with its visits. Frames stay."""
    connection.execute("DELETE FROM bodies WHERE id = ?", (body_id,))


def body_by_id(connection: sqlite3.Connection, body_id: int) -> StoredBody | None:
    """One body, or None."""
    row = connection.execute("SELECT * FROM bodies WHERE id = ?", (body_id,)).fetchone()
    return stored_body(row) if row else None


def all_bodies(connection: sqlite3.Connection) -> list[StoredBody]:
    """Every body, by name."""
    return [stored_body(row) for row in connection.execute("SELECT * FROM bodies ORDER BY name")]


def name_of(connection: sqlite3.Connection) -> dict[int, str]:
    """Names of all bodies by their ids."""
    return {row["id"]: row["name"] for row in connection.execute("SELECT id, name FROM bodies")}


def list_bodies(
    connection: sqlite3.Connection,
    *,
    first: int = 0,
    count: int = 50,
    words: str = "",
    order: BodyOrder = "name",
    only: OnlyBodies = "all",
) -> tuple[list[BodyListing], int]:
    """A page of bodies, and how many there are in all. What has nothing to order by comes last.

    ``words`` filters by name or serial number, ``only`` by how a camera stands: work to do on it, a
    visit open, away at a service.
    """
    source = (
        "FROM bodies b LEFT JOIN visits l ON l.id = (SELECT v.id FROM visits v "
        "WHERE v.body_id = b.id AND v.state = 'closed' ORDER BY v.opened_at DESC LIMIT 1) "
        "WHERE (instr(lower(b.name), lower(?1)) > 0 OR instr(lower(b.serial), lower(?1)) > 0) "
        f"AND {_ONLY[only]}"
    )
    total = connection.execute(f"SELECT count(*) {source}", (words,)).fetchone()[0]
    rows = connection.execute(
        "SELECT b.*, "
        "(SELECT v.id FROM visits v WHERE v.body_id = b.id AND v.state = 'open') AS open_id, "
        "(SELECT count(*) FROM visits v WHERE v.body_id = b.id) AS visit_count, "
        "l.closed_at AS last_at, l.verdict AS last_verdict, l.last_relevant AS last_relevant, "
        f"l.look_again_on AS look_again_on {source} "
        f"ORDER BY {_ORDERS[order]}, b.name LIMIT ?2 OFFSET ?3",
        (words, count, first),
    )
    found = [
        BodyListing(
            stored_body(row),
            row["open_id"],
            row["visit_count"],
            row["last_at"],
            row["last_verdict"],
            row["last_relevant"],
            row["look_again_on"],
        )
        for row in rows
    ]
    return found, int(total)


def learn(
    connection: sqlite3.Connection,
    body_id: int,
    *,
    camera_name: str | None,
    serial: str,
    pitch_um: float | None,
    stack_mm: float | None,
) -> None:
    """Keep what a frame taught; what is known already stays, but for the stack height."""
    connection.execute(
        "UPDATE bodies SET camera_name = coalesce(camera_name, ?), "
        "serial = CASE serial WHEN '' THEN ? ELSE serial END, "
        "pitch_um = coalesce(pitch_um, ?), stack_mm = coalesce(?, stack_mm), "
        "version = version + (camera_name IS NULL AND ? IS NOT NULL) WHERE id = ?",
        (camera_name, serial, pitch_um, stack_mm, camera_name, body_id),
    )
