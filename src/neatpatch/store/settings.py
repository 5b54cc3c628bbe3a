"""Settings of this installation, one row each."""

from __future__ import annotations

import sqlite3
from typing import TypeVar

from pydantic import BaseModel

Kept = TypeVar("Kept", bound=BaseModel)


def get_setting(connection: sqlite3.Connection, key: str) -> str | None:
    """A setting's value, or None."""
    row = connection.execute("SELECT value FROM settings WHERE key = ?", (key,)).fetchone()
    return str(row["value"]) if row else None


def get_record(connection: sqlite3.Connection, key: str, kind: type[Kept]) -> Kept:
    """A setting that is a record; its defaults where nothing was kept."""
    kept = get_setting(connection, key)
    return kind.model_validate_json(kept) if kept else kind()


def version_of(connection: sqlite3.Connection, key: str) -> int:
    """How often a setting was written; 0 while it never was."""
    row = connection.execute("SELECT version FROM settings WHERE key = ?", (key,)).fetchone()
    return int(row["version"]) if row else 0


def put_record(connection: sqlite3.Connection, key: str, record: BaseModel) -> None:
    """Keep a record."""
    put_setting(connection, key, record.model_dump_json(exclude_none=True))


def put_setting(connection: sqlite3.Connection, key: str, value: str) -> None:
    """Set a value."""
    connection.execute(
        "INSERT INTO settings (key, value) VALUES (?, ?) "
        "ON CONFLICT (key) DO UPDATE SET value = excluded.value, version = settings.version + 1",
        (key, value),
    )
