"""Settings of this installation, one row each."""

from __future__ import annotations

import sqlite3


def get_setting(connection: sqlite3.Connection, key: str) -> str | None:
    """A setting's value, or None."""
    row = connection.execute("SELECT value FROM settings WHERE key = ?", (key,)).fetchone()
    return str(row["value"]) if row else None


def put_setting(connection: sqlite3.Connection, key: str, value: str) -> None:
    """Set a value."""
    connection.execute(
        "INSERT INTO settings (key, value) VALUES (?, ?) "
        "ON CONFLICT (key) DO UPDATE SET value = excluded.value",
        (key, value),
    )
