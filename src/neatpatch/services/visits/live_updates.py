"""What a page follows: all long work, and the visit it has open."""

from __future__ import annotations

from dataclasses import dataclass, field

from neatpatch.services.common.views import Job, job_model
from neatpatch.store import jobs as job_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.hands import place_of


@dataclass
class LiveUpdates:
    """What one page was told last. ``visit_id``: the visit it has open, None for none."""

    library: Library
    visit_id: int | None = None
    _told: dict[int, Job] = field(default_factory=dict)
    _newest: int | None = None

    def changed_jobs(self) -> list[Job]:
        """Jobs that are open, began or ended since the last call, where anything of them changed.

        At the first call all that are open; those that ended before are not told.
        """
        with self.library.database.read() as connection:
            rows = {job.id: job for job in job_rows.open_jobs(connection)}
            newest = job_rows.newest_id(connection)
            ended = set(self._told) - set(rows)
            begun = () if self._newest is None else range(self._newest + 1, newest + 1)
            for job_id in sorted(ended | set(begun) - set(rows)):
                row = job_rows.job_by_id(connection, job_id)
                if row is not None:
                    rows[job_id] = row
        self._newest = newest
        now = {job_id: job_model(row) for job_id, row in sorted(rows.items())}
        changed = [job for job_id, job in now.items() if self._told.get(job_id) != job]
        self._told = {i: job for i, job in now.items() if job.state in ("queued", "running")}
        return changed

    def versions(self) -> tuple[int | None, int | None]:
        """Version of the visit, and of the hands' place in it; None where there is none."""
        if self.visit_id is None:
            return None, None
        with self.library.database.read() as connection:
            place = place_of(connection, self.visit_id)
            version = visit_rows.version_of(connection, self.visit_id)
        return version, place.version if place else None
