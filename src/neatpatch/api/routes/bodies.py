"""Routes of bodies."""

from __future__ import annotations

import sqlite3
from datetime import date
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from neatpatch.api.common.deps import (
    Id,
    Jobs,
    LibraryDep,
    RequestKey,
    SeenVersion,
    require_seen,
)
from neatpatch.core.common.errors import ConflictError
from neatpatch.core.guide.guidance import loupe_words
from neatpatch.core.visit.body import Body
from neatpatch.core.visit.camera_recognition import size_doubt
from neatpatch.core.visit.trail import Verdict
from neatpatch.services.common.fingerprints import resize_frames
from neatpatch.services.common.lookups import body_or_refuse
from neatpatch.store import bodies as body_rows
from neatpatch.store import kit as kit_rows
from neatpatch.store import virtual_cameras as virtual_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.bookings import next_job_of
from neatpatch.store.datafolder import Library
from neatpatch.store.requests import claim_key, note_result, result_of

router = APIRouter(prefix="/api")
Page = Annotated[int, Query(ge=0, le=1_000_000)]
_FRAMES_ASKED = 3
"""So many of the newest frames are asked whether the sensor's size can be right."""


class BodyView(BaseModel):
    """A body in a list, with its open visit or how the last one ended."""

    id: int
    version: int
    body: Body
    demo: bool
    virtual: bool
    open_visit_id: int | None
    visits: int
    last_closed_at: str | None
    last_verdict: str | None
    last_relevant: int | None
    look_again_on: str | None
    next_job_on: date | None


class BodyPage(BaseModel):
    """A page of bodies and how many there are in all."""

    bodies: list[BodyView]
    total: int


class VisitRow(BaseModel):
    """A visit in a body's history."""

    id: int
    state: visit_rows.VisitState
    why_now: str
    verdict: Verdict | None
    note: str
    first_relevant: int | None
    last_relevant: int | None
    opened_at: str
    closed_at: str | None
    look_again_on: str | None


class BodyDetail(BaseModel):
    """A body with its history. ``loupe``: whether the loupe owned focuses on it, in words.

    ``frames``: how many lie on its trails. ``size_doubt``: why its size cannot be right by them.
    """

    id: int
    version: int
    body: Body
    loupe: str
    next_job_on: date | None
    virtual: bool
    open_visit_id: int | None
    frames: int
    size_doubt: str
    visits: list[VisitRow]


@router.get("/bodies")
def bodies(
    library: LibraryDep,
    first: Page = 0,
    count: Annotated[int, Query(ge=1, le=200)] = 50,
    words: Annotated[str, Query(max_length=80)] = "",
    order: body_rows.BodyOrder = "name",
    only: body_rows.OnlyBodies = "all",
) -> BodyPage:
    """A page of bodies by name, or by what matters most."""
    with library.database.read() as connection:
        found, total = body_rows.list_bodies(
            connection, first=first, count=count, words=words, order=order, only=only
        )
        virtual = virtual_rows.virtual_camera_ids(connection)
        today = date.today().isoformat()
        jobs = {b.stored.id: next_job_of(connection, b.stored.id, today) for b in found}
    return BodyPage(
        bodies=[
            BodyView(
                id=b.stored.id,
                version=b.stored.version,
                body=b.stored.body,
                demo=b.stored.source == "demo",
                virtual=b.stored.id in virtual,
                open_visit_id=b.open_visit_id,
                visits=b.visits,
                last_closed_at=b.last_closed_at,
                last_verdict=b.last_verdict,
                last_relevant=b.last_relevant,
                look_again_on=b.look_again_on,
                next_job_on=jobs[b.stored.id],
            )
            for b in found
        ],
        total=total,
    )


@router.post("/bodies", status_code=201)
def add_body(body: Body, library: LibraryDep, key: RequestKey = None) -> BodyDetail:
    """Add a body."""
    with library.database.write() as connection:
        body_id = result_of(connection, key, "body")
        if claim_key(connection, key, "body") or body_id is None:
            _require_free_name(connection, body)
            body_id = body_rows.add_body(connection, body)
            note_result(connection, key, body_id)
    return _detail(library, body_id)


def _require_free_name(connection: sqlite3.Connection, body: Body, but: int | None = None) -> None:
    if body_rows.name_taken(connection, body.name, but=but):
        raise ConflictError(f"There is a body named {body.name} already. Choose another name.")


@router.get("/bodies/{body_id}")
def body_detail(body_id: Id, library: LibraryDep, first: Page = 0) -> BodyDetail:
    """One body with its history, the newest visit first."""
    return _detail(library, body_id, first)


def _detail(library: Library, body_id: int, first: int = 0) -> BodyDetail:
    with library.database.read() as connection:
        stored = body_or_refuse(connection, body_id)
        frames = visit_rows.frames_of_body(connection, body_id)
        maps = [library.maps.spot_map(connection, f) for f in frames[:_FRAMES_ASKED]]
        visits = visit_rows.visits_of(connection, body_id, first)
        return BodyDetail(
            id=body_id,
            version=stored.version,
            body=stored.body,
            loupe=loupe_words(stored.body, [k.owned.item for k in kit_rows.all_items(connection)]),
            frames=len(frames),
            size_doubt=size_doubt(stored.body, [m for m in maps if m is not None]),
            next_job_on=next_job_of(connection, body_id, date.today().isoformat()),
            virtual=virtual_rows.virtual_camera_of(connection, body_id) is not None,
            open_visit_id=visit_rows.open_visit_of(connection, body_id),
            visits=[
                VisitRow(
                    id=v.id,
                    state=v.state,
                    why_now=v.conditions.why_now,
                    verdict=v.verdict,
                    note=v.note,
                    first_relevant=v.first_relevant,
                    last_relevant=v.last_relevant,
                    opened_at=v.opened_at,
                    closed_at=v.closed_at,
                    look_again_on=v.look_again_on,
                )
                for v in visits
            ],
        )


@router.put("/bodies/{body_id}")
def change_body(
    body_id: Id, body: Body, library: LibraryDep, runner: Jobs, seen: SeenVersion
) -> BodyDetail:
    """Replace a body; what was learned from its frames stays unless given.

    With another sensor size its frames are measured again, and its pitch is learned again.
    """
    with library.database.write() as connection:
        stored = body_or_refuse(connection, body_id)
        require_seen(seen, stored.version, stored.body, body)
        _require_free_name(connection, body, but=body_id)
        same_size = body.sensor_mm == stored.body.sensor_mm
        kept = body.model_copy(
            update={
                "pitch_um": body.pitch_um or (stored.body.pitch_um if same_size else None),
                "stack_mm": body.stack_mm or stored.body.stack_mm,
            }
        )
        body_rows.change_body(connection, body_id, kept)
        if not same_size:
            resize_frames(connection, body_id)
    runner.nudge()
    return _detail(library, body_id)


@router.delete("/bodies/{body_id}", status_code=204)
def remove_body(body_id: Id, library: LibraryDep) -> None:
    """Remove a body with its visits; its frames stay."""
    with library.database.write() as connection:
        body_or_refuse(connection, body_id)
        body_rows.remove_body(connection, body_id)
