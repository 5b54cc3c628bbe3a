"""Ready for a booked job? Bodies looked at, the kit complete, and whether there is still time.

For each booked body one full climb of its ladder is held in reserve: jobs are gone through by date,
and what an earlier one may take is no longer there for a later one. An order or a service must be
back the day before the job. Plain day arithmetic.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Literal

from pydantic import Field, computed_field

from neatpatch.core.advice.facts import Item, Schools, ServiceFacts
from neatpatch.core.errors import BadArgumentError
from neatpatch.core.planners.money import USUAL_PRESSES
from neatpatch.core.planners.swab import CHAMBER_PLAY_MM, drops_for, lane_centres
from neatpatch.core.records import Record
from neatpatch.core.stock import (
    DROP_ML,
    NAMES,
    UNITS,
    Owned,
    expired,
    left,
    thing_words,
)
from neatpatch.core.visit import Body

LOOKED_DAYS = 14
"""A look so many days before a job still speaks for it."""
USUAL_LEAD_DAYS = 7
"""Taken for an order whose lead time was never entered."""
SPARE_DAYS = 1
_SHARE_OF_PACK = 1 / 3
"""A clean takes about a third of a pack of sheets."""
BodyState = Literal["ready", "later", "look", "busy", "clean"]
JobState = Literal["ready", "later", "act", "late"]
_DEFAULT_ORDER = ("lift", "dry_swab", "wet_swab")


class BookedJob(Record):
    """A job in the calendar with the bodies it needs."""

    id: int = 0
    name: str = Field(min_length=1, max_length=120)
    starts_on: str = Field(pattern=r"^\d{4}-\d{2}-\d{2}$")
    note: str = Field(default="", max_length=400)
    body_ids: tuple[int, ...] = Field(default=(), max_length=1000)


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


class KitReady(Record):
    """One thing the ladder needs: how much, and how much is there on that day.

    ``there`` is None for a thing that is owned and not counted.
    """

    thing: str
    unit: Literal["piece", "patch", "ml", "one"]
    needed: float
    there: float | None
    enough: bool


class JobReady(Record):
    """One job: its bodies, its kit, and whether a service still fits. ``days``: until it."""

    job: BookedJob
    days: int
    state: JobState
    bodies: tuple[BodyReady, ...]
    kit: tuple[KitReady, ...]
    service: str
    service_fits: bool | None


class ToBuy(Record):
    """One line of the list to buy. ``late``: no order with its lead time is back in time."""

    thing: str
    unit: Literal["piece", "patch", "ml", "one"]
    amount: float
    pack_size: float | None
    pack_price: float | None
    order_by: str
    late: bool
    lead_days: int
    lead_assumed: bool
    source: str
    job: str

    @computed_field  # type: ignore[prop-decorator]
    @property
    def packs(self) -> int | None:
        """Whole packs that hold it; None while the pack's size is not known."""
        return math.ceil(self.amount / self.pack_size) if self.pack_size else None

    @computed_field  # type: ignore[prop-decorator]
    @property
    def cost(self) -> float | None:
        """Price of those packs."""
        if self.packs is None or self.pack_price is None:
            return None
        return round(self.packs * self.pack_price, 2)


class Readiness(Record):
    """All booked jobs by date, and one list to buy."""

    jobs: tuple[JobReady, ...]
    to_buy: tuple[ToBuy, ...]


@dataclass(frozen=True)
class Need:
    """So much of one of these things for one climb; ``width_mm``: of a fitting swab."""

    names: tuple[Item, ...]
    amount: float
    body_ids: tuple[int, ...]
    width_mm: float | None = None

    @property
    def lasting(self) -> bool:
        return self.names[0] not in UNITS


def check_job(job: BookedJob, today: date) -> None:
    """Refuse a job on a day that is none or has passed, with `BadArgumentError`."""
    try:
        day = date.fromisoformat(job.starts_on)
    except ValueError:
        raise BadArgumentError(
            f"{job.starts_on} is no day of the calendar. Give the job's first day."
        ) from None
    if day < today:
        raise BadArgumentError(
            f"The job's day, {day_words(day)} {day.year}, has passed. Give a day from today on."
        )


def readiness(
    jobs: Sequence[BookedJob], bodies: Sequence[BodyNow], kit: Sequence[tuple[int, Owned]],
    schools: Schools, service: ServiceFacts, today: date, *, patches: int | None = None,
) -> Readiness:  # fmt: skip
    """Go through the jobs by date. Jobs that have passed are left out; no jobs give none.

    ``patches``: what a visit with lifting took so far; None takes a third of a pack.
    """
    stock = {kit_id: left(owned.item) for kit_id, owned in kit}
    known = {b.id: b for b in bodies}
    told: list[JobReady] = []
    buy: list[ToBuy] = []
    for job in sorted(jobs, key=lambda j: (j.starts_on, j.id)):
        start = date.fromisoformat(job.starts_on)
        if start < today:
            continue
        mine = [known[i] for i in job.body_ids if i in known]
        ready = tuple(_body_ready(b, start, today, service) for b in mine)
        lines, missing = _kit_ready(mine, kit, stock, schools, job, today, patches)
        fits, words = _service(service, start, today)
        told.append(
            JobReady(
                job=job, days=(start - today).days, bodies=ready, kit=lines, service=words,
                service_fits=fits, state=_state(ready, missing),
            )
        )  # fmt: skip
        buy += missing
    return Readiness(jobs=tuple(told), to_buy=_merged(buy))


