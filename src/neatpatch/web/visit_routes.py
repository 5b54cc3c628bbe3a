"""Routes of visits: begin, trail, next move, guidance, compare, close."""

from __future__ import annotations

import asyncio
import json
import sqlite3
from collections.abc import AsyncIterator
from datetime import date, timedelta
from typing import Annotated

from fastapi import APIRouter, HTTPException, Query
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import BaseModel, Field

from neatpatch.core.advice import advise
from neatpatch.core.advice.facts import Step
from neatpatch.core.advice.records import Barred
from neatpatch.core.stock import Take
from neatpatch.core.virtual_camera.bench import Handling, perform
from neatpatch.core.visit import (
    StepUse,
    TrailStep,
    Verdict,
    VisitConditions,
    closing_words,
)
from neatpatch.store import bench as bench_rows
from neatpatch.store import frames as frame_rows
from neatpatch.store import jobs as job_rows
from neatpatch.store import kit as kit_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.bookings import next_job_of
from neatpatch.store.datafolder import Library
from neatpatch.web.casework import (
    Case,
    body_or_404,
    recount,
    require_open,
    visit_or_404,
)
from neatpatch.web.deps import Jobs, Shelf
from neatpatch.web.models import Job, job_model
from neatpatch.web.stocking import correct_step, log_step
from neatpatch.web.visit_views import VisitView

router = APIRouter(prefix="/api")
_POLL_S = 0.25
_NEXT_LOOK_DAYS = 60
_ISO_DAY = r"^\d{4}-\d{2}-\d{2}$"


class NewVisit(BaseModel):
    """Begin a visit of a body, perhaps from a frame that is here already."""

    body_id: int
    conditions: VisitConditions | None = None
    frame_id: int | None = None


class OpenVisit(BaseModel):
    """An open visit, for the first screen."""

    id: int
    body_id: int
    body_name: str
    opened_at: str
    why_now: str
    first_relevant: int | None
    last_relevant: int | None


class Named(BaseModel):
    """So much of one thing of the kit."""

    kit_id: int
    amount: float = Field(ge=0, le=10_000)


class NewStep(BaseModel):
    """A step that was done. ``against``: why, when it is not what was advised.

    ``taken``: what it used of the kit, else the usual. ``recount``: there was more than counted.
    """

    step: Step
    use: StepUse = StepUse()
    against: str = Field(default="", max_length=400)
    taken: list[Named] | None = Field(default=None, max_length=20)
    recount: bool = False


class Correction(BaseModel):
    """What a step really used, counted and of the kit."""

    use: StepUse
    taken: list[Named] | None = Field(default=None, max_length=20)
    recount: bool = False


class ExistingFrame(BaseModel):
    """A frame that is here already."""

    frame_id: int


class Closing(BaseModel):
    """How a visit ends."""

    verdict: Verdict
    note: str = Field(default="", max_length=1000)
    until: str | None = Field(default=None, pattern=_ISO_DAY)


class Closed(BaseModel):
    """The closed visit, what to do on leaving, and when to look again."""

    visit: VisitView
    words: list[str]
    look_again_on: str


class Hazard(BaseModel):
    """What speaks against a step now."""

    barred: list[Barred]


def _view(library: Library, visit_id: int) -> VisitView:
    with library.database.read() as connection:
        return Case(connection, visit_id).view()


@router.get("/visits")
def open_visits(library: Shelf) -> list[OpenVisit]:
    """All open visits, the newest first."""
    with library.database.read() as connection:
        return [
            OpenVisit(
                id=v.id, body_id=v.body_id, opened_at=v.opened_at,
                body_name=body_or_404(connection, v.body_id).body.name,
                why_now=v.conditions.why_now, first_relevant=v.first_relevant,
                last_relevant=v.last_relevant,
            )
            for v in visit_rows.open_visits(connection)
        ]  # fmt: skip


