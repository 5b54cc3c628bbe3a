"""The shape of our database at a version, and whether another file has exactly that."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Iterator, Sequence
from contextlib import closing
from dataclasses import dataclass

from neatpatch.store.database import migration_names, migration_text, now, split_statements

_STATISTICS = "sqlite_stat"
"""Tables that SQLite's ANALYZE makes; they say nothing and may be there or not."""


@dataclass(frozen=True)
class Shape:
    """Tables with their columns, keys and indexes, and triggers by their text."""

    objects: frozenset[tuple[str, ...]]
    tables: frozenset[tuple[object, ...]]
    triggers: frozenset[tuple[str, str]]

    def difference(self, other: Shape) -> str:
        """The first thing, by name, that another shape has and this one has not, or otherwise."""
        for mine, theirs in (
            (self.objects, other.objects),
            (self.tables, other.tables),
            (self.triggers, other.triggers),
        ):
            odd = sorted(str(part[0]) for part in (theirs ^ mine))
            if odd:
                return odd[0]
        return ""


def known_steps(names: Sequence[str]) -> bool:
    """Whether these are the first of our migrations, none left out and none unknown."""
    return bool(names) and sorted(names) == migration_names()[: len(names)]


def make_schema(connection: sqlite3.Connection, names: Sequence[str]) -> None:
    """Build the schema of a version in an empty database; ``names``: its migrations."""
    connection.execute(
        "CREATE TABLE IF NOT EXISTS migrations "
        "(name TEXT PRIMARY KEY, applied_at TEXT NOT NULL) STRICT"
    )
    for name in sorted(names):
        for statement in split_statements(migration_text(name)):
            connection.execute(statement)
        connection.execute("INSERT INTO migrations VALUES (?, ?)", (name, now()))


def shape_at(names: Sequence[str]) -> Shape:
    """The shape of our database with these migrations."""
    with closing(sqlite3.connect(":memory:", isolation_level=None)) as connection:
        make_schema(connection, names)
        return shape_of(connection)


def shape_of(connection: sqlite3.Connection) -> Shape:
    """The shape of a database. Raises `sqlite3.DatabaseError` where it cannot be read."""
    rows = connection.execute("SELECT name, type, tbl_name, sql FROM sqlite_schema").fetchall()
    rows = [row for row in rows if not str(row[0]).startswith(_STATISTICS)]
    return Shape(
        objects=frozenset((str(name), str(kind), str(table)) for name, kind, table, _ in rows),
        tables=frozenset(_tables(connection)),
        triggers=frozenset(
            (str(name), _folded(str(sql))) for name, kind, _, sql in rows if kind == "trigger"
        ),
    )


def _folded(sql: str) -> str:
    return re.sub(r"\s+", " ", sql).strip()


def _tables(connection: sqlite3.Connection) -> Iterator[tuple[object, ...]]:
    """A row for each table (its kind and columns), and one for each of its keys and indexes."""
    for _, name, kind, columns, without_rowid, strict in connection.execute(
        "SELECT * FROM pragma_table_list WHERE schema = 'main'"
    ).fetchall():
        if name.startswith(("sqlite_schema", _STATISTICS)):
            continue
        yield name, kind, columns, without_rowid, strict
        for pragma in ("table_xinfo", "foreign_key_list"):
            for row in connection.execute(f"SELECT * FROM pragma_{pragma}(?)", (name,)).fetchall():
                yield name, pragma, *row
        for row in connection.execute(
            "SELECT name, [unique], origin, partial FROM pragma_index_list(?)", (name,)
        ).fetchall():
            yield name, *row
            for part in connection.execute("SELECT * FROM pragma_index_xinfo(?)", (row[0],)):
                yield name, row[0], *part
