"""Plans, trays and photographs, as rows."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from neatpatch.core.tray.plan import TrayPlan
from neatpatch.core.tray.steps import Done
from neatpatch.store.database import now


@dataclass(frozen=True)
class StoredTray:
    """A camera on the tray."""

    plan: TrayPlan
    done: tuple[Done, ...]
    begun_at: str


def plans(connection: sqlite3.Connection) -> list[TrayPlan]:
    """All plans, by the names of their models."""
    rows = connection.execute("SELECT plan_json FROM tray_plans ORDER BY model")
    return [TrayPlan.model_validate_json(row["plan_json"]) for row in rows]


def plan_of(connection: sqlite3.Connection, model: str) -> TrayPlan | None:
    """The plan of a model, or None."""
    row = connection.execute(
        "SELECT plan_json FROM tray_plans WHERE model = ?", (model,)
    ).fetchone()
    return TrayPlan.model_validate_json(row["plan_json"]) if row else None


def keep_plan(connection: sqlite3.Connection, plan: TrayPlan) -> None:
    """Keep the plan of a model, in place of the one before."""
    connection.execute(
        "INSERT INTO tray_plans (model, plan_json, changed_at) VALUES (?, ?, ?) "
        "ON CONFLICT (model) DO UPDATE SET plan_json = excluded.plan_json, "
        "changed_at = excluded.changed_at",
        (plan.model, plan.model_dump_json(), now()),
    )


def remove_plan(connection: sqlite3.Connection, model: str) -> None:
    """Remove the plan of a model; trays begun by it keep theirs."""
    connection.execute("DELETE FROM tray_plans WHERE model = ?", (model,))


def tray_of(connection: sqlite3.Connection, visit_id: int) -> StoredTray | None:
    """The tray of a visit, or None."""
    row = connection.execute("SELECT * FROM trays WHERE visit_id = ?", (visit_id,)).fetchone()
    if row is None:
        return None
    return StoredTray(
        plan=TrayPlan.model_validate_json(row["plan_json"]),
        done=tuple(Done.model_validate(d) for d in json.loads(row["done_json"])),
        begun_at=row["begun_at"],
    )


def put_tray(
    connection: sqlite3.Connection, visit_id: int, plan: TrayPlan, done: Sequence[Done]
) -> None:
    """Begin a tray, or write where it stands."""
    connection.execute(
        "INSERT INTO trays (visit_id, plan_json, done_json, begun_at) VALUES (?, ?, ?, ?) "
        "ON CONFLICT (visit_id) DO UPDATE SET plan_json = excluded.plan_json, "
        "done_json = excluded.done_json",
        (visit_id, plan.model_dump_json(), json.dumps([d.model_dump() for d in done]), now()),
    )


def remove_tray(connection: sqlite3.Connection, visit_id: int) -> None:
    """Put a tray away, its photographs too."""
    connection.execute("DELETE FROM tray_photos WHERE visit_id = ?", (visit_id,))
    connection.execute("DELETE FROM trays WHERE visit_id = ?", (visit_id,))


def add_photo(connection: sqlite3.Connection, visit_id: int, step_id: str, jpeg: bytes) -> int:
    """Keep a photograph of a step; gives its number within the step, from 1."""
    taken = connection.execute(
        "SELECT coalesce(max(number), 0) + 1 FROM tray_photos WHERE visit_id = ? AND step_id = ?",
        (visit_id, step_id),
    ).fetchone()[0]
    connection.execute(
        "INSERT INTO tray_photos VALUES (?, ?, ?, ?, ?)", (visit_id, step_id, taken, jpeg, now())
    )
    return int(taken)


def photo(connection: sqlite3.Connection, visit_id: int, step_id: str, number: int) -> bytes | None:
    """The bytes of one photograph, or None."""
    row = connection.execute(
        "SELECT jpeg FROM tray_photos WHERE visit_id = ? AND step_id = ? AND number = ?",
        (visit_id, step_id, number),
    ).fetchone()
    return bytes(row["jpeg"]) if row else None


def photos_of(connection: sqlite3.Connection, visit_id: int) -> dict[str, int]:
    """How many photographs there are of each step."""
    rows = connection.execute(
        "SELECT step_id, max(number) AS n FROM tray_photos WHERE visit_id = ? GROUP BY step_id",
        (visit_id,),
    )
    return {row["step_id"]: int(row["n"]) for row in rows}
