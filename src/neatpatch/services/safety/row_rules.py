"""Rows from outside, held against the models that requests are held against.

Every row of a rebuilt database is read as the program itself would read it. One that no request
could have made refuses the whole archive; what can be worked out again is dropped instead.
"""

from __future__ import annotations

import json
import math
import sqlite3
from collections.abc import Callable
from datetime import date, datetime
from typing import get_args

from pydantic import TypeAdapter, ValidationError

from neatpatch.core.common.errors import NeatPatchError
from neatpatch.core.common.facts import KitItem, Step
from neatpatch.core.common.records import SpotMap, plain_text
from neatpatch.core.compare.comparison import Comparison
from neatpatch.core.kit.readiness import BookedJob
from neatpatch.core.kit.stock import KitEntry
from neatpatch.core.tray.plan import TrayPlan
from neatpatch.core.tray.steps import Done
from neatpatch.core.visit.body import VisitConditions
from neatpatch.core.visit.camera_recognition import Clues
from neatpatch.core.visit.trail import StepUse
from neatpatch.services.safety.foreign import MOST_ID, ForeignDatabaseError
from neatpatch.services.safety.ticking import Tick, unseen
from neatpatch.simulation import Camera
from neatpatch.simulation.rungs import BondedParticle
from neatpatch.store.bodies import stored_body
from neatpatch.store.originals import require_sha256

Rule = Callable[[sqlite3.Row], None]
_EVERY = 100
"""Rows between two ticks."""
_LONGEST_NOTE, _LONGEST_NAME = 4000, 400
_MOST_PHOTO_BYTES = 20_000_000
_LARGEST_SIDE_PX = 20_000
"""Of a virtual camera: it draws all of its pixels."""
_STEPS = frozenset(get_args(Step))
_CAMERA, _DUST = TypeAdapter(Camera), TypeAdapter(tuple[BondedParticle, ...])


def require_rows(connection: sqlite3.Connection, tick: Tick = unseen) -> None:
    """Hold every row of a database of this version against its model.

    Rows of maps and comparisons that cannot be read are dropped: they are made again. Raises
    `ForeignDatabaseError` for any other row that no request could have made.
    """
    connection.row_factory = sqlite3.Row
    for number, (table, rule) in enumerate(_RULES.items()):
        for count, row in enumerate(
            connection.execute(f'SELECT rowid AS at_row, * FROM "{table}"')
        ):
            if count % _EVERY == 0:
                tick(number / (len(_RULES) + len(_MADE_AGAIN)))
            try:
                rule(row)
            except (ValueError, TypeError, KeyError, OverflowError, NeatPatchError) as error:
                raise ForeignDatabaseError(
                    f"row {row['at_row']} of {table} is not possible ({_short(error)})."
                ) from error
    for number, (table, rule) in enumerate(_MADE_AGAIN.items(), len(_RULES)):
        tick(number / (len(_RULES) + len(_MADE_AGAIN)))
        _drop_broken(connection, table, rule, tick)


def _drop_broken(connection: sqlite3.Connection, table: str, rule: Rule, tick: Tick) -> None:
    broken = []
    for row in connection.execute(f'SELECT rowid AS at_row, * FROM "{table}"'):
        try:
            rule(row)
        except (ValueError, TypeError, KeyError, OverflowError, NeatPatchError):
            broken.append((row["at_row"],))
    connection.executemany(f'DELETE FROM "{table}" WHERE rowid = ?', broken)
    connection.commit()


def _short(error: Exception) -> str:
    if isinstance(error, ValidationError):
        first = error.errors()[0]
        return f"{'.'.join(str(part) for part in first['loc'])}: {first['msg']}"[:160]
    return str(error)[:160]


def _moment(text: str | None) -> None:
    if text is not None:
        datetime.fromisoformat(text)


def _day(text: str | None) -> None:
    if text is not None:
        date.fromisoformat(text)


def _text(text: str, most: int = _LONGEST_NOTE) -> None:
    if len(text) > most:
        raise ValueError("a text is too long")


def _id(row: sqlite3.Row) -> None:
    if not 1 <= row["id"] <= MOST_ID:
        raise ValueError("its number is out of range")


def _finite(*values: float | None) -> None:
    if not all(value is None or math.isfinite(value) for value in values):
        raise ValueError("a number is not finite")