@router.post("/visits", status_code=201)
def begin(wanted: NewVisit, library: Shelf) -> VisitView:
    """Begin a visit. A body has at most one open."""
    with library.database.write() as connection:
        body = body_or_404(connection, wanted.body_id)
        if visit_rows.open_visit_of(connection, wanted.body_id) is not None:
            raise HTTPException(409, f"{body.body.name} has an open visit. Go on with that one.")
        if wanted.frame_id is not None and not frame_rows.frame_by_id(connection, wanted.frame_id):
            raise HTTPException(404, "There is no such frame. It may have been removed.")
        conditions = wanted.conditions or VisitConditions()
        if conditions.job_on is None:
            job_on = next_job_of(connection, wanted.body_id, date.today().isoformat())
            conditions = conditions.model_copy(update={"job_on": job_on})
        visit_id = visit_rows.open_visit(connection, wanted.body_id, conditions)
        if wanted.frame_id is not None:
            visit_rows.add_frame_entry(connection, visit_id, wanted.frame_id)
        recount(connection, visit_id)
    return _view(library, visit_id)


@router.get("/visits/{visit_id}")
def visit(visit_id: int, library: Shelf) -> VisitView:
    """One visit with its trail and the next move."""
    return _view(library, visit_id)


@router.put("/visits/{visit_id}/conditions")
def set_conditions(visit_id: int, conditions: VisitConditions, library: Shelf) -> VisitView:
    """Say why now, how the room is, how the camera is powered, whose hands, which job is next."""
    require_open(library, visit_id)
    with library.database.write() as connection:
        visit_rows.set_conditions(connection, visit_id, conditions)
    return _view(library, visit_id)


@router.post("/visits/{visit_id}/frames")
def add_existing(visit_id: int, wanted: ExistingFrame, library: Shelf) -> VisitView:
    """Put a frame that is here already onto the trail."""
    require_open(library, visit_id)
    with library.database.write() as connection:
        if not frame_rows.frame_by_id(connection, wanted.frame_id):
            raise HTTPException(404, "There is no such frame. It may have been removed.")
        visit_rows.add_frame_entry(connection, visit_id, wanted.frame_id)
        recount(connection, visit_id)
    return _view(library, visit_id)


@router.post("/visits/{visit_id}/trail/{entry_id}/accept")
def accept(visit_id: int, entry_id: int, library: Shelf) -> VisitView:
    """Take a questioned frame as this body's all the same."""
    require_open(library, visit_id)
    with library.database.write() as connection:
        visit_rows.accept_frame(connection, visit_id, entry_id)
        recount(connection, visit_id)
    return _view(library, visit_id)


@router.delete("/visits/{visit_id}/trail/{entry_id}")
def remove_entry(visit_id: int, entry_id: int, library: Shelf) -> VisitView:
    """Take an entry off the trail. A frame stays in the archive; a step's things go back."""
    require_open(library, visit_id)
    with library.database.write() as connection:
        if any(e.id == entry_id for e in visit_rows.trail_of(connection, visit_id)):
            kit_rows.give_back(connection, entry_id)
        visit_rows.remove_entry(connection, visit_id, entry_id)
        recount(connection, visit_id)
    return _view(library, visit_id)


@router.put("/visits/{visit_id}/trail/{entry_id}/use")
def correct_use(visit_id: int, entry_id: int, right: Correction, library: Shelf) -> VisitView:
    """Correct what a step used; the kit is put right with it."""
    require_open(library, visit_id)
    with library.database.write() as connection:
        case = Case(connection, visit_id)
        entry = next((e for e in case.trail if e.id == entry_id), None)
        if not isinstance(entry, TrailStep):
            raise HTTPException(404, "There is no such step on this trail. Was it undone?")
        correct_step(
            connection, visit_id, entry_id, case.visit.body_id, case.body, entry.step, right.use,
            taken=_takes(right.taken), recount=right.recount, narrower_ok=case.narrower_ok,
        )  # fmt: skip
    return _view(library, visit_id)


def _takes(named: list[Named] | None) -> list[Take] | None:
    return None if named is None else [Take(n.kit_id, n.amount) for n in named]


@router.get("/visits/{visit_id}/hazards")
def hazards(visit_id: int, step: Step, library: Shelf) -> Hazard:
    """What speaks against a step now; empty when nothing does."""
    with library.database.read() as connection:
        advice = advise(Case(connection, visit_id).facts())
    return Hazard(barred=[b for b in advice.barred if b.action == step])


