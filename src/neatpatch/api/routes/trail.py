"""The trail of a visit: frames and steps put on it, corrected and taken off."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel

from neatpatch.api.common.deps import Id, LibraryDep, RequestKey, WhoDep
from neatpatch.core.common.decisions import Barred
from neatpatch.core.common.facts import Step
from neatpatch.core.common.records import Given, RowId
from neatpatch.services.visits import trail
from neatpatch.services.visits.loaded_visit import load_visit
from neatpatch.services.visits.trail import Correction, NewStep
from neatpatch.services.visits.view_records import VisitView
from neatpatch.services.visits.visit_view import visit_view

router = APIRouter(prefix="/api/visits/{visit_id}")


class ExistingFrame(Given):
    """A frame that is here already."""

    frame_id: RowId


class Hazard(BaseModel):
    """What speaks against a step now."""

    barred: list[Barred]


@router.post("/frames")
def add_existing(visit_id: Id, wanted: ExistingFrame, library: LibraryDep) -> VisitView:
    """Put a frame that is here already onto the trail."""
    trail.add_existing_frame(library, visit_id, wanted.frame_id)
    return visit_view(load_visit(library, visit_id))


@router.post("/trail/{entry_id}/accept")
def accept(visit_id: Id, entry_id: Id, library: LibraryDep) -> VisitView:
    """Take a questioned frame as this body's all the same."""
    trail.accept_frame(library, visit_id, entry_id)
    return visit_view(load_visit(library, visit_id))


class Explained(Given):
    """Why a frame has nothing in common with the one before it."""

    why: Literal["camera", "session", "target"]


@router.post("/trail/{entry_id}/explain")
def explain(visit_id: Id, entry_id: Id, given: Explained, library: LibraryDep) -> VisitView:
    """Say why a frame has nothing in common with the one before it.

    ``camera``: it is another camera's and leaves the visit; its camera is asked for. ``session``:
    the camera was cleaned or used in between. ``target``: the marks are the target's.
    """
    if given.why == "camera":
        trail.send_elsewhere(library, visit_id, entry_id)
    else:
        trail.explain_frame(library, visit_id, entry_id, given.why)
    return visit_view(load_visit(library, visit_id))


@router.delete("/trail/{entry_id}")
def remove_entry(visit_id: Id, entry_id: Id, library: LibraryDep) -> VisitView:
    """Take an entry off the trail. A frame stays in the archive; a step's things go back.

    An entry that is gone already is gone: asking twice does no harm.
    """
    trail.remove_entry(library, visit_id, entry_id)
    return visit_view(load_visit(library, visit_id))


@router.post("/trail/{entry_id}/restore")
def restore(visit_id: Id, entry_id: Id, library: LibraryDep) -> VisitView:
    """Put back what was taken off the trail, in its place; its step takes its things again."""
    trail.restore_entry(library, visit_id, entry_id)
    return visit_view(load_visit(library, visit_id))


@router.put("/trail/{entry_id}/use")
def correct_use(visit_id: Id, entry_id: Id, right: Correction, library: LibraryDep) -> VisitView:
    """Correct what a step used; the kit is put right with it."""
    trail.correct_use(library, visit_id, entry_id, right)
    return visit_view(load_visit(library, visit_id))


@router.get("/hazards")
def hazards(visit_id: Id, step: Step, library: LibraryDep) -> Hazard:
    """What speaks against a step now; empty when nothing does."""
    return Hazard(barred=trail.hazards(library, visit_id, step))


@router.post("/steps", status_code=201)
def add_step(
    visit_id: Id, done: NewStep, library: LibraryDep, who: WhoDep, key: RequestKey = None
) -> VisitView:
    """Log a step. One that is barred now needs a reason, which is kept with it.

    The same step under the same key is logged once, however often it is sent.
    """
    trail.add_step(library, visit_id, done, key, who.name if who else "")
    return visit_view(load_visit(library, visit_id))
