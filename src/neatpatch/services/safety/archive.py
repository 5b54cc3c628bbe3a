"""The portable archive of a data folder: one zip of open parts, described in docs/formats.md.

``manifest.json`` names every other part with its SHA-256 and size; ``database.sqlite3`` is a copy
taken by SQLite's own online backup; ``tables/*.jsonl`` holds the same rows as plain text;
``originals/*`` the files that were taken in, named by their SHA-256.
"""

from __future__ import annotations

import base64
import glob
import hashlib
import json
import lzma
import os
import shutil
import sqlite3
import struct
import tempfile
import zipfile
import zlib
from contextlib import closing
from pathlib import Path
from typing import IO, Literal

from pydantic import Field, ValidationError

from neatpatch import __version__
from neatpatch.core.common.errors import NeatPatchError
from neatpatch.core.common.records import Record
from neatpatch.services.safety.foreign import ForeignDatabaseError, rebuild_database
from neatpatch.services.safety.row_rules import require_rows
from neatpatch.services.safety.ticking import Tick, part_of, unseen
from neatpatch.store.database import Database, StoreError, disk_trouble, migration_names, now
from neatpatch.store.originals import Originals

FORMAT = "neatpatch.backup/1"
_MANIFEST, _DATABASE = "manifest.json", "database.sqlite3"
_ORIGINALS, _TABLES = "originals/", "tables/"
_CHUNK = 1 << 20
_SCRATCH = ".scratch"
_MOST_MANIFEST_BYTES = 200_000_000


_PART = r"^(database\.sqlite3|tables/[a-z_]{1,40}\.jsonl|originals/[0-9a-f]{64})$"
_PACKED_AS = (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED)
_ENCRYPTED = 0x1


class BrokenArchiveError(NeatPatchError):
    """A file is no archive of ours, or not what its manifest says."""


class Part(Record):
    """One part of an archive."""

    path: str = Field(pattern=_PART)
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    bytes: int = Field(ge=0)


class Manifest(Record):
    """What an archive holds. ``migrations``: the schema its database has; ``missing``: originals
    that the data folder had lost, or that were altered, when the archive was taken.
    """

    format: Literal["neatpatch.backup/1"]
    made_at: str
    made_by: str
    migrations: tuple[str, ...]
    parts: tuple[Part, ...] = Field(min_length=1)
    missing: tuple[str, ...] = ()

    @property
    def originals(self) -> int:
        """How many originals are in it."""
        return sum(p.path.startswith(_ORIGINALS) for p in self.parts)


def back_up(root: Path, target: Path, tick: Tick = unseen) -> Manifest:
    """Write the archive of a data folder, whether a server works on it or not.

    The copy of the database in it is brought up to date; the folder's own stays as it is.

    ``target`` appears only when the archive was read back and every part proved; a file that was
    there before is replaced then. Raises `StoreError` where there is nothing to back up or the
    disk does not take it, and leaves nothing behind.
    """
    database = root / "neatpatch.sqlite3"
    if not database.is_file():
        raise StoreError(f"{root}: there is no data here to back up. Name the folder with --data.")
    if not target.parent.is_dir():
        raise StoreError(f"{target.parent}: there is no such folder. Make it first.")
    partial = target.with_name(f".{target.name}.part")
    try:
        with tempfile.TemporaryDirectory(
            dir=target.parent, prefix=f".{target.stem}-", suffix=_SCRATCH
        ) as folder:
            copy = Path(folder) / _DATABASE
            Database(database).backup(copy)
            _bring_up_to_date(copy, root)
            originals = Originals(root / "originals")
            manifest = _write(partial, copy, originals, part_of(tick, 0.0, 0.6))
        verify(partial, part_of(tick, 0.6, 1.0))
        partial.chmod(0o600)
        partial.replace(target)
    except (OSError, sqlite3.Error) as error:
        trouble = disk_trouble(error) or str(error)
        raise StoreError(f"{target}: the backup could not be written. {trouble}") from error
    finally:
        partial.unlink(missing_ok=True)
    return manifest


