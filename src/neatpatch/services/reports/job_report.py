"""A job's report, gathered from the store."""

from __future__ import annotations

from datetime import date

from neatpatch.core.common.errors import NotThereError
from neatpatch.core.common.words import day_words
from neatpatch.core.reports.job_report import job_report
from neatpatch.services.kit.step_stock import readiness_now
from neatpatch.services.reports.letterhead import kept_letterhead
from neatpatch.services.reports.rendering import Sheet
from neatpatch.store import bookings as booking_rows
from neatpatch.store.datafolder import Library


def job_sheet(library: Library, booking_id: int) -> Sheet:
    """A job's report, to be set. `NotThereError` where it is gone or has passed."""
    today = date.today()
    with library.database.read() as connection:
        ready = next(
            (j for j in readiness_now(connection, today).jobs if j.job.id == booking_id), None
        )
        if ready is None:
            raise NotThereError("There is no such job ahead. It may have passed or been removed.")
        bodies = booking_rows.bodies_now(connection, list(ready.job.body_ids))
        letterhead, logo = kept_letterhead(connection)
    record = job_report(ready, {b.id: b for b in bodies}, letterhead, day_words(today))
    return Sheet(template="job", record=record, logo=logo)
