"""One SQLite file: connections, transactions, numbered migrations with a backup before each."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import UTC, datetime
from importlib import resources
from pathlib import Path

from neatpatch.core.errors import NeatPatchError

_MIGRATIONS = "neatpatch.store.migrations"


class StoreError(NeatPatchError):
    """The data folder cannot be used as it is."""


def now() -> str:
    """The present moment, UTC, as the store writes it."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


class Database:
    """Short-lived connections to one file; one writer at a time."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._writing = threading.RLock()

    @contextmanager
    def read(self) -> Iterator[sqlite3.Connection]:
        """A connection for reading; closed afterwards."""
        with closing(self._connect()) as connection:
            yield connection

    @contextmanager
    def write(self) -> Iterator[sqlite3.Connection]:
        """A transaction: committed at the end, rolled back on any error."""
        with self._writing, closing(self._connect()) as connection:
            connection.execute("BEGIN IMMEDIATE")
            try:
                yield connection
            except BaseException:
                connection.execute("ROLLBACK")
                raise
            connection.execute("COMMIT")

    def _connect(self) -> sqlite3.Connection:
        connection = sqlite3.connect(self.path, timeout=10, isolation_level=None)
        connection.row_factory = sqlite3.Row
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute("PRAGMA synchronous = FULL")
        return connection

    def migrate(self) -> list[str]:
        """Bring the file to the newest schema; gives the names of the migrations applied.

        Raises `StoreError` when the file was written by a newer version or is not a database.
        """
        try:
            return self._migrate()
        except sqlite3.DatabaseError as error:
            raise StoreError(
                f"{self.path} is not a usable database ({error}). "
                "Move it away, or choose another folder with --data."
            ) from error

    def _migrate(self) -> list[str]:
        with self.read() as connection:
            connection.execute("PRAGMA journal_mode = WAL")
            connection.execute(
                "CREATE TABLE IF NOT EXISTS migrations "
                "(name TEXT PRIMARY KEY, applied_at TEXT NOT NULL) STRICT"
            )
            done = {row["name"] for row in connection.execute("SELECT name FROM migrations")}
        known = migration_names()
        unknown = done - set(known)
        if unknown:
            raise StoreError(
                f"{self.path} was written by a newer version ({', '.join(sorted(unknown))}). "
                "Start that version, or choose another folder with --data."
            )
        wanted = [name for name in known if name not in done]
        if done and wanted:
            self.backup(self.path.with_name(f"{self.path.stem}-before-{wanted[0][:4]}.sqlite3"))
        for name in wanted:
            self._apply(name)
        return wanted

    def _apply(self, name: str) -> None:
        text = resources.files(_MIGRATIONS).joinpath(f"{name}.sql").read_text("utf-8")
        with self.write() as connection:
            for statement in split_statements(text):
                connection.execute(statement)
            connection.execute("INSERT INTO migrations VALUES (?, ?)", (name, now()))

    def backup(self, target: Path) -> None:
        """Write a consistent copy of the database, replacing ``target`` only when complete."""
        partial = target.with_suffix(".tmp")
        partial.unlink(missing_ok=True)
        with self.read() as source, closing(sqlite3.connect(partial)) as copy:
            source.backup(copy)
        partial.replace(target)


def migration_names() -> list[str]:
    """Names of the migrations that ship with this version, in order."""
    folder = resources.files(_MIGRATIONS)
    return sorted(f.name.removesuffix(".sql") for f in folder.iterdir() if f.name.endswith(".sql"))


def split_statements(text: str) -> list[str]:
    """Single statements of an SQL script."""
    statements, current = [], ""
    for line in text.splitlines(keepends=True):
        current += line
        if sqlite3.complete_statement(current):
            statements.append(current.strip())
            current = ""
    return [s for s in statements if s]
