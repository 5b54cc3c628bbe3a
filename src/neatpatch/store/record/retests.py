"""What retested steps did, and what came between visits."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from neatpatch.core.history.odds import Retest
from neatpatch.core.history.rates import Interval


@dataclass(frozen=True)
class VisitRecord:
    """What one version of a visit tells: retests by their entries, and what came before it.

    ``came`` is None where it cannot be told; ``since``: when the visit before ended.
    """

    retests: Sequence[tuple[int, Retest]]
    came: int | None
    since: str | None


def visits_behind(connection: sqlite3.Connection, count: int) -> list[tuple[int, int]]:
    """Visits with a frame that changed since they were read, by id and version."""
    rows = connection.execute(
        "SELECT v.id, v.version FROM visits v LEFT JOIN recorded r ON r.visit_id = v.id "
        "WHERE (r.version IS NULL OR r.version <> v.version) AND EXISTS "
        "(SELECT 1 FROM trail t WHERE t.visit_id = v.id AND t.frame_id IS NOT NULL) "
        "ORDER BY v.id DESC LIMIT ?",
        (count,),
    )
    return [(row["id"], row["version"]) for row in rows]


def put_record(
    connection: sqlite3.Connection, visit_id: int, version: int, found: VisitRecord
) -> None:
    """Keep what a version of a visit tells, in place of an older one; nothing if it is gone."""
    connection.execute("DELETE FROM retests WHERE visit_id = ?", (visit_id,))
    connection.executemany(
        "INSERT INTO retests SELECT t.id, ?, t.visit_id, ?, ?, ?, ?, ?, ? FROM trail t "
        "WHERE t.id = ?",
        [
            (r.kind, r.body_id, r.step, r.removed, r.stayed, r.moved, r.new, entry_id)
            for entry_id, r in found.retests
        ],
    )
    connection.execute(
        "INSERT INTO recorded SELECT v.id, ?, ?, ? FROM visits v WHERE v.id = ? "
        "ON CONFLICT (visit_id) DO UPDATE SET version = excluded.version, came = excluded.came, "
        "since = excluded.since",
        (version, found.came, found.since, visit_id),
    )


def stamp(connection: sqlite3.Connection) -> tuple[int, int]:
    """Changes with every record that is kept or goes."""
    row = connection.execute("SELECT count(*), total(version) FROM recorded").fetchone()
    return int(row[0]), int(row[1])


def all_retests(connection: sqlite3.Connection) -> list[Retest]:
    """Every retest of every camera."""
    rows = connection.execute(
        "SELECT r.* FROM retests r JOIN trail t ON t.id = r.entry_id WHERE t.removed_json IS NULL"
    )
    return [
        Retest.model_construct(
            body_id=row["body_id"],
            step=row["step"],
            kind=row["kind"],
            removed=row["removed"],
            stayed=row["stayed"],
            moved=row["moved"],
            new=row["new"],
        )
        for row in rows
    ]


_BETWEEN = """
SELECT v.body_id, substr(r.since, 1, 10) AS since, substr(v.opened_at, 1, 10) AS until, r.came
FROM recorded r JOIN visits v ON v.id = r.visit_id
WHERE r.came IS NOT NULL AND r.since IS NOT NULL
"""
_INTERVALS = """
SELECT i.*, (SELECT count(*) FROM exposures e WHERE e.body_id = i.body_id
        AND e.kind = 'lens_change' AND e.on_day > i.since AND e.on_day <= i.until) AS changes,
    (SELECT count(*) FROM exposures e WHERE e.body_id = i.body_id
        AND e.kind = 'dusty_day' AND e.on_day > i.since AND e.on_day <= i.until) AS dusty
FROM ({between}) i
"""


def intervals(connection: sqlite3.Connection, body_id: int, others: int = 500) -> list[Interval]:
    """Times between visits with what came in them: all of one camera, the newest of the others."""
    own = f"{_BETWEEN} AND v.body_id = ? ORDER BY v.opened_at"
    rest = f"{_BETWEEN} AND v.body_id <> ? ORDER BY v.opened_at DESC LIMIT ?"
    rows = [
        *connection.execute(_INTERVALS.format(between=own), (body_id,)),
        *connection.execute(_INTERVALS.format(between=rest), (body_id, others)),
    ]
    return [
        Interval(
            body_id=row["body_id"],
            since=row["since"],
            until=row["until"],
            came=row["came"],
            changes=row["changes"],
            dusty=row["dusty"],
        )
        for row in rows
    ]
