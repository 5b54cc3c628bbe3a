"""Measuring frames: queued together with what was changed of them."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from typing import Literal

from neatpatch.services.common.lookups import frame_or_refuse, job_or_refuse
from neatpatch.services.common.views import Job
from neatpatch.store import jobs as job_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import frames_to_measure, hashes_of_measured
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
        frame = frame_or_refuse(connection, frame_id)
        if change is not None:
            change(connection)
        job_id = job_rows.add_job(
            connection, NewJob(kind=kind, label=frame.name, frame_id=frame_id)
        )
        return job_or_refuse(connection, job_id)


def measure_at_entered(connection: sqlite3.Connection, visit_id: int, before: float | None) -> None:
    """Queue the frames of a visit whose aperture is the one entered for the visit.

    ``before``: the aperture that was entered until now; frames measured with it, or with none, are
    measured again.
    """
    for frame_id in frames_at_aperture(connection, visit_id, before):
        frame = frame_or_refuse(connection, frame_id)
        job_rows.add_job(connection, NewJob(kind="map", label=frame.name, frame_id=frame_id))


def queue_missing(library: Library) -> None:
    """Queue what can be made again and is not there: maps never made, pictures that are lost."""
    with library.database.write() as connection:
        for frame_id, name in frames_to_measure(connection):
            job_rows.add_job(connection, NewJob(kind="map", label=name, frame_id=frame_id))
        for frame_id, name, sha256 in hashes_of_measured(connection):
            waiting = job_rows.latest_job_of(connection, frame_id)
            busy = waiting is not None and not waiting.finished
            if not busy and _lacks_picture(library, sha256):
                job_rows.add_job(connection, NewJob(kind="picture", label=name, frame_id=frame_id))


def _lacks_picture(library: Library, sha256: str) -> bool:
    return library.condition(sha256) == "whole" and not library.derived(sha256).is_dir()
