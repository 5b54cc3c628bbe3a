"""Camera bodies."""

from __future__ import annotations

import functools
import sqlite3
from dataclasses import dataclass
from typing import Any, Literal, get_args, get_type_hints

from neatpatch.core.visit.body import Body
from neatpatch.store.database import now

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


_SENSOR = ("sensor_width_mm", "sensor_height_mm")
_AS_THEY_ARE = tuple(name for name in Body.model_fields if name not in ("sensor_mm", "works_at"))
"""Fields whose column has the same name and holds the same value."""
_FLAGS = frozenset(
    name for name, kind in get_type_hints(Body).items() if bool in (kind, *get_args(kind))
)
_COLUMNS = (*_AS_THEY_ARE, *_SENSOR, "works_at")
_MOST_KEPT = 4096


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


def stored_body(row: sqlite3.Row) -> StoredBody:
    """The body of a row, whatever other columns it has."""
    return StoredBody(
        row["id"], _body(tuple(row[c] for c in _COLUMNS)), row["source"], row["version"]
    )


@functools.lru_cache(_MOST_KEPT)
def _body(values: tuple[Any, ...]) -> Body:
    """A body from the values of its columns; lists read the same ones again and again."""
    given = dict(zip(_COLUMNS, values, strict=True))
    width, height = (given.pop(side) for side in _SENSOR)
    apertures = tuple(float(n) for n in given.pop("works_at").split(","))
    flags = {name: bool(given[name]) for name in _FLAGS if given[name] is not None}
    return Body(**{**given, **flags, "sensor_mm": (width, height), "works_at": apertures})


def _values(body: Body) -> tuple[object, ...]:
    """The values of its columns, in their order."""
    given = body.model_dump(mode="json")
    apertures = ",".join(f"{n:g}" for n in body.works_at)
    return (*(given[name] for name in _AS_THEY_ARE), *body.sensor_mm, apertures)


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
    """Replace a body."""
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
