"""An archive merged into a folder that holds data already, without doubles.

Rows are the same where their ``uid`` (of frames: the SHA-256) is; a camera is also the same where
serial number and sensor size are. What is here already stays as it is; what the archive has beside
it is added, in short transactions, a row always together with what hangs on it: stopped in between,
what came is whole, and merging again brings the rest. Settings, watched folders, folders of
pictures, paired devices and work in progress stay those of the folder; what can be made again is
made again.
"""

from __future__ import annotations

import json
import shutil
import sqlite3
import tempfile
from collections import Counter
from collections.abc import Sequence
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path

from neatpatch.core.common.records import Record
from neatpatch.core.common.words import counted
from neatpatch.services.safety.archive import known_archive, unpacked
from neatpatch.services.safety.ticking import Tick, part_of, unseen
from neatpatch.store.database import Database, StoreError, disk_trouble, now
from neatpatch.store.originals import Originals

_AT_ONCE = 25
"""Rows in one transaction, with what hangs on them: maps of hundreds of spots take some
milliseconds each, and others wait to write meanwhile."""


@dataclass(frozen=True)
class _Table:
    """A table to merge. ``key`` tells whether a row is here already, None: by its primary key.

    ``refs``: columns that name rows of other tables. ``of_new``: rows are taken over only where the
    row they hang on is new here.
    """

    name: str
    key: str | None = None
    refs: dict[str, str] = field(default_factory=dict)
    of_new: str | None = None


_TABLES = (
    _Table("frames", "sha256"),
    _Table("maps", None, {"frame_id": "frames"}, "frames"),
    _Table("backdrops", None, {"frame_id": "frames"}, "frames"),
    _Table("series", None, {"lead_id": "frames", "member_id": "frames"}),
    _Table("bodies", "uid"),
    _Table("bench_bodies", None, {"body_id": "bodies"}, "bodies"),
    _Table("fingerprints", None, {"body_id": "bodies"}, "bodies"),
    _Table("kit", "uid"),
    _Table("kit_suits", None, {"kit_id": "kit", "body_id": "bodies"}, "kit"),
    _Table("visits", "uid", {"body_id": "bodies"}),
    _Table("trail", "uid", {"visit_id": "visits", "frame_id": "frames"}),
    _Table(
        "stock_moves",
        "uid",
        {"kit_id": "kit", "trail_id": "trail", "visit_id": "visits", "body_id": "bodies"},
    ),
    _Table("bookings", "uid"),
    _Table("booking_bodies", None, {"booking_id": "bookings", "body_id": "bodies"}, "bookings"),
    _Table("exposures", "uid", {"body_id": "bodies"}),
    _Table("trays", None, {"visit_id": "visits"}, "visits"),
    _Table("tray_photos", None, {"visit_id": "visits"}, "visits"),
    _Table("tray_plans", "model"),
)
_TOLD = ("bodies", "visits", "trail", "frames", "kit", "bookings")


class Merged(Record):
    """How much of each was new and was added, and how much was here already."""

    added: dict[str, int]
    known: dict[str, int]


def merge(path: Path, root: Path, database: Database, tick: Tick = unseen) -> Merged:
    """Merge an archive into a data folder with its database; gives what came.

    Everything is proved and read first, without the writer's lock. Raises `BrokenArchiveError`
    for a damaged archive, one of a newer version or one with impossible rows, `StoreError` where
    the disk does not take it, `StoppedError` where ``tick`` ends the work.
    """
    manifest = known_archive(path, part_of(tick, 0.0, 0.4))
    partial = Path(tempfile.mkdtemp(dir=root, prefix=".merge-"))
    try:
        unpacked(path, manifest, partial, part_of(tick, 0.4, 0.7))
        other = partial / "neatpatch.sqlite3"
        return _merged(other, Originals(partial / "originals"), root, database, tick)
    except (OSError, sqlite3.Error) as error:
        trouble = disk_trouble(error) or str(error)
        raise StoreError(
            f"{root}: merging ended before its end. {trouble} What came is whole; merge the same "
            "file again to bring the rest."
        ) from error
    finally:
        shutil.rmtree(partial, ignore_errors=True)


