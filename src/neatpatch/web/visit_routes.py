"""Routes of visits: begin, trail, next move, guidance, compare, close."""

from __future__ import annotations

import asyncio
import json
import sqlite3
from collections.abc import AsyncIterator
from datetime import date, timedelta
from typing import Annotated

from fastapi import APIRouter, Depends, Query
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import AfterValidator, BaseModel, Field

from neatpatch.core.advice import advise
from neatpatch.core.advice.facts import Step
from neatpatch.core.advice.records import Barred
from neatpatch.core.errors import BadArgumentError, ConflictError, NotThereError
from neatpatch.core.records import Day, Flag, Given, Number, RowId
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
from neatpatch.store import jobs as job_rows
from neatpatch.store import kit as kit_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.bodies import name_of
from neatpatch.store.bookings import next_job_of
from neatpatch.store.database import day_text
from neatpatch.store.datafolder import Library
from neatpatch.store.jobs import NewJob
from neatpatch.store.requests import first_time, note_result, result_of
from neatpatch.store.visits import StoredEntry
from neatpatch.web.casework import (
    Case,
    body_or_404,
    change_visit,
    frame_or_404,
    read_case,
    recount,
    require_open,
    visit_or_404,
)
from neatpatch.web.deps import (
    Id,
    Jobs,
    LibraryDep,
    RequestKey,
    SeenVersion,
    StreamsDep,
    require_seen,
)
from neatpatch.web.models import Job, job_model
from neatpatch.web.stocking import correct_step, log_step
from neatpatch.web.visit_views import VisitView

router = APIRouter(prefix="/api")
_POLL_S = 0.25
_NEXT_LOOK_DAYS = 60


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


class StockUse(Given):
    """So much of one thing of the kit."""

    kit_id: RowId
    amount: Number = Field(ge=0, le=10_000)


def _each_once(taken: list[StockUse] | None) -> list[StockUse] | None:
    if taken is not None and len({t.kit_id for t in taken}) < len(taken):
        raise ValueError("each thing of the kit can be named once only")
    return taken


StockUses = Annotated[list[StockUse] | None, AfterValidator(_each_once)]


class NewStep(Given):
    """A step that was done. ``against``: why, when it is not what was advised.

    ``taken``: what it used of the kit, else the usual. ``recount``: there was more than counted.
    """

    step: Step
    use: StepUse = StepUse()
    against: str = Field(default="", max_length=400)
    taken: StockUses = Field(default=None, max_length=20)
    recount: Flag = False


class Correction(Given):
    """What a step really used, counted and of the kit."""

    use: StepUse
    taken: StockUses = Field(default=None, max_length=20)
    recount: Flag = False


class ExistingFrame(Given):
    """A frame that is here already."""

    frame_id: RowId


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


class Hazard(BaseModel):
    """What speaks against a step now."""

    barred: list[Barred]


def _view(library: Library, visit_id: int) -> VisitView:
    return read_case(library, visit_id).view()


@router.get("/visits")
def open_visits(library: LibraryDep) -> list[OpenVisit]:
    """All open visits, the newest first."""
    with library.database.read() as connection:
        names = name_of(connection)
        return [
            OpenVisit(
                id=v.id, body_id=v.body_id, opened_at=v.opened_at, body_name=names[v.body_id],
                why_now=v.conditions.why_now, first_relevant=v.first_relevant,
                last_relevant=v.last_relevant,
            )
            for v in visit_rows.open_visits(connection)
        ]  # fmt: skip


@router.post("/visits", status_code=201)
def begin(wanted: NewVisit, library: LibraryDep) -> VisitView:
    """Begin a visit. A body has at most one open."""
    with library.database.write() as connection:
        body = body_or_404(connection, wanted.body_id)
        if visit_rows.open_visit_of(connection, wanted.body_id) is not None:
            raise ConflictError(f"{body.body.name} has an open visit. Go on with that one.")
        if wanted.frame_id is not None:
            frame_or_404(connection, wanted.frame_id)
        conditions = wanted.conditions or VisitConditions()
        if conditions.job_on is None:
            job_on = next_job_of(connection, wanted.body_id, date.today().isoformat())
            conditions = conditions.model_copy(update={"job_on": job_on})
        visit_id = visit_rows.open_visit(connection, wanted.body_id, conditions)
        if wanted.frame_id is not None:
            visit_rows.add_frame_entry(connection, visit_id, wanted.frame_id)
        recount(library, connection, visit_id)
    return _view(library, visit_id)


