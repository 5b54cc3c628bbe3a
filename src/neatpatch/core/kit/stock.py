"""The kit as its owner keeps it: counts, packs, prices, dates, and what a step takes from it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

from pydantic import Field, field_validator

from neatpatch.core.common.facts import Access, Item, KitItem, Step
from neatpatch.core.common.items import thing_words
from neatpatch.core.common.records import Day, Given, Number, Record, RowId, Whole
from neatpatch.core.plans.swab import DROP_ML, PLAN_TOOLS, Tool, drops_of, too_wide
from neatpatch.core.visit.trail import StepUse

Unit = Literal["piece", "patch", "ml"]
UNITS: dict[Item, Unit] = {
    "dry_swab": "piece",
    "wet_swab": "piece",
    "corner_swab": "piece",
    "sterile_pad": "piece",
    "moist_wipe": "piece",
    "lens_wipe": "piece",
    "lint_free_bud": "piece",
    "cloth_wand": "piece",
    "gel_stick": "patch",
    "silicone_pad": "patch",
    "fluid": "ml",
}
"""What is used up, and what it is counted in; all else lasts."""


class KitEntry(Given):
    """One kit item. ``suits``: ids of the bodies it may be used on; None for all.

    ``pack_size``: pieces, patches or millilitres in a pack; ``pack_price`` in the owner's currency.
    ``lead_days``: from order to delivery.
    """

    item: KitItem
    note: str = Field(default="", max_length=200)
    source: str = Field(default="", max_length=120)
    pack_size: Number | None = Field(default=None, le=100_000, json_schema_extra={"minimum": 0})
    pack_price: Number | None = Field(default=None, le=1_000_000, json_schema_extra={"minimum": 0})
    opened_on: Day | None = None
    best_before: Day | None = None
    lead_days: Whole | None = Field(default=None, le=365, json_schema_extra={"minimum": 0})
    suits: tuple[RowId, ...] | None = Field(default=None, max_length=5000)

    @field_validator("lead_days")
    @classmethod
    def _lead_is_ahead(cls, value: int | None) -> int | None:
        if value is not None and value < 0:
            raise ValueError("a lead time cannot lie in the past; give 0 days or more")
        return value

    @field_validator("pack_size", "pack_price")
    @classmethod
    def _not_negative(cls, value: float | None) -> float | None:
        if value is not None and value < 0:
            raise ValueError("it cannot be below zero; give 0 or more, or leave it out")
        return value


@dataclass(frozen=True)
class Take:
    """So much of one kit item, by its id."""

    kit_id: int
    amount: float


class Shortage(Record):
    """A step takes more than is counted."""

    kit_id: int
    thing: str
    wanted: float
    left: float


class Taking(Record):
    """What a step takes, and where the count does not reach."""

    takes: tuple[Take, ...] = ()
    short: tuple[Shortage, ...] = ()


def left(item: KitItem) -> float | None:
    """What is left, in its own unit; None where it is not counted."""
    unit = UNITS.get(item.item)
    if unit is None:
        return None
    return item.fresh_patches if unit == "patch" else item.quantity


def with_left(item: KitItem, amount: float | None) -> KitItem:
    """The thing with another count."""
    if UNITS.get(item.item) == "patch":
        patches = None if amount is None else round(amount)
        return item.model_copy(update={"fresh_patches": patches})
    return item.model_copy(update={"quantity": amount})


def unit_price(owned: KitEntry) -> float | None:
    """Price of one piece, patch or millilitre; None while price or pack are not given."""
    if owned.pack_price is None or not owned.pack_size:
        return None
    return owned.pack_price / owned.pack_size


def expired(owned: KitEntry, on: date) -> bool:
    """Whether its best-before day has passed."""
    return owned.best_before is not None and owned.best_before < on


def for_body(kit: Sequence[KitEntry], body_id: int, on: date) -> list[KitItem]:
    """The kit as the judgement sees it for one body on one day.

    A stick that was entered for certain bodies is matched to these alone, and a fluid suits these
    alone; what is past its day is expired.
    """
    seen = []
    for owned in kit:
        changes: dict[str, object] = {}
        if expired(owned, on):
            changes |= {"expired": True, "best_before": owned.best_before}
        if owned.suits is not None and owned.item.item == "gel_stick":
            changes["matched_coating"] = body_id in owned.suits
        if owned.suits is not None and owned.item.item == "fluid":
            changes["suits_body"] = body_id in owned.suits
        seen.append(owned.item.model_copy(update=changes) if changes else owned.item)
    return seen


@dataclass(frozen=True, kw_only=True)
class KitFit:
    """What things must fit: the body, its sensor's short side, the day.

    ``narrower_ok``: swabs narrower than the sensor will do, too. ``fluid``: the kind that was used.
    """

    body_id: int
    short_side_mm: float
    on: date
    access: Access = "mirrorless"
    narrower_ok: bool = False
    fluid: str | None = None


def taking(kit: Sequence[tuple[int, KitEntry]], step: Step, use: StepUse, fit: KitFit) -> Taking:
    """What a step takes from the kit, by ids, and where the count does not reach.

    Of several that would do: those that suit the body and are in date, the width by `width_order`,
    then the one that expires first. So a matched swab that is used up is asked about, and another
    size is never taken in its place unless the school allows it. Things that are not counted, and
    steps whose tools are not in the kit at all, take nothing.
    """
    takes: list[Take] = []
    short: list[Shortage] = []
    for names, amount in _wants(step, use, fit, kit):
        fitting = preferred(kit, names, fit)
        if not fitting or amount <= 0:
            continue
        still = amount
        for kit_id, owned in _same_kind(fitting):
            part = min(still, left(owned.item) or 0)
            if part > 0:
                takes.append(Take(kit_id, part))
                still -= part
        if still > 1e-9:
            first = fitting[0]
            short.append(
                Shortage(
                    kit_id=first[0],
                    thing=thing_words(first[1].item),
                    wanted=amount,
                    left=amount - still,
                )
            )
    return Taking(takes=tuple(takes), short=tuple(short))


def preferred(
    kit: Sequence[tuple[int, KitEntry]], names: Sequence[Item], fit: KitFit
) -> list[tuple[int, KitEntry]]:
    """Counted things of these names that suit a body and are in date, the best one first."""
    fitting = [k for k in kit if _may_take(k[1], names, fit)]
    return sorted(fitting, key=lambda k: _preference(k[1], names, fit))


def _wants(
    step: Step, use: StepUse, fit: KitFit, kit: Sequence[tuple[int, KitEntry]]
) -> Iterator[tuple[tuple[Item, ...], float]]:
    """Names of what a step uses up, the first one preferred, and how much of it."""
    swabs = 1.0 if use.swabs is None else float(use.swabs)
    if step in ("dry_swab", "dry_followup"):
        yield (use.item or "dry_swab",), swabs
    elif step == "wet_swab":
        wiped = fit.access == "digital_back" and any(o.item.item == "moist_wipe" for _, o in kit)
        tool = use.item or ("moist_wipe" if wiped else "wet_swab")
        yield (tool,), swabs
        if tool != "moist_wipe":
            drops = _drops(use, PLAN_TOOLS.get(tool, "swab"), preferred(kit, (tool,), fit))
            yield ("fluid",), drops * DROP_ML
    elif step == "corner_swab":
        yield ("corner_swab",), swabs
        drops = _drops(use, "corner_swab", preferred(kit, ("corner_swab",), fit))
        yield ("fluid",), drops * DROP_ML
    elif step == "clean_lens":
        yield ("lens_wipe",), 1.0
    elif step == "lift":
        yield ("gel_stick", "silicone_pad"), 1.0 if use.dabs is None else float(use.dabs)


def _drops(use: StepUse, tool: Tool, fitting: Sequence[tuple[int, KitEntry]]) -> float:
    """Drops counted, else the maker's own number for the tool taken, else as many as are usual."""
    if use.drops is not None:
        return use.drops
    return float(drops_of(tool, fitting[0][1].item.drops if fitting else None))


