"""What one owns for cleaning."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from neatpatch.core.advice.facts import KitItem


@dataclass(frozen=True)
class StoredItem:
    """A thing owned, with a note."""

    id: int
    item: KitItem
    note: str


def all_items(connection: sqlite3.Connection) -> list[StoredItem]:
    """The whole kit, in the order it was entered."""
    rows = connection.execute("SELECT * FROM kit ORDER BY id")
    return [
        StoredItem(row["id"], KitItem.model_validate_json(row["item_json"]), row["note"])
        for row in rows
    ]


def add_item(connection: sqlite3.Connection, item: KitItem, note: str = "") -> int:
    """Add a thing; gives its id."""
    cursor = connection.execute(
        "INSERT INTO kit (item_json, note) VALUES (?, ?)",
        (item.model_dump_json(exclude_none=True), note),
    )
    assert cursor.lastrowid is not None
    return cursor.lastrowid


def change_item(connection: sqlite3.Connection, item_id: int, item: KitItem, note: str) -> bool:
    """Write a thing anew; False when there is none of this id."""
    cursor = connection.execute(
        "UPDATE kit SET item_json = ?, note = ? WHERE id = ?",
        (item.model_dump_json(exclude_none=True), note, item_id),
    )
    return cursor.rowcount > 0


def remove_item(connection: sqlite3.Connection, item_id: int) -> None:
    """Remove a thing."""
    connection.execute("DELETE FROM kit WHERE id = ?", (item_id,))
