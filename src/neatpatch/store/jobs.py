"""Long work as rows, found again after a restart."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Literal

from neatpatch.store.database import now

JobState = Literal["queued", "running", "done", "failed", "cancelled"]
JobKind = Literal["map", "demo", "shoot"]
FINISHED: tuple[JobState, ...] = ("done", "failed", "cancelled")


@dataclass(frozen=True)
class StoredJob:
    """One job's row."""

    id: int
    kind: JobKind
    frame_id: int | None
    label: str
    state: JobState
    progress: float
    step: str
    error: str | None
    visit_id: int | None = None
    detail_json: str = "{}"
    created_at: str = ""

    @property
    def finished(self) -> bool:
        """Whether nothing more will happen."""
        return self.state in FINISHED


def _job(row: sqlite3.Row) -> StoredJob:
    return StoredJob(
        row["id"], row["kind"], row["frame_id"], row["label"], row["state"], row["progress"],
        row["step"], row["error"], row["visit_id"], row["detail_json"], row["created_at"],
    )  # fmt: skip


def add_job(
    connection: sqlite3.Connection, kind: JobKind, label: str, frame_id: int | None = None,
    visit_id: int | None = None, detail_json: str = "{}",
) -> int:  # fmt: skip
    """Queue a job; a frame already waiting to be mapped keeps its job."""
    if frame_id is not None:
        row = connection.execute(
            "SELECT id FROM jobs WHERE frame_id = ? AND kind = ? AND state = 'queued'",
            (frame_id, kind),
        ).fetchone()
        if row:
            return int(row["id"])
    cursor = connection.execute(
        "INSERT INTO jobs (kind, frame_id, visit_id, label, detail_json, state, created_at) "
        "VALUES (?, ?, ?, ?, ?, 'queued', ?)",
        (kind, frame_id, visit_id, label, detail_json, now()),
    )
    assert cursor.lastrowid is not None
    return cursor.lastrowid


def job_by_id(connection: sqlite3.Connection, job_id: int) -> StoredJob | None:
    """One job, or None."""
    row = connection.execute("SELECT * FROM jobs WHERE id = ?", (job_id,)).fetchone()
    return _job(row) if row else None


def open_jobs(connection: sqlite3.Connection) -> list[StoredJob]:
    """Jobs queued or running, the oldest first."""
    rows = connection.execute("SELECT * FROM jobs WHERE state IN ('queued', 'running') ORDER BY id")
    return [_job(row) for row in rows]


def latest_job_of(connection: sqlite3.Connection, frame_id: int) -> StoredJob | None:
    """The newest job of a frame, or None."""
    row = connection.execute(
        "SELECT * FROM jobs WHERE frame_id = ? ORDER BY id DESC LIMIT 1", (frame_id,)
    ).fetchone()
    return _job(row) if row else None


def open_jobs_of_visit(connection: sqlite3.Connection, visit_id: int) -> list[StoredJob]:
    """Jobs queued or running for a visit: its shots, and the maps of its frames."""
    rows = connection.execute(
        "SELECT * FROM jobs WHERE state IN ('queued', 'running') AND (visit_id = ? OR frame_id IN "
        "(SELECT frame_id FROM trail WHERE visit_id = ?)) ORDER BY id",
        (visit_id, visit_id),
    )
    return [_job(row) for row in rows]


def take_next(connection: sqlite3.Connection) -> StoredJob | None:
    """Mark the oldest queued job as running and give it; None when nothing waits.

    The demo archive's own long job goes last, so that a user's frame never waits behind it.
    """
    row = connection.execute(
        "SELECT id FROM jobs WHERE state = 'queued' ORDER BY kind = 'demo', id LIMIT 1"
    ).fetchone()
    if row is None:
        return None
    connection.execute("UPDATE jobs SET state = 'running' WHERE id = ?", (row["id"],))
    return job_by_id(connection, row["id"])


def report(connection: sqlite3.Connection, job_id: int, progress: float, step: str) -> None:
    """Note how far a running job is (0 to 1)."""
    connection.execute(
        "UPDATE jobs SET progress = ?, step = ? WHERE id = ? AND state = 'running'",
        (progress, step, job_id),
    )


def finish(
    connection: sqlite3.Connection, job_id: int, state: JobState, error: str | None = None
) -> None:
    """End a job that has not ended yet."""
    connection.execute(
        "UPDATE jobs SET state = ?, error = ?, finished_at = ?, "
        "progress = CASE WHEN ? = 'done' THEN 1.0 ELSE progress END "
        "WHERE id = ? AND state IN ('queued', 'running')",
        (state, error, now(), state, job_id),
    )


def requeue_interrupted(connection: sqlite3.Connection) -> int:
    """After a restart: what was running starts again. Gives how many."""
    cursor = connection.execute(
        "UPDATE jobs SET state = 'queued', progress = 0, step = '' WHERE state = 'running'"
    )
    return cursor.rowcount
