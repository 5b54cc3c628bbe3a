"""Takes what the demo's worker sends into the library: frames, visits, drawer, calendar."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from datetime import date, timedelta

from neatpatch.core.common.moments import day_of
from neatpatch.demo.compact import COMPACT_CAMERA, COMPACT_PLAN, compact_body, compact_dust
from neatpatch.demo.drawer import (
    DEMO_EXPOSURES,
    DEMO_PRICES,
    DEMO_SERVICE,
    demo_jobs,
    demo_kit,
)
from neatpatch.demo.visits import CALENDAR, DemoVisit
from neatpatch.services.common.settings import PRICES, SERVICE
from neatpatch.services.frames.virtual_shots import take_in_virtual_frame
from neatpatch.services.kit.step_stock import LoggedStep, StepPlace, log_step
from neatpatch.services.visits.loaded_visit import recount
from neatpatch.simulation.frames import ShotFrame
from neatpatch.store import bodies as body_rows
from neatpatch.store import bookings as booking_rows
from neatpatch.store import exposures as exposure_rows
from neatpatch.store import kit as kit_rows
from neatpatch.store import virtual_cameras as virtual_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.settings import put_record
from neatpatch.store.trays import keep_plan, plan_of
from neatpatch.store.visits import VisitEnd


def take_in_demo_visit(library: Library, message: DemoVisit, today: date) -> None:
    """Add one visit of the made-up archive and its frames; with the first, bodies and drawer."""
    frames = [
        take_in_virtual_frame(library, e) for e in message.entries if isinstance(e, ShotFrame)
    ]
    with library.database.write() as connection:
        body_id = _demo_bodies(connection, today)[message.body.body.name]
        known = {v.opened_at for v in visit_rows.visits_of(connection, body_id, count=200)}
        if message.opened_at in known:
            return
        visit_id = visit_rows.open_visit(connection, body_id, message.conditions, message.opened_at)
        waiting = iter(frames)
        for entry in message.entries:
            if isinstance(entry, ShotFrame):
                visit_rows.add_frame_entry(connection, visit_id, next(waiting), entry.at)
            else:
                log_step(
                    connection,
                    StepPlace(visit_id=visit_id, body_id=body_id, body=message.body.body),
                    LoggedStep(step=entry.step, use=entry.use, at=entry.at, recount=True),
                )
        if message.verdict is not None:
            visit_rows.close_visit(connection, visit_id, _end(message))
        bench = virtual_rows.VirtualCamera(message.body.camera, message.dust_left, 50)
        virtual_rows.put_virtual_camera(connection, body_id, bench)
        recount(library, connection, visit_id)


def _end(message: DemoVisit) -> VisitEnd:
    """How a visit of the archive ended; the next look is two months on."""
    assert message.verdict is not None
    day = day_of(message.opened_at)
    return VisitEnd(
        verdict=message.verdict,
        note=message.note,
        look_again_on=(day + timedelta(days=60)).isoformat(),
        closed_at=message.closed_at,
    )


def _demo_bodies(connection: sqlite3.Connection, today: date) -> dict[str, int]:
    """Ids of the archive's bodies by name; the first time they are added, with all that is theirs.

    A body that was removed since is added again; its kit and jobs are not.
    """
    names = [demo_body.body.name for demo_body, _ in CALENDAR]
    known = {b.body.name: b.id for b in body_rows.all_bodies(connection) if b.body.name in names}
    ids = {
        d.body.name: known.get(d.body.name) or body_rows.add_body(connection, d.body, "demo")
        for d, _ in CALENDAR
    }
    if not known:
        _fill_drawer(connection, [ids[name] for name in names], today)
        _add_compact(connection)
    return ids


def _add_compact(connection: sqlite3.Connection) -> None:
    """The compact with its plan; nobody has opened it yet."""
    if plan_of(connection, COMPACT_PLAN.model) is not None:
        return
    body_id = body_rows.add_body(connection, compact_body(), "demo")
    bench = virtual_rows.VirtualCamera(COMPACT_CAMERA, compact_dust(), 50)
    virtual_rows.put_virtual_camera(connection, body_id, bench)
    keep_plan(connection, COMPACT_PLAN)


def _fill_drawer(connection: sqlite3.Connection, ids: Sequence[int], today: date) -> None:
    """Kit, prices and jobs of the archive, where the owner has entered none."""
    if not kit_rows.all_items(connection):
        begun = (today - timedelta(days=365)).isoformat()
        for owned in demo_kit(today):
            suits = None if owned.suits is None else tuple(ids[p - 1] for p in owned.suits)
            kit_rows.add_item(connection, owned.model_copy(update={"suits": suits}), begun)
        put_record(connection, PRICES, DEMO_PRICES)
        put_record(connection, SERVICE, DEMO_SERVICE)
    for e in DEMO_EXPOSURES:
        day = today - timedelta(days=e.days_ago)
        exposure_rows.add_exposure(connection, ids[e.body - 1], day, e.kind, e.place)
    for job in demo_jobs(today):
        mine = tuple(ids[p - 1] for p in job.body_ids)
        booking_rows.add_booking(connection, job.model_copy(update={"body_ids": mine}))
