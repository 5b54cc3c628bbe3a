"""A camera on the tray: who may, where it stands, what is done next."""

from __future__ import annotations

import sqlite3

from neatpatch.core.advice import advise
from neatpatch.core.common.errors import BadArgumentError, ConflictError, NotThereError
from neatpatch.core.common.records import Record
from neatpatch.core.tray.plan import TrayPlan
from neatpatch.core.tray.steps import Done, TrayNow, corrected, objection, tray_now
from neatpatch.services.common.lookups import require_open, visit_or_refuse
from neatpatch.services.visits.loaded_visit import LoadedVisit, load_visit
from neatpatch.services.visits.trail import NewStep, add_step, hazards
from neatpatch.store import trays as rows
from neatpatch.store.datafolder import Library

MOST_PHOTO_BYTES = 1_000_000
_MOST_PHOTOS = 80
_JPEG = b"\xff\xd8\xff"


class PhotoCount(Record):
    """How many photographs a step has."""

    step_id: str
    count: int


class TrayView(Record):
    """The tray of a visit. ``why_not``: what speaks against opening this camera here, in
    sentences; empty when it may be. ``models``: plans that are kept. ``suggested``: the one for
    this camera, by its name. ``now``: None before it is begun.
    """

    why_not: tuple[str, ...]
    models: tuple[str, ...]
    suggested: str | None
    now: TrayNow | None
    photos: tuple[PhotoCount, ...]


def tray_view(library: Library, visit_id: int) -> TrayView:
    """Where the tray of a visit stands."""
    case = load_visit(library, visit_id)
    with library.database.read() as connection:
        return _view(connection, case)


def _view(connection: sqlite3.Connection, case: LoadedVisit) -> TrayView:
    stored = rows.tray_of(connection, case.visit.id)
    models = tuple(p.model for p in rows.plans(connection))
    names = {case.body.name, case.body.camera_name}
    return TrayView(
        why_not=tuple(_why_not(case)),
        models=models,
        suggested=next((m for m in models if m in names), None),
        now=tray_now(stored.plan, stored.done) if stored else None,
        photos=tuple(
            PhotoCount(step_id=s, count=n)
            for s, n in rows.photos_of(connection, case.visit.id).items()
        ),
    )


def _why_not(case: LoadedVisit) -> list[str]:
    if case.body.access != "fixed_lens":
        return [
            "The lens of this camera comes off: the tray is for compacts that do not open. Go by "
            "the next move of the visit."
        ]
    facts, advice = case.facts, advise(case.facts)
    if advice.decision == "teardown":
        return []
    told = []
    if facts.operator.experience != "expert":
        told.append("Only for hands with repair skill: say so under Conditions, if it is so.")
    if facts.camera.under_guarantee is not False:
        told.append("The warranty must be known to have ended: say so with the camera.")
    if facts.schools.contact_by == "send_out":
        told.append("Your methods send contact work out: change that under Methods first.")
    if facts.operator.asks_for != "teardown":
        told.append("It is not what is advised: ask for it below, if you mean to.")
    return told or list(advice.why)


def begin(library: Library, visit_id: int, model: str) -> TrayView:
    """Lay the camera on the tray, by the kept plan of its model."""
    case = load_visit(library, visit_id)
    require_open(case.visit)
    against = _why_not(case)
    if against:
        raise ConflictError(" ".join(against))
    with library.database.write() as connection:
        plan = rows.plan_of(connection, model)
        if plan is None:
            raise NotThereError(f"There is no plan for {model}. Write it down first.")
        if rows.tray_of(connection, visit_id) is not None:
            raise ConflictError(
                "This camera is on the tray already. Continue there, or put the tray away."
            )
        rows.put_tray(connection, visit_id, plan, ())
        return _view(connection, case)


def do_step(library: Library, visit_id: int, done: Done) -> TrayView:
    """Take the next step for done; with the last one the visit has its step.

    The visit's step comes first: whatever stops the server between the two, the last step of the
    tray is asked for again, and the visit's own is logged once.
    """
    with library.database.read() as connection:
        require_open(visit_or_refuse(connection, visit_id))
        stored = _existing(connection, visit_id)
    if done in stored.done:
        return tray_view(library, visit_id)
    _require_next(stored, done)
    after = tray_now(stored.plan, (*stored.done, done))
    if after.step is None:
        _log(library, visit_id, after, f"tray-{visit_id}-{stored.begun_at}")
    with library.database.write() as connection:
        stored = _existing(connection, visit_id)
        if done not in stored.done:
            _require_next(stored, done)
            rows.put_tray(connection, visit_id, stored.plan, (*stored.done, done))
    return tray_view(library, visit_id)


