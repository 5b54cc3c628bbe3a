"""What a step takes from the kit, and how the kit looks for one body."""

from __future__ import annotations

from datetime import date
from typing import Any

import pytest
from pydantic import ValidationError

from neatpatch.core.advice import advise
from neatpatch.core.common.facts import Facts, KitItem
from neatpatch.core.common.items import thing_words
from neatpatch.core.kit.stock import (
    KitEntry,
    KitFit,
    Take,
    Taking,
    chosen,
    for_body,
    left,
    shortage_question,
    taking,
    unit_price,
    with_left,
)
from neatpatch.core.visit.trail import StepUse

TODAY = date(2026, 11, 25)


def own(item: str, **about: Any) -> KitEntry:
    rest = {k: about.pop(k) for k in list(about) if k in KitEntry.model_fields}
    return KitEntry(item=KitItem.model_validate({"item": item, **about}), **rest)


KIT = [
    (1, own("wet_swab", width_mm=24, quantity=2)),
    (2, own("wet_swab", width_mm=16, quantity=1)),
    (3, own("gel_stick", fresh_patches=3)),
    (4, own("moist_wipe", quantity=5)),
    (5, own("fluid", kind="mild", quantity=10)),
    (6, own("bulb_blower")),
]


def took(step: Any, use: StepUse | None = None, short: float = 24, **changes: Any) -> Taking:
    about: dict[str, Any] = {"body_id": 1, "access": "mirrorless", "on": TODAY, **changes}
    kit = about.pop("kit", KIT)
    return taking(kit, step, use or StepUse(), KitFit(short_side_mm=short, **about))


def test_a_wet_step_takes_the_matched_swab_and_its_drops() -> None:
    assert took("wet_swab").takes == (Take(1, 1), Take(5, 0.1))
    assert took("wet_swab", short=15.6).takes[0] == Take(2, 1)
    assert took("wet_swab", StepUse(swabs=2, drops=5)).takes == (Take(1, 2), Take(5, 0.25))


def test_a_maker_s_own_number_of_drops_is_what_the_bottle_loses() -> None:
    kit = [(1, own("wet_swab", width_mm=24, quantity=2, drops=4)), KIT[4]]
    assert took("wet_swab", kit=kit).takes[1] == Take(5, 0.2)
    assert took("wet_swab", StepUse(drops=1), kit=kit).takes[1] == Take(5, 0.05)


def test_another_size_is_never_taken_in_silence() -> None:
    def two(wide: int, narrow: int) -> list[tuple[int, KitEntry]]:
        return [
            (1, own("wet_swab", width_mm=24, quantity=wide)),
            (2, own("wet_swab", width_mm=16, quantity=narrow)),
        ]

    kit = two(0, 5)
    asked = took("wet_swab", kit=kit)
    assert asked.takes == ()
    assert (asked.short[0].kit_id, asked.short[0].left) == (1, 0)
    assert took("wet_swab", StepUse(swabs=2), kit=kit, narrower_ok=True).takes == (Take(2, 2),)
    for allowed in (False, True):
        found = took("wet_swab", kit=two(5, 0), short=15.6, narrower_ok=allowed)
        assert [s.kit_id for s in found.short] == [2]


def test_a_digital_back_takes_its_wipe() -> None:
    assert took("wet_swab", access="digital_back").takes == (Take(4, 1),)


def test_steps_without_things_and_things_not_counted_take_nothing() -> None:
    assert took("air") == Taking()
    assert took("dry_swab") == Taking()
    assert took("lift", StepUse(dabs=2), kit=[(3, own("gel_stick"))]) == Taking()


def test_a_count_that_does_not_reach_is_told() -> None:
    found = took("lift", StepUse(dabs=7))
    assert found.takes == (Take(3, 3),)
    assert (found.short[0].wanted, found.short[0].left) == (7, 3)
    assert "gel stick: 3 counted, 7 used" in shortage_question(found.short)
    spread = [
        (1, own("dry_swab", width_mm=24, quantity=1)),
        (2, own("dry_swab", width_mm=24, quantity=4)),
    ]
    two = took("dry_swab", StepUse(swabs=3), kit=spread)
    assert two == Taking(takes=(Take(1, 1), Take(2, 2)))


def test_what_expires_first_goes_first_and_what_is_past_stays() -> None:
    kit = [
        (1, own("dry_swab", width_mm=24, quantity=4, best_before="2028-01-01")),
        (2, own("dry_swab", width_mm=24, quantity=4, best_before="2027-01-01")),
        (3, own("dry_swab", width_mm=24, quantity=4, best_before="2026-01-01")),
        (4, own("dry_swab", width_mm=24, quantity=4, suits=(9,), best_before="2026-12-01")),
    ]
    assert took("dry_swab", kit=kit).takes == (Take(2, 1),)
    assert took("dry_swab", kit=kit, body_id=9).takes == (Take(4, 1),)


def test_named_things_are_taken_as_named() -> None:
    found = chosen(KIT, [Take(2, 2), Take(6, 1), Take(77, 1), Take(1, 0)])
    assert found.takes == (Take(2, 1),)
    assert [s.kit_id for s in found.short] == [2]


def test_the_kit_as_seen_for_one_body() -> None:
    kit = [
        own("gel_stick", fresh_patches=5, suits=(1,)),
        own("fluid", kind="mild", quantity=0.4, suits=(2,)),
        own("dry_swab", quantity=3, best_before="2026-11-24"),
    ]
    stick, fluid, swab = for_body(kit, 1, TODAY)
    assert (stick.matched_coating, fluid.suits_body, swab.expired) == (True, False, True)
    assert fluid.quantity == 0.4
    assert swab.best_before == date(2026, 11, 24)
    assert for_body(kit, 2, TODAY)[0].matched_coating is False
    assert for_body(kit, 2, date(2026, 11, 24))[2].expired is None


def test_a_fluid_of_another_body_is_barred_by_name() -> None:
    fluid = KitItem(item="fluid", kind="mild", suits_body=False)
    barred = advise(Facts(kit=(fluid,))).barred
    assert "fluid:mild" in {b.action for b in barred}


def test_prices_counts_and_words() -> None:
    assert unit_price(own("dry_swab", pack_size=12, pack_price=24)) == 2
    assert unit_price(own("dry_swab", pack_price=24)) is None
    assert left(with_left(KitItem(item="gel_stick"), 4.0)) == 4
    assert left(KitItem(item="loupe")) is None
    assert thing_words(KitItem(item="fluid", kind="oil_dissolving")) == "oil-dissolving fluid"
    assert thing_words(KitItem(item="wet_swab", width_mm=24)) == "wet swab, 24 mm"


@pytest.mark.parametrize(
    ("bad", "words"),
    [
        ({"lead_days": -3}, "cannot lie in the past"),
        ({"pack_price": -1}, "below zero"),
        ({"best_before": "2026-02-31"}, "no such day; give year-month-day"),
    ],
)
def test_bad_entries_get_one_clear_sentence(bad: dict[str, Any], words: str) -> None:
    with pytest.raises(ValidationError, match=words):
        own("dry_swab", **bad)
