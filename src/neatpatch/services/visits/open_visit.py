"""A visit is begun: by its owner, or by the first frame that comes for a body."""

from __future__ import annotations

import sqlite3
from datetime import date

from neatpatch.core.common.errors import ConflictError
from neatpatch.core.common.moments import day_of
from neatpatch.core.visit.body import VisitConditions
from neatpatch.services.common.fingerprints import join_body
from neatpatch.services.common.lookups import body_or_refuse, frame_or_refuse
from neatpatch.simulation.rungs import add_settled_dust
from neatpatch.store import virtual_cameras as virtual_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.bodies import came_back
from neatpatch.store.bookings import next_job_of


def begin_visit(
    connection: sqlite3.Connection,
    body_id: int,
    frame_id: int | None = None,
    conditions: VisitConditions | None = None,
) -> int:
    """Begin a visit of a body, perhaps with a frame that is here already; gives its id.

    Raises `ConflictError` where the body has one open, `NotThereError` where either is gone.
    """
    body = body_or_refuse(connection, body_id)
    if visit_rows.open_visit_of(connection, body_id) is not None:
        raise ConflictError(f"{body.body.name} has an open visit. Continue that one.")
    if frame_id is not None:
        frame_or_refuse(connection, frame_id)
    if body.source == "demo":
        _age_virtual_dust(connection, body_id)
    conditions = conditions or VisitConditions()
    if conditions.job_on is None:
        job_on = next_job_of(connection, body_id, date.today().isoformat())
        conditions = conditions.model_copy(update={"job_on": job_on})
    visit_id = visit_rows.open_visit(
        connection, body_id, _remembered_conditions(connection, body_id, conditions)
    )
    if frame_id is not None:
        join_body(connection, visit_id, frame_id)
    return visit_id


def join_or_begin(connection: sqlite3.Connection, body_id: int, frame_id: int) -> int:
    """Put a frame onto the open visit of its body, or begin one with it; gives the visit's id."""
    visit_id = visit_rows.open_visit_of(connection, body_id)
    if visit_id is None:
        return begin_visit(connection, body_id, frame_id)
    join_body(connection, visit_id, frame_id)
    return visit_id


_VIRTUAL_DAYS = 45
"""So many pass at least between two visits of a demo camera, so that it is never used up."""


def _age_virtual_dust(connection: sqlite3.Connection, body_id: int) -> None:
    """Dust comes to a virtual camera between its visits."""
    bench = virtual_rows.virtual_camera_of(connection, body_id)
    (last,) = visit_rows.visits_of(connection, body_id, count=1) or (None,)
    if bench is None or last is None or last.closed_at is None:
        return
    days = max(_VIRTUAL_DAYS, (date.today() - day_of(last.closed_at)).days)
    camera, turn = bench.camera, bench.turn + 1
    dust = add_settled_dust(
        bench.dust, days, camera.sensor_mm, camera.stack_mm, 1000 * body_id + turn
    )
    virtual_rows.put_virtual_camera(
        connection, body_id, virtual_rows.VirtualCamera(camera, dust, turn)
    )


def _remembered_conditions(
    connection: sqlite3.Connection, body_id: int, conditions: VisitConditions
) -> VisitConditions:
    """Whose hands it is stays as it was; a body that was sent away is back from its service."""
    before = visit_rows.last_visit(connection)
    if conditions.experience is None and before is not None:
        experience = before.conditions.experience
        conditions = conditions.model_copy(update={"experience": experience})
    (own,) = visit_rows.visits_of(connection, body_id, count=1) or (None,)
    if own is not None and own.verdict == "sent":
        came_back(connection, body_id, date.today().isoformat())
    return conditions
