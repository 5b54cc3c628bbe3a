"""Frames that the virtual camera shot are taken in like any other."""

from __future__ import annotations

import os
import shutil
import sqlite3
from pathlib import Path

from neatpatch.images.hashing import sha256_of
from neatpatch.simulation.frames import ShotFrame
from neatpatch.store import jobs as job_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import NewFrame
from neatpatch.store.jobs import NewJob, StoredJob


def take_in_shot(library: Library, message: ShotFrame, job: StoredJob) -> None:
    """Take in what the virtual camera shot for a visit onto its trail, ending its job with it.

    A visit that was removed or closed meanwhile gets no frame, and none is kept for it.
    """
    arrived, frame = _arrived(library, message)
    try:
        with library.database.write() as connection:
            visit = visit_rows.visit_by_id(connection, job.visit_id or 0)
            if visit is not None and visit.state == "open":
                frame_id = _add_frame(library, connection, arrived, frame)
                visit_rows.add_frame_entry(connection, visit.id, frame_id)
            job_rows.finish(connection, job.id, "done")
    finally:
        arrived.unlink(missing_ok=True)


def take_in_virtual_frame(library: Library, message: ShotFrame) -> int:
    """Add one frame of the virtual camera to the library and queue its map; gives its id."""
    arrived, frame = _arrived(library, message)
    try:
        with library.database.write() as connection:
            return _add_frame(library, connection, arrived, frame)
    finally:
        arrived.unlink(missing_ok=True)


def _arrived(library: Library, message: ShotFrame) -> tuple[Path, NewFrame]:
    """A shot copied to where files arrive, and the frame it will be."""
    arrived = library.originals.arriving()
    shutil.copyfile(message.path, arrived)
    with arrived.open("rb+") as stream:
        os.fsync(stream.fileno())
    frame = NewFrame(
        sha256=sha256_of(arrived),
        size=arrived.stat().st_size,
        name=message.name,
        source="demo",
        note=message.note,
        sensor_mm=message.sensor_mm,
    )
    return arrived, frame


def _add_frame(
    library: Library, connection: sqlite3.Connection, arrived: Path, frame: NewFrame
) -> int:
    frame_id, new = library.add_frame(connection, arrived, frame)
    if new:
        job_rows.add_job(connection, NewJob(kind="map", label=frame.name, frame_id=frame_id))
    return frame_id
