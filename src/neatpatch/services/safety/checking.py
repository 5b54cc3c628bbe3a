"""The check of a data folder: what is lost, what can be made again, in plain words."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing, suppress
from pathlib import Path
from typing import Literal

from pydantic import ConfigDict, Field, ValidationError

from neatpatch.core.common.records import Record, SpotMap
from neatpatch.core.common.words import counted
from neatpatch.images.hashing import sha256_of
from neatpatch.services.safety.leftovers import KEPT_ASIDE, partial_files, set_aside
from neatpatch.services.safety.schema import shape_at, shape_of
from neatpatch.services.safety.ticking import Tick, unseen
from neatpatch.store import jobs as job_rows
from neatpatch.store.database import Database, StoreError, migration_names, offer_backup
from neatpatch.store.jobs import NewJob
from neatpatch.store.originals import NoHashError, Originals, is_sha256, require_sha256
from neatpatch.store.owner import FolderInUseError, owned

What = Literal[
    "database", "references", "original", "stray", "map", "picture", "stock", "aside", "partial"
]


class Finding(Record):
    """Something that is not as it should be. ``lost``: it cannot be made again; ``mended``: it
    was put right, or will be when the folder is next served.
    """

    what: What
    subject: str
    words: str
    lost: bool
    mended: bool = False


class CheckReport(Record):
    """What a check looked at and found. ``ok``: nothing is lost."""

    schema_: Literal["neatpatch.check/1"] = Field("neatpatch.check/1", alias="schema")
    ok: bool
    originals: int
    maps: int
    found: tuple[Finding, ...]

    model_config = ConfigDict(
        frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True
    )


def check(root: Path, tick: Tick = unseen) -> CheckReport:
    """Hold a data folder's originals against their hashes and its database against its rules.

    What can be made again is put right, unless a server works on the folder, which does so itself
    at its next start. Raises `StoreError` where there is no data, or it is of a newer version.
    """
    path = root / "neatpatch.sqlite3"
    if not path.is_file():
        raise StoreError(f"{root}: there is no data here to check. Name the folder with --data.")
    broken = _integrity(path)
    if broken:
        return CheckReport(ok=False, originals=0, maps=0, found=(broken,))
    _require_known(path)
    odd = _shape(path)
    if odd:
        return CheckReport(ok=False, originals=0, maps=0, found=(odd,))
    database = Database(path)
    with database.read() as connection:
        originals = _count(connection, "originals")
        maps = _count(connection, "maps")
        found = [
            *_references(connection),
            *_maps(connection),
            *_pictures(connection, root),
            *_stock(connection),
        ]
    found += [*_originals(root, tick), *_unreferenced(root, database), *_left(root)]
    return CheckReport(
        ok=not any(f.lost for f in found),
        originals=originals,
        maps=maps,
        found=tuple(_repaired(root, database, found)),
    )


def _integrity(path: Path) -> Finding | None:
    try:
        with closing(sqlite3.connect(path)) as connection:
            messages = [str(row[0]) for row in connection.execute("PRAGMA integrity_check(5)")]
    except sqlite3.DatabaseError as error:
        messages = [str(error)]
    if messages == ["ok"]:
        return None
    return Finding(
        what="database",
        subject=path.name,
        words=f"The database is damaged ({'; '.join(messages)[:300]}). Restore the last backup "
        f"into a new folder; the originals here are untouched.{offer_backup(path.parent)}",
        lost=True,
    )


def _shape(path: Path) -> Finding | None:
    """A table, view or trigger that we did not make, or that is otherwise than we made it."""
    with Database(path).read() as connection:
        odd = shape_at(migration_names()).difference(shape_of(connection))
    if not odd:
        return None
    return Finding(
        what="database",
        subject=odd,
        words=f"The database is not as Neat Patch made it: {odd[:60]} is not as it must be. "
        f"Restore the last backup into a new folder.{offer_backup(path.parent)}",
        lost=True,
    )


def _require_known(path: Path) -> None:
    with Database(path).read() as connection:
        rows = connection.execute("SELECT name FROM migrations").fetchall()
    unknown = {row["name"] for row in rows} - set(migration_names())
    if unknown:
        raise StoreError(f"{path} was written by a newer version. Check it with that version.")
    if len(rows) < len(migration_names()):
        raise StoreError(f"{path} is of an earlier version. Serve the folder once, then check it.")


def _count(connection: sqlite3.Connection, table: str) -> int:
    return int(connection.execute(f"SELECT count(*) FROM {table}").fetchone()[0])


def _references(connection: sqlite3.Connection) -> Iterator[Finding]:
    for row in connection.execute("PRAGMA foreign_key_check").fetchall():
        yield Finding(
            what="references",
            subject=f"{row[0]} {row[1]}",
            words=f"A row of {row[0]} refers to a row of {row[2]} that is not there.",
            lost=True,
        )


def _maps(connection: sqlite3.Connection) -> Iterator[Finding]:
    rows = connection.execute(
        "SELECT m.frame_id, f.name, m.map_json FROM maps m JOIN frames f ON f.id = m.frame_id"
    )
    for row in rows:
        try:
            SpotMap.model_validate_json(row["map_json"])
        except ValidationError:
            yield Finding(
                what="map",
                subject=str(row["frame_id"]),
                words=f"The map of {row['name']} cannot be read. It is measured again.",
                lost=False,
            )


def _pictures(connection: sqlite3.Connection, root: Path) -> Iterator[Finding]:
    rows = connection.execute(
        "SELECT f.id, f.name, f.sha256 FROM frames f JOIN maps m ON m.frame_id = f.id"
    )
    for row in rows:
        sha256 = row["sha256"]
        if not is_sha256(sha256):
            continue
        if not (root / "derived" / sha256[:2] / sha256).is_dir():
            yield Finding(
                what="picture",
                subject=str(row["id"]),
                words=f"The picture of {row['name']} is gone. It is made again from the original.",
                lost=False,
            )


_OFF_COUNT = "there IS NOT (SELECT sum(change) FROM stock_moves m WHERE m.kit_id = kit.id)"


def _stock(connection: sqlite3.Connection) -> Iterator[Finding]:
    for row in connection.execute(f"SELECT id FROM kit WHERE {_OFF_COUNT}").fetchall():
        yield Finding(
            what="stock",
            subject=str(row["id"]),
            words=f"What is left of thing {row['id']} of the kit is not the sum of its moves. It "
            "is counted anew.",
            lost=False,
        )


def _missing_originals(
    root: Path, tick: Tick
) -> Iterator[tuple[str, Literal["missing", "altered"]]]:
    """Originals that a data folder's rows name and that are not there, or not what they were."""
    originals = Originals(root / "originals")
    with Database(root / "neatpatch.sqlite3").read() as connection:
        rows = connection.execute("SELECT sha256 FROM originals ORDER BY sha256").fetchall()
    for number, row in enumerate(rows):
        tick(number / len(rows))
        found = None
        with suppress(FileNotFoundError, NoHashError):
            found = sha256_of(originals.path(row["sha256"]))
        if found != row["sha256"]:
            yield row["sha256"], "missing" if found is None else "altered"


