"""Making the demo archive, as a kind of job."""

from __future__ import annotations

import sqlite3
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from neatpatch.core.common.moments import day_of
from neatpatch.demo.archive import shoot_frames
from neatpatch.demo.intake import take_in_demo_visit
from neatpatch.demo.pictures import FOLDER, write_demo_pictures
from neatpatch.demo.visits import DemoVisit, run_visits
from neatpatch.jobs.kinds import BroughtResult, BroughtTask, Emit, JobKind
from neatpatch.jobs.worker import Progress
from neatpatch.services.frames.virtual_shots import take_in_virtual_frame
from neatpatch.simulation.frames import ShotFrame
from neatpatch.store import jobs as job_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.jobs import NewJob, StoredJob
from neatpatch.store.settings import get_setting, put_setting

DEMO_MADE = "demo_made"
_LIMIT_S = 1800.0


@dataclass(frozen=True)
class DemoFrameMade(BroughtResult):
    """One frame of the copy stand."""

    frame: ShotFrame

    def take_in(self, library: Library, job: StoredJob) -> None:
        """Add it to the library."""
        take_in_virtual_frame(library, self.frame)


@dataclass(frozen=True)
class DemoVisitMade(BroughtResult):
    """One visit with its frames."""

    visit: DemoVisit

    def take_in(self, library: Library, job: StoredJob) -> None:
        """Add it; with the first, bodies and drawer."""
        take_in_demo_visit(library, self.visit, day_of(job.created_at))


@dataclass(frozen=True)
class DemoTask(BroughtTask):
    """Shoot the demo archive's frames with the virtual camera; its year ends on ``today``.

    ``pictures``: the folder for its ordinary pictures.
    """

    today: date
    pictures: Path

    def run(self, emit: Emit, answer: Callable[[], object]) -> None:
        """Shoot frame by frame, visit by visit, waiting after each until it has been taken in."""
        with tempfile.TemporaryDirectory(prefix="neatpatch-demo-") as folder:
            for share, frame in shoot_frames(Path(folder)):
                if frame is not None:
                    emit(DemoFrameMade(frame))
                    answer()
                emit(Progress(0.3 * share, "shooting the demo frames"))
            open_visit = None
            for share, visit in run_visits(Path(folder), self.today):
                if visit is not None:
                    emit(DemoVisitMade(visit))
                    answer()
                    if visit.verdict is None:
                        open_visit = visit
                emit(Progress(0.3 + 0.7 * share, "living through the demo visits"))
            if open_visit is not None:
                write_demo_pictures(self.pictures, open_visit)


def _task(library: Library, job: StoredJob) -> DemoTask:
    return DemoTask(day_of(job.created_at), library.root / FOLDER)


def _done(connection: sqlite3.Connection) -> None:
    put_setting(connection, DEMO_MADE, "yes")


DEMO_JOB = JobKind(task=_task, limit_s=_LIMIT_S, done=_done)


def queue_demo(library: Library) -> None:
    """Queue the making of the demo archive, unless it was made or is waiting."""
    with library.database.write() as connection:
        if get_setting(connection, DEMO_MADE):
            return
        if any(job.kind == "demo" for job in job_rows.open_jobs(connection)):
            return
        job_rows.add_job(connection, NewJob(kind="demo", label="Saltmarsh Chart Archive"))
