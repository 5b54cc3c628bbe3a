"""What cleaning costs."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from neatpatch.api.common.deps import LibraryDep
from neatpatch.core.common.facts import ContactSchool
from neatpatch.core.kit.costs import (
    OwnOrService,
    Prices,
    SchoolCost,
    own_or_service,
    school_costs,
)
from neatpatch.services.common.lookups import body_or_refuse
from neatpatch.services.common.settings import PRICES, usual_schools
from neatpatch.services.kit.step_stock import kit_now
from neatpatch.store import kit as kit_rows
from neatpatch.store.bodies import name_of
from neatpatch.store.settings import get_record, version_of

router = APIRouter(prefix="/api")


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


@router.get("/costs")
def costs(
    library: LibraryDep,
    body_id: Annotated[int | None, Query(ge=1, le=2**53 - 1)] = None,
    school: ContactSchool | None = None,
    earlier: bool = False,
) -> Costs:
    """What was used up by body and year; one clean of a body by each school; own or service.

    ``earlier``: of all years, else of this and the last. ``school``: by which one cleans, else the
    first of the order chosen for all visits.
    """
    with library.database.read() as connection:
        entered = get_record(connection, PRICES, Prices)
        prices_version = version_of(connection, PRICES)
        stock = kit_now(connection)
        spent = kit_rows.spending(connection, None if earlier else date.today().year - 1)
        names = name_of(connection)
        body = body_or_refuse(connection, body_id) if body_id is not None else None
        order = usual_schools(connection).contact_order or ("lift",)
    by_school = school_costs(stock, body.id, body.body, date.today()) if body else ()
    mine = school or order[0]
    a_clean = next((s.cost for s in by_school if s.school == mine), None)
    return Costs(
        prices=entered,
        prices_version=prices_version,
        body=body.body.name if body else None,
        school=mine,
        schools=list(by_school),
        by_year=[
            BodyYear(
                body=names.get(s.body_id or 0, "Removed bodies"),
                year=s.year,
                cleans=s.visits,
                cost=round(s.cost, 2),
                unpriced=s.unpriced,
            )
            for s in spent
        ],
        against=own_or_service([o for _, o in stock], a_clean, entered),
    )
