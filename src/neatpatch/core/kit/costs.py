"""What a clean costs: single-use pieces by school, and an own kit against a service.

All prices are the owner's own entries. What lasts (blower, loupe) is paid once, in the first year;
what is used up is paid by the piece. Plain sums; nothing is assumed of how well a school works.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date

from pydantic import Field

from neatpatch.core.common.facts import ContactSchool, Item
from neatpatch.core.common.items import thing_words
from neatpatch.core.common.records import Given, Number, Record, Whole
from neatpatch.core.kit.stock import (
    UNITS,
    KitEntry,
    KitFit,
    preferred,
    unit_price,
)
from neatpatch.core.plans.swab import DROP_ML, drops_of, lane_centres, too_wide
from neatpatch.core.visit.body import Body

Amount = Field(default=None, ge=0, le=1_000_000)
USUAL_PRESSES = 8
"""Presses of a clean while no map tells better."""
MOST_CLEANS = 100
"""Nobody cleans one body more often in a year; break-even beyond it is none."""
_NOT_FOR_IT: tuple[Item, ...] = ("lens_brush", "cloth", "carbon_pen", "tweezers")
"""KitEntry perhaps, but no part of cleaning a sensor."""
_SHOWN = (1, 2, 4, 6, 12, 24)
"""From one to a busy archive's two a month; the table stays readable."""
_PIECES: dict[ContactSchool, tuple[tuple[Item, int], ...]] = {
    "lift": (),
    "dry_swab": (("dry_swab", 1),),
    "wet_swab": (("wet_swab", 1),),
    "dry_wet_dry": (("dry_swab", 2), ("wet_swab", 1)),
}


class Prices(Given):
    """What others charge, as the owner entered it; a membership is paid by the year."""

    currency: str = Field(default="€", max_length=6)
    service_fee: Number | None = Amount
    postage: Number | None = Amount
    membership_fee: Number | None = Amount
    membership_cleans: Whole | None = Field(default=None, ge=0, le=1000)


class SchoolCost(Record):
    """One clean by a school. ``cost`` is None while a price is missing; ``missing`` names it."""

    school: ContactSchool
    pieces: tuple[str, ...]
    cost: float | None
    missing: tuple[str, ...] = ()


class YearRow(Record):
    """So many cleans in a year, each way; None where a price is missing."""

    cleans: int
    own: float | None
    service: float | None
    membership: float | None


class OwnOrService(Record):
    """``lasting``: price of what lasts; None while a tool has no price, named in ``unpriced``.

    Break-even: from so many cleans a year the own kit is
    cheaper in its first year; None when never, or when a price is missing.
    """

    lasting: float | None
    unpriced: tuple[str, ...] = ()
    a_clean: float | None
    rows: tuple[YearRow, ...]
    beats_service_from: int | None
    beats_membership_from: int | None
    words: str


def school_costs(
    kit: Sequence[tuple[int, KitEntry]],
    body_id: int,
    body: Body,
    on: date,
    presses: int | None = None,
) -> tuple[SchoolCost, ...]:
    """One clean of a body by each school of contact, with the things of this kit."""
    short = min(body.sensor_mm)

    def best(name: Item) -> KitEntry | None:
        names: tuple[Item, ...] = (name,)
        if name == "gel_stick":
            names = ("gel_stick", "silicone_pad")
        fitting = preferred(kit, names, KitFit(body_id=body_id, short_side_mm=short, on=on))
        return fitting[0][1] if fitting else None

    return tuple(_school_cost(school, best, short, presses or USUAL_PRESSES) for school in _PIECES)