@router.get("/visits/{visit_id}")
def visit(visit_id: Id, library: LibraryDep) -> VisitView:
    """One visit with its trail and the next move."""
    return _view(library, visit_id)


@router.put("/visits/{visit_id}/conditions")
def set_conditions(
    visit_id: Id, conditions: VisitConditions, library: LibraryDep, seen: SeenVersion
) -> VisitView:
    """Say why now, how the room is, how the camera is powered, whose hands, which job is next."""
    with library.database.write() as connection:
        kept = visit_or_404(connection, visit_id)
        require_open(kept)
        require_seen(seen, kept.conditions_version, kept.conditions, conditions)
        visit_rows.set_conditions(connection, visit_id, conditions)
    return _view(library, visit_id)


@router.post("/visits/{visit_id}/frames")
def add_existing(visit_id: Id, wanted: ExistingFrame, library: LibraryDep) -> VisitView:
    """Put a frame that is here already onto the trail."""
    with library.database.write() as connection:
        require_open(visit_or_404(connection, visit_id))
        frame_or_404(connection, wanted.frame_id)
        visit_rows.add_frame_entry(connection, visit_id, wanted.frame_id)
        recount(library, connection, visit_id)
    return _view(library, visit_id)


@router.post("/visits/{visit_id}/trail/{entry_id}/accept")
def accept(visit_id: Id, entry_id: Id, library: LibraryDep) -> VisitView:
    """Take a questioned frame as this body's all the same."""
    with library.database.write() as connection:
        require_open(visit_or_404(connection, visit_id))
        _entry_or_404(connection, visit_id, entry_id)
        visit_rows.accept_frame(connection, visit_id, entry_id)
        recount(library, connection, visit_id)
    return _view(library, visit_id)


def _entry_or_404(connection: sqlite3.Connection, visit_id: int, entry_id: int) -> StoredEntry:
    entries = visit_rows.trail_of(connection, visit_id)
    found = next((e for e in entries if e.id == entry_id), None)
    if found is None:
        raise NotThereError("There is no such entry on this trail. Was it undone?")
    return found


@router.delete("/visits/{visit_id}/trail/{entry_id}")
def remove_entry(visit_id: Id, entry_id: Id, library: LibraryDep) -> VisitView:
    """Take an entry off the trail. A frame stays in the archive; a step's things go back.

    An entry that is gone already is gone: asking twice does no harm.
    """
    with library.database.write() as connection:
        require_open(visit_or_404(connection, visit_id))
        if any(e.id == entry_id for e in visit_rows.trail_of(connection, visit_id)):
            kit_rows.give_back(connection, entry_id)
            visit_rows.remove_entry(connection, visit_id, entry_id)
            recount(library, connection, visit_id)
    return _view(library, visit_id)


@router.put("/visits/{visit_id}/trail/{entry_id}/use")
def correct_use(visit_id: Id, entry_id: Id, right: Correction, library: LibraryDep) -> VisitView:
    """Correct what a step used; the kit is put right with it."""

    def act(connection: sqlite3.Connection, case: Case, _judged: None) -> None:
        entry = next((e for e in case.trail if e.id == entry_id), None)
        if not isinstance(entry, TrailStep):
            raise NotThereError("There is no such step on this trail. Was it undone?")
        correct_step(
            connection, visit_id, entry_id, case.visit.body_id, case.body, entry.step, right.use,
            taken=_takes(right.taken), recount=right.recount, narrower_ok=case.narrower_ok,
        )  # fmt: skip

    change_visit(library, visit_id, lambda _case: None, act)
    return _view(library, visit_id)


def _takes(named: list[StockUse] | None) -> list[Take] | None:
    return None if named is None else [Take(n.kit_id, n.amount) for n in named]


@router.get("/visits/{visit_id}/hazards")
def hazards(visit_id: Id, step: Step, library: LibraryDep) -> Hazard:
    """What speaks against a step now; empty when nothing does."""
    advice = advise(read_case(library, visit_id).facts)
    return Hazard(barred=[b for b in advice.barred if b.action == step])


