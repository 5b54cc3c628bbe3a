"""Everything as tables and as JSON, for use elsewhere."""

from __future__ import annotations

import csv
import io
import json
import sqlite3
from typing import Literal

Table = Literal["cameras", "visits", "steps", "frames", "spots", "kit", "stock", "jobs"]

_QUERIES: dict[Table, str] = {
    "cameras": "SELECT id, name, serial, camera_name, access, sensor_width_mm, sensor_height_mm, "
    "works_at, pitch_um, stack_mm, serviced_on FROM bodies ORDER BY id",
    "visits": "SELECT v.id, v.body_id, b.name AS camera, v.state, v.verdict, v.note, v.opened_at, "
    "v.closed_at, v.first_relevant AS visible_first, v.last_relevant AS visible_last, "
    "v.look_again_on FROM visits v JOIN bodies b ON b.id = v.body_id ORDER BY v.id",
    "steps": "SELECT t.id, t.visit_id, t.at, t.step, t.who, t.use_json AS used, r.kind, r.removed, "
    "r.stayed, r.moved, r.new FROM trail t LEFT JOIN retests r ON r.entry_id = t.id "
    "WHERE t.step IS NOT NULL AND t.removed_json IS NULL ORDER BY t.id, r.kind",
    "frames": "SELECT f.id, f.name, f.sha256, f.added_at, m.taken_at, m.camera, m.fit, "
    "m.spot_count AS spots, (SELECT max(t.visit_id) FROM trail t WHERE t.frame_id = f.id "
    "AND t.removed_json IS NULL) AS visit_id FROM frames f LEFT JOIN maps m "
    "ON m.frame_id = f.id ORDER BY f.id",
    "spots": "SELECT m.frame_id, s.value ->> 'id' AS spot, s.value ->> 'kind' AS kind, "
    "s.value ->> 'site' AS site, s.value ->> 'zone' AS zone, s.value ->> 'x_px' AS x_px, "
    "s.value ->> 'y_px' AS y_px, s.value ->> 'x_mm' AS x_mm, s.value ->> 'y_mm' AS y_mm, "
    "s.value ->> 'depth' AS depth, s.value ->> 'outer_um' AS outer_um, "
    "s.value ->> 'particle_um' AS particle_um, s.value ->> 'shows_from_f' AS shows_from_f "
    "FROM maps m, json_each(m.map_json, '$.spots') s ORDER BY m.frame_id",
    "kit": "SELECT id, item_json AS item, note, source, pack_size, pack_price, opened_on, "
    "best_before FROM kit ORDER BY id",
    "stock": "SELECT * FROM stock_moves ORDER BY id",
    "jobs": "SELECT b.id, b.name, b.starts_on, b.note, (SELECT group_concat(x.body_id) FROM "
    "booking_bodies x WHERE x.booking_id = b.id) AS body_ids FROM bookings b ORDER BY b.id",
}
TABLES = tuple(_QUERIES)
_SPREADSHEET = ("=", "+", "-", "@", "\t")
"""Texts that begin so are taken for formulas by spreadsheets."""


def table_csv(connection: sqlite3.Connection, table: Table) -> str:
    """One table with a header; empty where unknown. Texts never become formulas."""
    rows = connection.execute(_QUERIES[table])
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([column[0] for column in rows.description])
    for row in rows:
        writer.writerow([_cell(value) for value in row])
    return out.getvalue()


def _cell(value: object) -> object:
    if value is None:
        return ""
    if isinstance(value, str) and value.startswith(_SPREADSHEET):
        return f"'{value}"
    return value


def everything_json(connection: sqlite3.Connection) -> str:
    """All tables but the spots, which each frame's own map holds."""
    found = {
        table: [dict(row) for row in connection.execute(query)]
        for table, query in _QUERIES.items()
        if table != "spots"
    }
    return json.dumps({"schema": "neatpatch.export/1", **found}, indent=1)