def _require_next(stored: rows.StoredTray, done: Done) -> None:
    against = objection(stored.plan, stored.done, done)
    if against:
        raise ConflictError(against)


def _log(library: Library, visit_id: int, now: TrayNow, key: str) -> None:
    """The camera was opened and is together again: the step of the visit, once for each tray."""
    told = " ".join(now.left)[:400]
    barred = bool(hazards(library, visit_id, "teardown"))
    step = {
        "step": "teardown",
        "use": {"note": told or None},
        "against": "It was on the tray already." if barred else "",
    }
    add_step(library, visit_id, NewStep.model_validate(step), key)


def undo_step(library: Library, visit_id: int) -> TrayView:
    """Take the last step back; after the very last one nothing is taken back: the visit knows."""
    with library.database.write() as connection:
        require_open(visit_or_refuse(connection, visit_id))
        stored = _existing(connection, visit_id)
        if tray_now(stored.plan, stored.done).step is None:
            raise ConflictError("It is finished, and on the trail of the visit. Undo it there.")
        rows.put_tray(connection, visit_id, stored.plan, stored.done[:-1])
    return tray_view(library, visit_id)


def correct_field(library: Library, visit_id: int, field: str, count: int) -> TrayView:
    """The camera has another number of screws there; kept for the next body of that model, too."""
    with library.database.write() as connection:
        require_open(visit_or_refuse(connection, visit_id))
        stored = _existing(connection, visit_id)
        now = tray_now(stored.plan, stored.done)
        group = next((g for g in now.groups if g.field == field), None)
        if group is None:
            raise NotThereError(f"There is no field {field} on this tray. Load the page anew.")
        if group.out is not None:
            raise ConflictError("Its screws are out and counted. Take that step back first.")
        plan = corrected(stored.plan, field, count)
        rows.put_tray(connection, visit_id, plan, stored.done)
        rows.keep_plan(connection, plan)
    return tray_view(library, visit_id)


def put_away(library: Library, visit_id: int) -> None:
    """Put the tray away: before the first screw is out, or when all is together again."""
    with library.database.write() as connection:
        stored = _existing(connection, visit_id)
        now = tray_now(stored.plan, stored.done)
        if now.step is not None and any(g.out is not None for g in now.groups):
            raise ConflictError("Screws are out. Put the camera together first, step by step.")
        rows.remove_tray(connection, visit_id)


def add_photo(library: Library, visit_id: int, step_id: str, jpeg: bytes) -> TrayView:
    """Keep a photograph of a step."""
    if not jpeg.startswith(_JPEG) or len(jpeg) > MOST_PHOTO_BYTES:
        raise BadArgumentError("A photograph must be a JPEG of at most one megabyte.")
    with library.database.write() as connection:
        require_open(visit_or_refuse(connection, visit_id))
        stored = _existing(connection, visit_id)
        if step_id not in {s.id for s in tray_now(stored.plan, stored.done).steps}:
            raise NotThereError("There is no such step on this tray. Load the page anew.")
        if sum(rows.photos_of(connection, visit_id).values()) >= _MOST_PHOTOS:
            raise ConflictError(
                f"There are {_MOST_PHOTOS} photographs already. Continue without: it holds no more."
            )
        rows.add_photo(connection, visit_id, step_id, jpeg)
    return tray_view(library, visit_id)


def photo(library: Library, visit_id: int, step_id: str, number: int) -> bytes:
    """One photograph. Raises `NotThereError` where there is none."""
    with library.database.read() as connection:
        found = rows.photo(connection, visit_id, step_id, number)
    if found is None:
        raise NotThereError("There is no such photograph. Was the tray put away?")
    return found


def existing_plan(library: Library, model: str) -> TrayPlan:
    """The plan of a model. Raises `NotThereError` where none is kept."""
    with library.database.read() as connection:
        plan = rows.plan_of(connection, model)
    if plan is None:
        raise NotThereError(
            f"There is no plan for {model}. Write it down on the tray's page first."
        )
    return plan


def _existing(connection: sqlite3.Connection, visit_id: int) -> rows.StoredTray:
    stored = rows.tray_of(connection, visit_id)
    if stored is None:
        raise NotThereError("This camera is not on the tray. Begin first.")
    return stored
