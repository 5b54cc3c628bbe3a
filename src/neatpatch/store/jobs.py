"""Long work as rows, found again after a restart."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Literal

from neatpatch.store.database import now

JobState = Literal["queued", "running", "done", "failed", "cancelled"]
JobKind = Literal["map", "picture", "demo", "shoot"]
_LONGEST_PAUSE_S = 60.0
"""A pause that would end later was begun before the clock was set back, and is over."""
_READY = "WHERE state = 'queued' AND (not_before IS NULL OR not_before <= ? OR not_before > ?)"
FINISHED: tuple[JobState, ...] = ("done", "failed", "cancelled")


@dataclass(frozen=True, kw_only=True)
class NewJob:
    """Work about to be queued."""

    kind: JobKind
    label: str
    frame_id: int | None = None
    visit_id: int | None = None
    detail_json: str = "{}"


@dataclass(frozen=True)
class StoredJob:
    """One job's row. ``attempts``: how often it was broken off and put back."""

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
    attempts: int = 0
    mapped: bool = False

    @property
    def finished(self) -> bool:
        """Whether nothing more will happen."""
        return self.state in FINISHED


_SELECT = (
    "SELECT j.*, EXISTS (SELECT 1 FROM maps m WHERE m.frame_id = j.frame_id) AS mapped FROM jobs j"
)


def _job(row: sqlite3.Row) -> StoredJob:
    return StoredJob(
        row["id"],
        row["kind"],
        row["frame_id"],
        row["label"],
        row["state"],
        row["progress"],
        row["step"],
        row["error"],
        row["visit_id"],
        row["detail_json"],
        row["created_at"],
        row["attempts"],
        bool(row["mapped"]),
    )


def add_job(connection: sqlite3.Connection, job: NewJob) -> int:
    """Queue a job; a frame has one open job at most.

    One that waits already is kept; one that runs is done once more when it ends, with what is
    asked for now.
    """
    if job.frame_id is not None:
        row = connection.execute(
            "SELECT id, kind, state FROM jobs WHERE frame_id = ? "
            "AND state IN ('queued', 'running')",
            (job.frame_id,),
        ).fetchone()
        if row:
            return _ask_again(connection, row, job.kind)
    cursor = connection.execute(
        "INSERT INTO jobs (kind, frame_id, visit_id, label, detail_json, state, created_at) "
        "VALUES (?, ?, ?, ?, ?, 'queued', ?)",
        (job.kind, job.frame_id, job.visit_id, job.label, job.detail_json, now()),
    )
    assert cursor.lastrowid is not None
    return cursor.lastrowid


def _ask_again(connection: sqlite3.Connection, row: sqlite3.Row, kind: JobKind) -> int:
    if kind == "map" and row["state"] == "running":
        connection.execute("UPDATE jobs SET again = 1 WHERE id = ?", (row["id"],))
    elif kind == "map" and row["kind"] == "picture":
        connection.execute("UPDATE jobs SET kind = 'map' WHERE id = ?", (row["id"],))
    return int(row["id"])


def job_by_id(connection: sqlite3.Connection, job_id: int) -> StoredJob | None:
    """One job, or None."""
    row = connection.execute(f"{_SELECT} WHERE j.id = ?", (job_id,)).fetchone()
    return _job(row) if row else None


def open_jobs(connection: sqlite3.Connection, count: int = 200) -> list[StoredJob]:
    """Jobs queued or running, the oldest first."""
    rows = connection.execute(
        f"{_SELECT} WHERE j.state IN ('queued', 'running') ORDER BY j.id LIMIT ?", (count,)
    )
    return [_job(row) for row in rows]


def newest_id(connection: sqlite3.Connection) -> int:
    """The number of the newest job; 0 before the first."""
    return int(connection.execute("SELECT coalesce(max(id), 0) FROM jobs").fetchone()[0])


