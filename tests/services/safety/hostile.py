"""Archives made by strangers: each is a good one altered in one way, with hashes that fit."""

from __future__ import annotations

import hashlib
import io
import json
import sqlite3
import zipfile
from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

DATABASE = "database.sqlite3"
_ENDLESS = "WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n)"


@dataclass
class Parts:
    """An archive taken apart: its parts by path, and what its manifest says beside them."""

    files: dict[str, bytes]
    manifest: dict[str, Any]
    declared: dict[str, dict[str, Any]] = field(default_factory=dict)
    """Entries of the manifest that say other than the truth, by path."""
    compression: int = zipfile.ZIP_DEFLATED

    @classmethod
    def of(cls, archive: Path) -> Parts:
        with zipfile.ZipFile(archive) as packed:
            files = {name: packed.read(name) for name in packed.namelist()}
        manifest = json.loads(files.pop("manifest.json"))
        return cls(files, manifest)

    def write(self, target: Path) -> Path:
        parts = [
            {
                "path": path,
                "sha256": hashlib.sha256(data).hexdigest(),
                "bytes": len(data),
                **self.declared.get(path, {}),
            }
            for path, data in self.files.items()
        ]
        manifest = {"parts": parts, **{k: v for k, v in self.manifest.items() if k != "parts"}}
        with zipfile.ZipFile(target, "w", self.compression) as packed:
            for path, data in self.files.items():
                packed.writestr(path, data)
            packed.writestr("manifest.json", json.dumps(manifest | self.declared.get("", {})))
        return target

    def sql(self, scratch: Path, *statements: str) -> None:
        """Alter the database by any statements, rules of the schema apart."""
        scratch.write_bytes(self.files[DATABASE])
        with closing(sqlite3.connect(scratch, isolation_level=None)) as connection:
            connection.execute("PRAGMA journal_mode = DELETE")
            connection.execute("PRAGMA foreign_keys = OFF")
            connection.execute("PRAGMA ignore_check_constraints = ON")
            for statement in statements:
                connection.execute(statement)
        self.files[DATABASE] = scratch.read_bytes()


def _swap(table: str, *select: str) -> tuple[str, ...]:
    """A table replaced by a view."""
    return ("PRAGMA legacy_alter_table = ON", f"ALTER TABLE {table} RENAME TO hidden", *select)


_SQL: dict[str, tuple[str, ...]] = {
    "hash is a path up": (
        "UPDATE originals SET sha256 = '../../../../victim'",
        "UPDATE frames SET sha256 = '../../../../victim'",
    ),
    "hash is as long as one": (
        f"UPDATE originals SET sha256 = '{'../' * 18}neatpatch1'",
        f"UPDATE frames SET sha256 = '{'../' * 18}neatpatch1'",
    ),
    "hash is an absolute path": (
        f"UPDATE originals SET sha256 = '/{'a' * 63}'",
        f"UPDATE frames SET sha256 = '/{'a' * 63}'",
    ),
    "hash in capitals": (
        "UPDATE originals SET sha256 = upper(sha256)",
        "UPDATE frames SET sha256 = upper(sha256)",
    ),
    "a table is an endless view": _swap(
        "bookings",
        f"CREATE VIEW bookings AS {_ENDLESS} SELECT i AS id, 'x' AS name, "
        "'2026-01-01' AS starts_on, '' AS note, 1 AS version, hex(i) AS uid FROM n",
    ),
    "an endless view beside": (f"CREATE VIEW more AS {_ENDLESS} SELECT i FROM n",),
    "a trigger of its own": (
        "CREATE TRIGGER extra AFTER INSERT ON bodies BEGIN DELETE FROM bodies; END",
    ),
    "our trigger with other text": (
        "DROP TRIGGER bodies_named",
        "CREATE TRIGGER bodies_named AFTER INSERT ON bodies BEGIN DELETE FROM visits; END",
    ),
    "a virtual table": ("CREATE VIRTUAL TABLE searched USING fts5(words)",),
    "a table more": ("CREATE TABLE more (id INTEGER)",),
    "a table less": ("DROP TABLE watched",),
    "a column more": ("ALTER TABLE visits ADD COLUMN secret TEXT",),
    "an index more": ("CREATE INDEX odd ON visits (lower(note))",),
    "a column of another type": (
        *_swap("settings", "CREATE TABLE settings (key, value, version)"),
        "DROP TABLE hidden",
    ),
    "a body without apertures": ("UPDATE bodies SET works_at = 'none'",),
    "a body that is infinite": ("UPDATE bodies SET sensor_width_mm = 9e999",),
    "conditions that are no record": ("UPDATE visits SET conditions_json = '[1]'",),
    "conditions unknown": ("UPDATE visits SET conditions_json = '{\"evil\": 1}'",),
    "a moment that is none": ("UPDATE visits SET opened_at = 'yesterday'",),
    "a step that is none": (
        "INSERT INTO trail (visit_id, step, at) SELECT id, 'burn', opened_at FROM visits",
    ),
    "removed things that are none": ("UPDATE trail SET removed_json = '{\"a\": 1}'",),
    "a name that cannot be shown": ("UPDATE frames SET name = 'a' || char(7) || 'b'",),
    "a thing that is none": ('UPDATE kit SET item_json = \'{"item": "hammer"}\'',),
    "a row that refers to nothing": ("UPDATE trail SET visit_id = 4711",),
    "a number beyond counting": ("UPDATE bodies SET id = 9223372036854775806",),
    "a job on no day": ("UPDATE bookings SET starts_on = '2026-02-31'",),
    "a verdict that is none": ("UPDATE visits SET verdict = 'burnt'",),
}


