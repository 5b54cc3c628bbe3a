"""Folders that are watched for new frames."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass


@dataclass(frozen=True)
class WatchedFolder:
    """A folder; ``body_id``: whose frames come there, None where each is recognised."""

    id: int
    path: str
    body_id: int | None


def folders(connection: sqlite3.Connection) -> list[WatchedFolder]:
    """All of them, in the order they were added."""
    rows = connection.execute("SELECT * FROM watched ORDER BY id")
    return [WatchedFolder(row["id"], row["path"], row["body_id"]) for row in rows]


def add_folder(connection: sqlite3.Connection, path: str, body_id: int | None) -> int:
    """Add a folder, or say again whose frames come there; gives its id."""
    row = connection.execute(
        "INSERT INTO watched (path, body_id) VALUES (?, ?) "
        "ON CONFLICT (path) DO UPDATE SET body_id = excluded.body_id RETURNING id",
        (path, body_id),
    ).fetchone()
    return int(row["id"])


def remove_folder(connection: sqlite3.Connection, folder_id: int) -> None:
    """Watch a folder no more; one that is gone already is gone."""
    connection.execute("DELETE FROM watched WHERE id = ?", (folder_id,))
