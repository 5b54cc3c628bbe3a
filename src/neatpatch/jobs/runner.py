"""Runs queued jobs in worker processes, one task at a time in each, and writes their state.

Whatever goes wrong here, an acknowledged original stays: a job that fails says why and can be asked
for again.
"""

from __future__ import annotations

import errno
import json
import logging
import shutil
import sqlite3
import threading
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from functools import partial
from multiprocessing.connection import Connection

from neatpatch import __version__
from neatpatch.core.common.apertures import DEFAULT_WORKS_AT
from neatpatch.core.common.errors import sentence
from neatpatch.core.common.records import SpotMap
from neatpatch.jobs.kinds import BroughtResult, JobKind
from neatpatch.jobs.processes import WorkerProcess
from neatpatch.jobs.worker import (
    Ended,
    Mapped,
    MapTask,
    PictureTask,
    Progress,
    ShootTask,
    Source,
    work,
)
from neatpatch.services.common.fingerprints import SensorMatch, keep_match, references_for
from neatpatch.services.common.forever import Forever
from neatpatch.services.frames.after_measure import compare_in_advance, follow_up
from neatpatch.services.frames.queue_measurement import queue_missing
from neatpatch.store import bodies as body_rows
from neatpatch.store import frames as frame_rows
from neatpatch.store import jobs as job_rows
from neatpatch.store import maps as map_rows
from neatpatch.store import requests as request_rows
from neatpatch.store import virtual_cameras as virtual_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.database import disk_trouble
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import StoredFrame
from neatpatch.store.jobs import JobState, StoredJob
from neatpatch.store.sweep import sweep

TIME_LIMIT_S = 180.0
MOST_ATTEMPTS = 2
"""A worker that dies over a file is given it once more: memory may have been short just then."""
_POLL_S = 0.1
_IDLE_S = 1.0
_REPORT_EVERY_S = 0.2
_DISK_PAUSE_S = 3.0
"""Until work is tried again for which the disk had no room."""
_FIRST_PAUSE_S = 0.25
_LONGEST_PAUSE_S = 5.0
_DIED = (
    "It could not be measured: the measuring process ended twice over it, perhaps for want of "
    "memory. The frame is kept. Close other programs and try again, or use the camera's JPEG."
)
_BROKEN = "This file could not be measured. The frame is kept. Try the camera's JPEG."
_log = logging.getLogger("neatpatch.jobs")


@dataclass(frozen=True, kw_only=True)
class RunnerOptions:
    """How many worker processes there are, and how long each may take over one frame.

    ``warm``: they are started at once, so that the first frame waits for no libraries to load.
    ``kinds``: what jobs there are beside those on frames, by name.
    """

    workers: int = 2
    time_limit_s: float = TIME_LIMIT_S
    warm: bool = False
    start_worker: Callable[[Connection], None] = work
    kinds: Mapping[str, JobKind] = field(default_factory=dict)


