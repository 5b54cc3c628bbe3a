"""What follows when a frame was measured: visits and bodies learn of it."""

from __future__ import annotations

import sqlite3
from contextlib import suppress

from neatpatch.core.common.errors import NotThereError
from neatpatch.core.visit.body import mismatches
from neatpatch.services.common.fingerprints import match_of
from neatpatch.services.frames.camera_matching import find_camera
from neatpatch.services.visits.loaded_visit import LoadedVisit, load_visit, recount
from neatpatch.store import bodies as body_rows
from neatpatch.store import frames as frame_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.maps import clues_in


def follow_up(library: Library, connection: sqlite3.Connection, frame_id: int) -> None:
    """A frame was measured: visits learn of it, and its body learns pitch and stack height.

    A frame that looks for its camera finds it here.
    """
    frame = frame_rows.frame_by_id(connection, frame_id)
    spot_map = library.maps.spot_map(connection, frame_id)
    if frame is None or spot_map is None:
        return
    find_camera(connection, frame_id, spot_map)
    on = visit_rows.visits_with_frame(connection, frame_id)
    for visit_id in on:
        case = LoadedVisit(library, connection, visit_id)
        if not mismatches(case.body, spot_map, match_of(connection, frame_id, case.visit.body_id)):
            body_rows.learn(
                connection,
                case.visit.body_id,
                camera_name=spot_map.frames[0].camera,
                serial=clues_in(connection, frame_id).serial,
                pitch_um=spot_map.frames[0].pitch_um,
                stack_mm=spot_map.optics.height_mm
                if spot_map.optics.height_source == "fitted"
                else None,
            )
        recount(library, connection, visit_id)
        visit_rows.touch(connection, visit_id)
    if on:
        _match_waiting_frames(library, connection, frame_id)


def _match_waiting_frames(library: Library, connection: sqlite3.Connection, frame_id: int) -> None:
    """What a camera has just learned from one frame may name the others that were dropped with it:
    whose they are is asked once.
    """
    for other in frame_rows.other_searches(connection, frame_id):
        spot_map = library.maps.spot_map(connection, other)
        if spot_map is None:
            continue
        find_camera(connection, other, spot_map)
        for visit_id in visit_rows.visits_with_frame(connection, other):
            recount(library, connection, visit_id)
            visit_rows.touch(connection, visit_id)


def compare_in_advance(library: Library, frame_id: int) -> None:
    """Lay a fresh map on those before and after it on its visits, before anyone asks."""
    with library.database.read() as connection:
        on = visit_rows.visits_with_frame(connection, frame_id)
    for visit_id in on:
        with suppress(NotThereError):
            load_visit(library, visit_id)
