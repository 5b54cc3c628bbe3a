"""A step onto a trail, and what it takes from the kit, in one transaction."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from neatpatch.core.common.errors import QuestionError
from neatpatch.core.common.facts import Step
from neatpatch.core.common.moments import day_of
from neatpatch.core.kit.readiness import CleaningHabits, Readiness, readiness
from neatpatch.core.kit.stock import (
    KitEntry,
    KitFit,
    Take,
    Taking,
    chosen,
    shortage_question,
    taking,
)
from neatpatch.core.visit.body import Body
from neatpatch.core.visit.trail import StepUse
from neatpatch.services.common.settings import usual_schools, usual_service
from neatpatch.store import bookings as booking_rows
from neatpatch.store import kit as kit_rows
from neatpatch.store import visits as visit_rows

SHORT_STOCK = "neatpatch:short-stock"


@dataclass(frozen=True, kw_only=True)
class StepPlace:
    """Where a step is logged: the visit, and the body it is of.

    ``narrower_ok``: the method of this visit takes narrower swabs, too.
    """

    visit_id: int
    body_id: int
    body: Body
    narrower_ok: bool = False


@dataclass(frozen=True, kw_only=True)
class LoggedStep:
    """A step and what it used.

    ``taken`` says what it took of the kit, else the usual is taken. ``recount``: where the count
    does not reach, there was more than counted; otherwise that is asked first. ``at``: when, by
    the clock of the one who logs it, None for now. ``who``: a paired device's name for its user.
    """

    step: Step
    use: StepUse
    against: str = ""
    taken: Sequence[Take] | None = None
    recount: bool = False
    at: str | None = None
    who: str = ""


def readiness_now(connection: sqlite3.Connection, today: date) -> Readiness:
    """Booked jobs from a day on: bodies, kit, time, and one list to buy."""
    jobs = booking_rows.list_bookings(connection, today.isoformat())
    ids = sorted({i for job in jobs for i in job.body_ids})
    return readiness(
        jobs,
        booking_rows.bodies_now(connection, ids),
        kit_now(connection),
        CleaningHabits(
            schools=usual_schools(connection),
            service=usual_service(connection),
            patches=kit_rows.patches_a_visit(connection),
        ),
        today,
    )


def kit_now(connection: sqlite3.Connection) -> list[tuple[int, KitEntry]]:
    """The whole kit by ids."""
    return [(k.id, k.owned) for k in kit_rows.all_items(connection)]


def log_step(connection: sqlite3.Connection, place: StepPlace, done: LoggedStep) -> int:
    """Put a step on a trail and take what it used; gives its id.

    Raises `QuestionError`, and writes nothing, where more is taken than is counted.
    """
    taken = _taking(connection, place, done)
    entry_id = visit_rows.add_step_entry(
        connection, place.visit_id, done.step, done.use, done.against, done.at, done.who
    )
    _take(connection, place, entry_id, taken, done.at)
    return entry_id


def correct_step(
    connection: sqlite3.Connection, place: StepPlace, entry_id: int, done: LoggedStep
) -> None:
    """Write again what a step used: its things go back first, then the right ones are taken."""
    kit_rows.give_back(connection, entry_id)
    taken = _taking(connection, place, done)
    visit_rows.change_use(connection, place.visit_id, entry_id, done.use)
    _take(connection, place, entry_id, taken)


def _taking(connection: sqlite3.Connection, place: StepPlace, done: LoggedStep) -> Taking:
    kit = kit_now(connection)
    if done.taken is None:
        fit = KitFit(
            body_id=place.body_id,
            access=place.body.access,
            short_side_mm=min(place.body.sensor_mm),
            on=day_of(done.at) if done.at else date.today(),
            narrower_ok=place.narrower_ok,
            fluid=done.use.fluid,
        )
        taken = taking(kit, done.step, done.use, fit)
    else:
        taken = chosen(kit, done.taken)
    if taken.short and not done.recount:
        raise QuestionError(SHORT_STOCK, shortage_question(taken.short))
    return taken


def _take(
    connection: sqlite3.Connection,
    place: StepPlace,
    entry_id: int,
    taken: Taking,
    at: str | None = None,
) -> None:
    """Take all that was used: what was counted, and what was there beyond the count."""
    amounts = {t.kit_id: t.amount for t in taken.takes}
    for s in taken.short:
        amounts[s.kit_id] = amounts.get(s.kit_id, 0.0) + s.wanted - s.left
    user = kit_rows.User(trail_id=entry_id, visit_id=place.visit_id, body_id=place.body_id)
    kit_rows.take(connection, [Take(k, amount) for k, amount in amounts.items()], user, at)
