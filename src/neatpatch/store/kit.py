"""What one owns for cleaning, and every move of its stock.

What is left of a thing is the sum of its moves, so that nothing is lost or made between them; the
database keeps that sum with every move.
"""

from __future__ import annotations

import functools
import math
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from neatpatch.core.common.facts import KitItem
from neatpatch.core.common.items import thing_words
from neatpatch.core.common.moments import year_begins
from neatpatch.core.common.words import speaking
from neatpatch.core.kit.stock import UNITS, KitEntry, Take, left, unit_price, with_left
from neatpatch.store.database import day_text, now

MoveWhy = Literal["entered", "bought", "counted", "used"]
_WHOLE = 6
_ENOUGH_VISITS = 3
_MOST_KEPT = 2048
_COLUMNS = (
    "item_json",
    "note",
    "source",
    "pack_size",
    "pack_price",
    "opened_on",
    "best_before",
    "lead_days",
    "suits_all",
)
_READ = (*_COLUMNS, "there", "bodies")
"""What an entry is made of: its columns, what is left, and the bodies it suits."""


@dataclass(frozen=True)
class StoredItem:
    """A thing owned, with what is left of it."""

    id: int
    owned: KitEntry
    version: int


@dataclass(frozen=True)
class Move:
    """A change of stock. ``kit_id`` is None once the thing was removed from the kit."""

    kit_id: int | None
    trail_id: int | None
    why: MoveWhy
    change: float
    unit_price: float | None
    thing: str
    at: str


@dataclass(frozen=True)
class Spending:
    """What a body used up in a year: visits with anything used, and its cost as far as priced."""

    body_id: int | None
    year: str
    visits: int
    cost: float
    unpriced: int


_SELECT = (
    "SELECT k.*, (SELECT group_concat(body_id) FROM kit_suits s WHERE s.kit_id = k.id) AS bodies "
    "FROM kit k"
)


def all_items(connection: sqlite3.Connection) -> list[StoredItem]:
    """The whole kit, in the order it was entered."""
    return [_item(row) for row in connection.execute(f"{_SELECT} ORDER BY k.id")]


def item_by_id(connection: sqlite3.Connection, item_id: int) -> StoredItem | None:
    """One thing, or None."""
    row = connection.execute(f"{_SELECT} WHERE k.id = ?", (item_id,)).fetchone()
    return _item(row) if row else None


def _item(row: sqlite3.Row) -> StoredItem:
    return StoredItem(row["id"], _entry(tuple(row[c] for c in _READ)), row["version"])


@functools.lru_cache(_MOST_KEPT)
def _entry(values: tuple[Any, ...]) -> KitEntry:
    """An entry from the values of `_READ`; every judgement reads the whole kit again."""
    given = dict(zip(_READ, values, strict=True))
    item = KitItem.model_validate_json(given.pop("item_json"))
    there, bodies = given.pop("there"), given.pop("bodies") or ""
    if there is not None:
        item = with_left(item, round(there, _WHOLE))
    suits = tuple(sorted(int(b) for b in bodies.split(",") if b))
    suits_all = given.pop("suits_all")
    return KitEntry(**given, item=item, suits=None if suits_all else suits)


def _values(owned: KitEntry) -> tuple[object, ...]:
    bare = with_left(owned.item, None) if owned.item.item in UNITS else owned.item
    return (
        bare.model_dump_json(exclude_none=True),
        owned.note,
        owned.source,
        owned.pack_size,
        owned.pack_price,
        day_text(owned.opened_on),
        day_text(owned.best_before),
        owned.lead_days,
        owned.suits is None,
    )


def add_item(connection: sqlite3.Connection, owned: KitEntry, at: str | None = None) -> int:
    """Add an item with how much of it is left; gives its id."""
    marks = ", ".join("?" * len(_COLUMNS))
    cursor = connection.execute(
        f"INSERT INTO kit ({', '.join(_COLUMNS)}) VALUES ({marks})", _values(owned)
    )
    assert cursor.lastrowid is not None
    _set_suits(connection, cursor.lastrowid, owned)
    there = left(owned.item)
    if there is not None:
        _move(connection, cursor.lastrowid, owned, "entered", there, at=at)
    return cursor.lastrowid


def change_item(connection: sqlite3.Connection, item_id: int, owned: KitEntry) -> bool:
    """Write a thing again; another count is kept as counted. False when there is none of this
    id.
    """
    before = item_by_id(connection, item_id)
    if before is None:
        return False
    names = ", ".join(f"{c} = ?" for c in _COLUMNS)
    connection.execute(
        f"UPDATE kit SET {names}, version = version + 1 WHERE id = ?", (*_values(owned), item_id)
    )
    _set_suits(connection, item_id, owned)
    there = left(owned.item)
    if there is not None:
        difference = round(there - (left(before.owned.item) or 0.0), _WHOLE)
        counted_before = left(before.owned.item) is not None
        if difference or not counted_before:
            _move(connection, item_id, owned, "counted", difference)
    return True


def buy(connection: sqlite3.Connection, item_id: int, packs: int) -> bool:
    """Add whole packs of a thing that arrived. False when it or its pack size is not known."""
    stored = item_by_id(connection, item_id)
    if stored is None or not stored.owned.pack_size or stored.owned.item.item not in UNITS:
        return False
    _move(connection, item_id, stored.owned, "bought", packs * stored.owned.pack_size)
    return True


def remove_item(connection: sqlite3.Connection, item_id: int) -> None:
    """Remove a thing; what was used of it stays in the books."""
    connection.execute("DELETE FROM kit WHERE id = ?", (item_id,))


