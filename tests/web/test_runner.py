"""Jobs that hang or crash end plainly, leave nothing behind, and the next one runs."""

from __future__ import annotations

import os
import time
from multiprocessing.connection import Connection
from pathlib import Path

import pytest

from neatpatch.store import frames as frame_rows
from neatpatch.store import jobs as job_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.jobs import StoredJob
from neatpatch.web import jobs
from neatpatch.web.jobs import Runner
from neatpatch.web.worker import Ended, MapTask


def hanging(pipe: Connection) -> None:
    pipe.recv()
    time.sleep(60)


def crashing(pipe: Connection) -> None:
    pipe.recv()
    os._exit(3)


def breaking(pipe: Connection) -> None:
    while True:
        assert isinstance(pipe.recv(), MapTask)
        pipe.send(Ended("broken", "KeyError: secret detail"))


def queued(library: Library, sha: str) -> int:
    original = library.originals.path(sha)
    original.parent.mkdir(parents=True, exist_ok=True)
    original.write_bytes(b"x")
    with library.database.write() as connection:
        frame_id, _ = frame_rows.add_frame(
            connection, sha256=sha, size=1, name="a.jpg", source="upload"
        )
        return job_rows.add_job(connection, "map", "a.jpg", frame_id)


def ended(library: Library, job_id: int) -> StoredJob:
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:
        with library.database.read() as connection:
            job = job_rows.job_by_id(connection, job_id)
        assert job is not None
        if job.finished:
            return job
        time.sleep(0.05)
    raise AssertionError("the job did not end")


@pytest.mark.parametrize(
    ("work", "limit_s", "says"),
    [
        (hanging, 1.0, "took longer than 1 s"),
        (crashing, 20.0, "could not be decoded safely"),
        (breaking, 20.0, "could not be measured"),
    ],
)
def test_a_bad_worker_fails_its_job_and_not_the_next(
    work: object, limit_s: float, says: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(jobs, "work", work)
    library = Library(tmp_path)
    first, second = queued(library, "a" * 64), queued(library, "b" * 64)
    runner = Runner(library, workers=1, time_limit_s=limit_s)
    runner.start()
    try:
        for job_id in (first, second):
            job = ended(library, job_id)
            assert job.state == "failed"
            assert says in (job.error or "")
            assert "secret" not in (job.error or "")
    finally:
        runner.stop()
    with library.database.read() as connection:
        assert frame_rows.all_frames(connection) == []
    assert not library.originals.path("a" * 64).exists()


def test_a_waiting_job_is_cancelled_at_once(tmp_path: Path) -> None:
    library = Library(tmp_path)
    job_id = queued(library, "c" * 64)
    runner = Runner(library, workers=0)
    with library.database.read() as connection:
        job = job_rows.job_by_id(connection, job_id)
    assert job is not None
    runner.cancel(job)
    assert ended(library, job_id).state == "cancelled"
    with library.database.read() as connection:
        assert frame_rows.all_frames(connection) == []