def latest_job_of(connection: sqlite3.Connection, frame_id: int) -> StoredJob | None:
    """The newest job of a frame, or None."""
    row = connection.execute(
        f"{_SELECT} WHERE j.frame_id = ? ORDER BY j.id DESC LIMIT 1", (frame_id,)
    ).fetchone()
    return _job(row) if row else None


def open_jobs_of_visit(connection: sqlite3.Connection, visit_id: int) -> list[StoredJob]:
    """Jobs queued or running for a visit: its shots, and the maps of its frames."""
    rows = connection.execute(
        f"{_SELECT} WHERE j.state IN ('queued', 'running') AND (j.visit_id = ? OR j.frame_id IN "
        "(SELECT frame_id FROM trail WHERE visit_id = ? AND removed_json IS NULL)) ORDER BY j.id",
        (visit_id, visit_id),
    )
    return [_job(row) for row in rows]


def anything_waits(connection: sqlite3.Connection) -> bool:
    """Whether a job could be taken now; asked without keeping writers out."""
    row = connection.execute(f"SELECT 1 FROM jobs {_READY} LIMIT 1", _no_pause()).fetchone()
    return row is not None


def _no_pause() -> tuple[str, str]:
    """From when to when a pause that is running can end."""
    moment = datetime.now(UTC)
    ends = moment + timedelta(seconds=_LONGEST_PAUSE_S)
    return moment.isoformat(timespec="milliseconds"), ends.isoformat(timespec="milliseconds")


def take_next(connection: sqlite3.Connection) -> StoredJob | None:
    """Mark the first queued job as running and give it; None when nothing waits.

    Lost pictures and the demo archive's own long job go last, so that a user's frame never waits
    behind them.
    """
    row = connection.execute(
        f"SELECT id FROM jobs {_READY} ORDER BY kind = 'demo', kind = 'picture', id LIMIT 1",
        _no_pause(),
    ).fetchone()
    if row is None:
        return None
    connection.execute("UPDATE jobs SET state = 'running', again = 0 WHERE id = ?", (row["id"],))
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
    """End a job that has not ended yet; one that was asked for again meanwhile waits again."""
    connection.execute(
        "UPDATE jobs SET state = 'queued', progress = 0, step = '' "
        "WHERE id = ? AND state = 'running' AND again = 1 AND ? <> 'cancelled'",
        (job_id, state),
    )
    connection.execute(
        "UPDATE jobs SET state = ?, error = ?, finished_at = ?, "
        "progress = CASE WHEN ? = 'done' THEN 1.0 ELSE progress END "
        "WHERE id = ? AND (state = 'running' OR (state = 'queued' AND again = 0))",
        (state, error, now(), state, job_id),
    )


def put_back(
    connection: sqlite3.Connection, job_id: int, *, after_s: float = 0.0, counts: bool = True
) -> None:
    """Let a job that was broken off wait again, a minute at most; ``counts``: as one of its
    attempts.
    """
    later = datetime.now(UTC) + timedelta(seconds=min(after_s, _LONGEST_PAUSE_S))
    connection.execute(
        "UPDATE jobs SET state = 'queued', progress = 0, step = '', attempts = attempts + ?, "
        "not_before = ? WHERE id = ? AND state = 'running'",
        (counts, later.isoformat(timespec="milliseconds"), job_id),
    )


def cancel(connection: sqlite3.Connection, job_id: int) -> None:
    """End a job at the user's word, waiting or running."""
    connection.execute(
        "UPDATE jobs SET state = 'cancelled', finished_at = ? "
        "WHERE id = ? AND state IN ('queued', 'running')",
        (now(), job_id),
    )


def requeue_interrupted(connection: sqlite3.Connection) -> int:
    """After a restart: what was running starts again. Gives how many."""
    cursor = connection.execute(
        "UPDATE jobs SET state = 'queued', progress = 0, step = '', not_before = NULL "
        "WHERE state = 'running'"
    )
    return cursor.rowcount
