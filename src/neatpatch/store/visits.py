"""Visits and their trails; every change raises the version, so that all pages stay in step."""

from __future__ import annotations

import functools
import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from neatpatch.core.kit.stock import Take
from neatpatch.core.visit.body import VisitConditions
from neatpatch.core.visit.trail import Explanation, StepUse, Verdict
from neatpatch.store.database import now

VisitState = Literal["open", "closed"]
_MOST_KEPT = 4096


@dataclass(frozen=True)
class StoredVisit:
    """A visit's row."""

    id: int
    body_id: int
    state: VisitState
    conditions: VisitConditions
    verdict: Verdict | None
    note: str
    until: str | None
    first_relevant: int | None
    last_relevant: int | None
    version: int
    opened_at: str
    closed_at: str | None
    conditions_version: int = 1
    look_again_on: str | None = None


@dataclass(frozen=True)
class StoredEntry:
    """One entry of a trail: a frame, or a step with what it used.

    ``against``: the reason given for doing other than advised. ``accepted``: a frame that seemed
    not to be this body's and was taken all the same. ``who``: a paired device's user who logged it.
    ``explained``: why a frame has nothing in common with the one before it.
    """

    id: int
    frame_id: int | None
    step: str | None
    use: StepUse
    against: str
    accepted: bool
    at: str
    frame_name: str | None
    map_version: int | None
    trouble: str | None
    who: str = ""
    explained: Explanation = ""


@functools.lru_cache(_MOST_KEPT)
def _use(text: str) -> StepUse:
    return StepUse.model_validate_json(text)


@functools.lru_cache(_MOST_KEPT)
def _conditions(text: str) -> VisitConditions:
    return VisitConditions.model_validate_json(text)


def _visit(row: sqlite3.Row) -> StoredVisit:
    return StoredVisit(
        row["id"],
        row["body_id"],
        row["state"],
        _conditions(row["conditions_json"]),
        row["verdict"],
        row["note"],
        row["until"],
        row["first_relevant"],
        row["last_relevant"],
        row["version"],
        row["opened_at"],
        row["closed_at"],
        row["conditions_version"],
        row["look_again_on"],
    )


def open_visit(
    connection: sqlite3.Connection,
    body_id: int,
    conditions: VisitConditions,
    opened_at: str | None = None,
) -> int:
    """Begin a visit; gives its id. The body must have none open."""
    cursor = connection.execute(
        "INSERT INTO visits (body_id, state, conditions_json, opened_at) VALUES (?, 'open', ?, ?)",
        (body_id, conditions.model_dump_json(), opened_at or now()),
    )
    assert cursor.lastrowid is not None
    return cursor.lastrowid


def open_visit_of(connection: sqlite3.Connection, body_id: int) -> int | None:
    """The open visit of a body, or None."""
    row = connection.execute(
        "SELECT id FROM visits WHERE body_id = ? AND state = 'open'", (body_id,)
    ).fetchone()
    return int(row["id"]) if row else None


def visit_by_id(connection: sqlite3.Connection, visit_id: int) -> StoredVisit | None:
    """One visit, or None."""
    row = connection.execute("SELECT * FROM visits WHERE id = ?", (visit_id,)).fetchone()
    return _visit(row) if row else None


def version_of(connection: sqlite3.Connection, visit_id: int) -> int | None:
    """The visit's version, or None when it is gone."""
    row = connection.execute("SELECT version FROM visits WHERE id = ?", (visit_id,)).fetchone()
    return int(row["version"]) if row else None


def visits_of(
    connection: sqlite3.Connection, body_id: int, first: int = 0, count: int = 50
) -> list[StoredVisit]:
    """A page of a body's visits, the newest first."""
    rows = connection.execute(
        "SELECT * FROM visits WHERE body_id = ? ORDER BY opened_at DESC, id DESC LIMIT ? OFFSET ?",
        (body_id, count, first),
    )
    return [_visit(row) for row in rows]


def open_visits(connection: sqlite3.Connection) -> list[StoredVisit]:
    """All open visits, the newest first."""
    rows = connection.execute("SELECT * FROM visits WHERE state = 'open' ORDER BY opened_at DESC")
    return [_visit(row) for row in rows]


