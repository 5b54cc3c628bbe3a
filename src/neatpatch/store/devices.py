"""Paired devices and links to reports, as rows. Tokens are kept as their SHA-256 only."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Literal

from neatpatch.store.database import now

Role = Literal["owner", "helper", "viewer", "report"]


@dataclass(frozen=True, kw_only=True)
class NewDevice:
    """A device or link about to be let in."""

    name: str
    label: str
    role: Role
    token_hash: str
    visit_id: int | None = None
    expires_at: str | None = None


@dataclass(frozen=True, kw_only=True)
class StoredDevice:
    """One that was let in. ``expires_at``: ISO 8601, UTC; None for no end."""

    id: int
    name: str
    label: str
    role: Role
    visit_id: int | None
    paired_at: str
    last_used_at: str | None
    expires_at: str | None


def _device(row: sqlite3.Row) -> StoredDevice:
    return StoredDevice(
        id=row["id"],
        name=row["name"],
        label=row["label"],
        role=row["role"],
        visit_id=row["visit_id"],
        paired_at=row["paired_at"],
        last_used_at=row["last_used_at"],
        expires_at=row["expires_at"],
    )


def add_device(connection: sqlite3.Connection, device: NewDevice) -> int:
    """Let one in; gives its id."""
    cursor = connection.execute(
        "INSERT INTO devices (name, label, role, token_hash, visit_id, paired_at, expires_at) "
        "VALUES (?, ?, ?, ?, ?, ?, ?)",
        (
            device.name,
            device.label,
            device.role,
            device.token_hash,
            device.visit_id,
            now(),
            device.expires_at,
        ),
    )
    assert cursor.lastrowid is not None
    return cursor.lastrowid


def by_hash(connection: sqlite3.Connection, token_hash: str) -> StoredDevice | None:
    """The one a token belongs to; None once it was shut out."""
    row = connection.execute("SELECT * FROM devices WHERE token_hash = ?", (token_hash,)).fetchone()
    return _device(row) if row else None


def all_devices(connection: sqlite3.Connection) -> list[StoredDevice]:
    """All that are let in, the newest first."""
    return [_device(r) for r in connection.execute("SELECT * FROM devices ORDER BY id DESC")]


def used(connection: sqlite3.Connection, device_id: int) -> None:
    """Note that it was used now."""
    connection.execute("UPDATE devices SET last_used_at = ? WHERE id = ?", (now(), device_id))


def shut_out(connection: sqlite3.Connection, device_id: int) -> None:
    """Its token opens nothing from now on; nothing where it is gone."""
    connection.execute("DELETE FROM devices WHERE id = ?", (device_id,))