def _part(path: str, **entry: object) -> Callable[[Parts], None]:
    return lambda parts: parts.declared.update({path: entry})


def _zeros(parts: Parts) -> None:
    """Far longer than it says: reading it on would take for ever."""
    parts.files[DATABASE] += bytes(40_000_000)
    parts.declared[DATABASE] = {"bytes": 1000}


def _lzma(parts: Parts) -> None:
    parts.compression = zipfile.ZIP_LZMA


def _nothing(parts: Parts) -> None:
    parts.files.clear()
    parts.declared[""] = {"parts": []}


def _no_database(parts: Parts) -> None:
    del parts.files[DATABASE]


def _garbage(parts: Parts) -> None:
    parts.files[DATABASE] = b"SQLite format 3\x00" + bytes(range(256)) * 40


def _beside(parts: Parts) -> None:
    parts.files["../../outside.txt"] = b"x"


_WHOLE: dict[str, Callable[[Parts], None]] = {
    "no parts": _nothing,
    "no database": _no_database,
    "a database that is none": _garbage,
    "a part beside ours": _beside,
    "a part longer than it says": _zeros,
    "packed otherwise": _lzma,
    "a hash that is none": _part(DATABASE, sha256="../" * 21 + "x"),
    "a length below nothing": _part(DATABASE, bytes=-1),
    "a version that never was": lambda p: p.manifest.update(migrations=["0002_visits"]),
    "no version": lambda p: p.manifest.update(migrations=[]),
}


def hostile_archives(good: Path, folder: Path) -> Iterator[tuple[str, Path]]:
    """Every kind of hostile archive, by what is wrong with it."""
    for number, (name, statements) in enumerate(_SQL.items()):
        parts = Parts.of(good)
        parts.sql(folder / f"scratch-{number}.sqlite3", *statements)
        yield name, parts.write(folder / f"sql-{number}.zip")
    for number, (name, alter) in enumerate(_WHOLE.items()):
        parts = Parts.of(good)
        alter(parts)
        yield name, parts.write(folder / f"whole-{number}.zip")
    yield "cut short", _cut(good, folder / "cut.zip")
    yield "a stream damaged", _damaged_lzma(good, folder / "lzma.zip")


def _cut(good: Path, target: Path) -> Path:
    target.write_bytes(good.read_bytes()[:-300])
    return target


def _damaged_lzma(good: Path, target: Path) -> Path:
    """A stream of a packing that we never use, broken in the middle."""
    parts = Parts.of(good)
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_LZMA) as out:
        for path, data in parts.files.items():
            out.writestr(path, data)
        out.writestr("manifest.json", json.dumps(parts.manifest), zipfile.ZIP_STORED)
    whole = packed.getvalue()
    target.write_bytes(whole[:60] + bytes(60) + whole[120:])
    return target


NAMES = (*_SQL, *_WHOLE, "cut short", "a stream damaged")
