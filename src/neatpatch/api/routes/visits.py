"""Visits: begun, looked at, followed, closed."""

from __future__ import annotations

import json
from datetime import date, timedelta
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from neatpatch.api.common.deps import (
    Id,
    Jobs,
    LibraryDep,
    RequestKey,
    SeenVersion,
    require_seen,
)
from neatpatch.core.common.errors import BadArgumentError, ConflictError
from neatpatch.core.common.records import Day, Given, RowId
from neatpatch.core.visit.body import VisitConditions
from neatpatch.core.visit.spot_fates import SpotTrail
from neatpatch.core.visit.trail import TrailStep, Verdict, closing_words
from neatpatch.services.common.lookups import (
    body_or_refuse,
    job_or_refuse,
    require_open,
    visit_or_refuse,
)
from neatpatch.services.common.views import Job
from neatpatch.services.frames.queue_measurement import measure_at_entered
from neatpatch.services.stats.history import next_look
from neatpatch.services.visits.loaded_visit import load_visit, recount
from neatpatch.services.visits.open_visit import begin_visit
from neatpatch.services.visits.view_records import VisitView
from neatpatch.services.visits.visit_view import visit_view
from neatpatch.store import jobs as job_rows
from neatpatch.store import virtual_cameras as virtual_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.bodies import name_of
from neatpatch.store.database import day_text
from neatpatch.store.hands import clear_place
from neatpatch.store.jobs import NewJob
from neatpatch.store.requests import claim_key, note_result, result_of
from neatpatch.store.visits import VisitEnd

router = APIRouter(prefix="/api")


class NewVisit(Given):
    """Begin a visit of a body, perhaps from a frame that is here already."""

    body_id: RowId
    conditions: VisitConditions | None = None
    frame_id: RowId | None = None


class OpenVisit(BaseModel):
    """An open visit, for the first screen."""

    id: int
    body_id: int
    body_name: str
    opened_at: str
    why_now: str
    first_relevant: int | None
    last_relevant: int | None


class Look(BaseModel):
    """When a body is to be looked at again. ``away``: it was sent to a service."""

    body_id: int
    name: str
    on: date
    away: bool


class Closing(Given):
    """How a visit ends."""

    verdict: Verdict
    note: str = Field(default="", max_length=1000)
    until: Day | None = None


class Closed(BaseModel):
    """The closed visit, what to do on leaving, and when to look again."""

    visit: VisitView
    words: list[str]
    look_again_on: str


@router.get("/visits")
def open_visits(library: LibraryDep) -> list[OpenVisit]:
    """All open visits, the newest first."""
    with library.database.read() as connection:
        names = name_of(connection)
        return [
            OpenVisit(
                id=v.id,
                body_id=v.body_id,
                opened_at=v.opened_at,
                body_name=names[v.body_id],
                why_now=v.conditions.why_now,
                first_relevant=v.first_relevant,
                last_relevant=v.last_relevant,
            )
            for v in visit_rows.open_visits(connection)
        ]


@router.post("/visits", status_code=201)
def begin(wanted: NewVisit, library: LibraryDep) -> VisitView:
    """Begin a visit. A body has at most one open."""
    with library.database.write() as connection:
        visit_id = begin_visit(connection, wanted.body_id, wanted.frame_id, wanted.conditions)
        recount(library, connection, visit_id)
    return visit_view(load_visit(library, visit_id))


@router.get("/looks")
def looks(library: LibraryDep) -> list[Look]:
    """Bodies to be looked at again, the soonest first; those with an open visit are left out."""
    with library.database.read() as connection:
        return [
            Look(body_id=n.body_id, name=n.name, on=n.on, away=n.away)
            for n in visit_rows.next_looks(connection)
        ]


@router.get("/visits/{visit_id}")
def visit(visit_id: Id, library: LibraryDep) -> VisitView:
    """One visit with its trail and the next move."""
    return visit_view(load_visit(library, visit_id))


@router.get("/visits/{visit_id}/trail/{entry_id}/lives")
def lives(visit_id: Id, entry_id: Id, library: LibraryDep) -> dict[str, SpotTrail]:
    """What became of each spot of one frame along the trail, by the spot's id."""
    return dict(load_visit(library, visit_id).lives.get(entry_id, {}))