class Runner:
    """Threads that each own a worker process and take jobs from the database."""

    def __init__(self, library: Library, options: RunnerOptions | None = None) -> None:
        self._library = library
        self._options = options or RunnerOptions()
        self._lock = threading.Lock()
        self._stopping = threading.Event()
        self._running: set[int] = set()
        self._cancelled: set[int] = set()
        self._unwritten: str | None = None
        """Why what became of a job cannot be written just now."""
        self._loops = [self._loop(f"jobs-{i}") for i in range(self._options.workers)]

    def start(self) -> None:
        """Bring files and rows together, take up interrupted work and begin."""
        swept = sweep(self._library)
        if swept.orphans or swept.damaged_originals:
            _log.warning(
                "%d files that nothing refers to were set aside; "
                "%d originals are missing or altered",
                swept.orphans,
                len(swept.damaged_originals),
            )
        with self._library.database.write() as connection:
            job_rows.requeue_interrupted(connection)
            request_rows.forget_old(connection)
        queue_missing(self._library)
        for loop in self._loops:
            loop.start()

    def _loop(self, name: str) -> Forever:
        worker = WorkerProcess(self._options.start_worker)
        return Forever(
            name,
            partial(self._step, worker),
            words=_words,
            at_start=worker.warm if self._options.warm else lambda: None,
            at_end=worker.end,
        )

    @property
    def trouble(self) -> str | None:
        """What keeps work from going on, in a sentence; None while all is well."""
        return self._unwritten or next((w.trouble for w in self._loops if w.trouble), None)

    def make_missing(self) -> None:
        """Queue maps and pictures that are not there, and begin."""
        queue_missing(self._library)
        self.nudge()

    def stopping(self) -> None:
        """Announce the shutdown before anything is waited for."""
        self._stopping.set()
        for loop in self._loops:
            loop.end()

    @property
    def is_stopping(self) -> bool:
        """Whether the end has come."""
        return self._stopping.is_set()

    def stop(self) -> None:
        """End the workers; running jobs stay as they are and start again next time."""
        self.stopping()
        for loop in self._loops:
            loop.stop()

    def nudge(self) -> None:
        """Announce that a job was queued."""
        for loop in self._loops:
            loop.nudge()

    def cancel(self, job_id: int) -> None:
        """Stop a job, running or waiting. What it was about stays."""
        with self._library.database.write() as connection:
            job_rows.cancel(connection, job_id)
        self.drop(job_id)

    def drop(self, job_id: int) -> None:
        """Take a job that was ended in the database off its worker, if one has it."""
        with self._lock:
            if job_id in self._running:
                self._cancelled.add(job_id)

    def _step(self, worker: WorkerProcess) -> float:
        """Take one job and run it; rests when none waits."""
        with self._library.database.read() as connection:
            if not job_rows.anything_waits(connection):
                return _IDLE_S
        with self._library.database.write(durable=False) as connection:
            job = job_rows.take_next(connection)
            if job is None:
                return _IDLE_S
            self._running.add(job.id)
        try:
            self._run(job, worker)
        except Exception as error:
            worker.end()
            self._broken_off(job, counts=disk_trouble(error) is None)
            raise
        finally:
            with self._lock:
                self._running.discard(job.id)
                self._cancelled.discard(job.id)
        return 0.0

    def _run(self, job: StoredJob, worker: WorkerProcess) -> None:
        task = self._task(job)
        if task is None:
            self._end(job, "cancelled", None)
            return
        pipe = worker.pipe()
        kind = self._options.kinds.get(job.kind)
        limit_s = kind.limit_s if kind else self._options.time_limit_s
        deadline = time.monotonic() + limit_s
        said_at = 0.0
        try:
            pipe.send(task)
            while True:
                if self._stopping.is_set() or job.id in self._cancelled:
                    worker.end()
                    return
                if time.monotonic() > deadline:
                    worker.end()
                    self._end(
                        job, "failed", f"It took longer than {limit_s:.0f} s; it was stopped."
                    )
                    return
                message = pipe.recv() if pipe.poll(_POLL_S) else None
                if isinstance(message, Ended):
                    self._ended(job, message)
                    self._tidy(task)
                    return
                if isinstance(message, Progress):
                    if time.monotonic() - said_at > _REPORT_EVERY_S or message.step == "picture":
                        said_at = time.monotonic()
                        self._report(job, message)
                elif message is not None:
                    self._take(job, message)
                    if isinstance(message, BroughtResult):
                        pipe.send("taken")
        except (EOFError, BrokenPipeError, ConnectionResetError):
            worker.end()
            if not self._stopping.is_set():
                self._broken_off(job, counts=True)

    def _task(self, job: StoredJob) -> object | None:
        if (kind := self._options.kinds.get(job.kind)) is not None:
            return kind.task(self._library, job)
        with self._library.database.read() as connection:
            if job.kind == "shoot":
                return shoot_task(connection, job)
            frame = frame_rows.frame_by_id(connection, job.frame_id or 0)
            if frame is None:
                return None
            derived = self._library.derived(frame.sha256)
            if job.kind == "picture":
                return PictureTask(self._source(frame), derived)
            members = (
                frame_rows.frame_by_id(connection, i)
                for i in visit_rows.series_of(connection, frame.id)
            )
            return MapTask(
                original=self._source(frame),
                derived=derived,
                loss=self._library.loss_path(frame.sha256),
                sensor_mm=frame.sensor_mm or sensor_of_body(connection, frame.id),
                works_at=DEFAULT_WORKS_AT,
                with_tiles=not derived.exists(),
                more=tuple(self._source(m) for m in members if m is not None),
                references=references_for(connection, frame.id),
                f_number=frame.f_number or visit_rows.shot_at_f(connection, frame.id),
            )

    def _source(self, frame: StoredFrame) -> Source:
        return Source(self._library.originals.path(frame.sha256), frame.sha256, frame.name)

    def _report(self, job: StoredJob, progress: Progress) -> None:
        with self._library.database.write(durable=False) as connection:
            job_rows.report(connection, job.id, progress.share, progress.step)

    def _take(self, job: StoredJob, message: object) -> None:
        if isinstance(message, Mapped) and job.frame_id is not None:
            spot_map = SpotMap.model_validate_json(message.map_json)
            self._keep_map(job.frame_id, spot_map, message.seen)
        elif isinstance(message, BroughtResult):
            message.take_in(self._library, job)
            self.nudge()

    def _keep_map(self, frame_id: int, spot_map: SpotMap, seen: SensorMatch | None) -> None:
        with self._library.database.write() as connection:
            if frame_rows.frame_by_id(connection, frame_id) is None:
                return
            map_rows.save_map(connection, frame_id, spot_map, __version__)
            if seen is not None:
                keep_match(connection, frame_id, seen, spot_map)
            follow_up(self._library, connection, frame_id)
        compare_in_advance(self._library, frame_id)

    def _ended(self, job: StoredJob, message: Ended) -> None:
        if message.altered is not None:
            self._library.damaged_originals[message.altered] = "altered"
        if message.outcome == "waits":
            raise OSError(errno.ENOSPC, message.reason)
        if message.outcome == "broken":
            _log.error("job %d: %s", job.id, message.reason)
            self._end(job, "failed", _BROKEN)
        elif message.outcome == "refused":
            self._end(job, "failed", message.reason)
        else:
            with self._library.database.write() as connection:
                if (kind := self._options.kinds.get(job.kind)) is not None:
                    kind.done(connection)
                job_rows.finish(connection, job.id, "done")

    def _tidy(self, task: object) -> None:
        """Tiles written for a frame that was removed meanwhile go with it."""
        if not isinstance(task, MapTask | PictureTask):
            return
        with self._library.database.exclusive(), self._library.database.read() as connection:
            if not frame_rows.is_kept(connection, task.original.sha256):
                shutil.rmtree(task.derived, ignore_errors=True)

    def _broken_off(self, job: StoredJob, *, counts: bool) -> None:
        """Put a job back, or give it up after its last attempt."""
        if counts and job.attempts + 1 >= MOST_ATTEMPTS:
            self._end(job, "failed", _DIED if job.kind == "map" else _BROKEN)
            return

        def again(connection: sqlite3.Connection) -> None:
            job_rows.put_back(
                connection, job.id, after_s=0 if counts else _DISK_PAUSE_S, counts=counts
            )

        self._persist(again)
        self.nudge()

    def _end(self, job: StoredJob, state: JobState, reason: str | None) -> None:
        """End a job that did not succeed. What it was about stays."""
        said = None if reason is None else sentence(reason)

        def end(connection: sqlite3.Connection) -> None:
            job_rows.finish(connection, job.id, state, said)
            if job.frame_id is not None:
                for visit_id in visit_rows.visits_with_frame(connection, job.frame_id):
                    visit_rows.touch(connection, visit_id)

        self._persist(end)

    def _persist(self, change: Callable[[sqlite3.Connection], None]) -> None:
        """Write a change, waiting for as long as the disk does not take it."""
        pause_s = _FIRST_PAUSE_S
        while not self._stopping.is_set():
            try:
                with self._library.database.write() as connection:
                    change(connection)
                self._unwritten = None
                return
            except (sqlite3.Error, OSError) as error:
                self._unwritten = _words(error)
                _log.error("%s It is written later: %s", self._unwritten, error)
                self._stopping.wait(pause_s)
                pause_s = min(2 * pause_s, _LONGEST_PAUSE_S)


