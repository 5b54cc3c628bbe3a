"""What is put on the trail of a visit, corrected there and taken off, in one transaction each."""

from __future__ import annotations

import sqlite3
from dataclasses import replace
from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from neatpatch.core.advice import advise
from neatpatch.core.common.decisions import Barred
from neatpatch.core.common.errors import ConflictError, NotThereError
from neatpatch.core.common.facts import Step
from neatpatch.core.common.records import Flag, Given, Number, RowId
from neatpatch.core.kit.stock import Take
from neatpatch.core.visit.body import VisitConditions
from neatpatch.core.visit.trail import StepUse, TrailStep
from neatpatch.services.common.fingerprints import join_body, match_of, request_match
from neatpatch.services.common.lookups import frame_or_refuse, require_open, visit_or_refuse
from neatpatch.services.kit.step_stock import LoggedStep, StepPlace, correct_step, log_step
from neatpatch.services.visits.loaded_visit import LoadedVisit, change_visit, load_visit, recount
from neatpatch.simulation.rungs import Handling, perform
from neatpatch.store import frames as frame_rows
from neatpatch.store import kit as kit_rows
from neatpatch.store import virtual_cameras as virtual_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.fingerprints import forget_reference
from neatpatch.store.hands import clear_place
from neatpatch.store.requests import claim_key, note_result, result_of

ODDS_SEED = 101
"""Added to the number of things done to a virtual camera: what its next odds are drawn by."""
_COLD_C = 16.0
_DAMP_PERCENT = 65.0
"""Fluid dries slowly below the one and above the other: streaks come easily, virtual ones too."""


class StockTake(Given):
    """So much of one kit item."""

    kit_id: RowId
    amount: Number = Field(ge=0, le=10_000)


def _each_once(taken: list[StockTake] | None) -> list[StockTake] | None:
    if taken is not None and len({t.kit_id for t in taken}) < len(taken):
        raise ValueError("each thing of the kit can be named once only")
    return taken


StockTakes = Annotated[list[StockTake] | None, AfterValidator(_each_once)]


class Correction(Given):
    """What a step really used, counted and of the kit.

    ``taken``: what it used of the kit, else the usual. ``recount``: there was more than counted.
    """

    use: StepUse
    taken: StockTakes = Field(default=None, max_length=20)
    recount: Flag = False


class NewStep(Correction):
    """A step that was done. ``against``: why, when it is not what was advised."""

    step: Step
    use: StepUse = StepUse()
    against: str = Field(default="", max_length=400)


def add_existing_frame(library: Library, visit_id: int, frame_id: int) -> None:
    """Put a frame that is here already onto the trail."""
    with library.database.write() as connection:
        require_open(visit_or_refuse(connection, visit_id))
        frame_or_refuse(connection, frame_id)
        join_body(connection, visit_id, frame_id)
        recount(library, connection, visit_id)


def _follow_sensor(connection: sqlite3.Connection, visit_id: int, entry_id: int) -> None:
    """A frame of another sensor that is this body's all the same: its reference starts again."""
    body_id = visit_or_refuse(connection, visit_id).body_id
    entries = visit_rows.trail_of(connection, visit_id)
    frame_id = next((e.frame_id for e in entries if e.id == entry_id), None)
    match = None if frame_id is None else match_of(connection, frame_id, body_id)
    if frame_id is None:
        return
    if match is not None and match.same is False:
        forget_reference(connection, body_id)
    request_match(connection, frame_id)


def accept_frame(library: Library, visit_id: int, entry_id: int) -> None:
    """Take a questioned frame as this body's all the same."""
    with library.database.write() as connection:
        require_open(visit_or_refuse(connection, visit_id))
        if not _has_entry(connection, visit_id, entry_id):
            raise NotThereError("There is no such entry on this trail. Was it undone?")
        visit_rows.accept_frame(connection, visit_id, entry_id)
        _follow_sensor(connection, visit_id, entry_id)
        recount(library, connection, visit_id)


def explain_frame(
    library: Library, visit_id: int, entry_id: int, explained: Literal["session", "target"]
) -> None:
    """Keep the user's word on why a frame has nothing in common with the one before it."""
    with library.database.write() as connection:
        _require_open_entry(connection, visit_id, entry_id)
        visit_rows.explain_frame(connection, visit_id, entry_id, explained)


def send_elsewhere(library: Library, visit_id: int, entry_id: int) -> None:
    """Take a frame of another camera off the trail; its owner is asked whose it is."""
    with library.database.write() as connection:
        frame_id = _require_open_entry(connection, visit_id, entry_id)
        visit_rows.remove_entry(connection, visit_id, entry_id, ())
        frame_rows.seek_camera(connection, frame_id, None)
        recount(library, connection, visit_id)


def _require_open_entry(connection: sqlite3.Connection, visit_id: int, entry_id: int) -> int:
    """The frame of an entry on an open visit's trail."""
    require_open(visit_or_refuse(connection, visit_id))
    entries = visit_rows.trail_of(connection, visit_id)
    frame_id = next((e.frame_id for e in entries if e.id == entry_id), None)
    if frame_id is None:
        raise NotThereError("There is no such frame on this trail. Was it removed?")
    return frame_id


