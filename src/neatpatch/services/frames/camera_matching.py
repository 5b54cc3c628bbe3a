"""Frames find their camera: by the sensor's own pattern, by serial number, by name."""

from __future__ import annotations

import sqlite3

from neatpatch.core.common.records import SpotMap
from neatpatch.core.visit.camera_recognition import Candidate, Recognised, recognise
from neatpatch.services.common.fingerprints import match_of
from neatpatch.services.visits.open_visit import join_or_begin
from neatpatch.store import bodies as body_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.fingerprints import matches_of_frame
from neatpatch.store.frames import camera_search_of, seek_camera, stop_searching
from neatpatch.store.maps import clues_in


def recognised(
    connection: sqlite3.Connection, frame_id: int, spot_map: SpotMap
) -> Recognised | None:
    """The body that a measured frame is of; None where that is not clear."""
    same = {w.body_id: w.registration.same for w in matches_of_frame(connection, frame_id)}
    open_now = {v.body_id for v in visit_rows.open_visits(connection)}
    candidates = [
        Candidate(b.id, b.body, same.get(b.id), b.id in open_now)
        for b in body_rows.all_bodies(connection)
    ]
    return recognise(candidates, spot_map.frames[0], clues_in(connection, frame_id))


def is_other_sensor(connection: sqlite3.Connection, frame_id: int, body_id: int) -> bool:
    """Whether a frame's own pattern says that it comes from another sensor than a body's."""
    match = match_of(connection, frame_id, body_id)
    return match is not None and match.same is False


def send_to_camera(
    connection: sqlite3.Connection, frame_id: int, body_id: int | None, spot_map: SpotMap | None
) -> None:
    """Let a frame find its camera, ``body_id`` if it was sent for one: now where it is measured,
    else when it is. One that lies on a visit already stays there.
    """
    if visit_rows.visits_with_frame(connection, frame_id):
        return
    seek_camera(connection, frame_id, body_id)
    if spot_map is not None:
        find_camera(connection, frame_id, spot_map)


def find_camera(connection: sqlite3.Connection, frame_id: int, spot_map: SpotMap) -> None:
    """Put a measured frame that looks for its camera onto a visit of it.

    Where it is not clear whose it is, it goes on looking: its owner is asked. So it is where it was
    sent for a camera and comes from another sensor.
    """
    looks = camera_search_of(connection, frame_id)
    if looks is None:
        return
    if visit_rows.visits_with_frame(connection, frame_id):
        stop_searching(connection, frame_id)
        return
    body_id = looks.body_id
    if body_id is not None and is_other_sensor(connection, frame_id, body_id):
        return
    if body_id is None:
        found = recognised(connection, frame_id, spot_map)
        body_id = found.body_id if found else None
    if body_id is not None:
        join_or_begin(connection, body_id, frame_id)