@router.post("/visits/{visit_id}/steps", status_code=201)
def add_step(visit_id: int, done: NewStep, library: Shelf) -> VisitView:
    """Log a step. One that is barred now needs a reason, which is kept with it."""
    require_open(library, visit_id)
    with library.database.read() as connection:
        use = Case(connection, visit_id).usual_use(done.step, done.use)
    with library.database.write() as connection:
        case = Case(connection, visit_id)
        advice = advise(case.facts())
        barred = next((b for b in advice.barred if b.action == done.step), None)
        if barred is not None and not done.against.strip():
            raise HTTPException(
                409, f"{barred.text} Give the reason if it was, or shall be, done all the same."
            )
        log_step(
            connection, visit_id, case.visit.body_id, case.body, done.step, use,
            against=done.against.strip(), taken=_takes(done.taken), recount=done.recount,
            narrower_ok=case.narrower_ok,
        )  # fmt: skip
        _on_virtual_body(connection, case, done)
    return _view(library, visit_id)


def _on_virtual_body(connection: sqlite3.Connection, case: Case, done: NewStep) -> None:
    bench = bench_rows.bench_body(connection, case.visit.body_id)
    if bench is None:
        return
    conditions = case.visit.conditions
    cold = (conditions.temperature_c or 20) < 16 or (conditions.humidity_percent or 45) > 65
    handling = Handling(
        opening=done.use.opening, drops=done.use.drops, tip_bent=done.use.tip_bent,
        damp_or_cold=cold,
    )  # fmt: skip
    left = perform(bench.dust, done.step, handling, bench.camera.sensor_mm, bench.turn + 101)
    changed = bench_rows.BenchBody(bench.camera, left, bench.turn + 1)
    bench_rows.put_bench_body(connection, case.visit.body_id, changed)


@router.post("/visits/{visit_id}/shoot", status_code=202)
def shoot(
    visit_id: int, library: Shelf, runner: Jobs, f: Annotated[float, Query(ge=1.4, le=32)] = 22.0
) -> Job:
    """Shoot a test frame with the virtual camera; it arrives on the trail like any other."""
    require_open(library, visit_id)
    with library.database.write() as connection:
        found = visit_or_404(connection, visit_id)
        if bench_rows.bench_body(connection, found.body_id) is None:
            raise HTTPException(
                409, "This is a real camera. Shoot with it and drop the frame here."
            )
        job_id = job_rows.add_job(
            connection, "shoot", "Virtual camera", visit_id=visit_id,
            detail_json=json.dumps({"f_number": f}),
        )  # fmt: skip
        visit_rows.touch(connection, visit_id)
    runner.nudge()
    with library.database.read() as connection:
        job = job_rows.job_by_id(connection, job_id)
    assert job is not None
    return job_model(job)


@router.post("/visits/{visit_id}/close")
def close(visit_id: int, closing: Closing, library: Shelf) -> Closed:
    """End a visit with its verdict."""
    require_open(library, visit_id)
    if closing.verdict == "deferred" and closing.until is None:
        raise HTTPException(422, "until: say until when it is put off.")
    with library.database.write() as connection:
        recount(connection, visit_id)
        visit_rows.close_visit(connection, visit_id, closing.verdict, closing.note, closing.until)
        case = Case(connection, visit_id)
    steps = [e for e in case.trail if isinstance(e, TrailStep)]
    return Closed(
        visit=case.view(), words=list(closing_words(closing.verdict, case.visit.conditions, steps)),
        look_again_on=_look_again(closing.until, case.visit.conditions.job_on),
    )  # fmt: skip


def _look_again(until: str | None, job_on: str | None) -> str:
    """The put-off date, or two days before the next job, or two months on; whichever is sooner."""
    days = [date.today() + timedelta(days=_NEXT_LOOK_DAYS)]
    if until:
        days.append(date.fromisoformat(until))
    if job_on:
        days.append(max(date.today(), date.fromisoformat(job_on) - timedelta(days=2)))
    return min(days).isoformat()


@router.get("/visits/{visit_id}/events", response_class=EventSourceResponse)
async def events(visit_id: int, library: Shelf) -> AsyncIterator[ServerSentEvent]:
    """The visit's version whenever it changes, so that all pages stay in step."""
    last: int | None = None
    while True:
        current = await asyncio.to_thread(_version, library, visit_id)
        if current is None:
            return
        if current != last:
            last = current
            yield ServerSentEvent(data={"version": current}, event="visit")
        await asyncio.sleep(_POLL_S)


def _version(library: Library, visit_id: int) -> int | None:
    with library.database.read() as connection:
        return visit_rows.version_of(connection, visit_id)