def touch(connection: sqlite3.Connection, visit_id: int) -> None:
    """Raise the version."""
    connection.execute("UPDATE visits SET version = version + 1 WHERE id = ?", (visit_id,))


def set_conditions(
    connection: sqlite3.Connection, visit_id: int, conditions: VisitConditions
) -> None:
    """Write the conditions again."""
    connection.execute(
        "UPDATE visits SET conditions_json = ?, conditions_version = conditions_version + 1 "
        "WHERE id = ?",
        (conditions.model_dump_json(), visit_id),
    )
    touch(connection, visit_id)


@dataclass(frozen=True, kw_only=True)
class VisitEnd:
    """How a visit ends. ``until``: put off to; ``closed_at``: when, None for now."""

    verdict: Verdict
    note: str = ""
    until: str | None = None
    look_again_on: str | None = None
    closed_at: str | None = None


def close_visit(connection: sqlite3.Connection, visit_id: int, end: VisitEnd) -> None:
    """End an open visit with its verdict."""
    connection.execute(
        "UPDATE visits SET state = 'closed', verdict = ?, note = ?, until = ?, look_again_on = ?, "
        "closed_at = ? WHERE id = ? AND state = 'open'",
        (
            end.verdict,
            end.note,
            end.until,
            end.look_again_on,
            end.closed_at or now(),
            visit_id,
        ),
    )
    touch(connection, visit_id)


def reopen_visit(connection: sqlite3.Connection, visit_id: int) -> None:
    """Open a closed visit again; its verdict and next look are forgotten, its note stays."""
    connection.execute(
        "UPDATE visits SET state = 'open', verdict = NULL, until = NULL, look_again_on = NULL, "
        "closed_at = NULL WHERE id = ? AND state = 'closed'",
        (visit_id,),
    )
    touch(connection, visit_id)


def visit_before(connection: sqlite3.Connection, body_id: int, visit_id: int) -> StoredVisit | None:
    """The visit of a body before one; None for its first."""
    row = connection.execute(
        "SELECT v.* FROM visits v JOIN visits n ON n.id = ? WHERE v.body_id = ? AND v.id <> n.id "
        "AND v.opened_at <= n.opened_at ORDER BY v.opened_at DESC, v.id DESC LIMIT 1",
        (visit_id, body_id),
    ).fetchone()
    return _visit(row) if row else None


def last_counted_of(connection: sqlite3.Connection, body_id: int) -> StoredVisit | None:
    """The last visit of a body on which visible spots were counted, or None."""
    row = connection.execute(
        "SELECT * FROM visits WHERE body_id = ? AND last_relevant IS NOT NULL "
        "ORDER BY opened_at DESC, id DESC LIMIT 1",
        (body_id,),
    ).fetchone()
    return _visit(row) if row else None


def last_visit(connection: sqlite3.Connection, but: int | None = None) -> StoredVisit | None:
    """The visit begun last, of whatever body."""
    row = connection.execute(
        "SELECT * FROM visits WHERE id IS NOT ? ORDER BY opened_at DESC, id DESC LIMIT 1", (but,)
    ).fetchone()
    return _visit(row) if row else None


@dataclass(frozen=True)
class NextLook:
    """When a body is to be looked at again, by its last closed visit. ``away``: it was sent off;
    ``visible``: spots that it left visible in the work.
    """

    body_id: int
    name: str
    on: str
    away: bool
    visible: int | None


def next_looks(connection: sqlite3.Connection, count: int = 50) -> list[NextLook]:
    """Bodies with a next look and no open visit, the soonest first."""
    rows = connection.execute(
        "SELECT b.id, b.name, v.look_again_on, v.verdict, v.last_relevant FROM bodies b "
        "JOIN visits v ON v.id = "
        "(SELECT w.id FROM visits w WHERE w.body_id = b.id ORDER BY w.opened_at DESC LIMIT 1) "
        "WHERE v.state = 'closed' AND v.look_again_on IS NOT NULL "
        "ORDER BY v.look_again_on, b.name LIMIT ?",
        (count,),
    )
    return [
        NextLook(
            row["id"],
            row["name"],
            row["look_again_on"],
            row["verdict"] == "sent",
            row["last_relevant"],
        )
        for row in rows
    ]


