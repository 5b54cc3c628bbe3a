"""What retested steps did, and what came between visits."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from neatpatch.core.stats.odds import Retest
from neatpatch.core.stats.rates import Interval
from neatpatch.core.stats.spot_histories import FrameLink


@dataclass(frozen=True)
class VisitRecord:
    """What one version of a visit tells: retests and links by their entries, what came before it.

    ``came`` is None where it cannot be told; ``since``: when the visit before ended; ``before``:
    that visit and its version.
    """

    retests: Sequence[tuple[int, Retest]]
    links: Sequence[tuple[int, FrameLink]]
    came: int | None
    since: str | None
    before: tuple[int, int] | None


def visits_behind(connection: sqlite3.Connection, count: int) -> list[tuple[int, int]]:
    """Visits with a frame that changed since they were read, or whose visit before changed, by id
    and version.
    """
    rows = connection.execute(
        "SELECT v.id, v.version FROM visits v LEFT JOIN recorded r ON r.visit_id = v.id "
        "WHERE (r.version IS NULL OR r.version <> v.version OR r.before_version IS NOT "
        "(SELECT b.version FROM visits b WHERE b.id = r.before_visit)) AND EXISTS "
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
        "INSERT OR REPLACE INTO recorded (visit_id, version, came, since, before_visit, "
        "before_version) SELECT v.id, ?, ?, ?, ?, ? FROM visits v WHERE v.id = ?",
        (version, found.came, found.since, *(found.before or (None, None)), visit_id),
    )
    _put_links(connection, visit_id, found.links)


def _put_links(
    connection: sqlite3.Connection, visit_id: int, links: Sequence[tuple[int, FrameLink]]
) -> None:
    connection.execute("DELETE FROM links WHERE visit_id = ?", (visit_id,))
    connection.executemany(
        "INSERT INTO links SELECT t.id, t.visit_id, ?, ?, ? FROM trail t WHERE t.id = ?",
        [
            (link.frame_id, link.before_id, json.dumps(link.fates, separators=(",", ":")), entry_id)
            for entry_id, link in links
        ],
    )


def links_of(connection: sqlite3.Connection, body_id: int) -> list[FrameLink]:
    """All fit frames of a camera, linked each to the one before, the oldest first."""
    rows = connection.execute(
        "SELECT l.frame_id, l.before_id, l.fates FROM visits v JOIN links l ON l.visit_id = v.id "
        "JOIN trail t ON t.id = l.entry_id WHERE v.body_id = ? AND t.removed_json IS NULL "
        "ORDER BY t.at, t.id",
        (body_id,),
    )
    return [
        FrameLink.model_construct(
            frame_id=row["frame_id"], before_id=row["before_id"], fates=json.loads(row["fates"])
        )
        for row in rows
    ]


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
SELECT v.body_id, date(r.since, 'localtime') AS since,
    date(v.opened_at, 'localtime') AS until, r.came
FROM recorded r JOIN visits v ON v.id = r.visit_id
WHERE r.came IS NOT NULL AND r.since IS NOT NULL
"""
_INTERVALS = """
SELECT i.*, (SELECT count(*) FROM exposures e WHERE e.body_id = i.body_id
        AND e.kind = 'lens_change' AND e.on_day > i.since AND e.on_day <= i.until) AS changes,
    (SELECT json_group_array(e.place) FROM exposures e WHERE e.body_id = i.body_id
        AND e.kind = 'dusty_day' AND e.on_day > i.since AND e.on_day <= i.until) AS dusty
FROM ({between}) i
"""


def intervals(connection: sqlite3.Connection, body_id: int, others: int = 500) -> list[Interval]:
    """Times between visits with what came in them: all of one camera, the newest of the others."""
    own = f"{_BETWEEN} AND v.body_id = ? ORDER BY v.opened_at"
    rest = f"{_BETWEEN} AND v.body_id <> ? ORDER BY r.visit_id DESC LIMIT ?"
    rows = [
        *connection.execute(_INTERVALS.format(between=own), (body_id,)),
        *connection.execute(_INTERVALS.format(between=rest), (body_id, others)),
    ]
    return [
        Interval(
            body_id=row["body_id"],
            since=date.fromisoformat(row["since"]),
            until=date.fromisoformat(row["until"]),
            came=row["came"],
            changes=row["changes"],
            dusty=tuple(json.loads(row["dusty"])),
        )
        for row in rows
    ]