def remove_entry(library: Library, visit_id: int, entry_id: int) -> None:
    """Take an entry off the trail. A frame stays in the archive; a step's things go back.

    An entry that is gone already is gone: asking twice does no harm.
    """
    with library.database.write() as connection:
        require_open(visit_or_refuse(connection, visit_id))
        if _has_entry(connection, visit_id, entry_id):
            taken = kit_rows.give_back(connection, entry_id)
            visit_rows.remove_entry(connection, visit_id, entry_id, taken)
            recount(library, connection, visit_id)


def restore_entry(library: Library, visit_id: int, entry_id: int) -> None:
    """Put back what was taken off the trail, in its place; its step takes its things again.

    An entry that is on the trail already stays.
    """
    with library.database.write() as connection:
        visit = visit_or_refuse(connection, visit_id)
        require_open(visit)
        if _has_entry(connection, visit_id, entry_id):
            return
        taken = visit_rows.put_back(connection, visit_id, entry_id)
        if taken is None:
            raise NotThereError("There is nothing to put back. Its frame may have been deleted.")
        user = kit_rows.User(trail_id=entry_id, visit_id=visit_id, body_id=visit.body_id)
        kit_rows.take(connection, taken, user)
        recount(library, connection, visit_id)


def _has_entry(connection: sqlite3.Connection, visit_id: int, entry_id: int) -> bool:
    return any(e.id == entry_id for e in visit_rows.trail_of(connection, visit_id))


def hazards(library: Library, visit_id: int, step: Step) -> list[Barred]:
    """What speaks against a step now; empty when nothing does."""
    return _barring(load_visit(library, visit_id), step)


def _barring(case: LoadedVisit, step: Step) -> list[Barred]:
    return [b for b in advise(case.facts).barred if b.action == step]


def add_step(
    library: Library, visit_id: int, done: NewStep, key: str | None, who: str = ""
) -> None:
    """Log a step, by ``who`` where a paired device says so. One that is barred now needs a reason,
    which is kept with it.

    The same step under the same key is logged once, however often it is sent; another one under it
    raises `KeyReusedError`.
    """
    what = f"{done.step} on visit {visit_id}"
    with library.database.read() as connection:
        visit_or_refuse(connection, visit_id)
        if result_of(connection, key, what) is not None:
            return

    def judge(case: LoadedVisit) -> StepUse:
        barred = _barring(case, done.step)
        if barred and not done.against.strip():
            raise ConflictError(
                f"{barred[0].text} Give the reason if it was, or shall be, done anyway."
            )
        return case.usual_use(done.step, done.use)

    def act(connection: sqlite3.Connection, case: LoadedVisit, use: StepUse) -> None:
        if claim_key(connection, key, what):
            logged = replace(_done(done, done.step, use), who=who)
            entry_id = log_step(connection, _place(case), logged)
            note_result(connection, key, entry_id)
            clear_place(connection, visit_id)
            _on_virtual_body(connection, case, done)

    change_visit(library, visit_id, judge, act)


def correct_use(library: Library, visit_id: int, entry_id: int, right: Correction) -> None:
    """Correct what a step used; the kit is put right with it."""

    def act(connection: sqlite3.Connection, case: LoadedVisit, _judged: None) -> None:
        entry = next((e for e in case.trail if e.id == entry_id), None)
        if not isinstance(entry, TrailStep):
            raise NotThereError("There is no such step on this trail. Was it undone?")
        correct_step(connection, _place(case), entry_id, _done(right, entry.step, right.use))

    change_visit(library, visit_id, lambda _case: None, act)


def _place(case: LoadedVisit) -> StepPlace:
    return StepPlace(
        visit_id=case.visit.id,
        body_id=case.visit.body_id,
        body=case.body,
        narrower_ok=case.narrower_ok,
    )


def _done(given: Correction, step: Step, use: StepUse) -> LoggedStep:
    taken = given.taken
    return LoggedStep(
        step=step,
        use=use,
        against=given.against.strip() if isinstance(given, NewStep) else "",
        taken=None if taken is None else [Take(t.kit_id, t.amount) for t in taken],
        recount=given.recount,
    )


def damp_or_cold(room: VisitConditions) -> bool:
    """Whether fluid dries slowly in a room; one that nobody measured is an ordinary one."""
    cold = room.temperature_c is not None and room.temperature_c < _COLD_C
    damp = room.humidity_percent is not None and room.humidity_percent > _DAMP_PERCENT
    return cold or damp


def _on_virtual_body(connection: sqlite3.Connection, case: LoadedVisit, done: NewStep) -> None:
    """Let the dust of a virtual camera feel the step."""
    virtual = virtual_rows.virtual_camera_of(connection, case.visit.body_id)
    if virtual is None:
        return
    room = case.visit.conditions
    handling = Handling(
        opening=done.use.opening,
        drops=done.use.drops,
        tip_bent=done.use.tip_bent,
        damp_or_cold=damp_or_cold(room),
    )
    left = perform(
        virtual.dust, done.step, handling, virtual.camera.sensor_mm, virtual.turn + ODDS_SEED
    )
    changed = virtual_rows.VirtualCamera(virtual.camera, left, virtual.turn + 1)
    virtual_rows.put_virtual_camera(connection, case.visit.body_id, changed)