def remember_counts(
    connection: sqlite3.Connection, visit_id: int, first: int | None, last: int | None
) -> None:
    """Relevant spots at the start and now, for lists."""
    connection.execute(
        "UPDATE visits SET first_relevant = ?, last_relevant = ? WHERE id = ?",
        (first, last, visit_id),
    )


def add_frame_entry(
    connection: sqlite3.Connection, visit_id: int, frame_id: int, at: str | None = None
) -> int:
    """Put a frame at the end of a trail; a frame already on it keeps its place."""
    row = connection.execute(
        "SELECT id FROM trail WHERE visit_id = ? AND frame_id = ? AND removed_json IS NULL",
        (visit_id, frame_id),
    ).fetchone()
    if row:
        return int(row["id"])
    connection.execute(
        "DELETE FROM trail WHERE visit_id = ? AND frame_id = ?", (visit_id, frame_id)
    )
    cursor = connection.execute(
        "INSERT INTO trail (visit_id, frame_id, at) VALUES (?, ?, ?)",
        (visit_id, frame_id, at or now()),
    )
    touch(connection, visit_id)
    assert cursor.lastrowid is not None
    return cursor.lastrowid


def add_step_entry(
    connection: sqlite3.Connection,
    visit_id: int,
    step: str,
    use: StepUse,
    against: str = "",
    at: str | None = None,
    who: str = "",
) -> int:
    """Put a step at the end of a trail."""
    cursor = connection.execute(
        "INSERT INTO trail (visit_id, step, use_json, against, at, who) VALUES (?, ?, ?, ?, ?, ?)",
        (visit_id, step, use.model_dump_json(exclude_none=True), against, at or now(), who),
    )
    touch(connection, visit_id)
    assert cursor.lastrowid is not None
    return cursor.lastrowid


def change_use(connection: sqlite3.Connection, visit_id: int, entry_id: int, use: StepUse) -> None:
    """Correct what a step used."""
    connection.execute(
        "UPDATE trail SET use_json = ? WHERE id = ? AND visit_id = ?",
        (use.model_dump_json(exclude_none=True), entry_id, visit_id),
    )
    touch(connection, visit_id)


def accept_frame(connection: sqlite3.Connection, visit_id: int, entry_id: int) -> None:
    """Take a questioned frame as this body's."""
    connection.execute(
        "UPDATE trail SET accepted = 1 WHERE id = ? AND visit_id = ?", (entry_id, visit_id)
    )
    touch(connection, visit_id)


def explain_frame(
    connection: sqlite3.Connection, visit_id: int, entry_id: int, explained: Explanation
) -> None:
    """Keep why a frame has nothing in common with the one before it."""
    connection.execute(
        "UPDATE trail SET explained = ? WHERE id = ? AND visit_id = ?",
        (explained, entry_id, visit_id),
    )
    touch(connection, visit_id)


def remove_entry(
    connection: sqlite3.Connection, visit_id: int, entry_id: int, taken: Sequence[Take]
) -> None:
    """Take an entry off the trail, so that it can be put back; its frame stays in the archive.

    ``taken``: what its step had taken of the kit.
    """
    connection.execute(
        "UPDATE trail SET removed_json = ? WHERE id = ? AND visit_id = ?",
        (json.dumps([[t.kit_id, t.amount] for t in taken]), entry_id, visit_id),
    )
    touch(connection, visit_id)


def put_back(connection: sqlite3.Connection, visit_id: int, entry_id: int) -> list[Take] | None:
    """Put an entry back in its place; gives what its step had taken. None when it is not there."""
    row = connection.execute(
        "SELECT removed_json FROM trail WHERE id = ? AND visit_id = ? AND removed_json IS NOT NULL",
        (entry_id, visit_id),
    ).fetchone()
    if row is None:
        return None
    connection.execute("UPDATE trail SET removed_json = NULL WHERE id = ?", (entry_id,))
    touch(connection, visit_id)
    return [Take(kit_id, amount) for kit_id, amount in json.loads(row["removed_json"])]