@dataclass(frozen=True, kw_only=True)
class User:
    """The step that things are taken for."""

    trail_id: int
    visit_id: int
    body_id: int


def take(
    connection: sqlite3.Connection, takes: Sequence[Take], user: User, at: str | None = None
) -> None:
    """Take things for a step. A count that does not reach is first counted up, never below zero."""
    for one in takes:
        stored = item_by_id(connection, one.kit_id)
        if stored is None:
            continue
        there = left(stored.owned.item) or 0.0
        if one.amount > there + 1e-9:
            _move(connection, one.kit_id, stored.owned, "counted", one.amount - there, at=at)
        connection.execute(
            "INSERT INTO stock_moves (kit_id, trail_id, visit_id, body_id, why, change, unit_price,"
            " thing, at) VALUES (?, ?, ?, ?, 'used', ?, ?, ?, ?)",
            (
                one.kit_id,
                user.trail_id,
                user.visit_id,
                user.body_id,
                -one.amount,
                unit_price(stored.owned),
                _thing(stored.owned.item),
                at or now(),
            ),
        )
        _raise_version(connection, one.kit_id)


def _thing(item: KitItem) -> str:
    """A thing's name as it is kept: in millimetres, whoever asked for the change."""
    with speaking("metric"):
        return thing_words(item)


def give_back(connection: sqlite3.Connection, trail_id: int) -> list[Take]:
    """Undo what a step took: the step was not done, or is about to be written again.

    Gives what it had taken.
    """
    rows = connection.execute(
        "SELECT kit_id, change FROM stock_moves WHERE trail_id = ? AND kit_id IS NOT NULL "
        "AND why = 'used' ORDER BY id",
        (trail_id,),
    ).fetchall()
    connection.execute(
        "UPDATE kit SET version = version + 1 WHERE id IN "
        "(SELECT kit_id FROM stock_moves WHERE trail_id = ?)",
        (trail_id,),
    )
    connection.execute("DELETE FROM stock_moves WHERE trail_id = ?", (trail_id,))
    return [Take(row["kit_id"], -row["change"]) for row in rows]


def moves_of(
    connection: sqlite3.Connection,
    *,
    kit_id: int | None = None,
    visit_id: int | None = None,
    count: int = 200,
) -> list[Move]:
    """Moves of a thing or of a visit, the newest first."""
    column, value = ("kit_id", kit_id) if kit_id is not None else ("visit_id", visit_id)
    rows = connection.execute(
        f"SELECT * FROM stock_moves WHERE {column} = ? ORDER BY id DESC LIMIT ?", (value, count)
    )
    return [
        Move(
            row["kit_id"],
            row["trail_id"],
            row["why"],
            row["change"],
            row["unit_price"],
            row["thing"],
            row["at"],
        )
        for row in rows
    ]


def spending(
    connection: sqlite3.Connection, since: int | None = None, count: int = 100
) -> list[Spending]:
    """What each body used up in each year: the newest year first, in it the dearest body first.

    ``since``: only from this year on.
    """
    rows = connection.execute(
        "SELECT body_id, strftime('%Y', at, 'localtime') AS year, "
        "count(DISTINCT visit_id) AS visits, "
        "sum(-change * coalesce(unit_price, 0)) AS cost, sum(unit_price IS NULL) AS unpriced "
        "FROM stock_moves WHERE why = 'used' AND at >= ? GROUP BY body_id, year "
        "ORDER BY year DESC, cost DESC LIMIT ?",
        ("" if since is None else year_begins(since), count),
    )
    return [
        Spending(row["body_id"], row["year"], row["visits"], row["cost"], row["unpriced"])
        for row in rows
    ]


def patches_a_visit(connection: sqlite3.Connection) -> int | None:
    """Sticky patches that a visit with lifting took on average, rounded up; None for too few."""
    row = connection.execute(
        "SELECT count(*) AS visits, avg(taken) AS mean FROM (SELECT sum(-change) AS taken "
        "FROM stock_moves WHERE why = 'used' AND visit_id IS NOT NULL AND kit_id IN "
        "(SELECT id FROM kit WHERE json_extract(item_json, '$.item') "
        "IN ('gel_stick', 'silicone_pad')) GROUP BY visit_id)"
    ).fetchone()
    return math.ceil(row["mean"]) if row["visits"] >= _ENOUGH_VISITS else None


def _raise_version(connection: sqlite3.Connection, kit_id: int) -> None:
    connection.execute("UPDATE kit SET version = version + 1 WHERE id = ?", (kit_id,))


def _move(
    connection: sqlite3.Connection,
    kit_id: int,
    owned: KitEntry,
    why: MoveWhy,
    change: float,
    at: str | None = None,
) -> None:
    connection.execute(
        "INSERT INTO stock_moves (kit_id, why, change, thing, at) VALUES (?, ?, ?, ?, ?)",
        (kit_id, why, change, _thing(owned.item), at or now()),
    )
    _raise_version(connection, kit_id)


def _set_suits(connection: sqlite3.Connection, kit_id: int, owned: KitEntry) -> None:
    connection.execute("DELETE FROM kit_suits WHERE kit_id = ?", (kit_id,))
    connection.executemany(
        "INSERT INTO kit_suits (kit_id, body_id) SELECT ?, id FROM bodies WHERE id = ?",
        [(kit_id, body_id) for body_id in dict.fromkeys(owned.suits or ())],
    )
