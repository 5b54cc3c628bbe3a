"""Ready for a booked job? Bodies looked at, the kit complete, and whether there is still time.

For each booked body one full climb of its ladder is held in reserve, unless a look has just shown
it clean: jobs are gone through by date, and what an earlier one may take is no longer there for a
later one. An order or a service must be
back the day before the job. Plain day arithmetic.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Literal

from pydantic import Field

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.facts import Access, Schools, ServiceFacts
from neatpatch.core.common.moments import day_of
from neatpatch.core.common.records import Day, Given, Record, RowId, Whole
from neatpatch.core.common.words import counted
from neatpatch.core.kit.stock import KitEntry
from neatpatch.core.kit.supplies import (
    SPARE_DAYS,
    USUAL_LEAD_DAYS,
    KitLedger,
    KitReady,
    Need,
    ToBuy,
    ladder_needs,
    merged,
)
from neatpatch.core.visit.body import Body

LOOKED_DAYS = 14
"""A look so many days before a job still speaks for it."""
BodyState = Literal["ready", "later", "look", "busy", "clean"]
JobState = Literal["ready", "later", "act", "late"]


class BookedJob(Given):
    """A job in the calendar with the bodies it needs."""

    id: Whole = 0
    name: str = Field(min_length=1, max_length=120)
    starts_on: Day
    note: str = Field(default="", max_length=400)
    body_ids: tuple[RowId, ...] = Field(default=(), max_length=1000)
    version: Whole = 1


class BodyNow(Record):
    """A body as it stands: last fit look, spots that matter in it, an open visit."""

    id: int
    body: Body
    last_look_on: str | None = None
    relevant: int | None = None
    open_visit_id: int | None = None


class BodyReady(Record):
    """Whether a body is ready for a job, and what to do."""

    body_id: int
    name: str
    state: BodyState
    words: str
    open_visit_id: int | None


class JobReady(Record):
    """One job: its bodies, its kit, and whether a service still fits. ``days``: until it."""

    job: BookedJob
    days: int
    state: JobState
    bodies: tuple[BodyReady, ...]
    kit: tuple[KitReady, ...]
    service: str
    service_fits: bool | None


class Readiness(Record):
    """All booked jobs by date, and one list to buy."""

    jobs: tuple[JobReady, ...]
    to_buy: tuple[ToBuy, ...]


def check_job(job: BookedJob, today: date) -> None:
    """Refuse a job on a day that has passed, with `BadArgumentError`."""
    day = job.starts_on
    if day < today:
        raise BadArgumentError(
            f"The job's day, {short_day_words(day)} {day.year}, has passed. "
            "Give a day from today on."
        )


@dataclass(frozen=True, kw_only=True)
class CleaningHabits:
    """How the owner cleans: methods, service, and what was used so far.

    ``patches``: what a visit with lifting took so far; None takes a third of a pack.
    """

    schools: Schools = field(default_factory=Schools)
    service: ServiceFacts = field(default_factory=ServiceFacts)
    patches: int | None = None


def readiness(
    jobs: Sequence[BookedJob],
    bodies: Sequence[BodyNow],
    kit: Sequence[tuple[int, KitEntry]],
    habits: CleaningHabits,
    today: date,
) -> Readiness:
    """Go through the jobs by date. Jobs that have passed are left out; no jobs give none."""
    drawer = KitLedger(kit, habits.schools, today)
    known = {b.id: b for b in bodies}

    @functools.cache
    def climb(access: Access, short_mm: float) -> list[Need]:
        return ladder_needs(access, short_mm, drawer.things, habits.schools, habits.patches)

    ready_jobs: list[JobReady] = []
    buy: list[ToBuy] = []
    for job in sorted(jobs, key=lambda j: (j.starts_on, j.id)):
        start = job.starts_on
        if start < today:
            continue
        mine = [known[i] for i in job.body_ids if i in known]
        ready = tuple(_body_ready(b, start, today, habits.service) for b in mine)
        needs = [
            need.of_body(b.id)
            for b, state in zip(mine, ready, strict=True)
            if state.state != "ready"
            for need in climb(b.body.access, min(b.body.sensor_mm))
        ]
        lines, missing = drawer.reserve(needs, start, job.name)
        fits, words = _service(habits.service, start, today)
        ready_jobs.append(
            JobReady(
                job=job,
                days=(start - today).days,
                bodies=ready,
                kit=lines,
                service=words,
                service_fits=fits,
                state=_state(ready, missing),
            )
        )
        buy += missing
    return Readiness(jobs=tuple(ready_jobs), to_buy=merged(buy))


def _state(bodies: Sequence[BodyReady], missing: Sequence[ToBuy]) -> JobState:
    if any(m.late for m in missing):
        return "late"
    states = {b.state for b in bodies}
    if not bodies or missing or states & {"look", "busy", "clean"}:
        return "act"
    return "later" if "later" in states else "ready"


def _body_ready(b: BodyNow, start: date, today: date, service: ServiceFacts) -> BodyReady:
    state, words = _body_words(b, start, today, service)
    unknown = b.body.stabilised is not False and b.body.hold_rule is None
    if unknown and b.body.access not in ("digital_back", "fixed_lens"):
        words += " What holds its sensor is not noted: no contact until it is."
    return BodyReady(
        body_id=b.id, name=b.body.name, state=state, words=words, open_visit_id=b.open_visit_id
    )


def _body_words(
    b: BodyNow, start: date, today: date, service: ServiceFacts
) -> tuple[BodyState, str]:
    if b.open_visit_id is not None:
        left_over = f": {_visible(b.relevant)}" if b.relevant else ""
        return "busy", f"A visit is open{left_over}. Finish it first."
    window = start - timedelta(days=LOOKED_DAYS)
    looked = day_of(b.last_look_on) if b.last_look_on else None
    if looked is not None and looked >= window:
        if b.relevant is None:
            return "look", (
                f"Looked at on {short_day_words(looked)}, but how many spots are visible is "
                "unknown. Enter the frame's aperture, or shoot another."
            )
        if b.relevant:
            return "clean", f"Looked at on {short_day_words(looked)}: {_visible(b.relevant)}."
        return "ready", f"Looked at on {short_day_words(looked)}: nothing visible in the work."
    if today < window:
        return "later", f"Look at it from {short_day_words(window)}."
    last = "" if looked else "Never looked at. "
    return "look", f"{last}Shoot a test frame{_look_by(start, today, service)}."


def _visible(n: int) -> str:
    return f"{counted(n, 'visible spot')}"


def _look_by(start: date, today: date, service: ServiceFacts) -> str:
    days = math.ceil(service.turnaround_days or USUAL_LEAD_DAYS) + SPARE_DAYS
    by = start - timedelta(days=days)
    if by < today:
        return " now"
    what = "a service" if service.turnaround_days else "an order"
    return f" by {short_day_words(by)} (in time for {what})"


def _service(service: ServiceFacts, start: date, today: date) -> tuple[bool | None, str]:
    if service.turnaround_days is None:
        return None, "How long your service keeps a body is not entered."
    days = math.ceil(service.turnaround_days)
    by = start - timedelta(days=days + SPARE_DAYS)
    if by < today:
        return False, f"A service of {counted(days, 'day')} would not be back in time."
    return (
        True,
        f"A service of {counted(days, 'day')} still fits if it is sent by {short_day_words(by)}.",
    )


def short_day_words(day: date) -> str:
    """A day without its year, as people say it."""
    return f"{day.day} {day:%b}"
