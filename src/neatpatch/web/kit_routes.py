"""Routes of the kit, its money, booked jobs and whether all is ready for them."""

from __future__ import annotations

from datetime import date
from typing import Annotated, TypeVar

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel

from neatpatch.core.advice.facts import ContactSchool, Schools, ServiceFacts
from neatpatch.core.errors import ConflictError, NotThereError
from neatpatch.core.planners.money import (
    OwnOrService,
    Prices,
    SchoolCost,
    own_or_service,
    school_costs,
)
from neatpatch.core.planners.readiness import BookedJob, Readiness, check_job, readiness
from neatpatch.core.stock import UNITS, Owned, Unit, expired, left, unit_price
from neatpatch.store import bookings as booking_rows
from neatpatch.store import kit as kit_rows
from neatpatch.store.bodies import name_of
from neatpatch.store.datafolder import Library
from neatpatch.store.requests import first_time
from neatpatch.store.settings import get_record, put_record, version_of
from neatpatch.web.casework import (
    PRICES,
    SCHOOLS,
    SERVICE,
    body_or_404,
    usual_schools,
    usual_service,
)
from neatpatch.web.deps import Id, LibraryDep, RequestKey, SeenVersion, require_seen
from neatpatch.web.stocking import kit_now

router = APIRouter(prefix="/api")
_GONE = "There is no such thing in the kit. It may have been removed."


class KitEntry(BaseModel):
    """A thing owned: what is left of it and in which unit, price of one, past its day."""

    id: int
    version: int
    owned: Owned
    left: float | None
    unit: Unit | None
    unit_price: float | None
    expired: bool


class StockMove(BaseModel):
    """A change of stock."""

    why: kit_rows.MoveWhy
    change: float
    at: str


class BodyYear(BaseModel):
    """What a body used up in a year. ``unpriced``: uses whose price is not known."""

    body: str
    year: str
    cleans: int
    cost: float
    unpriced: int


class Costs(BaseModel):
    """Money: by body and year, one clean by each school, own kit against a service."""

    prices: Prices
    prices_version: int
    by_year: list[BodyYear]
    body: str | None
    school: ContactSchool
    schools: list[SchoolCost]
    against: OwnOrService


@router.get("/kit")
def kit(library: LibraryDep) -> list[KitEntry]:
    """Everything owned."""
    today = date.today()
    with library.database.read() as connection:
        return [
            KitEntry(
                id=k.id, version=k.version, owned=k.owned, left=left(k.owned.item),
                unit=UNITS.get(k.owned.item.item),
                unit_price=unit_price(k.owned), expired=expired(k.owned, today),
            )
            for k in kit_rows.all_items(connection)
        ]  # fmt: skip


@router.post("/kit", status_code=201)
def add_kit(owned: Owned, library: LibraryDep, key: RequestKey = None) -> list[KitEntry]:
    """Add a thing; gives the whole kit."""
    with library.database.write() as connection:
        if first_time(connection, key, "thing of the kit"):
            kit_rows.add_item(connection, owned)
    return kit(library)


@router.put("/kit/{item_id}")
def change_kit(item_id: Id, owned: Owned, library: LibraryDep, seen: SeenVersion) -> list[KitEntry]:
    """Write a thing anew; another count is kept as counted. Gives the whole kit."""
    with library.database.write() as connection:
        kept = kit_rows.item_by_id(connection, item_id)
        if kept is None:
            raise NotThereError(_GONE)
        require_seen(seen, kept.version, kept.owned, owned)
        kit_rows.change_item(connection, item_id, owned)
    return kit(library)


@router.post("/kit/{item_id}/packs")
def packs_arrived(
    item_id: Id, library: LibraryDep, count: Annotated[int, Query(ge=1, le=100)] = 1,
    key: RequestKey = None,
) -> list[KitEntry]:  # fmt: skip
    """Whole packs arrived; gives the whole kit."""
    with library.database.write() as connection:
        if kit_rows.item_by_id(connection, item_id) is None:
            raise NotThereError(_GONE)
        if first_time(connection, key, f"packs of {item_id}") and not kit_rows.buy(
            connection, item_id, count
        ):
            raise ConflictError("Say how much a pack holds first, then add packs.")
    return kit(library)


@router.get("/kit/{item_id}/moves")
def moves(item_id: Id, library: LibraryDep) -> list[StockMove]:
    """Where a thing's stock went, the newest first."""
    with library.database.read() as connection:
        found = kit_rows.moves_of(connection, kit_id=item_id, count=30)
    return [StockMove(why=m.why, change=round(m.change, 3), at=m.at) for m in found]


@router.delete("/kit/{item_id}")
def remove_kit(item_id: Id, library: LibraryDep) -> list[KitEntry]:
    """Remove a thing; gives the whole kit."""
    with library.database.write() as connection:
        kit_rows.remove_item(connection, item_id)
    return kit(library)


Kept = TypeVar("Kept", bound=BaseModel)


def _kept(library: Library, response: Response, key: str, kind: type[Kept]) -> Kept:
    """A kept record; its version goes out as the entity tag."""
    with library.database.read() as connection:
        response.headers["ETag"] = f'"{version_of(connection, key)}"'
        return get_record(connection, key, kind)