def _state(bodies: Sequence[BodyReady], missing: Sequence[ToBuy]) -> JobState:
    if any(m.late for m in missing):
        return "late"
    states = {b.state for b in bodies}
    if missing or states & {"look", "busy", "clean"}:
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
        left_over = f": {b.relevant} spots matter" if b.relevant else ""
        return "busy", f"A visit is open{left_over}. Finish it first."
    window = start - timedelta(days=LOOKED_DAYS)
    looked = date.fromisoformat(b.last_look_on[:10]) if b.last_look_on else None
    if looked is not None and looked >= window:
        if b.relevant:
            return "clean", f"Looked at on {day_words(looked)}: {b.relevant} spots matter."
        return "ready", f"Looked at on {day_words(looked)}: nothing that matters."
    if today < window:
        return "later", f"Look at it from {day_words(window)} on."
    last = f"Last looked at on {day_words(looked)}. " if looked else "Never looked at. "
    return "look", f"{last}Shoot a test frame{_look_by(start, today, service)}."


def _look_by(start: date, today: date, service: ServiceFacts) -> str:
    days = math.ceil(service.turnaround_days or USUAL_LEAD_DAYS) + SPARE_DAYS
    by = start - timedelta(days=days)
    if by < today:
        return " now"
    what = "a service" if service.turnaround_days else "an order"
    return f" by {day_words(by)}, while {what} would still fit"


def _service(service: ServiceFacts, start: date, today: date) -> tuple[bool | None, str]:
    if service.turnaround_days is None:
        return None, "How long your service keeps a body is not entered."
    days = math.ceil(service.turnaround_days)
    by = start - timedelta(days=days + SPARE_DAYS)
    if by < today:
        return False, f"A service of {days} days would not be back in time."
    return True, f"A service of {days} days still fits if it is sent by {day_words(by)}."


def ladder_needs(
    b: BodyNow, kit: Sequence[Owned], schools: Schools, patches: int | None = None
) -> list[Need]:
    """What one full climb of a body's ladder takes. Contact left to others needs only air."""
    body = b.body
    needs = [Need(("bulb_blower", "electric_blower"), 1, (b.id,))]
    if body.access == "fixed_lens" or schools.contact_by == "send_out":
        return needs if body.access != "fixed_lens" else []
    if body.access == "digital_back":
        return [*needs, Need(("moist_wipe",), 1, (b.id,))]
    short = min(body.sensor_mm)
    order = schools.contact_order or _DEFAULT_ORDER
    if "lift" in order:
        needs.append(Need(("gel_stick", "silicone_pad"), patches or _patches(kit), (b.id,)))
    dry = sum({"dry_swab": 1, "dry_wet_dry": 2}.get(s, 0) for s in order)
    if dry:
        needs.append(Need(("dry_swab",), dry * _lanes(kit, "dry_swab", short, schools), (b.id,),
                          short))  # fmt: skip
    if any("wet" in s for s in order):
        lanes = _lanes(kit, "wet_swab", short, schools)
        needs.append(Need(("wet_swab",), lanes, (b.id,), short))
        needs.append(Need(("fluid",), lanes * drops_for("swab").usual * DROP_ML, (b.id,)))
    return needs


def _patches(kit: Sequence[Owned]) -> int:
    packs = [o.pack_size for o in kit if UNITS.get(o.item.item) == "patch" and o.pack_size]
    return math.ceil(packs[0] * _SHARE_OF_PACK) if packs else USUAL_PRESSES


def _lanes(kit: Sequence[Owned], name: Item, short_mm: float, schools: Schools) -> int:
    """Swabs for one pass: narrower ones in lanes only where the school allows and none matches."""
    widths = [o.item.width_mm for o in kit if o.item.item == name and o.item.width_mm]
    fitting = [w for w in widths if w <= short_mm + CHAMBER_PLAY_MM]
    if schools.swab_width != "narrower_ok" or not fitting:
        return 1
    return len(lane_centres(short_mm, max(fitting))[0])