def _may_take(owned: KitEntry, names: Sequence[Item], fit: KitFit) -> bool:
    return (
        owned.item.item in names
        and left(owned.item) is not None
        and owned.item.for_sensor is not False
        and (owned.suits is None or fit.body_id in owned.suits)
        and not expired(owned, fit.on)
    )


def width_order(item: KitItem, short_side_mm: float, narrower_ok: bool) -> tuple[object, ...]:
    """Sorts tools by how well they go over a sensor: never too wide, then the nearest width.

    Where narrower ones are allowed, what is there goes before what is used up.
    """
    width = item.width_mm or short_side_mm
    stuck = too_wide(width, short_side_mm)
    off, gone = abs(width - short_side_mm), left(item) == 0
    return (stuck, gone, off) if narrower_ok else (stuck, off, gone)


def _preference(owned: KitEntry, names: Sequence[Item], fit: KitFit) -> tuple[object, ...]:
    item = owned.item
    other = item.item == "fluid" and fit.fluid is not None and item.kind != fit.fluid
    return (
        other,
        *width_order(item, fit.short_side_mm, fit.narrower_ok),
        names.index(item.item),
        item.kit_own is not True,
        owned.best_before or date.max,
    )


def _same_kind(fitting: Sequence[tuple[int, KitEntry]]) -> list[tuple[int, KitEntry]]:
    """The preferred thing, and further packs of the same."""
    first = fitting[0][1].item
    same = (first.item, first.width_mm, first.kind)
    return [k for k in fitting if (k[1].item.item, k[1].item.width_mm, k[1].item.kind) == same]


def chosen(kit: Sequence[tuple[int, KitEntry]], wanted: Sequence[Take]) -> Taking:
    """The things that were named, and where their count does not reach. Unknown ids are ignored."""
    by_id = dict(kit)
    takes, short = [], []
    for one in wanted:
        owned = by_id.get(one.kit_id)
        there = left(owned.item) if owned else None
        if owned is None or there is None or one.amount <= 0:
            continue
        if there > 0:
            takes.append(Take(one.kit_id, min(there, one.amount)))
        if one.amount > there + 1e-9:
            short.append(
                Shortage(
                    kit_id=one.kit_id, thing=thing_words(owned.item), wanted=one.amount, left=there
                )
            )
    return Taking(takes=tuple(takes), short=tuple(short))


def shortage_question(short: Sequence[Shortage]) -> str:
    """What to ask when the count does not reach."""
    parts = [f"{s.thing}: {s.left:g} counted, {s.wanted:g} used" for s in short]
    return (
        f"The kit counts fewer than this step took ({'; '.join(parts)}). "
        "Was there more than counted?"
    )