def _keep(library: Library, response: Response, key: str, given: Kept, seen: int | None) -> Kept:
    """Keep a record, unless another version than the one seen is kept now."""
    with library.database.write() as connection:
        kept = get_record(connection, key, type(given))
        require_seen(seen, version_of(connection, key), kept, given)
        put_record(connection, key, given)
        response.headers["ETag"] = f'"{version_of(connection, key)}"'
    return given


@router.get("/schools")
def schools(library: LibraryDep, response: Response) -> Schools:
    """The schools chosen for all visits."""
    return _kept(library, response, SCHOOLS, Schools)


@router.put("/schools")
def set_schools(
    chosen: Schools, library: LibraryDep, response: Response, seen: SeenVersion
) -> Schools:
    """Choose schools for all visits."""
    return _keep(library, response, SCHOOLS, chosen, seen)


@router.get("/service")
def service(library: LibraryDep, response: Response) -> ServiceFacts:
    """The owner's own service."""
    return _kept(library, response, SERVICE, ServiceFacts)


@router.put("/service")
def set_service(
    facts: ServiceFacts, library: LibraryDep, response: Response, seen: SeenVersion
) -> ServiceFacts:
    """Say how long a service takes and what a membership includes."""
    return _keep(library, response, SERVICE, facts, seen)


@router.get("/prices")
def prices(library: LibraryDep, response: Response) -> Prices:
    """What a service and a membership charge, and the currency."""
    return _kept(library, response, PRICES, Prices)


@router.put("/prices")
def set_prices(
    entered: Prices, library: LibraryDep, response: Response, seen: SeenVersion
) -> Prices:
    """Say what a service and a membership charge."""
    return _keep(library, response, PRICES, entered, seen)


@router.get("/costs")
def costs(
    library: LibraryDep, body_id: Annotated[int | None, Query(ge=1, le=2**53 - 1)] = None,
    school: ContactSchool | None = None,
    earlier: bool = False,
) -> Costs:  # fmt: skip
    """What was used up by body and year; one clean of a body by each school; own or service.

    ``earlier``: of all years, else of this and the last. ``school``: by which one cleans, else the
    first of the order chosen for all visits.
    """
    with library.database.read() as connection:
        entered = get_record(connection, PRICES, Prices)
        prices_version = version_of(connection, PRICES)
        stock = kit_now(connection)
        spent = kit_rows.spending(connection, "" if earlier else str(date.today().year - 1))
        names = name_of(connection)
        body = body_or_404(connection, body_id) if body_id is not None else None
        order = usual_schools(connection).contact_order or ("lift",)
    by_school = school_costs(stock, body.id, body.body, date.today()) if body else ()
    mine = school or order[0]
    a_clean = next((s.cost for s in by_school if s.school == mine), None)
    return Costs(
        prices=entered, prices_version=prices_version, body=body.body.name if body else None,
        school=mine, schools=list(by_school),
        by_year=[
            BodyYear(
                body=names.get(s.body_id or 0, "Removed bodies"),
                year=s.year, cleans=s.visits, cost=round(s.cost, 2), unpriced=s.unpriced,
            )
            for s in spent
        ],
        against=own_or_service([o for _, o in stock], a_clean, entered),
    )  # fmt: skip


@router.get("/readiness")
def ready(library: LibraryDep) -> Readiness:
    """Booked jobs from today on: bodies, kit, time, and one list to buy."""
    today = date.today()
    with library.database.read() as connection:
        jobs = booking_rows.list_bookings(connection, today.isoformat())
        ids = sorted({i for job in jobs for i in job.body_ids})
        return readiness(
            jobs, booking_rows.bodies_now(connection, ids), kit_now(connection),
            usual_schools(connection), usual_service(connection), today,
            patches=kit_rows.patches_a_visit(connection),
        )  # fmt: skip


@router.post("/bookings", status_code=201)
def book(job: BookedJob, library: LibraryDep, key: RequestKey = None) -> Readiness:
    """Book a job; gives the readiness for all."""
    check_job(job, date.today())
    with library.database.write() as connection:
        if first_time(connection, key, "job"):
            booking_rows.add_booking(connection, job)
    return ready(library)


@router.put("/bookings/{booking_id}")
def change_booking(
    booking_id: Id, job: BookedJob, library: LibraryDep, seen: SeenVersion
) -> Readiness:
    """Write a job anew; gives the readiness for all."""
    check_job(job, date.today())
    with library.database.write() as connection:
        kept = booking_rows.booking_by_id(connection, booking_id)
        if kept is None:
            raise NotThereError("There is no such job. It may have been taken out.")
        require_seen(seen, kept.version, kept, job)
        booking_rows.change_booking(connection, booking_id, job)
    return ready(library)


@router.delete("/bookings/{booking_id}")
def cancel_booking(booking_id: Id, library: LibraryDep) -> Readiness:
    """Take a job out of the calendar; gives the readiness for all."""
    with library.database.write() as connection:
        booking_rows.remove_booking(connection, booking_id)
    return ready(library)
