"""What follows when a frame was measured: visits and bodies learn of it."""

from __future__ import annotations

import sqlite3
from contextlib import suppress

from neatpatch.core.common.errors import NotThereError
from neatpatch.core.visit.body import mismatches
from neatpatch.services.cases import Case, read_case, recount
from neatpatch.services.existing import existing_body
from neatpatch.services.witnessing import ask_witness, recognised_body, witness_of
from neatpatch.store import bodies as body_rows
from neatpatch.store import frames as frame_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.datafolder import Library

WATCHED = "Watched folder"
"""Note of frames that came from the watched folder."""


def after_map(library: Library, connection: sqlite3.Connection, frame_id: int) -> None:
    """A frame was measured: visits learn of it, and its body learns pitch and stack height.

    A frame of the watched folder goes onto the one open visit of its camera.
    """
    frame = frame_rows.frame_by_id(connection, frame_id)
    spot_map = library.maps.spot_map(connection, frame_id)
    if frame is None or spot_map is None:
        return
    on = visit_rows.visits_with_frame(connection, frame_id)
    if not on and frame.note == WATCHED:
        known = recognised_body(connection, frame_id)
        on = _visits_for(connection, spot_map.frames[0].camera, known)[:1]
        for visit_id in on:
            visit_rows.add_frame_entry(connection, visit_id, frame_id)
            ask_witness(connection, frame_id)
    for visit_id in on:
        case = Case(library, connection, visit_id)
        if not mismatches(
            case.body, spot_map, witness_of(connection, frame_id, case.visit.body_id)
        ):
            body_rows.learn(
                connection,
                case.visit.body_id,
                camera_name=spot_map.frames[0].camera,
                pitch_um=spot_map.frames[0].pitch_um,
                stack_mm=spot_map.optics.height_mm
                if spot_map.optics.height_source == "fitted"
                else None,
            )
        recount(library, connection, visit_id)
        visit_rows.touch(connection, visit_id)


def compare_ahead(library: Library, frame_id: int) -> None:
    """Lay a fresh map on those before and after it on its visits, before anyone asks."""
    with library.database.read() as connection:
        on = visit_rows.visits_with_frame(connection, frame_id)
    for visit_id in on:
        with suppress(NotThereError):
            read_case(library, visit_id)


def _visits_for(
    connection: sqlite3.Connection, camera: str | None, body_id: int | None
) -> list[int]:
    """Open visits that a frame may belong to; none when it is not clear which.

    ``body_id``: the body whose sensor it is of; that comes before the ``camera`` named in a file.
    """
    if body_id is not None:
        opened_one = visit_rows.open_visit_of(connection, body_id)
        return [] if opened_one is None else [opened_one]
    opened = [
        (v.id, existing_body(connection, v.body_id).body.camera_name)
        for v in visit_rows.open_visits(connection)
    ]
    named = [visit_id for visit_id, name in opened if name and name == camera]
    unnamed = [visit_id for visit_id, name in opened if name is None]
    fitting = named or unnamed
    return fitting if len(fitting) == 1 else []