def _original(row: sqlite3.Row) -> None:
    require_sha256(row["sha256"])
    _moment(row["stored_at"])


def _frame(row: sqlite3.Row) -> None:
    _id(row)
    require_sha256(row["sha256"])
    _text(row["name"], _LONGEST_NAME)
    if plain_text(row["name"]) != row["name"]:
        raise ValueError("its name cannot be shown")
    _text(row["note"])
    for side in (row["sensor_width_mm"], row["sensor_height_mm"]):
        if side is not None and not 1 <= side <= 200:
            raise ValueError("its sensor's size is not possible")
    _moment(row["added_at"])


def _body(row: sqlite3.Row) -> None:
    _id(row)
    stored_body(row)
    _moment(row["created_at"])


def _visit(row: sqlite3.Row) -> None:
    _id(row)
    VisitConditions.model_validate_json(row["conditions_json"])
    _text(row["note"])
    for moment in (row["opened_at"], row["closed_at"]):
        _moment(moment)
    for day in (row["until"], row["look_again_on"]):
        _day(day)


def _entry(row: sqlite3.Row) -> None:
    _id(row)
    if row["step"] is not None and row["step"] not in _STEPS:
        raise ValueError("there is no such step")
    StepUse.model_validate_json(row["use_json"])
    for text in (row["against"], row["who"]):
        _text(text)
    _moment(row["at"])
    if row["removed_json"] is not None:
        TypeAdapter(list[tuple[int, float]]).validate_json(row["removed_json"])


def _kit(row: sqlite3.Row) -> None:
    _id(row)
    KitEntry(
        item=KitItem.model_validate_json(row["item_json"]),
        note=row["note"],
        source=row["source"],
        pack_size=row["pack_size"],
        pack_price=row["pack_price"],
        opened_on=row["opened_on"],
        best_before=row["best_before"],
        lead_days=row["lead_days"],
    )


def _move(row: sqlite3.Row) -> None:
    _id(row)
    _finite(row["change"], row["unit_price"])
    _text(row["thing"])
    _moment(row["at"])


def _booking(row: sqlite3.Row) -> None:
    _id(row)
    BookedJob(name=row["name"], starts_on=row["starts_on"], note=row["note"])


def _exposure(row: sqlite3.Row) -> None:
    _id(row)
    _day(row["on_day"])
    _text(row["place"])


def _virtual_camera(row: sqlite3.Row) -> None:
    camera = _CAMERA.validate_json(row["camera_json"])
    _DUST.validate_json(row["dust_json"])
    if not 1 <= camera.width_px <= _LARGEST_SIDE_PX or not all(
        1 <= side <= 200 for side in camera.sensor_mm
    ):
        raise ValueError("its virtual camera is not possible")


def _tray(row: sqlite3.Row) -> None:
    TrayPlan.model_validate_json(row["plan_json"])
    for done in json.loads(row["done_json"]):
        Done.model_validate(done)
    _moment(row["begun_at"])


def _tray_plan(row: sqlite3.Row) -> None:
    if TrayPlan.model_validate_json(row["plan_json"]).model != row["model"]:
        raise ValueError("its plan is another model's")


def _photo(row: sqlite3.Row) -> None:
    jpeg = bytes(row["jpeg"])
    if not jpeg.startswith(b"\xff\xd8") or len(jpeg) > _MOST_PHOTO_BYTES:
        raise ValueError("its photograph is no JPEG")
    _text(row["step_id"], 200)


def _map(row: sqlite3.Row) -> None:
    SpotMap.model_validate_json(row["map_json"])
    Clues.model_validate_json(row["clues_json"])
    TypeAdapter(list[float]).validate_json(row["shows_from"])


def _comparison(row: sqlite3.Row) -> None:
    Comparison.model_validate_json(row["comparison_json"])


_RULES: dict[str, Rule] = {
    "originals": _original,
    "frames": _frame,
    "bodies": _body,
    "visits": _visit,
    "trail": _entry,
    "kit": _kit,
    "stock_moves": _move,
    "bookings": _booking,
    "exposures": _exposure,
    "bench_bodies": _virtual_camera,
    "trays": _tray,
    "tray_plans": _tray_plan,
    "tray_photos": _photo,
}
_MADE_AGAIN: dict[str, Rule] = {"maps": _map, "comparisons": _comparison}