def _school_cost(
    school: ContactSchool, best: Callable[[Item], KitEntry | None], short_mm: float, presses: int
) -> SchoolCost:
    wanted: list[tuple[Item, float]] = []
    for name, times in _PIECES[school]:
        wanted.append((name, times * _lanes(best(name), short_mm)))
    if school == "lift":
        wanted.append(("gel_stick", presses))
    if "wet" in school:
        swab = best("wet_swab")
        drops = drops_of("swab", swab.item.drops if swab else None) * _lanes(swab, short_mm)
        wanted.append(("fluid", drops * DROP_ML))
    pieces, missing, total = [], [], 0.0
    for name, amount in wanted:
        owned = best(name)
        price = unit_price(owned) if owned else None
        words = thing_words(owned.item) if owned else name.replace("_", " ")
        pieces.append(f"{amount:g} {_unit_words(name)}{words}")
        if price is None:
            missing.append(words)
        else:
            total += amount * price
    return SchoolCost(
        school=school,
        pieces=tuple(pieces),
        missing=tuple(missing),
        cost=None if missing else round(total, 2),
    )


def _lanes(owned: KitEntry | None, short_mm: float) -> int:
    """Swabs that one pass over the sensor takes."""
    width = owned.item.width_mm if owned else None
    if width is None or too_wide(width, short_mm):
        return 1
    return len(lane_centres(short_mm, width)[0])


def _unit_words(name: Item) -> str:
    return {"patch": "patches of ", "ml": "ml of ", "piece": "× "}[UNITS[name]]


def own_or_service(kit: Sequence[KitEntry], a_clean: float | None, prices: Prices) -> OwnOrService:
    """An own kit against the fee of a service and against a membership, over a year's cleans."""
    tools = [o for o in kit if o.item.item not in (*UNITS, *_NOT_FOR_IT)]
    prices_of_tools = [o.pack_price for o in tools if o.pack_price is not None]
    unpriced = tuple(thing_words(o.item) for o in tools if o.pack_price is None)
    lasting = None if unpriced else sum(prices_of_tools)
    fee = None if prices.service_fee is None else prices.service_fee + (prices.postage or 0.0)

    def own(n: int) -> float | None:
        return None if a_clean is None or lasting is None else round(lasting + n * a_clean, 2)

    def service(n: int) -> float | None:
        return None if fee is None else round(n * fee, 2)

    def membership(n: int) -> float | None:
        if prices.membership_fee is None:
            return None
        included = prices.membership_cleans or 0
        beyond = max(0, n - included)
        if beyond and fee is None:
            return None
        post = (n - beyond) * (prices.postage or 0.0)
        return round(prices.membership_fee + post + beyond * (fee or 0.0), 2)

    from_service, from_membership = _first_below(own, service), _first_below(own, membership)
    return OwnOrService(
        lasting=None if lasting is None else round(lasting, 2),
        unpriced=unpriced,
        a_clean=a_clean,
        rows=tuple(
            YearRow(cleans=n, own=own(n), service=service(n), membership=membership(n))
            for n in _SHOWN
        ),
        beats_service_from=from_service,
        beats_membership_from=from_membership,
        words=_words(a_clean, unpriced, prices, (from_service, from_membership)),
    )


def _first_below(
    own: Callable[[int], float | None], other: Callable[[int], float | None]
) -> int | None:
    for n in range(1, MOST_CLEANS + 1):
        mine, theirs = own(n), other(n)
        if mine is not None and theirs is not None and mine < theirs:
            return n
    return None


def _words(
    a_clean: float | None,
    unpriced: Sequence[str],
    prices: Prices,
    pays_from: tuple[int | None, int | None],
) -> str:
    from_service, from_membership = pays_from
    if unpriced:
        return f"Enter in the kit what it cost: {', '.join(unpriced)}. Then the two are compared."
    if a_clean is None:
        return "Enter what a pack costs and holds in the kit, and own cleaning can be calculated."
    if prices.service_fee is None and prices.membership_fee is None:
        return "Enter what your service charges, and the two are compared."
    parts = []
    if prices.service_fee is not None:
        parts.append(("the service", from_service))
    if prices.membership_fee is not None:
        parts.append(("the membership", from_membership))
    pays = [f"from {_cleans(n)} a year against {other}" for other, n in parts if n]
    never = [f"never against {other}" for other, n in parts if not n]
    return f"Your own kit pays {', '.join([*pays, *never])}. A service also carries the risk."


def _cleans(n: int) -> str:
    return f"{n} clean{'' if n == 1 else 's'}"
