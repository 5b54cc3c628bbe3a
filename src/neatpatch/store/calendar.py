"""What stands in the calendar, as rows."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection
from dataclasses import dataclass
from datetime import date

from neatpatch.core.common.moments import day_of


@dataclass(frozen=True)
class Sent:
    """A camera sent to a service; ``back``: when it was seen again, None while it is away."""

    visit_id: int
    name: str
    on: date
    back: date | None


def sent_to_service(connection: sqlite3.Connection) -> list[Sent]:
    """Every time a camera was sent off, the newest first."""
    rows = connection.execute(
        "SELECT v.id, b.name, v.closed_at, coalesce((SELECT min(w.opened_at) FROM visits w "
        "WHERE w.body_id = v.body_id AND w.opened_at > v.closed_at), CASE WHEN b.serviced_on > "
        "date(v.closed_at, 'localtime') THEN b.serviced_on END) AS back FROM visits v "
        "JOIN bodies b ON b.id = v.body_id WHERE v.verdict = 'sent' ORDER BY v.closed_at DESC"
    )
    return [
        Sent(
            row["id"],
            row["name"],
            day_of(row["closed_at"]),
            day_of(row["back"]) if row["back"] else None,
        )
        for row in rows
    ]


def names_of(connection: sqlite3.Connection, body_ids: Collection[int]) -> dict[int, str]:
    """Names of cameras by their ids."""
    rows = connection.execute(
        "SELECT id, name FROM bodies WHERE id IN (SELECT value FROM json_each(?))",
        (json.dumps(sorted(body_ids)),),
    )
    return {row["id"]: row["name"] for row in rows}
