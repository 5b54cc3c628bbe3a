"""A camera's history and outlook, and what may bring dust to it."""

from __future__ import annotations

from datetime import date

from fastapi import APIRouter, Response
from pydantic import Field, TypeAdapter

from neatpatch.api.common.deps import Id, LibraryDep, RequestKey
from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import Day, Given
from neatpatch.core.stats.spot_histories import SpotHistory
from neatpatch.services.common.lookups import body_or_refuse
from neatpatch.services.stats.history import (
    History,
    Outlook,
    history_of,
    outlook_of,
    spot_histories_of,
)
from neatpatch.store import exposures as exposure_rows
from neatpatch.store.exposures import ExposureKind
from neatpatch.store.requests import claim_key

router = APIRouter(prefix="/api")
_LIVES = TypeAdapter(list[SpotHistory])


class NewExposure(Given):
    """A lens change or a dusty day; today unless another day is given."""

    kind: ExposureKind
    on_day: Day | None = None
    place: str = Field(default="", max_length=120)


@router.get("/bodies/{body_id}/history")
def history(body_id: Id, library: LibraryDep) -> History:
    """Counts over time with the steps between them, and where on the sensor."""
    with library.database.read() as connection:
        return history_of(connection, body_id)


@router.get("/bodies/{body_id}/lives", response_model=list[SpotHistory])
def lives(body_id: Id, library: LibraryDep) -> Response:
    """Each spot through all frames: first seen, moved, gone."""
    with library.database.read() as connection:
        found = spot_histories_of(connection, body_id)
    # There can be thousands: written at once, not checked once more one by one.
    return Response(_LIVES.dump_json(found), media_type="application/json")


@router.get("/bodies/{body_id}/outlook")
def outlook(body_id: Id, library: LibraryDep) -> Outlook:
    """How fast dust comes to it, and when to look again."""
    with library.database.read() as connection:
        return outlook_of(connection, body_id)


@router.post("/bodies/{body_id}/exposures", status_code=201)
def log_exposure(
    body_id: Id, given: NewExposure, library: LibraryDep, key: RequestKey = None
) -> Outlook:
    """Log a lens change or a dusty day."""
    day = given.on_day or date.today()
    if day > date.today():
        raise BadArgumentError("This day is still to come. Log it when it has been.")
    with library.database.write() as connection:
        body_or_refuse(connection, body_id)
        if claim_key(connection, key, f"exposure of camera {body_id}"):
            exposure_rows.add_exposure(connection, body_id, day, given.kind, given.place)
    return outlook(body_id, library)


@router.delete("/bodies/{body_id}/exposures/{exposure_id}")
def remove_exposure(body_id: Id, exposure_id: Id, library: LibraryDep) -> Outlook:
    """Take a logged one back."""
    with library.database.write() as connection:
        exposure_rows.remove_exposure(connection, body_id, exposure_id)
    return outlook(body_id, library)
