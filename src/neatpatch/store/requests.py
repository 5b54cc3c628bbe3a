"""Requests done under a key that the page made, so that a repeated one is not done twice."""

from __future__ import annotations

import sqlite3
from datetime import UTC, datetime, timedelta

from neatpatch.core.common.errors import NeatPatchError
from neatpatch.store.database import now

_KEPT_DAYS = 14


class KeyReusedError(NeatPatchError):
    """A key was given with another request before."""


def claim_key(connection: sqlite3.Connection, key: str | None, what: str) -> bool:
    """Whether this request is new, noting it in the caller's transaction; True without a key.

    Raises `KeyReusedError` when the key was used for something else.
    """
    if key is None:
        return True
    row = connection.execute("SELECT what FROM requests WHERE key = ?", (key,)).fetchone()
    if row is None:
        connection.execute(
            "INSERT INTO requests (key, what, at) VALUES (?, ?, ?)", (key, what, now())
        )
        return True
    _require_same(row["what"], what)
    return False


def _require_same(noted: str, what: str) -> None:
    if noted != what:
        raise KeyReusedError("this key was used for another request. Make a new one.")


def note_result(connection: sqlite3.Connection, key: str | None, result_id: int) -> None:
    """Note which row a request made."""
    connection.execute("UPDATE requests SET result_id = ? WHERE key = ?", (result_id, key))


def result_of(connection: sqlite3.Connection, key: str | None, what: str) -> int | None:
    """The row that an earlier request under this key made; None when there is none.

    Raises `KeyReusedError` when the key was used for something else.
    """
    row = connection.execute(
        "SELECT what, result_id FROM requests WHERE key = ?", (key,)
    ).fetchone()
    if row is None:
        return None
    _require_same(row["what"], what)
    return None if row["result_id"] is None else int(row["result_id"])


def forget_old(connection: sqlite3.Connection) -> None:
    """Forget keys that no page can still hold."""
    before = (datetime.now(UTC) - timedelta(days=_KEPT_DAYS)).isoformat(timespec="milliseconds")
    connection.execute("DELETE FROM requests WHERE at < ?", (before,))
