"""Maps, and two maps aligned: kept as JSON, parsed once while they are looked at."""

from __future__ import annotations

import json
import sqlite3
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import TypeVar, cast

from neatpatch.core.common.records import FrameRecord, SpotMap
from neatpatch.core.compare.comparison import Comparison
from neatpatch.core.visit.camera_recognition import Clues
from neatpatch.store.database import WritingConnection, now

_KEPT_PARSED = 144
"""Parsed maps and comparisons kept in memory: 400 spots take about half a megabyte."""
Parsed = TypeVar("Parsed")


def put_clues(connection: sqlite3.Connection, frame_id: int, clues: Clues) -> None:
    """Keep what a measured frame's file says of its camera."""
    connection.execute(
        "UPDATE maps SET clues_json = ? WHERE frame_id = ?", (clues.model_dump_json(), frame_id)
    )


def clues_in(connection: sqlite3.Connection, frame_id: int) -> Clues:
    """What a frame's file says of its camera; nothing before it was measured."""
    row = connection.execute(
        "SELECT clues_json FROM maps WHERE frame_id = ?", (frame_id,)
    ).fetchone()
    return Clues() if row is None else Clues.model_validate_json(row["clues_json"])


def record_in_map(connection: sqlite3.Connection, frame_id: int) -> FrameRecord | None:
    """What a frame's map says of its file; None while there is no map."""
    row = connection.execute(
        "SELECT json_extract(map_json, '$.frames[0]') AS record FROM maps WHERE frame_id = ?",
        (frame_id,),
    ).fetchone()
    return None if row is None else FrameRecord.model_validate_json(row["record"])


def sensor_in_map(connection: sqlite3.Connection, frame_id: int) -> tuple[float, float] | None:
    """The sensor size that a frame was measured with; None without a map or a size."""
    row = connection.execute(
        "SELECT json_extract(map_json, '$.frames[0].sensor_mm[0]') AS width, "
        "json_extract(map_json, '$.frames[0].sensor_mm[1]') AS height FROM maps "
        "WHERE frame_id = ?",
        (frame_id,),
    ).fetchone()
    if row is None or row["width"] is None:
        return None
    return float(row["width"]), float(row["height"])


def save_map(
    connection: sqlite3.Connection, frame_id: int, spot_map: SpotMap, made_by: str
) -> None:
    """Store a frame's map, replacing an older one, with what lists show of it in columns."""
    shows_from = [
        s.shows_from_f
        for s in spot_map.spots
        if s.site in ("sensor", "unsure") and s.shows_from_f is not None
    ]
    record = spot_map.frames[0]
    connection.execute(
        "INSERT INTO maps (frame_id, map_json, fit, spot_count, shows_from, camera, taken_at, "
        "f_number, made_by, made_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?) "
        "ON CONFLICT (frame_id) DO UPDATE SET map_json = excluded.map_json, "
        "version = maps.version + 1, fit = excluded.fit, spot_count = excluded.spot_count, "
        "shows_from = excluded.shows_from, camera = excluded.camera, "
        "taken_at = excluded.taken_at, f_number = excluded.f_number, "
        "made_by = excluded.made_by, made_at = excluded.made_at",
        (
            frame_id,
            spot_map.model_dump_json(),
            spot_map.fit,
            spot_map.summary.count,
            json.dumps(shows_from),
            record.camera,
            record.taken_at,
            record.f_number,
            made_by,
            now(),
        ),
    )


def map_version(connection: sqlite3.Connection, frame_id: int) -> int | None:
    """Version of a frame's map; None before it was measured."""
    row = connection.execute("SELECT version FROM maps WHERE frame_id = ?", (frame_id,)).fetchone()
    return int(row["version"]) if row else None


def put_comparison(
    connection: sqlite3.Connection,
    before: tuple[int, int],
    after: tuple[int, int],
    comparison: Comparison,
) -> None:
    """Keep a comparison of two frames, each by id and version of its map.

    Nothing is kept when a map has changed since, or its frame is gone.
    """
    connection.execute(
        "INSERT INTO comparisons SELECT b.frame_id, a.frame_id, b.version, a.version, ? "
        "FROM maps b, maps a WHERE b.frame_id = ? AND b.version = ? AND a.frame_id = ? "
        "AND a.version = ? ON CONFLICT (before_id, after_id) DO UPDATE SET "
        "before_version = excluded.before_version, after_version = excluded.after_version, "
        "comparison_json = excluded.comparison_json",
        (comparison.model_dump_json(), *before, *after),
    )


class MapReader:
    """Reads maps and comparisons; the last looked at are kept parsed, for all threads."""

    def __init__(self) -> None:
        self._parsed: OrderedDict[Hashable, object] = OrderedDict()
        self._lock = threading.Lock()

    def spot_map(self, connection: sqlite3.Connection, frame_id: int) -> SpotMap | None:
        """A frame's map; None before it was measured."""
        return self.map_at(connection, frame_id, map_version(connection, frame_id))

    def map_at(
        self, connection: sqlite3.Connection, frame_id: int, version: int | None
    ) -> SpotMap | None:
        """A frame's map of a version read in the same transaction; None for None."""
        if version is None:
            return None
        key = ("map", frame_id, version)
        known = self._known(key)
        if known is not None:
            return cast(SpotMap, known)
        row = connection.execute(
            "SELECT map_json FROM maps WHERE frame_id = ?", (frame_id,)
        ).fetchone()
        return self._keep(key, SpotMap.model_validate_json(row["map_json"]), connection)

    def comparison(
        self, connection: sqlite3.Connection, before: tuple[int, int], after: tuple[int, int]
    ) -> Comparison | None:
        """A kept comparison of two frames, each by id and version of its map; None for none."""
        key = ("comparison", before, after)
        known = self._known(key)
        if known is not None:
            return cast(Comparison, known)
        row = connection.execute(
            "SELECT comparison_json FROM comparisons WHERE before_id = ? AND before_version = ? "
            "AND after_id = ? AND after_version = ?",
            (*before, *after),
        ).fetchone()
        if row is None:
            return None
        return self._keep(key, Comparison.model_validate_json(row["comparison_json"]), connection)

    def remember(
        self, before: tuple[int, int], after: tuple[int, int], comparison: Comparison
    ) -> None:
        """Keep a fresh comparison in memory until it is stored."""
        self._keep(("comparison", before, after), comparison)

    def memoised(self, key: Hashable, tell: Callable[[], Parsed]) -> Parsed:
        """What follows from maps and comparisons, found out once. ``key``: what it is and of which
        frames, by id and version.
        """
        known = self._known(key)
        return cast(Parsed, known) if known is not None else self._keep(key, tell())

    def _known(self, key: Hashable) -> object | None:
        with self._lock:
            if key in self._parsed:
                self._parsed.move_to_end(key)
                return self._parsed[key]
        return None

    def _keep(
        self, key: Hashable, value: Parsed, read_by: sqlite3.Connection | None = None
    ) -> Parsed:
        """Keep what was read; not what a transaction reads that may yet be rolled back: its
        version's number would be given again to something else.
        """
        if isinstance(read_by, WritingConnection):
            return value
        with self._lock:
            self._parsed[key] = value
            while len(self._parsed) > _KEPT_PARSED:
                self._parsed.popitem(last=False)
        return value
