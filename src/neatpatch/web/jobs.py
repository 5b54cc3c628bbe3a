"""Runs queued jobs in worker processes, one task at a time in each, and writes their state."""

from __future__ import annotations

import json
import logging
import multiprocessing
import sqlite3
import threading
import time
from datetime import date, datetime
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess

from neatpatch import __version__
from neatpatch.core.mapping import DEFAULT_WORKS_AT
from neatpatch.demo.archive import DemoFrame
from neatpatch.demo.visits import DemoVisit
from neatpatch.store import bench as bench_rows
from neatpatch.store import bodies as body_rows
from neatpatch.store import frames as frame_rows
from neatpatch.store import jobs as job_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.jobs import JobState, StoredJob
from neatpatch.store.settings import put_setting
from neatpatch.web.casework import after_map
from neatpatch.web.demo_intake import take_in_demo_frame, take_in_demo_visit
from neatpatch.web.worker import DemoTask, Ended, Mapped, MapTask, Progress, ShootTask, work

DEMO_MADE = "demo_made"
TIME_LIMIT_S = 180.0
DEMO_LIMIT_S = 1800.0
_POLL_S = 0.1
_REPORT_EVERY_S = 0.1
_log = logging.getLogger("neatpatch.jobs")


class Runner:
    """Threads that each own a worker process and take jobs from the database."""

    def __init__(
        self, library: Library, workers: int = 2, time_limit_s: float = TIME_LIMIT_S
    ) -> None:
        self._library = library
        self._time_limit_s = time_limit_s
        self._wake = threading.Condition()
        self._stopping = False
        self._cancelled: set[int] = set()
        self._threads = [
            threading.Thread(target=self._loop, name=f"jobs-{i}", daemon=True)
            for i in range(workers)
        ]

    def start(self) -> None:
        """Take up interrupted work and begin."""
        with self._library.database.write() as connection:
            job_rows.requeue_interrupted(connection)
            for frame_id in frame_rows.frames_without_map(connection):
                frame = frame_rows.frame_by_id(connection, frame_id)
                if frame:
                    job_rows.add_job(connection, "map", frame.name, frame_id)
        for thread in self._threads:
            thread.start()

    def stop(self) -> None:
        """End the workers; running jobs stay as they are and start again next time."""
        with self._wake:
            self._stopping = True
            self._wake.notify_all()
        for thread in self._threads:
            thread.join(timeout=5)

    def nudge(self) -> None:
        """Say that a job was queued."""
        with self._wake:
            self._wake.notify_all()

    def cancel(self, job: StoredJob) -> None:
        """Stop a job, running or waiting."""
        with self._wake:
            self._cancelled.add(job.id)
        if job.state == "queued":
            self._end(job, "cancelled", None)

    def _loop(self) -> None:
        worker = _Worker()
        try:
            while not self._stopping:
                with self._library.database.write() as connection:
                    job = job_rows.take_next(connection)
                if job is None:
                    with self._wake:
                        self._wake.wait(timeout=1.0)
                    continue
                self._run(job, worker)
        finally:
            worker.end()

    def _run(self, job: StoredJob, worker: _Worker) -> None:
        task = self._task(job)
        if task is None:
            self._end(job, "failed", "The frame is no longer there.")
            return
        pipe = worker.pipe()
        pipe.send(task)
        limit_s = DEMO_LIMIT_S if job.kind == "demo" else self._time_limit_s
        deadline = time.monotonic() + limit_s
        told = 0.0
        while True:
            if self._stopping or job.id in self._cancelled or time.monotonic() > deadline:
                worker.end()
                self._interrupted(job)
                return
            try:
                message = pipe.recv() if pipe.poll(_POLL_S) else None
            except (EOFError, OSError):
                worker.end()
                self._end(job, "failed", "The picture could not be decoded safely.")
                return
            if isinstance(message, Ended):
                self._ended(job, message)
                return
            if isinstance(message, Progress):
                if time.monotonic() - told > _REPORT_EVERY_S:
                    told = time.monotonic()
                    self._report(job, message)
            elif message is not None:
                self._take(job, message, pipe)

    def _task(self, job: StoredJob) -> object | None:
        if job.kind == "demo":
            return DemoTask(date.fromisoformat(job.created_at[:10]))
        with self._library.database.read() as connection:
            if job.kind == "shoot":
                return shoot_task(connection, job)
            frame = frame_rows.frame_by_id(connection, job.frame_id or 0)
            if frame is None:
                return None
            members = (
                frame_rows.frame_by_id(connection, i)
                for i in visit_rows.series_of(connection, frame.id)
            )
            more = tuple(
                (self._library.originals.path(m.sha256), m.name) for m in members if m is not None
            )
            sensor = frame.sensor_mm or sensor_of_body(connection, frame.id)
        derived = self._library.derived(frame.sha256)
        return MapTask(
            original=self._library.originals.path(frame.sha256), name=frame.name, derived=derived,
            sensor_mm=sensor, works_at=DEFAULT_WORKS_AT, with_tiles=not derived.exists(),
            more=more,
        )  # fmt: skip

    def _report(self, job: StoredJob, progress: Progress) -> None:
        with self._library.database.write() as connection:
            job_rows.report(connection, job.id, progress.share, progress.step)

    def _take(self, job: StoredJob, message: object, pipe: Connection) -> None:
        if isinstance(message, Mapped) and job.frame_id is not None:
            with self._library.database.write() as connection:
                if frame_rows.frame_by_id(connection, job.frame_id):
                    frame_rows.save_map(connection, job.frame_id, message.map_json, __version__)
                    after_map(connection, job.frame_id)
        elif isinstance(message, DemoFrame):
            frame_id = take_in_demo_frame(self._library, message)
            if job.visit_id is not None:
                with self._library.database.write() as connection:
                    visit_rows.add_frame_entry(connection, job.visit_id, frame_id)
            pipe.send("taken")
            self.nudge()
        elif isinstance(message, DemoVisit):
            take_in_demo_visit(self._library, message, date.fromisoformat(job.created_at[:10]))
            pipe.send("taken")
            self.nudge()

    def _ended(self, job: StoredJob, message: Ended) -> None:
        if message.outcome == "done":
            with self._library.database.write() as connection:
                if job.kind == "demo":
                    put_setting(connection, DEMO_MADE, "yes")
                job_rows.finish(connection, job.id, "done")
            return
        if message.outcome == "broken":
            _log.error("job %d: %s", job.id, message.reason)
            self._end(job, "failed", "This file could not be measured. Try the camera's JPEG.")
            return
        self._end(job, "failed", message.reason)

    def _interrupted(self, job: StoredJob) -> None:
        if self._stopping:
            return
        if job.id in self._cancelled:
            self._end(job, "cancelled", None)
        else:
            limit = f"{self._time_limit_s:.0f} s"
            self._end(
                job, "failed", f"Reading the picture took longer than {limit}; it was stopped."
            )

    def _end(self, job: StoredJob, state: JobState, reason: str | None) -> None:
        """End a job that did not succeed; a frame that never had a map leaves nothing behind."""
        unused = None
        with self._library.database.write() as connection:
            job_rows.finish(connection, job.id, state, reason)
            frame = frame_rows.frame_by_id(connection, job.frame_id or 0)
            if frame is not None and frame.map_json is None:
                unused = frame_rows.remove_frame(connection, frame.id)
        self._cancelled.discard(job.id)
        if unused:
            self._library.originals.drop(unused)
            self._library.drop_derived(unused)


