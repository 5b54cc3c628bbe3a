"""Booked jobs, and whether all is ready for them."""

from __future__ import annotations

from datetime import date

from fastapi import APIRouter

from neatpatch.api.common.deps import Id, LibraryDep, RequestKey, SeenVersion, require_seen
from neatpatch.core.common.errors import NotThereError
from neatpatch.core.kit.readiness import BookedJob, Readiness, check_job
from neatpatch.services.kit.step_stock import readiness_now
from neatpatch.store import bookings as booking_rows
from neatpatch.store.requests import claim_key

router = APIRouter(prefix="/api")


@router.get("/readiness")
def ready(library: LibraryDep) -> Readiness:
    """Booked jobs from today on: bodies, kit, time, and one list to buy."""
    with library.database.read() as connection:
        return readiness_now(connection, date.today())


@router.post("/bookings", status_code=201)
def book(job: BookedJob, library: LibraryDep, key: RequestKey = None) -> Readiness:
    """Book a job; gives the readiness for all."""
    check_job(job, date.today())
    with library.database.write() as connection:
        if claim_key(connection, key, "job"):
            booking_rows.add_booking(connection, job)
    return ready(library)


@router.put("/bookings/{booking_id}")
def change_booking(
    booking_id: Id, job: BookedJob, library: LibraryDep, seen: SeenVersion
) -> Readiness:
    """Replace a job; gives the readiness for all."""
    check_job(job, date.today())
    with library.database.write() as connection:
        kept = booking_rows.booking_by_id(connection, booking_id)
        if kept is None:
            raise NotThereError("There is no such job. It may have been removed.")
        require_seen(seen, kept.version, kept, job)
        booking_rows.change_booking(connection, booking_id, job)
    return ready(library)


@router.delete("/bookings/{booking_id}")
def cancel_booking(booking_id: Id, library: LibraryDep) -> Readiness:
    """Take a job out of the calendar; gives the readiness for all."""
    with library.database.write() as connection:
        booking_rows.remove_booking(connection, booking_id)
    return ready(library)
