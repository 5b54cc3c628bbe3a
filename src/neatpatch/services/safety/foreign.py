"""A database from outside: its rows are brought into a fresh one of our own making.

Nothing of a stranger's schema is ever run: the file is opened as it lies, never written, trusting
nothing in it (https://www.sqlite.org/security.html); it must have exactly the tables, columns and
indexes of the version it claims; and its rows are read plainly, within a bound, into tables that we
made. What our rules do not allow is refused there.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing, contextmanager
from pathlib import Path
from urllib.parse import quote

from neatpatch.core.common.errors import NeatPatchError
from neatpatch.services.safety.schema import known_steps, make_schema, shape_at, shape_of
from neatpatch.services.safety.ticking import StoppedError, Tick, unseen

_STEPS_A_CALL = 10_000
"""Of SQLite's machine between two looks: a fraction of a millisecond."""
_LEAST_CALLS = 20_000
"""What any honest file may take, some seconds; a loop in its pages would go on for ever."""
_BYTES_A_CALL = 100
"""A row of 20 bytes takes about 100 steps to be read: a hundred times the need is allowed."""
_MOST_VALUE_BYTES = 300_000_000
MOST_ID = 2**53 - 1
"""What a page's script holds exactly."""
_EVERY = 500
"""Rows between two ticks."""


class ForeignDatabaseError(NeatPatchError):
    """A database from outside is not one of ours."""


def rebuild_database(
    foreign: Path, target: Path, migrations: Sequence[str], tick: Tick = unseen
) -> None:
    """Bring the rows of a foreign database into a fresh one with the schema of its version.

    ``migrations``: the version it claims. Raises `ForeignDatabaseError` where it is not exactly of
    that shape, breaks our rules or cannot be read; `StoppedError` where ``tick`` ends the work.
    """
    if not known_steps(migrations):
        raise ForeignDatabaseError("its database is of no version of Neat Patch.")
    share = _Share(tick)
    with _reading(foreign, share.again) as source, closing(_writing(target)) as copy:
        odd = shape_at(migrations).difference(shape_of(source))
        if odd:
            raise ForeignDatabaseError(
                f"its database is not ours: {odd[:60]} is not as it must be."
            )
        make_schema(copy, migrations)
        try:
            _copy_all(source, copy, share)
        except sqlite3.IntegrityError as error:
            raise ForeignDatabaseError(f"its rows break the rules ({error}).") from error


def _writing(target: Path) -> sqlite3.Connection:
    connection = sqlite3.connect(target, isolation_level=None)
    connection.execute("PRAGMA foreign_keys = OFF")
    connection.execute("PRAGMA synchronous = OFF")
    return connection


class _Share:
    """How far the copying is: told on, and asked again while SQLite works."""

    def __init__(self, tick: Tick) -> None:
        self._tick, self._share = tick, 0.0

    def reach(self, share: float) -> None:
        self._share = share
        self._tick(share)

    def again(self) -> None:
        self._tick(self._share)


@contextmanager
def _reading(foreign: Path, tick: Callable[[], None]) -> Iterator[sqlite3.Connection]:
    """A connection that trusts nothing and runs within a bound."""
    stopped: list[StoppedError] = []
    left = _LEAST_CALLS + foreign.stat().st_size // _BYTES_A_CALL

    def look() -> int:
        nonlocal left
        left -= 1
        try:
            tick()
        except StoppedError as error:
            stopped.append(error)
        return int(left < 0 or bool(stopped))

    address = f"file:{quote(str(foreign.absolute()))}?mode=ro&immutable=1"
    with closing(sqlite3.connect(address, uri=True, isolation_level=None)) as connection:
        connection.execute("PRAGMA trusted_schema = OFF")
        connection.execute("PRAGMA cell_size_check = ON")
        connection.execute("PRAGMA mmap_size = 0")
        connection.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, _MOST_VALUE_BYTES)
        connection.set_progress_handler(look, _STEPS_A_CALL)
        try:
            yield connection
        except sqlite3.Error as error:
            if stopped:
                raise stopped[0] from None
            if left < 0:
                raise ForeignDatabaseError(
                    "its database does not come to an end; it is not one of ours."
                ) from error
            raise ForeignDatabaseError(f"its database cannot be read ({error}).") from error


def _copy_all(source: sqlite3.Connection, copy: sqlite3.Connection, share: _Share) -> None:
    """Copy every table; triggers come back afterwards, what they would do is in the rows."""
    triggers = copy.execute("SELECT name, sql FROM sqlite_schema WHERE type = 'trigger'").fetchall()
    tables = [
        row[0]
        for row in copy.execute("SELECT name FROM sqlite_schema WHERE type = 'table'").fetchall()
    ]
    copy.execute("BEGIN")
    for name, _ in triggers:
        copy.execute(f'DROP TRIGGER "{name}"')
    for number, table in enumerate(tables):
        share.reach(number / len(tables))
        _copy_table(source, copy, table, share)
    for _, sql in triggers:
        copy.execute(sql)
    broken = copy.execute("PRAGMA foreign_key_check").fetchone()
    if broken is not None:
        raise ForeignDatabaseError(f"a row of {broken[0]} refers to one that is not there.")
    copy.execute("COMMIT")


def _copy_table(
    source: sqlite3.Connection, copy: sqlite3.Connection, table: str, share: _Share
) -> None:
    if table == "sqlite_sequence":
        _copy_numbers(source, copy)
        return
    columns = [str(row[1]) for row in copy.execute(f'PRAGMA table_info("{table}")')]
    named = ", ".join(f'"{column}"' for column in columns)
    marks = ", ".join("?" * len(columns))
    copy.execute(f'DELETE FROM "{table}"')
    for number, row in enumerate(source.execute(f'SELECT {named} FROM "{table}"')):
        copy.execute(f'INSERT INTO "{table}" ({named}) VALUES ({marks})', row)
        if number % _EVERY == 0:
            share.again()


def _copy_numbers(source: sqlite3.Connection, copy: sqlite3.Connection) -> None:
    """The highest number that each table ever gave, so that none is given twice."""
    for name, number in source.execute("SELECT name, seq FROM sqlite_sequence").fetchall():
        if isinstance(number, int) and 0 <= number <= MOST_ID:
            copy.execute("UPDATE sqlite_sequence SET seq = ? WHERE name = ?", (number, name))
            if not copy.execute("SELECT changes()").fetchone()[0]:
                copy.execute("INSERT INTO sqlite_sequence VALUES (?, ?)", (name, number))