class _Worker:
    """A worker process, started when first needed and again after being ended."""

    def __init__(self) -> None:
        self._process: BaseProcess | None = None
        self._pipe: Connection | None = None

    def pipe(self) -> Connection:
        if self._pipe is None or self._process is None or not self._process.is_alive():
            self.end()
            context = multiprocessing.get_context("spawn")
            self._pipe, theirs = context.Pipe()
            self._process = context.Process(target=work, args=(theirs,), daemon=True)
            self._process.start()
            theirs.close()
        return self._pipe

    def end(self) -> None:
        if self._process is not None:
            self._process.kill()
            self._process.join(timeout=5)
        if self._pipe is not None:
            self._pipe.close()
        self._process, self._pipe = None, None


def shoot_task(connection: sqlite3.Connection, job: StoredJob) -> ShootTask | None:
    """The virtual camera's next shot for a visit; None when the visit or its camera is gone."""
    visit = visit_rows.visit_by_id(connection, job.visit_id or 0)
    bench = bench_rows.bench_body(connection, visit.body_id) if visit else None
    if visit is None or bench is None:
        return None
    shots = sum(1 for e in visit_rows.trail_of(connection, visit.id) if e.frame_id is not None)
    return ShootTask(
        camera=bench.camera, particles=tuple(d.particle for d in bench.dust),
        f_number=float(json.loads(job.detail_json)["f_number"]), seed=1000 * visit.id + job.id,
        name=f"visit-{visit.id}-shot-{shots + 1}.jpg",
        taken_at=datetime.now().isoformat(timespec="seconds"),
    )  # fmt: skip


def sensor_of_body(connection: sqlite3.Connection, frame_id: int) -> tuple[float, float] | None:
    """The sensor size of the body whose trail a frame lies on, or None."""
    for visit_id in visit_rows.visits_with_frame(connection, frame_id):
        visit = visit_rows.visit_by_id(connection, visit_id)
        body = body_rows.body_by_id(connection, visit.body_id) if visit else None
        if body is not None:
            return body.body.sensor_mm
    return None