def _bring_up_to_date(copy: Path, root: Path) -> None:
    with closing(sqlite3.connect(copy)) as connection:
        names = {row[0] for row in connection.execute("SELECT name FROM migrations")}
    if names - set(migration_names()):
        raise StoreError(f"{root} was written by a newer version. Back it up with that version.")
    Database(copy).migrate()


def clear_partial_archives(folder: Path, prefix: str) -> None:
    """Remove what a backup that was killed has left; ``prefix``: how this library's are named.

    Another machine's, which may be taking one into the same folder just now, are left alone.
    """
    for path in folder.glob(f".{glob.escape(prefix)}*"):
        if path.name.endswith(_SCRATCH) and path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        elif path.name.endswith(".zip.part"):
            path.unlink(missing_ok=True)


def _write(partial: Path, copy: Path, originals: Originals, tick: Tick) -> Manifest:
    parts: list[Part] = []
    missing: list[str] = []
    with (
        partial.open("wb") as out,
        zipfile.ZipFile(out, "w", zipfile.ZIP_STORED, allowZip64=True) as archive,
        closing(sqlite3.connect(copy)) as connection,
    ):
        connection.row_factory = sqlite3.Row
        with copy.open("rb") as stream:
            parts.append(_put(archive, _DATABASE, stream, compress=True))
        for table in _tables(connection):
            parts.append(_put_rows(archive, connection, table))
        wanted = [
            row["sha256"]
            for row in connection.execute("SELECT sha256 FROM originals ORDER BY sha256")
        ]
        for number, sha256 in enumerate(wanted):
            tick(number / len(wanted))
            try:
                with originals.path(sha256).open("rb") as stream:
                    part = _put(archive, _ORIGINALS + sha256, stream)
            except FileNotFoundError:
                missing.append(sha256)
                continue
            parts.append(part)
            if part.sha256 != sha256:
                missing.append(sha256)
        done = [r["name"] for r in connection.execute("SELECT name FROM migrations ORDER BY name")]
        manifest = Manifest(
            format=FORMAT,
            made_at=now(),
            made_by=__version__,
            migrations=tuple(done),
            parts=tuple(parts),
            missing=tuple(missing),
        )
        archive.writestr(_MANIFEST, manifest.model_dump_json(indent=1))
    with partial.open("rb") as written:
        os.fsync(written.fileno())
    return manifest


def _tables(connection: sqlite3.Connection) -> list[str]:
    rows = connection.execute(
        "SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%' "
        "ORDER BY name"
    )
    return [row["name"] for row in rows]


def _put(archive: zipfile.ZipFile, name: str, stream: IO[bytes], *, compress: bool = False) -> Part:
    info = zipfile.ZipInfo(name)
    info.compress_type = zipfile.ZIP_DEFLATED if compress else zipfile.ZIP_STORED
    digest, size = hashlib.sha256(), 0
    with archive.open(info, "w", force_zip64=True) as out:
        while chunk := stream.read(_CHUNK):
            digest.update(chunk)
            size += len(chunk)
            out.write(chunk)
    return Part(path=name, sha256=digest.hexdigest(), bytes=size)


def _put_rows(archive: zipfile.ZipFile, connection: sqlite3.Connection, table: str) -> Part:
    """A table as JSON Lines; bytes as base64 under ``{"base64": ...}``."""
    info = zipfile.ZipInfo(f"{_TABLES}{table}.jsonl")
    info.compress_type = zipfile.ZIP_DEFLATED
    digest, size = hashlib.sha256(), 0
    with archive.open(info, "w", force_zip64=True) as out:
        for row in connection.execute(f'SELECT * FROM "{table}"'):
            line = json.dumps({k: _plain(row[k]) for k in row.keys()}, ensure_ascii=False)  # noqa: SIM118
            data = line.encode() + b"\n"
            digest.update(data)
            size += len(data)
            out.write(data)
    return Part(path=info.filename, sha256=digest.hexdigest(), bytes=size)


