"""Whatever happens to a job or its worker, the original stays and the next job runs."""

from __future__ import annotations

import os
import signal
import sqlite3
import time
from collections.abc import Iterator
from contextlib import contextmanager
from multiprocessing.connection import Connection
from pathlib import Path

import pytest

from neatpatch.jobs.runner import Runner, RunnerOptions
from neatpatch.jobs.worker import Ended, MapTask
from neatpatch.store import frames as frame_rows
from neatpatch.store import jobs as job_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import NewFrame
from neatpatch.store.jobs import NewJob, StoredJob

A, B = "a" * 64, "b" * 64


def hanging(pipe: Connection) -> None:
    pipe.recv()
    time.sleep(600)


def crashing(pipe: Connection) -> None:
    pipe.recv()
    os._exit(3)


def breaking(pipe: Connection) -> None:
    while True:
        assert isinstance(pipe.recv(), MapTask)
        pipe.send(Ended("broken", "KeyError: secret detail"))


def crashing_once(pipe: Connection) -> None:
    task = pipe.recv()
    tried = task.original.path.with_name("tried")
    if not tried.exists():
        tried.touch()
        os.kill(os.getpid(), signal.SIGKILL)
    pipe.send(Ended("done"))


def signalling_itself(pipe: Connection) -> None:
    """As Ctrl-C does: the signal goes to the worker, too, before it has set up anything."""
    os.kill(os.getpid(), signal.SIGINT)
    os.kill(os.getpid(), signal.SIGTERM)
    pipe.recv()
    pipe.send(Ended("done"))
    pipe.recv()


def queued(library: Library, sha: str) -> int:
    original = library.originals.path(sha)
    original.parent.mkdir(parents=True, exist_ok=True)
    original.write_bytes(b"x")
    with library.database.write() as connection:
        new = NewFrame(sha256=sha, size=1, name="a.jpg", source="upload")
        frame_id, _ = frame_rows.add_frame(connection, new)
        return job_rows.add_job(connection, NewJob(kind="map", label="a.jpg", frame_id=frame_id))


def the_job(library: Library, job_id: int) -> StoredJob:
    with library.database.read() as connection:
        job = job_rows.job_by_id(connection, job_id)
    assert job is not None
    return job


def ended(library: Library, job_id: int) -> StoredJob:
    while not (job := the_job(library, job_id)).finished:
        time.sleep(0.02)
    return job


@contextmanager
def running(library: Library, options: RunnerOptions) -> Iterator[Runner]:
    runner = Runner(library, options)
    runner.start()
    try:
        yield runner
    finally:
        runner.stop()


@pytest.mark.parametrize(
    ("work", "limit_s", "says", "attempts"),
    [
        (hanging, 1.0, "took longer than 1 s", 0),
        (crashing, 600.0, "could not be measured", 1),
        (breaking, 600.0, "could not be measured", 0),
    ],
)
def test_a_bad_worker_fails_its_job_keeps_the_frame_and_the_next_runs(
    work: object, limit_s: float, says: str, attempts: int, tmp_path: Path
) -> None:
    library = Library(tmp_path)
    first, second = queued(library, A), queued(library, B)
    options = RunnerOptions(workers=1, time_limit_s=limit_s, start_worker=work)  # type: ignore[arg-type]
    with running(library, options):
        for job_id in (first, second):
            job = ended(library, job_id)
            assert job.state == "failed"
            assert says in (job.error or "")
            assert "secret" not in (job.error or "")
            assert job.attempts == attempts
    with library.database.read() as connection:
        kept, total = frame_rows.list_frames(connection)
    assert total == 2
    assert all(says in (frame.trouble or "") for frame in kept)
    assert library.originals.path(A).read_bytes() == b"x"


def test_a_worker_that_dies_once_gets_the_file_once_more(tmp_path: Path) -> None:
    library = Library(tmp_path)
    job_id = queued(library, A)
    with running(library, RunnerOptions(workers=1, start_worker=crashing_once)):
        job = ended(library, job_id)
    assert (job.state, job.attempts) == ("done", 1)


def test_a_worker_outlives_the_signals_of_a_ctrl_c(tmp_path: Path) -> None:
    library = Library(tmp_path)
    job_id = queued(library, A)
    with running(library, RunnerOptions(workers=1, start_worker=signalling_itself)):
        job = ended(library, job_id)
    assert (job.state, job.attempts) == ("done", 0)


def test_what_runs_when_the_end_comes_is_done_next_time(tmp_path: Path) -> None:
    library = Library(tmp_path)
    job_id = queued(library, A)
    with running(library, RunnerOptions(workers=1, start_worker=hanging)):
        while the_job(library, job_id).state != "running":
            time.sleep(0.02)
    assert the_job(library, job_id).state == "running"
    assert library.originals.path(A).exists()
    library.originals.path(A).with_name("tried").touch()
    with running(library, RunnerOptions(workers=1, start_worker=crashing_once)):
        assert ended(library, job_id).state == "done"


def test_a_waiting_job_is_cancelled_at_once_and_its_frame_stays(tmp_path: Path) -> None:
    library = Library(tmp_path)
    job_id = queued(library, A)
    Runner(library, RunnerOptions(workers=0)).cancel(job_id)
    assert the_job(library, job_id).state == "cancelled"
    with library.database.read() as connection:
        assert frame_rows.list_frames(connection)[1] == 1


@pytest.mark.parametrize(
    ("error", "said"),
    [
        (sqlite3.OperationalError("disk I/O error"), "unexpected"),
        (OSError(28, "No space left on device"), "No space"),
        (RuntimeError("a fault"), "unexpected"),
    ],
)
def test_trouble_in_taking_work_is_said_and_outlived(
    error: Exception, said: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    library = Library(tmp_path)
    take, told, failing = job_rows.take_next, [], [True]

    def failing_take(connection: sqlite3.Connection) -> StoredJob | None:
        if failing[0]:
            told.append(1)
            raise error
        return take(connection)

    monkeypatch.setattr(job_rows, "take_next", failing_take)
    job_id = queued(library, A)
    with running(library, RunnerOptions(workers=1, start_worker=signalling_itself)) as runner:
        while len(told) < 2:
            time.sleep(0.02)
        assert said in (runner.trouble or "")
        failing[0] = False
        assert ended(library, job_id).state == "done"
        while runner.trouble is not None:
            time.sleep(0.02)


def test_a_result_waits_for_a_disk_that_does_not_take_it(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    library = Library(tmp_path)
    finish, refused = job_rows.finish, [0]

    def full_at_first(connection: sqlite3.Connection, *given: object) -> None:
        if refused[0] < 3:
            refused[0] += 1
            error = sqlite3.OperationalError("database or disk is full")
            error.sqlite_errorname = "SQLITE_FULL"
            raise error
        finish(connection, *given)  # type: ignore[arg-type]

    monkeypatch.setattr(job_rows, "finish", full_at_first)
    job_id = queued(library, A)
    with running(library, RunnerOptions(workers=1, start_worker=breaking)):
        assert ended(library, job_id).state == "failed"
    assert refused == [3]


def test_a_job_whose_frame_is_gone_ends_quietly(tmp_path: Path) -> None:
    library = Library(tmp_path)
    job_id = queued(library, A)
    with library.database.write() as connection:
        connection.execute("UPDATE jobs SET frame_id = NULL")
        connection.execute("DELETE FROM frames")
    with running(library, RunnerOptions(workers=1, start_worker=crashing)):
        assert ended(library, job_id).state == "cancelled"
