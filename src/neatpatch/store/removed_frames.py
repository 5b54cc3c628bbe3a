"""Frames taken out with all that belongs to them, so that they can be put back as they were."""

from __future__ import annotations

import base64
import json
import sqlite3
from collections.abc import Iterator
from datetime import timedelta
from typing import Any

from neatpatch.core.common.errors import ConflictError, NotThereError
from neatpatch.store.database import now

KEPT_OUT = timedelta(days=30)
"""As long as its file lies set aside."""

Rows = list[tuple[str, dict[str, Any]]]


def keep_rows(connection: sqlite3.Connection, frame_id: int) -> None:
    """Note all rows that go when a frame is removed; before it is."""
    frame = _row(connection, "frames", "id", frame_id)
    if frame is None:
        return
    original = _row(connection, "originals", "sha256", frame["sha256"])
    rows: Rows = [("originals", original)] if original else []
    rows.append(("frames", frame))
    rows.extend(_below(connection, "frames", frame_id))
    kept = {"rows": rows, "named_by": list(_named_by(connection, frame_id))}
    connection.execute(
        "INSERT OR REPLACE INTO removed_frames (frame_id, sha256, name, removed_at, rows_json) "
        "VALUES (?, ?, ?, ?, ?)",
        (frame_id, frame["sha256"], frame["name"], now(), json.dumps(kept, default=_encoded)),
    )


def put_rows_back(connection: sqlite3.Connection, frame_id: int) -> str:
    """Insert a removed frame's rows again; gives the hash of its original.

    Raises `NotThereError` where it was not removed, or too long ago, and `ConflictError` where what
    it belonged to has gone or the same file has come in again.
    """
    kept = _row(connection, "removed_frames", "frame_id", frame_id)
    if kept is None:
        raise NotThereError("There is no such frame to put back. Send its file in again.")
    noted = json.loads(kept["rows_json"])
    try:
        for table, row in noted["rows"]:
            _insert(connection, table, row)
    except sqlite3.IntegrityError as error:
        raise ConflictError(
            f"{kept['name']} cannot be put back: the same file has come in again, or its visit is "
            "gone. Send its file in again."
        ) from error
    for table, column, row_id in noted["named_by"]:
        connection.execute(f"UPDATE {table} SET {column} = ? WHERE rowid = ?", (frame_id, row_id))
    connection.execute("DELETE FROM removed_frames WHERE frame_id = ?", (frame_id,))
    connection.execute(
        "UPDATE visits SET version = version + 1 WHERE id IN "
        "(SELECT visit_id FROM trail WHERE frame_id = ?)",
        (frame_id,),
    )
    return str(kept["sha256"])


def forget_removed(connection: sqlite3.Connection, before: str) -> None:
    """Forget frames removed before a moment: their files may be deleted now."""
    connection.execute("DELETE FROM removed_frames WHERE removed_at < ?", (before,))


def _below(connection: sqlite3.Connection, parent: str, key: Any) -> Iterator[tuple[str, Any]]:
    """Rows that are deleted with a row, and those that are deleted with them."""
    for table, column in _children(connection, parent, "CASCADE"):
        for row in connection.execute(f"SELECT * FROM {table} WHERE {column} = ?", (key,)):
            yield table, dict(row)
            if table == "trail":
                yield from _below(connection, table, row["id"])


def _named_by(connection: sqlite3.Connection, frame_id: int) -> Iterator[tuple[str, str, int]]:
    """Rows that stay but forget the frame, such as the work on it."""
    for table, column in _children(connection, "frames", "SET NULL"):
        for row in connection.execute(f"SELECT rowid FROM {table} WHERE {column} = ?", (frame_id,)):
            yield table, column, row[0]


def _children(connection: sqlite3.Connection, parent: str, on_delete: str) -> list[tuple[str, str]]:
    return [
        (table["name"], key["from"])
        for table in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
        for key in connection.execute(f"PRAGMA foreign_key_list({table['name']})")
        if key["table"] == parent and key["on_delete"] == on_delete
    ]


def _row(
    connection: sqlite3.Connection, table: str, column: str, key: object
) -> dict[str, Any] | None:
    row = connection.execute(f"SELECT * FROM {table} WHERE {column} = ?", (key,)).fetchone()
    return None if row is None else dict(row)


def _insert(connection: sqlite3.Connection, table: str, row: dict[str, Any]) -> None:
    # Generated columns are not among these.
    columns = [c["name"] for c in connection.execute(f"PRAGMA table_info({table})")]
    names = ", ".join(columns)
    marks = ", ".join("?" for _ in columns)
    values = [_decoded(row[column]) for column in columns]
    doing = "INSERT OR IGNORE" if table in ("series", "comparisons") else "INSERT"
    connection.execute(f"{doing} INTO {table} ({names}) VALUES ({marks})", values)


def _encoded(value: object) -> dict[str, str]:
    if isinstance(value, bytes):
        return {"bytes": base64.b64encode(value).decode()}
    raise TypeError(f"{type(value).__name__} is not a column's value")


def _decoded(value: Any) -> Any:
    return base64.b64decode(value["bytes"]) if isinstance(value, dict) else value