def _plain(value: object) -> object:
    return {"base64": base64.b64encode(value).decode()} if isinstance(value, bytes) else value


_UNREADABLE = (
    zipfile.BadZipFile,
    zlib.error,
    lzma.LZMAError,
    struct.error,
    KeyError,
    EOFError,
    IndexError,
    ValueError,
    OverflowError,
    RuntimeError,
    NotImplementedError,
)
"""What reading a zip file that is damaged, encrypted or packed otherwise can raise."""


def verify(path: Path, tick: Tick = unseen) -> Manifest:
    """Read an archive through and hold every part against its manifest.

    Raises `BrokenArchiveError` with what is wrong and what to do.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            manifest = _manifest(archive, path)
            _require_parts(archive, manifest, path)
            total, read = sum(p.bytes for p in manifest.parts) or 1, 0
            for part in manifest.parts:
                _prove(
                    archive, part, path, part_of(tick, read / total, (read + part.bytes) / total)
                )
                read += part.bytes
    except _UNREADABLE as error:
        raise BrokenArchiveError(
            f"{path} is not a whole backup of Neat Patch ({error}). Use another one."
        ) from error
    return manifest


def _manifest(archive: zipfile.ZipFile, path: Path) -> Manifest:
    if archive.getinfo(_MANIFEST).file_size > _MOST_MANIFEST_BYTES:
        raise BrokenArchiveError(f"{path}: its manifest is too large to be one of ours.")
    try:
        return Manifest.model_validate_json(archive.read(_MANIFEST))
    except ValidationError as error:
        raise BrokenArchiveError(
            f"{path}: its manifest cannot be read. It is damaged, or of a newer version of Neat "
            "Patch: start that version."
        ) from error


def _require_parts(archive: zipfile.ZipFile, manifest: Manifest, path: Path) -> None:
    """Exactly the parts that the manifest names, each once, packed as we pack them."""
    there = archive.infolist()
    named = [_MANIFEST, *(part.path for part in manifest.parts)]
    plain = all(i.compress_type in _PACKED_AS and not i.flag_bits & _ENCRYPTED for i in there)
    if sorted(i.filename for i in there) != sorted(named) or _DATABASE not in named or not plain:
        raise BrokenArchiveError(
            f"{path} is not a whole backup of Neat Patch: its parts are not those that its "
            "manifest names. Use another one."
        )


def _prove(archive: zipfile.ZipFile, part: Part, path: Path, tick: Tick) -> None:
    """Read one part, never further than the manifest says it goes."""
    digest, size = hashlib.sha256(), 0
    with archive.open(part.path) as stream:
        while chunk := stream.read(min(_CHUNK, part.bytes + 1 - size)):
            digest.update(chunk)
            size += len(chunk)
            if size > part.bytes:
                break
            tick(size / part.bytes)
    if (digest.hexdigest(), size) != (part.sha256, part.bytes):
        raise BrokenArchiveError(
            f"{path}: its part {part.path} is not what was backed up. The file is damaged: use "
            "another backup."
        )


def restore(path: Path, root: Path) -> Manifest:
    """Bring an archive back into an empty data folder; gives what it holds.

    Everything is proved before anything is written, and the folder appears whole or not at all.
    Its database is a fresh one of our own with the archive's rows in it. Devices must be paired
    again, and work on folders of pictures waits until it is asked to go on.
    Pictures that can be made again are made when the folder is next served. Raises
    `BrokenArchiveError` for a damaged archive or one of a newer version, `StoreError` where the
    folder holds something already or the disk does not take it.
    """
    manifest = known_archive(path)
    if root.exists() and any(root.iterdir()):
        raise StoreError(
            f"{root} is not empty. Name a new folder with --data, or add what it lacks with "
            "--merge: nothing is ever written over."
        )
    root.parent.mkdir(parents=True, exist_ok=True)
    partial = Path(tempfile.mkdtemp(dir=root.parent, prefix=f".{root.name}-"))
    try:
        unpacked(path, manifest, partial)
        if root.exists():
            root.rmdir()
        partial.replace(root)
    except OSError as error:
        trouble = disk_trouble(error) or str(error)
        raise StoreError(f"{root}: it could not be restored. {trouble}") from error
    finally:
        shutil.rmtree(partial, ignore_errors=True)
    return manifest


def known_archive(path: Path, tick: Tick = unseen) -> Manifest:
    """What an archive holds, every part of it proved, and of no newer version than this."""
    manifest = verify(path, tick)
    unknown = sorted(set(manifest.migrations) - set(migration_names()))
    if unknown:
        raise BrokenArchiveError(
            f"{path} was made by a newer version ({', '.join(unknown)}). Start that version."
        )
    return manifest


def unpacked(path: Path, manifest: Manifest, root: Path, tick: Tick = unseen) -> None:
    """Write originals, and a fresh database with the archive's rows, brought up to date.

    Names come from hashes alone, never from the archive. Raises `BrokenArchiveError` where the
    database is not exactly ours or a row of it is not possible, `StoreError` where the disk has too
    little room.
    """
    root.chmod(0o700)
    _require_room(manifest, root)
    arrived, target = root / ".foreign.sqlite3", root / "neatpatch.sqlite3"
    with zipfile.ZipFile(path) as archive:
        _copy_originals(archive, manifest, Originals(root / "originals"), part_of(tick, 0.0, 0.4))
        database = next(part for part in manifest.parts if part.path == _DATABASE)
        _copy_out(archive, database, arrived, mode=0o600)
    try:
        rebuild_database(arrived, target, manifest.migrations, part_of(tick, 0.4, 0.7))
        Database(target).migrate()
        with closing(sqlite3.connect(target)) as connection:
            require_rows(connection, part_of(tick, 0.7, 1.0))
            _leave_at_home(connection)
    except ForeignDatabaseError as error:
        raise BrokenArchiveError(f"{path}: {error} Use another backup.") from error
    for left in (arrived, *root.glob("neatpatch-before-*")):
        left.unlink(missing_ok=True)
    target.chmod(0o600)


def _leave_at_home(connection: sqlite3.Connection) -> None:
    """Leave out what would act by itself: tokens that open the door, work that would write files.

    The folder gets a name of its own, so that its backups are not taken for those of the first.

    What was worked out from the rows is worked out again.
    """
    with connection:
        connection.execute("DELETE FROM devices")
        connection.execute(
            "UPDATE settings SET value = lower(hex(randomblob(4))) WHERE key = 'library_id'"
        )
        connection.execute(
            "UPDATE picture_sets SET state = 'stopped' WHERE state IN ('waiting', 'working')"
        )
        for table in ("links", "recorded", "retests"):
            connection.execute(f"DELETE FROM {table}")


def _require_room(manifest: Manifest, root: Path) -> None:
    """The database stands there twice for a while."""
    wanted = sum(
        part.bytes * (2 if part.path == _DATABASE else 1)
        for part in manifest.parts
        if not part.path.startswith(_TABLES)
    )
    if wanted > shutil.disk_usage(root).free:
        raise StoreError(
            f"{root}: the disk has too little room: {wanted / 1e6:.0f} MB are needed. Free some "
            "space first."
        )


def _copy_originals(
    archive: zipfile.ZipFile, manifest: Manifest, originals: Originals, tick: Tick
) -> None:
    for number, part in enumerate(manifest.parts):
        tick(number / len(manifest.parts))
        if part.path == f"{_ORIGINALS}{part.sha256}":
            target = originals.path(part.sha256)
            target.parent.mkdir(exist_ok=True)
            _copy_out(archive, part, target, mode=0o400)


def _copy_out(archive: zipfile.ZipFile, part: Part, target: Path, *, mode: int) -> None:
    """Never more than the manifest names, whatever became of the file since it was proved."""
    left = part.bytes
    with archive.open(part.path) as stream, target.open("wb") as out:
        while left and (chunk := stream.read(min(_CHUNK, left))):
            out.write(chunk)
            left -= len(chunk)
        out.flush()
        os.fsync(out.fileno())
    target.chmod(mode)
