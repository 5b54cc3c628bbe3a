"""One SQLite file: connections, transactions, numbered migrations with a backup before each."""

from __future__ import annotations

import errno
import sqlite3
import threading
from collections import deque
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import UTC, date, datetime
from importlib import resources
from pathlib import Path

from neatpatch.core.common.errors import NeatPatchError

_MIGRATIONS = "neatpatch.store.migrations"
_PLACE = "choose another folder with --data"
WAIT_FOR_WRITER_S = 10.0
_MOST_IDLE = 8
_LAST_BACKUP = "neatpatch.last-backup"
_DISK_ERRNOS = {
    errno.ENOSPC,
    errno.EDQUOT,
    errno.EROFS,
    errno.EACCES,
    errno.EPERM,
    errno.EIO,
}


class StoreError(NeatPatchError):
    """The data folder cannot be used as it is."""


def now() -> str:
    """The present moment, UTC, as the store writes it."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def day_text(day: date | None) -> str | None:
    """A day as the store writes it."""
    return None if day is None else day.isoformat()


def disk_trouble(error: Exception) -> str | None:
    """What keeps the disk from taking or giving data, in a sentence; None when it is not that.

    Told by SQLite's result code, else by the operating system's.
    """
    if isinstance(error, OSError):
        known = error.errno in _DISK_ERRNOS
        return f"The disk does not take it ({error.strerror})." if known else None
    if not isinstance(error, sqlite3.Error):
        return None
    name = getattr(error, "sqlite_errorname", "") or ""
    for start, words in (
        ("SQLITE_FULL", "The disk is full."),
        ("SQLITE_READONLY", "The data folder cannot be written to."),
        ("SQLITE_CANTOPEN", "The data folder cannot be opened or written to."),
        ("SQLITE_IOERR", "The disk does not take or give its data."),
        ("SQLITE_PERM", "The data folder cannot be written to."),
        ("SQLITE_BUSY", "Another program holds the database."),
        ("SQLITE_LOCKED", "Another program holds the database."),
    ):
        if name.startswith(start):
            return words
    return None


def note_backup(root: Path, archive: Path) -> None:
    """Write the path of the last backup beside the database, not in it."""
    (root / _LAST_BACKUP).write_text(str(archive), "utf-8")


def offer_backup(root: Path) -> str:
    """A sentence on the last backup and how it is brought back; empty where none is known."""
    try:
        archive = (root / _LAST_BACKUP).read_text("utf-8").strip()
    except (OSError, ValueError):
        return ""
    if not archive or not Path(archive).is_file():
        return ""
    return (
        f" The last backup is {archive}: bring it back by 'neatpatch restore {archive} --data' and "
        "a new folder."
    )


class WritingConnection(sqlite3.Connection):
    """A connection within a transaction that may be rolled back: what it reads may never be."""


class Database:
    """Connections to one file; one writer at a time."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._writing = threading.RLock()
        self._is_writing = False
        self._idle: deque[sqlite3.Connection] = deque()
        self._most_idle = 0

    @contextmanager
    def read(self) -> Iterator[sqlite3.Connection]:
        """A connection for reading one state of the data; not to be kept beyond the end.

        A write through it raises `sqlite3.OperationalError`: it would be lost without a word.
        """
        connection = self._reader()
        try:
            connection.execute("BEGIN")
            yield connection
            connection.execute("ROLLBACK")
        except BaseException:
            connection.close()
            raise
        self._put_back(connection)

    def _reader(self) -> sqlite3.Connection:
        try:
            return self._idle.pop()
        except IndexError:
            connection = self._connect()
            connection.execute("PRAGMA query_only = ON")
            return connection

    def _put_back(self, connection: sqlite3.Connection) -> None:
        """Kept for the next reader, whatever its thread; one too many is closed."""
        self._idle.append(connection)
        while len(self._idle) > self._most_idle:
            try:
                self._idle.popleft().close()
            except IndexError:
                return

    @contextmanager
    def write(self, *, durable: bool = True) -> Iterator[sqlite3.Connection]:
        """A transaction: committed at the end, rolled back on any error.

        What is not ``durable`` (how far a job is) may be lost in a power cut, and costs no waiting
        for the disk; it never comes before what is. One within another of the same thread would
        wait for itself: it raises `RuntimeError` at once.
        """
        with self._only_one(), closing(self._connect(WritingConnection)) as connection:
            if not durable:
                connection.execute("PRAGMA synchronous = NORMAL")
            connection.execute("BEGIN IMMEDIATE")
            try:
                yield connection
                connection.execute("COMMIT")
            except BaseException:
                if connection.in_transaction:
                    connection.execute("ROLLBACK")
                raise

    @contextmanager
    def _only_one(self) -> Iterator[None]:
        with self._writing:
            if self._is_writing:
                raise RuntimeError("a transaction is begun within another one of this thread")
            self._is_writing = True
            try:
                yield
            finally:
                self._is_writing = False

    @contextmanager
    def kept_open(self) -> Iterator[None]:
        """Readers' connections held while the application serves.

        Each is a millisecond to open. And the last one to be closed tidies the log away, and the
        next one makes it again: so one more is open all the time.
        """
        with closing(self._connect()) as connection:
            connection.execute("SELECT count(*) FROM sqlite_master").fetchone()
            self._most_idle = _MOST_IDLE
            try:
                yield
            finally:
                self._most_idle = 0
                while self._idle:
                    self._idle.pop().close()

    @contextmanager
    def exclusive(self) -> Iterator[None]:
        """Keep this process's other writers out, for work on files that belongs to a change."""
        with self._writing:
            yield

    def _connect(self, kind: type[sqlite3.Connection] = sqlite3.Connection) -> sqlite3.Connection:
        connection = sqlite3.connect(
            self.path,
            timeout=WAIT_FOR_WRITER_S,
            isolation_level=None,
            factory=kind,
            check_same_thread=False,
        )
        connection.row_factory = sqlite3.Row
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute("PRAGMA synchronous = FULL")
        return connection

    def migrate(self) -> list[str]:
        """Bring the file to the newest schema; gives the names of the migrations applied.

        Raises `StoreError` when the file was written by a newer version, is not a database, or the
        disk is full or read-only; which of these it is, is said.
        """
        try:
            return self._migrate()
        except (sqlite3.DatabaseError, OSError) as error:
            trouble = disk_trouble(error)
            if isinstance(error, OSError) and not trouble:
                raise
            if trouble:
                raise StoreError(
                    f"the data folder {self.path.parent} cannot be used: {trouble} Free some space "
                    f"or mend its rights, or {_PLACE}. Nothing in it was changed."
                ) from error
            raise StoreError(
                f"{self.path} is not a usable database ({error}).{offer_backup(self.path.parent)} "
                f"Move it away, or {_PLACE}."
            ) from error

    def _migrate(self) -> list[str]:
        with closing(self._connect()) as connection:
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
                f"Start that version, or {_PLACE}.{offer_backup(self.path.parent)}"
            )
        wanted = [name for name in known if name not in done]
        if done and wanted:
            self.backup(self.path.with_name(f"{self.path.stem}-before-{wanted[0][:4]}.sqlite3"))
        for name in wanted:
            self._apply(name)
        return wanted

    def _apply(self, name: str) -> None:
        """Apply one migration with its record in one transaction.

        Tables may be rebuilt in it, so foreign keys are off meanwhile and checked before the end
        (https://www.sqlite.org/lang_altertable.html, section 7).
        """
        with self._writing, closing(self._connect()) as connection:
            connection.execute("PRAGMA foreign_keys = OFF")
            connection.execute("BEGIN IMMEDIATE")
            for statement in split_statements(migration_text(name)):
                connection.execute(statement)
            broken = connection.execute("PRAGMA foreign_key_check").fetchall()
            if broken:
                raise StoreError(
                    f"{self.path} cannot be brought up to date: {len(broken)} of its references "
                    f"lead nowhere. It was left as it was; {_PLACE}."
                )
            connection.execute("INSERT INTO migrations VALUES (?, ?)", (name, now()))
            connection.execute("COMMIT")

    def backup(self, target: Path) -> None:
        """Write a consistent copy of the database, replacing ``target`` only when complete."""
        partial = target.with_suffix(".tmp")
        partial.unlink(missing_ok=True)
        with self.read() as source, closing(sqlite3.connect(partial)) as copy:
            source.backup(copy)
        partial.chmod(0o600)
        partial.replace(target)


def migration_names() -> list[str]:
    """Names of the migrations that ship with this version, in order."""
    folder = resources.files(_MIGRATIONS)
    return sorted(f.name.removesuffix(".sql") for f in folder.iterdir() if f.name.endswith(".sql"))


def migration_text(name: str) -> str:
    """The SQL of one migration."""
    return resources.files(_MIGRATIONS).joinpath(f"{name}.sql").read_text("utf-8")


def split_statements(text: str) -> list[str]:
    """Single statements of an SQL script."""
    statements, current = [], ""
    for line in text.splitlines(keepends=True):
        current += line
        if sqlite3.complete_statement(current):
            statements.append(current.strip())
            current = ""
    return [s for s in statements if s]