def _kit_ready(
    bodies: Sequence[BodyNow], kit: Sequence[tuple[int, Owned]],
    stock: dict[int, float | None], schools: Schools, job: BookedJob, today: date,
    patches: int | None,
) -> tuple[tuple[KitReady, ...], list[ToBuy]]:  # fmt: skip
    start = date.fromisoformat(job.starts_on)
    needs = [n for b in bodies for n in ladder_needs(b, [o for _, o in kit], schools, patches)]
    lines, missing = [], []
    for need in _together(needs, kit):
        fitting = [k for k in kit if _fits(k[1], need, schools, start)]
        there = _there(fitting, stock)
        short = max(0.0, need.amount - there)
        _reserve(fitting, stock, need)
        words, unit = _need_words(need, fitting), UNITS.get(need.names[0], "one")
        lines.append(
            KitReady(
                thing=words, unit=unit, needed=round(need.amount, 2),
                there=None if math.isinf(there) else round(there, 2), enough=short <= 1e-9,
            )
        )  # fmt: skip
        if short > 1e-9:
            missing.append(_to_buy(need, short, kit, schools, job, today, words))
    return tuple(lines), missing


def _together(needs: Sequence[Need], kit: Sequence[tuple[int, Owned]]) -> list[Need]:
    """Needs that the same things meet, added up; what lasts is needed once."""
    found: dict[tuple[object, ...], Need] = {}
    for need in needs:
        suited = tuple(
            kit_id for kit_id, o in kit
            if o.item.item in need.names and (o.suits is None or need.body_ids[0] in o.suits)
        )  # fmt: skip
        key = (need.names, need.width_mm and round(need.width_mm), suited)
        before = found.get(key)
        amount = need.amount + (before.amount if before and not need.lasting else 0)
        bodies = (*(before.body_ids if before else ()), *need.body_ids)
        found[key] = replace(need, amount=amount, body_ids=bodies)
    return list(found.values())


def _fits(owned: Owned, need: Need, schools: Schools, on: date) -> bool:
    item = owned.item
    if item.item not in need.names or item.for_sensor is False or item.used is True:
        return False
    if expired(owned, on) or item.expired is True:
        return False
    if owned.suits is not None and not set(need.body_ids) <= set(owned.suits):
        return False
    if item.item == "gel_stick" and owned.suits is None and item.matched_coating is not True:
        return False
    if item.item == "electric_blower" and item.filtered is False:
        return False
    return _width_fits(item.width_mm, need.width_mm, schools)


def _width_fits(width: float | None, wanted: float | None, schools: Schools) -> bool:
    if wanted is None:
        return True
    if width is None or width > wanted + CHAMBER_PLAY_MM:
        return False
    return width >= wanted - CHAMBER_PLAY_MM or schools.swab_width == "narrower_ok"


def _there(fitting: Sequence[tuple[int, Owned]], stock: dict[int, float | None]) -> float:
    """How much is there; a thing that is owned and not counted is there in plenty."""
    if any(stock[kit_id] is None for kit_id, _ in fitting):
        return math.inf
    return sum(stock[kit_id] or 0.0 for kit_id, _ in fitting)


def _reserve(
    fitting: Sequence[tuple[int, Owned]], stock: dict[int, float | None], need: Need
) -> None:
    still = need.amount
    for kit_id, _ in fitting:
        there = stock[kit_id]
        if there is not None and not need.lasting:
            part = min(there, still)
            stock[kit_id] = there - part
            still -= part


def _need_words(need: Need, fitting: Sequence[tuple[int, Owned]]) -> str:
    if fitting and not need.lasting:
        return thing_words(fitting[0][1].item)
    words = " or ".join(NAMES[name] for name in need.names)
    return f"{words}, {need.width_mm:g} mm" if need.width_mm else words


def _to_buy(
    need: Need, short: float, kit: Sequence[tuple[int, Owned]], schools: Schools, job: BookedJob,
    today: date, words: str,
) -> ToBuy:  # fmt: skip
    """One line, with pack, price, source and lead time of the same thing where it is in the kit,
    used up or out of date as it may be.
    """
    same = [
        o for _, o in kit
        if o.item.item in need.names and _width_fits(o.item.width_mm, need.width_mm, schools)
    ]  # fmt: skip
    known = same[0] if same else None
    lead = known.lead_days if known and known.lead_days is not None else USUAL_LEAD_DAYS
    by = date.fromisoformat(job.starts_on) - timedelta(days=lead + SPARE_DAYS)
    return ToBuy(
        thing=words, unit=UNITS.get(need.names[0], "one"), amount=round(short, 2),
        pack_size=known.pack_size if known else None,
        pack_price=known.pack_price if known else None,
        order_by=max(by, today).isoformat(), late=by < today, lead_days=lead,
        lead_assumed=known is None or known.lead_days is None,
        source=known.source if known else "", job=job.name,
    )  # fmt: skip


def _merged(lines: Sequence[ToBuy]) -> tuple[ToBuy, ...]:
    """One line a thing: amounts added up, the earliest day kept."""
    found: dict[str, ToBuy] = {}
    for line in lines:
        before = found.get(line.thing)
        if before is None:
            found[line.thing] = line
            continue
        amount = round(before.amount + line.amount, 2)
        found[line.thing] = before.model_copy(update={"amount": amount})
    return tuple(sorted(found.values(), key=lambda b: (b.order_by, b.thing)))


def day_words(day: date) -> str:
    """A day without its year, as people say it."""
    return f"{day.day} {day:%b}"