def _originals(root: Path, tick: Tick) -> Iterator[Finding]:
    words = {
        "missing": "The stored file {0} is gone. Restore it from a backup.",
        "altered": "The stored file {0} is not what was taken in. Restore it from a backup.",
    }
    for sha256, how in _missing_originals(root, tick):
        try:
            said = words[how].format(require_sha256(sha256)[:12])
        except NoHashError as error:
            said = str(error)
        yield Finding(what="original", subject=sha256[:80], words=said, lost=True)


def _unreferenced(root: Path, database: Database) -> Iterator[Finding]:
    with database.read() as connection:
        known = {row["sha256"] for row in connection.execute("SELECT sha256 FROM originals")}
    for sha256 in Originals(root / "originals").all_hashes():
        if sha256 not in known:
            yield Finding(
                what="stray",
                subject=sha256,
                words=f"The stored file {sha256[:12]} belongs to no frame. It is set aside.",
                lost=False,
            )


def _left(root: Path) -> Iterator[Finding]:
    """What was set aside, and what stopped work has left; neither is anything lost."""
    aside = set_aside(Originals(root / "originals"))
    if aside.count:
        files = counted(aside.count, "file that no frame names", "files that no frame names")
        yield Finding(
            what="aside",
            subject=aside.folder,
            words=f"{files} {'lies' if aside.count == 1 else 'lie'} in {aside.folder} "
            f"({aside.bytes / 1e6:.1f} MB). They come back with the rows that name them; after "
            f"{KEPT_ASIDE.days} days they can be deleted in Settings, Backup.",
            lost=False,
        )
    for path in partial_files(root):
        yield Finding(
            what="partial",
            subject=path,
            words=f"{path} is left of work that was stopped. It is cleared when the folder is next "
            "served.",
            lost=False,
        )


def _repaired(root: Path, database: Database, found: list[Finding]) -> Iterator[Finding]:
    """Mend what can be made again, unless a server works on the folder: it does so itself."""
    can = [f for f in found if not f.lost and f.what not in ("aside", "partial")]
    if not can:
        yield from found
        return
    try:
        with owned(root):
            for finding in can:
                _repair(root, database, finding)
    except FolderInUseError:
        yield from found
        return
    yield from (f.model_copy(update={"mended": True}) if f in can else f for f in found)


def _repair(root: Path, database: Database, finding: Finding) -> None:
    if finding.what == "stray":
        Originals(root / "originals").set_aside(finding.subject)
        return
    if finding.what == "stock":
        with database.write() as connection:
            connection.execute(
                "UPDATE kit SET there = (SELECT sum(change) FROM stock_moves m "
                f"WHERE m.kit_id = kit.id) WHERE {_OFF_COUNT}"
            )
        return
    frame_id = int(finding.subject)
    with database.write() as connection:
        row = connection.execute("SELECT name FROM frames WHERE id = ?", (frame_id,)).fetchone()
        waiting = job_rows.latest_job_of(connection, frame_id)
        if row is None or (waiting is not None and not waiting.finished):
            return
        kind: Literal["map", "picture"] = "map" if finding.what == "map" else "picture"
        job_rows.add_job(connection, NewJob(kind=kind, label=row["name"], frame_id=frame_id))