def trail_of(connection: sqlite3.Connection, visit_id: int) -> list[StoredEntry]:
    """The trail in order; frames with the version of their map, or why they have none."""
    rows = connection.execute(
        "SELECT t.*, m.version AS map_version, f.name AS frame_name, "
        "CASE WHEN t.frame_id IS NOT NULL AND m.frame_id IS NULL THEN (SELECT CASE j.state "
        "WHEN 'failed' THEN j.error WHEN 'cancelled' THEN 'Measuring was stopped.' END FROM jobs j "
        "WHERE j.frame_id = t.frame_id ORDER BY j.id DESC LIMIT 1) END AS trouble FROM trail t "
        "LEFT JOIN maps m ON m.frame_id = t.frame_id LEFT JOIN frames f ON f.id = t.frame_id "
        "WHERE t.visit_id = ? AND t.removed_json IS NULL ORDER BY t.id",
        (visit_id,),
    )
    return [
        StoredEntry(
            row["id"],
            row["frame_id"],
            row["step"],
            _use(row["use_json"]),
            row["against"],
            bool(row["accepted"]),
            row["at"],
            row["frame_name"],
            row["map_version"],
            row["trouble"],
            row["who"],
            row["explained"],
        )
        for row in rows
    ]


def visits_with_frame(connection: sqlite3.Connection, frame_id: int) -> list[int]:
    """Visits on whose trail a frame lies."""
    rows = connection.execute(
        "SELECT visit_id FROM trail WHERE frame_id = ? AND removed_json IS NULL", (frame_id,)
    )
    return [int(row["visit_id"]) for row in rows]


def frames_of_body(connection: sqlite3.Connection, body_id: int) -> list[int]:
    """Frames on the trails of a body, the newest first."""
    rows = connection.execute(
        "SELECT DISTINCT t.frame_id FROM trail t JOIN visits v ON v.id = t.visit_id "
        "WHERE v.body_id = ? AND t.frame_id IS NOT NULL AND t.removed_json IS NULL "
        "ORDER BY t.frame_id DESC",
        (body_id,),
    )
    return [int(row["frame_id"]) for row in rows]


def shot_at_f(connection: sqlite3.Connection, frame_id: int) -> float | None:
    """The aperture entered for the newest visit a frame lies on; None where none was."""
    row = connection.execute(
        "SELECT json_extract(v.conditions_json, '$.shot_at_f') AS f FROM trail t "
        "JOIN visits v ON v.id = t.visit_id WHERE t.frame_id = ? AND t.removed_json IS NULL "
        "ORDER BY v.id DESC LIMIT 1",
        (frame_id,),
    ).fetchone()
    return None if row is None or row["f"] is None else float(row["f"])


def frames_at_aperture(
    connection: sqlite3.Connection, visit_id: int, f_number: float | None
) -> list[int]:
    """Measured frames of a visit whose map was made with this aperture, or with none."""
    rows = connection.execute(
        "SELECT DISTINCT t.frame_id FROM trail t JOIN maps m ON m.frame_id = t.frame_id "
        "WHERE t.visit_id = ? AND t.removed_json IS NULL "
        "AND (m.f_number IS NULL OR m.f_number = ?)",
        (visit_id, f_number),
    )
    return [int(row["frame_id"]) for row in rows]


def set_series(connection: sqlite3.Connection, lead_id: int, members: Sequence[int]) -> None:
    """Say which frames belong to one shot of the same moment."""
    connection.execute("DELETE FROM series WHERE lead_id = ?", (lead_id,))
    connection.executemany(
        "INSERT INTO series (lead_id, member_id) VALUES (?, ?)",
        [(lead_id, member) for member in dict.fromkeys(members) if member != lead_id],
    )


def series_sizes(connection: sqlite3.Connection, lead_ids: Sequence[int]) -> dict[int, int]:
    """How many further frames series have; frames that lead none are left out."""
    rows = connection.execute(
        "SELECT lead_id, count(*) AS members FROM series "
        "WHERE lead_id IN (SELECT value FROM json_each(?)) GROUP BY lead_id",
        (json.dumps(list(lead_ids)),),
    )
    return {row["lead_id"]: row["members"] for row in rows}


def series_of(connection: sqlite3.Connection, lead_id: int) -> list[int]:
    """Further frames of a series, in the order given."""
    rows = connection.execute(
        "SELECT member_id FROM series WHERE lead_id = ? ORDER BY rowid", (lead_id,)
    )
    return [int(row["member_id"]) for row in rows]
