"""Measuring frames: queued together with what was changed of them."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from typing import Literal

from neatpatch.services.existing import existing_frame, existing_job
from neatpatch.services.views import Job
from neatpatch.store import jobs as job_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.jobs import NewJob
from neatpatch.store.visits import frames_at_aperture

Change = Callable[[sqlite3.Connection], None]


def queue_work(
    library: Library,
    frame_id: int,
    kind: Literal["map", "picture"] = "map",
    change: Change | None = None,
) -> Job:
    """Queue work on a frame, after a change to it in the same transaction.

    Raises `NotThereError` for a frame that is gone.
    """
    with library.database.write() as connection:
        frame = existing_frame(connection, frame_id)
        if change is not None:
            change(connection)
        job_id = job_rows.add_job(
            connection, NewJob(kind=kind, label=frame.name, frame_id=frame_id)
        )
        return existing_job(connection, job_id)


def measure_at_entered(connection: sqlite3.Connection, visit_id: int, before: float | None) -> None:
    """Queue the frames of a visit whose aperture is the one entered for the visit.

    ``before``: the aperture that was entered until now; frames measured with it, or with none, are
    measured again.
    """
    for frame_id in frames_at_aperture(connection, visit_id, before):
        frame = existing_frame(connection, frame_id)
        job_rows.add_job(connection, NewJob(kind="map", label=frame.name, frame_id=frame_id))