@router.put("/visits/{visit_id}/conditions")
def set_conditions(
    visit_id: Id,
    conditions: VisitConditions,
    library: LibraryDep,
    runner: Jobs,
    seen: SeenVersion,
) -> VisitView:
    """Say why now, how the room is, how the camera is powered, whose hands, which job is next."""
    with library.database.write() as connection:
        kept = visit_or_refuse(connection, visit_id)
        require_open(kept)
        require_seen(seen, kept.conditions_version, kept.conditions, conditions)
        visit_rows.set_conditions(connection, visit_id, conditions)
        if conditions.shot_at_f != kept.conditions.shot_at_f:
            measure_at_entered(connection, visit_id, kept.conditions.shot_at_f)
    runner.nudge()
    return visit_view(load_visit(library, visit_id))


@router.post("/visits/{visit_id}/shoot", status_code=202)
def shoot(
    visit_id: Id,
    library: LibraryDep,
    runner: Jobs,
    f: Annotated[float, Query(ge=1.4, le=32)] = 22.0,
    key: RequestKey = None,
) -> Job:
    """Shoot a test frame with the virtual camera; it arrives on the trail like any other."""
    with library.database.write() as connection:
        stored = visit_or_refuse(connection, visit_id)
        require_open(stored)
        if virtual_rows.virtual_camera_of(connection, stored.body_id) is None:
            raise ConflictError("This is a real camera. Shoot with it and drop the frame here.")
        what = f"shot of visit {visit_id}"
        job_id = result_of(connection, key, what)
        if claim_key(connection, key, what) or job_id is None:
            job_id = job_rows.add_job(
                connection,
                NewJob(
                    kind="shoot",
                    label="Virtual camera",
                    visit_id=visit_id,
                    detail_json=json.dumps({"f_number": f}),
                ),
            )
            note_result(connection, key, job_id)
        visit_rows.touch(connection, visit_id)
        job = job_or_refuse(connection, job_id)
    runner.nudge()
    return job


@router.post("/visits/{visit_id}/close")
def close(visit_id: Id, closing: Closing, library: LibraryDep) -> Closed:
    """End a visit with its verdict."""
    if closing.verdict == "deferred" and closing.until is None:
        raise BadArgumentError("until: give the day until which it is postponed.")
    until = day_text(closing.until)
    with library.database.write() as connection:
        stored = visit_or_refuse(connection, visit_id)
        require_open(stored)
        recount(library, connection, visit_id)
        left = visit_or_refuse(connection, visit_id).last_relevant
        due = next_look(connection, stored.body_id, left, date.today())
        look = _look_again(due, closing.until, stored.conditions.job_on)
        visit_rows.close_visit(
            connection,
            visit_id,
            VisitEnd(verdict=closing.verdict, note=closing.note, until=until, look_again_on=look),
        )
        clear_place(connection, visit_id)
    case = load_visit(library, visit_id)
    steps = [e for e in case.trail if isinstance(e, TrailStep)]
    return Closed(
        visit=visit_view(case),
        words=list(closing_words(closing.verdict, case.visit.conditions, steps)),
        look_again_on=look,
    )


@router.post("/visits/{visit_id}/reopen")
def reopen(visit_id: Id, library: LibraryDep) -> VisitView:
    """Open a closed visit again. One that is open stays so; a body has at most one open."""
    with library.database.write() as connection:
        stored = visit_or_refuse(connection, visit_id)
        other = visit_rows.open_visit_of(connection, stored.body_id)
        if other is not None and other != visit_id:
            name = body_or_refuse(connection, stored.body_id).body.name
            raise ConflictError(f"{name} has another open visit. Close that one first.")
        visit_rows.reopen_visit(connection, visit_id)
    return visit_view(load_visit(library, visit_id))


def _look_again(due: date, until: date | None, job_on: date | None) -> str:
    """When dust makes it due, the put-off date, or two days before the next job: the soonest."""
    days = [due]
    if until:
        days.append(until)
    if job_on:
        days.append(max(date.today(), job_on - timedelta(days=2)))
    return min(days).isoformat()