@router.post("/visits/{visit_id}/steps", status_code=201)
def add_step(visit_id: Id, done: NewStep, library: LibraryDep, key: RequestKey = None) -> VisitView:
    """Log a step. One that is barred now needs a reason, which is kept with it.

    The same step under the same key is logged once, however often it is sent.
    """
    what = f"step of visit {visit_id}"
    with library.database.read() as connection:
        if result_of(connection, key) is not None:
            visit_or_404(connection, visit_id)
            return _view(library, visit_id)

    def judge(case: Case) -> StepUse:
        barred = next((b for b in advise(case.facts).barred if b.action == done.step), None)
        if barred is not None and not done.against.strip():
            raise ConflictError(
                f"{barred.text} Give the reason if it was, or shall be, done all the same."
            )
        return case.usual_use(done.step, done.use)

    def act(connection: sqlite3.Connection, case: Case, use: StepUse) -> None:
        if not first_time(connection, key, what):
            return
        entry_id = log_step(
            connection, visit_id, case.visit.body_id, case.body, done.step, use,
            against=done.against.strip(), taken=_takes(done.taken), recount=done.recount,
            narrower_ok=case.narrower_ok,
        )  # fmt: skip
        note_result(connection, key, entry_id)
        _on_virtual_body(connection, case, done)

    change_visit(library, visit_id, judge, act)
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
    visit_id: Id, library: LibraryDep, runner: Jobs,
    f: Annotated[float, Query(ge=1.4, le=32)] = 22.0, key: RequestKey = None,
) -> Job:  # fmt: skip
    """Shoot a test frame with the virtual camera; it arrives on the trail like any other."""
    with library.database.write() as connection:
        found = visit_or_404(connection, visit_id)
        require_open(found)
        if bench_rows.bench_body(connection, found.body_id) is None:
            raise ConflictError("This is a real camera. Shoot with it and drop the frame here.")
        job_id = result_of(connection, key)
        if first_time(connection, key, f"shot of visit {visit_id}") or job_id is None:
            job_id = job_rows.add_job(
                connection,
                NewJob(
                    kind="shoot", label="Virtual camera", visit_id=visit_id,
                    detail_json=json.dumps({"f_number": f}),
                ),
            )  # fmt: skip
            note_result(connection, key, job_id)
        visit_rows.touch(connection, visit_id)
        job = job_rows.job_by_id(connection, job_id)
    runner.nudge()
    if job is None:
        raise NotThereError("There is no such job. Its visit may have been removed.")
    return job_model(job)


@router.post("/visits/{visit_id}/close")
def close(visit_id: Id, closing: Closing, library: LibraryDep) -> Closed:
    """End a visit with its verdict."""
    if closing.verdict == "deferred" and closing.until is None:
        raise BadArgumentError("until: say until when it is put off.")
    until = day_text(closing.until)
    with library.database.write() as connection:
        require_open(visit_or_404(connection, visit_id))
        recount(library, connection, visit_id)
        visit_rows.close_visit(connection, visit_id, closing.verdict, closing.note, until)
    case = read_case(library, visit_id)
    steps = [e for e in case.trail if isinstance(e, TrailStep)]
    return Closed(
        visit=case.view(), words=list(closing_words(closing.verdict, case.visit.conditions, steps)),
        look_again_on=_look_again(closing.until, case.visit.conditions.job_on),
    )  # fmt: skip


def _look_again(until: date | None, job_on: date | None) -> str:
    """The put-off date, or two days before the next job, or two months on; whichever is sooner."""
    days = [date.today() + timedelta(days=_NEXT_LOOK_DAYS)]
    if until:
        days.append(until)
    if job_on:
        days.append(max(date.today(), job_on - timedelta(days=2)))
    return min(days).isoformat()


def followed_visit(visit_id: Id, library: LibraryDep, streams: StreamsDep) -> int:
    """A visit that is there to be followed, told before the stream begins."""
    with library.database.read() as connection:
        visit_or_404(connection, visit_id)
    streams.require_room()
    return visit_id


@router.get("/visits/{visit_id}/events", response_class=EventSourceResponse)
async def events(
    visit_id: Annotated[int, Depends(followed_visit)], library: LibraryDep, streams: StreamsDep
) -> AsyncIterator[ServerSentEvent]:
    """The visit's version whenever it changes, so that all pages stay in step."""

    async def look() -> int | None:
        return await asyncio.to_thread(_version, library, visit_id)

    async for current in streams.follow(look, _POLL_S):
        if current is None:
            return
        yield ServerSentEvent(data={"version": current}, event="visit")


def _version(library: Library, visit_id: int) -> int | None:
    with library.database.read() as connection:
        return visit_rows.version_of(connection, visit_id)