_WORDS = (
    ("bodies", "camera", "cameras"),
    ("visits", "visit", "visits"),
    ("frames", "frame", "frames"),
    ("kit", "thing of the kit", "things of the kit"),
    ("bookings", "job", "jobs"),
)


def merged_words(came: Merged) -> str:
    """What came, in a sentence."""
    lines = [counted(came.added[t], one, many) for t, one, many in _WORDS if came.added[t]]
    new = ", ".join(lines) or "nothing that was not here"
    return f"Added {new}; {counted(sum(came.known.values()), 'row was', 'rows were')} here already."


def _merged(other: Path, arrived: Originals, root: Path, database: Database, tick: Tick) -> Merged:
    kept = Originals(root / "originals")
    with closing(sqlite3.connect(other)) as source:
        source.row_factory = sqlite3.Row
        merging = _Merging(source, database, (arrived, kept), part_of(tick, 0.7, 1.0))
        merging.run()
    return Merged(
        added={t: merging.added[t] for t in _TOLD}, known={t: merging.known[t] for t in _TOLD}
    )


class _Merging:
    """Rows of one database on their way into another."""

    def __init__(
        self,
        source: sqlite3.Connection,
        database: Database,
        originals: tuple[Originals, Originals],
        tick: Tick,
    ) -> None:
        self._source, self._database, self._tick = source, database, tick
        self._arrived, self._kept = originals
        self._target: sqlite3.Connection
        self._ids: dict[str, dict[int, int]] = {}
        self._new: dict[str, set[int]] = {}
        self.added: Counter[str] = Counter()
        self.known: Counter[str] = Counter()

    def run(self) -> None:
        """All tables, in the order in which they name each other.

        What is taken over with a new row alone (``of_new``) comes in its row's transaction.
        """
        total = sum(self._count(t.name) for t in _TABLES) or 1
        done = 0
        for table in _TABLES:
            self._ids[table.name], self._new[table.name] = {}, set()
            if table.of_new:
                continue
            hanging = [t for t in _TABLES if t.of_new == table.name]
            rows = self._source.execute(f"{self._all_of(table)} ORDER BY rowid")
            while chunk := rows.fetchmany(_AT_ONCE):
                self._tick(min(done / total, 1.0))
                done += self._take_chunk(table, hanging, [dict(row) for row in chunk])

    def _take_chunk(
        self, table: _Table, hanging: Sequence[_Table], chunk: list[dict[str, object]]
    ) -> int:
        """Some rows of a table with all that hangs on them, in one transaction; gives how many."""
        beside = [(t, self._rows_of(t, chunk)) for t in hanging]
        with self._database.write() as self._target:
            if table.name == "frames":
                self._take_originals(chunk)
            for row in chunk:
                self._take(table, row)
            for other, rows in beside:
                for row in rows:
                    self._take(other, row)
            # Files first, the commit after: a row never stands without its original.
            for row in chunk if table.name == "frames" else ():
                sha256 = str(row["sha256"])
                if self._arrived.path(sha256).is_file():
                    self._kept.keep(self._arrived.path(sha256), sha256)
        return len(chunk) + sum(len(rows) for _, rows in beside)

    def _take_originals(self, frames: Sequence[dict[str, object]]) -> None:
        """The rows that frames refer to by their hash."""
        for frame in frames:
            row = self._source.execute(
                "SELECT sha256, bytes, stored_at FROM originals WHERE sha256 = ?",
                (frame["sha256"],),
            ).fetchone()
            self._target.execute("INSERT OR IGNORE INTO originals VALUES (?, ?, ?)", tuple(row))

    def _rows_of(
        self, table: _Table, parents: Sequence[dict[str, object]]
    ) -> list[dict[str, object]]:
        """Rows of a table that hang on these."""
        column = next(c for c, other in table.refs.items() if other == table.of_new)
        ids = json.dumps([row["id"] for row in parents])
        found = self._source.execute(
            f'{self._all_of(table)} WHERE "{column}" IN (SELECT value FROM json_each(?))', (ids,)
        )
        return [dict(row) for row in found]

    def _all_of(self, table: _Table) -> str:
        """The statement that reads a table; columns that are made from others stay out."""
        columns = self._source.execute(f'PRAGMA table_info("{table.name}")')
        names = ", ".join(f'"{column["name"]}"' for column in columns)
        return f'SELECT {names} FROM "{table.name}"'

    def _count(self, table: str) -> int:
        return int(self._source.execute(f'SELECT count(*) FROM "{table}"').fetchone()[0])

    def _take(self, table: _Table, row: dict[str, object]) -> None:
        known = self._here(table, row)
        old = row.get("id")
        if known is not None:
            self.known[table.name] += 1
            if isinstance(old, int):
                self._ids[table.name][old] = known
            return
        if not self._point(table, row):
            return
        self._fit(table, row)
        if table.key is not None:
            row.pop("id")
        columns = ", ".join(f'"{c}"' for c in row)
        marks = ", ".join("?" * len(row))
        kind = "INSERT" if table.key is not None else "INSERT OR IGNORE"
        cursor = self._target.execute(
            f'{kind} INTO "{table.name}" ({columns}) VALUES ({marks})', tuple(row.values())
        )
        self.added[table.name] += 1
        if table.name == "trail":
            self._target.execute(
                "UPDATE visits SET version = version + 1 WHERE id = ?", (row["visit_id"],)
            )
        if isinstance(old, int) and cursor.lastrowid is not None and table.key is not None:
            self._ids[table.name][old] = cursor.lastrowid
            self._new[table.name].add(cursor.lastrowid)

    def _here(self, table: _Table, row: dict[str, object]) -> int | None:
        """The id of the same row here; None where there is none."""
        if table.key is None:
            return None
        found = self._target.execute(
            f'SELECT id FROM "{table.name}" WHERE {table.key} = ?', (row[table.key],)
        ).fetchone()
        if found is None and table.name == "bodies" and row["serial"]:
            found = self._target.execute(
                "SELECT id FROM bodies WHERE serial = ? AND abs(sensor_width_mm - ?) < 0.5 "
                "AND abs(sensor_height_mm - ?) < 0.5",
                (row["serial"], row["sensor_width_mm"], row["sensor_height_mm"]),
            ).fetchone()
        return None if found is None else int(found["id"])

    def _point(self, table: _Table, row: dict[str, object]) -> bool:
        """Let a row name the rows of this folder; whether it is to be taken over."""
        for column, other in table.refs.items():
            old = row[column]
            if not isinstance(old, int):
                continue
            here = self._ids[other].get(old)
            if here is None:
                return False
            if table.of_new == other and here not in self._new[other]:
                return False
            row[column] = here
        return True

    def _fit(self, table: _Table, row: dict[str, object]) -> None:
        """What the rules here ask of a new row beside its references."""
        if table.name == "bodies":
            row["name"] = self._free_name(str(row["name"]))
        elif table.name == "visits":
            self._close_second(row)
        elif table.name == "trail" and row["removed_json"]:
            taken, here = json.loads(str(row["removed_json"])), self._ids["kit"]
            row["removed_json"] = json.dumps(
                [[here[kit_id], n] for kit_id, n in taken if kit_id in here]
            )
        elif table.name == "kit":
            row["there"] = None

    def _kit(self, kit_id: int) -> int | None:
        """A thing's id here; things come after the trail that took them, so by its uid."""
        found = self._source.execute("SELECT uid FROM kit WHERE id = ?", (kit_id,)).fetchone()
        here = (
            found
            and self._target.execute("SELECT id FROM kit WHERE uid = ?", (found["uid"],)).fetchone()
        )
        return int(here["id"]) if here else None

    def _free_name(self, name: str) -> str:
        """A camera of the same name that is another one is told by a number."""
        tried, number = name, 1
        while self._target.execute("SELECT 1 FROM bodies WHERE name = ?", (tried,)).fetchone():
            number += 1
            tried = f"{name[:70]} ({number})"
        return tried

    def _close_second(self, row: dict[str, object]) -> None:
        """A camera has one open visit: a second one is closed as postponed, and can be reopened."""
        open_one = self._target.execute(
            "SELECT 1 FROM visits WHERE body_id = ? AND state = 'open'", (row["body_id"],)
        ).fetchone()
        if row["state"] == "open" and open_one:
            row.update(state="closed", verdict="deferred", closed_at=now())