def _words(error: Exception) -> str:
    return disk_trouble(error) or "Measuring meets an unexpected fault."


def shoot_task(connection: sqlite3.Connection, job: StoredJob) -> ShootTask | None:
    """The virtual camera's next shot for a visit; None when the visit or its camera is gone."""
    visit = visit_rows.visit_by_id(connection, job.visit_id or 0)
    bench = virtual_rows.virtual_camera_of(connection, visit.body_id) if visit else None
    if visit is None or bench is None:
        return None
    shots = sum(1 for e in visit_rows.trail_of(connection, visit.id) if e.frame_id is not None)
    return ShootTask(
        camera=bench.camera,
        particles=tuple(d.particle for d in bench.dust),
        f_number=float(json.loads(job.detail_json)["f_number"]),
        seed=1000 * visit.id + job.id,
        name=f"visit-{visit.id}-shot-{shots + 1}.jpg",
        taken_at=datetime.now().isoformat(timespec="seconds"),
    )


def sensor_of_body(connection: sqlite3.Connection, frame_id: int) -> tuple[float, float] | None:
    """The sensor size of the body whose trail a frame lies on, or None."""
    for visit_id in visit_rows.visits_with_frame(connection, frame_id):
        visit = visit_rows.visit_by_id(connection, visit_id)
        body = body_rows.body_by_id(connection, visit.body_id) if visit else None
        if body is not None:
            return body.body.sensor_mm
    return None
