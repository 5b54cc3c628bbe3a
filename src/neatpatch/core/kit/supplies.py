"""What the kit must hold for one full climb of a body's ladder, and what is missing by when.

Things are laid aside job after job, so that a later job sees only what an earlier one leaves.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Literal

from pydantic import computed_field

from neatpatch.core.common.facts import Access, Item, KitItem, Schools
from neatpatch.core.common.items import NAMES, thing_words
from neatpatch.core.common.records import Record
from neatpatch.core.common.words import length
from neatpatch.core.kit.costs import USUAL_PRESSES
from neatpatch.core.kit.stock import UNITS, KitEntry, expired, left
from neatpatch.core.plans.swab import DROP_ML, drops_of, matched, swabs_for, too_wide

USUAL_LEAD_DAYS = 7
"""Taken for an order whose lead time was never entered."""
SPARE_DAYS = 1
"""An order or a service is back so long before the job."""
_SHARE_OF_PACK = 1 / 3
"""A clean takes about a third of a pack of sheets."""
NeedUnit = Literal["piece", "patch", "ml", "one"]
_DEFAULT_ORDER = ("lift", "dry_swab", "wet_swab")


class KitReady(Record):
    """One thing the ladder needs: how much, and how much is there on that day.

    ``there`` is None for a thing that is owned and not counted.
    """

    thing: str
    unit: NeedUnit
    needed: float
    there: float | None
    enough: bool


class ToBuy(Record):
    """One line of the list to buy. ``late``: no order with its lead time is back in time."""

    thing: str
    unit: NeedUnit
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


@dataclass(frozen=True)
class Need:
    """So much of one of these things for one climb; ``width_mm``: of a fitting swab."""

    names: tuple[Item, ...]
    amount: float
    body_ids: tuple[int, ...] = ()
    width_mm: float | None = None

    def of_body(self, body_id: int) -> Need:
        """The same for one body."""
        return Need(self.names, self.amount, (body_id,), self.width_mm)

    @property
    def unit(self) -> NeedUnit:
        return UNITS.get(self.names[0], "one")

    @property
    def lasting(self) -> bool:
        return self.names[0] not in UNITS


def ladder_needs(
    access: Access,
    short_mm: float,
    kit: Sequence[KitEntry],
    schools: Schools,
    patches: int | None = None,
) -> list[Need]:
    """What one full climb takes with a body of this access and short side, for no body yet.

    ``patches``: gel patches for it; None takes a third of a pack. Contact left to others needs only
    air; a body whose lens does not come off needs nothing.
    """
    needs = [Need(("bulb_blower", "electric_blower"), 1)]
    if access == "fixed_lens" or schools.contact_by == "send_out":
        return needs if access != "fixed_lens" else []
    if access == "digital_back":
        return [*needs, Need(("moist_wipe",), 1)]
    order = schools.contact_order or _DEFAULT_ORDER
    if "lift" in order:
        needs.append(Need(("gel_stick", "silicone_pad"), patches or _patches(kit)))
    if schools.pad_on_finger:
        return [*needs, *_pad_needs()]
    dry = sum({"dry_swab": 1, "dry_wet_dry": 2}.get(s, 0) for s in order)
    if dry:
        lanes = dry * _lanes(_widest(kit, "dry_swab", short_mm, schools), short_mm, schools)
        needs.append(Need(("dry_swab",), lanes, width_mm=short_mm))
    if any("wet" in s for s in order):
        swab = _widest(kit, "wet_swab", short_mm, schools)
        lanes = _lanes(swab, short_mm, schools)
        needs.append(Need(("wet_swab", "cloth_wand"), lanes, width_mm=short_mm))
        drops = drops_of("swab", swab.drops if swab else None)
        needs.append(Need(("fluid",), lanes * drops * DROP_ML))
    return needs


def _pad_needs() -> list[Need]:
    """Pads over a fingertip: one dry, then one for the drop and one to dry the place at once."""
    drop = drops_of("sterile_pad", None) * DROP_ML
    return [Need(("sterile_pad",), 3), Need(("fluid",), drop)]


def _patches(kit: Sequence[KitEntry]) -> int:
    packs = [o.pack_size for o in kit if UNITS.get(o.item.item) == "patch" and o.pack_size]
    return math.ceil(packs[0] * _SHARE_OF_PACK) if packs else USUAL_PRESSES


def _widest(
    kit: Sequence[KitEntry], name: Item, short_mm: float, schools: Schools
) -> KitItem | None:
    """The widest swab of a name that goes over a sensor; None where none does."""
    named = [o.item for o in kit if o.item.item == name]
    fitting = [i for i in named if _width_fits(i.width_mm, short_mm, schools)]
    return max(fitting, key=lambda i: i.width_mm or 0.0, default=None)


def _lanes(swab: KitItem | None, short_mm: float, schools: Schools) -> int:
    """Swabs for one pass; one of the matched width where none fits."""
    if swab is None or not swab.width_mm:
        return 1
    return swabs_for(short_mm, swab.width_mm, edges_by_face=schools.edges_by_face is True)


class KitLedger:
    """The kit from which things are laid aside; ``as_of`` is the day it is looked into."""

    def __init__(self, kit: Sequence[tuple[int, KitEntry]], schools: Schools, as_of: date) -> None:
        self.kit, self.schools, self.as_of = kit, schools, as_of
        self.stock = {kit_id: left(owned.item) for kit_id, owned in kit}

    @property
    def things(self) -> list[KitEntry]:
        """What it holds, without ids."""
        return [owned for _, owned in self.kit]

    def reserve(
        self, needs: Sequence[Need], day: date, job: str
    ) -> tuple[tuple[KitReady, ...], list[ToBuy]]:
        """Hold things back for a job on a day; gives what it needs and what is missing."""
        lines, missing = [], []
        for need in _together(needs, self.kit):
            fitting = [k for k in self.kit if _fits(k[1], need, self.schools, day)]
            there = _there(fitting, self.stock)
            short = max(0.0, need.amount - there)
            _reserve(fitting, self.stock, need)
            words = _need_words(need, fitting)
            lines.append(
                KitReady(
                    thing=words,
                    unit=need.unit,
                    needed=round(need.amount, 2),
                    there=None if math.isinf(there) else round(there, 2),
                    enough=short <= 1e-9,
                )
            )
            if short > 1e-9:
                missing.append(self._to_buy(need, short, day, job, words))
        return tuple(lines), missing

    def _to_buy(self, need: Need, short: float, day: date, job: str, words: str) -> ToBuy:
        """One line, with pack, price, source and lead time of the same thing in the kit, used up or
        out of date as it may be.
        """
        same = [
            o
            for o in self.things
            if o.item.item in need.names
            and _width_fits(o.item.width_mm, need.width_mm, self.schools)
        ]
        known = same[0] if same else None
        lead = known.lead_days if known and known.lead_days is not None else USUAL_LEAD_DAYS
        by = day - timedelta(days=lead + SPARE_DAYS)
        return ToBuy(
            thing=words,
            unit=need.unit,
            amount=round(short, 2),
            pack_size=known.pack_size if known else None,
            pack_price=known.pack_price if known else None,
            order_by=max(by, self.as_of).isoformat(),
            late=by < self.as_of,
            lead_days=lead,
            lead_assumed=known is None or known.lead_days is None,
            source=known.source if known else "",
            job=job,
        )


def _together(needs: Sequence[Need], kit: Sequence[tuple[int, KitEntry]]) -> list[Need]:
    """Needs that the same things meet, added up; what lasts is needed once."""
    chosen = [(kit_id, o.item.item, set(o.suits)) for kit_id, o in kit if o.suits is not None]
    groups: dict[tuple[object, ...], list[Need]] = {}
    for need in needs:
        suited = tuple(
            kit_id
            for kit_id, item, suits in chosen
            if item in need.names and need.body_ids[0] in suits
        )
        key = (need.names, need.width_mm and round(need.width_mm), suited)
        groups.setdefault(key, []).append(need)
    return [
        replace(
            group[0],
            amount=1 if group[0].lasting else sum(n.amount for n in group),
            body_ids=tuple(b for n in group for b in n.body_ids),
        )
        for group in groups.values()
    ]


def _fits(owned: KitEntry, need: Need, schools: Schools, on: date) -> bool:
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
    if width is None or too_wide(width, wanted):
        return False
    return matched(width, wanted) or schools.narrower_ok


def _there(fitting: Sequence[tuple[int, KitEntry]], stock: dict[int, float | None]) -> float:
    """How much is there; a thing that is owned and not counted is there in plenty."""
    if any(stock[kit_id] is None for kit_id, _ in fitting):
        return math.inf
    return sum(stock[kit_id] or 0.0 for kit_id, _ in fitting)


def _reserve(
    fitting: Sequence[tuple[int, KitEntry]], stock: dict[int, float | None], need: Need
) -> None:
    still = need.amount
    for kit_id, _ in fitting:
        there = stock[kit_id]
        if there is not None and not need.lasting:
            part = min(there, still)
            stock[kit_id] = there - part
            still -= part


def _need_words(need: Need, fitting: Sequence[tuple[int, KitEntry]]) -> str:
    if fitting and not need.lasting:
        return thing_words(fitting[0][1].item)
    words = " or ".join(NAMES[name] for name in need.names)
    return f"{words}, {length(need.width_mm)}" if need.width_mm else words


def merged(lines: Sequence[ToBuy]) -> tuple[ToBuy, ...]:
    """One line a thing: amounts added up, the earliest day kept."""
    by_thing: dict[str, ToBuy] = {}
    for line in lines:
        before = by_thing.get(line.thing)
        if before is None:
            by_thing[line.thing] = line
            continue
        amount = round(before.amount + line.amount, 2)
        by_thing[line.thing] = before.model_copy(update={"amount": amount})
    return tuple(sorted(by_thing.values(), key=lambda b: (b.order_by, b.thing)))
