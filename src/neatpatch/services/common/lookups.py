"""What must be there to be worked with, or a clear refusal."""

from __future__ import annotations

import sqlite3

from neatpatch.core.common.errors import ConflictError, NotThereError
from neatpatch.core.common.records import SpotMap
from neatpatch.core.measure.map_building import summarise
from neatpatch.services.common.views import Job, job_model
from neatpatch.store import bodies as body_rows
from neatpatch.store import frames as frame_rows
from neatpatch.store import jobs as job_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.visits import StoredVisit


def visit_or_refuse(connection: sqlite3.Connection, visit_id: int) -> StoredVisit:
    """A visit, or a clear refusal."""
    visit = visit_rows.visit_by_id(connection, visit_id)
    if visit is None:
        raise NotThereError("There is no such visit. It may have been removed.")
    return visit


def require_open(visit: StoredVisit) -> None:
    """Refuse what would change a closed visit."""
    if visit.state != "open":
        raise ConflictError("This visit is closed. Begin a new one for this body.")


def body_or_refuse(connection: sqlite3.Connection, body_id: int) -> body_rows.StoredBody:
    """A body, or a clear refusal."""
    body = body_rows.body_by_id(connection, body_id)
    if body is None:
        raise NotThereError("There is no such body. It may have been removed.")
    return body


def frame_or_refuse(connection: sqlite3.Connection, frame_id: int) -> frame_rows.StoredFrame:
    """A frame, or a clear refusal."""
    frame = frame_rows.frame_by_id(connection, frame_id)
    if frame is None:
        raise NotThereError("There is no such frame. It may have been removed.")
    return frame


def recounted(spot_map: SpotMap, works_at: float) -> SpotMap:
    """A map whose relevant spots are counted for an aperture."""
    record = spot_map.frames[0]
    summary = summarise(spot_map.spots, works_at, record)
    return spot_map.model_copy(update={"summary": summary})


def measured_map(library: Library, frame_id: int, works_at: float) -> SpotMap:
    """A measured frame's map, its relevant spots counted for an aperture."""
    with library.database.read() as connection:
        frame_or_refuse(connection, frame_id)
        spot_map = library.maps.spot_map(connection, frame_id)
    if spot_map is None:
        raise ConflictError("This frame is not measured yet. Wait for its map.")
    return recounted(spot_map, works_at)


def job_or_refuse(connection: sqlite3.Connection, job_id: int) -> Job:
    """Long work, or a clear refusal."""
    job = job_rows.job_by_id(connection, job_id)
    if job is None:
        raise NotThereError("There is no such job. What it was about may have been removed.")
    return job_model(job)


def frame_of(library: Library, frame_id: int) -> frame_rows.StoredFrame:
    """A frame read on its own."""
    with library.database.read() as connection:
        return frame_or_refuse(connection, frame_id)


def job_of(library: Library, job_id: int) -> Job:
    """Long work read on its own."""
    with library.database.read() as connection:
        return job_or_refuse(connection, job_id)
