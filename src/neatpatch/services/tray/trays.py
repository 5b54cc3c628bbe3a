"""A camera on the tray: who may, where it stands, what is done next."""

from __future__ import annotations

import sqlite3

from neatpatch.core.advice import advise
from neatpatch.core.common.errors import BadArgumentError, ConflictError, NotThereError
from neatpatch.core.common.records import Record
from neatpatch.core.tray.plan import TrayPlan
from neatpatch.core.tray.steps import Done, TrayNow, corrected, objection, tray_now
from neatpatch.services.cases import Case, read_case
from neatpatch.services.existing import existing_visit, require_open
from neatpatch.services.trail import NewStep, add_step
from neatpatch.store.datafolder import Library
from neatpatch.store.tray import trays as rows

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
    case = read_case(library, visit_id)
    with library.database.read() as connection:
        return _view(connection, case)


def _view(connection: sqlite3.Connection, case: Case) -> TrayView:
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


def _why_not(case: Case) -> list[str]:
    if case.body.access != "fixed_lens":
        return ["The lens of this camera comes off: the tray is for compacts that do not open."]
    if advise(case.facts).decision == "teardown":
        return []
    facts = case.facts
    told = []
    if facts.operator.experience != "expert":
        told.append("Only for hands with repair skill: say so under Conditions, if it is so.")
    if facts.camera.under_guarantee is not False:
        told.append("The warranty must be known to have ended: say so with the camera.")
    if facts.schools.contact_by == "send_out":
        told.append("Your methods send contact work out.")
    if facts.operator.asks_for != "teardown":
        told.append("It is not what is advised: ask for it under Conditions, if you mean to.")
    return told or list(advise(facts).why)


def begin(library: Library, visit_id: int, model: str) -> TrayView:
    """Lay the camera on the tray, by the kept plan of its model."""
    case = read_case(library, visit_id)
    require_open(case.visit)
    against = _why_not(case)
    if against:
        raise ConflictError(" ".join(against))
    with library.database.write() as connection:
        plan = rows.plan_of(connection, model)
        if plan is None:
            raise NotThereError(f"There is no plan for {model}. Write it down first.")
        if rows.tray_of(connection, visit_id) is not None:
            raise ConflictError("This camera is on the tray already. Go on with it.")
        rows.put_tray(connection, visit_id, plan, ())
        return _view(connection, case)


def do_step(library: Library, visit_id: int, done: Done) -> TrayView:
    """Take the next step for done; with the last one the visit has its step."""
    with library.database.write() as connection:
        require_open(existing_visit(connection, visit_id))
        stored = _existing(connection, visit_id)
        if done in stored.done:
            pass
        else:
            against = objection(stored.plan, stored.done, done)
            if against:
                raise ConflictError(against)
            rows.put_tray(connection, visit_id, stored.plan, (*stored.done, done))
        now = tray_now(stored.plan, _existing(connection, visit_id).done)
    if now.step is None:
        _log(library, visit_id, now)
    return tray_view(library, visit_id)


def _log(library: Library, visit_id: int, now: TrayNow) -> None:
    """The camera was opened and is together again: the step of the visit, once."""
    told = " ".join(now.left) or "Worked through on the tray to its end."
    key = f"tray-of-visit-{visit_id}-{len(now.done)}"
    step = NewStep.model_validate(
        {"step": "teardown", "use": {"note": told[:400]}, "against": told}
    )
    add_step(library, visit_id, step, key)


def undo_step(library: Library, visit_id: int) -> TrayView:
    """Take the last step back; after the very last one nothing is taken back: the visit knows."""
    with library.database.write() as connection:
        require_open(existing_visit(connection, visit_id))
        stored = _existing(connection, visit_id)
        if tray_now(stored.plan, stored.done).step is None:
            raise ConflictError("It is finished, and on the trail of the visit. Undo it there.")
        rows.put_tray(connection, visit_id, stored.plan, stored.done[:-1])
    return tray_view(library, visit_id)


def correct_field(library: Library, visit_id: int, field: str, count: int) -> TrayView:
    """The camera has another number of screws there; kept for the next body of that model, too."""
    with library.database.write() as connection:
        require_open(existing_visit(connection, visit_id))
        stored = _existing(connection, visit_id)
        now = tray_now(stored.plan, stored.done)
        group = next((g for g in now.groups if g.field == field), None)
        if group is None:
            raise NotThereError(f"There is no field {field} on this tray.")
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
        require_open(existing_visit(connection, visit_id))
        stored = _existing(connection, visit_id)
        if step_id not in {s.id for s in tray_now(stored.plan, stored.done).steps}:
            raise NotThereError("There is no such step on this tray.")
        if sum(rows.photos_of(connection, visit_id).values()) >= _MOST_PHOTOS:
            raise ConflictError(
                f"There are {_MOST_PHOTOS} photographs already: that is all it holds."
            )
        rows.add_photo(connection, visit_id, step_id, jpeg)
    return tray_view(library, visit_id)


def photo(library: Library, visit_id: int, step_id: str, number: int) -> bytes:
    """One photograph. Raises `NotThereError` where there is none."""
    with library.database.read() as connection:
        found = rows.photo(connection, visit_id, step_id, number)
    if found is None:
        raise NotThereError("There is no such photograph.")
    return found


def existing_plan(library: Library, model: str) -> TrayPlan:
    """The plan of a model. Raises `NotThereError` where none is kept."""
    with library.database.read() as connection:
        plan = rows.plan_of(connection, model)
    if plan is None:
        raise NotThereError(f"There is no plan for {model}.")
    return plan


def _existing(connection: sqlite3.Connection, visit_id: int) -> rows.StoredTray:
    stored = rows.tray_of(connection, visit_id)
    if stored is None:
        raise NotThereError("This camera is not on the tray. Begin first.")
    return stored
